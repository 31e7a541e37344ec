package totals

import "junvo/internal/value"

// sum adds numbers exactly: those of up to 18 digits as whole numbers at one scale, all others by arithmetic of any length.
type sum struct {
	coef  value.Int128 // of those at the scale
	scale int32
	rest  value.Sum
}

// add adds a number in canonical text.
func (s *sum) add(text []byte) {
	coef, scale, digits, ok := value.ParseShort(text)
	if ok && scale > s.scale {
		s.rest.AddInt128(s.coef, s.scale)
		s.coef, s.scale = value.Int128{}, scale
	}
	if by := s.scale - scale; ok && by > 0 {
		ok = digits+int(by) <= value.ShortDigits
		if ok {
			coef *= value.Tens[by]
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
