package reading

import "unicode/utf8"

// monthWord is the name of a month as it stands in a date.
type monthWord struct {
	*name
	space bool // before it
	ascii bool
}

// weak reports whether the word may be something else than a month: a short one, above all where people write codes
// rather than dates. In English, and apart with the day before it, three letters are enough.
func (m monthWord) weak(codeLike bool) bool {
	return m.short > 0 && (m.short < 3 || !m.in[ofMonths].has(english) && codeLike)
}

// worded reads a date with a month that has a name, or with words between its
// numbers: 4 Mar 2021, Mar 4, 2021, 2021年3月4日.
func (r *Reader) worded(f *dateForm, out *Reads) Set {
	var n [3]token
	var month monthWord
	nums, fields, monthAt, fillers := 0, 0, -1, 0
	wide := false // a word of more than one letter of ASCII
	for fields < 3 {
		t := r.peek()
		switch t.kind {
		case tokEnd:
			return 0
		case tokDigits:
			if len(t.text) == 3 || len(t.text) > 4 {
				return 0
			}
			n[nums] = t
			f.widths[fields] = width(t)
			nums++
			fields++
			r.at++
			r.ordinal()
		case tokOther:
			if !r.between(f, fields) {
				return 0
			}
		case tokLetters:
			w, ok := r.dateName()
			switch {
			case !ok:
				return 0
			case w.month != 0 && monthAt < 0:
				month, monthAt = monthWord{w, t.space, letter(t.text[0])}, fields
				f.widths[fields], f.longMonth = widthMonth, len(t.text) > 4
				fields++
			case w.month != 0 && monthAt == 0 && month.weekdays != 0: // the first one was the weekday
				if f.weekday = 1; month.roles == 0 {
					f.days = month.weekdays
				}
				month = monthWord{w, t.space, letter(t.text[0])}
				f.longMonth = len(t.text) > 4
				if fields == 2 {
					f.widths[0], monthAt = f.widths[1], 1
					f.widths[1] = widthMonth
				}
			case w.roles&(inside|leads) != 0, w.roles&era != 0 && fields > 1:
				if !f.words.meet(w.in[ofOthers].or(w.in[ofWeekdays])) {
					return 0
				}
				fillers++
				wide = wide || len(t.text) > 1
			case w.weekdays != 0 && f.weekday == 0:
				f.weekdayIs(w, t)
			default:
				return 0
			}
		}
	}
	f.odd = f.odd || fillers > 0
	r.valued = r.valued || monthAt >= 0 || mayBeDay(n)
	var s Set
	if monthAt < 0 {
		f.weak = false
		if fillers == 0 || !wide || f.sep != 0 {
			return 0
		}
		f.sep = ' '
		s = threeNumbers([3]field{n[0].field(), n[1].field(), n[2].field()}, out)
	} else {
		s = r.withMonth(month, monthAt, n, f, out)
	}
	if s != 0 {
		r.trailing(f)
	}
	return s
}

// between steps over a character between the fields of a date with words.
func (r *Reader) between(f *dateForm, fields int) bool {
	t := r.peek()
	switch t.text[0] {
	case ',':
		f.comma = f.comma || fields == 2
		f.odd = f.odd || fields == 1
	case '.', '-', '/':
		// AG 3/2021 is a way to write a date in few languages, and a way to write a code in all.
		f.weak = f.weak || fields == 2 && f.sep != t.text[0] && !t.space && t.text[0] != '.'
		f.pointed = f.pointed || t.text[0] == '.' && fields == 1 && !t.space
		if fields == 1 && f.sep == 0 && (r.at+1 == len(r.toks) || !r.toks[r.at+1].space) && !t.space {
			f.sep = t.text[0]
		}
	case '(', ')', '\'':
		f.odd = true
	default:
		return false
	}
	r.at++
	return true
}

// withMonth says whether a month with a name and two numbers are a day. The year has
// four digits, but in 4 Mar 21 it may have two.
func (r *Reader) withMonth(month monthWord, at int, n [3]token, f *dateForm, out *Reads) Set {
	if f.sep == 0 || at == 0 {
		f.sep = ' '
	}
	day, year, short, yearFirst := n[0], n[1], false, false
	if joined := at == 1 && !month.space && f.sep == ' '; joined && (len(day.text) != 2 || width(year) != widthYear) &&
		month.ascii {
		return 0 // 1MAR21 may be a code, 04MAR2021 is none
	}
	switch {
	case at == 0 && width(year) == widthYear && width(day) != widthYear:
	case at == 1 && width(day) != widthYear && len(year.text) == 2:
		short = true
	case at == 1 && width(day) != widthYear && width(year) == widthYear:
	case at >= 1 && width(day) == widthYear && width(year) != widthYear:
		day, year, yearFirst = year, day, true
		f.odd = f.odd || at == 2
	default:
		return 0
	}
	if len(day.text) > 2 || !f.words.meet(month.in[ofMonths]) {
		return 0
	}
	f.month, f.weak = month.id, month.weak(f.weak || at == 0 || at == 1 && f.sep == ' ' && (short && !f.pointed || !month.space))
	o := [...]Order{MDY, DMY, YMD}[min(at, 2)]
	r.said.worded = wordedDay{month: int(month.month), order: o, bits: month.bits, short: short, yearFirst: yearFirst}
	s := out.setDay(DateSure, o, year.field(), field{value: int(month.month)}, day.field())
	if month.croatian != 0 {
		s = out.openMonth(s, o, year, day, month)
	}
	if s != 0 {
		s |= month.bits
	}
	if short {
		s = orShort(s)
	}
	return s
}

