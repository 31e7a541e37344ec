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
	maxOutline   = 48 // bytes of a cell
	outlineWords = maxOutline / 8
	outlineRuns  = 12 // runs of digits, of which those of more than eight digits count twice
	maxDigits    = 18 // of a number that fits in 63 bits
	maxPower     = 10 // of ten, in scientific notation: those of 11 and more may tell of digits that are lost
)

// outlineText is the text of a cell that may have an outline, with any bytes after it, so that eight bytes are read from
// any of its bytes on.
type outlineText [maxOutline + 8]byte

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

// outlineTail is the last eight bytes of a cell, or all where it has fewer.
type outlineTail struct {
	outlineWord
	mask uint64 // of the bytes of the cell
	at   uint8
}

// outlineWord is eight bytes of a cell.
type outlineWord struct {
	text   uint64 // every digit a zero
	digits uint64 // all bits of the bytes that are digits
}

// outlineKey is the text of a cell with all digits alike.
type outlineKey struct {
	words [outlineWords]outlineWord
	size  uint8
	first uint8 // where the first digit stands
	lead  bool  // it is a zero
}

// Outline is an outline with what the long way has said of a cell that has it.
type Outline struct {
	outlineKey
	// Note is what the user has noted of the outline. It is gone when the outline is forgotten.
	Note  any
	kind  outlineKind
	high  bool
	chars uint8 // characters
	alike bool  // the letters may stand for digits, or not, as the digits are
	runs  [outlineRuns]digitRun
	n     uint8 // runs
	tail  outlineTail

	// Of a cell that has the outline; of dates without the day.
	set      Set
	form     uint64
	affix    string
	word     []byte
	scales   [numMarks]int32
	count    uint8 // digits of a number
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
	days   uint8  // that a weekday may be, as bits; 0 where there is none
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
	all []Outline
	// last are the outlines of the last cells of each length, without a zero as the first digit and with one: most cells
	// have one of these.
	last [maxOutline + 1][2]*Outline
	// Since its worth was judged last, it was asked for so many cells, knew so many and learned so many.
	tried, hit, learned uint32

	rest uint32
	most int // entries, a power of two

	// Crowded says that the user counts codes of all shapes together, so that the form of one that is plainly a code may be
	// left out.
	Crowded bool
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
func (r *Reader) outlined(cell []byte, x *Reads) (done bool, learn *Outline) {
	o := r.outlines
	if o == nil || len(cell) > maxOutline {
		return false, nil
	}
	if o.rest > 0 {
		o.rest--
		return false, nil
	}
	if o.tried >= outlineTries {
		o.judge()
	}
	text := r.padded(cell)
	var want outlineKey
	e, place := o.find(&want, text, len(cell))
	switch {
	case place == nil:
		return false, nil
	case e == nil:
		e = o.put(&want, place)
	}
	o.tried++
	switch e.kind {
	case noOutline:
		e.kind = seenOnce
		return false, nil
	case seenOnce:
		o.learned++
		return false, e
	case refused:
		o.hit++ // it costs little to know that
		return false, nil
	}
	if e.zeroOnly && !e.isZero(text) {
		return false, e
	}
	o.last[len(cell)][bit(e.lead)] = e
	if !r.fill(e, text, cell, x) {
		return false, nil
	}
	o.hit++
	return true, nil
}

// likeLast reads a cell that has the outline of the last cell of its length, and reports whether it has.
func (r *Reader) likeLast(cell []byte, x *Reads) bool {
	o := r.outlines
	if o == nil || len(cell) > maxOutline || cap(cell) < len(outlineText{}) {
		return false
	}
	text := (*outlineText)(cell[:len(outlineText{})])
	e := o.like(text, uint(len(cell)))
	return e != nil && !(e.zeroOnly && !e.isZero(text)) && r.fill(e, text, cell, x)
}

// like returns the outline of the last cell of that length, if the cell has it.
func (o *Outlines) like(text *outlineText, size uint) *Outline {
	pair := &o.last[size]
	e := pair[0]
	if e == nil {
		e = pair[1]
	} else if text[e.first] == '0' {
		e = pair[1]
	}
	if e == nil || (text[e.first] == '0') != e.lead {
		return nil
	}
	// In a byte of a digit what differs from a zero is the digit's value, in all others nothing.
	d := (binary.LittleEndian.Uint64(text[e.tail.at:]) ^ e.tail.text) & e.tail.mask
	others := d&^e.tail.digits | (d+nines|d)&tops
	for i := uint(0); i+8 < size; i += 8 {
		w := &e.words[i/8]
		d := binary.LittleEndian.Uint64(text[i:i+8]) ^ w.text
		others |= d&^w.digits | (d+nines|d)&tops
	}
	if others != 0 {
		return nil
	}
	return e
}

// find makes the outline that a cell wants, and returns the one that is remembered, nil for none, and one of the two
// places for it, nil for a cell without a digit.
func (o *Outlines) find(want *outlineKey, text *outlineText, size int) (e, place *Outline) {
	hash := uint64(size)
	first := -1
	for i := 0; i < size; i += 8 {
		w := binary.LittleEndian.Uint64(text[i : i+8])
		if rest := size - i; rest < 8 {
			w &= 1<<(8*rest) - 1
		}
		d := digitBytes(w)
		if first < 0 && d != 0 {
			first = i + bits.TrailingZeros64(d)/8
		}
		w = w&^d | zeros&d
		want.words[i/8] = outlineWord{w, d}
		hash = (hash ^ w) * 0x9e3779b97f4a7c15
		hash ^= hash >> 29
	}
	if first < 0 {
		return nil, nil
	}
	want.size, want.first, want.lead = uint8(size), uint8(first), text[first] == '0'
	if o.all == nil {
		o.all = make([]Outline, fewOutlines)
	}
	hash = (hash ^ hash>>32 ^ uint64(bit(want.lead))) * 0x9e3779b97f4a7c15 // so that all bytes reach the bits that choose
	at := hash >> 48 & uint64(len(o.all)-1)
	// Each outline may stand in one of two places, so that two that want the same one mostly both find one.
	place, other := &o.all[at], &o.all[at^1]
	switch {
	case place.is(want):
		return place, place
	case other.is(want):
		return other, other
	case place.kind > seenOnce && (other.kind <= seenOnce || o.tried%2 == 0):
		return nil, other
	}
	return nil, place
}

// put puts a new outline in the place of another.
func (o *Outlines) put(want *outlineKey, place *Outline) *Outline {
	if last := &o.last[place.size][bit(place.lead)]; *last == place {
		*last = nil
	}
	*place = Outline{outlineKey: *want, tail: want.tail()}
	return place
}

// tail returns the last eight bytes of the outline.
func (e *outlineKey) tail() outlineTail {
	if e.size <= 8 {
		return outlineTail{e.words[0], ^uint64(0) >> (64 - 8*e.size), 0}
	}
	at := e.size - 8
	first, second := e.words[at/8], e.words[(e.size-1)/8]
	if shift := 8 * (at % 8); shift > 0 {
		first.text = first.text>>shift | second.text<<(64-shift)
		first.digits = first.digits>>shift | second.digits<<(64-shift)
	}
	return outlineTail{first, ^uint64(0), at}
}

// is reports whether an outline is that one.
func (e *outlineKey) is(want *outlineKey) bool {
	if e.size != want.size || e.lead != want.lead {
		return false
	}
	for i := range e.words {
		if e.words[i].text != want.words[i].text {
			return false
		}
	}
	return true
}

// fill reads a cell by its outline, and reports whether it can be. Where it can't, x says nothing.
func (r *Reader) fill(e *Outline, text *outlineText, cell []byte, x *Reads) bool {
	switch e.kind {
	case ofNumber:
		e.number(text, x)
		r.scales = e.scales
	case ofExponent:
		power, ok := e.power(text)
		if !ok {
			return false
		}
		e.number(text, x)
		for m, scale := range e.scales {
			r.scales[m] = scale - power
		}
	case ofDay:
		if !e.day(text, x) {
			return false
		}
	case ofClock:
		if !e.clock(text, x) {
			return false
		}
		x.Set = e.set
	case ofText:
		x.Set, x.Form, x.Moment = e.set, e.form, value.Moment{}
		if e.alike && r.lookAlike(cell) {
			x.Set |= LookAlike
		}
	default:
		return false
	}
	r.high, r.known = e.high, e
	return true
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

// judge rests or grows the memory. To learn an outline takes as long as to read a few cells.
func (o *Outlines) judge() {
	switch {
	case o.hit < o.tried/4+2*o.learned && len(o.all) >= o.most:
		o.rest = outlineRest
	case o.hit < o.tried-o.tried/16 && len(o.all) < o.most:
		o.all = make([]Outline, min(4*len(o.all), o.most))
		o.last = [len(o.last)][2]*Outline{}
	}
	o.tried, o.hit, o.learned = 0, 0, 0
}

// padded returns a cell with any bytes after it.
func (r *Reader) padded(cell []byte) *outlineText {
	if cap(cell) >= len(outlineText{}) {
		return (*outlineText)(cell[:len(outlineText{})])
	}
	copy(r.pad[:], cell)
	return &r.pad
}
