package value

import (
	"fmt"
	"math/big"
	"math/bits"
	"strings"
)

// Number is an exact decimal number: Coef divided by ten to the power of Scale.
// Where the coefficient does not fit in 63 bits it stands in Big instead.
type Number struct {
	Coef  int64
	Scale int32
	Big   *big.Int
}

// NewNumber returns the number of its digits (ASCII, without sign and mark) and scale.
func NewNumber(negative bool, digits []byte, scale int32) Number {
	if len(digits) <= 18 {
		var c int64
		for _, d := range digits {
			c = c*10 + int64(d-'0')
		}
		if negative {
			c = -c
		}
		return Number{Coef: c, Scale: scale}
	}
	b, _ := new(big.Int).SetString(string(digits), 10)
	if negative {
		b.Neg(b)
	}
	return Number{Big: b, Scale: scale}
}

func (n Number) coefficient() *big.Int {
	if n.Big != nil {
		return n.Big
	}
	return big.NewInt(n.Coef)
}

// Unscaled returns the number times ten to the power of scale, which must leave no fraction.
func (n Number) Unscaled(scale int32) *big.Int {
	if by := scale - n.Scale; by > 0 {
		return new(big.Int).Mul(n.coefficient(), bigTen(by))
	} else if by < 0 {
		return new(big.Int).Quo(n.coefficient(), bigTen(-by))
	}
	return n.coefficient()
}

// Unscaled64 is Unscaled for a number that has at most 18 digits with that scale.
func (n Number) Unscaled64(scale int32) int64 {
	if by := scale - n.Scale; n.Big == nil && by >= 0 && by <= 18 {
		c := n.Coef
		for range by {
			c *= 10
		}
		return c
	}
	return n.Unscaled(scale).Int64()
}

func bigTen(n int32) *big.Int {
	return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n)), nil)
}

// Compare returns -1, 0 or 1 as n is less than, equal to or greater than m.
func (n Number) Compare(m Number) int {
	if n.Big == nil && m.Big == nil {
		if n.Scale == m.Scale {
			return compareInt(n.Coef, m.Coef)
		}
		a, ok1 := rescale(n, max(n.Scale, m.Scale))
		b, ok2 := rescale(m, max(n.Scale, m.Scale))
		if ok1 && ok2 {
			return compareInt(a, b)
		}
	}
	a, b := n.coefficient(), m.coefficient()
	if n.Scale < m.Scale {
		a = new(big.Int).Mul(a, bigTen(m.Scale-n.Scale))
	} else if m.Scale < n.Scale {
		b = new(big.Int).Mul(b, bigTen(n.Scale-m.Scale))
	}
	return a.Cmp(b)
}

