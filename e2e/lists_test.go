package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// Lists of failures and rows set aside are in the format that their names say, with the lines that they have as CSV; answers
// are read from each, and kept.
func TestListsInEveryFormat(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no,kg\n1,5\n2,=x\n\n3,\"7\nt\"\n4,8\n5,9\n6,10\n7,11\n8,x\u00a0y\n")
	require.Equal(t, 1, f.run("convert", "a.csv", "-o", "o.csv", "--as", "kg=integer").code)
	want := f.records("o.failures.csv")
	require.Len(t, want, 4)
	for _, ending := range []string{".tsv", ".jsonl", ".xlsx", ".parquet"} {
		failures, aside := "list"+ending, "aside"+ending
		args := []string{"convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--failures", failures, "--set-aside", aside}
		r := f.run(args...)
		require.Equal(t, 1, r.code, r.err)
		assert.Contains(t, r.out, failures+" (3 failures)")
		// It reads as any source does, and has the lines that it has as CSV, in which what looks like a formula is guarded;
		// why shows the mark of the guard itself as it shows all marks.
		got := f.run("profile", failures, "--format", "json")
		assert.Contains(t, got.out, `"rows": 3`, failures)
		for _, name := range want[0] {
			assert.Contains(t, got.out, `"name": "`+name+`"`, failures)
		}
		assert.Contains(t, f.run("why", failures, "--row", "1", "--column", "value").out, "⟨⟨⟩=⟩x", failures)
		assert.Contains(t, f.run("why", aside, "--row", "1", "--column", "reason").out, "blank-row", aside)
		// A second run takes the place of the first; a run without failures takes the list away.
		require.Equal(t, 1, f.run(args...).code)
		f.file("good.csv", "no,kg\n1,5\n")
		require.Equal(t, 0, f.run("convert", "good.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--failures", failures, "--set-aside", aside).code)
		assert.NotContains(t, f.names(), failures)
		assert.NotContains(t, f.names(), aside)
	}
	// What a person made is not touched.
	f.file("mine.tsv", "a\tb\n1\t2\n")
	r := f.runWith("", "convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--failures", "mine.tsv")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "mine.tsv is there and is no list of failures of an earlier run")
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--failures", "x.db")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "--failures is a file whose name ends in .csv, .tsv, .jsonl, .xlsx, .parquet")
}

// Somebody answers in a workbook, and gives it back.
func TestAnswersInAWorkbook(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no,kg\n1,5\n2,=five\n3,7\n4,8\n5,-nine\n")
	require.Equal(t, 1, f.run("convert", "a.csv", "-o", "o.csv", "--as", "kg=integer", "--failures", "list.xlsx").code)
	book, err := excelize.OpenFile(f.path("list.xlsx"))
	require.NoError(t, err)
	sheet := book.GetSheetName(0)
	heading, err := book.GetRows(sheet)
	require.NoError(t, err)
	require.Equal(t, "fix", heading[0][8])
	require.NoError(t, book.SetCellValue(sheet, "I2", 5))
	require.NoError(t, book.SetCellValue(sheet, "I3", "(blank)"))
	require.NoError(t, book.Save())
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--failures", "list.xlsx")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "list.xlsx has answers in its column fix")
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--fixes", "list.xlsx", "--failures", "list.xlsx")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "no,kg\n1,5\n2,5\n3,7\n4,8\n5,\n", f.read("o.csv"))
	assert.Contains(t, f.run("why", "list.xlsx", "--row", "2", "--column", "fix").out, "«(blank)»", "the answers stay")
}

// Several sources go into a folder in any format.
func TestFoldersInEveryFormat(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("jan.csv", "no,kg\n1,5\n")
	f.file("feb.csv", "no,kg\n2,6\n")
	require.Equal(t, 0, f.run("draft", "jan.csv", "-o", "p.yaml").code)
	for _, format := range []string{"csv", "tsv", "jsonl", "xlsx", "parquet", "db"} {
		r := f.run("convert", "jan.csv", "feb.csv", "--plan", "p.yaml", "-o", format+"/", "--output-format", format)
		require.Equal(t, 0, r.code, r.err)
		assert.Contains(t, r.out, "wrote: "+format+"/feb."+format+" (1 row)")
		back := f.run("convert", format+"/feb."+format, "-o", "-")
		assert.Equal(t, "no,kg\n2,6\n", back.out, format+back.err)
	}
	r := f.run("convert", "jan.csv", "feb.csv", "--plan", "p.yaml", "-o", "x/", "--output-format", "doc")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "--output-format is csv, tsv, jsonl, xlsx, parquet, db, not \"doc\"")
	assert.True(t, strings.Contains(f.run("convert", "jan.csv", "-o", "o.csv", "--output-format", "tsv").err, "--output-format goes with -o - and with a folder"))
}
