package reading

import (
	"encoding/binary"

	"junvo/internal/value"
)

// Most cells that can be read are plain: digits with at most a minus and a point,
// or a date written yyyy-MM-dd. They take a short way, which tests hold equal to
// the long one.

// plainFirst is up to how many bytes cells are read as plain before their outline is looked at: longer ones are read
// quicker by that.
const plainFirst = 10

// maxPlain is the longest plain number: its digits fit in 63 bits.
const maxPlain = 18

// plain reads a cell that begins with a digit or a minus as a plain number or an ISO date,
// and reports whether it is one.
func (r *Reader) plain(cell []byte, x *Reads) bool {
	if len(cell) > maxPlain+2 {
		return false
	}
	if len(cell) <= 8 && cap(cell) >= 8 {
		w := binary.LittleEndian.Uint64(cell[:8]) & (^uint64(0) >> ((64 - 8*len(cell)) & 63))
		if coef, k, ok := ReadShort(w, uint(len(cell))); ok {
			short := &Shorts[k]
			x.Set, x.Form = short.Set, short.Form
			x.coef, x.length, x.small = coef, uint8(len(cell)), true
			if x.Negative = cell[0] == '-'; x.Negative {
				x.coef = -coef
				x.length--
			}
			if short.Scale > 0 {
				x.length--
			}
			r.scales[Point], r.scales[Comma], r.scales[Arabic] = short.Scale, 0, 0
			return true
		}
		if len(cell) < 8 {
			return false
		}
	}
	i := 0
	if cell[0] == '-' {
		i, x.Negative = 1, true
	}
	first := i
	var coef int64
	for ; i < len(cell) && cell[i]-'0' <= 9; i++ {
		coef = coef*10 + int64(cell[i]-'0')
	}
	whole := i - first
	if whole == 0 {
		x.Negative = false
		return false
	}
	if i == len(cell) {
		return r.plainWhole(cell[first:], coef, x)
	}
	if cell[i] == '-' && whole == 4 && len(cell) == 10 && first == 0 {
		return plainDate(cell, int(coef), x)
	}
	point := i
	if cell[point] != '.' || whole == 1+len(cell) {
		x.Negative = false
		return false
	}
	for i++; i < len(cell) && cell[i]-'0' <= 9; i++ {
		coef = coef*10 + int64(cell[i]-'0')
	}
	scale := i - point - 1
	if i != len(cell) || scale == 0 || whole+scale > maxPlain {
		x.Negative = false
		return false
	}
	x.Set = NumPoint | MarkPoint
	if whole == 1 || cell[first] != '0' {
		x.Set |= Plain
	} else {
		x.Set |= LeadingZero
		x.Form = zeroForm(whole)
	}
	if whole <= 2 && scale == 2 && first == 0 && isClock(coef) {
		x.Set |= ClockPoint
	}
	if scale == 3 && whole <= 3 && cell[first] != '0' {
		x.Set |= NumComma | IntComma // 1.234 may be a number with a group
	}
	r.scales[Point], r.scales[Comma] = int32(scale), 0
	x.coef, x.length, x.small = coef, uint8(whole+scale), true
	return true
}

func (r *Reader) plainWhole(digits []byte, coef int64, x *Reads) bool {
	if len(digits) > maxPlain {
		x.Negative = false
		return false
	}
	x.Set = numbers | wholes | Plain
	switch {
	case len(digits) == 1 && !x.Negative:
		x.Form = singleDigit + uint64(coef)
	case len(digits) > 1 && digits[0] == '0':
		x.Set, x.Form = numbers|wholes|LeadingZero, zeroForm(len(digits))
	}
	if len(digits) >= longDigits {
		x.Set |= LongDigits
	}
	if len(digits) == 8 && !x.Negative {
		x.Set |= compactDate(x, int(coef))
	}
	r.scales[Point], r.scales[Comma], r.scales[Arabic] = 0, 0, 0
	x.coef, x.length, x.small = coef, uint8(len(digits)), true
	return true
}

// longDigits is how many digits a number has that is too long to be an amount.
const longDigits = 16

var isoDay = dateForm{sep: '-', widths: [3]uint8{widthYear, 2, 2}}.pack()

// plainDate reads yyyy-MM-dd; the year has been read.
func plainDate(cell []byte, year int, x *Reads) bool {
	m1, m2, d1, d2 := cell[5]-'0', cell[6]-'0', cell[8]-'0', cell[9]-'0'
	if year < FirstNearYear || year > LastNearYear || cell[7] != '-' || m1 > 9 || m2 > 9 || d1 > 9 || d2 > 9 {
		return false
	}
	day, ok := value.NewDay(year, int(m1)*10+int(m2), int(d1)*10+int(d2))
	if !ok {
		return false
	}
	x.Days = [numOrders]value.Day{day, day, day}
	x.Set, x.Form = DateSure|Plain, isoDay
	return true
}
