package reading

import (
	"bytes"

	"junvo/internal/value"
)

// A date is read from tokens: runs of digits, runs of letters, single other
// characters. The tokens are matched against the few orders that people use:
//
//	[weekday] 4.3.2021 | 2021-03-04 | 4 Mar 2021 | Mar 4, 2021 [T or space, time] [zone]
//
// with names of months and weekdays in the languages of the CLDR and the words that
// they put beside them, and the time may stand before the date. The way it was written
// is kept as a form, from which a pattern in the letters of UTS #35 can be told.

type tokenKind uint8

const (
	tokEnd tokenKind = iota
	tokDigits
	tokLetters
	tokOther
)

type token struct {
	kind  tokenKind
	text  []byte
	value int  // of digits, up to nine of them
	space bool // a space stands before it
}

// field is a number in a date, and how many digits it is written with.
type field struct{ value, digits int }

func (t token) field() field { return field{t.value, len(t.text)} }

const maxTokens = 24

// tokens takes text apart, false where there are too many tokens for a date.
func (r *Reader) tokens(text []byte) bool {
	r.toks, r.at, r.source, r.cut = r.tokBuf[:0], 0, text, false
	space := false
	for i := 0; i < len(text); {
		c := classes[text[i]]
		if c == cSpace {
			space, i = true, i+1
			continue
		}
		if len(r.toks) == maxTokens {
			return false
		}
		t := token{kind: tokOther, space: space}
		j := i + 1
		switch {
		case c&cDigit != 0:
			t.kind, t.value = tokDigits, int(text[i]-'0')
			for ; j < len(text) && classes[text[j]]&cDigit != 0; j++ {
				if j-i >= 9 {
					return false
				}
				t.value = t.value*10 + int(text[j]-'0')
			}
		case c&(cLower|cUpper|cHigh) != 0:
			t.kind = tokLetters
			for j < len(text) && classes[text[j]]&(cLower|cUpper|cHigh) != 0 {
				j++
			}
		}
		t.text = text[i:j]
		r.toks = append(r.toks, t)
		space, i = false, j
	}
	return true
}

// rewind goes back to a token, and undoes what reading names has cut off tokens.
func (r *Reader) rewind(at int) {
	if r.cut {
		r.tokens(r.source)
	}
	r.at = at
}

func (r *Reader) peek() token {
	if r.at < len(r.toks) {
		return r.toks[r.at]
	}
	return token{}
}

// accept steps over a token that is this one character.
func (r *Reader) accept(b byte) bool {
	if t := r.peek(); t.kind == tokOther && t.text[0] == b {
		r.at++
		return true
	}
	return false
}

// date reads text (folded) that may be one as a date, a date with a time, or a time.
func (r *Reader) date(text []byte, out *Reads) {
	if text[0] == '\'' { // a spreadsheet's mark for text
		r.dateOrClock(text[1:], out)
		out.Set &^= Plain
		return
	}
	r.dateOrClock(text, out)
}

func (r *Reader) dateOrClock(text []byte, out *Reads) {
	if !r.tokens(text) || !r.begins() {
		return
	}
	var f dateForm
	s := Set(0)
	alone := false
	if r.clock(&f.clock, &out.Moment, false) {
		if alone = r.peek().kind == tokEnd; alone {
			r.clockAlone(&f.clock, out)
			if !f.clock.dots || f.clock.half != 0 {
				return
			}
		} else if r.accept(','); !out.Moment.HasOffset {
			s = r.day(&f, out)
			f.odd, f.timeSep = true, 2
			if s != 0 && f.clock.vocabulary.words && !f.words.meet(f.clock.vocabulary.in) {
				s = 0
			}
		}
	}
	if s == 0 || r.peek().kind != tokEnd {
		clock := out.Moment
		r.rewind(0)
		f, out.Moment = dateForm{}, value.Moment{}
		if s = r.day(&f, out); s == 0 || !r.timeBehind(&f, out) {
			out.Moment = clock
			return
		}
		if alone { // 18.05.09 may be a date, or a time of day
			out.Moment = clock
		}
	}
	out.Set &^= DateNever | DateOther | ZoneUnknown | WeekdayOther // it was another order that has no such day
	if f.timeSep != 0 {
		s |= HasTime
		if out.Moment.HasOffset {
			s |= HasOffset
		}
	}
	f.far = out.far(s)
	if s.Has(DateSure) && !s.Has(ShortYear) && f == isoForm(f) && r.canonical(s, text, out) {
		s |= Plain
	}
	out.Set |= s
	out.Form = f.pack()
}

// The years that most tables have.
const FirstNearYear, LastNearYear = 1600, 2200

// far reports whether a date is of a year that few tables have: 1021 among 2016 to 2022 is a mistake.
func (x *Reads) far(s Set) bool {
	slots := s.Slots()
	if len(slots) == 0 {
		return false
	}
	year := x.Days[slots[0]].Year()
	return year < FirstNearYear || year > LastNearYear
}

