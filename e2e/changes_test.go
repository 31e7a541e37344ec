package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Small changes of the program that no test noticed once, each with the test that would have.

// Several files are one table for cells that are filled from above.
func TestFillGoesOnInTheNextFile(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "quay;n\nNorth;1\n;2\n")
	f.file("b.csv", "quay;n\n;3\nSouth;4\n;5\n")
	f.file("p.yaml", "plan: 1\ncolumns: {quay: {steps: [{fill: {from: above}}]}, n: {to: integer}}\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "b.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	assert.Equal(t, "quay,n\nNorth,1\nNorth,2\nNorth,3\nSouth,4\nSouth,5\n", f.read("o.csv"))
	require.Equal(t, 0, f.run("convert", "b.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	assert.Equal(t, "quay,n\n,3\nSouth,4\nSouth,5\n", f.read("o.csv"))
}

// Rows that are set aside, for whatever reason, do not count for what must be unique.
func TestRowsSetAsideAreNotRepeats(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no;kg;x\n1;bad;a\n1;2;b\nno;kg;x\n1;3;left\n2;4;c\n1;5;d\n")
	f.file("p.yaml", "plan: 1\nrows: {set-aside: [repeated-headings], drop: \"x == 'left'\"}\ncolumns: {no: {to: integer, must: {unique: true}}, kg: {to: integer, on-failure: set-aside-row}, x: {}}\n")
	require.Equal(t, 1, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	assert.Equal(t, "no,kg,x\n1,2,b\n2,4,c\n,5,d\n", f.read("o.csv"))
	rows := f.records("o.failures.csv")
	require.Len(t, rows, 3)
	assert.Equal(t, []string{"1", "kg"}, []string{rows[1][0], rows[1][2]})
	assert.Equal(t, []string{"6", "no", "not-unique"}, []string{rows[2][0], rows[2][2], rows[2][5]})
}

// A failure that makes a condition leave its row out is told, and stands in the ledger; so in one
// ledger of several.
func TestFailuresOfRowsLeftOutAreTold(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for _, name := range []string{"a.csv", "b.csv"} {
		f.file(name, "n;t\n1;a\nx;b\n3;c\ny;d\n")
	}
	f.file("p.yaml", "plan: 1\nrows: {keep: \"n > 0\"}\ncolumns: {n: {to: integer}, t: {}}\n")
	r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv", "--ledger", "l.json")
	require.Equal(t, 1, r.code)
	assert.Len(t, f.records("o.failures.csv"), 3)
	assert.Contains(t, f.read("l.json"), `"failed_cells_set_aside": 2`)
	r = f.run("convert", "a.csv", "b.csv", "--plan", "p.yaml", "-o", "out/", "--ledger", "m.json")
	require.Equal(t, 1, r.code, r.err)
	assert.Contains(t, f.read("m.json"), `"failed_cells_set_aside": 4`)
	assert.Contains(t, r.out, "rows: 8 in = 4 out + 4 set aside (4 left-out-rows)")
}

// A stray quote and a line break do not go together in a cell: the quote was never closed.
func TestAStrayQuoteEndsNoLine(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a,b\n\"5\" pipe,1\nx,2\ny\",3\n\"two\nlines\",4\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "o.csv").code)
	assert.Equal(t, [][]string{{"a", "b"}, {"\"5\" pipe", "1"}, {"x", "2"}, {"y\"", "3"}, {"two\nlines", "4"}}, f.records("o.csv"))
}

// A row that fills just half of the columns is a title, one that fills more is the header.
func TestAHeaderFillsMoreThanHalf(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	body := strings.Repeat("1,2,3,4\n", 5)
	f.file("a.csv", "Report,May,,\nno,kg,day,\n"+body)
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "o.csv").code)
	assert.Equal(t, []string{"no", "kg", "day", "column 4"}, f.records("o.csv")[0])
}

// A private cell is not shown by way of its raw text either.
func TestRawCellsOfPrivateColumnsStayPrivate(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "skipper;n\nPetersen;1\nHansen;x\n")
	f.file("p.yaml", "plan: 1\ncolumns: {skipper: {private: true}, n: {to: integer}, greeting: {compute: 'raw(\"skipper\") + \"!\"', must: {longest: 3}}, sum: {compute: 'number(raw(\"skipper\"))'}}\n")
	for _, args := range [][]string{
		{"convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv"},
		{"preview", "a.csv", "--plan", "p.yaml"},
		{"check", "a.csv", "--plan", "p.yaml"},
		{"why", "a.csv", "--plan", "p.yaml", "--row", "1", "--column", "greeting"},
		{"why", "a.csv", "--plan", "p.yaml", "--row", "2", "--column", "sum"},
		{"preview", "a.csv", "--plan", "p.yaml", "--format", "json"},
	} {
		r := f.run(args...)
		require.LessOrEqual(t, r.code, 1, "%v: %s", args, r.err)
		for _, private := range []string{"Petersen", "Hansen"} {
			assert.NotContains(t, r.out+r.err, private, args)
		}
	}
	list := f.read("o.failures.csv")
	assert.Contains(t, list, "not-computed")
	assert.NotContains(t, list, "Petersen")
	assert.NotContains(t, list, "Hansen")
}
