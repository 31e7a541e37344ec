package reading

import "slices"

// onlyCode reports whether a cell with letters and digits, whose bytes have these classes, is plainly a code, or text
// where it has spaces: letters between its digits or before them keep it from being a number, and its first letters,
// which no date has in that place, from being a date. Codes of which no two are alike have no outlines that come again,
// so that this is what makes them cheap: numbers in the notation of 16, keys of articles, identifiers of 128 bits.
func (r *Reader) onlyCode(cell []byte, mask uint32) bool {
	const odd = cHigh | cControl | cSign | cQuote | cColon | cApos
	first, last := cell[0], cell[len(cell)-1]
	switch {
	case mask&odd != 0, mask&cDigit == 0, mask&(cLower|cUpper) == 0, len(cell) > maxFolded, last == ' ':
		return false
	case letter(first):
		if mayBeCurrency(cell) {
			return false
		}
	case !isDigit(first):
		return false
	}
	from, numbers := 0, 0
	for digits := false; !letter(cell[from]); from++ {
		is := isDigit(cell[from])
		numbers += int(bit(is && !digits))
		digits = is
	}
	to := from + letters(cell[from:])
	return numbers <= 2 && (from == 0 || noNumber(cell, from, to)) && r.noDate(cell, from, to) &&
		(len(cell) > maxLookAlike || !likeDigits(cell))
}

// noNumber reports whether the letters [from, to), the first in a cell that begins with a digit, keep it from being a
// number: where digits come after them, which are no exponent, or where they end the cell and are no unit.
func noNumber(cell []byte, from, to int) bool {
	behind := cell[to:]
	exponent := to == from+1 && cell[from]|0x20 == 'e'
	if exponent && len(behind) > 0 {
		if behind[0] == '+' || behind[0] == '-' {
			behind = behind[1:]
		}
		behind = behind[digitsIn(behind):]
	}
	if slices.ContainsFunc(behind, isDigit) {
		return true
	}
	if exponent {
		return false
	}
	if to < len(cell) || !isDigit(cell[from-1]) {
		return false
	}
	_, unit := affixNamed(cell[from:to])
	return !unit
}

// noDate reports whether the letters [from, to), the first in a cell, are no name and no other word of a date or a time,
// so that the cell is none.
func (r *Reader) noDate(cell []byte, from, to int) bool {
	word, behind := cell[from:to], cell[to:]
	if besideDate(word) {
		return false
	}
	s := nameSearch{table: theNames(), key: r.lower[:0], hash: fnvStart}
	if s.addAll(word) < len(word) {
		return true
	}
	for i, b := range behind {
		if b != ' ' {
			if letter(b) || b == '.' || b == '\'' || b == '-' && i+1 < len(behind) && !isDigit(behind[i+1]) {
				return false // a name may go on with it
			}
			break
		}
	}
	return !s.table.mayBe(s.hash) || len(word) == 1 && noLetterDate(cell, from)
}

// noLetterDate reports whether one letter, the first in a cell, keeps it from being a date or a time, though such
// letters stand in some: an hour of one or two digits stands right before it, with the minutes in two digits behind
// it, or behind it at the start of the cell. What else one letter may be in a date has something else before it than a
// digit.
func noLetterDate(cell []byte, at int) bool {
	if at > 0 {
		hour := digitsIn(cell)
		return hour > 2 && isDigit(cell[at-1]) || hour == at && noMinutes(cell[at+1:])
	}
	hour := digitsIn(cell[1:])
	behind := cell[1+hour:]
	switch {
	case hour == 0 || hour > 2:
		return hour > 2
	case len(behind) == 0 || behind[0] == '-' || behind[0] == '/':
		return true
	}
	return letter(behind[0]) && noMinutes(behind[1:])
}

// noMinutes reports whether a text begins with digits that are no minutes.
func noMinutes(text []byte) bool {
	n := digitsIn(text)
	return n > 0 && n != 2
}

func isDigit(b byte) bool { return b-'0' <= 9 }

// digitsIn returns how many digits a text begins with.
func digitsIn(text []byte) (n int) {
	for n < len(text) && isDigit(text[n]) {
		n++
	}
	return n
}
