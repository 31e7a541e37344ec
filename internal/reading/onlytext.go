package reading

// OnlyText reports whether a cell is plainly nothing but text, which the first letters and the classes of its bytes tell
// of most text. Where Read would find anything else in it, or something odd about it, OnlyText is false; and of texts
// whose outlines the reader is to learn, which are read quicker when they come again.
func (r *Reader) OnlyText(cell []byte) bool {
	if LongWay || len(cell) == 0 || !letter(cell[0]) {
		return false
	}
	mask := classesOf(cell)
	if mask&cDigit != 0 && len(cell) <= maxOutline && r.outlines != nil {
		if r.outlines.rest == 0 {
			return false
		}
		r.outlines.rest--
	}
	return onlyText(cell, mask)
}

// onlyText reports whether a cell that begins with a letter, and has bytes of these classes, is plainly nothing but text.
func onlyText(cell []byte, mask uint32) bool {
	last := len(cell) - 1
	switch {
	case mask&(cHigh|cControl|cSign) != 0 || cell[last] == ' ':
		return false
	case mask&cDigit == 0:
		return !mayBeWord(cell)
	case mask&cSpace == 0: // it may be a code
		return false
	}
	return !mayBeCurrency(cell) && !mayBeDate(cell) && (len(cell) > maxLookAlike || !likeDigits(cell))
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
