package jsonlines

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"junvo/internal/finding"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Source reads JSON lines, or an array of records (RFC 8259). Values are as JSON has them:
// text, number in its exact text, true or false, null; a key that a record lacks is
// missing. Records within records become columns with dots in their names, and arrays stay
// JSON text. It implements [table.Source].
type Source struct {
	info   table.Info
	at     map[string]int // the columns by their names in the file
	r      *records
	next   *record // the record that comes next
	row    []cell
	closer io.Closer

	records int64    // how many there are
	lists   []string // the lists of records that the first one holds
}

// cell is a value of the record that is read.
type cell struct {
	text  string
	kind  value.Stored
	there bool
	array bool // its text is a JSON array
}

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
	maxColumns = 10_000
	maxDepth   = 32
	maxKey     = 64 << 10
)

// ErrNoRecords is JSON without a record in it.
var ErrNoRecords = errors.New("there is no record in it")

// Open reads all of a file to find its columns, and opens it again for its rows. list names the
// list of records that a record holds, with dots between keys; "" for what the content shows.
func Open(open func() (io.ReadCloser, error), name, list string, size int64) (*Source, error) {
	s, names, notes, first, err := look(open, list)
	others := names
	if err == nil && list == "" && len(s.lists) > 0 && s.records == 1 && !s.r.array {
		if len(s.lists) > 1 {
			return nil, fmt.Errorf("it is one record that holds %d lists: name one after #, as in file.json#%s; there are %s",
				len(s.lists), s.lists[0], strings.Join(s.lists, ", "))
		}
		list = s.lists[0]
		s, names, notes, first, err = look(open, list)
	}
	if err != nil {
		return nil, err
	}
	how, why := s.r.shape(list)
	if more := slices.DeleteFunc(slices.Clone(others), func(name string) bool { return name == list }); list != "" && len(more) > 0 {
		why += "; what else it holds is left out: " + strings.Join(more, ", ")
	}
	usable, more := table.UsableNames(names, true)
	s.info = table.Info{
		Name: name, Format: how, Bytes: size, Typed: true, Records: true, Names: usable, Notes: append(more, notes...),
		Encoding:  "utf-8",
		Files:     []table.File{{Name: name, FirstLine: first}},
		Decisions: []table.Decision{{What: "format", Value: how, Why: why}},
	}
	again, err := open()
	if err != nil {
		return nil, err
	}
	s.closer, s.r, s.row = again, newRecords(again, list), make([]cell, len(names))
	if s.next, err = s.r.read(); err != nil {
		return nil, errors.Join(err, again.Close())
	}
	return s, nil
}

// look reads a file to find its columns.
func look(open func() (io.ReadCloser, error), list string) (s *Source, names []string, notes []table.Note, first int64, err error) {
	s = &Source{at: map[string]int{}}
	f, err := open()
	if err != nil {
		return nil, nil, nil, 0, err
	}
	defer f.Close()
	names, notes, first, err = s.columns(newRecords(f, list))
	return s, names, notes, first, err
}

// columns finds the columns in the order in which they occur first.
func (s *Source) columns(r *records) (names []string, notes []table.Note, first int64, err error) {
	s.r = r
	twice, record := int64(0), int64(0)
	var last []int64 // the last record that had each column
	for {
		rec, err := r.read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, 0, err
		}
		if first == 0 {
			first = rec.line
		}
		record++
		s.records = record
		if record == 1 {
			s.lists = rec.lists()
		}
		for _, name := range rec.names {
			i, known := s.at[name]
			if !known {
				i = len(names)
				s.at[name] = i
				names = append(names, name)
				last = append(last, 0)
			}
			if last[i] == record {
				twice++
			}
			last[i] = record
		}
		if len(names) > maxColumns {
			return nil, nil, 0, fmt.Errorf("line %d: the records have more than %d different keys", rec.line, maxColumns)
		}
	}
	if len(names) == 0 {
		return nil, nil, 0, ErrNoRecords
	}
	if twice > 0 {
		notes = []table.Note{{
			Kind: finding.DuplicateNames, Count: twice,
			Say: fmt.Sprintf("%d keys stand twice in one record; the last one counts", twice),
		}}
	}
	return names, notes, first, nil
}

// Info implements [table.Source].
func (s *Source) Info() *table.Info { return &s.info }

// Close ends the use of the file.
func (s *Source) Close() error { return s.closer.Close() }

// Next implements [table.Source].
func (s *Source) Next(b *table.Block) error {
	if s.next == nil {
		return io.EOF
	}
	b.Width = len(s.info.Names)
	b.Text = b.Buffer()
	first := s.next.line
	for !b.Full() && s.next != nil {
		if err := s.add(b, uint32(s.next.line-first)); err != nil {
			return err
		}
		next, err := s.r.read()
		if errors.Is(err, io.EOF) {
			s.next = nil
			break
		}
		if err != nil {
			return err
		}
		s.next = next
		b.LineCount = uint32(next.line - first)
	}
	b.Filled()
	return nil
}

// add adds the next record as a row.
func (s *Source) add(b *table.Block, line uint32) error {
	clear(s.row)
	for k, name := range s.next.names {
		i, known := s.at[name]
		if !known {
			return errors.New("the file has changed while it was read")
		}
		s.row[i] = s.next.cells[k]
	}
	for _, c := range s.row {
		if c.there {
			b.AddCell(c.text, c.kind)
			continue
		}
		b.AddCell("", value.StoredNull)
		b.Spans[len(b.Spans)-1].N |= table.Missing
	}
	b.EndRow(line)
	return nil
}

// Split implements [table.Source]: the cells are where they are already.
func (s *Source) Split(*table.Block) {}
