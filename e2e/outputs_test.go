package e2e

import (
	"database/sql"
	"encoding/csv"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"junvo/demo"
)

// A typed table that is written to each format and read back is the same table: types,
// values, blanks and order.
func TestEveryFormatGivesTheTableBack(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	require.Equal(t, 0, f.run("draft", "d/landings.csv", "-o", "p.yaml").code)
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "--plan", "p.yaml", "-o", "want.csv").code)
	want := csvRows(t, f.read("want.csv"))
	// The values are in canonical form, so that the plan of the way back says the types only.
	var back strings.Builder
	back.WriteString("plan: 1\ncolumns:\n")
	var p struct {
		Columns []struct {
			Name    string
			Suggest struct{ Type string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(f.run("profile", "want.csv", "--format", "json").out), &p))
	for _, c := range p.Columns {
		back.WriteString("  " + c.Name + ": {to: " + c.Suggest.Type)
		if c.Suggest.Type == "decimal" {
			back.WriteString(`, decimal-mark: "."`)
		}
		back.WriteString("}\n")
	}
	f.file("back.yaml", back.String())
	for _, out := range []string{"o.jsonl", "o.xlsx", "o.parquet", "o.db", "o.tsv"} {
		r := f.run("convert", "d/landings.csv", "--plan", "p.yaml", "-o", out)
		require.Equal(t, 1, r.code, r.err)
		r = f.run("convert", out, "--plan", "back.yaml", "-o", "got.csv")
		require.Equal(t, 0, r.code, "%s: %s%s", out, r.err, r.out)
		got := csvRows(t, f.read("got.csv"))
		require.Len(t, got, len(want), out)
		for i := range want {
			for c := range want[i] {
				x, y := want[i][c], got[i][c]
				if p.Columns[c].Suggest.Type == "decimal" { // zeros at the end of a fraction are not kept by every format
					x, y = bare(x), bare(y)
				}
				assert.Equal(t, x, y, "%s, row %d, %s", out, i, want[0][c])
			}
		}
	}
}

// bare takes the zeros off the end of a fraction.
func bare(s string) string {
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}

func csvRows(t *testing.T, text string) [][]string {
	t.Helper()
	reader := csv.NewReader(strings.NewReader(text))
	reader.FieldsPerRecord = -1 // rows set aside have as many cells as they had
	all, err := reader.ReadAll()
	require.NoError(t, err)
	return all
}

// What a format can't hold fails with a reason, or is text where the plan says so; nothing
// is rounded.
func TestValuesBeyondAFormat(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "n,d\n12,1899-12-31\n123456789012345678901234567890,2021-03-04\n")
	f.file("p.yaml", "plan: 1\ncolumns: {n: {to: integer}, d: {to: date}}\n")
	r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.xlsx")
	assert.Equal(t, 1, r.code, r.err)
	failures := f.read("o.failures.csv")
	assert.Contains(t, failures, "2,3,n,123456789012345678901234567890,integer,beyond-format,a workbook keeps 15 digits of a number,")
	assert.Contains(t, failures, "1,2,d,1899-12-31,date,beyond-format,the days of a workbook begin on 1900-03-01,")
	assert.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.parquet").code)
	assert.Equal(t, 1, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.db").code)
	f.file("p.yaml", "plan: 1\ncolumns: {n: {to: text}, d: {to: text}}\n")
	assert.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.xlsx").code)
	book, err := excelize.OpenFile(f.path("o.xlsx"))
	require.NoError(t, err)
	defer book.Close()
	got, err := book.GetCellValue("rows", "A3")
	require.NoError(t, err)
	assert.Equal(t, "123456789012345678901234567890", got)

	f.file("p.yaml", "plan: 1\ncolumns: {n: {to: integer, on-failure: keep-text}, d: {to: date}}\n")
	r = f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.parquet")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, `keeps the text of failed cells of column "n"`)
	f.file("b.csv", "n\n12345678901234567890123456789012345678\n0.5\n")
	f.file("p.yaml", "plan: 1\ncolumns: {n: {to: decimal, decimal-mark: \".\"}}\n")
	r = f.run("convert", "b.csv", "--plan", "p.yaml", "-o", "b.parquet")
	assert.Equal(t, 1, r.code, "what one number may have does not depend on the others")
	assert.Contains(t, f.read("b.parquet.failures.csv"),
		"beyond-format,Parquet keeps 20 digits before the point of a decimal and 18 after it,")
}

