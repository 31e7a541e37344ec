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

	"junvo/internal/table"
	"junvo/internal/table/tabletest"
)

// Workbooks in the OpenDocument format and in one file of XML.

// document makes a workbook of what stands within office:spreadsheet.
func documentOf(t testing.TB, sheets string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"mimetype":              "application/vnd.oasis.opendocument.spreadsheet",
		"META-INF/manifest.xml": `<manifest:manifest xmlns:manifest="x"/>`,
		"content.xml": `<?xml version="1.0" encoding="UTF-8"?><office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x">
<office:automatic-styles><style:style style:name="ta2"><style:table-properties table:display="false"/></style:style></office:automatic-styles>
<office:body><office:spreadsheet>` + sheets + `</office:spreadsheet></office:body></office:document-content>`,
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.String()
}

// cellsOf reads a sheet: its names, and of each row the cells, with how they are stored.
func cellsOf(t testing.TB, src *Source, err error) (names []string, rows []string, notes []string) {
	t.Helper()
	require.NoError(t, err)
	for {
		b := &table.Block{}
		err := src.Next(b)
		if errors.Is(err, io.EOF) {
			return src.Info().Names, rows, notes
		}
		require.NoError(t, err)
		for _, n := range b.Learned.Notes {
			notes = append(notes, n.Say)
		}
		for r := range b.Rows {
			var row []string
			for c := range b.Width {
				row = append(row, string(b.Cell(r, c))+":"+b.Kinds[r*b.Width+c].String())
			}
			rows = append(rows, fmt.Sprintf("%d ", b.Line(r)+src.Info().Files[0].FirstLine)+strings.Join(row, " | "))
		}
	}
}

const odsHeader = `<table:table-row><table:table-cell office:value-type="string"><text:p>a</text:p></table:table-cell><table:table-cell
 office:value-type="string"><text:p>b</text:p></table:table-cell></table:table-row>`

func TestOpenDocument(t *testing.T) {
	row := func(cells string) string { return "<table:table-row>" + cells + "</table:table-row>" }
	of := func(kind, more, text string) string {
		return fmt.Sprintf(`<table:table-cell office:value-type=%q %s><text:p>%s</text:p></table:table-cell>`, kind, more, text)
	}
	for cells, want := range map[string]string{
		of("float", `office:value="1240.5"`, "1.240,50") + of("percentage", `office:value="0.125"`, "12,5 %"):                                             "1240.5:number | 0.125:number",
		of("currency", `office:currency="EUR" office:value="7.5999999999999996"`, "7,60 €") + of("float", `office:value="1E+20"`, "x"):                    "7.6:number | 100000000000000000000:number",
		of("date", `office:date-value="2021-03-04"`, "4.3.21") + of("date", `office:date-value="2021-03-04T06:05:00.000"`, "x"):                           "2021-03-04:date | 2021-03-04T06:05:00:date",
		of("date", `office:date-value="2021-03-04T00:00:00"`, "x") + of("date", `office:date-value="2021-03-04T06:05:00.25"`, "x"):                        "2021-03-04T00:00:00:date | 2021-03-04T06:05:00.25:date",
		of("time", `office:time-value="PT06H05M00S"`, "6:05") + of("time", `office:time-value="PT6H5M0.5S"`, "x"):                                         "06:05:00:date | 06:05:00.5:date",
		of("time", `office:time-value="P1DT1H"`, "25:00") + of("boolean", `office:boolean-value="true"`, "WAHR"):                                          "25:00:text | true:boolean",
		of("string", "", "a<text:s/>b<text:s text:c=\"3\"/>c<text:tab/>d<text:line-break/>e") + of("string", "", " x\n  y "):                              "a b   c\td\ne:text |  x y :text",
		of("string", "", "a</text:p><text:p>b<text:span>c</text:span>") + of("string", "", "1&lt;&amp;&#8364;"):                                           "a\nbc:text | 1<&€:text",
		of("string", "", "<office:annotation><text:p>a remark</text:p></office:annotation>x") + of("string", `office:string-value="y"`, "z"):              "x:text | y:text",
		`<table:table-cell/>` + of("string", "", "00417"):                                                                                                 ":null | 00417:text",
		of("string", "", "x") + `<table:covered-table-cell table:number-columns-repeated="3"/>`:                                                           "x:text | :null",
		of("string", `table:formula="of:=1/0" calcext:value-type="error"`, "#DIV/0!") + of("string", "", "#DIV/0!"):                                       "#DIV/0!:error | #DIV/0!:text",
		of("float", `office:value="0" calcext:value-type="error"`, "#DIV/0!") + of("string", `office:string-value="" calcext:value-type="error"`, "#N/A"): "#DIV/0!:error | #N/A:error",
		of("float", "", "12,5") + of("date", "", "4.3.21"):                                                                                                "12,5:text | 4.3.21:text",
		of("string", "", "<text:ruby><text:ruby-base>数</text:ruby-base><text:ruby-text>すう</text:ruby-text></text:ruby>量") + of("boolean", "", "ja"):       "数量:text | ja:text",
		of("string", `table:number-columns-repeated="2"`, "twice"):                                                                                        "twice:text | twice:text",
	} {
		d := documentOf(t, `<table:table table:name="S">`+odsHeader+row(cells)+`<table:table-row table:number-rows-repeated="1048574"><table:table-cell
			table:number-columns-repeated="16384"/></table:table-row></table:table>`)
		src, err := OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{})
		names, rows, _ := cellsOf(t, src, err)
		assert.Equal(t, []string{"a", "b"}, names, cells)
		assert.Equal(t, []string{"2 " + want}, rows, cells)
	}
}