// IsFar reports whether cells of a set and form are dates of a year that few tables have.
func IsFar(s Set, form uint64) bool { return s.Any(dates) && form&farYear != 0 }

// begins reports whether the text may begin as a date or a time do: with three numbers, or fewer of them before a name,
// the end of an ordinal or what stands for a zone. Where it does not, nothing about a date can be said of it.
func (r *Reader) begins() bool {
	numbers := 0
	for i := range r.toks {
		switch t := &r.toks[i]; t.kind {
		case tokDigits:
			if numbers++; numbers > 2 {
				return true
			}
		case tokLetters:
			r.at = i
			w, ok := r.name()
			if ok && r.at == i+1 && isLetter(t.text) {
				ok = w.roles != 0 || w.hours != 0 // see dateName
			}
			r.rewind(0)
			return ok || besideDate(t.text)
		}
	}
	return true
}

// besideDate reports whether letters may stand in a date though they are no name.
func besideDate(letters []byte) bool {
	switch string(letters) {
	case "T", "t", "Z", "z", "W", "UTC", "GMT", "st", "nd", "rd", "th", "er", "º", "ª":
		return true
	}
	return false
}

// canonical reports whether text is the canonical text of the day or moment that it was read as.
func (r *Reader) canonical(s Set, text []byte, out *Reads) bool {
	m := out.Moment
	m.Day = out.Days[DMY]
	if r.lower = m.Day.Append(r.lower[:0]); s.Has(HasTime) {
		r.lower = m.Append(r.lower[:0])
	}
	return bytes.Equal(r.lower, text)
}

// maxDate is the longest date in bytes: some languages take 60 characters of 3 bytes.
const maxDate = 192

// timeBehind reads the time after a date, if there is one, and reports whether the
// text ends there.
func (r *Reader) timeBehind(f *dateForm, out *Reads) bool {
	t := r.peek()
	if t.kind == tokEnd {
		return true
	}
	inBrackets := false
	switch {
	case t.kind == tokLetters && len(t.text) == 1 && t.text[0]|0x20 == 't' && !t.space && r.digitsAfter():
		f.timeSep, r.at = 1, r.at+1
	case r.accept(','):
		f.timeSep = 3
	case t.space:
		f.timeSep = 2
		if r.spaceAfter() && r.accept('-') {
			break // right before the digits it would be a minus
		}
		inBrackets = r.accept('(')
	case r.accept('/'), r.accept(':'):
		f.timeSep, f.odd = 2, true
	default:
		f.timeSep, f.odd = 2, true
	}
	if !r.clock(&f.clock, &out.Moment, true) {
		return false
	}
	if inBrackets && !r.accept(')') || f.clock.vocabulary.words && !f.words.meet(f.clock.vocabulary.in) {
		return false
	}
	f.odd = f.odd || f.clock.words || f.clock.dots || inBrackets
	if t := r.peek(); t.kind == tokLetters && r.at+1 == len(r.toks) && len(t.text) <= 5 || t.kind == tokOther &&
		t.text[0] == '[' {
		out.Set |= ZoneUnknown
	}
	return r.peek().kind == tokEnd
}

// spaceAfter reports whether a space stands after the token.
func (r *Reader) spaceAfter() bool { return r.at+1 < len(r.toks) && r.toks[r.at+1].space }

// digitsAfter reports whether the token after the next is a run of digits.
func (r *Reader) digitsAfter() bool {
	return r.at+1 < len(r.toks) && r.toks[r.at+1].kind == tokDigits
}

// day reads a date and says under which orders there is such a day.
func (r *Reader) day(f *dateForm, out *Reads) Set {
	start := r.at
	if s := r.isoDay(out); s != 0 {
		f.odd = true
		return s
	}
	r.at = start
	leading := false
	for r.peek().kind == tokLetters { // a weekday before numbers
		at, t := r.at, r.peek()
		w, ok := r.dateName()
		switch {
		case ok && w.weekdays != 0:
			f.weekdayIs(w, t)
		case ok && w.roles&(leads|joins) != 0 && f.words.meet(w.in[ofOthers]):
			leading = leading || w.short > 0 && w.short < maxShortName || isASCII(t.text)
			f.odd = true
		default:
			ok = false
		}
		if !ok {
			r.at = at
			break
		}
		r.accept('.')
		r.accept(',')
	}
	if s := r.numeric(f, out); s != 0 && !leading { // numbers say nothing of what a word before them may be
		return f.onWeekday(s, out)
	}
	r.rewind(start)
	*f = dateForm{clock: f.clock}
	return f.onWeekday(r.worded(f, out), out)
}

