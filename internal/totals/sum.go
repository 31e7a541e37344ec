package totals

import "junvo/internal/value"

// sum adds numbers exactly: those of up to 18 digits as whole numbers at one scale, all others by arithmetic of any length.
type sum struct {
	coef  value.Int128 // of those at the scale
	scale int32
	rest  value.Sum
}

var tens = [19]int64{
	1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18,
}

// add adds a number in canonical text.
func (s *sum) add(text []byte) {
	coef, digits, scale, ok := short(text)
	if ok && scale > s.scale {
		s.rest.AddInt128(s.coef, s.scale)
		s.coef, s.scale = value.Int128{}, scale
	}
	if by := s.scale - scale; ok && by > 0 {
		ok = digits+int(by) <= 18
		if ok {
			coef *= tens[by]
		}
	}
	if ok {
		s.coef.Add(coef, 1)
		return
	}
	if n, err := value.ParseNumber(string(text)); err == nil {
		s.rest.Add(n, 1)
	}
}

// merge adds another sum, in text.
func (s *sum) merge(text string) {
	if n, err := value.ParseNumber(text); err == nil {
		s.rest.Add(n, 1)
	}
}

func (s *sum) text() string {
	s.rest.AddInt128(s.coef, s.scale)
	s.coef = value.Int128{}
	return s.rest.Number().String()
}

// short reads a number of at most 18 digits in canonical text: the coefficient, how many digits it has, and its scale.
func short(text []byte) (coef int64, digits int, scale int32, ok bool) {
	negative := len(text) > 0 && text[0] == '-'
	if negative {
		text = text[1:]
	}
	point := -1
	for i, b := range text {
		switch {
		case b == '.' && point < 0:
			point = i
		case b < '0' || b > '9' || digits == 18:
			return 0, 0, 0, false
		default:
			coef = coef*10 + int64(b-'0')
			digits++
		}
	}
	if point >= 0 {
		scale = int32(len(text) - point - 1)
	}
	if negative {
		coef = -coef
	}
	return coef, digits, scale, digits > 0
}
