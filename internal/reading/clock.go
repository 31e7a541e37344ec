package reading

import "junvo/internal/value"

// clockAlone reads the tokens as a time of day and nothing else.
func (r *Reader) clockAlone(out *Reads) bool {
	var f clockForm
	var m value.Moment
	if !r.clock(&f, &m) || r.peek().kind != tokEnd || m.HasOffset {
		return false
	}
	out.Set |= ClockOnly
	if f.half == 0 && f.hourDigits == 2 && f.seconds {
		out.Set |= Plain
	}
	out.Form = f.pack()
	out.Moment.Clock = m.Clock
	return true
}

// clock reads a time of day: 6:05, 06:05:00, 06:05:00.250, 6:05 pm, and a zone behind it.
func (r *Reader) clock(f *clockForm, m *value.Moment) bool {
	h := r.peek()
	r.at++
	if h.kind != tokDigits || len(h.text) > 2 || !r.accept(':') {
		return false
	}
	minute := r.peek()
	r.at++
	if minute.kind != tokDigits || len(minute.text) != 2 {
		return false
	}
	f.hourDigits = uint8(len(h.text))
	var second, nanos int
	if r.accept(':') {
		s := r.peek()
		r.at++
		if s.kind != tokDigits || len(s.text) != 2 {
			return false
		}
		second, f.seconds = s.value, true
		if n, digits, ok := r.fraction(); ok {
			nanos, f.fraction = n, digits
		}
	}
	hour, ok := r.half(f, h.value)
	if !ok || !r.zone(f, m) {
		return false
	}
	m.Clock, ok = value.NewClock(hour, minute.value, second, nanos, f.fraction)
	return ok
}

// fraction reads up to nine digits behind a point or a comma.
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

// half reads am or pm: 12 am is midnight, 12 pm is noon.
func (r *Reader) half(f *clockForm, hour int) (int, bool) {
	t := r.peek()
	if t.kind != tokLetters || len(t.text) > 2 {
		return hour, true
	}
	first := t.text[0] | 0x20
	if first != 'a' && first != 'p' {
		return hour, true
	}
	r.at++
	if len(t.text) == 2 && t.text[1]|0x20 != 'm' {
		return 0, false
	}
	if len(t.text) == 1 && (!r.accept('.') || !r.acceptLetter('m') || !r.accept('.')) {
		return 0, false
	}
	f.half = 1
	if t.space {
		f.half = 2
	}
	if hour < 1 || hour > 12 {
		return 0, false
	}
	return hour%12 + 12*int(bit(first == 'p')), true
}

func (r *Reader) acceptLetter(b byte) bool {
	if t := r.peek(); t.kind == tokLetters && len(t.text) == 1 && t.text[0]|0x20 == b {
		r.at++
		return true
	}
	return false
}

// zone reads Z, UTC, GMT, +02:00, +0200 or +02 (RFC 3339, ISO 8601).
func (r *Reader) zone(f *clockForm, m *value.Moment) bool {
	t := r.peek()
	if t.kind == tokLetters {
		switch string(t.text) {
		case "Z", "z", "UTC", "GMT":
			r.at++
			f.zone, m.HasOffset, m.Offset = 1, true, 0
			return true
		}
		return false
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
