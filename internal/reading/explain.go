package reading

import (
	"fmt"
	"strings"

	"junvo/internal/value"
)

// Explain says why a cell that does not fit the convention's type failed: the
// most telling reason, and what stood where.
func (c *Convention) Explain(cell []byte, x *Reads) (Reason, string) {
	switch {
	case x.Set.Any(ErrorValue):
		return IsErrorValue, string(cell)
	case x.Set.Any(BadBytes):
		return BytesBroken, fmt.Sprintf("%+q", cell)
	}
	switch c.Type {
	case value.Integer, value.Decimal:
		return c.explainNumber(cell, x)
	case value.Date:
		return c.explainDate(cell, x)
	case value.Timestamp:
		return c.explainTimestamp(cell, x)
	case value.Time:
		return NotATime, looksLike(x)
	case value.Boolean:
		return NotABoolean, ""
	}
	return NoReason, ""
}

func (c *Convention) explainNumber(cell []byte, x *Reads) (Reason, string) {
	s := x.Set
	if !s.Any(numbers) {
		return explainNoNumber(cell, x)
	}
	switch {
	case !c.sure(s) && !c.Known && s.Has(NumPoint|NumComma):
		return MarkAmbiguous, ""
	case !c.sure(s):
		return MarkConflict, fmt.Sprintf("the column's decimal mark is %s", markOr(c))
	case !c.affixFits(s, x.Form):
		return c.explainAffix(x)
	}
	return NotWhole, ""
}

func markOr(c *Convention) string {
	if c.Known {
		return c.Mark.String()
	}
	return "undecided"
}

func (c *Convention) explainAffix(x *Reads) (Reason, string) {
	if c.AffixKind.Any(Percent|PerMille) && !x.Set.Any(affixes) {
		return UnitUnexpected, fmt.Sprintf("no %s here", c.Affix)
	}
	if c.AffixKind.Any(Currency) && x.Set.Any(Currency) {
		return CurrencyMixed, fmt.Sprintf("%s among %s", x.Affix, c.Affix)
	}
	return UnitUnexpected, fmt.Sprintf("unit %s", x.Affix)
}

// explainNoNumber tells apart the ways in which text with digits is no number.
func explainNoNumber(cell []byte, x *Reads) (Reason, string) {
	if what := looksLike(x); what != "" {
		return NotANumber, what
	}
	text, _, _, _ := fold(nil, cell)
	runs := 0
	for i, b := range text {
		if classes[b]&cDigit != 0 && (i == 0 || classes[text[i-1]]&cDigit == 0) {
			runs++
		}
	}
	switch {
	case runs > 1 && marksMisplaced(text):
		return GroupMisplaced, ""
	case runs > 1:
		return SeveralNumbers, fmt.Sprintf("%d runs of digits", runs)
	case runs == 0:
		return NotANumber, "no digit in it"
	}
	return NotANumber, strayText(text)
}

// marksMisplaced reports whether a number is no number only because of where its
// marks stand. Spaces alone separate numbers as well as groups.
func marksMisplaced(text []byte) bool {
	var n numeral
	if !n.split(text) {
		return false
	}
	var marks Set
	for _, b := range n.body {
		if m := markSet(b); m != 0 {
			marks |= m
		} else if classes[b]&cDigit == 0 {
			return false
		}
	}
	return marks != MarkSpace
}

// strayText says what stands beside the digits.
func strayText(text []byte) string {
	rest := strings.TrimFunc(string(text), func(r rune) bool { return r >= '0' && r <= '9' })
	rest = strings.Trim(rest, "0123456789., ")
	if rest == "" {
		return ""
	}
	return fmt.Sprintf("%q beside the digits", rest)
}

// looksLike names what else a cell is, where it is something.
func looksLike(x *Reads) string {
	switch s := x.Set; {
	case s.Any(dates) && s.Any(HasTime):
		return "a date with a time"
	case s.Any(dates):
		return "a date"
	case s.Any(ClockOnly):
		return "a time of day"
	case s.Any(numbers):
		return "a number"
	}
	return ""
}

func (c *Convention) explainDate(cell []byte, x *Reads) (Reason, string) {
	switch {
	case x.Set.Any(dates) && x.Set.Any(HasTime):
		return NotADate, "a date with a time"
	case x.Set.Any(dates):
		return c.explainOrder(x)
	case noSuchDay(cell):
		return NoSuchDay, ""
	}
	return NotADate, looksLike(x)
}

func (c *Convention) explainOrder(x *Reads) (Reason, string) {
	o := c.order(x.Set, x.Form)
	if o == Undecided {
		if s := x.Set & orders; s&(s-1) != 0 {
			return OrderAmbiguous, ""
		}
		return OrderConflict, "the column's order is undecided"
	}
	return OrderConflict, fmt.Sprintf("the column is %s", o.say())
}

func (c *Convention) explainTimestamp(cell []byte, x *Reads) (Reason, string) {
	switch s := x.Set; {
	case !s.Any(dates) && noSuchDay(cell):
		return NoSuchDay, ""
	case !s.Any(dates):
		return NotADate, looksLike(x)
	case !s.Any(HasTime):
		return NotATime, "a date only"
	case s.Any(HasOffset) != c.Offsets:
		return ZoneUnexpected, ""
	}
	return c.explainOrder(x)
}

// noSuchDay reports whether a cell is written like a date of numbers or with the
// name of a month, though the calendar has no such day.
func noSuchDay(cell []byte) bool {
	text, _, _, _ := fold(nil, cell)
	runs, named := 0, false
	r := NewReader(nil)
	if len(text) > 64 || !r.tokens(text) {
		return false
	}
	for i, t := range r.toks {
		switch t.kind {
		case tokDigits:
			if len(t.text) > 2 && len(t.text) != 4 {
				return false
			}
			if i < 5 {
				runs++
			}
		case tokLetters:
			w, ok := r.lookUp(t.text)
			named = named || ok && w.month > 0
			if !ok && i < 5 {
				return false
			}
		case tokOther:
			if !strings.ContainsAny(string(t.text), ".-/,:+") {
				return false
			}
		}
	}
	return runs == 3 || named && runs == 2
}
