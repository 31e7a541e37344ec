package delim

import (
	"bytes"

	"junvo/internal/table"
)

// Sink writes delimited text as RFC 4180 has it, with LF as line end. It
// implements [table.Sink].
type Sink struct {
	out       table.Output
	delimiter byte
	quoted    [256]bool // bytes that make quotes necessary
	formulas  formulas
}

// NewSink writes the header and returns a sink for the rows.
func NewSink(out table.Output, delimiter byte, fields []table.Field) (*Sink, error) {
	s := &Sink{out: out, delimiter: delimiter}
	for _, b := range []byte{delimiter, '"', '\n', '\r'} {
		s.quoted[b] = true
	}
	var line []byte
	for i, f := range fields {
		if i > 0 {
			line = append(line, delimiter)
		}
		line = s.cell(line, []byte(f.Name))
	}
	_, err := out.Write(s.endLine(line, 0))
	return s, err
}

// Encode implements [table.Sink].
func (s *Sink) Encode(dst []byte, rows *table.Rows) []byte {
	for i := range rows.Cells {
		v := &rows.Cells[i]
		v.Plain = v.Plain || !s.inspect(v, rows.Out)
	}
	for r := range rows.Count {
		if rows.Out != nil && !rows.Out[r] {
			continue
		}
		line := len(dst)
		for i := range rows.Cells {
			v := &rows.Cells[i]
			if text := v.At(r); v.Plain {
				dst = appendPlain(dst, text, s.delimiter)
			} else {
				dst = append(s.cell(dst, text), s.delimiter)
			}
		}
		dst = s.endLine(dst[:len(dst)-1], line)
	}
	return dst
}

// appendPlain appends a cell that needs no quotes, and what ends it. Sixteen bytes at once are copied more quickly
// than fewer, where there is room for them.
func appendPlain(dst, text []byte, end byte) []byte {
	n, at := len(text), len(dst)
	if n <= 16 && cap(text) >= 16 && cap(dst)-at > 16 {
		dst = dst[:at+17]
		*(*[16]byte)(dst[at:]) = [16]byte(text[:16])
		dst[at+n] = end
		return dst[:at+n+1]
	}
	return append(append(dst, text...), end)
}

// inspect looks at the cells of a column once: it counts and guards those that look like
// formulas, and reports whether any may need quotes. Cells in the text of the block are
// looked at one by one, up to the first that does.
func (s *Sink) inspect(v *table.Values, out []bool) (special bool) {
	for _, b := range []byte{s.delimiter, '"', '\n', '\r'} {
		special = special || bytes.IndexByte(v.Text, b) >= 0
	}
	formulas := int64(0)
	for r, span := range v.Spans {
		if span.Len() == 0 || out != nil && !out[r] {
			continue
		}
		text := v.At(r)
		if formulaSign[text[0]] && formulaLike(text) {
			formulas++
			s.formulas.guarded(v, r, text)
		}
		special = special || span.N&table.Made == 0 && s.special(text)
	}
	if formulas > 0 {
		s.formulas.cells.Add(formulas)
	}
	return special
}

// endLine ends the line that starts at start. An empty line would be no row, and \. alone is the end of the rows for
// those who load CSV into a database.
func (s *Sink) endLine(dst []byte, start int) []byte {
	switch string(dst[start:]) {
	case "":
		dst = append(dst, `""`...)
	case `\.`:
		dst = append(dst[:start], `"\."`...)
	}
	return append(dst, '\n')
}

// special reports whether a cell needs quotes.
func (s *Sink) special(text []byte) bool {
	for _, b := range text {
		if s.quoted[b] {
			return true
		}
	}
	return false
}

// cell appends a cell's text, in quotes where it needs them.
func (s *Sink) cell(dst, text []byte) []byte {
	if !s.special(text) {
		return append(dst, text...)
	}
	dst = append(dst, '"')
	for {
		i := bytes.IndexByte(text, '"')
		if i < 0 {
			break
		}
		dst = append(append(dst, text[:i+1]...), '"')
		text = text[i+1:]
	}
	return append(append(dst, text...), '"')
}

// Write implements [table.Sink].
func (s *Sink) Write(encoded []byte, _ *table.Rows) error {
	_, err := s.out.Write(encoded)
	return err
}

// Finish implements [table.Sink].
func (s *Sink) Finish() error { return s.out.Finish() }

// Commit implements [table.Sink].
func (s *Sink) Commit() error { return s.out.Commit() }

// Abort implements [table.Sink].
func (s *Sink) Abort() { s.out.Abort() }
