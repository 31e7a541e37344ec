package convert

import (
	"context"
	"encoding/binary"
	"fmt"
	"io"
	"sync/atomic"

	"junvo/internal/order"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/table"
)

// Whether a value is the first of its kind can't be told from its block. So a column that
// must be unique is converted once before: its values are brought into order, whatever
// their number, and a bit is kept for every row that repeats an earlier one.

// Repeats says in which rows a column that must be unique repeats the value of an earlier row.
type Repeats struct {
	columns map[int]*repeated // by their place in the plan
}

type repeated struct {
	rows  bitset          // rows that repeat the value of an earlier row
	final bitset          // those of them that do so with a person's answer, which does not count then
	first map[int64]int64 // the earlier row, for the first maxFirst of them
}

// maxFirst is for how many rows of a column the earlier row is remembered.
const maxFirst = 100_000

// A bitset is a set of row numbers.
type bitset []uint64

func (b bitset) has(row int64) bool {
	return row>>6 < int64(len(b)) && b[row>>6]>>(row&63)&1 != 0
}

func (b *bitset) add(row int64) {
	if need := int(row>>6) + 1; need > len(*b) {
		*b = append(*b, make([]uint64, need-len(*b))...)
	}
	(*b)[row>>6] |= 1 << (row & 63)
}

// of returns what is known of a column, nil for nothing.
func (r *Repeats) of(column int) *repeated {
	if r == nil {
		return nil
	}
	return r.columns[column]
}

// FindRepeats converts a source and finds the repeated values of the columns that must be
// unique, among the rows that go out. A second run with the fixes, and with what the first
// has found as known, finds the answers that repeat a value in their turn. Values that do
// not fit in memory are kept in a folder. A limit stops after the block that has that row.
func FindRepeats(
	ctx context.Context, src table.Source, p *plan.Bound, o Options, folder string, limit int64,
) (*Repeats, error) {
	c := &collector{failed: map[[2]int64]bool{}}
	for i := range p.Columns {
		if p.Columns[i].Must.Unique {
			c.columns = append(c.columns, i)
			c.places = append(c.places, p.Place(i))
			c.keys = append(c.keys, order.NewKeys([]order.Key{{Column: i, Type: p.Columns[i].Convention.Type}}))
		}
	}
	c.rows = o.RowsBefore
	c.sorter = order.NewSorter(folder, order.Memory)
	defer c.sorter.Close()
	o.Sink = c
	o.Aside, o.Origin = nil, false
	o.Failure = func(f Failure) error {
		c.failed[[2]int64{f.Row, int64(f.column)}] = true
		return nil
	}
	if limit > 0 {
		some := &limited{Source: src}
		some.left.Store(limit)
		src = some
	}
	// It stops when it is converted.
	if _, err := Run(ctx, src, p.BlankOn(plan.FailStop), o); err != nil {
		return nil, err
	}
	return c.repeats(ctx, o.Repeats)
}

// collector is a sink that keeps the values that must be unique, with their rows.
type collector struct {
	table.Discard
	columns []int
	places  []int // where these stand in the output
	keys    []*order.Keys
	sorter  *order.Sorter
	failed  map[[2]int64]bool // cells of the block, by row and column
	rows    int64             // before the block
	key     []byte
	records []byte
}

// Write keeps the values of a block.
func (c *collector) Write(_ []byte, rows *table.Rows) error {
	c.records = c.records[:0]
	var data [binary.MaxVarintLen64]byte
	for i, column := range c.columns {
		for row := range rows.Count {
			number := c.rows + int64(row) + 1
			cell := rows.Cells[c.places[i]].At(row)
			if len(cell) == 0 || rows.Out != nil && !rows.Out[row] || c.failed[[2]int64{number, int64(column)}] {
				continue
			}
			c.key = binary.BigEndian.AppendUint32(c.key[:0], uint32(column))
			c.key = c.keys[i].Append(c.key, func(int) []byte { return cell })
			n := binary.PutVarint(data[:], number)
			c.records = order.AppendRecord(c.records, c.key, data[:n])
		}
	}
	c.rows += int64(rows.Count)
	clear(c.failed)
	return c.sorter.Add(c.records)
}

// repeats finds equal values, which the order has brought together, the first row first.
func (c *collector) repeats(ctx context.Context, known *Repeats) (*Repeats, error) {
	r := &Repeats{columns: map[int]*repeated{}}
	for _, column := range c.columns {
		r.columns[column] = &repeated{first: map[int64]int64{}}
		if before := known.of(column); before != nil {
			*r.columns[column] = *before
		}
	}
	var last []byte
	var first int64
	err := c.sorter.Each(ctx, func(key, data []byte) error {
		row, _ := binary.Varint(data)
		if string(key) != string(last) || last == nil {
			last, first = append(last[:0], key...), row
			return nil
		}
		rep := r.columns[int(binary.BigEndian.Uint32(key))]
		rep.rows.add(row)
		if known != nil {
			rep.final.add(row)
		}
		if len(rep.first) < maxFirst {
			rep.first[row] = first
		}
		return nil
	})
	return r, err
}

// limited is a source that ends after the block with a row.
type limited struct {
	table.Source
	left atomic.Int64 // rows; blocks are split side by side
}

func (l *limited) Next(b *table.Block) error {
	if l.left.Load() <= 0 {
		return io.EOF
	}
	return l.Source.Next(b)
}

func (l *limited) Split(b *table.Block) {
	l.Source.Split(b)
	l.left.Add(-b.RowsOfFile())
}

// repeat fails a cell whose value an earlier row has.
func (c *column) repeat() outcome {
	number := c.place(c.row)
	detail := "an earlier row has the same value"
	if first := c.repeats.first[number]; first > 0 && c.b.From == nil {
		detail = fmt.Sprintf("row %d has the same value", first)
	}
	cell := []byte(c.source(c.row))
	if !c.repeats.final.has(number) {
		return c.fail(cell, reason.NotUnique, detail)
	}
	answer := c.fix
	defer func() { c.fix = answer }()
	c.fix = nil
	return c.fail(cell, reason.NotUnique, detail)
}
