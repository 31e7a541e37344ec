package reading

// maxDateWords is how many words of a text mayBeDate looks at.
const maxDateWords = 4

// mayBeDate reports whether text (folded) may be a date or a time of day: it is not too long for one, and the first of
// its words stand in dates in some language. In most text a word that does not comes before there are numbers enough,
// and then nothing is said of the text as a date: this costs a few letters, where taking it apart costs all of them.
func mayBeDate(text []byte) bool {
	if len(text) > maxDate {
		return false
	}
	t := theNames.get()
	if len(text) >= 3 && letters(text[:3]) == 3 && !t.starts.has(text[:3]) {
		return false
	}
	before := uint32(0) // the hash of the words so far, where a name of several may go on with the next; else 0
	numbers, words, digits := 0, 0, 0
	for i := 0; i < len(text); {
		switch c := classes[text[i]]; {
		case c&cDigit != 0:
			if numbers++; numbers > 2 || numbers > 1 && words > 0 {
				return true
			}
			digits = digitsIn(text[i:])
			i += digits
		case c&cHigh != 0:
			return true
		case c&(cLower|cUpper) == 0:
			i++
		default:
			end := i + letters(text[i:])
			if words++; words > maxDateWords || end < len(text) && text[end] >= 0x80 {
				return true
			}
			word, joinedUp := text[i:end], before
			if before != 0 && t.follow(&joinedUp, word) {
				return true
			}
			hash := uint32(fnvStart)
			goesOn := t.starts.has(word[:min(len(word), 3)]) && t.follow(&hash, word)
			whole := goesOn && t.mayBe(hash) && (len(word) > 3 || t.short.has(word))
			if !besideDate(word) && (!goesOn || !whole && !joined(text[end:])) {
				return false
			}
			if before = 0; goesOn {
				before = hash
			}
			i = end
		}
	}
	// One number beside words is an hour, or eight digits that are a day.
	return numbers != 1 || words == 0 || digits < 3 || digits > 7
}

// follow adds letters in ASCII to the hash of what may be the start of a name, and reports whether it still may.
func (t *nameTable) follow(hash *uint32, word []byte) bool {
	for _, b := range word {
		*hash = (*hash ^ uint32(b|0x20)) * fnvPrime
		if !t.mayGoOn(*hash) {
			return false
		}
	}
	return true
}

// joined reports whether what stands behind a word may be a part of the same name.
func joined(behind []byte) bool {
	for _, b := range behind {
		if b != ' ' && b != '.' && b != '\'' && b != '-' {
			return letter(b) || b >= 0x80
		}
	}
	return false
}