// The failures of a workbook are marked where they stand, in the order that the plan asks
// for too.
func TestFailuresInAnOrderedWorkbook(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "lot,kg\nA,5\nB,x\nC,7\nD,1\n")
	f.file("p.yaml", "plan: 1\nrows: {order-by: {lot: descending}}\ncolumns: {lot: {}, kg: {to: integer, on-failure: keep-text}}\n")
	require.Equal(t, 1, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.xlsx", "--origin").code)
	book, err := excelize.OpenFile(f.path("o.xlsx"))
	require.NoError(t, err)
	defer book.Close()
	rows, err := book.GetRows("rows")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"lot", "kg", "source_file", "source_row", "source_line"}, {"D", "1", "a.csv", "4", "5"}, {"C", "7", "a.csv", "3", "4"}, {"B", "x", "a.csv", "2", "3"}, {"A", "5", "a.csv", "1", "2"}}, rows)
	notes, err := book.GetComments("rows")
	require.NoError(t, err)
	require.Len(t, notes, 1)
	assert.Equal(t, "B4", notes[0].Cell)
	failures, err := book.GetRows("failures")
	require.NoError(t, err)
	assert.Equal(t, []string{"B4", "2", "3", "kg", "x", "integer"}, failures[1][:6])
	ledger, err := book.GetRows("ledger")
	require.NoError(t, err)
	assert.Equal(t, []string{"kg", "integer", "", "4", "3", "0", "0", "0", "0", "0", "1"}, ledger[2])
}

func TestTablesOfADatabase(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "lot,kg\nA,5\nB,7\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "store.db#landings").code)
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "store.db#copy").code)
	r := f.run("convert", "a.csv", "-o", "store.db#landings")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "the database has a table of that name already: landings; name another one after #, or say --replace-table")
	f.file("a.csv", "lot,kg\nC,9\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "store.db#landings", "--replace-table").code)
	r = f.run("profile", "store.db", "--query", "SELECT lot, kg FROM landings UNION ALL SELECT lot, kg FROM copy ORDER BY kg;", "--format", "json")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, `"rows": 3`)
	r = f.run("profile", "store.db", "--query", "SELECT absent FROM landings")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "no such column: absent")
	r = f.run("profile", "store.db", "--query", "DELETE FROM landings")
	assert.Equal(t, 3, r.code)
	r = f.run("profile", "a.csv", "--query", "SELECT 1")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "it is no database, and a query asks one")
	r = f.run("convert", "store.db#landings", "-o", "store.db#again")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "store.db is the source")
	r = f.run("convert", "a.csv", "-o", "store.db#")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "names no table")
	assert.Equal(t, 2, f.run("convert", "a.csv", "-o", "o.csv", "--replace-table").code)
	db, err := sql.Open("sqlite", f.path("store.db"))
	require.NoError(t, err)
	var lot, kg, storage string
	require.NoError(t, db.QueryRow("SELECT lot, kg, typeof(kg) FROM landings").Scan(&lot, &kg, &storage))
	require.NoError(t, db.Close())
	assert.Equal(t, []string{"C", "9", "integer"}, []string{lot, kg, storage})
	before, err := os.ReadFile(f.path("store.db"))
	require.NoError(t, err)
	f.file("p.yaml", "plan: 1\ncolumns: {lot: {to: integer, on-failure: stop}}\n")
	assert.Equal(t, 1, f.run("convert", "a.csv", "-o", "store.db#third", "--plan", "p.yaml").code)
	after, err := os.ReadFile(f.path("store.db"))
	require.NoError(t, err)
	assert.True(t, string(before) == string(after), "a conversion that stops leaves the database as it was")
}

