package e2e

import (
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cellsOf takes a list of cells apart, in which 20x stands before a cell that is repeated.
func cellsOf(list string) (cells []string) {
	for cell := range strings.SplitSeq(list, "|") {
		times := 1
		if before, rest, ok := strings.Cut(cell, "x "); ok {
			if n, err := strconv.Atoi(before); err == nil {
				times, cell = n, rest
			}
		}
		for range times {
			cells = append(cells, cell)
		}
	}
	return cells
}

// Each line of testdata/columns.txt is a column as a file of its own, beside one that numbers the rows.
func TestColumns(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("testdata/columns.txt")
	require.NoError(t, err)
	for line := range strings.Lines(string(text)) {
		line = strings.TrimSuffix(line, "\n")
		if line == "" || line[0] == '#' {
			continue
		}
		t.Run(line, func(t *testing.T) {
			t.Parallel()
			list, want, ok := strings.Cut(line, " => ")
			require.True(t, ok)
			typ, values, converted := strings.Cut(want, ": ")
			cells := cellsOf(list)
			f := newFolder(t)
			var b strings.Builder
			b.WriteString("row;c\n")
			for i, cell := range cells {
				b.WriteString(strconv.Itoa(i+1) + ";" + cell + "\n")
			}
			f.file("in.csv", b.String())
			r := f.run("convert", "in.csv", "-o", "out.csv")
			require.LessOrEqual(t, r.code, 1, r.err)
			assert.Contains(t, f.read("out.plan.yaml"), "\n    to: "+typ+"\n", list)
			if !converted {
				assert.Equal(t, 0, r.code)
				return
			}
			got := make([]string, len(cells))
			for i, row := range f.records("out.csv")[1:] {
				got[i] = row[1]
			}
			var failures [][]string
			if r.code == 1 {
				failures = f.records("out.failures.csv")[1:]
			}
			for _, failure := range failures {
				row, err := strconv.Atoi(failure[0])
				require.NoError(t, err)
				got[row-1] = "!" + failure[5]
			}
			assert.Equal(t, cellsOf(values), got)
		})
	}
}
