package workbook

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"junvo/internal/table"
)

// parts are the parts of a workbook, by their names; the usual ones are filled in.
type parts map[string]string

func (p parts) zip(t testing.TB) *bytes.Reader {
	t.Helper()
	all := parts{
		"xl/workbook.xml": `<workbook xmlns:r="r"><sheets><sheet name="Old" state="hidden" r:id="rId3"/><sheet name="Landings" r:id="rId1"/><sheet name="Buyers" r:id="rId2"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="rId1" Type="x/worksheet" Target="worksheets/sheet1.xml"/>` +
			`<Relationship Id="rId2" Type="x/worksheet" Target="/xl/worksheets/sheet2.xml"/><Relationship Id="rId3" Type="x/worksheet" Target="worksheets/sheet2.xml"/>` +
			`<Relationship Id="rId4" Type="x/sharedStrings" Target="shared.xml"/><Relationship Id="rId5" Type="x/styles" Target="styles.xml"/></Relationships>`,
		"xl/shared.xml": `<sst><si><t>No</t></si><si><r><t>Net </t></r><r><t xml:space="preserve">weight</t></r><rPh><t>x</t></rPh></si><si><t>a_x000A_b_x005F_x000A_</t></si></sst>`,
		"xl/styles.xml": `<styleSheet><numFmts><numFmt numFmtId="164" formatCode="dd/mm/yyyy"/><numFmt numFmtId="165" formatCode="0.00&quot;d&quot;"/>` +
			`<numFmt numFmtId="166" formatCode="yyyy-mm-dd\ hh:mm"/><numFmt numFmtId="167" formatCode="[h]:mm"/><numFmt numFmtId="168" formatCode="00000"/></numFmts><cellStyleXfs><xf numFmtId="14"/></cellStyleXfs>` +
			`<cellXfs><xf numFmtId="0"/><xf numFmtId="164"/><xf numFmtId="165"/><xf numFmtId="166"/><xf numFmtId="20"/><xf numFmtId="167"/><xf numFmtId="168"/></cellXfs></styleSheet>`,
		"xl/worksheets/sheet2.xml": sheetOf(`<row><c t="inlineStr"><is><t>name</t></is></c></row><row><c t="str"><v>Anke</v></c></row>`),
	}
	for name, text := range p {
		all[name] = text
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range all {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return bytes.NewReader(b.Bytes())
}

func sheetOf(rows string) string { return "<worksheet><sheetData>" + rows + "</sheetData></worksheet>" }

// cells reads a sheet: each cell as its kind and its text, and a row as its line.
func cells(t testing.TB, r *bytes.Reader, sheet string, o Options) (*table.Info, []string) {
	t.Helper()
	src, err := Open(r, r.Size(), "book.xlsx", sheet, o)
	require.NoError(t, err)
	var out []string
	var lines table.Lines
	b := &table.Block{}
	for {
		b.Reset()
		err := src.Next(b)
		if errors.Is(err, io.EOF) {
			return src.Info(), out
		}
		require.NoError(t, err)
		first := lines.Start(src.Info(), b)
		for r := range b.Rows {
			row := fmt.Sprint(first+b.Line(r), ":")
			for c := range b.Width {
				row += fmt.Sprintf(" %s(%s)", b.Kinds[r*b.Width+c], b.Cell(r, c))
			}
			for _, s := range b.ExtraOf(r) {
				row += fmt.Sprintf(" +%s", b.At(s))
			}
			out = append(out, row)
		}
	}
}

const landings = `<row r="2"><c r="A2" t="s"><v>0</v></c><c r="B2" t="s"><v>1</v></c><c r="C2" t="str"><v>on</v></c><c r="D2" t="str"><v>ok</v></c></row>`

func TestCellsAreAsTheWorkbookStoresThem(t *testing.T) {
	for _, tt := range []struct{ cell, want string }{
		{`<c r="B3"><v>12.50</v></c>`, "number(12.50)"},
		{`<c r="B3" t="n"><v>0.30000000000000004</v></c>`, "number(0.30000000000000004)"},
		{`<c r="B3"><v>7.5999999999999996</v></c>`, "number(7.6)"},
		{`<c r="B3"><v>51.12345678901234</v></c>`, "number(51.12345678901234)"},
		{`<c r="B3"><v>12345678901234567</v></c>`, "number(12345678901234568)"},
		{`<c r="B3" s="5"><v>1.5</v></c>`, "text(36:00:00)"},
		{`<c r="B3" s="5"><v>-0.0625</v></c>`, "text(-01:30:00)"},
		{`<c r="B3" s="5"><v>0.5000057870370371</v></c>`, "text(12:00:00.5)"},
		{`<c r="B3" s="6"><v>417</v></c>`, "text(00417)"},
		{`<c r="B3" t="b"><v>true</v></c>`, "boolean(true)"},
		{`<c r="B3" t="b"><v>FALSE</v></c>`, "boolean(false)"},
		{`<c r="B3" t="b"><v>maybe</v></c>`, "error(maybe)"},
		{`<c r="B3" t="s"><v></v></c>`, "null()"},
		{`<c r="B3" t="str"><v>_xD83D__xDE00_ _xD83D_</v></c>`, "text(😀 \ufffd)"},
		{`<c r="B3" s="6"><v>123456</v></c>`, "text(123456)"},
		{`<c r="B3" s="6"><v>4.5</v></c>`, "number(4.5)"},
		{`<c r="B3" s="3"><v>44259.500002893517</v></c>`, "date(2021-03-04T12:00:00.25)"},
		{`<c r="B3" s="4"><v>2.8935185E-6</v></c>`, "date(00:00:00.25)"},
		{`<c r="B3"><f>A1</f></c>`, "null()"},
		{`<c r="B3"><v>1.5E-7</v></c>`, "number(0.00000015)"},
		{`<c r="B3" t="s"><v>2</v></c>`, "text(a\nb_x000A_)"},
		{`<c r="B3" t="str"><f>A1</f><v>12,5</v></c>`, "text(12,5)"},
		{`<c r="B3" t="str"><v></v></c>`, "text()"},
		{`<c r="B3" t="inlineStr"><is><r><t>1 </t></r><r><t>kg</t></r></is></c>`, "text(1 kg)"},
		{`<c r="B3" t="b"><v>1</v></c>`, "boolean(true)"},
		{`<c r="B3" t="b"><v>0</v></c>`, "boolean(false)"},
		{`<c r="B3" t="e"><v>#DIV/0!</v></c>`, "error(#DIV/0!)"},
		{`<c r="B3" t="d"><v>2021-03-04</v></c>`, "date(2021-03-04)"},
		{`<c r="B3" s="1"><v>44259</v></c>`, "date(2021-03-04)"},
		{`<c r="B3" s="1"><v>59</v></c>`, "date(1900-02-28)"},
		{`<c r="B3" s="1"><v>61</v></c>`, "date(1900-03-01)"},
		{`<c r="B3" s="1"><v>60</v></c>`, "number(60)"},
		{`<c r="B3" s="1"><v>-1</v></c>`, "number(-1)"},
		{`<c r="B3" s="2"><v>44259</v></c>`, "number(44259)"},
		{`<c r="B3" s="3"><v>44259.75</v></c>`, "date(2021-03-04T18:00:00)"},
		{`<c r="B3" s="3"><v>44258.999999999</v></c>`, "date(2021-03-04T00:00:00)"},
		{`<c r="B3" s="4"><v>0.25</v></c>`, "date(06:00:00)"},
		{`<c r="B3" s="99"><v>7</v></c>`, "number(7)"},
		{`<c r="B3"/>`, "null()"},
		{`<c r="B3" s="1"><v/></c>`, "null()"},
		{``, "null()"},
	} {
		_, rows := cells(t, parts{"xl/worksheets/sheet1.xml": sheetOf(landings + `<row r="3"><c r="A3"><v>1</v></c>` + tt.cell + `<c r="C3"><v>2</v></c><c r="D3"><v>3</v></c></row>`)}.zip(t), "", Options{})
		assert.Equal(t, []string{"3: number(1) " + tt.want + " number(2) number(3)"}, rows, tt.cell)
	}
}

func TestDaysOfWorkbooksThatBeginIn1904(t *testing.T) {
	book := parts{
		"xl/workbook.xml":          `<workbook><workbookPr date1904="1"/><sheets><sheet name="S" id="rId1"/></sheets></workbook>`,
		"xl/worksheets/sheet1.xml": sheetOf(landings + `<row r="3"><c r="A3" s="1"><v>42797</v></c></row>`),
	}
	info, rows := cells(t, book.zip(t), "", Options{})
	assert.Equal(t, "3: date(2021-03-04) null() null() null()", rows[0])
	assert.Equal(t, "1904", info.Decisions[1].Value)
}

func TestHeaderOfASheet(t *testing.T) {
	title := `<row r="1"><c r="A1" t="str"><v>Report</v></c></row>`
	data := `<row r="5"><c r="A5"><v>1</v></c><c r="F5"><v>9</v></c></row><row><c><v>2</v></c></row>`
	book := parts{"xl/worksheets/sheet1.xml": sheetOf(title + landings + data)}
	info, rows := cells(t, book.zip(t), "Landings", Options{})
	assert.Equal(t, []string{"No", "Net weight", "on", "ok", "column 5", "column 6"}, info.Names)
	assert.Equal(t, []string{"5: number(1) null() null() null() null() number(9)", "6: number(2) null() null() null() null() null()"}, rows)
	assert.EqualValues(t, 2, info.HeaderRow)
	assert.Equal(t, []table.Line{{Number: 1, Text: "Report", Reason: "above-header"}}, info.Above)
	assert.True(t, info.Typed)

	info, rows = cells(t, book.zip(t), "", Options{HeaderRow: -1})
	assert.Equal(t, "column 1", info.Names[0])
	assert.Len(t, rows, 3)
	info, _ = cells(t, book.zip(t), "buyers", Options{})
	assert.Equal(t, []string{"name"}, info.Names)
	assert.Contains(t, info.Decisions[0].Why, "as told")
	info, rows = cells(t, parts{"xl/worksheets/sheet1.xml": sheetOf(`<row><c><v>1</v></c><c><v>2</v></c></row>`)}.zip(t), "", Options{})
	assert.Equal(t, []string{"column 1", "column 2"}, info.Names)
	assert.Equal(t, []string{"1: number(1) number(2)"}, rows)
}

func TestWorkbooksThatCannotBeRead(t *testing.T) {
	big := strings.Repeat("0", 70<<20)
	for want, p := range map[string]parts{
		"the sheet is empty":       {"xl/worksheets/sheet1.xml": sheetOf("")},
		"no sheet":                 {"xl/workbook.xml": "<workbook/>"},
		"is damaged":               {"xl/worksheets/sheet1.xml": "<worksheet><sheetData><row><c><v>1</v>"},
		"a text that the workbook": {"xl/worksheets/sheet1.xml": sheetOf(`<row><c t="s"><v>99</v></c></row>`)},
		"unpacks to more":          {"xl/worksheets/sheet1.xml": sheetOf(`<row><c><v>` + big + `</v></c></row>`)},
		"protected":                {"EncryptedPackage": "x"},
		"damaged: XML syntax":      {"xl/workbook.xml": "<workbook><sheets><sheet name='a' <"},
		"is not in the workbook":   {"xl/_rels/workbook.xml.rels": `<R><Relationship Id="rId1" Type="x/worksheet" Target="none.xml"/></R>`},
		"unpacks to more than a":   {"xl/worksheets/sheet1.xml": sheetOf(`<row><c r="ZZZZ1"><v>1</v></c></row>`)},
	} {
		r := p.zip(t)
		_, err := Open(r, r.Size(), "b", "", Options{})
		if assert.Error(t, err, want) {
			assert.Contains(t, err.Error(), want)
		}
	}
	r := parts{}.zip(t)
	_, err := Open(r, r.Size()-30, "b", "", Options{})
	assert.ErrorContains(t, err, "no whole zip archive")
	_, err = Open(r, r.Size(), "b", "Landing", Options{})
	assert.ErrorContains(t, err, `Did you mean "Landings"?`)
	_, err = Open(parts{"xl/worksheets/sheet1.xml": sheetOf(landings)}.zip(t), 0, "b", "", Options{})
	assert.Error(t, err)
}

// A sheet that breaks off is an error and no short table.
func TestSheetThatBreaksOff(t *testing.T) {
	rows := strings.Repeat(`<row><c><v>1</v></c><c><v>2</v></c></row>`, 9000)
	r := parts{"xl/worksheets/sheet1.xml": "<worksheet><sheetData>" + landings + rows}.zip(t)
	src, err := Open(r, r.Size(), "b", "", Options{})
	require.NoError(t, err)
	for err == nil {
		b := &table.Block{}
		err = src.Next(b)
	}
	assert.NotErrorIs(t, err, io.EOF)
	assert.ErrorContains(t, err, "the sheet is damaged after row 9002")
}

func TestFormats(t *testing.T) {
	for code, want := range map[string]format{
		"General": plainNumber, "0.00": plainNumber, `#,##0" days"`: plainNumber, `0\d`: plainNumber, "[Red]0": plainNumber, "@": plainNumber,
		"yyyy-mm-dd": asDate, "d. mmmm yyyy": asDate, "mmm": asDate, "hh:mm:ss": asTime, "[h]:mm": asDuration, "[mm]:ss": asDuration, "00000": asDigits + 5, "0": plainNumber, "mm:ss": asTime, "dd.mm.yy hh:mm": asTimestamp,
		`[$-407]d. mmm yy;@`: asDate, "0.00E+00": plainNumber, "[": plainNumber,
	} {
		assert.Equal(t, want, formatOf(code), code)
	}
}

func FuzzSheet(f *testing.F) {
	for _, s := range []string{landings, `<row r="9"><c r="B9" t="b"><v>1</v></c></row>`, `<row><c t="inlineStr"><is><t>x`, `<c r="`, `<row r="-1"><c s="1"><v>1e9</v></c></row>`} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, rows string) {
		r := parts{"xl/worksheets/sheet1.xml": sheetOf(rows)}.zip(t)
		src, err := Open(r, r.Size(), "b", "", Options{})
		b := &table.Block{}
		for err == nil {
			b.Reset()
			if err = src.Next(b); err == nil && len(b.Spans) != b.Rows*b.Width {
				t.Fatal("a row is not as wide as the table")
			}
		}
	})
}

