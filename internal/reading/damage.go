package reading

import (
	"bytes"
	"unicode/utf8"
)

// Damage is what happened to a text before it got here. It is found and named, and
// mended only on demand.

// lookAlikes are letters that are taken for digits, in Latin, Greek and Cyrillic.
var lookAlikes = map[rune]byte{
	'O': '0', 'o': '0', 'О': '0', 'о': '0', 'Ο': '0', 'ο': '0', 'Q': '0', 'D': '0',
	'l': '1', 'I': '1', 'i': '1', '|': '1', 'І': '1', 'Ι': '1', 'S': '5', 's': '5', 'З': '3', 'з': '3', 'B': '8',
	'В': '8', 'Z': '2', 'z': '2',
}

// numberBytes are the classes of what numbers are made of.
const numberBytes = cDigit | cPoint | cComma | cSpace | cMinus | cSlash

// mayLookAlike has the bytes that look-alikes and numbers are made of, so that most text
// is told by its first letters.
var mayLookAlike = func() (may [256]bool) {
	for b, c := range classes {
		_, like := lookAlikes[rune(b)]
		may[b] = c&(numberBytes|cHigh) != 0 || like
	}
	return may
}()

// maxLookAlike is the longest text that is tried for look-alikes, in bytes.
const maxLookAlike = 32

// lookAlike reports whether text (folded) would be a number or a date if the letters in it that
// look like digits were digits. More than half of its characters are digits or marks.
func (r *Reader) lookAlike(text []byte) bool {
	if len(text) > maxLookAlike || !likeDigits(text) {
		return false
	}
	digits := 0
	for _, b := range text {
		digits += int(bit(classes[b]&cDigit != 0))
	}
	if 2*digits < len(text) {
		return false
	}
	mended := r.lower[:0]
	letters := 0
	for i := 0; i < len(text); {
		b, n := text[i], 1
		switch c := classes[b]; {
		case c&numberBytes != 0:
		default:
			var char rune
			char, n = utf8.DecodeRune(text[i:])
			d, ok := lookAlikes[char]
			if !ok {
				return false
			}
			letters++
			b = d
		}
		mended = append(mended, b)
		i += n
	}
	r.lower = mended[:0]
	if letters == 0 || letters >= digits {
		return false
	}
	var num numeral
	if num.split(mended) && num.affix == nil {
		if s, ok := num.scan(r); ok && s.Any(numbers) {
			return true
		}
	}
	var day Reads
	return r.tokens(mended) && r.numeric(&dateForm{}, &day) != 0 && r.peek().kind == tokEnd
}

// misdecoded reports whether text holds what UTF-8 becomes when it is read as
// Windows-1252 or ISO 8859-1: Ã¼ for ü, â€™ for an apostrophe.
func misdecoded(text []byte) bool {
	for i := 0; i+3 < len(text); i++ {
		if text[i]|1 != 0xc3 {
			continue
		}
		lead, n := utf8.DecodeRune(text[i:])
		next, _ := utf8.DecodeRune(text[i+n:])
		switch {
		case (lead == 'Ã' || lead == 'Â') && continuation(next):
			return true
		case lead == 'â' && (next == '€' || next == 0x80 || next == '‚' || next == 0x82):
			return true
		}
	}
	return false
}

// continuation reports whether a character is what a second byte of UTF-8 becomes:
// U+0080 to U+00BF, or what Windows-1252 has in place of the controls among them.
func continuation(r rune) bool {
	if r >= 0x80 && r <= 0xbf {
		return true
	}
	switch r {
	case '€', '‚', 'ƒ', '„', '…', '†', '‡', 'ˆ', '‰', 'Š', '‹', 'Œ', 'Ž', '‘', '’', '“', '”', '•', '–', '—', '˜', '™', 'š', '›', 'œ', 'ž', 'Ÿ':
		return true
	}
	return false
}

// markup reports whether text holds a tag or a character reference of HTML.
func markup(text []byte) bool {
	if i := bytes.IndexByte(text, '&'); i >= 0 {
		if j := bytes.IndexByte(text[i:], ';'); j > 2 && j < 10 && reference(text[i+1:i+j]) {
			return true
		}
	}
	i := bytes.IndexByte(text, '<')
	if i < 0 || i+2 >= len(text) || !letter(text[i+1]) && text[i+1] != '/' {
		return false
	}
	return bytes.IndexByte(text[i:], '>') > 0
}

func reference(name []byte) bool {
	if name[0] == '#' {
		return len(name) > 1
	}
	for _, b := range name {
		if !letter(b) && classes[b]&cDigit == 0 {
			return false
		}
	}
	return true
}

// Damage says in words what happened to a cell before it got here, "" if nothing is known.
func (s Set) Damage() string {
	switch {
	case s.Any(LookAlike):
		return "letters that look like digits"
	case s.Any(WrongDecoding):
		return "text that was decoded with the wrong encoding"
	case s.Any(Markup):
		return "markup of a web page"
	}
	return ""
}

// MendLookAlikes puts digits in place of the letters that look like them, where the
// text is a number then; other text stays as it is.
func MendLookAlikes(text string) string {
	r := NewReader(nil)
	folded := []byte(Fold(text))
	if !r.lookAlike(folded) {
		return text
	}
	mended := make([]byte, 0, len(folded))
	for _, c := range string(folded) {
		if d, ok := lookAlikes[c]; ok {
			mended = append(mended, d)
		} else {
			mended = utf8.AppendRune(mended, c)
		}
	}
	return string(mended)
}
