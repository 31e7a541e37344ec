package reading

import (
	"bytes"

	"junvo/internal/value"
)

// clockAlone notes a time of day that is all there is.
func (r *Reader) clockAlone(f *clockForm, out *Reads) {
	if out.Moment.HasOffset {
		return
	}
	out.Set |= ClockOnly
	if r.lower = out.Moment.Clock.Append(r.lower[:0]); bytes.Equal(r.lower, r.source) {
		out.Set |= Plain
	}
	out.Form = f.pack()
}

// clock reads a time of day: 6:05, 06:05:00, 06:05:00.250, 6:05 pm, 18 h 05, and a
// zone after it. With a point, as in 18.05, it is a time only after a date, or where
// seconds or words show it.
func (r *Reader) clock(f *clockForm, m *value.Moment, behindDate bool) bool {
	hours := r.period(f, true, behindDate)
	h := r.peek()
	r.at++
	if h.kind != tokDigits || len(h.text) > 2 {
		return false
	}
	if !r.clockSep(f) {
		return r.hourAlone(h, hours, f, m, behindDate)
	}
	minute := r.peek()
	r.at++
	if minute.kind != tokDigits || len(minute.text) > 2 || len(minute.text) == 1 && f.sep != ':' {
		return false
	}
	f.hourDigits = uint8(len(h.text))
	r.valued = true
	var second, nanos int
	if at := r.at; r.clockSep(f) && r.peek().kind == tokDigits &&
		(len(r.peek().text) == 2 || len(r.peek().text) == 1 && f.sep == ':') {
		f.words = f.words || len(minute.text) == 1 || len(r.peek().text) == 1
		second, f.seconds = r.peek().value, true
		r.at++
		if n, digits, ok := r.fraction(); ok {
			nanos, f.fraction = n, digits
		}
	} else if r.at = at; f.sep == ':' && r.accept(':') || len(minute.text) == 1 {
		return false
	}
	if hours == 0 {
		hours = r.period(f, false, behindDate)
	} else {
		r.period(f, false, behindDate)
	}
	if f.dots && !behindDate && !f.seconds && !f.words && hours == 0 {
		return false
	}
	hour, ok := f.hour(h.value, hours)
	if !ok || !r.zone(f, m) {
		return false
	}
	r.said.hours = hours
	m.Clock, ok = value.NewClock(hour, minute.value, second, nanos, f.fraction)
	return ok
}

// hourAlone reads an hour with a part of the day: 6 pm. That may be a number of something, unless a date stands before it.
func (r *Reader) hourAlone(h token, hours uint32, f *clockForm, m *value.Moment, behindDate bool) bool {
	if hours == 0 {
		hours = r.period(f, false, behindDate)
	}
	if p := nameAt(f.period); p == nil || p.short > 0 && !p.universal() {
		return false
	}
	f.weak = !behindDate
	r.valued = true
	hour, ok := f.hour(h.value, hours)
	if !ok {
		return false
	}
	f.hourDigits, f.words = uint8(len(h.text)), true
	m.Clock, ok = value.NewClock(hour, 0, 0, 0, 0)
	return ok
}

// clockSep steps over what stands between hours, minutes and seconds.
func (r *Reader) clockSep(f *clockForm) bool {
	t := r.peek()
	switch {
	case t.kind == tokOther && !t.space && (t.text[0] == ':' || t.text[0] == '.') && (f.sep == 0 || f.sep == t.text[0]):
		f.sep = t.text[0]
		f.dots = t.text[0] == '.'
		r.at++
		return true
	case t.kind == tokLetters && (f.sep == 0 || f.sep == 'h'):
		at := r.at
		if w, ok := r.name(); ok && w.roles&clocks != 0 && (f.sep != 0 || w.roles&ofHour != 0 || !w.latin || w.wide) && f.vocabulary.meet(w.in[ofOthers]) {
			f.words, f.sep = true, 'h'
			return true
		}
		r.at = at
	}
	return false
}

