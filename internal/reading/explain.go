package reading

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"

	"junvo/internal/reason"
	"junvo/internal/value"
)

// Explain says why a cell that does not fit the convention's type failed: the
// most telling reason, and what stood where.
func (c *Convention) Explain(cell []byte, x *Reads) (reason.Reason, string) {
	switch {
	case x.Set.Any(ErrorValue):
		return reason.ErrorValue, string(cell)
	case x.Set.Any(BadBytes), c.Type != value.Text && c.Type != value.Code && bytes.Contains(cell, replacement):
		return reason.BytesBroken, brokenBytes(cell)
	}
	switch c.Type {
	case value.Integer, value.Decimal:
		return c.explainNumber(cell, x)
	case value.Date:
		return c.explainDate(cell, x)
	case value.Timestamp:
		return c.explainTimestamp(cell, x)
	case value.Time:
		return c.explainTime(x)
	case value.Boolean:
		return reason.NotABoolean, ""
	}
	return reason.Scientific, ""
}

// brokenBytes names the bytes of a cell that are not text.
func brokenBytes(cell []byte) string {
	var list []string
	for len(cell) > 0 {
		r, n := utf8.DecodeRune(cell)
		if r == utf8.RuneError && n == 1 {
			list = append(list, fmt.Sprintf("%02X", cell[0]))
		}
		cell = cell[n:]
	}
	if len(list) == 0 {
		return "U+FFFD stands in place of what an earlier program could not read"
	}
	return "bytes " + strings.Join(list[:min(len(list), 8)], " ")
}

// replacement is what earlier programs put in the place of bytes that were not text.
var replacement = []byte("\ufffd")

func (c *Convention) explainNumber(cell []byte, x *Reads) (reason.Reason, string) {
	s := x.Set
	if !s.Any(numbers) {
		return explainNoNumber(cell, x)
	}
	switch {
	case !c.sure(s) && !c.Known && s.Has(NumPoint|NumComma):
		return reason.MarkAmbiguous, "add decimal-mark"
	case !c.sure(s):
		return reason.MarkConflict, fmt.Sprintf("the column's decimal mark is %s", markOr(c))
	case !c.affixFits(s, x.Form):
		return c.explainAffix(x)
	case s.Any(LeadingZero) && !c.Zeros:
		return reason.LeadingZero, ""
	case s.Any(Exponent):
		return reason.Scientific, ""
	}
	return reason.NotWhole, ""
}

func markOr(c *Convention) string {
	if c.Known {
		return c.Mark.String()
	}
	return "undecided: add decimal-mark"
}

func (c *Convention) explainAffix(x *Reads) (reason.Reason, string) {
	if c.AffixKind.Any(Percent|PerMille) && !x.Set.Any(affixes) {
		return reason.UnitUnexpected, fmt.Sprintf("no %s here", c.Affix)
	}
	if c.AffixKind.Any(Currency) && x.Set.Any(Currency) {
		return reason.CurrencyMixed, fmt.Sprintf("%s among %s", x.Affix(), c.Affix)
	}
	what := "unit"
	switch {
	case x.Set.Any(Currency):
		what = "currency"
	case x.Set.Any(Percent | PerMille):
		what = "sign"
	}
	if c.Affix == "" {
		return reason.UnitUnexpected, fmt.Sprintf("%s %s, and the column has none: add %[1]s", what, x.Affix())
	}
	return reason.UnitUnexpected, what + " " + x.Affix()
}

// explainNoNumber tells apart the ways in which text with digits is no number.
func explainNoNumber(cell []byte, x *Reads) (reason.Reason, string) {
	if what := looksLike(x); what != "" {
		return reason.NotANumber, what
	}
	if damage := x.Set.Damage(); damage != "" {
		return reason.NotANumber, damage
	}
	text, _, _, _, torn := fold(nil, cell)
	runs := digitRuns(text)
	switch {
	case torn:
		return reason.NotANumber, "digits of two scripts, or a character that does not show between them"
	case runs > 0 && marksMisplaced(text):
		return reason.GroupMisplaced, ""
	case runs > 1:
		return reason.SeveralNumbers, fmt.Sprintf("%d runs of digits", runs)
	case runs == 0:
		return reason.NotANumber, "no digit in it"
	}
	return reason.NotANumber, strayText(text)
}

