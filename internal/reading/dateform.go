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
	return v | f.clock.pack()<<14 | bit(f.odd)<<25
}

func (c clockForm) pack() uint32 {
	return uint32(c.hourDigits) | bit(c.seconds)<<2 | uint32(c.fraction)<<3 | uint32(c.half)<<7 | uint32(c.zone)<<9 | bit(c.dots || c.words)<<11
}

func bit(b bool) uint32 {
	if b {
		return 1
	}
	return 0
}

func unpackDate(v uint32) dateForm {
	return dateForm{
		sep: dateSeps[dateSepOf(v)], widths: [3]uint8{uint8(v >> 2 & 3), uint8(v >> 4 & 3), uint8(v >> 6 & 3)},
		weekday: uint8(v >> 8 & 3), comma: v>>10&1 == 1, timeSep: uint8(v >> 11 & 3), longMonth: v>>13&1 == 1,
		clock: unpackClock(v >> 14), odd: v>>25&1 == 1,
	}
}

// dateSepOf returns which of dateSeps stands between the numbers of a date of this form.
func dateSepOf(form uint32) int { return int(form & 3) }

// oddClock reports whether a time of this form has points in place of colons, or words.
func oddClock(form uint32) bool { return form>>11&1 == 1 }

func unpackClock(v uint32) clockForm {
	return clockForm{
		hourDigits: uint8(v & 3), seconds: v>>2&1 == 1, fraction: uint8(v >> 3 & 15), half: uint8(v >> 7 & 3),
		zone: uint8(v >> 9 & 3),
		sep:  ':',
	}
}

// isoForm is the canonical way to write what f has in it.
func isoForm(f dateForm) dateForm {
	iso := dateForm{sep: '-', widths: [3]uint8{widthYear, 2, 2}}
	if f.timeSep != 0 {
		iso.timeSep = 1
		iso.clock = clockForm{hourDigits: 2, seconds: true, fraction: f.clock.fraction, zone: f.clock.zone, sep: ':'}
		if iso.clock.zone == 3 {
			iso.clock.zone = 2
		}
	}
	return iso
}
