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
// and the way it was written is kept as a form, from which a pattern in the
// letters of UTS #35 can be told.

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

const maxTokens = 24

// tokens takes text apart, false where there are too many tokens for a date.
func (r *Reader) tokens(text []byte) bool {
	r.toks, r.at = r.tokBuf[:0], 0
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

// dateForm is how a date was written, without its order: what a pattern needs.
type dateForm struct {
	sep       byte // between the fields: . / - or a space
	widths    [3]uint8
	weekday   uint8 // 0 none, 1 short, 2 long
	comma     bool  // a comma before the year, as in Mar 4, 2021
	timeSep   uint8 // index in timeSeps
	clock     clockForm
	longMonth bool
}

// The widths of fields that are no digits or not one or two of them.
const (
	widthYear  = 3
	widthMonth = 0 // a name
)

var (
	dateSeps = [...]byte{'.', '/', '-', ' '}
	timeSeps = [...]string{"", "'T'", " ", ", "}
)

// clockForm is how a time of day was written.
type clockForm struct {
	hourDigits uint8
	seconds    bool
	fraction   uint8
	half       uint8 // 0 none, 1 am/pm, 2 with a space before
	zone       uint8 // 0 none, 1 Z, 2 offset with a colon, 3 without
}

func (f dateForm) pack() uint32 {
	var sep uint32
	for i, s := range dateSeps {
		if s == f.sep {
			sep = uint32(i)
		}
	}
	v := sep | uint32(f.widths[0])<<2 | uint32(f.widths[1])<<4 | uint32(f.widths[2])<<6 | uint32(f.weekday)<<8
	v |= bit(f.comma)<<10 | uint32(f.timeSep)<<11 | bit(f.longMonth)<<13
	return v | f.clock.pack()<<14
}

func (c clockForm) pack() uint32 {
	return uint32(c.hourDigits) | bit(c.seconds)<<2 | uint32(c.fraction)<<3 | uint32(c.half)<<7 | uint32(c.zone)<<9
}

func bit(b bool) uint32 {
	if b {
		return 1
	}
	return 0
}

func unpackDate(v uint32) dateForm {
	return dateForm{
		sep: dateSeps[v&3], widths: [3]uint8{uint8(v >> 2 & 3), uint8(v >> 4 & 3), uint8(v >> 6 & 3)},
		weekday: uint8(v >> 8 & 3), comma: v>>10&1 == 1, timeSep: uint8(v >> 11 & 3), longMonth: v>>13&1 == 1,
		clock: unpackClock(v >> 14),
	}
}

func unpackClock(v uint32) clockForm {
	return clockForm{uint8(v & 3), v>>2&1 == 1, uint8(v >> 3 & 15), uint8(v >> 7 & 3), uint8(v >> 9 & 3)}
}

// date reads text (folded) as a date, a date with a time, or a time.
func (r *Reader) date(text []byte, out *Reads) {
	if len(text) > 64 || letter(text[0]) && !mayBeName(text) || !r.tokens(text) {
		return
	}
	if r.clockAlone(out) {
		return
	}
	r.at = 0
	var f dateForm
	s := r.day(&f, out)
	if s == 0 {
		return
	}
	out.Set &^= DateNever // it was another order that has no such day
	if t := r.peek(); t.kind != tokEnd {
		switch {
		case t.kind == tokLetters && len(t.text) == 1 && (t.text[0] == 'T' || t.text[0] == 't') && !t.space:
			f.timeSep, r.at = 1, r.at+1
		case r.accept(','):
			f.timeSep = 3
		case t.space:
			f.timeSep = 2
		default:
			return
		}
		if !r.clock(&f.clock, &out.Moment) || r.peek().kind != tokEnd {
			return
		}
		s |= HasTime
		if out.Moment.HasOffset {
			s |= HasOffset
		}
	}
	if s.Has(DateSure) && !s.Has(ShortYear) && f == isoForm(f) {
		s |= Plain
	}
	out.Set |= s
	out.Form = f.pack()
}

// mayBeName reports whether text that begins with a letter may begin with the name
// of a month or a weekday.
func mayBeName(text []byte) bool {
	return len(text) > 2 && letter(text[1]) && nameStarts[text[0]|0x20]>>((text[1]|0x20)-'a')&1 == 1
}

// isoForm is the canonical way to write what f has in it.
func isoForm(f dateForm) dateForm {
	iso := dateForm{sep: '-', widths: [3]uint8{widthYear, 2, 2}}
	if f.timeSep != 0 {
		iso.timeSep = 1
		iso.clock = clockForm{hourDigits: 2, seconds: true, fraction: f.clock.fraction, zone: f.clock.zone}
		if iso.clock.zone == 3 {
			iso.clock.zone = 2
		}
	}
	return iso
}

// day reads weekday and date and says under which orders there is such a day.
func (r *Reader) day(f *dateForm, out *Reads) Set {
	if t := r.peek(); t.kind == tokLetters {
		if w, ok := r.lookUp(t.text); ok && w.weekday != 0 {
			f.weekday, r.at = w.weekday, r.at+1
			r.accept('.')
			r.accept(',')
		}
	}
	t := r.peek()
	if t.kind == tokLetters {
		return r.monthFirst(f, out)
	}
	if t.kind != tokDigits {
		return 0
	}
	r.at++
	if n := r.peek(); n.kind == tokLetters || n.kind == tokOther && r.lettersAfter() {
		return r.monthSecond(t, f, out)
	}
	return r.numeric(t, f, out)
}

// lettersAfter reports whether the token after the next is a run of letters.
func (r *Reader) lettersAfter() bool {
	return r.at+1 < len(r.toks) && r.toks[r.at+1].kind == tokLetters
}

// numeric reads a date of three numbers, the first of which has been read.
func (r *Reader) numeric(a token, f *dateForm, out *Reads) Set {
	sep := r.peek()
	if sep.kind != tokOther || sep.space || bytes.IndexByte([]byte("./-"), sep.text[0]) < 0 {
		return 0
	}
	f.sep = sep.text[0]
	r.at++
	b := r.peek()
	r.at++
	if b.kind != tokDigits || !r.accept(f.sep) {
		return 0
	}
	c := r.peek()
	r.at++
	if c.kind != tokDigits || len(b.text) > 2 {
		return 0
	}
	f.widths = [3]uint8{width(a), width(b), width(c)}
	if f.widths[0] == widthYear && len(c.text) <= 2 {
		return out.setDay(DateSure, YMD, a, b, c)
	}
	if len(a.text) > 2 {
		return 0
	}
	switch f.widths[2] {
	case widthYear:
		return out.setDay(DateDMY, DMY, c, b, a) | out.setDay(DateMDY, MDY, c, a, b)
	case 2:
		s := out.setDay(DateDMY, DMY, c, b, a) | out.setDay(DateMDY, MDY, c, a, b)
		if len(a.text) == 2 {
			s |= out.setDay(DateYMD, YMD, a, b, c)
		}
		if s != 0 {
			s |= ShortYear
		}
		return s
	}
	return 0
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

// monthFirst reads Mar 4, 2021.
func (r *Reader) monthFirst(f *dateForm, out *Reads) Set {
	month, ok := r.month(f)
	if !ok {
		return 0
	}
	f.sep = ' '
	r.accept('.')
	d := r.peek()
	r.at++
	if d.kind != tokDigits || len(d.text) > 2 {
		return 0
	}
	r.ordinal()
	f.comma = r.accept(',')
	y := r.peek()
	r.at++
	if y.kind != tokDigits || !y.space || width(y) != widthYear {
		return 0
	}
	f.widths = [3]uint8{widthMonth, width(d), width(y)}
	return out.setDay(DateSure, MDY, y, token{value: month}, d)
}

// monthSecond reads 4 Mar 2021, 4-Mar-21, 2021-Mar-04; the first number has been read.
func (r *Reader) monthSecond(a token, f *dateForm, out *Reads) Set {
	f.sep = ' '
	if r.ordinal(); r.peek().kind == tokOther {
		f.sep = r.peek().text[0]
		if f.sep != '-' && f.sep != '.' && f.sep != '/' {
			return 0
		}
		r.at++
	} else if !r.peek().space {
		return 0
	}
	month, ok := r.month(f)
	if !ok {
		return 0
	}
	if f.sep == ' ' || f.sep == '.' {
		r.accept('.')
	} else if !r.accept(f.sep) {
		return 0
	}
	f.comma = r.accept(',')
	c := r.peek()
	r.at++
	if c.kind != tokDigits {
		return 0
	}
	f.widths = [3]uint8{width(a), widthMonth, width(c)}
	switch {
	case len(a.text) <= 2 && f.widths[2] == widthYear:
		return out.setDay(DateSure, DMY, c, token{value: month}, a)
	case len(a.text) <= 2 && len(c.text) == 2:
		return orShort(out.setDay(DateSure, DMY, c, token{value: month}, a))
	case f.widths[0] == widthYear && len(c.text) <= 2:
		return out.setDay(DateSure, YMD, a, token{value: month}, c)
	}
	return 0
}

func orShort(s Set) Set {
	if s != 0 {
		s |= ShortYear
	}
	return s
}

// ordinal steps over st, nd, rd, th right behind a number.
func (r *Reader) ordinal() {
	t := r.peek()
	if t.kind != tokLetters || t.space {
		return
	}
	switch string(t.text) {
	case "st", "nd", "rd", "th":
		r.at++
	}
}

// month reads the name of a month.
func (r *Reader) month(f *dateForm) (int, bool) {
	t := r.peek()
	if t.kind != tokLetters {
		return 0, false
	}
	w, ok := r.lookUp(t.text)
	if !ok || w.month == 0 {
		return 0, false
	}
	r.at++
	f.longMonth = len(t.text) > 4
	return int(w.month), true
}

// setDay notes the day under an order and returns the bit if the calendar has it.
// Years of two digits lie in the window of [ShortYearFrom].
func (x *Reads) setDay(bit Set, o Order, y, m, d token) Set {
	year := y.value
	if len(y.text) <= 2 {
		year = fullYear(year)
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
