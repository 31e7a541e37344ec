package reading

import (
	"encoding/binary"
	"math/bits"

	"junvo/internal/value"
)

// Most cells that can be read are plain: digits with at most a minus and a point,
// or a date written yyyy-MM-dd. They take a short way, which tests hold equal to
// the long one.

// maxPlain is the longest plain number: its digits fit in 63 bits.
const maxPlain = 18

// plain reads a cell that is a plain number or an ISO date, and reports whether it is.
func (r *Reader) plain(cell []byte, x *Reads) bool {
	if c := cell[0]; c-'0' > 9 && c != '-' || len(cell) > maxPlain+2 {
		return false
	}
	if len(cell) <= 8 && cap(cell) >= 8 {
		if p, ok := ReadShort(binary.LittleEndian.Uint64(cell[:8]), uint(len(cell))); ok {
			x.Set, x.Form = p.Set, p.Form
			x.coef, x.length, x.small = p.Coef, p.digits, true
			if x.Negative = cell[0] == '-'; x.Negative {
				x.coef = -p.Coef
			}
			r.scales[Point], r.scales[Comma], r.scales[Arabic] = int32(p.Scale), 0, 0
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
	}
	if scale == 3 && whole <= 3 && cell[first] != '0' {
		x.Set |= NumComma | IntComma // 1.234 may be a number with a group
	}
	r.scales[Point], r.scales[Comma] = int32(scale), 0
	x.coef, x.length, x.small = coef, uint8(whole+scale), true
	return true
}

// Short is a plain number of at most eight characters.
type Short struct {
	Set    Set
	Form   uint32
	Scale  uint32 // digits behind the point
	Coef   int64  // all digits, as a whole number, with its sign
	digits uint8
}

// ReadShort reads the first n bytes of w, one to eight, all at once, as what Read says
// of a plain number. It reports false where it is none, and where it may be a day too.
func ReadShort(w uint64, n uint) (p Short, ok bool) {
	const ones, tops, zeros = 0x0101010101010101, 0x8080808080808080, 0x3030303030303030
	w &= ^uint64(0) >> (64 - 8*n)
	negative := byte(w) == '-'
	if negative {
		w >>= 8
		n--
	}
	scale := uint(0)
	dot := w ^ ones*'.'
	if dot = (dot - ones) &^ dot & tops & (1<<(8*n) - 1); dot != 0 {
		before := uint(bits.TrailingZeros64(dot)) / 8 // digits before the point
		scale = n - 1 - before
		if before == 0 || scale == 0 {
			return p, false
		}
		w = w&(1<<(8*before)-1) | w>>(8*before+8)<<(8*before) // without the point
		n--
	}
	d := (w ^ zeros) << (64 - 8*n) // the value of each digit, the last one topmost
	if n == 0 || (d+0x7676767676767676|d)&tops != 0 {
		return p, false
	}
	leadingZero := byte(w) == '0'
	// Add up pairs of digits, then pairs of pairs: see D. Lemire, "Quickly parsing
	// eight digits".
	d = d*10 + d>>8
	const pairs = 0x000000ff000000ff
	p.Coef = int64((d&pairs*(100+1000000<<32) + d>>16&pairs*(1+10000<<32)) >> 32)
	p.Scale, p.digits = uint32(scale), uint8(n)
	whole := n - scale
	switch {
	case scale > 0:
		p.Set = NumPoint | MarkPoint
		if whole == 1 || !leadingZero {
			p.Set |= Plain
		}
		if scale == 3 && whole <= 3 && !leadingZero {
			p.Set |= NumComma | IntComma // 1.234 may be a number with a group
		}
	case n > 1 && leadingZero:
		p.Set = numbers | wholes | LeadingZero
	default:
		p.Set = numbers | wholes | Plain
		if n == 1 && !negative {
			p.Form = singleDigit + uint32(p.Coef)
		}
		if n == 8 && p.Coef >= firstCompact && p.Coef <= lastCompact {
			return p, false
		}
	}
	if negative {
		p.Coef = -p.Coef
	}
	return p, true
}

func (r *Reader) plainWhole(digits []byte, coef int64, x *Reads) bool {
	if len(digits) > maxPlain {
		x.Negative = false
		return false
	}
	x.Set = numbers | wholes | Plain
	switch {
	case len(digits) == 1 && !x.Negative:
		x.Form = singleDigit + uint32(coef)
	case len(digits) > 1 && digits[0] == '0':
		x.Set = numbers | wholes | LeadingZero
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
	if otherCalendar(year) || cell[7] != '-' || m1 > 9 || m2 > 9 || d1 > 9 || d2 > 9 {
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
