package character

import (
	"math"
	"strconv"
	"unicode"
	"unicode/utf8"
)

// ShapeBytes has for each byte what stands for it in a shape, itself where it is no digit and no letter of ASCII. Texts of
// ASCII for which the same bytes stand have the same shape.
var ShapeBytes = func() (all [256]byte) {
	for c := range all {
		all[c] = byte(c)
		if c < len(ascii) && ascii[c] != 0 {
			all[c] = ascii[c]
		}
	}
	return all
}()

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

// MostShapes is how many shapes of a column are kept, to be held against those of other files: with more of them, none
// is.
const MostShapes = 24

// MaxShapeRun is how many like characters a shape repeats.
const MaxShapeRun = 8

// Shape returns a text with each digit shown as 9, each upper-case letter as A, each
// other letter as a. A run of more than eight letters is cut to that and an ellipsis; one of
// more than eight digits keeps its length, as in 9{13}.
func Shape(text string) string { return string(AppendShape(nil, []byte(text))) }

// AppendShape appends the shape of a text.
func AppendShape(dst, text []byte) []byte { return AppendShapeStart(dst, text, math.MaxInt) }

// AppendShapeStart appends the start of the shape of a text, which has at least that many runs of like characters if
// the shape has them, ellipses left out.
func AppendShapeStart(dst, text []byte, runs int) []byte {
	last, run := byte(0), 0
	kind := rune(0) // the class of the last run, or its character where it has no class
	for i := 0; i < len(text); {
		class, n := byte(0), 1 // characters of a class
		char := rune(text[i])
		from := i
		if c := text[i]; c < utf8.RuneSelf {
			class = ascii[c]
			for i++; class != 0 && i < len(text) && text[i] < utf8.RuneSelf && ascii[text[i]] == class; i++ {
				n++
			}
		} else {
			r, size := utf8.DecodeRune(text[i:])
			i += size
			char = r
			if class = shapeClass(r); class == 0 && (last == 'a' || last == 'A') && unicode.IsMark(r) {
				continue // belongs to the letter
			}
			if class == 0 && r == utf8.RuneError {
				dst = utf8.AppendRune(foldDigits(dst, last, run), r)
				last, run = 0, 0
				continue
			}
		}
		if class != last {
			dst = foldDigits(dst, last, run)
			last, run = class, 0
		}
		if class != 0 {
			char = rune(class)
		}
		if char != kind && char != '…' {
			if kind = char; runs == 0 {
				return dst
			}
			runs--
		}
		if class == 0 {
			dst = append(dst, text[from:i]...)
			continue
		}
		for range min(MaxShapeRun, run+n) - min(MaxShapeRun, run) {
			dst = append(dst, class)
		}
		if run <= MaxShapeRun && run+n > MaxShapeRun && class != '9' {
			dst = append(dst, "…"...)
		}
		run += n
	}
	return foldDigits(dst, last, run)
}

// foldDigits puts the length of a long run of digits in place of what stands at the end for it.
func foldDigits(dst []byte, class byte, run int) []byte {
	if class != '9' || run <= MaxShapeRun {
		return dst
	}
	dst = append(dst[:len(dst)-MaxShapeRun], "9{"...)
	return append(strconv.AppendInt(dst, int64(run), 10), '}')
}

// shapeClass is what a character that is not of ASCII is shown as, 0 for itself.
func shapeClass(r rune) byte {
	switch {
	case r >= 'а' && r <= 'я' || r >= '一' && r <= '龠' || r >= 'ぁ' && r <= 'ゖ' || r >= '가' && r <= '힣':
		return 'a' // the letters of large tables, without a search for each
	case unicode.IsDigit(r):
		return '9'
	case unicode.IsUpper(r):
		return 'A'
	case unicode.IsLetter(r):
		return 'a'
	}
	return 0
}
