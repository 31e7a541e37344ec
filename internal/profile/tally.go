package profile

import (
	"slices"

	"github.com/DataDog/sketches-go/ddsketch"

	"junvo/internal/reading"
	"junvo/internal/table"
)

// Place is where a row stands: its block, and its row and line in the block. It is
// turned into the row and line of the file when all blocks have been counted.
type Place struct {
	Block, Row, Line uint32
}

func (p Place) less(q Place) bool {
	return p.Block < q.Block || p.Block == q.Block && p.Row < q.Row
}

// Sample is a cell that was kept as an example.
type Sample struct {
	Place Place
	Text  string
}

// maxSamples is how many cells of a tally are kept, the first in the file.
const maxSamples = 20

// maxSampleText is how much of a cell is kept as an example, in bytes.
const maxSampleText = 200

// Tally counts the cells of one set and form, with what their values are under
// each convention that the set leaves open.
type Tally struct {
	reading.Count
	First   []Sample
	Numbers [3]*numberStats            // under each decimal mark that matters
	Days    [reading.NumSlots]dayStats // of each value that a date leaves open, and of times
	// sketches are of the numbers under each mark, where the column is opened.
	sketches [3]*ddsketch.DDSketch
}

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

const crowd = ^uint32(0)

func noAffix() string { return "" }

// tally returns the index of the tally of a set and form. A new tally asks for its affix.
func (c *Column) tally(s reading.Set, form uint32, affix func() string) int {
	if c.last < len(c.Tallies) && c.Tallies[c.last].Set == s && c.Tallies[c.last].Form == form {
		return c.last
	}
	if c.crowded && crowds(s) {
		form, affix = crowd, noAffix
	}
	for i := range c.Tallies {
		if c.Tallies[i].Set == s && c.Tallies[i].Form == form {
			c.last = i
			return i
		}
	}
	if !c.crowded && len(c.Tallies) >= c.tallies && crowds(s) {
		c.crowd()
		return c.tally(s, form, affix)
	}
	c.Tallies = append(c.Tallies, Tally{Count: reading.Count{Set: s, Form: form, Affix: affix()}})
	c.last = len(c.Tallies) - 1
	return c.last
}

// crowds reports whether sets of this sort can come in any number of forms.
func crowds(s reading.Set) bool { return s.Any(reading.UnitWord | reading.CodeLike) }

// crowd counts the forms of units and codes together from now on.
func (c *Column) crowd() {
	for i := range c.recent.Texts {
		c.forget(&c.recent.Texts[i])
		c.recent.Texts[i] = table.RecentText[since]{}
	}
	old := c.Tallies
	c.Tallies, c.crowded, c.last, c.empty = nil, true, 0, 0
	for i := range old {
		t := &old[i]
		at := c.tally(t.Set, t.Form, func() string { return t.Affix })
		c.Tallies[at].merge(t)
	}
	c.readyShorts()
}

func place(b *table.Block, row int) Place {
	return Place{uint32(b.Seq), uint32(row), uint32(b.Line(row))}
}

// sample keeps a cell; the caller has seen that there is room.
func (t *Tally) sample(b *table.Block, row int, cell []byte) {
	t.First = append(t.First, Sample{place(b, row), string(cell[:min(len(cell), maxSampleText)])})
}

// merge adds another tally of the same set and form.
func (t *Tally) merge(o *Tally) {
	t.Cells += o.Cells
	t.First = mergeSamples(t.First, o.First)
	for m, n := range o.Numbers {
		switch {
		case n == nil:
		case t.Numbers[m] == nil:
			t.Numbers[m] = n
		default:
			t.Numbers[m].merge(n)
		}
	}
	for i := range t.Days {
		t.Days[i].merge(o.Days[i])
	}
	t.mergeSketches(o)
}

// mergeSamples keeps the first samples of both.
func mergeSamples(a, b []Sample) []Sample {
	all := append(slices.Clip(a), b...)
	slices.SortFunc(all, func(x, y Sample) int {
		if x.Place.less(y.Place) {
			return -1
		}
		return 1
	})
	return all[:min(len(all), maxSamples)]
}
