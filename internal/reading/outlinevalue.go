package reading

import (
	"encoding/binary"

	"junvo/internal/value"
)

// How the value of a cell is read whose outline is known.

// digitBytes returns a word with all bits set in the bytes of w that are digits.
func digitBytes(w uint64) uint64 {
	d := w ^ zeros
	others := (d&^tops + nines | d) & tops
	return (others ^ tops) >> 7 * 0xff
}

// number returns the number of a run.
func (d digitRun) number(text *outlineText) int64 {
	at := uint(d.at)
	if d.n == 2 {
		return int64(text[at])*10 + int64(text[at+1]) - 11*'0'
	}
	return eightDigits((binary.LittleEndian.Uint64(text[at:at+8]) ^ zeros) << ((64 - 8*uint(d.n)) & 63))
}

func (d digitRun) field(text *outlineText) field { return field{int(d.number(text)), int(d.n)} }

func (e *Outline) number(text *outlineText, x *Reads) {
	x.Set, x.Form, x.affix, x.word, x.Negative = e.set, e.form, e.affix, e.word, e.negative
	x.Moment = value.Moment{}
	if x.small = e.count <= maxDigits; !x.small {
		digits := x.reader.digits[:0]
		for _, run := range e.runs[:e.n] {
			digits = append(digits, text[run.at:run.at+run.n]...)
		}
		x.reader.digits = digits
		return
	}
	x.coef, x.length = e.coef(text), e.count
}

// coef returns the digits of a number of at most 18 as a whole number.
func (e *Outline) coef(text *outlineText) (coef int64) {
	for _, run := range e.runs[:e.n] {
		coef = coef*powers[run.n] + run.number(text)
	}
	return coef
}

// power returns the power of ten of a number in scientific notation, whose run stands behind the others; not the large
// ones.
func (e *Outline) power(text *outlineText) (power int32, ok bool) {
	run := e.runs[e.n]
	power = int32(run.number(text))
	if power > maxPower {
		return 0, false
	}
	if text[run.at-1] == '-' {
		power = -power
	}
	return power, true
}

var powers = [...]int64{1, 10, 100, 1000, 10_000, 100_000, 1_000_000, 10_000_000, 100_000_000}

// day reads a date and what stands after it. Where there is no such day or time, x is as it was.
func (e *Outline) day(text *outlineText, x *Reads) bool {
	if e.time == 0 {
		x.Moment = value.Moment{}
	} else if !e.clock(text, x) {
		return false
	}
	var s Set
	switch {
	case e.isWorded:
		s = e.wordedDay(e.runs[0].field(text), e.runs[1].field(text), x)
	case e.runs[2].n == 4:
		s = e.dayBeforeYear(text, x)
	default:
		s = threeNumbers([3]field{e.runs[0].field(text), e.runs[1].field(text), e.runs[2].field(text)}, x)
	}
	if s != 0 && e.days != 0 {
		s = x.onWeekday(s, e.days)
	}
	if s == 0 {
		x.Set, x.Form, x.Moment = 0, 0, value.Moment{}
		return false
	}
	if x.Set = s | e.set&(HasTime|HasOffset); s.Has(DateSure) && !(e.zone > 0 && x.Moment.Offset == 0) {
		x.Set |= e.set & Plain
	}
	if e.isDotted {
		hour, minute, second := e.runs[0].number(text), e.runs[1].number(text), e.runs[2].number(text)
		if clock, ok := value.NewClock(int(hour), int(minute), int(second), 0, 0); ok {
			x.Set |= ClockOnly
			x.Moment.Clock = clock
		}
	}
	if e.time == 0 {
		x.Form = e.form
	}
	x.Form = x.Form&^farYear | bit(x.far(s))*farYear
	return true
}

// dayBeforeYear is threeNumbers for a day and a month, in either order, and a year in four digits.
func (e *Outline) dayBeforeYear(text *outlineText, x *Reads) (s Set) {
	a, b, year := int(e.runs[0].number(text)), int(e.runs[1].number(text)), int(e.runs[2].number(text))
	if otherCalendar(year) {
		return 0
	}
	var is [2]bool
	x.Days[DMY], is[0] = value.NewDay(year, b, a)
	x.Days[MDY], is[1] = value.NewDay(year, a, b)
	if is[0] {
		s = DateDMY
	}
	if is[1] {
		s |= DateMDY
	}
	if a == b && s != 0 {
		x.Days[YMD] = x.Days[DMY]
		return DateSure
	}
	return s
}

// isZero reports whether the offset from UTC is none.
func (e *Outline) isZero(text *outlineText) bool {
	minutes, ok := e.offset(text)
	return ok && minutes == 0
}

func (e *Outline) wordedDay(day, year field, x *Reads) Set {
	w := &e.worded
	if w.yearFirst {
		day, year = year, day
	}
	s := x.setDay(DateSure, w.order, year, field{value: w.month}, day)
	if s != 0 {
		s |= w.bits
	}
	if w.short {
		s = orShort(s)
	}
	return s
}

// clock reads a time of day.
func (e *Outline) clock(text *outlineText, x *Reads) bool {
	runs := e.runs[e.time:e.n]
	second, nanos, offset := 0, 0, 0
	if e.seconds {
		second = int(runs[2].number(text))
	}
	if e.fraction > 0 {
		nanos = int(runs[3].number(text))
		if e.fraction == 9 {
			nanos = 10*nanos + int(runs[4].number(text))
		}
		for range 9 - e.fraction {
			nanos *= 10
		}
	}
	x.Moment = value.Moment{}
	f := clockForm{period: e.form >> periodShift & nameMask}
	hour, ok := f.hour(int(runs[0].number(text)), e.hours)
	if !ok {
		return false
	}
	clock, ok := value.NewClock(hour, int(runs[1].number(text)), second, nanos, e.fraction)
	if !ok {
		return false
	}
	if e.zone > 0 {
		if offset, ok = e.offset(text); !ok {
			return false
		}
	}
	x.Form = e.form&^lateHour | bit(f.late)*lateHour
	x.Moment = value.Moment{Clock: clock, HasOffset: e.utc || e.zone > 0, Offset: int16(offset)}
	return true
}

// offset reads the offset from UTC in minutes.
func (e *Outline) offset(text *outlineText) (minutes int, ok bool) {
	first := e.runs[e.zone]
	hours, rest := int(first.number(text)), 0
	switch {
	case first.n == 4:
		hours, rest = hours/100, hours%100
	case e.zone+1 < e.n:
		rest = int(e.runs[e.zone+1].number(text))
	}
	if minutes = hours*60 + rest; rest > 59 || minutes > 18*60 {
		return 0, false
	}
	if text[first.at-1] == '-' {
		minutes = -minutes
	}
	return minutes, true
}
