package reading

import (
	"fmt"
	"slices"
	"strings"

	"junvo/internal/value"
)

// Pattern returns how dates and times of a form are written, in the field letters
// of UTS #35, given where their values stand; "" where there are more words in them
// than a pattern should repeat.
func Pattern(s Set, form uint64, at Slot) string {
	if at == ClockSlot {
		return "" // a time that might be a date: its form is kept as one
	}
	switch {
	case s.Any(DateCompact):
		return "yyyyMMdd"
	case s.Any(DateOrdinal):
		return "yyyy-DDD"
	}
	if s.Any(ClockOnly) && !s.Any(dates) {
		if oddClock(form) {
			return ""
		}
		return unpackClock(form).pattern()
	}
	f := unpackDate(form)
	if f.odd {
		return ""
	}
	if s.Any(MonthOpen) {
		s |= DateSure
	}
	fields := [3]byte{'d', 'M', 'y'}
	switch {
	case f.widths[0] == widthYear, at == YMD.slot() && !s.Any(DateSure):
		fields = [3]byte{'y', 'M', 'd'}
	case s.Any(DateSure) && f.widths[0] == widthMonth && f.widths[1] != widthMonth,
		at == MDY.slot() && !s.Any(DateSure):
		fields = [3]byte{'M', 'd', 'y'}
	}
	var b strings.Builder
	b.WriteString([...]string{"", "EEE ", "EEEE "}[f.weekday])
	for i, field := range fields {
		if i > 0 {
			if f.comma && i == 2 {
				b.WriteByte(',')
			}
			b.WriteByte(f.sep)
		}
		switch w := f.widths[i]; {
		case w == widthMonth && field == 'M':
			b.WriteString([...]string{"MMM", "MMMM"}[bit(f.longMonth)])
		case w == widthYear:
			b.WriteString("yyyy")
		default:
			b.WriteString(strings.Repeat(string(field), int(w)))
		}
	}
	if s.Any(HasTime) {
		b.WriteString(timeSeps[f.timeSep])
		b.WriteString(f.clock.pattern())
	}
	return b.String()
}

func (c clockForm) pattern() string {
	hour := "H"
	if c.half > 0 {
		hour = "h"
	}
	p := strings.Repeat(hour, int(c.hourDigits)) + ":mm"
	if c.seconds {
		p += ":ss"
	}
	if c.fraction > 0 {
		p += "." + strings.Repeat("S", int(c.fraction))
	}
	p += [...]string{"", "a", " a"}[c.half]
	return p + [...]string{"", "X", "xxx", "xx"}[c.zone]
}

// DateOrder returns the order decided for the dates between whose numbers the
// order matters, and whether it is one order for all of them.
func (c *Convention) DateOrder(counts []Count) (Order, bool) {
	found, one := Undecided, false
	for _, k := range counts {
		if !k.Set.Any(orders) {
			continue
		}
		o := c.Orders[dateSepOf(k.Form)]
		if one && o != found {
			return Undecided, false
		}
		found, one = o, true
	}
	return found, one && found != Undecided
}

// Group returns the group marks that the column's numbers have, in one text.
func (c *Convention) Group(counts []Count) string {
	var marks strings.Builder
	if !c.Known {
		return ""
	}
	for _, g := range groupTexts {
		for _, k := range counts {
			if k.Set.Any(numbers) && k.Set.Any(g.bit) && k.Set.Any(c.Mark.number()) && decimalMarks[c.Mark] != g.bit {
				marks.WriteString(g.text)
				break
			}
		}
	}
	return marks.String()
}

type groupText struct {
	bit  Set
	text string
}

var groupTexts = [...]groupText{
	{MarkPoint, "."},
	{MarkComma, ","},
	{MarkSpace, " "},
	{MarkApos, "'"},
	{MarkUnder, "_"},
	{MarkArabic, "٬"},
}

// NeedsDecimalMark reports whether any number of the column depends on the decimal mark.
func NeedsDecimalMark(counts []Count) bool {
	for _, k := range counts {
		if k.Set.Any(numbers) && !neutral(k.Set) {
			return true
		}
	}
	return false
}

// Say returns the convention in a few words, for the ledger.
func (c *Convention) Say(counts []Count) string {
	var parts []string
	if c.Type.Numeric() {
		if NeedsDecimalMark(counts) && c.Known {
			parts = append(parts, fmt.Sprintf("decimal mark %q", c.Mark.String()))
		}
		if g := c.Group(counts); g != "" {
			parts = append(parts, "group mark "+visibleMarks(g))
		}
		if c.Affix != "" {
			parts = append(parts, affixWord(c.AffixKind)+" "+c.Affix)
		}
		if c.EachMark {
			parts = append(parts, "marks: each")
		}
		if c.Zeros {
			parts = append(parts, "zeros dropped")
		}
	}
	if c.Type == value.Date || c.Type == value.Timestamp {
		if o, ok := c.DateOrder(counts); ok {
			parts = append(parts, o.say())
		}
	}
	if c.Type == value.Date || c.Type == value.Timestamp || c.Type == value.Time {
		if codes := c.timeWordTerms(counts); len(codes) > 0 {
			parts = append(parts, "time words: "+strings.Join(codes, " "))
		}
	}
	if c.Type == value.Boolean {
		if words := sayTruth(c.truthWords(counts)); words != "" {
			parts = append(parts, words)
		}
	}
	return strings.Join(parts, ", ")
}

// truthWords lists the truth words that occur.
func (c *Convention) truthWords(counts []Count) (yes, no []string) {
	for _, k := range counts {
		switch {
		case !k.Set.Any(BoolWord) || !c.truthWord(k.Form):
		case c.true(&Reads{Set: k.Set, Form: k.Form}):
			yes = append(yes, wordList[k.Form].text)
		default:
			no = append(no, wordList[k.Form].text)
		}
	}
	slices.Sort(yes)
	slices.Sort(no)
	return slices.Compact(yes), slices.Compact(no)
}

// visibleMarks lists marks in quotes, the space as a word.
func visibleMarks(g string) string {
	var parts []string
	for _, r := range g {
		if r == ' ' {
			parts = append(parts, "space")
		} else {
			parts = append(parts, fmt.Sprintf("%q", string(r)))
		}
	}
	return strings.Join(parts, " and ")
}
