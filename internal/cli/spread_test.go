package cli

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestFlagsOf(t *testing.T) {
	for _, c := range [][2]string{
		{"profile a.csv b.csv", "profile"},
		{"profile --format json a.csv --column=kg", "profile --format json --column=kg"},
		{"profile a.csv --column kg --no-header b.csv", "profile --column kg --no-header"},
		{"convert in.csv -o out.csv --origin", "convert -o out.csv --origin"},
		{"convert in.csv -oout.csv --workers 2", "convert -oout.csv --workers 2"},
		{"--workers 2 profile in.csv", "--workers 2 profile"},
		{"profile --private kg -- -odd.csv", "profile --private kg"},
		{"profile - --blank-word n/a", "profile --blank-word n/a"},
		{"convert", "convert"},
	} {
		assert.Equal(t, c[1], strings.Join(FlagsOf(strings.Fields(c[0])), " "), c[0])
	}
}
