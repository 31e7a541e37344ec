package reading

import (
	"encoding/binary"
	"math/bits"

	"junvo/internal/value"
)

// What a cell can be read as depends on its outline, the text with all digits alike, and then on little: whether the
// first digit is a zero, and whether the numbers in it are a day that there is. So a reader remembers the outlines of
// short cells that it has seen, with what the long way has said of the first of them and where the digits stand: of the
// next cell of the same outline only the digits are looked at. This serves the outlines of
//
//   - numbers, with all that may stand around them: the digits are put together, everything else stays;
//   - texts, of which the long way has looked at no number's value: their reading is the same whatever the digits are;
//   - dates of three numbers, or of two and the name of a month, with a time after them perhaps, and times of day: the
//     numbers are looked at as the long way does, and where they are no day or no time, the long way says what they
// are.
//
// Outlines for which digits decide more are refused, and go the long way always: eight digits that may be a day, two
// numbers with a point that may be a time. Which they are is decided in learn.go; a test reads a million cells both
// ways.

const (
	maxOutline  = 48 // bytes of a cell
	outlineRuns = 12 // runs of digits, of which those of more than eight digits count twice
	maxDigits   = 18 // of a number that fits in 63 bits
	maxPower    = 10 // of ten, in scientific notation: those of 11 and more may tell of digits that are lost
)

// outlineKind says what is known of an outline.
type outlineKind uint8

const (
	noOutline outlineKind = iota
	seenOnce              // it is learned when it comes again: most texts come but once
	refused
	ofNumber
	ofExponent // a number in scientific notation
	ofDay
	ofClock
	ofText
)

// digitRun is a run of up to eight digits in a cell.
type digitRun struct{ at, n uint8 }

// outline is an outline with what the long way has said of a cell that has it.
type outline struct {
	key   [maxOutline / 8]uint64 // the bytes, with every digit a zero
	size  uint8
	lead  bool // the first digit is a zero
	kind  outlineKind
	high  bool
	alike bool // the letters may stand for digits, or not, as the digits are
	runs  [outlineRuns]digitRun
	n     uint8 // runs

	// Of a cell that has the outline; of dates without the day.
	set      Set
	form     uint32
	affix    string
	word     []byte
	scales   [numMarks]int32
	digits   uint8
	negative bool

	said
	isWorded bool  // a date with the name of a month
	isDotted bool  // a date that may be a time as well: 18.05.09
	time     uint8 // the run with the hours
	seconds  bool
	fraction uint8 // digits of it
	utc      bool
	zone     uint8 // the run with the hours of the offset, 0 for none
	// zeroOnly says that the cell it was learned from has an offset of none, which is written otherwise in canonical text,
	// so that others show more.
	zeroOnly bool
}

// said is what the words of a date and a time have said.
type said struct {
	worded wordedDay
	hours  uint32 // that a part of the day may mean, as bits
}

// wordedDay is a date with the name of a month: what the two numbers beside it are.
type wordedDay struct {
	month     int
	order     Order
	bits      Set
	short     bool // the year has two digits
	yearFirst bool
}

// Outlines is a reader's memory of outlines. Where few cells have an outline that is in it,
// it rests for a while, so that cells of which no two are alike are read as without it.
type Outlines struct {
	all        []outline
	tried, hit uint32
	rest       uint32
	most       int // entries, a power of two
}

// The memory of a reader starts small and grows with the number of cells, so that many columns of few cells take
// little.
const (
	fewOutlines  = 4
	mostOutlines = 512
	allOutlines  = 1 << 14 // of all columns of a worker together
	outlineTries = 512     // cells after which its worth is judged
	outlineRest  = 8192    // cells that it rests for
)

