package profile

import (
	"junvo/internal/reading"
	"junvo/internal/value"
)

// numberStats sums numbers and keeps the smallest and largest.
type numberStats struct {
	count         uint64
	sum           value.Sum
	smallest, top value.Number
}

func (s *numberStats) add(n value.Number, times uint64) {
	if s.count == 0 || n.Compare(s.smallest) < 0 {
		s.smallest = n
	}
	if s.count == 0 || n.Compare(s.top) > 0 {
		s.top = n
	}
	s.count += times
	s.sum.Add(n, times)
}

func (s *numberStats) merge(o *numberStats) {
	if o.count == 0 {
		return
	}
	if s.count == 0 || o.smallest.Compare(s.smallest) < 0 {
		s.smallest = o.smallest
	}
	if s.count == 0 || o.top.Compare(s.top) > 0 {
		s.top = o.top
	}
	s.count += o.count
	s.sum.Merge(&o.sum)
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

// values adds a cell's values under each convention that its set leaves open. A
// number that is the same under every decimal mark counts under the first.
func (t *Tally) values(x *reading.Reads, times uint64) {
	if x.Set.Any(reading.NumPoint | reading.NumComma | reading.NumArabic) {
		for _, m := range x.Set.Marks() {
			if t.Numbers[m] == nil {
				t.Numbers[m] = &numberStats{}
			}
			t.Numbers[m].add(x.Number(m), times)
		}
		return
	}
	for _, o := range x.Set.Orders() {
		m := x.Moment
		m.Day = x.Days[o]
		t.Days[o].add(m)
	}
}
