package e2e

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const openConditions = "Ref,D,n\nA,2025-06-02,1\n\"1,300\",2025-06-03,0\n7,2025-07-01,5\n12,2025-01-01,\n"

// A row for which a condition can't be worked out is set aside and counted, and the exit code says so; a constant that can't be
// is a mistake before any row is read.
func TestConditionsThatCannotBeWorkedOut(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", openConditions)
	for args, want := range map[string]string{
		"convert a.csv -o o.csv --as Ref=text --keep-if number(Ref)>8":          "Ref,D,n\n12,2025-01-01,\n",
		"convert a.csv -o o.csv --as Ref=text --drop-if number(Ref)>8":          "Ref,D,n\n7,2025-07-01,5\n",
		"convert a.csv -o o.csv --as Ref=text --keep-if 10/n>=2":                "Ref,D,n\nA,2025-06-02,1\n7,2025-07-01,5\n",
		"convert a.csv -o o.csv --as Ref=text --drop-if 10/n>=2":                "Ref,D,n\n12,2025-01-01,\n",
		"convert a.csv -o o.csv --keep-if n>0 --drop-if number(raw(\"Ref\"))>5": "Ref,D,n\n",
	} {
		require.NoError(t, os.RemoveAll(f.path("o.csv")))
		r := f.run(strings.Fields(args)...)
		assert.Equal(t, 1, r.code, args)
		assert.Equal(t, want, f.read("o.csv"), args)
		assert.Regexp(t, `set aside \(.*[123] unclear-row`, r.out, args)
		assert.Regexp(t, `unclear-rows: (keep|drop): .* can't be worked out\s+for some rows, such as row [12] \(line [23]\): no value`, strings.Join(strings.Fields(r.out), " "), args)
		assert.Contains(t, f.read("o.setaside.csv"), ",unclear-row,", args)
	}
	for _, args := range []string{
		"convert a.csv -o o.csv --keep-if D>date(\"01.06.2025\")", "preview a.csv --where D>date(\"01.06.2025\")",
		"totals a.csv --sum n --keep-if D>date(\"01.06.2025\")", "convert a.csv -o o.csv --drop-if n>1/0", "convert a.csv -o o.csv --compute x=number(\"1,5\")",
	} {
		r := f.run(strings.Fields(args)...)
		assert.Equal(t, 2, r.code, args)
		assert.Contains(t, r.err, "this has no value", args)
	}
	r := f.run("preview", "a.csv", "--as", "Ref=text", "--where", "number(Ref) > 8")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.err, "--where can't be worked out for 2 rows, such as row 1, and they are not shown: no value: \"A\" is no number")
	f.file("p.yaml", "plan: 1\nrows: {keep: \"number(Ref) > 8\"}\ncolumns: {Ref: {}, D: {to: date}, n: {to: integer}}\n")
	r = f.run("check", "a.csv", "--plan", "p.yaml")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.out+r.err, "unclear-rows")
	r = f.run("why", "a.csv", "--plan", "p.yaml", "--row", "2", "--column", "n")
	assert.Contains(t, r.out, "can't be worked out")
	r = f.run("totals", "a.csv", "--sum", "n", "--as", "Ref=text", "--keep-if", "number(Ref) > 8")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.out+r.err, "unclear-rows")
	f.file("p.yaml", "plan: 1\nrows: {keep: \"number(Ref) > 8\"}\ncolumns: {Ref: {private: true}, D: {to: date}, n: {to: integer}}\n")
	r = f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "q.csv")
	require.Equal(t, 1, r.code)
	assert.NotContains(t, r.err, "1,300")
	assert.NotContains(t, r.err, `"A"`)
}

// Mistakes that passed in silence, or with words that said nothing.
func TestMistakesAreNamed(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "kg,port\nbad,A\n"+strings.Repeat("2,B\n", 12))
	r := f.run("convert", "a.csv", "--keep-if", "kg > 100", "-o", "o.csv")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.out, "0 out + 13 set aside")
	assert.Empty(t, r.err)
	r = f.run("convert", "a.csv", "--keep-if", "kg > 100", "-o", "o.csv", "--fail-over", "10%")
	assert.Contains(t, r.err, "1 of 1 cells failed, more than 10%")
	f.file("p.yaml", "plan: 1\ncolumns: {kg: {to: integer, must: {between: [5, 1]}}, port: {}}\n")
	for args, say := range map[string]string{
		"convert a.csv -o o.csv --failures -":    "--failures is the name of a file",
		"convert a.csv -o o.csv --set-aside -":   "--set-aside is the name of a file",
		"convert a.csv -o o.csv --compute x:=kg": "with no colon: 'x = kg'",
		"convert a.csv -o o.csv --plan p.yaml":   "no value is between 5 and 1",
		"totals a.csv --by port:=kg":             "with no colon",
	} {
		r := f.run(strings.Fields(args)...)
		assert.Equal(t, 2, r.code, args)
		assert.Contains(t, r.err, say, args)
	}
}

