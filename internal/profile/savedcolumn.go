package profile

import (
	"cmp"
	"maps"
	"slices"
	"sort"

	"github.com/DataDog/sketches-go/ddsketch"
	"github.com/DataDog/sketches-go/ddsketch/store"

	"junvo/internal/reading"
	"junvo/internal/value"
)

func saveColumns(list []*Column) []savedColumn {
	out := make([]savedColumn, len(list))
	for i, c := range list {
		c.finish()
		out[i] = c.save()
	}
	return out
}

func (c *Column) save() savedColumn {
	s := savedColumn{
		Cells: c.Cells, Stored: c.Stored[:], Words: c.words, Lengths: c.lengths.cells, Crowded: c.crowded,
		Private: c.private,
	}
	for i := range c.Tallies {
		s.Tallies = append(s.Tallies, c.Tallies[i].save())
	}
	// They stand in the order in which the workers met them.
	sort.Slice(s.Tallies, func(i, j int) bool {
		a, b := &s.Tallies[i], &s.Tallies[j]
		return cmp.Or(cmp.Compare(a.Set, b.Set),
			cmp.Compare(a.Form, b.Form)) < 0
	})
	for k, n := range c.Strays {
		s.Strays = append(s.Strays, savedStray{k.Rune, k.Place, n.cells, n.first})
	}
	sort.Slice(s.Strays, func(i, j int) bool {
		a, b := &s.Strays[i], &s.Strays[j]
		return cmp.Or(cmp.Compare(a.Rune, b.Rune),
			cmp.Compare(a.Place, b.Place)) < 0
	})
	if c.private || c.distinct.told != nil {
		// Nothing is saved from which a value could be tried out: no hash of a text, no longest text.
		n, exact := c.distinct.count()
		s.Distinct.Count = &savedCount{n, exact}
		s.Words = nil
		if c.detail != nil {
			s.Detail = c.detail.save()
		}
		return s
	}
	s.Distinct.Few = slices.Sorted(c.distinct.few.all())
	if c.distinct.many != nil {
		s.Distinct.Sketch, _ = c.distinct.many.log().MarshalBinary() // it never fails
	}
	for _, t := range c.lengths.top {
		s.Longest = append(s.Longest, savedLongest{t.hash, t.shape, t.first})
	}
	if c.detail != nil {
		s.Detail = c.detail.save()
	}
	return s
}

func (t *Tally) save() savedTally {
	s := savedTally{
		Set: uint64(t.Set), Form: t.Form, Affix: []byte(t.Affix), Cells: t.Cells, First: saveSamples(t.First),
		Numbers: make([]*savedNumbers, len(t.Numbers)), Sketches: make([][]byte, len(t.sketches)),
	}
	for i, n := range t.Numbers {
		if n != nil {
			s.Numbers[i] = n.save()
		}
	}
	for _, d := range t.Days {
		s.Days = append(s.Days, savedDays{d.any, d.first, d.last})
	}
	for i, q := range t.sketches {
		if q != nil {
			canonical(q).Encode(&s.Sketches[i], false)
		}
	}
	return s
}

func (n *numberStats) save() *savedNumbers {
	s := &savedNumbers{}
	for _, a := range n.small {
		hi, lo := a.sum.Words()
		s.Scales = append(s.Scales, savedScale{a.count, hi, lo, a.smallest, a.top})
	}
	if long := n.long(); long != nil {
		s.Rest = &savedRest{long.sum.Number().String(), long.smallest.String(), long.top.String()}
	}
	return s
}

func (d *detail) save() *savedDetail {
	s := &savedDetail{Limit: d.limit, ManyTexts: d.manyTexts, Coarse: d.coarse, Shortest: d.shortest, Longest: d.longest}
	for _, t := range slices.Sorted(maps.Keys(d.texts)) {
		s.Texts = append(s.Texts, savedText{[]byte(t), *d.texts[t]})
	}
	for _, shape := range slices.Sorted(maps.Keys(d.shapes)) {
		n := d.shapes[shape]
		s.Shapes = append(s.Shapes, savedShape{[]byte(shape), n.cells, savedSample{n.first.Place, []byte(n.first.Text)}})
	}
	return s
}

func (c *copies) save() savedCopies { return savedCopies{c.of, c.rows} }

// loadCopies loads the classes of columns; each column's first stands before it and is its own.
func (l *savedLoader) loadCopies(s savedCopies) copies {
	c := copies{of: s.Of, rows: s.Rows}
	if s.Of != nil && len(s.Of) != l.columns {
		l.check(errDamaged)
		return copies{}
	}
	for i, first := range s.Of {
		if first < 0 || int(first) > i || s.Of[first] != first {
			l.check(errDamaged)
			return copies{}
		}
	}
	c.leave()
	return c
}

func (s *same) save() savedSame {
	out := savedSame{Level: s.rows.level, Unknown: s.rows.unknown, Copies: s.copies.save()}
	for _, h := range slices.Sorted(maps.Keys(s.rows.few)) {
		r := s.rows.few[h]
		out.Rows = append(out.Rows, savedRepeats{h, r.times, r.first, r.next})
	}
	return out
}

// savedLoader loads the parts of a saved profile and keeps the first error.
type savedLoader struct {
	reader  *reading.Reader
	columns int
	blocks  uint32
	err     error
}

func (l *savedLoader) check(err error) {
	if l.err == nil {
		l.err = err
	}
}