// What a sheet hides, and what is merged in it, is told; the cells are read all the same.
func TestLayoutOfASheet(t *testing.T) {
	sheet := `<worksheet><cols><col min="1" max="1" hidden="0"/><col min="2" max="3" hidden="1"/></cols><sheetData>` +
		`<row r="1"><c t="str"><v>quay</v></c><c t="str"><v>no</v></c><c t="str"><v>x</v></c></row>` +
		`<row r="2"><c t="str"><v>North</v></c><c><v>1</v></c></row><row r="3" hidden="1"><c/><c><v>2</v></c></row><row r="4" hidden="true"><c r="B4"><v>3</v></c></row>` +
		`</sheetData><mergeCells count="1"><mergeCell ref="A2:A4"/></mergeCells></worksheet>`
	r := parts{"xl/worksheets/sheet1.xml": sheet}.zip(t)
	src, err := Open(r, r.Size(), "book.xlsx", "", Options{})
	require.NoError(t, err)
	b := &table.Block{}
	require.NoError(t, src.Next(b))
	assert.Equal(t, 3, b.Rows)
	var notes []string
	for _, n := range b.Learned.Notes {
		notes = append(notes, n.Kind.String()+": "+n.Say)
	}
	assert.Equal(t, []string{
		"merged-cells: 1 range of cells is merged (A2:A4): only the first cell of each has a value",
		"hidden-rows: 2 rows are hidden in the sheet (3, 4); hidden rows are read as the others",
		"hidden-columns: 2 columns are hidden in the sheet (B, C); hidden columns are read as the others",
	}, notes)
	assert.Equal(t, "AB12", table.Address(28, 12))
	assert.Equal(t, "ZZ1", table.Address(702, 1))
	assert.Equal(t, "AAA1", table.Address(703, 1))
}

