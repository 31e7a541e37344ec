package jsonlines

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"junvo/internal/table"
	"junvo/internal/table/records"
)

// Source reads JSON lines, or an array of records (RFC 8259). Values are as JSON has them:
// text, number in its exact text, true or false, null; a key that a record lacks is
// missing. Records within records become columns with dots in their names, and arrays stay
// JSON text. It implements [table.Source].
type Source = records.Source

// Looks reports whether the start of a file looks like JSON records.
func Looks(head []byte) bool {
	rest := bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n")
	if len(rest) == 0 {
		return false
	}
	after := bytes.TrimLeft(rest[1:], " \t\r\n")
	switch rest[0] {
	case '{':
		return len(after) > 0 && (after[0] == '"' || after[0] == '}')
	case '[':
		return len(after) > 0 && bytes.IndexByte([]byte(`{[]"-0123456789tfn`), after[0]) >= 0 && isJSON(rest)
	}
	return false
}

// isJSON reports whether text that begins with a bracket is the start of JSON, and not of a line
// such as [draft] or [1] note.
func isJSON(head []byte) bool {
	d := jsontext.NewDecoder(bytes.NewReader(head))
	for values := 0; ; {
		_, err := d.ReadToken()
		if d.StackDepth() == 0 {
			values++
		}
		if values > 1 || err != nil {
			return errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF)
		}
	}
}

// Bounds of what a record may hold.
const (
	maxDepth = 32
	maxKey   = 64 << 10
)

// ErrNoRecords is JSON without a record in it.
var ErrNoRecords = records.ErrNoRows

// Open reads all of a file to find its columns, and opens it again for its rows. list names the
// list of records that a record holds, with dots between keys; "" for what the content shows.
func Open(open func() (io.ReadCloser, error), name, list string, size int64) (*Source, error) {
	if list == "" {
		if c, err := openColumnwise(open); err != nil || c != nil {
			if err != nil {
				return nil, err
			}
			return c.source(name, size)
		}
	}
	o, err := outlineOf(open)
	if err != nil {
		return nil, err
	}
	var header []string
	if o != nil && o.alone {
		if list == "" {
			if list, err = o.choose(); err != nil {
				return nil, err
			}
		}
		header = o.namesOf(list)
	}
	r, columns, err := look(open, list, header)
	if err != nil {
		return nil, err
	}
	how, why := r.shape(list)
	if list != "" && o != nil {
		if header != nil {
			why += ", whose names stand beside it"
		}
		all := slices.Concat(o.lists, o.tables, o.others)
		if more := slices.DeleteFunc(all, func(name string) bool { return name == list }); len(more) > 0 {
			why += "; what else it holds is left out: " + strings.Join(more, ", ")
		}
	}
	f, err := open()
	if err != nil {
		return nil, err
	}
	return records.New(newRecords(f, list, header), columns, table.Info{
		Name: name, Format: how, Bytes: size, Typed: true, Encoding: "utf-8",
		Decisions: []table.Decision{{What: "format", Value: how, Why: why}},
	})
}

// choose picks the list of records that one record holds, or else the list of lists; "" for none.
func (o *outline) choose() (string, error) {
	lists := o.lists
	if len(lists) == 0 {
		lists = o.tables
	}
	switch len(lists) {
	case 0:
		return "", nil
	case 1:
		return lists[0], nil
	}
	return "", fmt.Errorf("it is one record that holds %d lists: name one after #, as in file.json#%s; there are %s",
		len(lists), lists[0], strings.Join(lists, ", "))
}

// look reads a file to find its columns.
func look(open func() (io.ReadCloser, error), list string, header []string) (*reader, *records.Columns, error) {
	f, err := open()
	if err != nil {
		return nil, nil, err
	}
	r := newRecords(f, list, header)
	r.namesOnly = true
	columns, err := records.Find(r)
	return r, columns, errors.Join(err, r.Close())
}
