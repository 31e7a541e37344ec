package workbook

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/klauspost/compress/flate"

	"junvo/internal/table"
	"junvo/internal/value"
)

// archive writes the parts of a workbook, sheet after sheet, each as a stream (ECMA-376,
// part 1: SpreadsheetML; part 2: the package).
type archive struct {
	zip    *zip.Writer
	part   io.Writer // of the sheet that is being written
	b      []byte    // not written yet
	row    int       // of the sheet
	sheets []string
	wide   []int        // how many columns each has
	rows   []int        // and rows, the heading among them
	noted  map[int]bool // sheets with notes, by number from 1
	fixed  []int        // the digits after the point of the looks beyond those that are there always; 0 for as many as there are
	err    error
}

func newArchive(w io.Writer) *archive {
	a := &archive{zip: zip.NewWriter(w), noted: map[int]bool{}}
	a.zip.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser,
		error,
	) {
		return flate.NewWriter(w, flate.BestSpeed)
	})
	return a
}

// look is how a cell looks; the numbers are the places in the styles part.
type look int

const (
	general look = iota
	dateLook
	clockLook
	momentLook
	textLook
	failedLook
	headLook
	linkLook
	numberHeadLook
	numLooks // the looks of columns of decimal numbers come after
)

// looks are the looks of the values of each type.
var looks = [value.NumTypes]look{
	value.Date: dateLook, value.Time: clockLook, value.Timestamp: momentLook, value.Text: textLook, value.Code: textLook,
}

const (
	mainSpace     = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
	relationSpace = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	packageSpace  = "http://schemas.openxmlformats.org/package/2006/"
	xmlHead       = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"
)

// styles writes the part that says how each look looks.
func (a *archive) styles() string {
	formats, looks := "", ""
	const first = 167 // the number of the next format
	for i, digits := range a.fixed {
		id := 0
		if digits > 0 {
			id = first + i
			formats += fmt.Sprintf(`<numFmt numFmtId="%d" formatCode="0.%s"/>`, id, strings.Repeat("0", digits))
		}
		looks += fmt.Sprintf(`<xf numFmtId="%d" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>`, id)
	}
	return fmt.Sprintf(stylesPart, 3+strings.Count(formats, "<"), formats, int(numLooks)+len(a.fixed), looks)
}

const stylesPart = xmlHead + `<styleSheet xmlns="` + mainSpace + `">` +
	`<numFmts count="%d"><numFmt numFmtId="164" formatCode="yyyy\-mm\-dd"/><numFmt numFmtId="165" formatCode="hh:mm:ss"/><numFmt numFmtId="166" formatCode="yyyy\-mm\-dd&quot;T&quot;hh:mm:ss"/>%s</numFmts>` +
	`<fonts count="3"><font><sz val="11"/><name val="Calibri"/></font><font><b/><sz val="11"/><name val="Calibri"/></font><font><u/><sz val="11"/><color rgb="FF1F5C99"/><name val="Calibri"/></font></fonts>` +
	`<fills count="3"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill><fill><patternFill patternType="solid"><fgColor rgb="FFF4C7B8"/></patternFill></fill></fills>` +
	`<borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>` +
	`<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs><cellXfs count="%d">` +
	`<xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/>` +
	`<xf numFmtId="164" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>` +
	`<xf numFmtId="165" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>` +
	`<xf numFmtId="166" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>` +
	`<xf numFmtId="49" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>` +
	`<xf numFmtId="0" fontId="0" fillId="2" borderId="0" xfId="0" applyFill="1"/>` +
	`<xf numFmtId="0" fontId="1" fillId="0" borderId="0" xfId="0" applyFont="1"/>` +
	`<xf numFmtId="0" fontId="2" fillId="0" borderId="0" xfId="0" applyFont="1"/>` +
	`<xf numFmtId="0" fontId="1" fillId="0" borderId="0" xfId="0" applyFont="1" applyAlignment="1"><alignment horizontal="right"/></xf>` +
	`%s</cellXfs><cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>`

// add writes a part.
func (a *archive) add(name, text string) {
	w, err := a.zip.Create(name)
	if err == nil {
		_, err = io.WriteString(w, text)
	}
	a.fail(err)
}

func (a *archive) fail(err error) {
	if a.err == nil {
		a.err = err
	}
}

// begin begins a sheet with columns of these names and widths in characters; the names
// stay in view, stand on each page that is printed, and those of numbers on the right.
func (a *archive) begin(name string, names []string, widths []int, isNumber func(column int) bool) {
	a.sheets, a.wide = append(a.sheets, name), append(a.wide, len(names))
	w, err := a.zip.Create(fmt.Sprintf("xl/worksheets/sheet%d.xml", len(a.sheets)))
	a.fail(err)
	a.part, a.row = w, 0
	a.text(xmlHead + `<worksheet xmlns="` + mainSpace + `" xmlns:r="` + relationSpace +
		`"><sheetPr><pageSetUpPr fitToPage="1"/></sheetPr><sheetViews><sheetView workbookViewId="0"`)
	if len(a.sheets) == 1 {
		a.text(` tabSelected="1"`)
	}
	a.text(`><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews><cols>`)
	for i, w := range widths {
		a.text(fmt.Sprintf(`<col min="%d" max="%d" width="%d" customWidth="1"/>`, i+1, i+1, w))
	}
	a.text(`</cols><sheetData>`)
	a.beginRow()
	for i, n := range names {
		l := headLook
		if isNumber(i) {
			l = numberHeadLook
		}
		a.string(i, l, []byte(n))
	}
	a.endRow()
}

