package e2e

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Nothing that a person made is ever overwritten or deleted.

const weights = "no;kg\n1;1,5\n2;heavy\n3;2,5\n4;light\n5;1,0\n6;1,1\n7;1,2\n8;1,3\n9;1,4\n10;1,6\n11;1,7\n12;1,8\n13;1,9\n14;2,0\n15;2,1\n16;2,2\n17;2,3\n18;2,4\n19;2,6\n20;2,7\n21;2,8\n"

func TestSourcesPlansAndAnswersStay(t *testing.T) {
	t.Parallel()
	plan := "plan: 1\ncolumns: {no: {to: integer}, kg: {to: decimal, decimal-mark: \",\"}}\n"
	answers := "row,line,column,value,wanted,reason,detail,hint,fix\n2,3,kg,heavy,decimal,not-a-number,,,\"9,9\"\n"
	for _, args := range []string{
		"convert a.csv -o a.csv", "convert a*.csv -o a.csv", "convert a.csv -o link.csv", "convert a.csv -o hard.csv", "convert link.csv -o ./a.csv",
		"draft a.csv -o a.csv", "draft link.csv -o a.csv", "profile a.csv --save a.csv", "profile b.csv --against p.json --save p.json",
		"convert a.csv -o z.csv --ledger a.csv", "convert a.csv -o z.csv --ledger z.csv", "convert a.csv -o z.csv --ledger z.failures.csv",
		"convert a.csv -o z.csv --ledger z.plan.yaml", "convert a.csv -o z.csv --plan p.yaml --ledger p.yaml", "convert q.failures.csv -o q.csv",
		"convert q.setaside.csv -o q.csv", "convert q.sql -o q.csv --ddl sqlite", "convert a.csv -o q.csv --plan q.plan.yaml --ledger q.plan.yaml",
		"convert a.csv -o q.csv --plan q.failures.csv", "convert a.csv -o q.csv --plan p.yaml --fixes q.setaside.csv", "convert a.csv -o x.csv --plan p.yaml --fixes x.csv",
		"convert q.csv-metadata.json -o q.csv --metadata", "convert a.csv q.failures.csv -o out/ --plan p.yaml --ledger out/a.csv",
		"convert q.csv q.failures.csv -o out/ --plan p.yaml",
	} {
		f := newFolder(t)
		for name, text := range map[string]string{
			"a.csv": weights, "b.csv": weights, "p.yaml": plan, "q.csv": weights, "q.failures.csv": weights, "q.setaside.csv": weights, "q.sql": weights,
			"q.plan.yaml": plan, "q.csv-metadata.json": "[{\"no\": 1}]\n", "x.csv": answers, "p.json": "{}",
		} {
			f.file(name, text)
		}
		require.NoError(t, os.Link(f.path("a.csv"), f.path("hard.csv")))
		require.NoError(t, os.Symlink("a.csv", f.path("link.csv")))
		before := map[string]string{}
		for _, name := range f.names() {
			before[name] = f.read(name)
		}
		r := f.run(strings.Fields(args)...)
		assert.Equal(t, 2, r.code, "%s: %s", args, r.err)
		assert.Regexp(t, "so that it can't be|at once; choose other names|earlier run", r.err, args)
		for name, text := range before {
			assert.Equal(t, text, f.read(name), "%s changed %s", args, name)
		}
	}
}