// Names are found however their accents are composed.
func TestNamesThatAreComposedOtherwise(t *testing.T) {
	t.Parallel()
	const composed, apart = "Gr\u00f6\u00dfe,caf\u00e9\n1,2\n", "Gro\u0308\u00dfe,cafe\u0301\n1,2\n"
	for _, text := range []string{composed, apart} {
		f := newFolder(t)
		f.file("a.csv", composed)
		require.Equal(t, 0, f.run("convert", "a.csv", "-o", "a.out.csv").code)
		f.file("b.csv", text)
		r := f.run("convert", "b.csv", "--plan", "a.out.plan.yaml", "-o", "b.out.csv")
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, composed, f.read("b.out.csv"))
		r = f.run("convert", "b.csv", "--as", "Gr\u00f6\u00dfe=text", "--compute", "a = `cafe\u0301` * 2 + `caf\u00e9`", "--only", "a", "-o", "c.csv")
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, "a\n6\n", f.read("c.csv"))
	}
}

// What profile has written as JSON, --against reads: of every source of the demo.
func TestProfilesAreReadBack(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	read := 0
	entries, err := os.ReadDir(f.path("d"))
	require.NoError(t, err)
	for _, e := range entries {
		name := e.Name()
		r := f.run("profile", "d/"+name, "--format", "json")
		if r.code != 0 {
			continue
		}
		f.file("own.json", r.out)
		again := f.run("profile", "d/"+name, "--against", "own.json")
		assert.Equal(t, 0, again.code, "%s: %s", name, again.err)
		assert.Contains(t, again.out, "0 changes since own.json", name)
		read++
	}
	assert.Greater(t, read, 3)
}

// A blank is equal to no value, whatever has made it, and hides nothing that can't be worked out; a row that a condition
// leaves out since a cell has failed says so, if the condition uses it by way of another column only.
func TestBlanksHideNothing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "p,q,n,m,note\nA,x,4,2,\n,x,1,0,\nB,,bad,1,ok\nB,x,6,3,ok\nB,x,6,3,ok\n")
	run := func(args ...string) result {
		return f.run(append([]string{"convert", "a.csv", "-o", "o.csv", "--as", "n=integer", "--as", "p=text"}, args...)...)
	}
	out := func(column string) (cells []string) {
		rows := f.records("o.csv")
		for _, row := range rows[1:] {
			cells = append(cells, row[slices.Index(rows[0], column)])
		}
		return cells
	}
	require.Equal(t, 0, run("--keep-if", `p != "A"`, "--only", "q").code)
	want := out("q")
	require.Equal(t, 0, run("--keep-if", `p + "" != "A"`, "--only", "q").code)
	assert.Equal(t, want, out("q"), "of a computed blank the same holds as of a blank cell")
	assert.Len(t, want, 4)
	require.Equal(t, 1, run("--compute", `share = note == "ok" ? n / m : n / m * 2`).code)
	assert.Equal(t, []string{"4", "", "", "2", "2"}, out("share"))
	failures := f.read("o.failures.csv")
	assert.Contains(t, failures, "2,3,share,", "division by zero, though the note is blank")
	require.Equal(t, 1, run("--compute", "twice = n * 2", "--keep-if", "twice > 4").code)
	assert.Equal(t, []string{"8", "12", "12"}, out("twice"))
	assert.Contains(t, f.read("o.failures.csv"), "3,4,n,bad,")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "o.csv", "--only", "s", "--compute", "s = sum(m, 0.50)").code)
	f.file("p.yaml", "plan: 1\ncolumns:\n  p: {from: note, steps: [{replace: {text: ok, with: \" \"}}, {pad: {width: 4, with: x}}], to: text}\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	assert.Equal(t, []string{"", "", "", "", ""}, out("p"), "what leaves only spaces has left nothing")
}

// Columns that are made of the two before them are told apart in time that grows with their number, and not with the ways
// from one to another.
func TestConditionOnColumnsOfColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a\n1\nx\n2\n")
	args := []string{"convert", "a.csv", "-o", "out.csv", "--only", "c60", "--as", "a=integer", "--compute", "c1 = a", "--compute", "c2 = a", "--keep-if", "c60 > 1"}
	for i := 3; i <= 60; i++ {
		args = append(args, "--compute", fmt.Sprintf("c%d = c%d * 0 + c%d", i, i-2, i-1))
	}
	got := f.run(args...)
	require.Equal(t, 1, got.code, got.err)
	require.Equal(t, "c60\n2\n", f.read("out.csv"))
	require.Contains(t, f.read("out.failures.csv"), "x", "the failure of what the condition is made of is told")
}
