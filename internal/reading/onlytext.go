package reading

import (
	"unicode"
	"unicode/utf8"
)

// OnlyText returns how many characters a cell has that is plainly nothing but text, which the first letters and the
// classes of its bytes tell of most text. Where Read would find anything else in it, or something odd about it, it
// returns 0; and of texts whose outlines the reader is to learn, which are read quicker when they come again.
func (r *Reader) OnlyText(cell []byte) (chars int) {
	if LongWay || len(cell) == 0 || !letter(cell[0]) && cell[0] < utf8.RuneSelf {
		return 0
	}
	mask := classesOf(cell)
	if mask&cHigh != 0 {
		return onlyLetters(cell, mask)
	}
	if mask&cDigit != 0 && len(cell) <= maxOutline && r.outlines != nil {
		if r.outlines.rest == 0 {
			return 0
		}
		r.outlines.rest--
	}
	if onlyText(cell, mask) {
		return len(cell)
	}
	return 0
}

// onlyText reports whether a cell that begins with a letter, and has bytes of these classes, is plainly nothing but text.
func onlyText(cell []byte, mask uint32) bool {
	last := len(cell) - 1
	switch {
	case mask&(cHigh|cControl|cMarkup) != 0 || cell[last] == ' ':
		return false
	case mask&cDigit == 0:
		return !mayBeWord(cell)
	case mask&cSpace == 0: // it may be a code
		return false
	}
	return !mayBeCurrency(cell) && !mayBeDate(cell) && (len(cell) > maxLookAlike || !likeDigits(cell))
}

// onlyLetters returns how many characters a cell has, with some beyond ASCII and no digit, that begins with a letter or
// with one of these, if it is plainly nothing but text: of its characters reading changes none, and none is of what the
// wrong encoding makes. Else it returns 0.
func onlyLetters(cell []byte, mask uint32) (chars int) {
	if mask&(cDigit|cControl|cMarkup) != 0 || len(cell) > maxFolded || cell[len(cell)-1] == ' ' {
		return 0
	}
	as := asItIs.get()
	damaged := false
	for i := 0; i < len(cell); chars++ {
		if cell[i] < utf8.RuneSelf {
			i++
			continue
		}
		c, n := utf8.DecodeRune(cell[i:])
		if page := c / foldPage; int(page) >= len(as) || !as[page] {
			return 0
		}
		damaged = damaged || c == 'Ã' || c == 'Â' || c == 'â'
		i += n
	}
	if damaged && misdecoded(cell) || len(cell) <= maxWord && mayBeWordOf(cell, chars) {
		return 0
	}
	return chars
}

// mayBeWordOf reports whether some word in the tables has the first character of a text, which has so many characters,
// and as many.
func mayBeWordOf(text []byte, chars int) bool {
	first, _ := utf8.DecodeRune(text)
	return wordRunes[byte(unicode.ToLower(first))]>>chars&1 == 1
}

// mayBeWord reports whether some word in the tables has the first letter and the length of
// text, which is ASCII and begins with a letter.
func mayBeWord(text []byte) bool {
	return len(text) <= maxWord && wordLengths[text[0]|0x20]>>len(text)&1 == 1
}

// likeDigits reports whether a number may be made of all bytes of text.
func likeDigits(text []byte) bool {
	for _, b := range text {
		if !mayLookAlike[b] {
			return false
		}
	}
	return true
}