func TestOpenDocumentSheets(t *testing.T) {
	one := `<table:table-cell office:value-type="float" office:value="1"/>`
	d := documentOf(t, `<table:table table:name="Hidden" table:style-name="ta2">`+odsHeader+`</table:table>
<table:table table:name="Landings"><office:forms/><table:table-column table:visibility="collapse" table:number-columns-repeated="2"/>
<table:table-header-rows>`+odsHeader+`</table:table-header-rows>
<table:table-row table:number-rows-repeated="3">`+one+one+`</table:table-row>
<table:table-row table:number-rows-repeated="5"><table:table-cell/></table:table-row>
<table:table-row table:visibility="filter">`+strings.Replace(one, "office", `table:number-columns-spanned="2" office`, 1)+`<table:covered-table-cell/></table:table-row>
<table:table-row-group><table:table-row>`+one+`<table:table-cell office:value-type="string"><text:p>x</text:p><table:table table:name="within"><table:table-row/></table:table></table:table-cell></table:table-row></table:table-row-group>
</table:table><table:table table:name="Empty"/>`)
	names, err := DocumentSheets(strings.NewReader(d), int64(len(d)))
	require.NoError(t, err)
	assert.Equal(t, []string{"Landings"}, names)
	src, err := OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{})
	_, rows, notes := cellsOf(t, src, err)
	assert.Equal(t, []string{
		"2 1:number | 1:number", "3 1:number | 1:number", "4 1:number | 1:number", "10 1:number | :null", "11 1:number | x:text",
	}, rows)
	assert.Equal(t, "Landings", src.Info().Decisions[0].Value)
	assert.Contains(t, src.Info().Decisions[0].Why, "the others are Hidden, Empty")
	all := strings.Join(notes, "; ")
	for _, want := range []string{"1 range of cells is merged (A10)", "1 row is hidden in the sheet (10)", "2 columns are hidden"} {
		assert.Contains(t, all, want)
	}
	_, err = OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "Landing", Options{})
	assert.ErrorContains(t, err, `Did you mean "Landings"?`)
	_, err = OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "Empty", Options{})
	assert.ErrorIs(t, err, ErrEmpty)
}