// outlined reads a cell by its outline, and reports whether that is known. Where it is not, learn is the outline that
// is to be learned from the long way, nil for none.
func (r *Reader) outlined(cell []byte, x *Reads) (done bool, learn *outline) {
	o := r.outlines
	if o == nil || len(cell) > maxOutline {
		return false, nil
	}
	if o.rest > 0 {
		o.rest--
		return false, nil
	}
	text := r.padded(cell)
	var key [maxOutline / 8]uint64
	hash := uint64(len(cell))
	first := -1
	for i := 0; i < len(cell); i += 8 {
		w := binary.LittleEndian.Uint64(text[i:])
		if rest := len(cell) - i; rest < 8 {
			w &= 1<<(8*rest) - 1
		}
		d := digitBytes(w)
		if first < 0 && d != 0 {
			first = i + bits.TrailingZeros64(d)/8
		}
		w = w&^d | zeros&d
		key[i/8] = w
		hash = (hash ^ w) * 0x9e3779b97f4a7c15
		hash ^= hash >> 29
	}
	if first < 0 {
		return false, nil
	}
	lead := text[first] == '0'
	if o.tried++; o.tried == outlineTries {
		o.judge()
	}
	if o.all == nil {
		o.all = make([]outline, fewOutlines)
	}
	hash = (hash ^ hash>>32 ^ uint64(bit(lead))) * 0x9e3779b97f4a7c15 // so that all bytes reach the bits that choose
	at := hash >> 48 & uint64(len(o.all)-1)
	e := &o.all[at]
	if e.key != key || int(e.size) != len(cell) || e.lead != lead {
		// Each outline may stand in one of two places, so that two that want the same one mostly both find one.
		other := &o.all[at^1]
		if other.key != key || int(other.size) != len(cell) || other.lead != lead {
			if e.kind > seenOnce && (other.kind <= seenOnce || o.tried%2 == 0) {
				e = other
			}
			*e = outline{key: key, size: uint8(len(cell)), lead: lead, kind: seenOnce}
			return false, nil
		}
		e = other
	}
	switch e.kind {
	case seenOnce:
		return false, e
	case refused:
		o.hit++ // it costs little to know that
		return false, nil
	case ofNumber:
		e.number(text, x)
		r.scales = e.scales
	case ofExponent:
		power, ok := e.power(text)
		if !ok {
			return false, nil
		}
		e.number(text, x)
		for m, scale := range e.scales {
			r.scales[m] = scale - power
		}
	case ofDay:
		if e.zeroOnly && !e.isZero(text) {
			return false, e
		}
		if !e.day(text, x) {
			return false, nil
		}
	case ofClock:
		if !e.clock(text, x) {
			return false, nil
		}
		x.Set, x.Form = e.set, e.form
	case ofText:
		x.Set, x.Form, x.Moment = e.set, e.form, value.Moment{}
		if e.alike && r.lookAlike(cell) {
			x.Set |= LookAlike
		}
	}
	o.hit++
	r.high = e.high
	return true, nil
}

// Recall makes the reader use the outlines of a column from now on, which no other reader uses at the same time.
func (r *Reader) Recall(o *Outlines) {
	if r.outlines != nil {
		r.outlines = o
	}
}

// NewOutlines returns the memory of one of that many columns, so that those of all columns together do not take too
// much room.
func NewOutlines(columns int) *Outlines {
	most := mostOutlines
	for most > fewOutlines && most*columns > allOutlines {
		most /= 2
	}
	return &Outlines{most: most}
}

// judge rests or grows the memory.
func (o *Outlines) judge() {
	switch {
	case o.hit < o.tried/4 && len(o.all) >= o.most:
		o.rest = outlineRest
	case o.hit < o.tried-o.tried/16 && len(o.all) < o.most:
		o.all = make([]outline, min(4*len(o.all), o.most))
	}
	o.tried, o.hit = 0, 0
}

// padded returns a cell with any bytes after it.
func (r *Reader) padded(cell []byte) *[maxOutline]byte {
	if cap(cell) >= maxOutline {
		return (*[maxOutline]byte)(cell[:maxOutline])
	}
	copy(r.pad[:], cell)
	return &r.pad
}

// digitBytes returns a word with all bits set in the bytes of w that are digits.
func digitBytes(w uint64) uint64 {
	d := w ^ zeros
	others := (d&^tops + nines | d) & tops
	return (others ^ tops) >> 7 * 0xff
}

// number returns the number of a run.
func (d digitRun) number(text *[maxOutline]byte) int64 {
	const last = maxOutline - 8
	at, skip := uint(d.at), uint(0)
	if at > last {
		at, skip = last, 8*(at-last)
	}
	w := binary.LittleEndian.Uint64(text[at:]) >> (skip & 63)
	return eightDigits((w ^ zeros) << ((64 - 8*uint(d.n)) & 63))
}

