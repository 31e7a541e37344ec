package reading

import (
	"bytes"
	"slices"
	"unicode"
	"unicode/utf8"

	"junvo/internal/value"
)

// learn notes what the long way has said of a cell with an outline that has come again, or that is to show more of one
// that is known: where it shows less, since there is no such day, what was known stays.
func (r *Reader) learn(e *Outline, cell []byte, x *Reads) {
	was := *e
	if r.learnFrom(e, cell, x); e.kind <= refused && was.kind > refused {
		*e = was
	}
}

func (r *Reader) learnFrom(e *Outline, cell []byte, x *Reads) {
	e.kind = refused
	e.high = r.high
	e.n = 0
	if r.num.parted { // its digits decide whether it is a number
		return
	}
	digits := uint8(0)
	for i := 0; i < len(cell); i++ {
		if cell[i]-'0' > 9 {
			continue
		}
		start := i
		for i+1 < len(cell) && cell[i+1]-'0' <= 9 {
			i++
		}
		for n := i + 1 - start; n > 0; n = i + 1 - start {
			if e.n == outlineRuns {
				return
			}
			run := digitRun{uint8(start), uint8(min(n, 8))}
			e.runs[e.n] = run
			e.n++
			digits += run.n
			start += int(run.n)
		}
	}
	e.set, e.form, e.affix, e.negative, e.scales, e.count = x.Set, x.Form, x.affix, x.Negative, r.scales, digits
	e.chars = uint8(utf8.RuneCount(cell))
	e.word, e.said, e.isWorded, e.isDotted, e.zeroOnly = nil, r.said, false, false, false
	if x.Set.Any(UnitWord) {
		e.word = append(e.word, x.word...)
	}
	var same Reads
	same.reader = r
	text := r.padded(cell)
	switch {
	case e.ofExponent(cell, x, r.digits):
		power, ok := e.power(text)
		if !ok {
			e.kind = seenOnce // another cell shows more
			break
		}
		if e.number(text, &same); same.Number(e.set.Marks()[0]).Compare(x.Number(e.set.Marks()[0])) == 0 {
			e.kind = ofExponent
			for m := range e.scales {
				e.scales[m] += power
			}
		}
	case e.ofNumber(cell, x, r.digits):
		was := slices.Clone(r.digits)
		if e.number(text, &same); bytes.Equal(same.digits(), was) {
			e.kind = ofNumber
		}
		r.digits = append(r.digits[:0], was...) // x has its number in them
	case e.ofDay(cell, x) || e.ofWordedDay(cell, x):
		e.zeroOnly = e.zone > 0 && x.Moment.Offset == 0
		if e.day(text, &same) && same.Set == x.Set && same.Moment == x.Moment && sameDays(&same, x) {
			e.kind = ofDay
		}
	case e.ofClock(cell, x):
		if e.clock(text, &same) && same.Moment == x.Moment {
			e.kind = ofClock
		}
	case r.ofText(cell, x):
		e.kind, e.alike, e.set = ofText, mayBeAlike(cell), e.set&^LookAlike
	}
}

func sameDays(a, b *Reads) bool {
	for _, o := range a.Set.Slots() {
		if a.Days[o] != b.Days[o] {
			return false
		}
	}
	return true
}

// ofNumber reports whether a cell is a number of which the digits decide nothing but its value.
func (e *Outline) ofNumber(cell []byte, x *Reads, digits []byte) bool {
	const decided = dates | DateCompact | DateOrdinal | DateNever | DateOther | ClockOnly | ClockPoint | Exponent | ExponentBare | Shortened | Markup | LookAlike | CodeLike | Formula | ErrorValue
	switch {
	case !x.Set.Any(numbers) || x.Set.Any(decided) || x.Set.Blank() != value.NotBlank || x.small || x.Set.Any(BadBytes):
	case len(digits) != int(e.count) || len(digits) > value.WideDigits: // digits of other scripts stand in the cell, too
	case x.Set.Any(affixes): // and then it is nothing but a number with it
		return !holdsMarkup(cell)
	case x.Set.Any(wholes) && len(digits) == 8 && !x.Set.Any(groupMarks): // it may be a day
	case len(digits) == 1: // the form has the digit
	case (len(digits) == 3 || len(digits) == 4) && e.scales[Point] == 2 && x.Set.Any(MarkPoint) && !x.Set.Any(groupMarks&^MarkPoint): // it may be a time
	default:
		return !holdsMarkup(cell)
	}
	return false
}

// ofExponent reports whether a cell is a number in scientific notation, whose last run of digits is the power of ten:
// it is taken off the runs, and stands behind them.
func (e *Outline) ofExponent(cell []byte, x *Reads, digits []byte) bool {
	const decided = dates | ClockOnly | Shortened | Markup | LookAlike | CodeLike | Formula | ErrorValue | BadBytes
	if !x.Set.Any(numbers) || !x.Set.Any(Exponent) || x.Set.Any(decided) || x.small || holdsMarkup(cell) || e.n < 2 {
		return false
	}
	last := e.runs[e.n-1]
	mark := cell[last.at-1]
	if mark == '+' || mark == '-' {
		mark = cell[last.at-2]
	}
	if mark|0x20 != 'e' || len(digits) != int(e.count-last.n) || len(digits) > maxDigits {
		return false
	}
	e.n--
	e.count -= last.n
	return true
}

// holdsMarkup reports whether a cell has characters that begin a reference, a tag or an error value.
func holdsMarkup(cell []byte) bool { return bytes.ContainsAny(cell, "&<#") }