// period steps over the words beside a time of day and returns the hours that a part
// of the day among them may mean, as bits. A word that may be the
// letter for hours or seconds is taken for that where it stands before the hour or
// where such letters stand in the time.
func (r *Reader) period(f *clockForm, before, behindDate bool) (hours uint32) {
	for {
		t := r.peek()
		if t.kind != tokLetters || string(t.text) == "Z" || string(t.text) == "z" {
			return hours
		}
		at := r.at
		w, ok := r.name()
		switch {
		case ok && before && w.roles&joins != 0 && (behindDate || w.joinsAlone() && (!w.alphabetic || r.apart())):
			ok = f.vocabulary.meet(w.in[ofOthers])
			f.words = true
		case !ok || before && !behindDate && w.alphabetic && (w.short == 1 || !r.apart()):
			ok = false // B07:30 is a code
		case w.hours != 0 && hours == 0 && !(w.roles&clocks != 0 && (before || f.sep == 'h')):
			hours = w.hours
			f.period, f.weak = w.id, w.short > 0 && w.short < maxShortName && !w.universal()
			f.half = 1 + uint8(bit(t.space))
			f.words = f.words || hours != amHours && hours != pmHours || at == 0
			ok = w.universal() || f.vocabulary.meet(w.in[ofPeriods])
		default:
			ok = (w.roles&beforeTime != 0 && before || w.roles&clocks != 0 && !before || w.roles&joins != 0 && (behindDate || w.joinsAlone())) &&
				f.vocabulary.meet(w.in[ofOthers])
			f.words = f.words || ok
		}
		if !ok {
			r.at = at
			return hours
		}
		r.accept('.')
		if hours != 0 && r.lettersAfter() {
			r.accept('-')
		}
	}
}

// apart reports whether a space or a point stands before the next token.
func (r *Reader) apart() bool {
	t := r.peek()
	return t.space || t.kind == tokOther && t.text[0] == '.'
}

// hour returns the hour of the day that an hour is, and whether a clock has it: one of twelve hours has neither 0 PM nor
// 14 PM.
func (f *clockForm) hour(h int, hours uint32) (int, bool) {
	f.late = hours == 0 && (h == 0 || h > 12)
	if h == 0 && hours == pmHours {
		if p := nameAt(f.period); p != nil && p.short > 0 {
			return h, false
		}
	}
	return hourIn(h, hours)
}

// hourIn returns the hour of the day that an hour beside a part of the day is: the
// one among the hours that the part may mean. 12 am is midnight, 12 pm is noon.
func hourIn(h int, hours uint32) (int, bool) {
	if hours == 0 {
		return h, true
	}
	if h > 12 {
		return h, false
	}
	early, late := h%12, h%12+12
	a, b := hours>>early&1 == 1, hours>>late&1 == 1
	if a {
		return early, !b
	}
	return late, b
}

// fraction reads up to nine digits after a point or a comma.
func (r *Reader) fraction() (nanos int, digits uint8, ok bool) {
	if r.at+1 >= len(r.toks) {
		return 0, 0, false
	}
	mark, n := r.toks[r.at], r.toks[r.at+1]
	if mark.kind != tokOther || mark.text[0] != '.' && mark.text[0] != ',' || n.kind != tokDigits || n.space {
		return 0, 0, false
	}
	r.at += 2
	nanos = n.value
	for range 9 - len(n.text) {
		nanos *= 10
	}
	return nanos, uint8(len(n.text)), true
}

// zone reads Z, UTC, GMT, +02:00, +0200 or +02 (RFC 3339, ISO 8601).
func (r *Reader) zone(f *clockForm, m *value.Moment) bool {
	t := r.peek()
	if t.kind == tokLetters {
		switch string(t.text) {
		case "Z", "z", "UTC", "GMT":
			r.at++
			f.zone, m.HasOffset, m.Offset = 1, true, 0
		}
		return true // whoever asked for the time sees what follows
	}
	if t.kind != tokOther || t.text[0] != '+' && t.text[0] != '-' {
		return true
	}
	r.at++
	h := r.peek()
	r.at++
	minutes := 0
	switch {
	case h.kind != tokDigits:
		return false
	case len(h.text) == 4:
		minutes, f.zone = h.value/100*60+h.value%100, 3
		if h.value%100 > 59 {
			return false
		}
	case len(h.text) == 2:
		minutes, f.zone = h.value*60, 2
		if r.accept(':') {
			n := r.peek()
			r.at++
			if n.kind != tokDigits || len(n.text) != 2 || n.value > 59 {
				return false
			}
			minutes += n.value
		}
	default:
		return false
	}
	if minutes > 18*60 {
		return false
	}
	if t.text[0] == '-' {
		minutes = -minutes
	}
	m.HasOffset, m.Offset = true, int16(minutes)
	return true
}