const flatHead = `<?xml version="1.0" encoding="windows-1252"?><?mso-application progid="Excel.Sheet"?>
<Workbook xmlns="urn:schemas-microsoft-com:office:spreadsheet" xmlns:ss="urn:schemas-microsoft-com:office:spreadsheet">`

func flatOf(text string) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }
}

func TestFlat(t *testing.T) {
	text := flatHead + `<Worksheet ss:Name="Kaputt"><Table/><WorksheetOptions><Visible>SheetHidden</Visible></WorksheetOptions></Worksheet>
<Worksheet ss:Name="Landings"><Table><Column ss:Hidden="1" ss:Span="1"/>
<Row><Cell><Data ss:Type="String">V` + "\xe4" + `sel</Data></Cell><Cell><Data ss:Type="String">kg</Data><Comment><Data ss:Type="String">no</Data></Comment></Cell><Cell><Data ss:Type="String">c</Data></Cell></Row>
<Row ss:Index="4" ss:Span="2"><Cell ss:Index="2"><Data ss:Type="Number">7.5999999999999996</Data></Cell><Cell><Data ss:Type="DateTime">2021-03-04T00:00:00.000</Data></Cell></Row>
<Row ss:Hidden="1"><Cell ss:MergeAcross="1"><Data ss:Type="Boolean">1</Data></Cell><Cell ss:Formula="=1/0"><Data ss:Type="Error">#DIV/0!</Data></Cell></Row>
<Row><Cell><Data ss:Type="String"><B>a</B> b&#10;c</Data></Cell><Cell><Data ss:Type="DateTime">1899-12-31T06:05:00.000</Data></Cell><Cell><Data ss:Type="DateTime">2021-03-04T06:05:00.000</Data></Cell></Row>
<Row/></Table></Worksheet></Workbook>`
	names, err := FlatSheets(flatOf(text))
	require.NoError(t, err)
	assert.Equal(t, []string{"Landings"}, names)
	src, err := OpenFlat(flatOf(text), -1, "x.xls", "", Options{})
	columns, rows, notes := cellsOf(t, src, err)
	assert.Equal(t, []string{"Väsel", "kg", "c"}, columns)
	assert.Equal(t, []string{
		"4 :null | 7.6:number | 2021-03-04:date", "7 true:boolean | :null | #DIV/0!:error", "8 a b\nc:text | 06:05:00:date | 2021-03-04T06:05:00:date",
	}, rows)
	all := strings.Join(notes, "; ")
	for _, want := range []string{"1 range of cells is merged (A7)", "1 row is hidden in the sheet (7)", "2 columns are hidden", "1 cell is worked out by a formula"} {
		assert.Contains(t, all, want)
	}
}

// What is cut off, locked or too large is an error.
func TestOtherWorkbooksThatCannotBeRead(t *testing.T) {
	whole := flatHead + `<Worksheet ss:Name="S"><Table><Row><Cell><Data ss:Type="String">a</Data></Cell></Row>`
	for cut := len(flatHead); cut < len(whole); cut += 7 {
		src, err := OpenFlat(flatOf(whole[:cut]), -1, "x.xls", "", Options{})
		for err == nil {
			err = src.Next(&table.Block{})
		}
		assert.NotErrorIs(t, err, io.EOF, whole[:cut])
	}
	d := documentOf(t, `<table:table table:name="S"><table:table-row table:number-rows-repeated="9999999999"><table:table-cell table:number-columns-repeated="99999999"
		office:value-type="string"><text:p>x</text:p></table:table-cell></table:table-row></table:table>`)
	_, err := OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{})
	assert.ErrorIs(t, err, ErrTooLarge)
	d = documentOf(t, `<table:table table:name="S"><table:table-row><table:table-cell office:value-type="string"><text:p><text:s text:c="99999999999"/></text:p></table:table-cell></table:table-row></table:table>`)
	_, err = OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{})
	assert.ErrorIs(t, err, ErrTooLarge)
	d = strings.ReplaceAll(documentOf(t, ""), "x", "x")
	_, err = OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{})
	assert.ErrorIs(t, err, ErrNoSheet)
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("META-INF/manifest.xml")
	require.NoError(t, err)
	_, err = io.WriteString(w, `<m:manifest xmlns:m="x"><m:file-entry><m:encryption-data/></m:file-entry></m:manifest>`)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	_, err = OpenDocument(bytes.NewReader(b.Bytes()), int64(b.Len()), "x.ods", "", Options{})
	assert.ErrorIs(t, err, ErrProtected)
}