// A million rows that have a look and no value take no memory and little time.
func TestRowsWithoutValues(t *testing.T) {
	r := parts{"xl/worksheets/sheet1.xml": sheetOf(`<row><c t="str"><v>a</v></c></row><row><c><v>1</v></c></row>` + strings.Repeat(`<row s="1" ht="20"><c s="1"/><c s="2"/></row>`, 1_000_000) + `<row><c><v>2</v></c></row>`)}.zip(t)
	src, err := Open(r, r.Size(), "book.xlsx", "", Options{})
	require.NoError(t, err)
	b := &table.Block{}
	require.NoError(t, src.Next(b))
	assert.Equal(t, 2, b.Rows)
	assert.EqualValues(t, 1_000_003, b.Line(1)+2)
}

// Cells that stand in another order than the columns are none the worse; two at one place are.
func TestCellsOutOfOrder(t *testing.T) {
	cellAt := func(address, text string) string { return `<c r="` + address + `" t="str"><v>` + text + `</v></c>` }
	r := parts{"xl/worksheets/sheet1.xml": sheetOf(`<row r="1">` + cellAt("C1", "c") + cellAt("A1", "a") + cellAt("B1", "b") + `</row><row r="2">` + cellAt("B2", "2") + cellAt("A2", "1") + `</row>`)}.zip(t)
	src, err := Open(r, r.Size(), "b", "", Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "b", "c"}, src.Info().Names)
	b := &table.Block{}
	require.NoError(t, src.Next(b))
	assert.Equal(t, []string{"1", "2", ""}, b.RowCells(0))
	r = parts{"xl/worksheets/sheet1.xml": sheetOf(`<row r="1">` + cellAt("A1", "a") + cellAt("A1", "b") + `</row>`)}.zip(t)
	_, err = Open(r, r.Size(), "b", "", Options{})
	assert.ErrorContains(t, err, "row 1 has the cell A1 twice")
}

