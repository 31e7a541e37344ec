package profile

import (
	"junvo/internal/value"
)

// numberStats sums numbers and keeps the smallest and largest. Numbers of one scale
// compare and add as whole numbers, so that each usual scale has counts of its own.
type numberStats struct {
	small [maxScale + 1]scaleStats
	rest  *restStats // of longer numbers and other scales
}

// maxScale is the largest scale that is counted by itself.
const maxScale = 6

type scaleStats struct {
	count         uint64
	sum           value.Int128
	smallest, top int64
}

type restStats struct {
	sum           value.Sum
	smallest, top value.Number
}

func (s *numberStats) add(n value.Number, times uint64) {
	if n.Big != nil || n.Scale < 0 || n.Scale > maxScale {
		s.merge(&numberStats{rest: restOf(n, times)})
		return
	}
	s.small[n.Scale].add(n.Coef, times)
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
	all := numberStats{rest: s.rest}
	for scale, a := range s.small {
		if a.count == 0 {
			continue
		}
		r := &restStats{
			smallest: value.Number{Coef: a.smallest, Scale: int32(scale)}, top: value.Number{Coef: a.top, Scale: int32(scale)},
		}
		r.sum.AddInt128(a.sum, int32(scale))
		all.merge(&numberStats{rest: r})
	}
	if all.rest == nil {
		return restStats{}, false
	}
	return *all.rest, true
}

// dayStats keeps the earliest and the latest moment.
type dayStats struct {
	any         bool
	first, last value.Moment
}

func (s *dayStats) add(m value.Moment) {
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
