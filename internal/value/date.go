package value

import (
	"errors"
	"strconv"
	"strings"
	"time"
)

// Day is a day of the proleptic Gregorian calendar. Days compare in the order of
// the calendar. The zero Day is no day.
type Day int32

// NewDay returns the day of year (1 to 9999), month and day, or false where the
// calendar has no such day.
func NewDay(year, month, day int) (Day, bool) {
	if uint(year-1) >= 9999 || uint(month-1) >= 12 || uint(day-1) >= 28 && (day < 1 || day > DaysIn(year, month)) {
		return 0, false
	}
	return Day(year<<9 | month<<5 | day), true
}

// DaysIn returns the number of days of a month of a year.
func DaysIn(year, month int) int {
	switch month {
	case 2:
		if year%4 == 0 && (year%100 != 0 || year%400 == 0) {
			return 29
		}
		return 28
	case 4, 6, 9, 11:
		return 30
	}
	return 31
}

// Year returns the year.
func (d Day) Year() int { return int(d >> 9) }

// Month returns the month, 1 to 12.
func (d Day) Month() int { return int(d>>5) & 15 }

// Day returns the day of the month.
func (d Day) Day() int { return int(d) & 31 }

// Weekday returns the day of the week.
func (d Day) Weekday() time.Weekday {
	return time.Date(d.Year(), time.Month(d.Month()), d.Day(), 0, 0, 0, 0, time.UTC).Weekday()
}

// Append appends the day as yyyy-MM-dd.
func (d Day) Append(dst []byte) []byte {
	y, m, n := d.Year(), d.Month(), d.Day()
	return append(dst, digit(y/1000), digit(y/100), digit(y/10), digit(y), '-',
		digit(m/10), digit(m), '-', digit(n/10), digit(n))
}

func digit(n int) byte { return byte('0' + n%10) }

var errNoDay = errors.New("not a day written yyyy-MM-dd")

// ParseDate reads a day written yyyy-MM-dd, the canonical form only.
func ParseDate(s string) (Day, error) {
	if len(s) != 10 || s[4] != '-' || s[7] != '-' {
		return 0, errNoDay
	}
	y, err1 := strconv.Atoi(s[:4])
	m, err2 := strconv.Atoi(s[5:7])
	n, err3 := strconv.Atoi(s[8:])
	d, ok := NewDay(y, m, n)
	if err1 != nil || err2 != nil || err3 != nil || !ok {
		return 0, errNoDay
	}
	return d, nil
}

// Clock is a time of day: hours, minutes, seconds and up to nine digits of a
// fraction. Digits says how many digits of the fraction were written, so that
// what was written is written again.
type Clock struct {
	Nanos  int64 // since midnight
	Digits uint8
}

// NewClock returns the time of day, or false where there is none such.
func NewClock(hour, minute, second, nanos int, digits uint8) (Clock, bool) {
	if hour < 0 || hour > 23 || minute < 0 || minute > 59 || second < 0 || second > 59 {
		return Clock{}, false
	}
	s := int64(hour*3600 + minute*60 + second)
	return Clock{s*1e9 + int64(nanos), digits}, true
}

// Append appends the time as HH:mm:ss with the digits of the fraction that it has.
func (c Clock) Append(dst []byte) []byte {
	s := int(c.Nanos / 1e9)
	h, m, s := s/3600, s/60%60, s%60
	dst = append(dst, digit(h/10), digit(h), ':', digit(m/10), digit(m), ':', digit(s/10), digit(s))
	if c.Digits == 0 {
		return dst
	}
	dst = append(dst, '.')
	frac := int(c.Nanos % 1e9)
	unit := int(1e8)
	for range c.Digits {
		dst = append(dst, digit(frac/unit))
		unit /= 10
	}
	return dst
}

// Moment is a day with a time of day, with an offset from UTC in minutes where HasOffset is set.
type Moment struct {
	Day       Day
	Clock     Clock
	Offset    int16
	HasOffset bool
}

// Append appends the moment as yyyy-MM-ddTHH:mm:ss with fraction and offset (Z for none).
func (m Moment) Append(dst []byte) []byte {
	dst = m.Day.Append(dst)
	dst = append(dst, 'T')
	dst = m.Clock.Append(dst)
	if !m.HasOffset {
		return dst
	}
	o := int(m.Offset)
	if o == 0 {
		return append(dst, 'Z')
	}
	sign := byte('+')
	if o < 0 {
		sign, o = '-', -o
	}
	return append(dst, sign, digit(o/600), digit(o/60), ':', digit(o%60/10), digit(o%60))
}

// Compare orders moments in time; moments with an offset are brought to UTC first.
func (m Moment) Compare(n Moment) int {
	if m.Offset == n.Offset {
		if m.Day == n.Day {
			return compareInt(m.Clock.Nanos, n.Clock.Nanos)
		}
		return compareInt(int64(m.Day), int64(n.Day))
	}
	a, b := m.Minutes(), n.Minutes()
	switch {
	case a < b, a == b && m.Clock.Nanos%60e9 < n.Clock.Nanos%60e9:
		return -1
	case a == b && m.Clock.Nanos%60e9 == n.Clock.Nanos%60e9:
		return 0
	}
	return 1
}

// UTC returns a moment with an offset as it is in UTC.
func (m Moment) UTC() Moment {
	const day = 24 * 60
	minutes := m.Day.Days()*day + int(m.Clock.Nanos/60e9) - int(m.Offset)
	days := minutes / day
	if minutes%day < 0 {
		days--
	}
	m.Day, m.Offset = DayOf(days), 0
	m.Clock.Nanos = int64(minutes-days*day)*60e9 + m.Clock.Nanos%60e9
	m.Clock.Digits = 9
	for rest := m.Clock.Nanos; m.Clock.Digits > 0 && rest%10 == 0; rest /= 10 {
		m.Clock.Digits--
	}
	return m
}

// Minutes counts the minutes to the moment from a fixed day, those with an offset in UTC.
func (m Moment) Minutes() int64 {
	return m.Day.number()*1440 + m.Clock.Nanos/60e9 - int64(m.Offset)
}

// number counts days from 1 March of year 0, so that leap days come last in their year.
func (d Day) number() int64 {
	y, m := int64(d.Year()), int64(d.Month())
	if m < 3 {
		y, m = y-1, m+12
	}
	return 365*y + y/4 - y/100 + y/400 + (153*(m-3)+2)/5 + int64(d.Day())
}

// ParseMoment reads a moment in canonical text: yyyy-MM-ddTHH:mm:ss with a fraction and an
// offset perhaps.
func ParseMoment(s string) (Moment, error) {
	if len(s) < 19 || s[10] != 'T' {
		return Moment{}, errNoMoment
	}
	day, err := ParseDate(s[:10])
	if err != nil {
		return Moment{}, err
	}
	layout, zoned := "15:04:05.999999999", strings.ContainsAny(s[11:], "Z+-")
	if zoned {
		layout += "Z07:00"
	}
	t, err := time.Parse(layout, s[11:])
	if err != nil {
		return Moment{}, errNoMoment
	}
	m := Moment{Day: day, Clock: Clock{Nanos: int64(t.Hour())*3600e9 + int64(t.Minute())*60e9 + int64(t.Second())*1e9 +
		int64(t.Nanosecond())}}
	if zoned {
		_, seconds := t.Zone()
		m.HasOffset, m.Offset = true, int16(seconds/60)
	}
	return m, nil
}

var errNoMoment = errors.New("not a moment written yyyy-MM-ddTHH:mm:ss")
