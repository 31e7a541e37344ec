package profile

import (
	"github.com/DataDog/sketches-go/ddsketch"

	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Cells that are written as cells before them but for their digits are counted in a loop of their own. Where the
// digits decide nothing but the value, what a cell counts for is known before it is read: then all that is done for it
// is to put its number together, and its outline keeps the count, which goes to the tally when the loop ends.

// alike is what a column notes of an outline.
type alike struct {
	shape *shapeCount // of an opened column; nil where it is not known

	// Of a fixed outline whose tally wants no more samples:
	era     uint32 // of the column's tallies that this holds for; 0 for none
	ready   bool   // its cells are counted at once
	tally   int32
	chars   int32 // of a text, else 0
	n       int   // marks under which a number counts
	numbers [2]*scaleStats
	scales  [2]int32
	// sketches are of an opened column.
	sketches [2]*ddsketch.DDSketch

	cells         int64 // that are not in the tally yet
	sum           value.Int128
	smallest, top int64
}

// alikes counts cells of more than most bytes that are written as cells before them but for their digits, from a row
// on, up to the first that is not, or of which more is wanted than its tally counts. It returns its row, and whether it
// was looked at and is not known to the reader.
func (c *Column) alikes(b *table.Block, column, row, to, most int) (at int, unknown bool) {
	if c.last >= len(c.Tallies) || c.shapes.open() || c.reader.Told() {
		return row, false
	}
	reader := c.reader
	for ; row < to; row++ {
		s := b.Spans[row*b.Width+column]
		if s.Len() <= most || s.N&table.Escaped != 0 {
			break
		}
		cell := b.Text[s.Start : int(s.Start)+s.Len()]
		var x *reading.Reads
		e := reader.Outline(cell)
		if e == nil {
			if x = reader.Plain(cell); x == nil {
				if e = reader.LookUp(cell); e == nil {
					unknown = true
					break
				}
			}
		}
		if e != nil {
			if a, _ := e.Note.(*alike); a != nil && a.ready && a.era == c.era && (c.detail == nil || c.detail.counts(a)) {
				c.countAlike(a, reader.Coef(e, cell), cell, b, row)
				continue
			}
			if x = reader.ReadBy(e, cell); x == nil {
				break
			}
		}
		if c.detail != nil {
			c.flushCounts() // the shapes of an opened column may be brought together
		}
		if !c.alike(e, x, cell, b, row) {
			break
		}
	}
	c.flushCounts()
	return row, unknown
}

// countAlike counts a cell of an outline that is fixed.
func (c *Column) countAlike(a *alike, coef int64, cell []byte, b *table.Block, row int) {
	if a.cells == 0 {
		c.touched = append(c.touched, a)
		a.smallest, a.top = coef, coef
	}
	a.cells++
	a.sum.Merge(value.Int128From(coef))
	a.smallest, a.top = min(a.smallest, coef), max(a.top, coef)
	hash := hashText(cell)
	c.distinct.add(hash)
	if a.chars > 0 && int(a.chars)+1 == len(c.lengths.cells) {
		c.lengths.long(cell, hash, place(b, row))
	}
	for i, s := range a.sketches[:a.n] {
		if s != nil {
			_ = s.Add(value.Int128From(coef).Near(a.scales[i])) // fails for infinities only
		}
	}
}

// flushCounts adds what outlines have counted to their tallies.
func (c *Column) flushCounts() {
	for _, a := range c.touched {
		t := &c.Tallies[a.tally]
		t.Cells += a.cells
		for _, n := range a.numbers[:a.n] {
			n.merge(&scaleStats{uint64(a.cells), a.sum, a.smallest, a.top})
		}
		if a.chars > 0 {
			c.lengths.cells[a.chars] += a.cells
		}
		if c.detail != nil {
			a.shape.cells += a.cells
		}
		a.cells, a.sum = 0, value.Int128{}
	}
	c.touched = c.touched[:0]
}

// alike counts a cell that was read by its outline, or is plain where that is nil, and reports whether it could.
func (c *Column) alike(e *reading.Outline, x *reading.Reads, cell []byte, b *table.Block, row int) bool {
	if x.Set.Any(marked) {
		return false
	}
	form := x.Form
	if c.crowded && crowds(x.Set) {
		form = crowd
	}
	if t := &c.Tallies[c.last]; (t.Set != x.Set || t.Form != form) && !c.find(x.Set, form) {
		return false
	}
	t := &c.Tallies[c.last]
	if len(t.First) < maxSamples {
		return false
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
	if e != nil && e.Fixed() {
		if a, _ := e.Note.(*alike); a == nil || a.era != c.era {
			c.note(e, x, cell)
		}
	}
	return true
}

// note notes of a fixed outline what its cells count for, where that is as much as can be counted at once. x is a cell
// of the outline that has been counted just now.
func (c *Column) note(e *reading.Outline, x *reading.Reads, cell []byte) {
	t := &c.Tallies[c.last]
	a := alike{tally: int32(c.last), era: c.era, ready: true}
	for _, m := range x.Set.Marks() {
		_, scale, ok := x.Short(m)
		if !ok || scale < 0 || scale > maxScale {
			a.ready = false
			break
		}
		a.numbers[a.n], a.scales[a.n], a.sketches[a.n] = &t.Numbers[m].small[scale], scale, t.sketches[m]
		a.n++
	}
	if a.n == 0 {
		a.chars = int32(c.reader.Chars(cell))
	}
	if c.detail != nil {
		a.shape = c.noted().shape
	}
	e.Note = &a
}

// noted returns what is noted of the outline of the cell that was read last; nil where that is not known.
func (c *Column) noted() *alike {
	e := c.reader.Known()
	if e == nil {
		return nil
	}
	a, _ := e.Note.(*alike)
	if a == nil {
		a = &alike{}
		e.Note = a
	}
	return a
}