// What no run has written beside an output stays, and so does what a person may have edited.
func TestFilesBesideTheOutputStay(t *testing.T) {
	t.Parallel()
	for name, text := range map[string]string{
		"o.failures.csv": "my,own,list\n1,2,3\n", "o.setaside.csv": "who knows\n", "o.plan.yaml": "plan: 1\ncolumns: {no: {}}\n", "o.sql": "DROP TABLE o;\n",
		"o.csv-metadata.json": "{}\n",
	} {
		f := newFolder(t)
		f.file("a.csv", weights)
		f.file(name, text)
		r := f.run("convert", "a.csv", "-o", "o.csv", "--metadata", "--ddl", "sqlite")
		assert.Equal(t, 2, r.code, name)
		assert.Contains(t, r.err, name)
		assert.Equal(t, []string{"a.csv", name}, f.names())
		assert.Equal(t, text, f.read(name))
	}
	f := newFolder(t)
	f.file("a.csv", weights)
	args := []string{"convert", "a.csv", "-o", "o.csv", "--metadata", "--ddl", "sqlite"}
	require.Equal(t, 1, f.run(args...).code)
	require.Equal(t, 1, f.run(args...).code, "what a run has written may be written again")
	f.file("a.csv", "no;kg\n1;1,5\n2;2,5\n")
	require.Equal(t, 0, f.run(args...).code, "a draft that nobody has touched makes room for the next")
	assert.NotContains(t, f.names(), "o.failures.csv", "an older list goes when there are no failures")
	edited := f.read("o.plan.yaml") + "# looked at by Anke\n"
	f.file("o.plan.yaml", edited)
	r := f.run(args...)
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "may have been edited; use it with --plan o.plan.yaml")
	assert.Equal(t, edited, f.read("o.plan.yaml"))
	require.Equal(t, 0, f.run(append(args, "--overwrite-plan")...).code)
	assert.NotEqual(t, edited, f.read("o.plan.yaml"))
	f.file("mine.yaml", edited)
	assert.Equal(t, 2, f.run("draft", "a.csv", "-o", "mine.yaml").code)
	assert.Equal(t, edited, f.read("mine.yaml"))
	assert.Equal(t, 0, f.run("draft", "a.csv", "-o", "mine.yaml", "--overwrite").code)
	assert.Equal(t, 0, f.run("draft", "a.csv", "-o", "mine.yaml", "--decimal-mark", ".").code, "nobody has touched it since")
}

// Answers are given in the list of failures itself, run after run, and stay there.
func TestAnswersStayInTheirFile(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", weights)
	require.Equal(t, 0, f.run("draft", "a.csv", "-o", "p.yaml").code)
	args := []string{"convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv"}
	require.Equal(t, 1, f.run(args...).code)
	list := strings.Replace(f.read("o.failures.csv"), "beside the digits", "", 1)
	lines := strings.SplitAfter(list, "\n")
	require.Len(t, lines, 4)
	lines[1] = strings.TrimSuffix(lines[1], ",\n") + ",\"9,5\"\n"
	lines = append(lines[:3], "99,100,kg,gone,decimal,not-a-number,,,7\n")
	f.file("o.failures.csv", strings.Join(lines, ""))
	r := f.run(args...)
	assert.Equal(t, 2, r.code, "answers are not thrown away")
	assert.Contains(t, r.err, "has answers in its column fix; give them back with --fixes o.failures.csv")
	var out, failures string
	for range 3 {
		r = f.run(append(args, "--fixes", "o.failures.csv")...)
		require.Equal(t, 1, r.code, r.err)
		assert.Contains(t, f.read("o.csv"), "\n2,9.5\n")
		rows := f.records("o.failures.csv")
		require.Len(t, rows, 4)
		assert.Equal(t, []string{"fix", "used"}, rows[0][8:])
		assert.Equal(t, []string{"light", "", ""}, []string{rows[1][3], rows[1][8], rows[1][9]})
		assert.Equal(t, []string{"heavy", "9,5", "yes"}, []string{rows[2][3], rows[2][8], rows[2][9]})
		assert.Equal(t, []string{"gone", "7", "no"}, []string{rows[3][3], rows[3][8], rows[3][9]})
		if out != "" {
			assert.Equal(t, out, f.read("o.csv"))
			assert.Equal(t, failures, f.read("o.failures.csv"))
		}
		out, failures = f.read("o.csv"), f.read("o.failures.csv")
	}
	require.Equal(t, 2, f.run(args...).code, "and they are not thrown away later either")
}