// Entities that the file defines are not known: nothing is expanded, and nothing is fetched.
func TestEntitiesAreNotExpanded(t *testing.T) {
	tricks := `<!DOCTYPE x [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c SYSTEM "file:///etc/passwd">]>`
	r := parts{"xl/worksheets/sheet1.xml": tricks + sheetOf(`<row><c t="str"><v>a</v></c></row><row><c t="str"><v>&b;&b;</v></c></row><row><c t="str"><v>&c;&amp;</v></c></row>`)}.zip(t)
	_, err := Open(r, r.Size(), "b", "", Options{})
	assert.ErrorIs(t, err, errDocumentType)
	r = parts{"xl/worksheets/sheet1.xml": sheetOf(`<row><c t="str"><v>a</v></c></row><row><c t="str"><v>&b;&b;</v></c></row><row><c t="str"><v>&c;&amp;</v></c></row>`)}.zip(t)
	src, err := Open(r, r.Size(), "b", "", Options{})
	require.NoError(t, err)
	b := &table.Block{}
	require.NoError(t, src.Next(b))
	assert.Equal(t, "&b;&b;", string(b.Cell(0, 0)))
	assert.Equal(t, "&c;&", string(b.Cell(1, 0)))
}

// Shared texts without end are told before they fill the memory, however short each is.
func TestSharedTextsWithoutEnd(t *testing.T) {
	defer func(most int) { maxStrings = most }(maxStrings)
	maxStrings = 1 << 20
	for _, one := range []string{"<si/>", "<si><t>a</t></si>", "<si><t>" + strings.Repeat("long ", 500) + "</t></si>"} {
		r := parts{"xl/shared.xml": "<sst>" + strings.Repeat(one, 70_000) + "</sst>"}.zip(t)
		_, err := Open(r, r.Size(), "b", "", Options{})
		assert.ErrorIs(t, err, ErrTooLarge)
	}
}

