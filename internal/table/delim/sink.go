package delim

import (
	"bytes"
	"io"

	"junvo/internal/table"
)

// Output is where a sink writes: a file that appears whole or not at all.
type Output interface {
	io.Writer
	Finish() error
	Commit() error
	Abort()
}

// Sink writes delimited text as RFC 4180 has it, with LF as line end. It
// implements [table.Sink].
type Sink struct {
	out       Output
	delimiter byte
	special   [256]bool // bytes that make quotes necessary
}

// NewSink writes the header and returns a sink for the rows.
func NewSink(out Output, delimiter byte, fields []table.Field) (*Sink, error) {
	s := &Sink{out: out, delimiter: delimiter}
	for _, b := range []byte{delimiter, '"', '\n', '\r'} {
		s.special[b] = true
	}
	var line []byte
	for i, f := range fields {
		if i > 0 {
			line = append(line, delimiter)
		}
		line = s.cell(line, []byte(f.Name))
	}
	_, err := out.Write(s.endLine(line, len(fields)))
	return s, err
}

// Encode implements [table.Sink].
func (s *Sink) Encode(dst []byte, rows *table.Rows) []byte {
	var ends [16]int
	at := ends[:0]
	for range rows.Cells {
		at = append(at, 0)
	}
	for i := range rows.Cells {
		v := &rows.Cells[i]
		v.Plain = v.Plain || !s.specialIn(v.Text)
	}
	for r := range rows.Count {
		line := len(dst)
		for i := range rows.Cells {
			v := &rows.Cells[i]
			end := int(v.Ends[r])
			if text := v.Text[at[i]:end]; v.Plain {
				dst = append(dst, text...)
			} else {
				dst = s.cell(dst, text)
			}
			dst = append(dst, s.delimiter)
			at[i] = end
		}
		if rows.Out != nil && !rows.Out[r] {
			dst = dst[:line]
			continue
		}
		dst = dst[:len(dst)-1]
		if len(dst) == line && len(rows.Cells) == 1 {
			dst = append(dst, `""`...) // an empty line would be no row
		}
		dst = append(dst, '\n')
	}
	return dst
}

// specialIn reports whether any cell of a column needs quotes.
func (s *Sink) specialIn(text []byte) bool {
	for _, b := range []byte{s.delimiter, '"', '\n', '\r'} {
		if bytes.IndexByte(text, b) >= 0 {
			return true
		}
	}
	return false
}

func (s *Sink) endLine(line []byte, fields int) []byte {
	if len(line) == 0 && fields == 1 {
		line = append(line, `""`...)
	}
	return append(line, '\n')
}

// cell appends a cell's text, in quotes where it needs them.
func (s *Sink) cell(dst, text []byte) []byte {
	plain := true
	for _, b := range text {
		if s.special[b] {
			plain = false
			break
		}
	}
	if plain {
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
