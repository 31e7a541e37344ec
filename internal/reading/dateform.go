package reading

// dateForm is how a date was written, without its order: what a pattern needs.
type dateForm struct {
	sep       byte // between the fields: . / - or a space
	widths    [3]uint8
	weekday   uint8 // 0 none, 1 short, 2 long
	comma     bool  // a comma before the year, as in Mar 4, 2021
	timeSep   uint8 // index in timeSeps
	clock     clockForm
	longMonth bool
	odd       bool // with words that a pattern should not repeat
	words     vocabulary
	days      uint8  // the weekdays that it names, as bits; 0 where it names none
	month     uint64 // the name of the month
	weak      bool   // the name may be something else: see monthWord.weak
	pointed   bool   // a point stands behind the day
	far       bool   // see Reads.far
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
	sep        byte  // between hours and minutes; this and what follows is not packed
	dots       bool  // points in place of colons
	words      bool  // with words that a pattern should not repeat
	vocabulary vocabulary
	period     uint64 // the name of the part of the day
	weak       bool   // the name may be something else: see weakPeriod
	late       bool   // an hour that only clocks of 24 hours have, without a part of the day
}

// Above what a pattern needs, a form has the names that stand in a date or a time, and whether they may be something else:
// then the column has to show that they are names (see decider.words).
const (
	monthShift  = 32
	periodShift = 45
	nameMask    = 1<<(periodShift-monthShift) - 1
	weakMonth   = 1 << 58 // the name of the month may be a code or a word of text
	weakPeriod  = 1 << 59 // the part of the day may be a unit, a code or a word of text
	lateHour    = 1 << 60 // see clockForm.late
	farYear     = 1 << 61 // the year is far from those that tables have: see Reads.far
	wordBits    = nameMask<<monthShift | nameMask<<periodShift
)

// namesOf returns the names that stand in a date or a time of a form, nil where there are none.
func namesOf(form uint64) (month, period *name) {
	return nameAt(form >> monthShift & nameMask), nameAt(form >> periodShift & nameMask)
}

func (c *clockForm) packWords() uint64 {
	return c.period<<periodShift | bit(c.weak)*weakPeriod | bit(c.late)*lateHour
}

func (f dateForm) pack() uint64 {
	var sep uint64
	for i, s := range dateSeps {
		if s == f.sep {
			sep = uint64(i)
		}
	}
	v := sep | uint64(f.widths[0])<<2 | uint64(f.widths[1])<<4 | uint64(f.widths[2])<<6 | uint64(f.weekday)<<8
	v |= bit(f.comma)<<10 | uint64(f.timeSep)<<11 | bit(f.longMonth)<<13
	return v | f.clock.layout()<<14 | bit(f.odd)<<25 | f.month<<monthShift | bit(f.weak)*weakMonth | bit(f.far)*farYear | f.clock.packWords()
}

func (c clockForm) pack() uint64 { return c.layout() | c.packWords() }

// layout is what a pattern needs.
func (c clockForm) layout() uint64 {
	return uint64(c.hourDigits) | bit(c.seconds)<<2 | uint64(c.fraction)<<3 | uint64(c.half)<<7 | uint64(c.zone)<<9 |
		bit(c.dots || c.words)<<11
}

func bit(b bool) uint64 {
	if b {
		return 1
	}
	return 0
}

func unpackDate(v uint64) dateForm {
	return dateForm{
		sep: dateSeps[dateSepOf(v)], widths: [3]uint8{uint8(v >> 2 & 3), uint8(v >> 4 & 3), uint8(v >> 6 & 3)},
		weekday: uint8(v >> 8 & 3), comma: v>>10&1 == 1, timeSep: uint8(v >> 11 & 3), longMonth: v>>13&1 == 1,
		clock: unpackClock(v >> 14), odd: v>>25&1 == 1,
	}
}

// dateSepOf returns which of dateSeps stands between the numbers of a date of this form.
func dateSepOf(form uint64) int { return int(form & 3) }

// oddClock reports whether a time of this form has points in place of colons, or words.
func oddClock(form uint64) bool { return form>>11&1 == 1 }

func unpackClock(v uint64) clockForm {
	return clockForm{
		hourDigits: uint8(v & 3), seconds: v>>2&1 == 1, fraction: uint8(v >> 3 & 15), half: uint8(v >> 7 & 3),
		zone: uint8(v >> 9 & 3),
		sep:  ':',
	}
}

// isoForm is the canonical way to write what f has in it.
func isoForm(f dateForm) dateForm {
	iso := dateForm{sep: '-', widths: [3]uint8{widthYear, 2, 2}, far: f.far}
	if f.timeSep != 0 {
		iso.timeSep = 1
		iso.clock = clockForm{
			hourDigits: 2, seconds: true, fraction: f.clock.fraction, zone: f.clock.zone, sep: ':', late: f.clock.late,
		}
		if iso.clock.zone == 3 {
			iso.clock.zone = 2
		}
	}
	return iso
}