// digitRuns counts the runs of digits, where a mark between two digits does not
// end a run.
func digitRuns(text []byte) (runs int) {
	inside := false
	for i, b := range text {
		digit := classes[b]&cDigit != 0
		if digit && !inside {
			runs++
		}
		mark := b != ' ' && markSet(b) != 0 && i+1 < len(text) && classes[text[i+1]]&cDigit != 0
		inside = digit || inside && mark
	}
	return runs
}

// marksMisplaced reports whether text is no number only because of where its marks
// stand. Spaces alone separate numbers as well as groups.
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
	s, ok := n.scan(NewReader(nil))
	return marks != MarkSpace && (!ok || s&numbers == 0)
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

// otherYears says whether the years of a date are those of another era or of another calendar.
func otherYears(cell []byte) reason.Reason {
	text, _, _, _, _ := fold(nil, cell)
	if r := NewReader(nil); r.tokens(text) {
		for ; r.at < len(r.toks); r.at++ {
			if r.toks[r.at].kind != tokLetters {
				continue
			}
			at := r.at
			if w, ok := r.name(); ok && w.roles&otherEra != 0 {
				return reason.OtherEra
			}
			r.at = at
		}
	}
	return reason.OtherCalendar
}

// NoDate says why a text that is written like a date is none, and whether it is so written.
func NoDate(cell []byte, x *Reads) (reason.Reason, bool) {
	if !x.Set.Any(DateNever|DateOther|WeekdayOther) || x.Set.Any(dates) {
		return reason.None, false
	}
	c := Convention{Type: value.Date}
	why, _ := c.explainDate(cell, x)
	return why, true
}

// explainTime says why a time of day, or the time of a date, is none.
func (c *Convention) explainTime(x *Reads) (reason.Reason, string) {
	if x.Set.Any(ClockOnly|HasTime) && !x.Set.Any(numbers) {
		switch {
		case c.reading(x.Set, x.Form) == AsText:
			return reason.NotATime, "its word may be something else: add time-words"
		case !c.timed(x.Set, x.Form):
			return reason.HalfDayMissing, ""
		}
	}
	return reason.NotATime, looksLike(x)
}

func (c *Convention) explainDate(cell []byte, x *Reads) (reason.Reason, string) {
	switch {
	case x.Set.Any(DateOther) && otherYears(cell) == reason.OtherEra:
		return reason.OtherEra, ""
	case x.Set.Any(WeekdayOther):
		return reason.WeekdayConflict, ""
	case x.Set.Any(DateNever):
		return reason.NoSuchDay, ""
	case x.Set.Any(dates) && x.Set.Any(HasTime):
		return reason.NotADate, "a date with a time"
	case x.Set.Any(dates):
		return c.explainOrder(x)
	case x.Set.Any(DateOther):
		return reason.OtherCalendar, ""
	}
	if damage := x.Set.Damage(); damage != "" {
		return reason.NotADate, damage
	}
	return reason.NotADate, looksLike(x)
}

func (c *Convention) explainOrder(x *Reads) (reason.Reason, string) {
	at := c.SlotOf(x.Set, x.Form)
	if !c.timed(x.Set, x.Form) {
		if x.Form&weakMonth == 0 {
			return c.explainTime(x)
		}
		return reason.NotADate, "its word may be something else than a month: add time-words"
	}
	if at != openSlot && !c.dated(x.Set, x.Form) {
		return reason.NoSuchDay, ""
	}
	if at == openSlot && x.Set.Any(MonthOpen) {
		return reason.NameAmbiguous, ""
	}
	if at == openSlot {
		if s := x.Set & orders; s&(s-1) != 0 {
			return reason.OrderAmbiguous, "add date-order"
		}
		return reason.OrderConflict, "the column's order is undecided: add date-order"
	}
	return reason.OrderConflict, "the column is " + c.Orders[dateSepOf(x.Form)].say()
}

func (c *Convention) explainTimestamp(cell []byte, x *Reads) (reason.Reason, string) {
	switch s := x.Set; {
	case s.Any(DateOther) && otherYears(cell) == reason.OtherEra:
		return reason.OtherEra, ""
	case s.Any(WeekdayOther):
		return reason.WeekdayConflict, ""
	case s.Any(DateNever):
		return reason.NoSuchDay, ""
	case s.Any(DateOther):
		return reason.OtherCalendar, ""
	case s.Any(ZoneUnknown):
		return reason.UnknownZone, ""
	case !s.Any(dates):
		return reason.NotADate, looksLike(x)
	case !s.Any(HasTime):
		return reason.NotATime, "a date only"
	case !c.offsetFits(s):
		return reason.ZoneUnexpected, ""
	}
	return c.explainOrder(x)
}
