// Package jsonlines reads and writes JSON lines: one object a line for each row, with
// numbers in their exact decimal text, dates and times as ISO 8601 text, true and false,
// and null for blank. It reads arrays of records, too.
package jsonlines

import (
	"bytes"
	"encoding/json"
	"fmt"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Sink writes JSON lines. It implements [table.Sink].
type Sink struct {
	table.Output
	keys [][]byte // {"name": or ,"name":
}

// NewSink returns a sink for rows of these fields.
func NewSink(out table.Output, fields []table.Field) (*Sink, error) {
	s := &Sink{Output: out}
	for i, f := range fields {
		name, err := marshal(f.Name)
		if err != nil {
			return nil, fmt.Errorf("column %q: %w", f.Name, err)
		}
		key := []byte{','}
		if i == 0 {
			key[0] = '{'
		}
		s.keys = append(s.keys, append(append(key, name...), ':'))
	}
	return s, nil
}

// marshal writes a text as JSON, with the signs of HTML as they are: this is data.
func marshal(text string) ([]byte, error) {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(text)
	return bytes.TrimSuffix(b.Bytes(), []byte{'\n'}), err
}

// Encode implements [table.Sink].
func (s *Sink) Encode(dst []byte, rows *table.Rows) []byte {
	for r := range rows.Count {
		if rows.Out != nil && !rows.Out[r] {
			continue
		}
		for i := range rows.Cells {
			dst = append(dst, s.keys[i]...)
			dst = appendValue(dst, rows.Cells[i].At(r), rows.Fields[i].Type)
		}
		dst = append(dst, '}', '\n')
	}
	return dst
}

// appendValue appends a value in canonical text. Text that stands in a column of another
// type, as a failed cell may that keeps its text, is a string.
func appendValue(dst, text []byte, t value.Type) []byte {
	switch {
	case len(text) == 0:
		return append(dst, "null"...)
	case t.Numeric() && number(text), t == value.Boolean && (string(text) == "true" || string(text) == "false"):
		return append(dst, text...)
	case plain(text):
		return append(append(append(dst, '"'), text...), '"')
	}
	quoted, err := marshal(string(text))
	if err != nil { // a string can always be written
		panic(err)
	}
	return append(dst, quoted...)
}

// number reports whether text is a number of JSON, which canonical text is: digits
// without a leading zero, with an optional minus and decimal point.
func number(text []byte) bool {
	if text[0] == '-' {
		text = text[1:]
	}
	whole, fraction, point := bytes.Cut(text, []byte{'.'})
	if len(whole) == 0 || len(whole) > 1 && whole[0] == '0' || point && len(fraction) == 0 {
		return false
	}
	for _, part := range [][]byte{whole, fraction} {
		for _, b := range part {
			if b < '0' || b > '9' {
				return false
			}
		}
	}
	return true
}

// plain reports whether text needs no escapes in JSON.
func plain(text []byte) bool {
	for _, b := range text {
		if b < ' ' || b > '~' || b == '"' || b == '\\' {
			return false
		}
	}
	return true
}

// Write implements [table.Sink].
func (s *Sink) Write(encoded []byte, _ *table.Rows) error {
	_, err := s.Output.Write(encoded)
	return err
}