func TestFormulasAreToldAndGuarded(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "t,n\n=1+1,-5\n-x,+6\n@home,7\n-12.5,8\nplain,9\n\"+49 431\",1\n")
	f.file("p.yaml", "plan: 1\ncolumns: {t: {}, n: {to: integer}}\n")
	r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "formula-like: a spreadsheet would run 4 cells; --guard-formulas puts an apostrophe before each")
	assert.Contains(t, f.read("o.csv"), "\n=1+1,-5\n")
	r = f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv", "--guard-formulas", "--ledger", "l.json")
	assert.Contains(t, r.out, "formula-like: 4 cells guarded by an apostrophe")
	assert.Equal(t, "t,n\n'=1+1,-5\n'-x,6\n'@home,7\n-12.5,8\nplain,9\n'+49 431,1\n", f.read("o.csv"))
	var ledger struct {
		Formula struct {
			Cells   int
			Guarded bool
		} `json:"formula_like"`
	}
	require.NoError(t, json.Unmarshal([]byte(f.read("l.json")), &ledger))
	assert.Equal(t, 4, ledger.Formula.Cells)
	assert.True(t, ledger.Formula.Guarded)
	r = f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.xlsx", "--guard-formulas")
	assert.Equal(t, 2, r.code)
}

// Reports of a sheet name the cell.
func TestCellsOfASheetHaveAddresses(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.workbook("book.xlsx", row(text("no"), text("kg"))+row(text("1"), number("5"))+row(text("2"), text("heavy"))+row(text("3"), number("7")))
	f.file("p.yaml", "plan: 1\ncolumns: {kg: {to: integer}, tag: {join: [kg], to: integer, must: {between: [6, 9]}}}\n")
	require.Equal(t, 1, f.run("convert", "book.xlsx", "--plan", "p.yaml", "-o", "o.csv").code)
	got := csvRows(t, f.read("o.failures.csv"))
	assert.Equal(t, []string{"1", "2", "tag"}, got[1][:3], "a column that is made of others has no cell")
	assert.Equal(t, []string{"2", "B3", "kg"}, got[2][:3])
	r := f.run("why", "book.xlsx", "--row", "2", "--column", "kg")
	assert.Contains(t, r.out, `book.xlsx, row 2 (cell B3), column "kg"`)
	assert.Contains(t, f.run("why", "book.xlsx", "--row", "2", "--column", "kg", "--format", "json").out, `"cell": "B3"`)
}

// The demo's other forms come to the same truth as its CSV file, except for the column whose
// numbers are stored as fractions and typed as percentages, which nobody can tell apart.
func TestOtherFormsOfTheDemo(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	var b strings.Builder
	require.NoError(t, demo.Generate(demo.Options{Rows: demo.Rows, Truth: &b}))
	truth := csvRows(t, b.String())
	for _, form := range []string{demo.WorkbookName, demo.RecordsName, demo.DatabaseName} {
		r := f.run("convert", "d/"+form, "-o", "o.csv")
		require.Equal(t, 1, r.code, r.err)
		got := csvRows(t, f.read("o.csv"))
		require.Len(t, got, len(truth), form)
		at := map[string]int{}
		for i, name := range got[0] {
			at[name] = i
		}
		wrong := 0
		for c, name := range truth[0] {
			i, ok := at[name]
			if name == "Ice share" || !ok {
				continue
			}
			for r := range truth {
				want, have := truth[r][c], got[r][i]
				if want == "" && have != "" && r > 0 && (name == "Skipper" || name == "Remarks") {
					continue // words for blank are text where nothing says otherwise
				}
				if form == demo.DatabaseName && have == "12.5" && want == "" {
					continue // the database itself makes a number of that text, since the column says REAL
				}
				if bare(want) != bare(have) && wrong < 5 {
					wrong++
					t.Errorf("%s, row %d, %s: %q is not the truth %q", form, r, name, have, want)
				}
			}
		}
		for _, name := range []string{"mixed", "numbers-as-text", "dates-as-text"} {
			assert.Contains(t, f.run("profile", "d/"+form, "--verbose").out, name, form)
		}
	}
	out := f.run("profile", "d/"+demo.WorkbookName, "--verbose").out
	for _, finding := range []string{"merged-cells", "hidden-rows", "hidden-columns", "section-headings", "total-rows"} {
		assert.Contains(t, out, finding)
	}
}