// Parts are read in the encoding that they say or show, and under names with backslashes; formats of dates that only
// programs of some languages have are dates, and times below a day.
func TestPartsOfOtherPrograms(t *testing.T) {
	sheet := sheetOf(landings + `<row r="3"><c r="A3" t="str"><v>Größe</v></c><c r="B3" s="0"><v>44259</v></c><c r="C3" s="1"><v>44259</v></c><c r="D3" s="1"><v>0.25</v></c></row>`)
	styles := `<styleSheet><cellXfs><xf numFmtId="31"/><xf numFmtId="55"/></cellXfs></styleSheet>`
	encoded := func(e encoding.Encoding, text string) string {
		out, err := e.NewEncoder().String(text)
		require.NoError(t, err)
		return out
	}
	for name, p := range map[string]parts{
		"utf-8":      {"xl/worksheets/sheet1.xml": sheet, "xl/styles.xml": styles},
		"backslash":  {`xl\worksheets\sheet1.xml`: sheet, "xl/styles.xml": styles},
		"utf-16":     {"xl/worksheets/sheet1.xml": encoded(unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), `<?xml version="1.0" encoding="UTF-16"?>`+sheet), "xl/styles.xml": encoded(unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM), styles)},
		"iso-8859-1": {"xl/worksheets/sheet1.xml": encoded(charmap.ISO8859_1, `<?xml version="1.0" encoding="iso-8859-1"?>`+sheet), "xl/styles.xml": styles},
	} {
		_, rows := cells(t, p.zip(t), "", Options{})
		assert.Contains(t, strings.Join(rows, "\n"), "text(Größe) date(2021-03-04) date(2021-03-04) date(06:00:00)", name)
	}
}

// Formulas are told, and those without a stored value by name.
func TestFormulasAreTold(t *testing.T) {
	r := parts{"xl/worksheets/sheet1.xml": sheetOf(landings + `<row r="3"><c r="A3"><f>1+1</f><v>2</v></c><c r="B3"><f>1+1</f></c></row>`)}.zip(t)
	src, err := Open(r, r.Size(), "book.xlsx", "", Options{})
	require.NoError(t, err)
	b := &table.Block{}
	require.NoError(t, src.Next(b))
	require.Len(t, b.Learned.Notes, 2)
	assert.Equal(t, "2 cells are worked out by a formula; the value that was stored last is read", b.Learned.Notes[0].Say)
	assert.Contains(t, b.Learned.Notes[1].Say, "1 formula has (row 3) no stored value")
	assert.Equal(t, "1 other sheets are hidden, and left out of book.xlsx#*: Old", src.Info().Notes[0].Say)
}
