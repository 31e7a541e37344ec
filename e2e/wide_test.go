package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// wide is a table of so many columns that its header line is longer than what is looked at of a file
// first; a third of the columns have the name of another.
func wide(columns int) string {
	var b strings.Builder
	for row := range 4 {
		for c := range columns {
			if c > 0 {
				b.WriteByte(',')
			}
			switch {
			case row == 0 && c%3 == 0:
				b.WriteString("landed weight")
			case row == 0:
				fmt.Fprintf(&b, "landed weight of crate %d", c)
			default:
				fmt.Fprintf(&b, "%d", c*10+row)
			}
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// A table of many columns is read whole, by every command, and a plan for it is read back.
func TestManyColumns(t *testing.T) {
	t.Parallel()
	columns := nets.Size(4000, 12_000)
	f := newFolder(t)
	text := wide(columns)
	f.file("a.csv", text)
	r := f.run("profile", "a.csv", "--format", "json")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, columns, strings.Count(r.out, `"name": "landed weight`))
	r = f.run("convert", "a.csv", "-o", "o.csv")
	require.Equal(t, 0, r.code, r.err)
	_, want, _ := strings.Cut(text, "\n")
	header, got, _ := strings.Cut(f.read("o.csv"), "\n")
	assert.True(t, want == got, "the cells of a wide table")
	assert.Equal(t, columns, strings.Count(header, ",")+1)
	assert.Contains(t, header, fmt.Sprintf("landed weight (%d)", columns/3))
	r = f.run("check", "a.csv", "--plan", "o.plan.yaml")
	assert.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "0 cells failed, drift in 0 points")
}
