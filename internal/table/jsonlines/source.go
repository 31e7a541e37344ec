package jsonlines

import (
	"bytes"
	"errors"
	"fmt"
	"io"

	"github.com/go-json-experiment/json/jsontext"

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
}

// cell is a value of the record that is read.
type cell struct {
	text  string
	kind  value.Stored
	there bool
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
		return len(after) > 0 && (after[0] == '{' || after[0] == ']')
	}
	return false
}

// Bounds of what a record may hold.
const (
	maxColumns = 10_000
	maxDepth   = 32
)

// ErrNoRecords is JSON without a record in it.
var ErrNoRecords = errors.New("there is no record in it")

// Open reads all of a file to find its columns, and opens it again for its rows.
func Open(open func() (io.ReadCloser, error), name string, size int64) (*Source, error) {
	s := &Source{at: map[string]int{}}
	f, err := open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	names, notes, first, err := s.columns(newRecords(f))
	if err != nil {
		return nil, err
	}
	how := "JSON lines"
	why := "it begins with a record"
	if s.r.array {
		how, why = "JSON array", "it begins with an array of records"
	}
	usable, more := table.UsableNames(names, true)
	s.info = table.Info{
		Name: name, Format: how, Bytes: size, Typed: true, Records: true, Names: usable, Notes: append(more, notes...), Encoding: "utf-8",
		Files:     []table.File{{Name: name, FirstLine: first}},
		Decisions: []table.Decision{{What: "format", Value: how, Why: why}},
	}
	again, err := open()
	if err != nil {
		return nil, err
	}
	s.closer, s.r, s.row = again, newRecords(again), make([]cell, len(names))
	if s.next, err = s.r.read(); err != nil {
		return nil, errors.Join(err, again.Close())
	}
	return s, nil
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
		notes = []table.Note{{Name: "duplicate-names", Count: twice, Say: fmt.Sprintf("%d keys stand twice in one record; the last one counts", twice)}}
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

// record is the values of one record, and the line that it begins in.
type record struct {
	names []string
	cells []cell
	line  int64
}

// records reads records one by one, of JSON lines or of an array.
type records struct {
	d     *jsontext.Decoder
	lines *lineCounter
	begun bool
	array bool
	paths map[string]map[string]string // the names of columns by what they stand in, and their key
}

func newRecords(r io.Reader) *records {
	l := &lineCounter{r: r, line: 1}
	d := jsontext.NewDecoder(l, jsontext.AllowDuplicateNames(true), jsontext.AllowInvalidUTF8(true))
	return &records{d: d, lines: l, paths: map[string]map[string]string{}}
}

// read reads the next record. The error is io.EOF behind the last.
func (r *records) read() (*record, error) {
	if !r.begun {
		r.begun = true
		if r.array = r.lines.array(); r.array {
			if _, err := r.d.ReadToken(); err != nil {
				return nil, r.wrong(err)
			}
		}
	}
	t, err := r.d.ReadToken()
	if errors.Is(err, io.EOF) && !r.array {
		return nil, io.EOF
	}
	if err != nil {
		return nil, r.wrong(err)
	}
	if r.array && t.Kind() == ']' {
		return nil, io.EOF
	}
	rec := &record{line: r.lines.at(r.d.InputOffset() - 1)}
	if t.Kind() != '{' {
		return nil, fmt.Errorf("line %d: a record is written { … }", rec.line)
	}
	if err := r.values(rec, "", 0); err != nil {
		return nil, err
	}
	return rec, nil
}

// values reads the values of a record whose brace has been read, and its other brace.
func (r *records) values(rec *record, prefix string, depth int) error {
	if depth > maxDepth {
		return fmt.Errorf("line %d: records stand within each other more than %d deep", rec.line, maxDepth)
	}
	for {
		key, err := r.d.ReadToken()
		if err != nil {
			return r.wrong(err)
		}
		if key.Kind() == '}' {
			return nil
		}
		name := r.path(prefix, key.String())
		if r.d.PeekKind() == '[' {
			v, err := r.d.ReadValue()
			if err != nil {
				return r.wrong(err)
			}
			if err := v.Compact(); err != nil {
				return r.wrong(err)
			}
			rec.add(name, cell{text: string(v)})
			continue
		}
		t, err := r.d.ReadToken()
		if err != nil {
			return r.wrong(err)
		}
		switch t.Kind() {
		case '{':
			if err := r.values(rec, name+".", depth+1); err != nil {
				return err
			}
		case '"':
			rec.add(name, cell{text: t.String()})
		case 'n':
			rec.add(name, cell{kind: value.StoredNull})
		case 't', 'f':
			rec.add(name, cell{text: t.String(), kind: value.StoredBoolean})
		default:
			rec.add(name, cell{text: t.String(), kind: value.StoredNumber})
		}
		if n := len(rec.cells); n > 0 && len(rec.cells[n-1].text) > table.MaxCell {
			return fmt.Errorf("line %d: a value is longer than %d MB", rec.line, table.MaxCell>>20)
		}
	}
}

func (rec *record) add(name string, c cell) {
	c.there = true
	rec.names, rec.cells = append(rec.names, name), append(rec.cells, c)
}

// path returns the name of a column; each is made once.
func (r *records) path(prefix, key string) string {
	if prefix == "" {
		return key
	}
	keys := r.paths[prefix]
	if keys == nil {
		keys = map[string]string{}
		r.paths[prefix] = keys
	}
	name, known := keys[key]
	if !known {
		name = prefix + key
		keys[key] = name
	}
	return name
}

// wrong says where JSON is wrong.
func (r *records) wrong(err error) error {
	var syntax *jsontext.SyntacticError
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return fmt.Errorf("line %d: the JSON is cut off", r.lines.at(r.lines.seen))
	}
	if errors.As(err, &syntax) {
		return fmt.Errorf("line %d: this is no JSON: %w", r.lines.at(syntax.ByteOffset), syntax.Err)
	}
	return fmt.Errorf("line %d: %w", r.lines.at(r.d.InputOffset()), err)
}

// lineCounter keeps where lines end that have been read and not yet asked for.
type lineCounter struct {
	r    io.Reader
	head []byte // what was read to see what it is
	seen int64
	ends []int64
	line int64
}

func (l *lineCounter) Read(p []byte) (n int, err error) {
	if len(l.head) > 0 {
		n = copy(p, l.head)
		l.head = l.head[n:]
	} else {
		n, err = l.r.Read(p)
	}
	for i, b := range p[:n] {
		if b == '\n' {
			l.ends = append(l.ends, l.seen+int64(i))
		}
	}
	l.seen += int64(n)
	return n, err
}

// array reports whether the text begins with an array. It takes off a byte order mark.
func (l *lineCounter) array() bool {
	buf := make([]byte, 4096)
	n, _ := io.ReadFull(l.r, buf) // an error comes again
	l.head = bytes.TrimPrefix(buf[:n], []byte("\ufeff"))
	rest := bytes.TrimLeft(l.head, " \t\r\n")
	return len(rest) > 0 && rest[0] == '['
}

// at returns the line of an offset. Offsets are asked for in order.
func (l *lineCounter) at(offset int64) int64 {
	k := 0
	for k < len(l.ends) && l.ends[k] < offset {
		k++
	}
	l.line += int64(k)
	l.ends = l.ends[:copy(l.ends, l.ends[k:])]
	return l.line
}
