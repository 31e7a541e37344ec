package character

import (
	"strconv"
	"unicode"
	"unicode/utf8"
)

// ascii has what each character of ASCII is shown as in a shape, 0 for itself.
var ascii = func() (all [utf8.RuneSelf]byte) {
	for c := range all {
		switch {
		case c >= '0' && c <= '9':
			all[c] = '9'
		case c >= 'A' && c <= 'Z':
			all[c] = 'A'
		case c >= 'a' && c <= 'z':
			all[c] = 'a'
		}
	}
	return all
}()

// MostShapes is how many shapes of a column are kept, to be held against those of other files: with more of them, none is.
const MostShapes = 24

// maxShapeRun is how many like characters a shape repeats.
const maxShapeRun = 8

// Shape returns a text with each digit shown as 9, each upper-case letter as A, each
// other letter as a. A run of more than eight letters is cut to that and an ellipsis; one of
// more than eight digits keeps its length, as in 9{13}.
func Shape(text string) string { return string(AppendShape(nil, []byte(text))) }

// AppendShape appends the shape of a text.
func AppendShape(dst, text []byte) []byte {
	last, run := rune(0), 0
	for len(text) > 0 {
		r, size := rune(text[0]), 1
		class := rune(0)
		switch {
		case r >= utf8.RuneSelf:
			r, size = utf8.DecodeRune(text)
			class = shapeClass(r)
			if class == 0 && (last == 'a' || last == 'A') && unicode.IsMark(r) {
				text = text[size:] // belongs to the letter
				continue
			}
		default:
			class = rune(ascii[r])
		}
		text = text[size:]
		if class != last {
			dst = foldDigits(dst, last, run)
			last, run = class, 0
		}
		if class == 0 {
			dst = utf8.AppendRune(dst, r)
			continue
		}
		switch run++; {
		case run <= maxShapeRun:
			dst = append(dst, byte(class))
		case run == maxShapeRun+1 && class != '9':
			dst = append(dst, "…"...)
		}
	}
	return foldDigits(dst, last, run)
}

// foldDigits puts the length of a long run of digits in place of what stands at the end for it.
func foldDigits(dst []byte, class rune, run int) []byte {
	if class != '9' || run <= maxShapeRun {
		return dst
	}
	dst = append(dst[:len(dst)-maxShapeRun], "9{"...)
	return append(strconv.AppendInt(dst, int64(run), 10), '}')
}

// shapeClass is what a character that is not of ASCII is shown as, 0 for itself.
func shapeClass(r rune) rune {
	switch {
	case unicode.IsDigit(r):
		return '9'
	case unicode.IsUpper(r):
		return 'A'
	case unicode.IsLetter(r):
		return 'a'
	}
	return 0
}