func (e *outline) number(text *[maxOutline]byte, x *Reads) {
	coef := int64(0)
	for _, run := range e.runs[:e.n] {
		coef = coef*powers[run.n] + run.number(text)
	}
	x.Set, x.Form, x.affix, x.word, x.Negative = e.set, e.form, e.affix, e.word, e.negative
	x.coef, x.length, x.small = coef, e.digits, true
	x.Moment = value.Moment{}
}

// power returns the power of ten of a number in scientific notation, whose run stands behind the others; not the large
// ones.
func (e *outline) power(text *[maxOutline]byte) (power int32, ok bool) {
	run := e.runs[e.n]
	power = int32(run.number(text))
	if power > maxPower {
		return 0, false
	}
	if text[run.at-1] == '-' {
		power = -power
	}
	return power, true
}

var powers = [...]int64{1, 10, 100, 1000, 10_000, 100_000, 1_000_000, 10_000_000, 100_000_000}

// day reads a date and what stands after it. Where there is no such day or time, x is as it was.
func (e *outline) day(text *[maxOutline]byte, x *Reads) bool {
	var n [3]token
	for i := range n {
		run := e.runs[i]
		n[i] = token{kind: tokDigits, text: text[run.at : run.at+run.n], value: int(run.number(text))}
	}
	x.Moment = value.Moment{}
	if e.time > 0 && !e.clock(text, x) {
		return false
	}
	var s Set
	if e.isWorded {
		s = e.wordedDay(n, x)
	} else {
		var f dateForm
		s = threeNumbers(n, &f, x)
	}
	if s == 0 {
		x.Set, x.Moment = 0, value.Moment{}
		return false
	}
	if x.Set = s | e.set&(HasTime|HasOffset); s.Has(DateSure) && !(e.zone > 0 && x.Moment.Offset == 0) {
		x.Set |= e.set & Plain
	}
	if e.isDotted {
		if clock, ok := value.NewClock(n[0].value, n[1].value, n[2].value, 0, 0); ok {
			x.Set |= ClockOnly
			x.Moment.Clock = clock
		}
	}
	x.Form = e.form
	return true
}

// isZero reports whether the offset from UTC is none.
func (e *outline) isZero(text *[maxOutline]byte) bool {
	minutes, ok := e.offset(text)
	return ok && minutes == 0
}

func (e *outline) wordedDay(n [3]token, x *Reads) Set {
	w := &e.worded
	day, year := n[0], n[1]
	if w.yearFirst {
		day, year = year, day
	}
	s := x.setDay(DateSure, w.order, year, token{value: w.month}, day)
	if s != 0 {
		s |= w.bits
	}
	if w.short {
		s = orShort(s)
	}
	return s
}

// clock reads a time of day.
func (e *outline) clock(text *[maxOutline]byte, x *Reads) bool {
	runs := e.runs[e.time:e.n]
	second, nanos, offset := 0, 0, 0
	if e.seconds {
		second = int(runs[2].number(text))
	}
	if e.fraction > 0 {
		nanos = int(runs[3].number(text))
		if e.fraction == 9 {
			nanos = 10*nanos + int(runs[4].number(text))
		}
		for range 9 - e.fraction {
			nanos *= 10
		}
	}
	x.Moment = value.Moment{}
	hour, ok := hourIn(int(runs[0].number(text)), e.hours)
	if !ok {
		return false
	}
	clock, ok := value.NewClock(hour, int(runs[1].number(text)), second, nanos, e.fraction)
	if !ok {
		return false
	}
	if e.zone > 0 {
		if offset, ok = e.offset(text); !ok {
			return false
		}
	}
	x.Moment = value.Moment{Clock: clock, HasOffset: e.utc || e.zone > 0, Offset: int16(offset)}
	return true
}

// offset reads the offset from UTC in minutes.
func (e *outline) offset(text *[maxOutline]byte) (minutes int, ok bool) {
	first := e.runs[e.zone]
	hours, rest := int(first.number(text)), 0
	switch {
	case first.n == 4:
		hours, rest = hours/100, hours%100
	case e.zone+1 < e.n:
		rest = int(e.runs[e.zone+1].number(text))
	}
	if minutes = hours*60 + rest; rest > 59 || minutes > 18*60 {
		return 0, false
	}
	if text[first.at-1] == '-' {
		minutes = -minutes
	}
	return minutes, true
}
