package jsonlines

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

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
		Name: name, Format: how, Bytes: size, Typed: true, Names: usable, Notes: append(more, notes...), Encoding: "utf-8",
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
	twice := int64(0)
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
		var seen []string
		err = rec.each(func(name string, _ cell) error {
			if slices.Contains(seen, name) {
				twice++
			}
			seen = append(seen, name)
			if _, known := s.at[name]; !known {
				s.at[name] = len(names)
				names = append(names, name)
			}
			if len(names) > maxColumns {
				return fmt.Errorf("the records have more than %d different keys", maxColumns)
			}
			return nil
		})
		if err != nil {
			return nil, nil, 0, fmt.Errorf("line %d: %w", rec.line, err)
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
			return fmt.Errorf("line %d: %w", s.next.line, err)
		}
		b.Raw = append(b.Raw, s.next.raw...) // counted, not looked at
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
	err := s.next.each(func(name string, c cell) error {
		i, known := s.at[name]
		if !known {
			return errors.New("the file has changed while it was read")
		}
		c.there = true
		s.row[i] = c
		return nil
	})
	if err != nil {
		return err
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

// record is one record and the line that it begins in.
type record struct {
	raw  json.RawMessage
	line int64
}

// each calls f for every value of the record.
func (r *record) each(f func(name string, c cell) error) error { return eachValue("", r.raw, 0, f) }

func eachValue(prefix string, raw []byte, depth int, f func(string, cell) error) error {
	if depth > maxDepth {
		return fmt.Errorf("records stand within each other more than %d deep", maxDepth)
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	if t, err := d.Token(); err != nil || t != json.Delim('{') {
		return errors.New("a record is written { … }")
	}
	for d.More() {
		key, err := d.Token()
		if err != nil {
			return err
		}
		var v json.RawMessage
		if err := d.Decode(&v); err != nil {
			return err
		}
		name := prefix + key.(string)
		if v[0] == '{' {
			err = eachValue(name+".", v, depth+1, f)
		} else {
			err = f(name, cellOf(v))
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// cellOf makes a cell of a value that is no record.
func cellOf(v json.RawMessage) cell {
	switch v[0] {
	case '"':
		var text string
		_ = json.Unmarshal(v, &text) // it has been decoded once
		return cell{text: text}
	case 't', 'f':
		return cell{text: string(v), kind: value.StoredBoolean}
	case 'n':
		return cell{kind: value.StoredNull}
	case '[':
		var b bytes.Buffer
		_ = json.Compact(&b, v)
		return cell{text: b.String()}
	}
	return cell{text: string(v), kind: value.StoredNumber}
}

// records reads records one by one, of JSON lines or of an array.
type records struct {
	d     *json.Decoder
	lines *lineCounter
	begun bool
	array bool
}

func newRecords(r io.Reader) *records {
	l := &lineCounter{r: r, line: 1}
	return &records{d: json.NewDecoder(l), lines: l}
}

func (r *records) read() (*record, error) {
	if !r.begun {
		r.begun = true
		if r.array = r.lines.array(); r.array {
			if _, err := r.d.Token(); err != nil {
				return nil, r.wrong(err)
			}
		}
	}
	if r.array && !r.d.More() {
		if _, err := r.d.Token(); err != nil {
			return nil, r.wrong(err)
		}
		return nil, io.EOF
	}
	var raw json.RawMessage
	if err := r.d.Decode(&raw); err != nil {
		if errors.Is(err, io.EOF) && !r.array {
			return nil, io.EOF
		}
		return nil, r.wrong(err)
	}
	if len(raw) > table.MaxCell {
		return nil, fmt.Errorf("a record is longer than %d MB", table.MaxCell>>20)
	}
	end := r.d.InputOffset()
	line := r.lines.at(end - int64(len(raw)))
	if raw[0] != '{' {
		return nil, fmt.Errorf("line %d: a record is written { … }", line)
	}
	return &record{raw, line}, nil
}

// wrong says where JSON is wrong.
func (r *records) wrong(err error) error {
	at := r.d.InputOffset()
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		at = syntax.Offset
	}
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return fmt.Errorf("line %d: the JSON is cut off", r.lines.at(r.lines.seen))
	}
	return fmt.Errorf("line %d: this is no JSON: %w", r.lines.at(at), err)
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
