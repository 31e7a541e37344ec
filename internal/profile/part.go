package profile

import (
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/table"
)

// part is what one worker has collected of the blocks that it was given.
type part struct {
	columns []*Column
	aside   [rowkind.NumKinds]aside
	rows    *rowkind.Reader
	same    same
	// contiguous says that rows of all blocks stand in one piece, in the order of the columns.
	contiguous bool
	records    bool // all rows are data, except for those with too many cells
	// newColumns makes the columns of rows that may turn out to be data.
	newColumns func() []*Column
}

// aside is the rows of one kind that are no data, or may turn out not to be.
type aside struct {
	count   int64
	summed  int64 // those that add up the rows right above them
	first   []Sample
	columns []*Column // only for kinds that are data after all where they are many
	copies  copies
}

func newPart(info *table.Info, o *Options) *part {
	p := &part{contiguous: info.Contiguous, records: info.Records, rows: rowkind.NewReader(info.Names[:len(info.Names)-info.Made], info.Above, o.BlankWords)}
	reader := reading.NewReader(o.BlankWords)
	p.newColumns = func() []*Column { return newColumns(info.Names, reader, o) }
	p.columns = p.newColumns()
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
		columns[i].skipped = o.Skip != nil && o.Skip(name)
	}
	return columns
}

// add collects a block.
func (p *part) add(b *table.Block) {
	next, section := 0, 0 // the first row that is not looked at yet, and the first of the section
	rowkind.Odd(b, p.rows, func(row int, k rowkind.Kind) {
		if p.records && k != rowkind.Long {
			return
		}
		p.addData(b, next, row)
		next = row + 1
		if k == rowkind.Blank && next < b.Rows && mayBeNames(b, next) {
			b.Trouble.Names.Add(next)
		}
		a := &p.aside[k]
		if k.Doubtful() && a.columns == nil {
			a.columns = p.newColumns()
		}
		if k.IsTotal() && p.rows.Adds(b, section, row) {
			a.summed++
		}
		if k != rowkind.Rule {
			section = next
		}
		a.add(b, row)
	})
	p.addData(b, next, b.Rows)
}

// manyColumns is from how many columns on a column is visited once for a block.
const manyColumns = 80

// addData collects the rows [from, to), which are data.
func (p *part) addData(b *table.Block, from, to int) {
	p.same.add(b, from, to, p.contiguous)
	// What is known of many columns is far more than the processor's near memory holds: then a column has all its
	// rows in turn, and is not fetched again for each tile.
	visit := tile
	if len(p.columns) > manyColumns {
		visit = to - from
	}
	for ; from < to; from += visit {
		for i, c := range p.columns {
			if c.skipped {
				continue
			}
			for at, end := from, min(from+visit, to); at < end; at += tile {
				c.Add(b, i, at, min(at+tile, end))
			}
		}
	}
}

// add collects a row that is no data, or may turn out not to be.
func (a *aside) add(b *table.Block, row int) {
	a.count++
	if len(a.first) < maxSamples {
		a.first = append(a.first, Sample{Place: place(b, row)})
	}
	if a.columns == nil {
		return
	}
	a.copies.add(b, row, row+1)
	for i, c := range a.columns {
		if !c.skipped {
			c.Add(b, i, row, row+1)
		}
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
		a.summed += b.summed
		a.first = mergeSamples(a.first, b.first)
		a.copies.merge(&b.copies)
		if a.columns == nil {
			a.columns = b.columns
			continue
		}
		for i, c := range b.columns {
			a.columns[i].Merge(c)
		}
	}
}
