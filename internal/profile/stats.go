package profile

import (
	"slices"

	"junvo/internal/reading"
	"junvo/internal/value"
)

// numberStats sums numbers and keeps the smallest and largest. Numbers of one scale
// compare and add as whole numbers, so that each scale has counts of its own.
type numberStats struct {
	small [maxScale + 1]scaleStats
	wide  []wideStats // of numbers of up to 36 digits, and other scales; in the order of the scales
	rest  *restStats  // of longer numbers, and of what a saved profile has of wide ones
}

// maxScale is the largest scale that is counted by itself.
const maxScale = 6

type scaleStats struct {
	count         uint64
	sum           value.Int128
	smallest, top int64
}

// wideStats are of wide numbers of one scale.
type wideStats struct {
	scale         int32
	sum           value.Int192
	smallest, top value.Int128
}

type restStats struct {
	sum           value.Sum
	smallest, top value.Number
}

// add adds the number that a cell is under a decimal mark. It allocates nothing for numbers of up to 36 digits.
func (s *numberStats) add(x *reading.Reads, m reading.Mark, times uint64) {
	if n, scale, ok := x.Short(m); ok && scale >= 0 && scale <= maxScale {
		s.small[scale].add(n, times)
		return
	}
	n, scale, ok := x.Wide(m)
	if !ok {
		s.merge(&numberStats{rest: restOf(x.Number(m), times)})
		return
	}
	a := s.ofScale(scale, n)
	a.sum.Add(n, times)
	a.include(n, n)
}

// ofScale returns the counts of wide numbers of a scale; n is one of them.
func (s *numberStats) ofScale(scale int32, n value.Int128) *wideStats {
	i := 0
	for i < len(s.wide) && s.wide[i].scale < scale {
		i++
	}
	if i == len(s.wide) || s.wide[i].scale != scale {
		s.wide = slices.Insert(s.wide, i, wideStats{scale: scale, smallest: n, top: n})
	}
	return &s.wide[i]
}

// include makes the extremes no narrower than those.
func (a *wideStats) include(smallest, top value.Int128) {
	if smallest.Compare(a.smallest) < 0 {
		a.smallest = smallest
	}
	if top.Compare(a.top) > 0 {
		a.top = top
	}
}

func (a *scaleStats) add(n int64, times uint64) {
	if a.count == 0 {
		a.smallest, a.top = n, n
	}
	a.smallest, a.top = min(a.smallest, n), max(a.top, n)
	a.count += times
	a.sum.Add(n, times)
}

func (a *scaleStats) merge(b *scaleStats) {
	switch {
	case b.count == 0:
	case a.count == 0:
		*a = *b
	default:
		a.smallest, a.top = min(a.smallest, b.smallest), max(a.top, b.top)
		a.count += b.count
		a.sum.Merge(b.sum)
	}
}

func restOf(n value.Number, times uint64) *restStats {
	r := &restStats{smallest: n, top: n}
	r.sum.Add(n, times)
	return r
}

func (s *numberStats) merge(o *numberStats) {
	for i := range s.small {
		s.small[i].merge(&o.small[i])
	}
	for i := range o.wide {
		b := &o.wide[i]
		a := s.ofScale(b.scale, b.smallest)
		a.sum.Merge(b.sum)
		a.include(b.smallest, b.top)
	}
	s.mergeRest(o)
}

func (s *numberStats) mergeRest(o *numberStats) {
	switch {
	case o.rest == nil:
	case s.rest == nil:
		s.rest = &restStats{smallest: o.rest.smallest, top: o.rest.top}
		s.rest.sum.Merge(&o.rest.sum)
	default:
		s.rest.smallest = lesser(s.rest.smallest, o.rest.smallest, -1)
		s.rest.top = lesser(s.rest.top, o.rest.top, 1)
		s.rest.sum.Merge(&o.rest.sum)
	}
}

// lesser returns b if it compares to a as want says, else a.
func lesser(a, b value.Number, want int) value.Number {
	if b.Compare(a) == want {
		return b
	}
	return a
}

// total returns the extremes and the sum of all numbers, false where there are none.
func (s *numberStats) total() (restStats, bool) {
	all := numberStats{rest: s.long()}
	for scale, a := range s.small {
		if a.count == 0 {
			continue
		}
		r := &restStats{
			smallest: value.Number{Coef: a.smallest, Scale: int32(scale)}, top: value.Number{Coef: a.top, Scale: int32(scale)},
		}
		r.sum.AddInt128(a.sum, int32(scale))
		all.mergeRest(&numberStats{rest: r})
	}
	if all.rest == nil {
		return restStats{}, false
	}
	return *all.rest, true
}

// long returns what there is of numbers that are not short, nil for none.
func (s *numberStats) long() *restStats {
	var all numberStats
	all.mergeRest(s)
	for i := range s.wide {
		a := &s.wide[i]
		r := &restStats{smallest: a.smallest.Number(a.scale), top: a.top.Number(a.scale)}
		r.sum.AddInt192(a.sum, a.scale)
		all.mergeRest(&numberStats{rest: r})
	}
	return all.rest
}

// times returns the statistics of all numbers multiplied by f.
func (s *numberStats) times(f value.Number) *numberStats {
	all, any := s.total()
	if !any {
		return s
	}
	r := &restStats{smallest: all.smallest.Times(f), top: all.top.Times(f)}
	if r.smallest.Compare(r.top) > 0 {
		r.smallest, r.top = r.top, r.smallest
	}
	r.sum.Add(all.sum.Number().Times(f), 1)
	return &numberStats{rest: r}
}

// dayStats keeps the earliest and the latest moment.
type dayStats struct {
	any         bool
	first, last value.Moment
}

func (s *dayStats) add(m value.Moment) {
	if m.Offset == s.first.Offset && m.Offset == s.last.Offset && m.Day > s.first.Day && m.Day < s.last.Day && s.any {
		return // as nearly all are
	}
	if !s.any || m.Compare(s.first) < 0 {
		s.first = m
	}
	if !s.any || m.Compare(s.last) > 0 {
		s.last = m
	}
	s.any = true
}

func (s *dayStats) merge(o dayStats) {
	if o.any {
		s.add(o.first)
		s.add(o.last)
	}
}
