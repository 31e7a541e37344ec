package reading

import "slices"

// onlyCode reports whether a cell with letters and digits, whose bytes have these classes, is plainly a code, or text
// where it has spaces: letters between its digits or before them keep it from being a number, and its first letters,
// which no date has in that place, from being a date. Codes of which no two are alike have no outlines that come again,
// so that this is what makes them cheap: numbers in the notation of 16, keys of articles, identifiers of 128 bits.
func onlyCode(cell []byte, mask uint32) bool {
	const odd = cHigh | cControl | cMarkup | cQuote | cColon | cApos
	first, last := cell[0], cell[len(cell)-1]
	switch {
	case mask&odd != 0, mask&cDigit == 0, mask&(cLower|cUpper) == 0, len(cell) > maxFolded, last == ' ':
		return false
	case letter(first):
		if mayBeCurrency(cell) {
			return false
		}
	case !isDigit(first) || mask&cSign != 0: // the sign may belong to a number
		return false
	}
	from := slices.IndexFunc(cell, letter)
	to := from + letters(cell[from:])
	return (from == 0 || noNumber(cell, from, to)) && (to == from+1 && noLetterDate(cell, from) || !mayBeDate(cell)) &&
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
	return !unit && !glued(cell[from:to], cell[:from])
}

// noLetterDate reports whether one letter, the first in a cell, keeps it from being a date or a time, though such
// letters stand in some: an hour of one or two digits stands right before it, with the minutes in two digits behind
// it, or behind it at the start of the cell. What else one letter may be in a date has something else before it than a
// digit.
func noLetterDate(cell []byte, at int) bool {
	behind := cell[at+1:]
	switch {
	case besideDate(cell[at:at+1]) || len(behind) > 0 && !isDigit(behind[0]): // a name may go on
		return false
	case at > 0:
		hour := digitsIn(cell)
		return hour > 2 && isDigit(cell[at-1]) && fewNumbers(cell[:at]) || hour == at && noTime(cell[at:])
	}
	hour := digitsIn(behind)
	switch behind = behind[hour:]; {
	case hour == 0 || hour > 2:
		return hour > 2
	case len(behind) == 0 || behind[0] == '-' || behind[0] == '/':
		return true
	}
	return letter(behind[0]) && noTime(behind)
}

// noTime reports whether a text that begins with a letter does not go on a time of day whose hour stands before it: the
// letter does not stand between hours and minutes, or there are no minutes behind it, or another such letter behind
// them keeps the time from ending.
func noTime(text []byte) bool {
	behind := text[1:]
	if noMinutes(behind) || !fillerBefore(text) {
		return true
	}
	n := digitsIn(behind)
	return n == 2 && (behind[0] > '5' || n < len(behind) && letter(behind[n]) && !fillerBefore(behind[n:]))
}

// fillerBefore reports whether a text may begin with a word that stands between hours and minutes: one that has another
// letter behind it, or a filler.
func fillerBefore(text []byte) bool {
	if len(text) < 2 || !isDigit(text[1]) || besideDate(text[:1]) {
		return true
	}
	return theNames.get().fillers>>(text[0]|0x20-'a')&1 == 1
}

// fewNumbers reports whether a text has fewer numbers than a date has without words.
func fewNumbers(text []byte) bool {
	numbers, digits := 0, false
	for _, b := range text {
		is := isDigit(b)
		numbers += int(bit(is && !digits))
		digits = is
	}
	return numbers < 3
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
