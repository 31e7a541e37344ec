package workbook

import (
	"cmp"
	"encoding/xml"
	"io"
	"strconv"
	"strings"

	"golang.org/x/net/html/charset"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Workbooks in one file of XML, as spreadsheet programs of 2003 wrote them, often with the ending of another format.
// All sheets stand in it one after the other; a cell says of what type its value is.

// FlatNamespace is in the beginning of such a file.
const FlatNamespace = "urn:schemas-microsoft-com:office:spreadsheet"

// OpenFlat opens a sheet of a workbook in one file of XML, which is opened anew for the sheets and for the rows.
func OpenFlat(open func() (io.ReadCloser, error), size int64, name, sheet string, o Options) (*Source, error) {
	f, err := newFlat(open)
	if err != nil {
		return nil, err
	}
	return openSheet(f, "workbook (XML of 2003)", size, name, sheet, o)
}

// FlatSheets returns the names of the sheets that have a cell and are not hidden.
func FlatSheets(open func() (io.ReadCloser, error)) ([]string, error) {
	f, err := newFlat(open)
	if err != nil {
		return nil, err
	}
	return filled(f)
}

// flat is an open workbook.
type flat struct {
	open func() (io.ReadCloser, error)
	list []Sheet
}

func newFlat(open func() (io.ReadCloser, error)) (*flat, error) {
	f := &flat{open: open}
	in, err := f.decoder()
	if err != nil {
		return nil, err
	}
	defer in.close()
	for {
		start, err := in.x.start()
		if err != nil {
			return nil, err
		}
		if start == nil {
			break
		}
		switch start.Name.Local {
		case "Worksheet":
			if len(f.list) == maxParts {
				return nil, ErrTooLarge
			}
			f.list = append(f.list, Sheet{Name: attr(start, "Name"), part: strconv.Itoa(len(f.list))})
		case "Visible":
			t, err := in.x.RawToken()
			if text, ok := t.(xml.CharData); err == nil && ok && len(f.list) > 0 {
				f.list[len(f.list)-1].Hidden = strings.HasPrefix(string(text), "SheetHidden") ||
					strings.HasPrefix(string(text), "SheetVeryHidden")
			}
		}
	}
	if len(f.list) == 0 {
		return nil, ErrNoSheet
	}
	return f, nil
}

func (f *flat) decoder() (*flatRows, error) {
	in, err := f.open()
	if err != nil {
		return nil, err
	}
	x := newDecoder(&bounded{ReadCloser: in, left: 1 << 62})
	x.CharsetReader = charset.NewReaderLabel
	return &flatRows{x: x, file: in}, nil
}

func (f *flat) all() []Sheet { return f.list }

func (f *flat) decisions() []table.Decision { return nil }

func (f *flat) rows(s *Sheet) (rows, error) {
	r, err := f.decoder()
	if err != nil {
		return nil, err
	}
	n, _ := strconv.Atoi(s.part) // we made it
	for {
		start, err := r.x.start()
		if start == nil || err != nil {
			r.close()
			return nil, cmp.Or(err, io.ErrUnexpectedEOF)
		}
		if start.Name.Local == "Worksheet" {
			if n == 0 {
				return r, nil
			}
			n--
		}
	}
}

// flatRows reads the rows of a sheet. It implements [rows].
type flatRows struct {
	x      *decoder
	file   io.Closer
	row    int64
	skip   int64 // how many blank rows that look alike follow
	cells  []cell
	layout layout
}

func (r *flatRows) at() (int64, []cell) { return r.row, r.cells }

func (r *flatRows) notes() []table.Note { return r.layout.notes() }

func (r *flatRows) close() { r.file.Close() }

func (r *flatRows) next() error {
	for {
		t, err := r.x.within()
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.EndElement:
			if t.Name.Local == "Worksheet" {
				return io.EOF
			}
		case xml.StartElement:
			switch t.Name.Local {
			case "Column":
				if isTrue([]byte(attr(&t, "Hidden"))) {
					r.layout.columns += 1 + span(&t, "Span")
				}
			case "Row":
				r.row += 1 + r.skip
				if n, err := strconv.ParseInt(attr(&t, "Index"), 10, 64); err == nil && n > r.row {
					r.row = n
				}
				if isTrue([]byte(attr(&t, "Hidden"))) {
					r.layout.rows++
					r.layout.firstRows = name(r.layout.firstRows, strconv.FormatInt(r.row, 10))
				}
				r.skip = span(&t, "Span")
				return r.readRow()
			}
		}
	}
}

// span returns how many more an element stands for.
func span(t *xml.StartElement, key string) int64 {
	n, err := strconv.ParseInt(attr(t, key), 10, 32)
	if err != nil || n < 0 {
		return 0
	}
	return n
}

func (r *flatRows) readRow() error {
	r.cells = r.cells[:0]
	column := int64(-1)
	for {
		t, err := r.x.within()
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.EndElement:
			if t.Name.Local == "Row" {
				return nil
			}
		case xml.StartElement:
			if t.Name.Local != "Cell" {
				continue
			}
			column++
			if n := span(&t, "Index"); n > column {
				column = n - 1
			}
			if column >= maxColumns {
				return ErrTooLarge
			}
			if span(&t, "MergeAcross")+span(&t, "MergeDown") > 0 {
				r.layout.merged++
				r.layout.firstMerged = name(r.layout.firstMerged, table.Address(int(column)+1, r.row))
			}
			c, err := r.readCell()
			if err != nil {
				return err
			}
			if attr(&t, "Formula") != "" {
				r.layout.formula(c.kind != value.StoredNull, r.row)
			}
			if c.column = int(column); c.kind != value.StoredNull {
				r.cells = append(r.cells, c)
			}
			column += span(&t, "MergeAcross")
		}
	}
}

// readCell reads a cell up to its end. Remarks do not belong to it.
func (r *flatRows) readCell() (cell, error) {
	var text strings.Builder
	kind := ""
	inData := 0
	for {
		t, err := r.x.RawToken()
		if err != nil {
			return cell{}, err
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch {
			case t.Name.Local == "Comment":
				if err := r.x.leave("Comment"); err != nil {
					return cell{}, err
				}
			case t.Name.Local == "Data" && inData == 0:
				kind, inData = attr(&t, "Type"), 1
			}
		case xml.EndElement:
			switch t.Name.Local {
			case "Cell":
				return flatCell(kind, text.String()), nil
			case "Data":
				inData = 0
			}
		case xml.CharData:
			if inData > 0 {
				text.Write(t)
			}
		}
	}
}

// noDay is the day of times that have none.
const noDay = "1899-12-31T"

// flatCell says what a value is by the type that its cell names.
func flatCell(kind, text string) cell {
	switch kind {
	case "":
		return cell{kind: value.StoredNull}
	case "Number":
		return cell{text: meant(strings.TrimSpace(text)), kind: value.StoredNumber}
	case "DateTime":
		at := day(text)
		if clock, ok := strings.CutPrefix(at, noDay); ok {
			at = clock // a time of day
		}
		return cell{text: at, kind: value.StoredDate}
	case "Boolean":
		return truth(text)
	case "Error":
		return cell{text: text, kind: value.StoredError}
	}
	return cell{text: text}
}

// day returns a date without a time that is midnight: the format has no other way to write a date.
func day(text string) string {
	at := moment(text)
	if date, clock, _ := strings.Cut(at, "T"); strings.Trim(clock, "0:") == "" {
		return date
	}
	return at
}