func (a *archive) text(s string) { a.b = append(a.b, s...) }

func (a *archive) beginRow() {
	a.row++
	a.text(`<row r="`)
	a.b = strconv.AppendInt(a.b, int64(a.row), 10)
	a.text(`">`)
}

func (a *archive) endRow() {
	a.text(`</row>`)
	if len(a.b) > 64<<10 {
		a.flush()
	}
}

func (a *archive) flush() {
	if a.err == nil {
		_, a.err = a.part.Write(a.b)
	}
	a.b = a.b[:0]
}

// cell begins a cell, whose tag is left open.
func (a *archive) cell(column int, l look) {
	a.text(`<c r="`)
	a.b = table.AppendAddress(a.b, column+1, int64(a.row))
	if l != general {
		a.text(`" s="`)
		a.b = strconv.AppendInt(a.b, int64(l), 10)
	}
	a.text(`"`)
}

// empty writes a cell without a value, for its look.
func (a *archive) empty(column int, l look) {
	a.cell(column, l)
	a.text(`/>`)
}

// number writes a number in decimal text.
func (a *archive) number(column int, l look, digits []byte) {
	a.cell(column, l)
	a.text(`><v>`)
	a.b = append(a.b, digits...)
	a.text(`</v></c>`)
}

// truth writes a truth value.
func (a *archive) truth(column int, l look, is bool) {
	a.cell(column, l)
	if a.text(` t="b"><v>0</v></c>`); is {
		a.b[len(a.b)-len("0</v></c>")] = '1'
	}
}

// string writes text, which no program takes for anything else.
func (a *archive) string(column int, l look, text []byte) {
	a.cell(column, l)
	a.text(` t="inlineStr"><is><t xml:space="preserve">`)
	a.b = appendEscaped(a.b, text)
	a.text(`</t></is></c>`)
}

// appendEscaped appends text as XML has it. What the format would read as the code of a
// character, such as _x000D_, is escaped as the format has it.
func appendEscaped(dst, text []byte) []byte {
	for i, c := range text {
		switch c {
		case '&':
			dst = append(dst, "&amp;"...)
		case '<':
			dst = append(dst, "&lt;"...)
		case '>':
			dst = append(dst, "&gt;"...)
		case '"':
			dst = append(dst, "&quot;"...)
		case '\r': // which XML would read as another
			dst = append(dst, "_x000D_"...)
		case '_':
			if isCode(text[i:]) {
				dst = append(dst, "_x005F"...)
			}
			dst = append(dst, '_')
		default:
			dst = append(dst, c)
		}
	}
	return dst
}

// isCode reports whether text begins with _x, four hexadecimal digits and _.
func isCode(text []byte) bool {
	if len(text) < 7 || text[1] != 'x' || text[6] != '_' {
		return false
	}
	_, err := strconv.ParseUint(string(text[2:6]), 16, 16)
	return err == nil
}

// link is a cell from which one gets to another.
type link struct{ from, to string }

// end ends a sheet.
func (a *archive) end(links []link, notes []note) {
	a.rows = append(a.rows, a.row)
	a.text(`</sheetData><autoFilter ref="` + table.Address(1, 1) + ":" +
		table.Address(a.wide[len(a.wide)-1], int64(a.row)) + `"/>`)
	if len(links) > 0 {
		a.text(`<hyperlinks>`)
		for _, l := range links {
			a.text(`<hyperlink ref="` + l.from + `" location="` + l.to + `" display="` + l.to + `"/>`)
			if len(a.b) > 64<<10 {
				a.flush()
			}
		}
		a.text(`</hyperlinks>`)
	}
	a.text(`<pageSetup orientation="landscape" fitToWidth="1" fitToHeight="0"/>`)
	if len(notes) > 0 {
		a.text(`<legacyDrawing r:id="rId1"/>`)
	}
	a.text(`</worksheet>`)
	a.flush()
	if len(notes) > 0 {
		a.notes(notes)
	}
}

// note is a note on a cell.
type note struct {
	column, row int // from 0, and from 1
	text        string
}

