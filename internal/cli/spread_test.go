package cli

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestParted(t *testing.T) {
	for _, c := range [][3]string{
		{"profile a.csv b.csv", "profile", "a.csv b.csv"},
		{"profile --format json a.csv --column=kg", "profile --format json --column=kg", "a.csv"},
		{"profile a.csv --column kg --no-header b.csv", "profile --column kg --no-header", "a.csv b.csv"},
		{"convert in.csv -o out.csv --origin", "convert -o out.csv --origin", "in.csv"},
		{"convert in.csv -oout.csv --workers 2", "convert -oout.csv --workers 2", "in.csv"},
		{"--workers 2 profile in.csv", "--workers 2 profile", "in.csv"},
		{"profile --private kg -- -odd.csv", "profile --private kg", "-odd.csv"},
		{"profile - --blank-word n/a", "profile --blank-word n/a", "-"},
		{"convert", "convert", ""},
	} {
		flags, sources := Parted(strings.Fields(c[0]))
		assert.Equal(t, c[1], strings.Join(flags, " "), c[0])
		assert.Equal(t, c[2], strings.Join(sources, " "), c[0])
	}
}
