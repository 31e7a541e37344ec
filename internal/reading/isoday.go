package reading

import (
	"time"

	"junvo/internal/value"
)

// isoDay reads a week date, 2021-W09-4, or an ordinal date, 2021-063 (ISO 8601). What
// looks like an ordinal date may as well be a number with a year before it, so that it
// is one only where the column is told to be dates.
func (r *Reader) isoDay(out *Reads) Set {
	y := r.peek()
	if width(y) != widthYear || y.kind != tokDigits {
		return 0
	}
	r.at++
	dash := r.accept('-')
	n := r.peek()
	switch {
	case n.kind == tokDigits && len(n.text) == 3 && dash && r.at+1 == len(r.toks):
		r.at++
		if r.valued = true; otherCalendar(y.value) {
			return 0
		}
		day := time.Date(y.value, time.January, n.value, 0, 0, 0, 0, time.UTC)
		if n.value == 0 || day.Year() != y.value {
			return 0
		}
		return out.onDay(DateOrdinal, day)
	case n.kind != tokLetters || string(n.text) != "W":
		return 0
	}
	if r.valued = true; otherCalendar(y.value) {
		return 0
	}
	r.at++
	w := r.peek()
	r.at++
	week, weekday := w.value, 0
	switch {
	case w.kind == tokDigits && len(w.text) == 3 && !dash:
		week, weekday = w.value/10, w.value%10
	case w.kind == tokDigits && len(w.text) == 2 && r.accept('-') == dash && r.peek().kind == tokDigits &&
		len(r.peek().text) == 1 && dash:
		weekday = r.peek().value
		r.at++
	default:
		return 0
	}
	if weekday < 1 || weekday > 7 || week < 1 {
		out.Set |= DateNever
		return 0
	}
	fourth := time.Date(y.value, time.January, 4, 0, 0, 0, 0, time.UTC) // always in the first week
	monday := fourth.AddDate(0, 0, -int(fourth.Weekday()+6)%7)
	day := monday.AddDate(0, 0, 7*(week-1)+weekday-1)
	if year, got := day.ISOWeek(); year != y.value || got != week {
		out.Set |= DateNever
		return 0
	}
	return out.onDay(DateSure, day)
}

func (x *Reads) onDay(bit Set, t time.Time) Set {
	day, ok := value.NewDay(t.Year(), int(t.Month()), t.Day())
	if !ok {
		return 0
	}
	x.Days = [numOrders]value.Day{day, day, day}
	return bit
}
