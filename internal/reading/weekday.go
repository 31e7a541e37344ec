package reading

import "junvo/internal/value"

// A weekday beside a date is held against the day: it is evidence for the order of day and month, and where no order gives
// that weekday, a part of the cell is wrong.

// weekdayIs notes a weekday.
func (f *dateForm) weekdayIs(w *name, t token) {
	f.weekday = 1 + uint8(bit(len(t.text) > 4))
	if f.days &= w.weekdays; f.days == 0 {
		f.days = w.weekdays
	}
}

// onWeekday leaves of a date the orders under which its day is on the weekday that it names, and says so where there is
// none: then a part of it is wrong.
func (f *dateForm) onWeekday(s Set, out *Reads) Set {
	if s == 0 || f.days == 0 {
		return s
	}
	out.reader.said.days = f.days
	if s = out.onWeekday(s, f.days); s == 0 {
		out.Set |= WeekdayOther
	}
	return s
}

func (x *Reads) onWeekday(s Set, days uint8) Set {
	on := func(d value.Day) bool { return days>>d.Weekday()&1 == 1 }
	switch {
	case s.Any(MonthOpen):
		if !on(x.Days[westSlot]) && !on(x.Days[croatianSlot]) {
			return 0
		}
	case s.Any(DateSure):
		if !on(x.Days[onlySlot]) {
			return 0
		}
	default:
		for o := DMY; o < numOrders; o++ {
			if s.Any(o.bit()) && !on(x.Days[o]) {
				s &^= o.bit()
			}
		}
		if !s.Any(orders) {
			return 0
		}
	}
	return s
}