// notes writes the notes of the sheet that has just ended: their text, and the boxes that
// they are shown in, which the format still has in VML.
func (a *archive) notes(notes []note) {
	n := len(a.sheets)
	a.noted[n] = true
	var comments, boxes bytes.Buffer
	comments.WriteString(xmlHead + `<comments xmlns="` + mainSpace +
		`"><authors><author>junvo</author></authors><commentList>`)
	boxes.WriteString(`<xml xmlns:v="urn:schemas-microsoft-com:vml" xmlns:o="urn:schemas-microsoft-com:office:office" xmlns:x="urn:schemas-microsoft-com:office:excel">` +
		`<v:shapetype id="_x0000_t202" coordsize="21600,21600" o:spt="202" path="m,l,21600r21600,l21600,xe"><v:stroke joinstyle="miter"/><v:path gradientshapeok="t" o:connecttype="rect"/></v:shapetype>`)
	for i, one := range notes {
		fmt.Fprintf(&comments, `<comment ref="%s" authorId="0"><text><t xml:space="preserve">%s</t></text></comment>`,
			table.Address(one.column+1, int64(one.row)), appendEscaped(nil, []byte(one.text)))
		fmt.Fprintf(&boxes, `<v:shape id="_x0000_s%d" type="#_x0000_t202" style="position:absolute;width:260px;height:120px;z-index:%d;visibility:hidden" fillcolor="#ffffe1" o:insetmode="auto">`+
			`<v:fill color2="#ffffe1"/><v:textbox/><x:ClientData ObjectType="Note"><x:MoveWithCells/><x:SizeWithCells/><x:AutoFill>False</x:AutoFill><x:Row>%d</x:Row><x:Column>%d</x:Column></x:ClientData></v:shape>`,
			1025+i, i+1, one.row-1, one.column)
	}
	comments.WriteString(`</commentList></comments>`)
	boxes.WriteString(`</xml>`)
	a.add(fmt.Sprintf("xl/comments%d.xml", n), comments.String())
	a.add(fmt.Sprintf("xl/drawings/vmlDrawing%d.vml", n), boxes.String())
	a.add(fmt.Sprintf("xl/worksheets/_rels/sheet%d.xml.rels", n), relations([][2]string{
		{"vmlDrawing", fmt.Sprintf("../drawings/vmlDrawing%d.vml", n)}, {"comments", fmt.Sprintf("../comments%d.xml", n)},
	}))
}

// relations makes a part that says where other parts are; their names are rId1 and so on.
func relations(list [][2]string) string {
	var b strings.Builder
	b.WriteString(xmlHead + `<Relationships xmlns="` + packageSpace + `relationships">`)
	for i, r := range list {
		fmt.Fprintf(&b, `<Relationship Id="rId%d" Type="%s/%s" Target="%s"/>`, i+1, relationSpace, r[0], r[1])
	}
	return b.String() + `</Relationships>`
}

// close writes the parts that name the others.
func (a *archive) close() error {
	types := xmlHead + `<Types xmlns="` + packageSpace + `content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>` +
		`<Default Extension="xml" ContentType="application/xml"/><Default Extension="vml" ContentType="application/vnd.openxmlformats-officedocument.vmlDrawing"/>`
	book := xmlHead + `<workbook xmlns="` + mainSpace + `" xmlns:r="` + relationSpace + `"><sheets>`
	part := func(name, kind string) {
		types += `<Override PartName="/xl/` + name + `" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.` + kind + `+xml"/>`
	}
	part("workbook.xml", "sheet.main")
	part("styles.xml", "styles")
	var list [][2]string
	names := ""
	for i, name := range a.sheets {
		n := i + 1
		names += fmt.Sprintf(`<definedName name="_xlnm._FilterDatabase" localSheetId="%d" hidden="1">%s!$A$1:$%s$%d</definedName>`,
			i, name, strings.TrimRight(table.Address(a.wide[i], 1), "1"), a.rows[i])
		names += fmt.Sprintf(`<definedName name="_xlnm.Print_Titles" localSheetId="%d">%s!$1:$1</definedName>`, i, name)
		book += fmt.Sprintf(`<sheet name="%s" sheetId="%d" r:id="rId%d"/>`, appendEscaped(nil, []byte(name)), n, n)
		list = append(list, [2]string{"worksheet", fmt.Sprintf("worksheets/sheet%d.xml", n)})
		part(fmt.Sprintf("worksheets/sheet%d.xml", n), "worksheet")
		if a.noted[n] {
			part(fmt.Sprintf("comments%d.xml", n), "comments")
		}
	}
	a.add("xl/styles.xml", a.styles())
	a.add("xl/workbook.xml", book+`</sheets><definedNames>`+names+`</definedNames></workbook>`)
	a.add("xl/_rels/workbook.xml.rels", relations(append(list, [2]string{"styles", "styles.xml"})))
	a.add("_rels/.rels", relations([][2]string{{"officeDocument", "xl/workbook.xml"}}))
	a.add("[Content_Types].xml", types+`</Types>`)
	a.fail(a.zip.Close())
	return a.err
}

// clipped cuts a text to that many characters.
func clipped(text string, most int) string {
	if utf8.RuneCountInString(text) <= most {
		return text
	}
	return string([]rune(text)[:most]) + "…"
}
