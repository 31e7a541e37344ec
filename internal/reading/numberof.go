package reading

import (
	"bytes"

	"junvo/internal/value"
)

// Number returns the cell's number under a decimal mark under which it is one.
// Percent and per mille are applied: 12 % is 0.12.
func (x *Reads) Number(m Mark) value.Number {
	if !x.small {
		return value.NewNumber(x.Negative, x.digits(), x.scale(m))
	}
	n := value.Number{Coef: x.coef, Scale: x.scale(m)}
	if x.Negative {
		n.Coef = -n.Coef
	}
	return n
}

// Short returns the cell's number under a decimal mark as a whole number divided by ten to the power of scale, where it
// has at most 18 digits.
func (x *Reads) Short(m Mark) (coef int64, scale int32, ok bool) {
	coef = x.coef
	if !x.small {
		if len(x.reader.digits) > value.ShortDigits {
			return 0, 0, false
		}
		coef = number(x.reader.digits)
	}
	if x.Negative {
		coef = -coef
	}
	return coef, x.scale(m), true
}

// Wide is Short for numbers of at most 36 digits.
func (x *Reads) Wide(m Mark) (coef value.Int128, scale int32, ok bool) {
	if n, scale, ok := x.Short(m); ok {
		return value.Int128From(n), scale, true
	}
	digits := x.reader.digits
	if len(digits) > value.WideDigits {
		return value.Int128{}, 0, false
	}
	return value.Int128OfDigits(x.Negative, digits), x.scale(m), true
}

// Affix returns the name of the unit, currency or sign around a number.
func (x *Reads) Affix() string {
	if x.Set.Any(UnitWord) {
		return string(x.word)
	}
	return x.affix
}

// Small returns a plain number's digits as a whole number, and how many of them
// stand after the decimal point.
func (x *Reads) Small() (coef int64, scale int32, ok bool) {
	n := x.coef
	if x.Negative {
		n = -n
	}
	// A comma or a point may be a group mark, and then the number is another one, too.
	own := x.Set.Any(NumPoint) && !x.Set.Any(Percent|PerMille) && !(x.Set.Any(NumComma) && x.Set.Any(groupMarks))
	return n, x.reader.scales[Point], x.small && own
}

// digits returns the digits of the number, without marks.
func (x *Reads) digits() []byte {
	if !x.small {
		return x.reader.digits
	}
	d := x.reader.digits[:x.length]
	rest := x.coef
	for i := len(d) - 1; i >= 0; i-- {
		d[i] = byte('0' + rest%10)
		rest /= 10
	}
	return d
}

func (x *Reads) scale(m Mark) int32 {
	scale := x.reader.scales[m]
	switch {
	case x.Set.Any(Percent):
		scale += 2
	case x.Set.Any(PerMille):
		scale += 3
	}
	return scale
}

// appendNumber appends the number in plain digits, without leading zeros and
// with a decimal point. It keeps the digits after the mark as they were written.
func (x *Reads) appendNumber(dst []byte, m Mark) []byte {
	digits, scale := x.digits(), int(x.scale(m))
	for len(digits) > 1 && digits[0] == '0' {
		digits = digits[1:]
	}
	zero := len(bytes.Trim(digits, "0")) == 0
	if x.Negative && !zero {
		dst = append(dst, '-')
	}
	if zero && scale <= 0 {
		return append(dst, '0')
	}
	if scale <= 0 {
		dst = append(dst, digits...)
		for range -scale {
			dst = append(dst, '0')
		}
		return dst
	}
	if len(digits) <= scale {
		dst = append(dst, '0', '.')
		for range scale - len(digits) {
			dst = append(dst, '0')
		}
		return append(dst, digits...)
	}
	dst = append(dst, digits[:len(digits)-scale]...)
	dst = append(dst, '.')
	return append(dst, digits[len(digits)-scale:]...)
}