// place checks that a place is in one of the blocks.
func (l *savedLoader) place(p Place) Place {
	if p.Block >= l.blocks {
		l.check(errDamaged)
	}
	return p
}

func (l *savedLoader) samples(list []savedSample) []Sample {
	out := make([]Sample, len(list))
	for i, s := range list {
		out[i] = Sample{l.place(s.Place), string(s.Text)}
	}
	return out
}

func (l *savedLoader) loadColumns(list []savedColumn) []*Column {
	out := make([]*Column, len(list))
	for i := range list {
		out[i] = l.column(&list[i])
	}
	return out
}

func (l *savedLoader) column(s *savedColumn) *Column {
	c := newColumn(l.reader, l.columns)
	c.Cells, c.crowded, c.private = s.Cells, s.Crowded, s.Private
	copy(c.Stored[:], s.Stored)
	for i := range s.Tallies {
		c.Tallies = append(c.Tallies, l.tally(&s.Tallies[i]))
	}
	for _, k := range s.Strays {
		c.Strays[strayKey{k.Rune, k.Place}] = &strayCount{k.Cells, l.place(k.First)}
	}
	maps.Copy(c.words, s.Words)
	if n := s.Distinct.Count; n != nil {
		c.distinct.told = &toldCount{n.Texts, n.Exact}
	} else if len(s.Distinct.Sketch) > 0 {
		many, err := sketchOf(s.Distinct.Sketch)
		l.check(err)
		c.distinct.many = many
	} else {
		for _, h := range s.Distinct.Few {
			c.distinct.add(h)
		}
	}
	c.lengths.cells = s.Lengths[:min(len(s.Lengths), maxLength+1)]
	for _, t := range s.Longest {
		c.lengths.keep(longest{t.Hash, t.Shape, l.place(t.First)})
	}
	if s.Detail != nil {
		c.detail = l.detail(s.Detail)
	}
	return c
}

func (l *savedLoader) tally(s *savedTally) Tally {
	t := Tally{
		Count: reading.Count{Set: reading.Set(s.Set), Form: s.Form, Affix: string(s.Affix), Cells: s.Cells},
		First: l.samples(s.First),
	}
	if !t.Set.Known(t.Form) || len(s.Numbers) != len(t.Numbers) || len(s.Days) != len(t.Days) ||
		len(s.Sketches) != len(t.sketches) || len(s.First) == 0 {
		l.check(errDamaged)
		return t
	}
	for i, n := range s.Numbers {
		if n != nil {
			t.Numbers[i] = l.numbers(n)
		}
	}
	for _, m := range t.Set.Marks() {
		if t.Numbers[m] == nil {
			l.check(errDamaged)
		}
	}
	for i, d := range s.Days {
		t.Days[i] = dayStats{d.Any, d.First, d.Last}
	}
	for i, b := range s.Sketches {
		if len(b) > 0 {
			q, err := quantilesOf(b)
			l.check(err)
			t.sketches[i] = q
		}
	}
	return t
}

func (l *savedLoader) numbers(s *savedNumbers) *numberStats {
	n := &numberStats{}
	if len(s.Scales) != len(n.small) {
		l.check(errDamaged)
		return n
	}
	for i, a := range s.Scales {
		n.small[i] = scaleStats{a.Count, value.Int128Of(a.High, a.Low), a.Smallest, a.Top}
	}
	if s.Rest == nil {
		return n
	}
	number := func(text string) value.Number {
		v, err := value.ParseNumber(text)
		l.check(err)
		return v
	}
	n.rest = restOf(number(s.Rest.Sum), 1)
	n.rest.smallest, n.rest.top = number(s.Rest.Smallest), number(s.Rest.Top)
	return n
}

func (l *savedLoader) detail(s *savedDetail) *detail {
	d := newDetail(l.columns)
	d.limit, d.manyTexts, d.coarse, d.shortest, d.longest = s.Limit, s.ManyTexts, s.Coarse, s.Shortest, s.Longest
	for _, t := range s.Texts {
		n := t.Cells
		d.texts[string(t.Text)] = &n
	}
	if d.manyTexts {
		d.texts = nil
	}
	for _, n := range s.Shapes {
		d.shapes[string(n.Shape)] = &shapeCount{cells: n.Cells, first: l.samples([]savedSample{n.First})[0]}
	}
	return d
}

func (l *savedLoader) loadSame(s *savedSame) same {
	out := same{copies: l.loadCopies(s.Copies)}
	out.rows.level, out.rows.unknown = min(s.Level, 60), s.Unknown
	for _, r := range s.Rows {
		if r.Next != nowhere || r.Times > 1 {
			l.place(r.Next)
		}
		out.rows.repeat(r.Hash, repeats{r.Times, l.place(r.First), r.Next})
	}
	return out
}

// canonical returns a sketch that is encoded as any other with the same values: how the library keeps one depends on the order
// in which parts were merged.
func canonical(s *ddsketch.DDSketch) *ddsketch.DDSketch {
	ordered := func(from store.Store) store.Store {
		to := store.NewDenseStore()
		from.ForEach(func(index int, count float64) (stop bool) {
			to.AddWithCount(index, count)
			return false
		})
		return to
	}
	c := ddsketch.NewDDSketch(s.IndexMapping, ordered(s.GetPositiveValueStore()), ordered(s.GetNegativeValueStore()))
	if zeros := s.GetZeroCount(); zeros > 0 {
		_ = c.AddWithCount(0, zeros) // fails for a count below 0 only
	}
	return c
}
