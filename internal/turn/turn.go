// Package turn makes several rows of each row of a table: one for each of some columns, whose name and cell become two
// columns of the new rows. A table with a column for each month becomes one with the columns month and amount:
//
//	Vessel  Jan  Feb        Vessel   month  amount
//	Marlies  12   30   →    Marlies  Jan    12
//	                        Marlies  Feb    30
//
// Rows that are no data, such as totals and repeated headings, are seen for what they are in the rows of the file, and
// stay one row each, with all their cells.
package turn

import (
	"fmt"
	"slices"
	"sync"

	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Source is a source whose rows have been turned.
type Source struct {
	table.Source
	info    table.Info
	turned  []int // where the columns stand that become rows
	rest    []int // and those that stay
	names   [][]byte
	aside   [rowkind.NumKinds]bool
	readers sync.Pool // of *rowkind.Reader
}

// Error says why a table can't be turned.
type Error struct{ Say string }

func (e *Error) Error() string { return e.Say }

// Turn says which columns become rows.
type Turn struct {
	Columns []string
	Into    [2]string // the column that has their names, and the one that has their cells
	// Aside are the kinds of rows that are no data; rows of other kinds are data, and turned.
	Aside      [rowkind.NumKinds]bool
	BlankWords []string
}

// New returns a source whose columns have become rows. Its error is an *Error.
func New(src table.Source, t Turn) (*Source, error) {
	info := *src.Info()
	s := &Source{Source: src, aside: t.Aside}
	s.aside[rowkind.Long] = true
	for _, name := range t.Columns {
		at := slices.Index(info.Names, name)
		if at < 0 {
			say := fmt.Sprintf("the column %q is to be turned into rows, and the source has no such column", name)
			if near := table.Nearest(name, info.Names); near != "" {
				say += fmt.Sprintf("; it has %q", near)
			}
			return nil, &Error{say}
		}
		s.turned = append(s.turned, at)
		s.names = append(s.names, []byte(name))
	}
	var names []string
	for i, name := range info.Names {
		if !slices.Contains(s.turned, i) {
			s.rest = append(s.rest, i)
			names = append(names, name)
		}
	}
	for _, name := range t.Into {
		if slices.Contains(names, name) {
			return nil, &Error{fmt.Sprintf("the rows are to be turned into a column %q, and the source has one of that name "+
				"already", name)}
		}
		names = append(names, name)
	}
	were := info.Names
	s.readers.New = func() any { return rowkind.NewReader(were, info.Above, t.BlankWords) }
	if info.Records {
		s.readers.New = func() any { return (*rowkind.Reader)(nil) }
	}
	info.Names, info.Contiguous, info.Records = names, false, false // what rows are is found here
	s.info = info
	return s, nil
}

// Info tells what the source tells, with the names of the columns that there are now.
func (s *Source) Info() *table.Info { return &s.info }

// Split finds the cells of a block, and makes its new rows.
func (s *Source) Split(b *table.Block) {
	s.Source.Split(b)
	kinds := s.kinds(b)
	rows := b.Rows * len(s.turned)
	t := &turning{
		source: s, b: b, text: append(make([]byte, 0, len(b.Text)+len(s.names)*16), b.Text...), width: len(s.rest) + 2,
		from: make([]uint32, 0, rows), lines: make([]uint32, 0, rows), spans: make([]table.Span, 0, rows*(len(s.rest)+2)),
	}
	for _, name := range s.names {
		t.named = append(t.named, table.Span{Start: uint32(len(t.text)), N: uint32(len(name))})
		t.text = append(t.text, name...)
	}
	for row := range b.Rows {
		if kind, odd := kinds[row]; odd {
			t.odd(row, kind)
			continue
		}
		for i := range s.turned {
			t.row(row, i)
		}
	}
	t.done()
}

// kinds returns the rows that are no data.
func (s *Source) kinds(b *table.Block) map[int]rowkind.Kind {
	kinds := map[int]rowkind.Kind{}
	r := s.readers.Get().(*rowkind.Reader)
	defer s.readers.Put(r)
	if r == nil { // records are all data, but for those with too many cells
		for _, e := range b.Extra {
			kinds[e.Row] = rowkind.Long
		}
		return kinds
	}
	rowkind.Odd(b, r, func(row int, k rowkind.Kind) {
		if s.aside[k] {
			kinds[row] = k
		}
	})
	return kinds
}

// turning makes the rows of a block.
type turning struct {
	source *Source
	b      *table.Block
	text   []byte
	named  []table.Span // the names of the columns that are turned
	width  int

	spans  []table.Span
	stored []value.Stored
	lines  []uint32
	from   []uint32
	extra  []table.Extra
	odds   []table.OddRow
}

// cell adds a cell of the file's row.
func (t *turning) cell(row, column int) {
	at := row*t.b.Width + column
	t.spans = append(t.spans, t.b.Spans[at])
	if t.b.Kinds != nil {
		t.stored = append(t.stored, t.b.Kinds[at])
	}
}

// own adds a cell of its own text, or a missing one.
func (t *turning) own(s table.Span) {
	t.spans = append(t.spans, s)
	if t.b.Kinds != nil {
		t.stored = append(t.stored, value.StoredText)
	}
}

// begin begins a row with the cells that stay.
func (t *turning) begin(row int) {
	t.from = append(t.from, uint32(row))
	t.lines = append(t.lines, uint32(t.b.Line(row)))
	for _, column := range t.source.rest {
		t.cell(row, column)
	}
}

// row adds the row of one of the columns that are turned.
func (t *turning) row(row, i int) {
	t.begin(row)
	t.own(t.named[i])
	t.cell(row, t.source.turned[i])
}

// odd adds a row that is no data as it is: the cells that have no place any more stand behind the others.
func (t *turning) odd(row int, kind rowkind.Kind) {
	at := len(t.from)
	t.begin(row)
	t.own(table.Span{N: table.Missing})
	t.own(table.Span{N: table.Missing})
	var more []table.Span
	for _, column := range t.source.turned {
		if s := t.b.Spans[row*t.b.Width+column]; s.N&table.Missing == 0 {
			more = append(more, s)
		}
	}
	t.extra = append(t.extra, table.Extra{Row: at, Spans: append(more, t.b.ExtraOf(row)...)})
	t.odds = append(t.odds, table.OddRow{Row: at, Kind: uint8(kind)})
}

// done puts the new rows into the block.
func (t *turning) done() {
	b := t.b
	b.FileRows, b.Rows, b.Width = b.Rows, len(t.from), t.width
	b.Text, b.Spans, b.Lines, b.From, b.Extra, b.Odd = t.text, t.spans, t.lines, t.from, t.extra, t.odds
	if b.Kinds != nil {
		b.Kinds = t.stored
	}
	if b.From == nil {
		b.From = []uint32{}
	}
	b.Pad()
}
