package workbook

import (
	"archive/zip"
	"cmp"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"github.com/klauspost/compress/flate"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Workbooks in the OpenDocument format (ISO/IEC 26300), ODS for short: one part has all sheets, one after the other.
// A cell has its value in an attribute, whatever its text looks like, and may stand for many alike.

// OpenDocument opens a sheet of a workbook in the OpenDocument format.
func OpenDocument(r io.ReaderAt, size int64, name, sheet string, o Options) (*Source, error) {
	d, err := openDocument(r, size)
	if err != nil {
		return nil, err
	}
	return openSheet(d, "workbook (ODS)", size, name, sheet, o)
}

// DocumentSheets returns the names of the sheets of a workbook in the OpenDocument format that have a cell and are not
// hidden.
func DocumentSheets(r io.ReaderAt, size int64) ([]string, error) {
	d, err := openDocument(r, size)
	if err != nil {
		return nil, err
	}
	return filled(d)
}

// document is an open workbook. Its part is read as those of others are.
type document struct {
	book
	hidden map[string]bool // the styles of sheets that are not shown
}

// content is the part that has the sheets.
const content = "content.xml"

func openDocument(r io.ReaderAt, size int64) (*document, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("it is no whole zip archive: %w", err)
	}
	z.RegisterDecompressor(zip.Deflate, flate.NewReader)
	d := &document{book: book{zip: z}, hidden: map[string]bool{}}
	if err := d.tokens("META-INF/manifest.xml", func(x *decoder) error {
		for {
			start, err := x.start()
			if start == nil {
				return err
			}
			if start.Name.Local == "encryption-data" {
				return ErrProtected
			}
		}
	}); err != nil {
		if errors.Is(err, ErrProtected) {
			return nil, ErrProtected
		}
		return nil, err
	}
	err = d.tokens(content, d.readSheets)
	if err == nil && len(d.list) == 0 {
		err = ErrNoSheet
	}
	return d, err
}

// readSheets finds the sheets, and which of them are shown.
func (d *document) readSheets(x *decoder) error {
	style := ""
	for {
		start, err := x.start()
		if start == nil {
			return err
		}
		switch start.Name.Local {
		case "style":
			style = attr(start, "name")
		case "table-properties":
			if attr(start, "display") == "false" {
				d.hidden[style] = true
			}
		case "table":
			if start.Name.Space != "table" {
				continue
			}
			if len(d.list) == maxParts {
				return ErrTooLarge
			}
			d.list = append(d.list, Sheet{
				Name: attr(start, "name"), Hidden: d.hidden[attr(start, "style-name")],
				part: strconv.Itoa(len(d.list)),
			})
			if err := x.leave("table"); err != nil { // one within it is no sheet
				return err
			}
		}
	}
}

func (d *document) decisions() []table.Decision { return nil }

func (d *document) rows(s *Sheet) (rows, error) {
	f, err := d.open(content)
	if err != nil {
		return nil, err
	}
	r := &documentRows{x: newDecoder(f), part: f}
	n, _ := strconv.Atoi(s.part) // we made it
	for {
		start, err := r.x.start()
		if start == nil || err != nil {
			f.Close()
			return nil, cmp.Or(err, io.ErrUnexpectedEOF)
		}
		if start.Name.Local != "table" || start.Name.Space != "table" {
			continue
		}
		if n == 0 {
			return r, nil
		}
		if n--; r.x.leave("table") != nil {
			f.Close()
			return nil, io.ErrUnexpectedEOF
		}
	}
}

// leave reads to the end of an element of this name that has begun.
func (d *decoder) leave(name string) error {
	for depth := 1; depth > 0; {
		t, err := d.within()
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.StartElement:
			if t.Name.Local == name {
				depth++
			}
		case xml.EndElement:
			if t.Name.Local == name {
				depth--
			}
		}
	}
	return nil
}

// documentRows reads the rows of a sheet. It implements [rows].
type documentRows struct {
	repeated int64 // cells that stand for themselves and others, in rows that do
	x        *decoder
	part     io.Closer
	row      int64 // the number of the row that was read last
	cells    []cell
	again    int64 // how often it comes once more
	skip     int64 // how many blank rows stand before it in the count
	layout   layout
}

