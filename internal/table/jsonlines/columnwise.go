package jsonlines

import (
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"junvo/internal/table"
	"junvo/internal/table/records"
	"junvo/internal/value"
)

// A table may be written column by column: one object with a list of values for each column ({"no": ["0042", "0043"],
// "kg": [7.5, 8]}), or an object of values by the numbers of the rows ({"no": {"0": "0042", "1": "0043"}, …}). Its last
// column is known only when all has been read, so that it is kept in memory.

// maxColumnwise is how many bytes the values of such a table may have.
const maxColumnwise = 256 << 20

// columnwise is such a table. It implements [records.Reader].
type columnwise struct {
	names []string
	cells [][]records.Cell // by column
	keys  []string         // the numbers of the rows, of the second form
	at    int              // the next row
	rec   records.Record
}

// openColumnwise reads such a table; nil where the file is none.
func openColumnwise(open func() (io.ReadCloser, error)) (*columnwise, error) {
	f, err := open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	d := newDecoder(f)
	c := &columnwise{}
	size := 0
	if t, err := d.ReadToken(); err != nil || t.Kind() != '{' {
		return nil, nil // whoever reads it as records says what is wrong
	}
	for d.PeekKind() == '"' {
		name, err := d.ReadToken()
		if err != nil {
			return nil, nil
		}
		c.names = append(c.names, name.String())
		ok, err := c.column(d, &size)
		if err != nil || !ok {
			return nil, err
		}
	}
	if t, err := d.ReadToken(); err != nil || t.Kind() != '}' {
		return nil, nil
	}
	if _, err := d.ReadToken(); !errors.Is(err, io.EOF) {
		return nil, nil
	}
	if len(c.names) < 2 || len(c.cells[0]) < 2 {
		return nil, nil // it may as well be one record with lists
	}
	return c, nil
}

// column reads the values of a column, and reports whether they can be that beside those before.
func (c *columnwise) column(d *jsontext.Decoder, size *int) (bool, error) {
	open, err := d.ReadToken()
	if err != nil || open.Kind() != '[' && open.Kind() != '{' {
		return false, nil
	}
	byName := open.Kind() == '{'
	if len(c.cells) > 0 && byName != (c.keys != nil) {
		return false, nil
	}
	var cells []records.Cell
	for {
		if kind := d.PeekKind(); kind == ']' || kind == '}' {
			_, err := d.ReadToken()
			c.cells = append(c.cells, cells)
			return err == nil && len(cells) == len(c.cells[0]), nil
		}
		if byName {
			key, err := d.ReadToken()
			if err != nil {
				return false, nil
			}
			if strings.Trim(key.String(), "0123456789") != "" {
				return false, nil // names that are no numbers of rows may as well be those of a record within the record
			}
			if len(c.cells) == 0 {
				c.keys = append(c.keys, key.String())
			} else if len(cells) >= len(c.keys) || c.keys[len(cells)] != key.String() {
				return false, nil
			}
		}
		t, err := d.ReadToken()
		if err != nil || t.Kind() == '[' || t.Kind() == '{' {
			return false, nil
		}
		cell := cellOf(t)
		if *size += len(cell.Text) + 16; *size > maxColumnwise {
			return false, fmt.Errorf("the table is written column by column, and its values have more than %d MB",
				maxColumnwise>>20)
		}
		cells = append(cells, cell)
	}
}

// cellOf returns a value that is none of others.
func cellOf(t jsontext.Token) records.Cell {
	switch t.Kind() {
	case '"':
		return records.Cell{Text: t.String()}
	case 'n':
		return records.Cell{Kind: value.StoredNull}
	case 't', 'f':
		return records.Cell{Text: t.String(), Kind: value.StoredBoolean}
	}
	return records.Cell{Text: t.String(), Kind: value.StoredNumber}
}

// source returns a source of the rows.
func (c *columnwise) source(name string, size int64) (*Source, error) {
	why := "it is one record with lists of the same length: the columns"
	if c.keys != nil {
		why = "it is one record with a record for each column, by the numbers of the rows"
	}
	return records.Open(func() (records.Reader, error) { return &columnwise{names: c.names, cells: c.cells}, nil },
		table.Info{
			Name: name, Format: "JSON columns", Bytes: size, Typed: true, Encoding: "utf-8",
			Decisions: []table.Decision{{What: "format", Value: "JSON columns", Why: why}},
		})
}

// Read implements [records.Reader].
func (c *columnwise) Read() (*records.Record, error) {
	if c.at == len(c.cells[0]) {
		return nil, io.EOF
	}
	c.rec = records.Record{Names: c.rec.Names[:0], Cells: c.rec.Cells[:0], Line: int64(c.at + 1)}
	for i, name := range c.names {
		c.rec.Add(name, c.cells[i][c.at])
	}
	c.at++
	return &c.rec, nil
}

// Close implements [io.Closer].
func (*columnwise) Close() error { return nil }