// An answer is a value in canonical form, one written as the column is, or blank on purpose.
func TestWhatAnswersMay(t *testing.T) {
	t.Parallel()
	for fix, want := range map[string]string{
		"9,5": "9.5", "9.5": "9.5", "1234.5": "1234.5", "(blank)": "", "1.234": "refused: can be read in two ways", "1.234,5": "1234.5", "x": "refused: is no value",
		"-3": "refused: breaks what the plan says",
	} {
		f := newFolder(t)
		f.file("a.csv", "kg,ok\nheavy,true\n")
		f.file("p.yaml", "plan: 1\ncolumns: {kg: {to: decimal, decimal-mark: \",\", group-marks: [\".\"], must: {between: [0, null]}}, ok: {}}\n")
		f.file("fix.csv", "row,column,value,fix\n1,kg,heavy,\""+fix+"\"\n")
		r := f.run("convert", "a.csv", "--plan", "p.yaml", "--fixes", "fix.csv", "-o", "o.csv")
		if say, refused := strings.CutPrefix(want, "refused: "); refused {
			assert.Equal(t, 1, r.code, fix)
			assert.Contains(t, f.read("o.failures.csv"), say, fix)
			continue
		}
		assert.Equal(t, 0, r.code, "%s: %s", fix, r.err)
		assert.Equal(t, "kg,ok\n"+want+",true\n", f.read("o.csv"), fix)
		assert.Contains(t, r.out, "fixed")
	}
	f := newFolder(t)
	f.file("a.csv", "ok,x\nyep,1\nja,2\nnein,3\n")
	f.file("p.yaml", "plan: 1\ncolumns: {ok: {to: boolean, words: {true: [ja], false: [nein]}, must: {not-blank: true}}, x: {}}\n")
	f.file("fix.csv", "row,column,value,fix\n1,ok,yep,true\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "--fixes", "fix.csv", "-o", "o.csv").code)
	assert.Equal(t, "ok,x\ntrue,1\ntrue,2\nfalse,3\n", f.read("o.csv"))
	f.file("fix.csv", "row,column,value,fix\n1,ok,yep,(blank)\n")
	require.Equal(t, 1, f.run("convert", "a.csv", "--plan", "p.yaml", "--fixes", "fix.csv", "-o", "o.csv").code)
	assert.Contains(t, f.read("o.failures.csv"), "the cell must not be blank")
}

// Outputs in several formats have files of their own beside them.
func TestOutputsOfOneNameKeepApart(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", weights)
	for _, out := range []string{"o.csv", "o.tsv", "o.jsonl", "o.xlsx", "o.parquet", "o.db", "o.db#other"} {
		require.Equal(t, 1, f.run("convert", "a.csv", "-o", out).code, out)
	}
	var lists []string
	for _, name := range f.names() {
		if strings.HasSuffix(name, ".failures.csv") {
			lists = append(lists, name)
		}
	}
	assert.Equal(t, []string{"o.db.failures.csv", "o.failures.csv", "o.jsonl.failures.csv", "o.other.failures.csv", "o.parquet.failures.csv", "o.tsv.failures.csv", "o.xlsx.failures.csv"}, lists)
}

// A # may stand in the name of a file, in front of that of a part: it is the file that stays.
func TestNamesWithHashes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "lot,kg\nA,1\n")
	require.Zero(t, f.run("convert", "in.csv", "-o", "plain.db#lots").code)
	require.NoError(t, os.Rename(f.path("plain.db"), f.path("s#t.db")))
	f.file("a#b.csv", "lot,kg\nA,1\n")
	for _, source := range []string{"s#t.db#lots", "a#b.csv"} {
		file := strings.TrimSuffix(source, "#lots")
		before := f.read(file)
		for _, args := range [][]string{{"draft", source, "-o", file}, {"profile", source, "--save", file}, {"convert", source, "-o", "z.csv", "--ledger", file}} {
			r := f.run(args...)
			assert.Equal(t, 2, r.code, "%q", args)
			assert.Contains(t, r.err, "is the source", "%q", args)
			assert.True(t, before == f.read(file), "%q", args)
		}
	}
	require.Zero(t, f.run("draft", "s#t.db#lots", "-o", "p.yaml").code)
	require.NoError(t, os.Mkdir(f.path("out"), 0o755))
	r := f.run("convert", "s#t.db#lots", "a#b.csv", "--plan", "p.yaml", "-o", "out/")
	require.Zero(t, r.code, r.err)
	assert.FileExists(t, f.path("out/s-t-lots.csv"))
	assert.FileExists(t, f.path("out/a-b.csv"))
}
