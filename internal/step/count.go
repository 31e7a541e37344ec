package step

import (
	"fmt"
	"regexp"
	"strconv"

	"junvo/internal/reason"
	"junvo/internal/value"
)

// count is a step that makes moments of numbers that count days or seconds. Text that
// is no plain number is left alone.
type count func(number string) (value.Moment, bool)

var plainCount = regexp.MustCompile(`^-?\d{1,18}(?:\.\d{1,9})?$`)

func (c count) Apply(text string) (string, reason.Reason) {
	if !plainCount.MatchString(text) {
		return text, reason.None
	}
	m, ok := c(text)
	if !ok {
		return text, reason.NotADate
	}
	if !m.HasOffset && m.Clock.Nanos == 0 {
		return string(m.Day.Append(nil)), reason.None
	}
	return string(m.Append(nil)), reason.None
}

func newDayNumber(args Args) (Step, error) {
	base, _ := args.(int)
	if base != 1900 && base != 1904 {
		return nil, fmt.Errorf("it takes the year in which day numbers begin, 1900 or 1904")
	}
	return count(func(number string) (value.Moment, bool) {
		n, err := strconv.ParseFloat(number, 64)
		if err != nil {
			return value.Moment{}, false
		}
		return value.OfDayNumber(n, base == 1904, value.DayNumberKeepsThousandths(number, n))
	}), nil
}

// epochUnits are how many units there are in a second.
var epochUnits = map[string]int64{"seconds": 1, "milliseconds": 1e3, "microseconds": 1e6}

func newEpoch(args Args) (Step, error) {
	unit, _ := args.(string)
	perSecond, ok := epochUnits[unit]
	if !ok {
		return nil, fmt.Errorf("it takes the unit that is counted: seconds, milliseconds or microseconds")
	}
	return count(func(number string) (value.Moment, bool) {
		n, err := value.ParseNumber(number)
		if err != nil {
			return value.Moment{}, false
		}
		return value.OfEpoch(n, perSecond)
	}), nil
}
