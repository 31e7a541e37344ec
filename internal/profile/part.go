package profile

import (
	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/table"
)

// part is what one worker has collected of the blocks that it was given.
type part struct {
	columns []*Column
	aside   [reading.NumRowKinds]aside
	rows    *reading.RowReader
	data    []uint32 // scratch: the rows of data of a block
	lone    [reading.NumRowKinds][]uint32
	same    same
	// contiguous says that rows of all blocks stand in one piece, in the order of the columns.
	contiguous bool
}

// aside is the rows of one kind that are no data, or may turn out not to be.
type aside struct {
	count   int64
	first   []Sample
	columns []*Column // only for kinds that are data after all where they are many
}

func newPart(info *table.Info, o *Options) *part {
	p := &part{contiguous: info.Contiguous, same: same{columns: make([]uint64, len(info.Names))}, rows: reading.NewRowReader(info.Names, o.BlankWords)}
	reader := reading.NewReader(o.BlankWords)
	p.columns = newColumns(info.Names, reader, o)
	for k := range p.aside {
		if doubtful(reading.RowKind(k)) {
			p.aside[k].columns = newColumns(info.Names, reader, o)
		}
	}
	return p
}

func newColumns(names []string, reader *reading.Reader, o *Options) []*Column {
	open := o.Open
	columns := make([]*Column, len(names))
	opened := 0
	for _, name := range names {
		if open != nil && open(name) {
			opened++
		}
	}
	for i, name := range names {
		columns[i] = newColumn(reader, len(names))
		if open != nil && open(name) {
			columns[i].detail = newDetail(opened)
		}
		if o.Shapes != nil && o.Shapes(name) {
			columns[i].shapes = newOutlines()
		}
	}
	return columns
}

// doubtful reports whether rows of a kind may be data after all: where a table
// has many of them, it is just sparse.
func doubtful(k reading.RowKind) bool {
	return k == reading.SectionHeading || k == reading.NoteRow || k == reading.TotalRow
}

// tile is how many rows are collected column by column before the next: as many
// as the processor's nearest memory holds.
const tile = 128

// add collects a block.
func (p *part) add(b *table.Block) {
	rows := p.sort(b)
	p.same.add(b, rows, p.contiguous)
	for len(rows) > 0 {
		n := min(tile, len(rows))
		for i, c := range p.columns {
			c.Add(b, i, rows[:n])
		}
		rows = rows[n:]
	}
	for k := range p.aside {
		if a := &p.aside[k]; a.columns != nil && len(p.lone[k]) > 0 {
			for i, c := range a.columns {
				c.Add(b, i, p.lone[k])
			}
		}
	}
}

// sort finds the rows of data.
func (p *part) sort(b *table.Block) []uint32 {
	for k := range p.lone {
		p.lone[k] = p.lone[k][:0]
	}
	p.data = p.data[:0]
	next := 0
	plan.OddRows(b, p.rows, func(row int, k reading.RowKind) {
		p.dataTo(&next, row)
		next = row + 1
		a := &p.aside[k]
		a.count++
		if len(a.first) < maxSamples {
			a.first = append(a.first, Sample{Place: place(b, row)})
		}
		p.lone[k] = append(p.lone[k], uint32(row))
	})
	p.dataTo(&next, b.Rows)
	return p.data
}

// dataTo adds the rows from next to end, without end, to the rows of data.
func (p *part) dataTo(next *int, end int) {
	for ; *next < end; *next++ {
		p.data = append(p.data, uint32(*next))
	}
}

// merge adds what another part has collected.
func (p *part) merge(o *part) {
	for i, c := range p.columns {
		c.Merge(o.columns[i])
	}
	p.same.merge(&o.same)
	for k := range p.aside {
		a, b := &p.aside[k], &o.aside[k]
		a.count += b.count
		a.first = mergeSamples(a.first, b.first)
		for i, c := range a.columns {
			c.Merge(b.columns[i])
		}
	}
}
