package e2e

import (
	"database/sql"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every command works on every kind of source, and each converts to the same table.
func TestEveryCommandWorksOnEverySource(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var csvText, fixed strings.Builder
	csvText.WriteString("lot,kg,day\n")
	for i := range 30 {
		fmt.Fprintf(&csvText, "%03d,%d.5,2021-03-%02d\n", i, 100+i, 1+i%28)
	}
	f.file("a.csv", csvText.String())
	for _, line := range strings.Split(strings.TrimSpace(csvText.String()), "\n") {
		cells := strings.Split(line, ",")
		fmt.Fprintf(&fixed, "%-5s%8s  %s\n", cells[0], cells[1], cells[2])
	}
	f.file("a.txt", fixed.String())
	f.file("to.yaml", "plan: 1\ncolumns: {lot: {to: code}, kg: {to: decimal, decimal-mark: \".\"}, day: {to: date}}\n")
	for _, out := range []string{"a.jsonl", "a.xlsx", "a.parquet", "a.db"} {
		require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "to.yaml", "-o", out).code, out)
	}
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "to.yaml", "-o", "want.csv").code)
	want := f.read("want.csv")
	for _, source := range [][]string{{"a.jsonl"}, {"a.xlsx"}, {"a.xlsx#rows"}, {"a.parquet"}, {"a.db"}, {"a.db#a"}, {"a.db", "--query", "SELECT * FROM a"}, {"a.txt", "--widths", "5,8,12"}} {
		run := func(code int, command string, args ...string) result {
			t.Helper()
			r := f.run(append(append([]string{command}, source...), args...)...)
			require.Equal(t, code, r.code, "%s %v: %s%s", command, source, r.err, r.out)
			return r
		}
		assert.Contains(t, run(0, "profile").out, "30 rows, 3 columns", source)
		run(0, "profile", "--column", "kg")
		run(0, "profile", "--format", "json")
		assert.Contains(t, run(0, "why", "--row", "3", "--column", "kg").out, "102.5")
		run(0, "draft", "-o", "p.yaml")
		assert.Contains(t, run(0, "preview", "--plan", "p.yaml").out, "preview of")
		assert.Contains(t, run(0, "check", "--plan", "p.yaml", "--strict").out, "the source fits the plan")
		run(0, "convert", "--plan", "p.yaml", "-o", "got.csv")
		assert.Equal(t, want, f.read("got.csv"), source)
		run(0, "convert", "-o", "got.csv")
		assert.Equal(t, want, f.read("got.csv"), source)
	}
}

// A database that another program holds, and one that is cut off, give a sentence.
func TestDatabasesThatCannotBeRead(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "x\n1\n2\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "a.db").code)
	db, err := sql.Open("sqlite", f.path("a.db"))
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	_, err = db.Exec("BEGIN EXCLUSIVE")
	require.NoError(t, err)
	r := f.run("profile", "a.db")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "database is locked")
	r = f.run("convert", "a.csv", "-o", "a.db#more")
	assert.Equal(t, 4, r.code)
	assert.Contains(t, r.err, "database is locked")
	_, err = db.Exec("ROLLBACK")
	require.NoError(t, err)
	text := f.read("a.db")
	f.file("b.db", text[:len(text)/2])
	r = f.run("profile", "b.db")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "can't read b.db")
	for _, name := range []string{"a.xlsx", "a.parquet"} {
		require.Equal(t, 0, f.run("convert", "a.csv", "-o", name).code)
		text := f.read(name)
		f.file("b"+name, text[:2*len(text)/3])
		r := f.run("profile", "b"+name)
		assert.Equal(t, 3, r.code, name)
		assert.Contains(t, r.err, "can't read b"+name)
		f.file("c"+name, text[:16])
		assert.Equal(t, 3, f.run("profile", "c"+name).code, name)
	}
}

// The content says what a source is, and --source-format where it does not.
func TestFormatOfASource(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "PAR1,x\n1,2\n")
	assert.Contains(t, f.run("profile", "a.csv").out, "1 row, 2 columns")
	f.file("b.csv", "SQLite format 3,x\n1,2\n")
	assert.Contains(t, f.run("profile", "b.csv").out, "1 row, 2 columns")
	f.file("c.csv", "{\"a\": 1}\n{\"a\": 2}\n")
	assert.Contains(t, f.run("profile", "c.csv").out, "JSON lines")
	assert.NotContains(t, f.run("profile", "c.csv", "--source-format", "text").out, "JSON lines")
	for _, out := range []string{"o.parquet", "o.db", "o.xlsx"} {
		require.Equal(t, 0, f.run("convert", "b.csv", "-o", out).code)
		r := f.runWith(f.read(out), "profile", "-")
		assert.Equal(t, 0, r.code, out)
		assert.Contains(t, r.out, "standard input: 1 row, 2 columns", out)
	}
	r := f.run("profile", "a.csv", "--source-format", "parquet")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "the Parquet file is damaged")
	r = f.run("profile", "a.csv", "--source-format", "json")
	assert.Equal(t, 3, r.code)
	r = f.run("profile", "a.csv", "--source-format", "workbook")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "no whole ZIP archive")
	r = f.run("profile", "a.csv", "--source-format", "xls")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "--source-format is text, json, html, xml, dump, logfmt, key-value, workbook, parquet, sqlite, not \"xls\"")
}
