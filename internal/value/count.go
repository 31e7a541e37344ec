package value

import (
	"math"
	"math/big"
	"strings"
	"time"
)

// Spreadsheets and computers store moments as counts. Those that lie outside the years
// 1 to 9999 are no moments.

// Day numbers count from the day before 1 January 1900, or from 1 January 1904, up to the
// end of the year 9999 (ISO/IEC 29500-1, 18.17.4).
const lastDayNumber = 2958465

// OfDayNumber returns the moment that a spreadsheet's day number stands for, to the
// second, or to the thousandth of one, which is about as far as a number of 64 bits goes. In workbooks that begin in
// 1900 day 60 is the 29th of February of that year, which there never was, and day 0 stands for no day.
func OfDayNumber(n float64, from1904, thousandths bool) (Moment, bool) {
	if !(n >= 0 && n < lastDayNumber+1) {
		return Moment{}, false
	}
	days := int(n)
	seconds := (n - float64(days)) * 86400
	millis := int64(math.Round(seconds)) * 1000
	if thousandths {
		millis = int64(math.Round(seconds * 1000))
	}
	if millis == 86400e3 {
		days, millis = days+1, 0
	}
	digits := uint8(3)
	for unit := int64(10); digits > 0 && millis%unit == 0; unit *= 10 {
		digits--
	}
	base := time.Date(1904, time.January, 1, 0, 0, 0, 0, time.UTC)
	switch {
	case from1904:
	case days == 60 || days == 0:
		return Moment{}, false
	case days < 60:
		base = time.Date(1899, time.December, 31, 0, 0, 0, 0, time.UTC)
	default:
		base = time.Date(1899, time.December, 30, 0, 0, 0, 0, time.UTC)
	}
	t := base.AddDate(0, 0, days)
	day, ok := NewDay(t.Year(), int(t.Month()), t.Day())
	return Moment{Day: day, Clock: Clock{Nanos: millis * 1e6, Digits: digits}}, ok
}

// DayNumberKeepsThousandths reports whether a day number in text, which is n, tells thousandths of a second: it is
// written with so many digits, or it is no whole second that was rounded to the digits that it has.
func DayNumberKeepsThousandths(text string, n float64) bool {
	const enough = 7 // digits of a day are 9 thousandths
	_, fraction, _ := strings.Cut(text, ".")
	if len(fraction) >= enough || strings.ContainsAny(text, "eE") {
		return true
	}
	_, part := math.Modf(n)
	seconds := part * 86400
	return math.Abs(seconds-math.Round(seconds)) > 0.5*86400*math.Pow10(-len(fraction))+1e-6
}

// OfEpoch returns the moment in UTC that lies n units after the start of 1970, exactly (POSIX.1, 4.16). The units in
// a second are a power of ten of at most 10⁹.
func OfEpoch(n Number, unitsPerSecond int64) (Moment, bool) {
	nanos := new(big.Rat).SetInt64(1e9 / unitsPerSecond)
	nanos.Mul(nanos, new(big.Rat).SetFrac(n.coefficient(), bigTen(max(0, n.Scale))))
	if n.Scale < 0 {
		nanos.Mul(nanos, new(big.Rat).SetInt(bigTen(-n.Scale)))
	}
	if !nanos.IsInt() {
		return Moment{}, false
	}
	days, rest := new(big.Int).DivMod(nanos.Num(), big.NewInt(86400e9), new(big.Int))
	if !days.IsInt64() || days.Int64() < firstEpochDay || days.Int64() > lastEpochDay {
		return Moment{}, false
	}
	m := Moment{Day: DayOf(int(days.Int64())), Clock: Clock{Nanos: rest.Int64()}, HasOffset: true}
	for frac := m.Clock.Nanos % 1e9; frac > 0; frac = frac * 10 % 1e9 {
		m.Clock.Digits++
	}
	return m, true
}

// The days of the years 1 and 9999, counted from the start of 1970.
const firstEpochDay, lastEpochDay = -719162, 2932896
