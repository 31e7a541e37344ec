package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Names that nobody could tell apart, or could not see, are made usable, and that is said;
// the heading is known again where it is repeated.
func TestNamesOfColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	const heading = " ,id, id ,id (2),\"net\u00a0\", kg\n"
	f.file("in.csv", heading+strings.Repeat("1,2,3,4,5,6\n", 3)+heading+strings.Repeat("1,2,3,4,5,7\n", 3)+" ,id,id,id (2),net,kg\n")
	p := profileOf(t, f, "in.csv")
	var names []string
	for _, c := range p.Columns {
		names = append(names, c.Name)
	}
	assert.Equal(t, []string{"column 1", "id", "id (2)", "id (2) (2)", "net", "kg"}, names)
	out := f.run("profile", "in.csv").out
	for _, say := range []string{
		"spaced-names       spaces around the names of 3 columns are left out: id, net, kg",
		"duplicate-names    2 columns have the name of another and got a number: id, id (2)",
		"blank-names        1 columns have no name and are called column 1",
		"repeated-headings  2 rows are set aside",
	} {
		assert.Contains(t, out, say)
	}
	assert.Zero(t, f.run("convert", "in.csv", "-o", "out.csv").code)
	assert.Equal(t, "column 1,id,id (2),id (2) (2),net,kg", strings.SplitN(f.read("out.csv"), "\n", 2)[0])

	// Of several files, columns go together by their names without the spaces.
	f.file("a.csv", "no,kg\n1,2\n")
	f.file("b.csv", "no , kg\n3,4\n")
	assert.Equal(t, 2, profileOf(t, f, "a.csv", "b.csv").Source.Rows)
	// One that begins with nothing is still told from data.
	f.file("c.csv", ",kg,name,port\n1,2,x,y\n,kg,name,port\n3,4,x,y\n")
	assert.Contains(t, f.run("profile", "c.csv").out, "repeated-headings  1 row is set aside")
}

// Tables that are drawn with dashes and bars, as terminals and wikis show them, are read
// without the drawing.
func TestDrawnTables(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	rule, rows := "+----+-------+------+\n", ""
	for i := range 9 {
		rows += strings.Repeat(" ", i%2) + "|  " + string(rune('1'+i)) + " | item  | 2.5  |\n"
	}
	f.file("grid.txt", rule+"| id | name  | kg   |\n"+rule+rows+rule)
	f.file("wiki.md", "| id | name | kg |\n|---:|:-----|----|\n"+strings.ReplaceAll(rows, " |  ", "|  "))
	f.file("list.txt", " id | name | kg\n----+------+----\n"+strings.Repeat("  1 | item | 2.5\n", 9)+"(9 rows)\n")
	for _, name := range []string{"grid.txt", "wiki.md", "list.txt"} {
		r := f.run("convert", name, "-o", name+".csv")
		assert.Zero(t, r.code, r.err+r.out)
		out := f.read(name + ".csv") // the spaces of texts are kept, as profile tells
		assert.Contains(t, strings.SplitN(out, "\n", 2)[0], "id,name,kg", name)
		assert.Contains(t, strings.ReplaceAll(out, " ", ""), "1,item,2.5", name)
		assert.Equal(t, 10, strings.Count(out, "\n"), name)
		assert.Contains(t, f.read(name+".setaside.csv"), "rule-row", name)
	}
	assert.Contains(t, f.read("list.txt.setaside.csv"), "footer,(9 rows)")
}
