package reading

import (
	"fmt"

	"junvo/internal/value"
)

// Possible is one way to read a cell, and the convention that it needs.
type Possible struct {
	Reading Reading
	Value   string // in canonical text
	Needs   string // "" where it is the same under every convention
}

// Possible lists all that a cell can be read as. raw is its text as it came.
func (x *Reads) Possible(raw []byte) []Possible {
	var all []Possible
	add := func(c Convention, needs string) {
		c.Known, c.MonthsKnown, c.Offsets, c.Zeros = true, true, x.Set.Any(HasOffset), true
		if in, names := wordsIn(x.Form); names && x.Set.Any(dates|ClockOnly) && x.Form&(weakMonth|weakPeriod) != 0 {
			c.Languages = in
			needs = join(needs, "a column that shows the language of its time words")
		}
		c.Pairs = pairSet{^uint64(0), ^uint64(0)}
		if by, other := multiplying[x.Affix()]; other && x.Set.Any(UnitWord) {
			f, err := value.ParseNumber(by)
			if err != nil {
				return // a plan can say what it multiplies by
			}
			c.Factors = []Factor{{x.Affix(), f, x.Form}}
			needs = join(needs, fmt.Sprintf("factors: {%s: %s}", x.Affix(), by))
		} else if x.Set.Any(affixes) {
			c.affixIs(x.Affix(), x.Set&affixes)
			needs = join(needs, affixWord(c.AffixKind)+" "+c.Affix)
		}
		if r, fits := c.Judge(x.Set, x.Form); fits && r != AsBlank {
			all = append(all, Possible{r, string(c.Append(nil, raw, x)), needs})
		}
	}
	for _, m := range x.Set.Marks() {
		needs := ""
		if !neutral(x.Set) {
			needs = fmt.Sprintf("decimal mark %q", m.String())
		}
		add(Convention{Type: value.Decimal, Mark: m}, needs)
	}
	for _, t := range []value.Type{value.Date, value.Timestamp} {
		x.possibleDates(t, add)
	}
	if x.Set.Any(ClockOnly) {
		add(Convention{Type: value.Time}, "")
	}
	if x.Set.Any(BoolWord) {
		add(Convention{Type: value.Boolean}, "both words of its pair in the column, and nothing else")
	}
	return all
}

// possibleDates adds the days that a cell is under each order.
func (x *Reads) possibleDates(t value.Type, add func(Convention, string)) {
	if x.Set.Any(DateCompact | DateOrdinal) {
		add(Convention{Type: t, Compact: true, Ordinals: true}, "a column of days written as digits")
	}
	switch {
	case x.Set.Any(MonthOpen):
		add(Convention{Type: t, Croatian: true}, "names of months in Croatian")
		add(Convention{Type: t}, "names of months in Czech or Polish")
	case x.Set.Any(DateSure):
		add(Convention{Type: t}, "")
	case x.Set.Any(orders):
		for o := DMY; o < numOrders; o++ {
			if !x.Set.Any(o.bit()) {
				continue
			}
			c := Convention{Type: t}
			for i := range c.Orders {
				c.Orders[i] = o
			}
			add(c, o.say())
		}
	}
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + ", " + b
}
