package e2e

import (
	"archive/zip"
	"database/sql"
	"fmt"
	"io"
	"maps"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite" // to make a database
)

// workbook writes a workbook with one sheet of these rows.
func (f *folder) workbook(name, rows string) {
	f.t.Helper()
	f.bookOf(name, map[string]string{"xl/s.xml": `<worksheet><sheetData>` + rows + `</sheetData></worksheet>`})
}

// bookOf writes a workbook in which some parts are other than usual.
func (f *folder) bookOf(name string, other map[string]string) {
	f.t.Helper()
	out, err := os.Create(f.path(name))
	require.NoError(f.t, err)
	z := zip.NewWriter(out)
	parts := map[string]string{
		"xl/workbook.xml":            `<workbook><sheets><sheet name="Landings" id="a"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<R><Relationship Id="a" Type="x/worksheet" Target="s.xml"/><Relationship Id="b" Type="x/styles" Target="t.xml"/><Relationship Id="c" Type="x/sharedStrings" Target="ss.xml"/></R>`,
		"xl/t.xml":                   `<styleSheet><cellXfs><xf/><xf numFmtId="14"/></cellXfs></styleSheet>`,
		"xl/s.xml":                   `<worksheet><sheetData><row><c><v>1</v></c></row></sheetData></worksheet>`,
	}
	maps.Copy(parts, other)
	for part, text := range parts {
		w, err := z.Create(part)
		require.NoError(f.t, err)
		_, err = io.WriteString(w, text)
		require.NoError(f.t, err)
	}
	require.NoError(f.t, z.Close())
	require.NoError(f.t, out.Close())
}

func text(s string) string { return `<c t="str"><v>` + s + `</v></c>` }

func number(s string) string { return `<c><v>` + s + `</v></c>` }

func row(cells ...string) string { return "<row>" + strings.Join(cells, "") + "</row>" }

// What a workbook stores as text is found; what it stores as numbers is not touched by
// the decimal comma of the texts beside it.
func TestWorkbookWithNumbersStoredAsText(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString(row(text("Landings of March")) + row(text("no"), text("kg"), text("day"), text("ok")))
	for i := range 20 {
		kg, day := number(fmt.Sprintf("1%d.5", 100+i)), fmt.Sprintf(`<c s="1"><v>%d</v></c>`, 44256+i)
		if i%4 == 0 {
			kg, day = text(fmt.Sprintf("1.%d,5 kg", 100+i)), text(fmt.Sprintf("%02d.03.2021", 10+i))
		}
		b.WriteString(row(text(fmt.Sprintf("%03d", i)), kg, day, fmt.Sprintf(`<c t="b"><v>%d</v></c>`, i%2)))
	}
	b.WriteString(row(text("020"), `<c t="e"><v>#N/A</v></c>`, text(""), `<c/>`))
	f.workbook("book.xlsx", b.String())
	r := f.run("profile", "book.xlsx", "--format", "json")
	require.Equal(t, 0, r.code, r.err)
	fits(t, "profile.schema.json", r.out)
	table := f.run("profile", "book.xlsx", "--verbose")
	assert.Regexp(t, `kg +number 15, text 5, error 1\s+decimal`, table.out)
	assert.Contains(t, table.out, "numbers-as-text")
	assert.Regexp(t, `kg 5\b`, table.out)

	r = f.run("convert", "book.xlsx#Landings", "-o", "o.csv")
	require.Equal(t, 0, r.code, r.err+r.out)
	got := strings.Split(f.read("o.csv"), "\n")
	assert.Equal(t, []string{"no,kg,day,ok", "000,1100.5,2021-03-10,false", "001,1101.5,2021-03-02,true"}, got[:3])
	assert.Equal(t, "020,,,", got[21])
	two := f.run("convert", "book.xlsx", "-o", "two.csv", "--plan", "o.plan.yaml", "--workers", "1")
	assert.Equal(t, 0, two.code, two.err)
	assert.Equal(t, f.read("o.csv"), f.read("two.csv"))
	why := f.run("why", "book.xlsx", "--row", "2", "--column", "kg")
	assert.Contains(t, why.out, "row 2 (cell B4)")
	assert.Contains(t, f.read("o.setaside.csv"), "Landings of March")
}

func TestWorkbooksThatCannotBeRead(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.workbook("book.xlsx", row(text("a"))+row(number("1")))
	for _, tt := range []struct {
		args []string
		code int
		want string
	}{
		{[]string{"profile", "book.xlsx#Landing"}, 3, `Did you mean "Landings"?`},
		{[]string{"profile", "none.xlsx#S"}, 3, "there is no such file"},
		{[]string{"profile", "-"}, 0, ""},
	} {
		stdin := f.read("book.xlsx")
		r := f.runWith(stdin, tt.args...)
		assert.Equal(t, tt.code, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
	}
	f.file("cut.xlsx", f.read("book.xlsx")[:200])
	r := f.run("profile", "cut.xlsx")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "no whole ZIP archive")
	f.file("a.csv", "a\n1\n")
	assert.Contains(t, f.run("profile", "a.csv#S").err, "it is no workbook, database, archive, page or JSON")
	f.file("b#1.csv", "a\n1\n")
	assert.Equal(t, 0, f.run("profile", "b#1.csv").code)
}

// A column that says INTEGER and holds words.
func TestDatabase(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	db, err := sql.Open("sqlite", f.path("store.db"))
	require.NoError(t, err)
	_, err = db.Exec("CREATE TABLE landings (no TEXT, kg INTEGER)")
	require.NoError(t, err)
	for i := range 30 {
		kg := any(1000 + i)
		if i%3 == 0 {
			kg = fmt.Sprintf("1.%03d,5 kg", i)
		}
		_, err = db.Exec("INSERT INTO landings VALUES (?, ?)", fmt.Sprintf("%04d", i), kg)
		require.NoError(t, err)
	}
	require.NoError(t, db.Close())
	r := f.run("profile", "store.db", "--verbose")
	require.Equal(t, 0, r.code, r.err)
	assert.Regexp(t, `kg +number 20, text 10 +decimal`, r.out)
	assert.Contains(t, r.out, "numbers-as-text")
	r = f.run("convert", "store.db#landings", "-o", "o.csv")
	require.Equal(t, 0, r.code, r.err+r.out)
	assert.Equal(t, []string{"no,kg", "0000,1000.5", "0001,1001", "0002,1002", "0003,1003.5"}, strings.Split(f.read("o.csv"), "\n")[:5])
	r = f.run("profile", "store.db#landing")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, `Did you mean "landings"?`)
}
