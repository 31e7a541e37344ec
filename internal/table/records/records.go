// Package records makes a source of records that each say what their values are called: of JSON, XML, and lines of keys
// and values. It reads them twice: for the names, since any record may have a new one, and for the rows.
//
//	src, err := records.Open(open, records.Options{Info: table.Info{Name: "log.txt", Format: "logfmt"}})
package records

import (
	"errors"
	"fmt"
	"io"

	"junvo/internal/finding"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Cell is a value of a record.
type Cell struct {
	Text string
	Kind value.Stored
}

// Record is the values of one record, their names, and the line that it begins in. It is valid until the next is read.
type Record struct {
	Names []string
	Cells []Cell
	Line  int64
}

// Add adds a value.
func (r *Record) Add(name string, c Cell) {
	r.Names, r.Cells = append(r.Names, name), append(r.Cells, c)
}

// Reader reads records, and returns io.EOF after the last.
type Reader interface {
	Read() (*Record, error)
	io.Closer
}

// maxColumns is how many different names records may have.
const maxColumns = 10_000

// ErrNoRows is a file without a record in it.
var ErrNoRows = errors.New("there is no record in it")

// Columns are the names that records have, in the order in which they occur first.
type Columns struct {
	Names []string
	Count int64 // of the records
	First int64 // the line of the first
	notes []table.Note
	at    map[string]int
}

// Find reads all records for their names.
func Find(r Reader) (*Columns, error) {
	c := &Columns{at: map[string]int{}}
	twice := int64(0)
	var last []int64 // the last record that had each column
	for {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		if c.Count++; c.Count == 1 {
			c.First = rec.Line
		}
		for _, name := range rec.Names {
			i, known := c.at[name]
			if !known {
				i = len(c.Names)
				c.at[name] = i
				c.Names = append(c.Names, name)
				last = append(last, 0)
			}
			if last[i] == c.Count {
				twice++
			}
			last[i] = c.Count
		}
		if len(c.Names) > maxColumns {
			return nil, fmt.Errorf("line %d: the records have more than %d different keys", rec.Line, maxColumns)
		}
	}
	if len(c.Names) == 0 {
		return nil, ErrNoRows
	}
	if twice > 0 {
		c.notes = []table.Note{{
			Kind: finding.DuplicateNames, Count: twice,
			Say: fmt.Sprintf("%d keys stand twice in one record; where their values differ, the cell fails", twice),
		}}
	}
	return c, nil
}

// Source reads records as rows. It implements [table.Source].
type Source struct {
	info    table.Info
	columns *Columns
	r       Reader
	next    *Record // the record that comes next; nil for none
	row     []Cell
	there   []bool
}

// Open reads all records for their names, and opens them again for their rows. What info lacks of the names and lines
// is filled in.
func Open(open func() (Reader, error), info table.Info) (*Source, error) {
	r, err := open()
	if err != nil {
		return nil, err
	}
	columns, err := Find(r)
	if err = errors.Join(err, r.Close()); err != nil {
		return nil, err
	}
	if r, err = open(); err != nil {
		return nil, err
	}
	return New(r, columns, info)
}

// New returns a source of the records whose names are known. The reader belongs to it.
func New(r Reader, columns *Columns, info table.Info) (*Source, error) {
	usable, notes := table.UsableNames(columns.Names, true)
	info.Names, info.Notes = usable, append(append(info.Notes, notes...), columns.notes...)
	info.Records = true
	info.Files = []table.File{{Name: info.Name, FirstLine: columns.First}}
	s := &Source{info: info, columns: columns, r: r, row: make([]Cell, len(usable)), there: make([]bool, len(usable))}
	var err error
	if s.next, err = r.Read(); err != nil {
		return nil, errors.Join(err, r.Close())
	}
	return s, nil
}

// Info implements [table.Source].
func (s *Source) Info() *table.Info { return &s.info }

// Close ends the use of the file.
func (s *Source) Close() error { return s.r.Close() }

// Next implements [table.Source].
func (s *Source) Next(b *table.Block) error {
	if s.next == nil {
		return io.EOF
	}
	b.Width = len(s.info.Names)
	b.Text = b.Buffer()
	first := s.next.Line
	for !b.Full() && s.next != nil {
		if err := s.add(b, uint32(s.next.Line-first)); err != nil {
			return err
		}
		next, err := s.r.Read()
		if errors.Is(err, io.EOF) {
			s.next = nil
			break
		}
		if err != nil {
			return err
		}
		s.next = next
		b.LineCount = uint32(next.Line - first)
	}
	b.Filled()
	return nil
}

// several stands between the values of a key that a record has more than once.
const several = " | "

// add adds the next record as a row. What it lacks is missing.
func (s *Source) add(b *table.Block, line uint32) error {
	clear(s.there)
	for k, name := range s.next.Names {
		i, known := s.columns.at[name]
		if !known {
			return errors.New("the file has changed while it was read")
		}
		if s.there[i] && s.row[i] != s.next.Cells[k] {
			s.row[i] = Cell{Text: s.row[i].Text + several + s.next.Cells[k].Text, Kind: value.StoredSeveral}
		} else {
			s.row[i], s.there[i] = s.next.Cells[k], true
		}
	}
	for i, c := range s.row {
		if s.there[i] {
			b.AddCell(c.Text, c.Kind)
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
