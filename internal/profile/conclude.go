package profile

import (
	"context"
	"sync"
	"sync/atomic"

	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Run reads a source to its end and concludes what it holds.
func Run(ctx context.Context, src table.Source, o Options) (*Profile, error) {
	c, err := Collect(ctx, src, o)
	if err != nil {
		return nil, err
	}
	return c.Conclude(o), nil
}

// Conclude concludes what was collected, by the wishes of the options. It is called once.
func (c *Collected) Conclude(o Options) *Profile {
	p := &Profile{Info: c.info, Bytes: c.bytes, Rows: c.rows, FileRows: c.fileRows, blocks: c.blocks}
	p.decideAside(c.part, &o)
	for i, column := range c.part.columns {
		column.finish() // they share a reader
		cp := &ColumnProfile{Name: p.Info.Names[i], Position: i + 1, Column: column}
		if o.Ask != nil {
			cp.ask = o.Ask(cp.Name)
		}
		p.Columns = append(p.Columns, cp)
	}
	p.concludeColumns(max(1, o.Workers))
	if !o.Alone {
		p.hearWitnesses()
	}
	p.facts(&c.part.same)
	p.structure(c.part, &c.trouble, c.odd)
	for _, column := range p.Columns {
		column.findings(p)
	}
	return p
}

// concludeColumns concludes what each column holds, several at a time.
func (p *Profile) concludeColumns(workers int) {
	var next atomic.Int64
	var all sync.WaitGroup
	for range min(workers, len(p.Columns)) {
		all.Go(func() {
			for i := next.Add(1) - 1; int(i) < len(p.Columns); i = next.Add(1) - 1 {
				p.Columns[i].conclude()
			}
		})
	}
	all.Wait()
}

func (c *ColumnProfile) conclude() {
	c.Counts = c.Column.Counts()
	c.Conclusion = reading.Conclude(c.Counts, c.ask)
	if c.Unasked = c.Conclusion; c.ask != (reading.Ask{Fit: c.ask.Fit, Witness: c.ask.Witness, CountsUp: c.ask.CountsUp}) {
		c.Unasked = reading.Conclude(c.Counts, reading.Ask{Fit: c.ask.Fit, Witness: c.ask.Witness, CountsUp: c.ask.CountsUp})
	}
	if _, countUp := c.versions(); countUp && c.ask.Type == nil && c.ask.Mark == nil && !c.ask.CountsUp {
		c.ask.CountsUp = true
		c.conclude()
		return
	}
	for hash, form := range c.Column.words {
		if r, _ := c.Conclusion.Convention.Judge(reading.BlankWord, form); r != reading.AsBlank {
			c.Column.distinct.add(hash)
		}
	}
	c.Column.distinct.count() // which is kept
	c.setRange()
}

// setRange gathers the values of the tallies that fit the column's type.
func (c *ColumnProfile) setRange() {
	conv := &c.Conclusion.Convention
	var numbers numberStats
	var days dayStats
	for i := range c.Column.Tallies {
		t := &c.Column.Tallies[i]
		r, fits := conv.Judge(t.Set, t.Form)
		if !fits || r == reading.AsBlank {
			continue
		}
		switch {
		case conv.Type.Numeric():
			numbers.merge(t.numbersUnder(conv))
		case conv.Type == value.Date, conv.Type == value.Timestamp:
			days.merge(t.Days[conv.SlotOf(t.Set, t.Form)])
		case conv.Type == value.Time:
			days.merge(t.clocks())
		}
	}
	switch {
	case conv.Type.Numeric():
		if all, any := numbers.total(); any {
			c.Range = Range{all.smallest.String(), all.top.String(), all.sum.Number().String()}
		}
	case days.any:
		c.Range = Range{Smallest: momentText(conv.Type, days.first), Largest: momentText(conv.Type, days.last)}
	}
}

func momentText(t value.Type, m value.Moment) string {
	switch t {
	case value.Date:
		return string(m.Day.Append(nil))
	case value.Time:
		return string(m.Clock.Append(nil))
	}
	return string(m.Append(nil))
}
