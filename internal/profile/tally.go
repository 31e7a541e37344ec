package profile

import (
	"math"
	"strings"

	"github.com/DataDog/sketches-go/ddsketch"

	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// A column is counted by the sets that its cells are read as: a tally has the number of cells of one set and form, the
// first of them as samples, and the sum and the extremes of their values under each convention that the set leaves
// open. When the column has decided its convention, the range and the sum of the column are put together from those
// of its tallies under it, without looking at a cell again.

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

// tallyKey is what a cell is counted by.
type tallyKey struct {
	set  reading.Set
	form uint64
}

// mergeSketches adds the sketches of another tally.
func (t *Tally) mergeSketches(o *Tally) {
	for m, s := range o.sketches {
		switch {
		case s == nil:
		case t.sketches[m] == nil:
			t.sketches[m] = s
		default:
			_ = t.sketches[m].MergeWith(s)
		}
	}
}

// sketchAccuracy is how far quantiles of many values may be off, as a share of the value.
const sketchAccuracy = 0.01

// sketch adds a number to the tally's sketches of the marks that it can be read with.
func (t *Tally) sketch(x *reading.Reads, times int64) {
	for _, m := range x.Set.Marks() {
		if t.sketches[m] == nil {
			s, err := ddsketch.NewDefaultDDSketch(sketchAccuracy)
			if err != nil {
				panic(err) // the accuracy is a constant
			}
			t.sketches[m] = s
		}
		_ = t.sketches[m].AddWithCount(near(x, m), float64(times)) // fails for infinities only
	}
}

// near returns about the number that a cell is under a decimal mark: sketches are off by more.
func near(x *reading.Reads, m reading.Mark) float64 {
	if n, scale, ok := x.Wide(m); ok {
		if f := n.Near(scale); !math.IsNaN(f) {
			return f
		}
	}
	return x.Number(m).Float()
}

// digits returns how many digits the whole part of the smallest and of the largest of the tally's numbers has.
func (t *Tally) digits() (d [2]int) {
	marks := t.Set.Marks()
	if len(marks) == 0 || t.Numbers[marks[0]] == nil {
		return d
	}
	if all, any := t.Numbers[marks[0]].total(); any {
		return [2]int{wholeDigits(all.smallest), wholeDigits(all.top)}
	}
	return d
}

// wholeDigits returns how many digits the whole part of a number has, with its sign.
func wholeDigits(n value.Number) int {
	whole, _, _ := strings.Cut(n.String(), ".")
	return len(whole)
}

// values adds a cell's values under each convention that its set leaves open. A
// number that is the same under every decimal mark counts under the first.
func (t *Tally) values(x *reading.Reads, times uint64) {
	switch {
	case !x.Set.Any(reading.Numbers | reading.DateCompact | reading.DateOrdinal | reading.ClockOnly | reading.HasTime):
		for _, o := range x.Set.Slots() {
			t.Days[o].add(value.Moment{Day: x.Days[o]})
		}
		return
	case x.Set.Any(reading.DateCompact | reading.DateOrdinal):
		t.Days[0].add(value.Moment{Day: x.Days[0]})
	}
	// A plain number that is no other under a comma takes a shorter way.
	if n, scale, ok := x.Small(); ok && scale >= 0 && scale <= maxScale && t.Numbers[reading.Point] != nil &&
		!x.Set.Has(reading.NumComma|reading.MarkPoint) {
		t.Numbers[reading.Point].small[scale].add(n, times)
		return
	}
	if x.Set.Any(reading.NumPoint | reading.NumComma | reading.NumArabic) {
		for _, m := range x.Set.Marks() {
			if t.Numbers[m] == nil {
				t.Numbers[m] = &numberStats{}
			}
			t.Numbers[m].add(x, m, times)
		}
		return
	}
	// Of a cell only what it has counts: the reader keeps the days and the time of those before.
	clock := value.Moment{Clock: x.Moment.Clock}
	switch {
	case !x.Set.Any(reading.Dates) && x.Set.Any(reading.ClockOnly):
		t.Days[0].add(clock)
		return
	case x.Set.Any(reading.ClockOnly):
		t.Days[reading.ClockSlot].add(clock)
	}
	for _, o := range x.Set.Slots() {
		m := value.Moment{Day: x.Days[o]}
		if x.Set.Any(reading.HasTime) {
			m = x.Moment
			m.Day = x.Days[o]
		}
		t.Days[o].add(m)
	}
}

// numbersUnder returns the numbers of a tally under the convention's decimal mark.
func (t *Tally) numbersUnder(c *reading.Convention) *numberStats {
	marks := t.Set.Marks()
	m := marks[0]
	if len(marks) > 1 {
		m = c.Mark
	}
	if f, other := c.Factor(t.Set, t.Form); other {
		return t.Numbers[m].times(f)
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