func (r *documentRows) at() (int64, []cell) { return r.row, r.cells }

func (r *documentRows) notes() []table.Note { return r.layout.notes() }

func (r *documentRows) close() { r.part.Close() }

// next reads the next row. One that stands for many is given as often, and blank ones are counted.
func (r *documentRows) next() error {
	if r.again > 0 {
		r.again--
		r.row++
		return nil
	}
	for {
		t, err := r.x.within()
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.EndElement:
			if t.Name.Local == "table" {
				return io.EOF
			}
		case xml.StartElement:
			switch t.Name.Local {
			case "shapes", "table", "named-expressions":
				if err := r.x.leave(t.Name.Local); err != nil {
					return err
				}
			case "table-column":
				if v := attr(&t, "visibility"); v == "collapse" || v == "filter" {
					r.layout.columns += repeated(&t, "number-columns-repeated")
				}
			case "table-row":
				return r.readRow(&t)
			}
		}
	}
}

// repeated returns how many an element stands for.
func repeated(t *xml.StartElement, key string) int64 {
	n, err := strconv.ParseInt(attr(t, key), 10, 64)
	if err != nil || n < 1 {
		return 1
	}
	return min(n, 1<<31)
}

func (r *documentRows) readRow(start *xml.StartElement) error {
	r.row += r.skip + 1
	r.skip = 0
	r.cells = r.cells[:0]
	times := repeated(start, "number-rows-repeated")
	if v := attr(start, "visibility"); v == "collapse" || v == "filter" {
		r.layout.rows += times
		r.layout.firstRows = name(r.layout.firstRows, strconv.FormatInt(r.row, 10))
	}
	column := int64(0)
	for {
		t, err := r.x.within()
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.EndElement:
			if t.Name.Local != "table-row" {
				continue
			}
			if len(r.cells) == 0 {
				r.skip = times - 1
			} else {
				r.again = times - 1
				if r.repeated += r.again * int64(len(r.cells)); r.repeated > maxRepeated {
					return ErrTooLarge
				}
			}
			return nil
		case xml.StartElement:
			if t.Name.Local != "table-cell" && t.Name.Local != "covered-table-cell" {
				continue
			}
			if column, err = r.readCell(&t, column); err != nil {
				return err
			}
		}
	}
}

// maxRepeated is how many cells of a sheet may be there only because a row stands for others: a few bytes may claim any
// number.
const maxRepeated = 100_000_000

// readCell reads a cell that stands in a column, and returns the column after it and those that it stands for.
func (r *documentRows) readCell(start *xml.StartElement, column int64) (int64, error) {
	times := repeated(start, "number-columns-repeated")
	text, err := r.x.paragraphs(start.Name.Local)
	if err != nil {
		return 0, err
	}
	if attr(start, "formula") != "" {
		r.layout.formula(attr(start, "value-type") != "", r.row)
	}
	if repeated(start, "number-columns-spanned") > 1 || repeated(start, "number-rows-spanned") > 1 {
		r.layout.merged++
		r.layout.firstMerged = name(r.layout.firstMerged, table.Address(int(column)+1, r.row))
	}
	c := documentCell(start, text)
	if c.kind == value.StoredNull {
		return column + times, nil
	}
	if column+times > maxColumns {
		return 0, ErrTooLarge
	}
	for i := range times {
		c.column = int(column + i)
		r.cells = append(r.cells, c)
	}
	return column + times, nil
}