// numeric reads a date of three numbers with the same separator between them.
func (r *Reader) numeric(f *dateForm, out *Reads) Set {
	var n [3]token
	for i := range n {
		if i > 0 {
			sep := r.peek()
			switch {
			case sep.kind == tokDigits && sep.space && (i == 1 || f.sep == ' '):
				f.sep = ' '
			case sep.kind != tokOther || sep.space || bytes.IndexByte([]byte("./-"), sep.text[0]) < 0 || i == 2 &&
				sep.text[0] != f.sep:
				return 0
			default:
				f.sep = sep.text[0]
				r.at++
			}
		}
		n[i] = r.peek()
		if n[i].kind != tokDigits || i > 0 && n[i].space && f.sep != '.' && f.sep != ' ' {
			return 0
		}
		r.at++
	}
	if f.sep == ' ' && len(n[0].text) < 4 && len(n[2].text) < 4 {
		return 0 // three short numbers are no date
	}
	if f.sep == '.' && n[1].space != n[2].space {
		return 0
	}
	r.valued = r.valued || mayBeDay(n)
	f.widths = [3]uint8{width(n[0]), width(n[1]), width(n[2])}
	s := threeNumbers([3]field{n[0].field(), n[1].field(), n[2].field()}, out)
	if s != 0 {
		r.trailing(f)
	}
	return s
}

// threeNumbers says under which orders three numbers are a day.
func threeNumbers(n [3]field, out *Reads) Set {
	a, b, c := n[0], n[1], n[2]
	if b.digits > 2 {
		return 0
	}
	if a.digits == 4 && c.digits <= 2 {
		return out.setDay(DateSure, YMD, a, b, c)
	}
	if a.digits > 2 {
		return 0
	}
	switch c.digits {
	case 4:
		return out.sameDay(out.setDay(DateDMY, DMY, c, b, a) | out.setDay(DateMDY, MDY, c, a, b))
	case 1, 2:
		s := Set(0)
		if c.digits == 2 {
			s = out.setDay(DateDMY, DMY, c, b, a) | out.setDay(DateMDY, MDY, c, a, b)
		}
		if a.digits == 2 {
			s |= out.setDay(DateYMD, YMD, a, b, c)
		}
		if s == DateYMD && (likeDay(a, b) || likeDay(b, a)) {
			// 30.02.21 is more likely a day that there never was than one of the year 2030, so
			// that it is no evidence for the order of the others.
			s |= DateNever
		}
		return orShort(out.sameDay(s))
	}
	return 0
}

// mayBeDay reports whether three numbers have as many digits as those of a day have: of others threeNumbers says that
// they are none, whatever the digits are.
func mayBeDay(n [3]token) bool {
	a, c := width(n[0]), width(n[2])
	switch {
	case len(n[1].text) > 2:
		return false
	case a == widthYear:
		return len(n[2].text) <= 2
	case len(n[0].text) > 2:
		return false
	}
	return c == widthYear || c == 2 || c == 1 && a == 2
}

// likeDay reports whether two numbers look like a day and a month.
func likeDay(day, month field) bool {
	return day.value >= 1 && day.value <= 31 && month.value >= 1 && month.value <= 12
}

// sameDay makes a date sure whose day is the same under both orders of day and month: 03/03/2021.
func (x *Reads) sameDay(s Set) Set {
	if !s.Has(DateDMY|DateMDY) || x.Days[DMY] != x.Days[MDY] || s.Any(DateYMD) && x.Days[YMD] != x.Days[DMY] {
		return s
	}
	x.Days[YMD] = x.Days[DMY]
	return s&^orders | DateSure
}

// width returns the width of a field of digits; years have four.
func width(t token) uint8 {
	switch len(t.text) {
	case 1, 2:
		return uint8(len(t.text))
	case 4:
		return widthYear
	}
	return 0
}

func orShort(s Set) Set {
	if s != 0 {
		s |= ShortYear
	}
	return s
}

// setDay notes the day under an order and returns the bit if the calendar has it.
// Years of two digits lie in the window of [ShortYearFrom].
func (x *Reads) setDay(bit Set, o Order, y, m, d field) Set {
	year := y.value
	if y.digits <= 2 {
		year = fullYear(year)
	} else if otherCalendar(year) {
		x.Set |= DateOther
		return 0
	}
	day, ok := value.NewDay(year, m.value, d.value)
	if !ok {
		x.Set |= DateNever
		return 0
	}
	if bit == DateSure {
		x.Days = [numOrders]value.Day{day, day, day}
	} else {
		x.Days[o] = day
	}
	return bit
}

// ShortYearFrom is the first year of the hundred that years of two digits stand for.
const ShortYearFrom = 1950

func fullYear(short int) int {
	y := ShortYearFrom/100*100 + short
	if y < ShortYearFrom {
		y += 100
	}
	return y
}

// otherCalendar reports whether a year is likely one of another calendar: 1443 of the
// Hijra, 1400 of the Iranian, 2564 of the Buddhist, 5781 of the Jewish calendar. As years of
// the Gregorian calendar they would be a wrong value. 9999 stands for never in many tables.
func otherCalendar(year int) bool {
	return year >= 1300 && year < 1500 || year >= 2400 && year < 9999
}
