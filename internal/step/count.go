package step

import (
	"fmt"
	"regexp"
	"strconv"

	"junvo/internal/reason"
	"junvo/internal/value"
)

// count is a step that makes moments of numbers that count days or seconds.
type count struct {
	moment    func(number string) (value.Moment, bool)
	otherwise absent // of text that is no plain number
}

var plainCount = regexp.MustCompile(`^-?\d{1,18}(?:\.\d{1,9})?$`)

func (c count) Apply(text string) (string, reason.Reason) {
	if !plainCount.MatchString(text) {
		return c.otherwise.give(text)
	}
	m, ok := c.moment(text)
	if !ok {
		return text, reason.NotADate
	}
	if !m.HasOffset && m.Clock.Nanos == 0 {
		return string(m.Day.Append(nil)), reason.None
	}
	return string(m.Append(nil)), reason.None
}

func newDayNumber(args Args) (Step, error) {
	f := oneOr(args, "from")
	base, otherwise := f.number("from", 1), f.otherwise("keep")
	if base != 1900 && base != 1904 {
		return nil, fmt.Errorf("it takes the year in which day numbers begin, 1900 or 1904")
	}
	return count{func(number string) (value.Moment, bool) {
		n, err := strconv.ParseFloat(number, 64)
		if err != nil {
			return value.Moment{}, false
		}
		return value.OfDayNumber(n, base == 1904, value.DayNumberKeepsThousandths(number, n))
	}, otherwise}, f.done()
}

// epochUnits are how many units there are in a second.
var epochUnits = map[string]int64{"seconds": 1, "milliseconds": 1e3, "microseconds": 1e6}

func newEpoch(args Args) (Step, error) {
	f := oneOr(args, "of")
	perSecond, ok := epochUnits[f.text("of", "")]
	otherwise := f.otherwise("keep")
	if !ok {
		return nil, fmt.Errorf("it takes the unit that is counted: seconds, milliseconds or microseconds")
	}
	return count{func(number string) (value.Moment, bool) {
		n, err := value.ParseNumber(number)
		if err != nil {
			return value.Moment{}, false
		}
		return value.OfEpoch(n, perSecond)
	}, otherwise}, f.done()
}
