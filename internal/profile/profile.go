package profile

import (
	"context"

	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Options say how to profile; the zero value leaves all to the evidence.
type Options struct {
	Workers    int
	BlankWords []string
	Ask        func(column string) reading.Ask // nil for no wishes
	Shapes     func(column string) bool        // the columns whose shapes the plan is to remember; nil for none
	Open       func(column string) bool        // the columns to open, which are told in detail; nil for none
	Private    func(column string) bool        // the columns whose values are to appear nowhere; nil for none
	Progress   func(bytes, rows int64)         // called after every block, in order
}

// Profile is what a table's columns hold.
type Profile struct {
	Info     *table.Info
	Bytes    int64 // of text that was read
	Rows     int64 // all rows below the header, those set aside included
	Columns  []*ColumnProfile
	Findings []Finding // of the file's structure
	// Aside counts the rows of each kind that are no data.
	Aside    [rowkind.NumKinds]int64
	SetAside [rowkind.NumKinds]bool // the kinds that are to be set aside

	blocks []blockStart
}

// blockStart is how many rows stand before a block, and the line of its file that
// it begins in.
type blockStart struct {
	rows, line int64
	file       int
}

// ColumnProfile is what one column holds.
type ColumnProfile struct {
	Name       string
	Position   int // from 1
	Column     *Column
	Counts     []reading.Count
	Conclusion *reading.Conclusion
	Unasked    *reading.Conclusion // what the cells show by themselves, whatever was told
	Range      Range
	Findings   []Finding
	Constant   bool   // every row has the same value
	Key        bool   // every row has a value of its own, as far as that is known
	CopyOf     string // the first column before it that holds the same
}

// Range has the extremes and the sum of a column of numbers, dates or times, in canonical text.
type Range struct {
	Smallest, Largest string
	Sum               string // of numbers only
}

// Where is the row of a cell, and the line of it in its file.
type Where struct {
	Row, Line int64
	File      string
}

// Where returns the row and line of a place.
func (p *Profile) Where(at Place) Where {
	b := p.blocks[at.Block]
	return Where{b.rows + int64(at.Row) + 1, b.line + int64(at.Line), p.Info.Files[b.file].Name}
}

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
	p := &Profile{Info: c.info, Bytes: c.bytes, Rows: c.rows, blocks: c.blocks}
	p.decideAside(c.part, o.Ask)
	for i, column := range c.part.columns {
		column.finish()
		p.Columns = append(p.Columns, conclude(column, p.Info.Names[i], i+1, o))
	}
	p.facts(&c.part.same)
	p.structure(c.part, &c.trouble, c.odd)
	for _, column := range p.Columns {
		column.findings(p)
	}
	return p
}

func conclude(c *Column, name string, position int, o Options) *ColumnProfile {
	var ask reading.Ask
	if o.Ask != nil {
		ask = o.Ask(name)
	}
	cp := &ColumnProfile{Name: name, Position: position, Column: c, Counts: c.Counts()}
	cp.Conclusion = reading.Conclude(cp.Counts, ask)
	if cp.Unasked = cp.Conclusion; ask != (reading.Ask{Fit: ask.Fit}) {
		cp.Unasked = reading.Conclude(cp.Counts, reading.Ask{Fit: ask.Fit})
	}
	for hash, form := range c.words {
		if r, _ := cp.Conclusion.Convention.Judge(reading.BlankWord, form); r != reading.AsBlank {
			c.distinct.add(hash)
		}
	}
	cp.setRange()
	return cp
}

// Distinct returns how many different texts the column has that are not blank, and
// whether the number is exact.
func (c *ColumnProfile) Distinct() (int64, bool) {
	n, exact := c.Column.distinct.count()
	return min(n, c.Conclusion.Fits+c.Conclusion.Fails), exact // an estimate may be too large
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

// numbersUnder returns the numbers of a tally under the convention's decimal mark.
func (t *Tally) numbersUnder(c *reading.Convention) *numberStats {
	marks := t.Set.Marks()
	m := marks[0]
	if len(marks) > 1 {
		m = c.Mark
	}
	return t.Numbers[m]
}

// clocks returns the earliest and the latest time of day of a tally of times.
func (t *Tally) clocks() (s dayStats) {
	switch {
	case t.Set.Any(reading.ClockPoint):
		if all, any := t.Numbers[reading.Point].total(); any {
			s.add(value.Moment{Clock: reading.ClockOf(all.smallest.Coef)})
			s.add(value.Moment{Clock: reading.ClockOf(all.top.Coef)})
		}
		return s
	case t.Set.Any(reading.Dates):
		return t.Days[reading.ClockSlot]
	}
	return t.Days[0]
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