func compareInt(a, b int64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// rescale returns n's coefficient at a larger scale, where it still fits.
func rescale(n Number, scale int32) (int64, bool) {
	by := scale - n.Scale
	if by >= int32(len(Tens)) {
		return 0, n.Coef == 0
	}
	neg, c := n.Coef < 0, uint64(n.Coef)
	if neg {
		c = -c
	}
	hi, lo := bits.Mul64(c, uint64(Tens[by]))
	if hi != 0 || lo > 1<<62 {
		return 0, false
	}
	if neg {
		return -int64(lo), true
	}
	return int64(lo), true
}

// String returns the number in plain digits with a decimal point; trailing zeros of the scale stay.
func (n Number) String() string {
	c := n.coefficient()
	digits := new(big.Int).Abs(c).String()
	sign := ""
	if c.Sign() < 0 {
		sign = "-"
	}
	if n.Scale <= 0 {
		if c.Sign() == 0 {
			return "0"
		}
		return sign + digits + strings.Repeat("0", int(-n.Scale))
	}
	if pad := int(n.Scale) + 1 - len(digits); pad > 0 {
		digits = strings.Repeat("0", pad) + digits
	}
	at := len(digits) - int(n.Scale)
	return sign + digits[:at] + "." + digits[at:]
}

// Times returns the product, without zeros at the end of its fraction.
func (n Number) Times(m Number) Number {
	coef, scale := new(big.Int).Mul(n.coefficient(), m.coefficient()), n.Scale+m.Scale
	for rest := new(big.Int); scale > 0; scale-- {
		tenth, rest := new(big.Int).QuoRem(coef, big.NewInt(10), rest)
		if rest.Sign() != 0 {
			break
		}
		coef = tenth
	}
	return Number{Big: coef, Scale: scale}
}

// Int128 is a whole number of 128 bits, for sums that a column of small numbers
// can't overflow. The zero Int128 is 0.
type Int128 struct{ hi, lo uint64 }

// Add adds v as many times as said.
func (a *Int128) Add(v int64, times uint64) {
	if times == 1 {
		a.Merge(Int128From(v))
		return
	}
	neg, c := v < 0, uint64(v)
	if neg {
		c = -c
	}
	hi, lo := bits.Mul64(c, times)
	if neg {
		var borrow uint64
		lo, borrow = bits.Sub64(0, lo, 0)
		hi, _ = bits.Sub64(0, hi, borrow)
	}
	a.Merge(Int128{hi, lo})
}

// Merge adds b.
func (a *Int128) Merge(b Int128) {
	var carry uint64
	a.lo, carry = bits.Add64(a.lo, b.lo, 0)
	a.hi, _ = bits.Add64(a.hi, b.hi, carry)
}

// Words returns the upper and the lower half, in two's complement.
func (a Int128) Words() (hi, lo uint64) { return a.hi, a.lo }

// Int128From returns v with 128 bits.
func Int128From(v int64) Int128 { return Int128{uint64(v >> 63), uint64(v)} }

// Int128Of returns the number of these halves.
func Int128Of(hi, lo uint64) Int128 { return Int128{hi, lo} }

func (a Int128) big() *big.Int {
	b := new(big.Int).Lsh(big.NewInt(int64(a.hi)), 64)
	return b.Add(b, new(big.Int).SetUint64(a.lo))
}

// Sum adds numbers exactly. The zero Sum is empty and ready for use.
type Sum struct {
	coef  *big.Int
	scale int32
}

// Add adds n as many times as said.
func (s *Sum) Add(n Number, times uint64) {
	s.add(new(big.Int).Mul(n.coefficient(), new(big.Int).SetUint64(times)), n.Scale)
}

// AddInt128 adds a divided by ten to the power of scale.
func (s *Sum) AddInt128(a Int128, scale int32) { s.add(a.big(), scale) }

// Merge adds all that t holds.
func (s *Sum) Merge(t *Sum) {
	if t.coef != nil {
		s.add(t.coef, t.scale)
	}
}

func (s *Sum) add(c *big.Int, scale int32) {
	if s.coef == nil {
		s.coef, s.scale = new(big.Int).Set(c), scale
		return
	}
	switch {
	case scale < s.scale:
		c = new(big.Int).Mul(c, bigTen(s.scale-scale))
	case scale > s.scale:
		s.coef.Mul(s.coef, bigTen(scale-s.scale))
		s.scale = scale
	}
	s.coef.Add(s.coef, c)
}

// Number returns the sum, at the largest scale that was added.
func (s *Sum) Number() Number {
	if s.coef == nil {
		return Number{}
	}
	return Number{Big: s.coef, Scale: s.scale}
}

// ParseNumber reads a number in canonical text: digits with an optional minus and
// decimal point.
func ParseNumber(s string) (Number, error) {
	if !IsNumber(s) {
		return Number{}, fmt.Errorf("%q is no number such as 12 or -0.5", s)
	}
	rest, negative := strings.CutPrefix(s, "-")
	whole, fraction, _ := strings.Cut(rest, ".")
	return NewNumber(negative, []byte(whole+fraction), int32(len(fraction))), nil
}

// IsNumber reports whether a text is a number in canonical text. It allocates nothing.
func IsNumber[T string | []byte](text T) bool {
	i, point := 0, -1
	if len(text) > 0 && text[0] == '-' {
		i = 1
	}
	first := i
	for ; i < len(text); i++ {
		switch b := text[i]; {
		case b-'0' <= 9:
		case b == '.' && point < 0 && i > first:
			point = i
		default:
			return false
		}
	}
	return len(text) > first && point != len(text)-1
}

// Digits counts the digits of a number in canonical text: those before the point, those
// after it, and those from the first that is not 0 to the last that is not.
func Digits(number []byte) (whole, fraction, significant int) {
	first, last, n := -1, -1, 0
	point := false
	for _, b := range number {
		switch {
		case b == '.':
			point = true
			continue
		case b < '0' || b > '9':
			continue
		case point:
			fraction++
		default:
			whole++
		}
		if b != '0' {
			if first < 0 {
				first = n
			}
			last = n
		}
		n++
	}
	if first < 0 {
		return whole, fraction, 0
	}
	return whole, fraction, last - first + 1
}

// FloatDigits is how many significant digits every binary floating point number of 64 bits
// keeps (IEEE 754): a number that has no more comes back from it as it was.
const FloatDigits = 15

// SameNumber reports whether two texts in canonical form are the same number.
func SameNumber(a, b string) bool {
	x, err1 := ParseNumber(a)
	y, err2 := ParseNumber(b)
	return err1 == nil && err2 == nil && x.Compare(y) == 0
}