// The shared suite holds for both.
func TestSuiteOfOthers(t *testing.T) {
	var ods, flat strings.Builder
	var want [][]string
	for i := range 9_000 {
		no, text := fmt.Sprint(i), fmt.Sprintf("some text %d", i%7)
		fmt.Fprintf(&ods, `<table:table-row><table:table-cell office:value-type="float" office:value="%s"/><table:table-cell office:value-type="string"><text:p>%s</text:p></table:table-cell></table:table-row>`, no, text)
		fmt.Fprintf(&flat, `<Row><Cell><Data ss:Type="Number">%s</Data></Cell><Cell><Data ss:Type="String">%s</Data></Cell></Row>`, no, text)
		want = append(want, []string{no, text})
	}
	d := documentOf(t, `<table:table table:name="S">`+odsHeader+ods.String()+`</table:table>`)
	tabletest.Sources(t, func() table.Source {
		src, err := OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{})
		require.NoError(t, err)
		return src
	}, []string{"a", "b"}, want)
	text := flatHead + `<Worksheet ss:Name="S"><Table><Row><Cell><Data ss:Type="String">a</Data></Cell><Cell><Data ss:Type="String">b</Data></Cell></Row>` + flat.String() + `</Table></Worksheet></Workbook>`
	tabletest.Sources(t, func() table.Source {
		src, err := OpenFlat(flatOf(text), int64(len(text)), "x.xls", "", Options{})
		require.NoError(t, err)
		return src
	}, []string{"a", "b"}, want)
}

// Whatever stands in the XML, it is read within bounds, or there is an error.
func FuzzOthers(f *testing.F) {
	f.Add(`<table:table table:name="S">` + odsHeader + `<table:table-row table:number-rows-repeated="3"><table:table-cell office:value-type="time" office:time-value="PT1H2M3S"/></table:table-row></table:table>`)
	f.Add(flatHead + `<Worksheet ss:Name="S"><Table><Row ss:Index="3"><Cell ss:Index="2"><Data ss:Type="DateTime">1899-12-31T06:05:00.000</Data></Cell></Row></Table></Worksheet>`)
	f.Fuzz(func(t *testing.T, text string) {
		drain := func(src *Source, err error) {
			for n := 0; err == nil && n < 20; n++ {
				err = src.Next(&table.Block{})
			}
		}
		d := documentOf(t, text)
		drain(OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{}))
		drain(OpenFlat(flatOf(text), int64(len(text)), "x.xls", "", Options{}))
	})
}

// A few bytes may claim any number of cells; no more than a bound are read.
func TestCellsThatAreClaimed(t *testing.T) {
	d := documentOf(t, `<table:table table:name="S">`+odsHeader+`<table:table-row table:number-rows-repeated="1000000"><table:table-cell office:value-type="float" office:value="1"
		table:number-columns-repeated="16384"/></table:table-row></table:table>`)
	src, err := OpenDocument(strings.NewReader(d), int64(len(d)), "x.ods", "", Options{})
	for err == nil {
		err = src.Next(&table.Block{})
	}
	assert.ErrorIs(t, err, ErrTooLarge)
}
