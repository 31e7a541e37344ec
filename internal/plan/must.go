package plan

import (
	"fmt"
	"regexp"
	"slices"
	"unicode"
	"unicode/utf8"

	"junvo/internal/pattern"
	"junvo/internal/reason"
	"junvo/internal/value"
)

// Must is what the values of a column have to be. The zero value allows all.
type Must struct {
	NotBlank bool
	Unique   bool      // no two rows have the same value; see convert.FindRepeats
	Between  [2]string // in canonical text; "" for no bound
	OneOf    []string
	Matches  string
	Longest  int // in characters; 0 for any

	pattern      *regexp.Regexp
	least, most  value.Number
	first, last  value.Moment
	hasLeast     bool
	hasMost      bool
	anyCondition bool
}

// Any reports whether there is a condition on values that are not blank.
func (m *Must) Any() bool { return m.anyCondition }

// Check returns why a value in canonical text is not what it has to be, or None.
func (m *Must) Check(t value.Type, text []byte) reason.Reason {
	switch {
	case !m.anyCondition:
	case !m.inRange(t, text):
		return reason.OutOfRange
	case m.OneOf != nil && !slices.Contains(m.OneOf, string(text)):
		return reason.NotListed
	case m.pattern != nil && !m.pattern.Match(text):
		return reason.PatternBroken
	case m.Longest > 0 && utf8.RuneCount(text) > m.Longest:
		return reason.TooLong
	}
	return reason.None
}

// inRange compares numbers and timestamps by value, and the other types by their
// canonical text, which is in the order of the values.
func (m *Must) inRange(t value.Type, text []byte) bool {
	if m.Between == [2]string{} {
		return true
	}
	if t.Numeric() {
		n, err := value.ParseNumber(string(text))
		return err == nil && !(m.hasLeast && n.Compare(m.least) < 0) && !(m.hasMost && n.Compare(m.most) > 0)
	}
	s := string(text)
	if t == value.Timestamp {
		at, err := value.ParseMoment(s)
		return err == nil && (m.Between[0] == "" || at.Compare(m.first) >= 0) &&
			(m.Between[1] == "" || at.Compare(m.last) <= 0)
	}
	return (m.Between[0] == "" || s >= m.Between[0]) && (m.Between[1] == "" || s <= m.Between[1])
}

// prepare makes the conditions ready for use, for values of a type.
func (m *Must) prepare(t value.Type) error {
	var err error
	if m.Matches != "" {
		if m.pattern, err = pattern.Compile(m.Matches); err != nil {
			return err
		}
	}
	if t.Numeric() {
		for i, n := range []*value.Number{&m.least, &m.most} {
			if m.Between[i] == "" {
				continue
			}
			if *n, err = value.ParseNumber(m.Between[i]); err != nil {
				return err
			}
			*[]*bool{&m.hasLeast, &m.hasMost}[i] = true
		}
	}
	for i, bound := range m.Between {
		switch {
		case bound == "":
		case t == value.Date:
			_, err = value.ParseDate(bound)
		case t == value.Timestamp:
			*[]*value.Moment{&m.first, &m.last}[i], err = value.ParseMoment(bound)
		}
		if err != nil {
			return err
		}
	}
	if low, high := m.Between[0], m.Between[1]; low != "" && high != "" && m.above(t, low) {
		return fmt.Errorf("between is the smallest and the largest value: no value is between %s and %s", low, high)
	}
	m.anyCondition = m.Between != [2]string{} || m.OneOf != nil || m.Matches != "" || m.Longest > 0
	return nil
}

// above reports whether the lower bound is above the upper one, so that no value fits.
func (m *Must) above(t value.Type, low string) bool {
	switch {
	case t.Numeric():
		return m.least.Compare(m.most) > 0
	case t == value.Timestamp:
		return m.first.Compare(m.last) > 0
	}
	return low > m.Between[1] // days and times in canonical form, and texts, as they are compared
}

func letterOrDigit(r rune) bool {
	return unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r)
}