// ofDay reports whether a cell is a date of three numbers, with a time after it perhaps, and nothing else.
func (e *Outline) ofDay(cell []byte, x *Reads) bool {
	if !x.Set.Any(dates) || x.Set.Any(numbers|MonthOpen|DateCompact|DateOrdinal|Strays) || e.n < 3 ||
		cell[0]-'0' > 9 {
		return false
	}
	a, b, c := e.runs[0], e.runs[1], e.runs[2]
	sep := cell[a.n]
	switch {
	case sep != '.' && sep != '/' && sep != '-', b.at != a.n+1, c.at != b.at+b.n+1, cell[b.at+b.n] != sep:
		return false
	case b.n > 2, a.n == 3 || a.n > 4, a.n == 4 && c.n > 2, a.n < 4 && c.n != 4 && c.n != 2:
		return false
	}
	e.isDotted = sep == '.' && a.n <= 2 && b.n == 2 && c.n == 2 && e.n == 3
	return (e.isDotted || !x.Set.Any(ClockOnly)) && e.timeBehind(3, cell, x)
}

// ofWordedDay reports whether a cell is a date of two numbers and the name of a month, with a time after it perhaps.
func (e *Outline) ofWordedDay(cell []byte, x *Reads) bool {
	e.isWorded, e.isDotted = true, false
	return x.Set.Any(DateSure) && !x.Set.Any(numbers|ClockOnly|MonthOpen|DateCompact|DateOrdinal|Strays) &&
		e.worded.month > 0 && e.n >= 2 &&
		!(e.n > 2 && cell[e.runs[0].at+e.runs[0].n] == ':') && e.timeBehind(2, cell, x)
}

// timeBehind reports whether there are that many runs of digits before a time of day, and the time where the cell has
// one.
func (e *Outline) timeBehind(runs uint8, cell []byte, x *Reads) bool {
	if e.time, e.zone, e.utc = 0, 0, false; !x.Set.Any(HasTime) {
		return e.n == runs
	}
	return e.n > runs+1 && e.timeAt(runs, cell, x)
}

// ofText reports whether a cell is text, or has an odd look, whatever its digits are: the value of none has decided
// anything about a date, and it is no number by its marks and words.
func (r *Reader) ofText(cell []byte, x *Reads) bool {
	const free = Values | DateNever | DateOther | ZoneUnknown | Markup | DateCompact | BoolWord | BlankWord | Told
	if r.valued || x.Set.Any(free) || x.Set.Blank() != value.NotBlank || holdsMarkup(cell) {
		return false
	}
	digits := false
	folded := classesOf(cell)&(cHigh|cControl) != 0
	if text := cell; folded || cell[0] == ' ' || cell[len(cell)-1] == ' ' {
		if folded {
			text, _, _, _, _ = fold(nil, cell)
		}
		if mayBeAlike(trimSpaces(text)) {
			return false // the letters are looked at in this text, and not in the cell
		}
	}
	for i, b := range cell {
		if b|0x20 == 'e' && i > 0 && (cell[i-1]-'0' <= 9 || digits && folded) {
			return false // an exponent may be too large; what does not print may stand before it
		}
		digits = digits || b-'0' <= 9
	}
	return !bytes.ContainsFunc(cell, func(c rune) bool { return c >= utf8.RuneSelf && unicode.IsDigit(c) })
}

// mayBeAlike reports whether letters or signs of a cell may stand for digits.
func mayBeAlike(cell []byte) bool {
	others := false
	for i := 0; i < len(cell); {
		if classes[cell[i]]&numberBytes != 0 {
			i++
			continue
		}
		r, n := utf8.DecodeRune(cell[i:])
		if _, ok := lookAlikes[r]; !ok {
			return false
		}
		others, i = true, i+n
	}
	return others
}

// ofClock reports whether a cell is a time of day and nothing else.
func (e *Outline) ofClock(cell []byte, x *Reads) bool {
	return x.Set&^Plain == ClockOnly && e.n >= 2 && cell[0]-'0' <= 9 && e.timeAt(0, cell, x) && !e.utc && e.zone == 0
}

// timeAt reports whether from a run on there are hours, minutes, seconds, a fraction and an offset, as far as the cell
// has them, and no digits after that.
func (e *Outline) timeAt(first uint8, cell []byte, x *Reads) bool {
	e.time, e.seconds, e.fraction, e.zone = first, false, 0, 0
	joined := func(i uint8, mark byte) bool { // run i to the one before
		end := e.runs[i-1].at + e.runs[i-1].n
		return i < e.n && e.runs[i].at == end+1 && cell[end] == mark
	}
	next := first + 2
	if next > e.n || e.runs[first].n > 2 || e.runs[first+1].n != 2 || !joined(first+1, ':') {
		return false
	}
	if next < e.n && joined(next, ':') {
		if e.runs[next].n != 2 {
			return false
		}
		e.seconds = true
		if next++; next < e.n && joined(next, '.') {
			e.fraction = e.runs[next].n
			next++
			if end := e.runs[next-1].at + e.fraction; e.fraction == 8 && next < e.n && e.runs[next] == (digitRun{end, 1}) {
				e.fraction = 9
				next++
			}
		}
	}
	if next < e.n {
		if !joined(next, '+') && !joined(next, '-') {
			return false
		}
		e.zone = next
		switch next++; {
		case e.runs[e.zone].n == 4:
		case e.runs[e.zone].n != 2:
			return false
		case next < e.n && joined(next, ':') && e.runs[next].n == 2:
			next++
		}
		last := e.runs[next-1]
		return next == e.n && int(last.at+last.n) == len(cell)
	}
	e.utc = x.Moment.HasOffset
	return true
}