// openMonth is withMonth for a name that is one month in Czech and Polish, where s tells
// whether there is such a day, and another in Croatian.
func (x *Reads) openMonth(s Set, o Order, year, day token, month monthWord) Set {
	west := x.Days[DMY]
	croatian := x.setDay(DateSure, o, year.field(), field{value: int(month.croatian)}, day.field())
	if s|croatian == 0 {
		return 0
	}
	x.Days[croatianSlot] = x.Days[DMY]
	x.Days[westSlot] = west
	switch {
	case s == 0:
		return MonthOpen | NeverWest
	case croatian == 0:
		return MonthOpen | NeverCroatian
	}
	return MonthOpen
}

// dateName is name for the words of a date. One plain letter is the narrow name of several
// months and weekdays, and a part of a code far more often: it is only a word that does not begin
// the cell and, in plain letters, has a mark after it, as in 4 d'abril, 4 maja 2021 r., 2021(e)ko.
func (r *Reader) dateName() (*name, bool) {
	at := r.at
	w, ok := r.name()
	if !ok || r.at != at+1 {
		return w, ok
	}
	if !isLetter(r.toks[at].text) {
		return w, ok
	}
	c, _ := utf8.DecodeRune(r.toks[at].text)
	if at == 0 || w.roles&inside == 0 || c < utf8.RuneSelf && !r.toks[at].space && r.toks[at-1].kind == tokDigits {
		r.at = at
		return w, false
	}
	next := r.peek()
	if c < utf8.RuneSelf && (next.kind != tokOther || next.text[0] != '.' && next.text[0] != '\'' && next.text[0] != ')') {
		r.at = at
		return w, false
	}
	return w, true
}

// isLetter reports whether a word is one letter of a script whose letters are single sounds.
func isLetter(word []byte) bool {
	c, size := utf8.DecodeRune(word)
	return size == len(word) && c < firstSyllable
}

// firstSyllable lies beyond the scripts whose letters are single sounds, in which no word of a
// date is one letter without a mark: Latin, Greek, Cyrillic, Armenian.
const firstSyllable = 0x590

// trailing steps over the words and marks that may stand after a date: a weekday,
// the word for year, a full stop.
func (r *Reader) trailing(f *dateForm) {
	for {
		t := r.peek()
		switch {
		case t.kind == tokOther && (t.text[0] == '.' && !t.space || t.text[0] == ')'):
			r.at++
			f.odd = true
		case t.kind == tokOther && (t.text[0] == ',' || t.text[0] == '(' || t.text[0] == '-') && r.lettersAfter():
			at := r.at
			r.at++
			if !r.wordBehind(f) {
				r.at = at
				return
			}
		case t.kind == tokLetters && !(len(t.text) == 1 && (t.text[0]|0x20 == 't' || t.text[0]|0x20 == 'z') && !t.space):
			if at := r.at; !r.wordBehind(f) {
				r.at = at
				return
			}
		default:
			return
		}
	}
}

// wordBehind steps over a word after a date: a weekday, an era, a word for year.
func (r *Reader) wordBehind(f *dateForm) bool {
	t := r.peek()
	w, ok := r.dateName()
	switch {
	case !ok || w.roles&joins != 0 && r.peek().kind == tokDigits:
		return false
	case w.roles&otherEra != 0:
		r.reads.Set |= DateOther
		return false
	case w.roles&ofYear != 0 || (w.roles&era != 0 || w.roles&inside != 0 && !f.hasPeriod(w)) && (f.month != 0 || w.short == 0):
		if !f.words.meet(w.in[ofOthers]) {
			return false
		}
	case w.weekdays != 0:
		f.weekdayIs(w, t)
	default:
		return false
	}
	f.odd = true
	return true
}

// hasPeriod reports whether a word is a part of the day in the languages of the words so far.
func (f *dateForm) hasPeriod(w *name) bool {
	return w.hours != 0 && (!f.words.words || !w.in[ofPeriods].and(f.words.in).empty())
}

// lettersAfter reports whether the token after the next is a run of letters.
func (r *Reader) lettersAfter() bool {
	return r.at+1 < len(r.toks) && r.toks[r.at+1].kind == tokLetters
}

// ordinal steps over st, nd, rd, th and the like right after a number.
func (r *Reader) ordinal() {
	t := r.peek()
	if t.kind != tokLetters || t.space {
		return
	}
	switch string(t.text) {
	case "st", "nd", "rd", "th", "er", "º", "ª":
		r.at++
	}
}
