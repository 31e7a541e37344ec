package reading

import (
	"fmt"
	"strconv"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"

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
		c.Known, c.MonthsKnown, c.Offsets = true, true, x.Set.Any(HasOffset)
		c.Pairs = pairSet{^uint64(0), ^uint64(0)}
		if x.Set.Any(affixes) {
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
		for _, o := range x.Set.Orders() {
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

// maxShapeRun is how many like characters a shape repeats.
const maxShapeRun = 8

// Shape returns a text with each digit shown as 9, each upper-case letter as A, each
// other letter as a. A run of more than eight letters is cut to that and an ellipsis; one of
// more than eight digits keeps its length, as in 9{13}.
func Shape(text string) string { return string(AppendShape(nil, []byte(text))) }

// AppendShape appends the shape of a text.
func AppendShape(dst, text []byte) []byte {
	last, run := rune(0), 0
	for len(text) > 0 {
		r, size := rune(text[0]), 1
		class := rune(0)
		switch c := classes[r]; {
		case r >= utf8.RuneSelf:
			r, size = utf8.DecodeRune(text)
			class = shapeClass(r)
			if class == 0 && (last == 'a' || last == 'A') && unicode.IsMark(r) {
				text = text[size:] // belongs to the letter
				continue
			}
		case c&cDigit != 0:
			class = '9'
		case c&cUpper != 0:
			class = 'A'
		case c&cLower != 0:
			class = 'a'
		}
		text = text[size:]
		if class != last {
			dst = foldDigits(dst, last, run)
			last, run = class, 0
		}
		if class == 0 {
			dst = utf8.AppendRune(dst, r)
			continue
		}
		switch run++; {
		case run <= maxShapeRun:
			dst = append(dst, byte(class))
		case run == maxShapeRun+1 && class != '9':
			dst = append(dst, "…"...)
		}
	}
	return foldDigits(dst, last, run)
}

// foldDigits puts the length of a long run of digits in place of what stands at the end for it.
func foldDigits(dst []byte, class rune, run int) []byte {
	if class != '9' || run <= maxShapeRun {
		return dst
	}
	dst = append(dst[:len(dst)-maxShapeRun], "9{"...)
	return append(strconv.AppendInt(dst, int64(run), 10), '}')
}

// shapeClass is what a character that is not of ASCII is shown as, 0 for itself.
func shapeClass(r rune) rune {
	switch {
	case unicode.IsDigit(r):
		return '9'
	case unicode.IsUpper(r):
		return 'A'
	case unicode.IsLetter(r):
		return 'a'
	}
	return 0
}

// Characters returns how many characters as people see them a text has.
func Characters(text string) int { return uniseg.GraphemeClusterCount(text) }
