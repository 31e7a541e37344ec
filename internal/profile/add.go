package profile

import (
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Add collects the column's cells of the rows [from, to).
func (c *Column) Add(b *table.Block, column, from, to int) {
	c.reader.Recall(c.learned)
	c.Cells += int64(to - from)
	if b.Kinds != nil {
		c.addStored(b, column, from, to)
		return
	}
	c.Stored[value.StoredText] += int64(to - from)
	c.recent.Open()
	resting := c.recent.Resting()
	if resting {
		c.recent.Rested(to - from)
	}
	for row := from; row < to; row++ {
		most := table.MaxKey
		if resting {
			most = 0
			row = c.shorts(b, column, row, to)
		} else {
			row = c.known(b, column, row, to)
		}
		next, unknown := c.alikes(b, column, row, to, most)
		row = c.texts(b, column, next, to, most)
		if resting {
			row = c.empties(b, column, row, to)
		}
		if row == to {
			break
		}
		s := b.Spans[row*b.Width+column]
		switch {
		case !resting && s.Within(table.MaxKey):
			c.remember(b.Padded().Key(s), s, b, row)
		case unknown && row == next:
			cell := b.Text[s.Start : int(s.Start)+s.Len()]
			c.collect(c.reader.ReadUnknown(cell), cell, b, row)
		default:
			c.unkeyed(s, b, row)
		}
	}
}

// addStored collects cells that the source stores as more than text.
func (c *Column) addStored(b *table.Block, column, from, to int) {
	for row := from; row < to; row++ {
		at := row*b.Width + column
		s, kind := b.Spans[at], b.Kinds[at]
		c.Stored[kind]++
		if s.Len() == 0 && (kind == value.StoredText || s.N&table.Missing != 0) {
			c.blank(s, b, row)
			continue
		}
		cell := b.Text[s.Start : int(s.Start)+s.Len()]
		c.collect(c.reader.ReadStored(cell, kind), cell, b, row)
	}
}

// known counts the cells from a row on, up to the first that is not remembered, and
// returns its row.
func (c *Column) known(b *table.Block, column, row, to int) int {
	spans, at, width := b.Spans[:to*b.Width], row*b.Width+column, b.Width
	padded, recent := b.Padded(), &c.recent
	empty := int64(0)
	for ; uint(at) < uint(len(spans)); at += width {
		s := spans[at]
		if !s.Within(table.MaxKey) {
			if s.N != 0 || c.empty == 0 {
				break
			}
			empty++
			row++
			continue
		}
		e := recent.Find(padded.Key(s))
		if e == nil {
			break
		}
		e.Known++
		row++
	}
	if empty > 0 {
		c.Tallies[c.empty-1].Cells += empty
	}
	return row
}

// empties counts empty cells from a row on, up to the first that is not empty, and returns its row.
func (c *Column) empties(b *table.Block, column, row, to int) int {
	if c.empty == 0 {
		return row
	}
	from := row
	for row < to && b.Spans[row*b.Width+column].N == 0 {
		row++
	}
	c.Tallies[c.empty-1].Cells += int64(row - from)
	return row
}

// texts counts cells of more than most bytes that are plainly nothing but text, from a
// row on, up to the first that is not, and returns its row.
func (c *Column) texts(b *table.Block, column, row, to, most int) int {
	if c.last >= len(c.Tallies) || c.shapes.open() || c.reader.Told() {
		return row
	}
	t := &c.Tallies[c.last]
	if t.Set != 0 || t.Form != 0 || len(t.First) < maxSamples {
		return row
	}
	for ; row < to; row++ {
		s := b.Spans[row*b.Width+column]
		if s.Len() <= most || s.N&table.Escaped != 0 {
			break
		}
		cell := b.Text[s.Start : int(s.Start)+s.Len()]
		chars := c.reader.OnlyText(cell)
		if chars == 0 {
			break
		}
		t.Cells++
		if c.detail != nil {
			at := place(b, row)
			c.detail.add(cell, chars, 1, &at, nil)
		}
		hash := hashText(cell)
		c.distinct.add(hash)
		if c.lengths.add(chars, 1) {
			c.lengths.long(cell, hash, place(b, row))
		}
	}
	return row
}

// unkeyed counts a cell that is not remembered.
func (c *Column) unkeyed(s table.Span, b *table.Block, row int) {
	switch {
	case s.Len() == 0:
		c.blank(s, b, row)
	case s.N&table.Escaped != 0:
		c.read(b.At(s), b, row)
	default:
		c.read(b.Text[s.Start:int(s.Start)+s.Len()], b, row)
	}
}

// remember counts a short cell that is not remembered. It will be from now on, if its tally
// wants no more samples.
func (c *Column) remember(key table.Key, s table.Span, b *table.Block, row int) {
	if c.recent.Miss(c.Cells) {
		c.readyShorts()
	}
	if t := c.read(b.At(s), b, row); len(t.First) == maxSamples {
		e := c.room(key)
		c.forget(e)
		e.Key = key
	}
}

// room returns the slot for a text that is not remembered: of the two that it may go to, the
// less used one, but now and then the other, so that texts which might all be remembered do
// not drive each other out for ever.
func (c *Column) room(key table.Key) *table.RecentText[since] {
	e, o := c.recent.Pair(key)
	if (o.Known < e.Known) != (c.recent.Misses()%8 == 0) {
		return o
	}
	return e
}

// blank counts a cell without a byte in it.
func (c *Column) blank(s table.Span, b *table.Block, row int) {
	last, kind := c.last, blankOf(s)
	at := c.tally(reading.BlankSet(kind), 0, noAffix)
	c.last = last // what is not blank is like what was not blank before
	t := &c.Tallies[at]
	t.Cells++
	if len(t.First) < maxSamples {
		t.sample(b, row, nil)
	}
	if kind == value.Empty && len(t.First) == maxSamples {
		c.empty = at + 1
	}
}

// blankOf returns the blank kind of a cell without a byte in it.
func blankOf(s table.Span) value.Blank {
	switch {
	case s.N&table.Missing != 0:
		return value.Missing
	case s.N&table.Quoted != 0:
		return value.QuotedEmpty
	}
	return value.Empty
}

// marked are the sets that a cell is looked at more closely for.
const marked = reading.Strays | reading.BlankWord | reading.Told | reading.Blanks

// read reads a cell and counts it. It returns its tally.
func (c *Column) read(cell []byte, b *table.Block, row int) *Tally {
	return c.collect(c.reader.Read(cell), cell, b, row)
}

// collect counts a cell that was read.
func (c *Column) collect(x *reading.Reads, cell []byte, b *table.Block, row int) *Tally {
	at := c.last
	if at >= len(c.Tallies) || c.Tallies[at].Set != x.Set || c.Tallies[at].Form != x.Form {
		at = c.tally(x.Set, x.Form, x.Affix)
	}
	t := &c.Tallies[at]
	t.Cells++
	if x.Set.Any(reading.Values) {
		t.values(x, 1)
	}
	if len(t.First) < maxSamples {
		if t.sample(b, row, cell); len(t.First) == maxSamples {
			c.readyShorts()
		}
	}
	if c.detail != nil {
		at := place(b, row)
		c.details(t, x, cell, 1, &at)
	}
	if c.shapes.open() && !x.Set.Any(reading.Blanks) {
		c.shapes.add(cell)
	}
	hash := hashText(cell)
	if x.Set.Any(marked) {
		c.mark(x, cell, hash, b, row)
	} else {
		c.distinct.add(hash)
	}
	if text(x.Set) {
		if n := c.reader.Chars(cell); c.lengths.add(n, 1) {
			c.lengths.long(cell, hash, place(b, row))
		}
	}
	return t
}

// mark counts what is odd about a cell.
func (c *Column) mark(x *reading.Reads, cell []byte, hash uint64, b *table.Block, row int) {
	if x.Set.Any(reading.Strays) {
		c.strays(cell, place(b, row))
	}
	switch {
	case x.Set.Any(reading.BlankWord):
		c.words[hash] = x.Form
	case x.Set.Blank() == value.NotBlank:
		c.distinct.add(hash)
	}
}
