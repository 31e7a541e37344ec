package profile

import (
	"maps"

	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// maxTallies bounds the tallies of a column. Only units and the shapes of codes
// can come in so many forms; beyond the bound they are counted together.
const (
	maxTallies = 256
	minTallies = 24
	allTallies = 1 << 15 // of all columns of a worker together
)

func talliesFor(columns int) int {
	return min(maxTallies, max(minTallies, allTallies/max(1, columns)))
}

const crowd = ^uint64(0)

func noAffix() string { return "" }

// tally returns the index of the tally of a set and form. A new tally asks for its affix.
func (c *Column) tally(s reading.Set, form uint64, affix func() string) int {
	if c.last < len(c.Tallies) && c.Tallies[c.last].Set == s && c.Tallies[c.last].Form == form {
		return c.last
	}
	if c.crowded && crowds(s) {
		form, affix = crowd, noAffix
	}
	if c.find(s, form) {
		return c.last
	}
	if !c.crowded && len(c.Tallies) >= c.tallies && crowds(s) {
		c.crowd()
		return c.tally(s, form, affix)
	}
	c.Tallies = append(c.Tallies, Tally{Count: reading.Count{Set: s, Form: form, Affix: affix()}})
	c.last = len(c.Tallies) - 1
	return c.last
}

// find makes the tally of a set and form the last one, and reports whether there is one.
func (c *Column) find(s reading.Set, form uint64) bool {
	for i := range c.Tallies {
		if c.Tallies[i].Set == s && c.Tallies[i].Form == form {
			c.last = i
			return true
		}
	}
	return false
}

// crowds reports whether sets of this sort can come in any number of forms.
func crowds(s reading.Set) bool { return s.Any(reading.UnitWord | reading.CodeLike) }

// forget adds the cells that e stands for to its tally.
func (c *Column) forget(e *table.RecentText[since]) {
	if e.Known == 0 {
		return
	}
	var buf [16]byte
	cell := e.Key.Append(buf[:0])
	x := c.reader.Read(cell)
	t := &c.Tallies[c.tally(x.Set, x.Form, x.Affix)]
	t.Cells += int64(e.Known)
	if x.Set.Any(reading.Values) {
		t.values(x, uint64(e.Known))
	}
	if c.detail != nil {
		c.details(t, x, cell, int64(e.Known), nil)
	}
	if x.Set.Any(reading.Strays) {
		c.moreStrays(cell, int64(e.Known))
	}
	if text(x.Set) {
		c.lengths.add(c.reader.Chars(cell), int64(e.Known))
	}
	e.Known = 0
}

// text reports whether a cell of this set is nothing but text.
func text(s reading.Set) bool { return !s.Any(reading.Values | reading.Blanks) }

// details adds a text to what is collected of a column that is opened.
func (c *Column) details(t *Tally, x *reading.Reads, cell []byte, times int64, at *Place) {
	if b := x.Set.Blank(); b == value.Spaces || b == value.Invisible || b == value.Null {
		return
	}
	c.detail.add(cell, c.reader.Chars(cell), times, at, c.noted())
	t.sketch(x, times)
}

// finish counts all that is only remembered so far.
func (c *Column) finish() {
	if len(c.recent.Texts) > 0 {
		c.reader.Recall(c.learned)
	}
	for i := range c.recent.Texts {
		c.forget(&c.recent.Texts[i])
	}
	c.recent.Close()
}

// Merge adds what another column has collected. Both are finished by it.
func (c *Column) Merge(o *Column) {
	c.finish()
	o.finish()
	c.Cells += o.Cells
	for k, n := range o.Stored {
		c.Stored[k] += n
	}
	if o.crowded && !c.crowded {
		c.crowd()
	}
	c.private = c.private || o.private
	for i := range o.Tallies {
		t := &o.Tallies[i]
		at := c.tally(t.Set, t.Form, func() string { return t.Affix })
		c.Tallies[at].merge(t)
	}
	for k, n := range o.Strays {
		if have := c.Strays[k]; have == nil {
			c.Strays[k] = n
		} else {
			have.merge(n)
		}
	}
	maps.Copy(c.words, o.words)
	if c.shapes != nil {
		c.shapes.merge(o.shapes)
	}
	if c.detail != nil {
		c.detail.merge(o.detail)
	}
	c.distinct.merge(&o.distinct)
	c.lengths.merge(&o.lengths)
}

// Counts returns the counts from which a conclusion is drawn.
func (c *Column) Counts() []reading.Count {
	counts := make([]reading.Count, len(c.Tallies))
	for i := range c.Tallies {
		counts[i] = c.Tallies[i].Count
		counts[i].Digits = c.Tallies[i].digits()
	}
	return counts
}

// crowd counts the forms of units and codes together from now on. It happens while a cell is counted, which the reader
// still holds, so that another one reads the texts that are remembered.
func (c *Column) crowd() {
	reader := c.reader
	c.reader = reader.Another()
	defer func() { c.reader = reader }()
	for i := range c.recent.Texts {
		c.forget(&c.recent.Texts[i])
		c.recent.Texts[i] = table.RecentText[since]{}
	}
	old := c.Tallies
	c.Tallies, c.crowded, c.last, c.empty = nil, true, 0, 0
	c.era++
	c.learned.Crowded = true
	for i := range old {
		t := &old[i]
		at := c.tally(t.Set, t.Form, func() string { return t.Affix })
		c.Tallies[at].merge(t)
	}
	c.readyShorts()
}