// documentCell returns what a cell holds.
func documentCell(start *xml.StartElement, text string) cell {
	if text != "" && isError(start) {
		return cell{text: text, kind: value.StoredError}
	}
	switch kind := attr(start, "value-type"); kind {
	case "float", "percentage", "currency":
		if v := strings.TrimSpace(attr(start, "value")); v != "" {
			return cell{text: meant(v), kind: value.StoredNumber}
		}
		return cell{text: text}
	case "date":
		if v := moment(attr(start, "date-value")); v != "" {
			return cell{text: v, kind: value.StoredDate}
		}
		return cell{text: text}
	case "time":
		if clock, ok := clockOf(attr(start, "time-value")); ok {
			return cell{text: clock, kind: value.StoredDate}
		}
		return cell{text: text}
	case "boolean":
		if v := attr(start, "boolean-value"); v != "" {
			return cell{text: v, kind: value.StoredBoolean}
		}
		return cell{text: text}
	case "string", "":
		if v := slices.IndexFunc(start.Attr, func(a xml.Attr) bool { return a.Name.Local == "string-value" }); v >= 0 {
			text = start.Attr[v].Value
		}
		if strings.HasPrefix(text, "#") && attr(start, "formula") != "" || strings.HasPrefix(text, "Err:") &&
			attr(start, "formula") != "" {
			return cell{text: text, kind: value.StoredError}
		}
		if text == "" && kind == "" {
			return cell{kind: value.StoredNull}
		}
	}
	return cell{text: text}
}

// isError reports whether a cell says in a value type of any namespace that it is an error.
func isError(start *xml.StartElement) bool {
	is := func(a xml.Attr) bool { return a.Name.Local == "value-type" && a.Value == "error" }
	return slices.ContainsFunc(start.Attr, is)
}

// moment returns a date, or a date with its time: with midnight, too, where that is written.
func moment(text string) string {
	date, clock, timed := strings.Cut(strings.TrimSpace(text), "T")
	if !timed {
		return date
	}
	if whole, fraction, has := strings.Cut(clock, "."); has && strings.Trim(fraction, "0") == "" {
		clock = whole
	}
	return date + "T" + clock
}

// clockOf returns a duration such as PT06H05M00S as a clock shows it.
func clockOf(text string) (string, bool) {
	rest, ok := strings.CutPrefix(text, "PT")
	hours, rest, ok1 := strings.Cut(rest, "H")
	minutes, rest, ok2 := strings.Cut(rest, "M")
	seconds, ok3 := strings.CutSuffix(rest, "S")
	if !ok || !ok1 || !ok2 || !ok3 {
		return "", false
	}
	whole, fraction, _ := strings.Cut(strings.ReplaceAll(seconds, ",", "."), ".")
	if fraction = strings.TrimRight(fraction, "0"); fraction != "" {
		fraction = "." + fraction
	}
	pad := func(s string) string { return strings.Repeat("0", max(0, 2-len(s))) + s }
	return pad(hours) + ":" + pad(minutes) + ":" + pad(whole) + fraction, strings.Trim(hours+minutes+whole+fraction,
		"0123456789.") == ""
}

// paragraphs returns the text of a cell up to its end: its paragraphs, a line each. Remarks do not belong to it.
func (d *decoder) paragraphs(end string) (string, error) {
	var text strings.Builder
	depth, lines := 0, 0
	for {
		t, err := d.within()
		if err != nil {
			return "", err
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "annotation", "frame", "table", "ruby-text":
				if err := d.leave(t.Name.Local); err != nil {
					return "", err
				}
			case "p", "h":
				if depth++; depth == 1 {
					if lines++; lines > 1 {
						text.WriteByte('\n')
					}
				}
			case "s":
				n := repeated(&t, "c")
				if n > maxToken {
					return "", ErrTooLarge
				}
				text.WriteString(strings.Repeat(" ", int(n)))
			case "tab":
				text.WriteByte('\t')
			case "line-break":
				text.WriteByte('\n')
			}
		case xml.EndElement:
			switch t.Name.Local {
			case end:
				return text.String(), nil
			case "p", "h":
				depth--
			}
		case xml.CharData:
			if depth > 0 {
				writeCollapsed(&text, string(t))
			}
		}
		if text.Len() > table.MaxCell {
			return "", ErrTooLarge
		}
	}
}

// writeCollapsed writes text in which white space of any length is one space, as the format has it; more is written by
// elements of its own.
func writeCollapsed(to *strings.Builder, text string) {
	space := false
	for _, r := range text {
		if r == ' ' || r == '\t' || r == '\n' || r == '\r' {
			space = true
			continue
		}
		if space {
			to.WriteByte(' ')
			space = false
		}
		to.WriteRune(r)
	}
	if space {
		to.WriteByte(' ')
	}
}
