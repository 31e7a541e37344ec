package profile

import (
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// alikes counts cells of more than most bytes that are written as cells before them but for their digits, from a row
// on, up to the first that is not, or of which more is wanted than its tally counts, and returns its row.
func (c *Column) alikes(b *table.Block, column, row, to, most int) int {
	if c.last >= len(c.Tallies) || c.shapes.open() || c.reader.Told() {
		return row
	}
	t := &c.Tallies[c.last]
	for ; row < to; row++ {
		s := b.Spans[row*b.Width+column]
		if s.Len() <= most || s.N&table.Escaped != 0 {
			break
		}
		cell := b.Text[s.Start : int(s.Start)+s.Len()]
		x := c.reader.Alike(cell)
		if x == nil || x.Set.Any(marked) {
			break
		}
		form := x.Form
		if c.crowded && crowds(x.Set) {
			form = crowd
		}
		if t.Set != x.Set || t.Form != form {
			if !c.find(x.Set, form) {
				break
			}
			t = &c.Tallies[c.last]
		}
		if len(t.First) < maxSamples {
			break
		}
		t.Cells++
		if c.detail != nil {
			at := place(b, row)
			c.details(t, x, cell, 1, &at)
		}
		hash := hashText(cell)
		c.distinct.add(hash)
		switch {
		case x.Set.Any(reading.Values):
			t.values(x, 1)
		case x.Set.Blank() == value.NotBlank:
			if n := c.reader.Chars(cell); c.lengths.add(n, 1) {
				c.lengths.long(cell, hash, place(b, row))
			}
		}
	}
	return row
}
