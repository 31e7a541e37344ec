package profile

import (
	"context"
	"fmt"

	"junvo/internal/table"
)

// Collected is what was counted of a source, before anything is concluded. It can be
// saved, and joined with what was collected of other parts of the same table.
type Collected struct {
	info        *table.Info
	blankWords  []string
	bytes, rows int64
	fileRows    int64 // of the file; the others are those of the table that is made of them
	blocks      []blockStart
	trouble     [numTroubles]places
	odd         map[byte]int64 // bytes that are not text in the encoding
	part        *part
}

// Collect reads a source to its end.
func Collect(ctx context.Context, src table.Source, o Options) (*Collected, error) {
	info := src.Info().Clone()
	c := &Collected{info: info, blankWords: o.BlankWords}
	parts := make([]*part, o.Workers)
	for i := range parts {
		parts[i] = newPart(info, &o)
	}
	var lines table.Lines
	work := func(worker int, b *table.Block) { parts[worker].add(b) }
	done := func(b *table.Block) error {
		info.Learn(b)
		c.blocks = append(c.blocks, blockStart{c.fileRows, lines.Start(info, b), b.File})
		collectTrouble(&c.trouble, b, c.fileRows)
		c.addOdd(b.Trouble.Odd)
		c.rows += int64(b.Rows)
		c.fileRows += b.RowsOfFile()
		c.bytes += int64(len(b.Raw))
		if o.Progress != nil {
			o.Progress(c.bytes, c.rows)
		}
		return nil
	}
	if err := table.Each(ctx, src, o.Workers, work, done); err != nil {
		return nil, err
	}
	c.part = parts[0]
	for _, q := range parts[1:] {
		c.part.merge(q)
	}
	c.hide(o.Private)
	return c, nil
}

// Names returns the names of the columns.
func (c *Collected) Names() []string { return c.info.Names }

// Append adds what was collected of the part of the table that comes next. That must have
// the same columns in the same order, and have been collected with the same blank words
// and the same columns opened. The other is used up by it.
func (c *Collected) Append(o *Collected) error {
	info, err := table.Join(c.info, o.info)
	if err != nil {
		return err
	}
	if err := c.alike(o); err != nil {
		return err
	}
	first, files := uint32(len(c.blocks)), len(c.info.Files)
	if o.info.Continues {
		files--
	}
	o.part.shift(first)
	for _, b := range o.blocks {
		c.blocks = append(c.blocks, blockStart{c.fileRows + b.rows, b.line, files + b.file})
	}
	for i, t := range o.trouble {
		c.trouble[i].count += t.count
		for _, r := range t.rows {
			if len(c.trouble[i].rows) < maxRows {
				c.trouble[i].rows = append(c.trouble[i].rows, c.fileRows+r)
			}
		}
	}
	c.addOdd(o.odd)
	c.rows += o.rows
	c.fileRows += o.fileRows
	c.bytes += o.bytes
	c.info = info
	c.part.merge(o.part)
	return nil
}

// alike reports why two cannot be joined.
func (c *Collected) alike(o *Collected) error {
	if fmt.Sprint(c.blankWords) != fmt.Sprint(o.blankWords) {
		return fmt.Errorf("%s was profiled with other blank words than %s", o.info.Name, c.info.Name)
	}
	for i, name := range c.info.Names {
		a, b := c.part.columns[i].detail, o.part.columns[i].detail
		if (a == nil) != (b == nil) || c.part.columns[i].private != o.part.columns[i].private || a != nil &&
			a.limit != b.limit {
			return fmt.Errorf("of %s the column %q was opened, or made private, otherwise than of %s", o.info.Name, name,
				c.info.Name)
		}
	}
	return nil
}

// shift moves all places that many blocks back.
func (p *part) shift(blocks uint32) {
	samples := func(list []Sample) {
		for i := range list {
			list[i].Place.Block += blocks
		}
	}
	columns := func(list []*Column) {
		for _, c := range list {
			c.finish()
			for i := range c.Tallies {
				samples(c.Tallies[i].First)
			}
			for _, s := range c.Strays {
				s.first.Block += blocks
			}
			for i := range c.lengths.top {
				c.lengths.top[i].first.Block += blocks
			}
			if c.detail != nil {
				for _, s := range c.detail.shapes {
					s.first.Place.Block += blocks
				}
			}
		}
	}
	columns(p.columns)
	for k := range p.aside {
		samples(p.aside[k].first)
		columns(p.aside[k].columns)
	}
	for h, r := range p.same.rows.few {
		r.first.Block += blocks
		if r.next != nowhere {
			r.next.Block += blocks
		}
		p.same.rows.few[h] = r
	}
}

func (c *Collected) addOdd(odd map[byte]int64) {
	if c.odd == nil {
		c.odd = map[byte]int64{}
	}
	for b, n := range odd {
		c.odd[b] += n
	}
}

// hide makes the columns private that o says are.
func (c *Collected) hide(private func(string) bool) {
	if private == nil {
		return
	}
	for i, name := range c.info.Names {
		if !private(name) {
			continue
		}
		c.part.columns[i].hide()
		for k := range c.part.aside {
			if columns := c.part.aside[k].columns; columns != nil {
				columns[i].hide()
			}
		}
	}
}
