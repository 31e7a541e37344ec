package value

import (
	"math/big"
	"math/bits"
)

// WideDigits is how many digits a wide number has at most: its coefficient fits in 128 bits.
const WideDigits = 36

// Int128OfDigits returns the whole number of up to [WideDigits] digits in ASCII.
func Int128OfDigits(negative bool, digits []byte) (a Int128) {
	for len(digits) > 0 {
		n := min(len(digits), ShortDigits)
		var part uint64
		for _, d := range digits[:n] {
			part = part*10 + uint64(d-'0')
		}
		hi, lo := bits.Mul64(a.lo, uint64(Tens[n]))
		var carry uint64
		a.lo, carry = bits.Add64(lo, part, 0)
		a.hi, _ = bits.Add64(hi, a.hi*uint64(Tens[n]), carry)
		digits = digits[n:]
	}
	if negative {
		a = a.negated()
	}
	return a
}

func (a Int128) negated() Int128 {
	lo, borrow := bits.Sub64(0, a.lo, 0)
	hi, _ := bits.Sub64(0, a.hi, borrow)
	return Int128{hi, lo}
}

// Compare returns -1, 0 or 1 as a is less than, equal to or greater than b.
func (a Int128) Compare(b Int128) int {
	switch {
	case a == b:
		return 0
	case int64(a.hi) < int64(b.hi), a.hi == b.hi && a.lo < b.lo:
		return -1
	}
	return 1
}

// Number returns a divided by ten to the power of scale.
func (a Int128) Number(scale int32) Number {
	if coef := int64(a.lo); Int128From(coef) == a && coef > -Tens[ShortDigits] && coef < Tens[ShortDigits] {
		return Number{Coef: coef, Scale: scale}
	}
	return Number{Big: a.big(), Scale: scale}
}

// Int192 is a whole number of 192 bits, for sums that a column of wide numbers can't overflow. The zero Int192 is 0.
type Int192 struct{ hi, mid, lo uint64 }

// Add adds a as many times as said.
func (s *Int192) Add(a Int128, times uint64) {
	negative := int64(a.hi) < 0
	if negative {
		a = a.negated()
	}
	upper, lo := bits.Mul64(a.lo, times)
	hi, mid := bits.Mul64(a.hi, times)
	mid, carry := bits.Add64(mid, upper, 0)
	hi += carry
	if negative {
		var borrow uint64
		s.lo, borrow = bits.Sub64(s.lo, lo, 0)
		s.mid, borrow = bits.Sub64(s.mid, mid, borrow)
		s.hi, _ = bits.Sub64(s.hi, hi, borrow)
		return
	}
	s.Merge(Int192{hi, mid, lo})
}

// Merge adds b.
func (s *Int192) Merge(b Int192) {
	var carry uint64
	s.lo, carry = bits.Add64(s.lo, b.lo, 0)
	s.mid, carry = bits.Add64(s.mid, b.mid, carry)
	s.hi, _ = bits.Add64(s.hi, b.hi, carry)
}

func (s Int192) big() *big.Int {
	b := new(big.Int).Lsh(big.NewInt(int64(s.hi)), 64)
	b.Or(b, new(big.Int).SetUint64(s.mid))
	return b.Or(b.Lsh(b, 64), new(big.Int).SetUint64(s.lo))
}

// AddInt192 adds a divided by ten to the power of scale.
func (s *Sum) AddInt192(a Int192, scale int32) { s.add(a.big(), scale) }

// parseWide is [ParseShort] for numbers of up to [WideDigits] digits.
func parseWide(text []byte) (coef Int128, scale int32, ok bool) {
	var digits [WideDigits]byte
	n, point := 0, -1
	negative := len(text) > 0 && text[0] == '-'
	if negative {
		text = text[1:]
	}
	for i, b := range text {
		switch {
		case b == '.' && point < 0 && n > 0:
			point = i
		case b < '0' || b > '9' || n == WideDigits:
			return Int128{}, 0, false
		default:
			digits[n] = b
			n++
		}
	}
	if n == 0 || point == len(text)-1 {
		return Int128{}, 0, false
	}
	if point >= 0 {
		scale = int32(len(text) - point - 1)
	}
	return Int128OfDigits(negative, digits[:n]), scale, true
}
