package value

import (
	"math"
	"math/big"
	"strconv"
	"strings"
	"time"
)

// Float returns the number as binary floating point, for drawing and estimates only.
func (n Number) Float() float64 {
	if n.Big == nil && n.Scale >= 0 && int(n.Scale) < len(exactTens) && n.Coef > -exactWhole && n.Coef < exactWhole {
		return float64(n.Coef) / exactTens[n.Scale] // both are exact, so that the quotient is rounded once, as that of the fraction is
	}
	f, _ := n.Rat().Float64()
	return f
}

// Near returns the whole number divided by ten to the power of scale as binary floating point, right to about 15
// digits, for estimates. It takes no room, as [Number.Float] does, and is no number where that would be too large or too small.
func (a Int128) Near(scale int32) float64 {
	if scale < -200 || scale > 200 {
		return math.NaN()
	}
	negative := int64(a.hi) < 0
	if negative {
		a = a.negated()
	}
	f := (float64(a.hi)*(1<<64) + float64(a.lo)) / math.Pow10(int(scale))
	if negative {
		return -f
	}
	return f
}

// exactWhole is how far whole numbers are exact in binary floating point, and exactTens are the powers of ten that are.
const exactWhole = 1 << 53

var exactTens = [...]float64{
	1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15,
	1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22,
}

// FloatKeeps reports whether a number in canonical text can be kept as binary floating point of
// 64 bits: the shortest decimal that stands for that and no other is the same number.
func FloatKeeps(text []byte) bool {
	if _, _, digits := Digits(text); digits <= FloatDigits {
		return true
	}
	f, err := strconv.ParseFloat(string(text), 64)
	if err != nil {
		return false
	}
	a, err1 := ParseNumber(string(text))
	b, err2 := ParseNumber(strconv.FormatFloat(f, 'f', -1, 64))
	return err1 == nil && err2 == nil && a.Compare(b) == 0
}

// meanDigits is how many digits a quotient has after those of its dividend.
const meanDigits = 6

// Over returns the number divided by n, in canonical text: exact where that takes no
// more than six digits after the number's own, else rounded to as many, half to even.
func (n Number) Over(by int64) string {
	r := n.Rat()
	r.Quo(r, new(big.Rat).SetInt64(by))
	digits := max(0, int(n.Scale)) + meanDigits
	text := RoundHalfEven(r, digits)
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	if text == "-0" {
		return "0"
	}
	return text
}

// Rat returns the number as a fraction.
func (n Number) Rat() *big.Rat {
	if n.Scale > 0 {
		return new(big.Rat).SetFrac(n.coefficient(), bigTen(n.Scale))
	}
	return new(big.Rat).SetInt(new(big.Int).Mul(n.coefficient(), bigTen(-n.Scale)))
}

// RoundHalfEven writes r with that many digits after the point, halves to the even digit.
func RoundHalfEven(r *big.Rat, digits int) string {
	scaled := new(big.Rat).Mul(r, new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(digits)), nil)))
	q, rest := new(big.Int).QuoRem(scaled.Num(), scaled.Denom(), new(big.Int))
	twice := new(big.Int).Abs(new(big.Int).Lsh(rest, 1))
	if c := twice.Cmp(scaled.Denom()); c > 0 || c == 0 && q.Bit(0) == 1 {
		q.Add(q, big.NewInt(int64(rest.Sign())))
	}
	return Number{Big: q, Scale: int32(digits)}.String()
}

// FormatFloat writes an estimate with as many digits as a resolution of this size needs.
func FormatFloat(v, resolution float64) string {
	digits := 0
	if resolution > 0 {
		digits = max(0, min(12, 1-int(math.Floor(math.Log10(resolution)))))
	}
	text := strconv.FormatFloat(v, 'f', digits, 64)
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	return text
}

// Days returns how many days the day lies after 1 January 1970.
func (d Day) Days() int {
	return int(time.Date(d.Year(), time.Month(d.Month()), d.Day(), 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// DayOf returns the day that lies that many days after 1 January 1970.
func DayOf(days int) Day {
	t := time.Unix(int64(days)*86400, 0).UTC()
	d, _ := NewDay(t.Year(), int(t.Month()), t.Day())
	return d
}
