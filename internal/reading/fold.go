package reading

import (
	"unicode"
	"unicode/utf8"

	"junvo/internal/character"
)

// The classes of bytes. One pass over a cell collects which occur in it, and that
// alone sends most cells the right way.
const (
	cDigit uint32 = 1 << iota
	cLower
	cUpper
	cPoint
	cComma
	cSpace
	cMinus
	cSlash
	cColon
	cApos
	cUnder
	cParen
	cPlus
	cSign   // % $ * # @ and other printing characters
	cMarkup // & and <, with which references and tags begin
	cQuote
	cControl
	cHigh // part of a character beyond ASCII
)

var classes = func() (t [256]uint32) {
	for b := range t {
		switch c := byte(b); {
		case c >= 0x80:
			t[b] = cHigh
		case c < ' ', c == 0x7f:
			t[b] = cControl
		case c >= '0' && c <= '9':
			t[b] = cDigit
		case c >= 'a' && c <= 'z':
			t[b] = cLower
		case c >= 'A' && c <= 'Z':
			t[b] = cUpper
		default:
			t[b] = cSign
		}
	}
	for b, c := range map[byte]uint32{
		'.': cPoint, ',': cComma, ' ': cSpace, '-': cMinus, '/': cSlash, ':': cColon,
		'\'': cApos, '_': cUnder, '(': cParen, ')': cParen, '+': cPlus, '"': cQuote,
		'&': cMarkup, '<': cMarkup,
	} {
		t[b] = c
	}
	return t
}()

// classesOf returns the classes of all bytes of text.
func classesOf(text []byte) (mask uint32) {
	for len(text) >= 8 {
		t := (*[8]byte)(text)
		mask |= classes[t[0]] | classes[t[1]] | classes[t[2]] | classes[t[3]] | classes[t[4]] | classes[t[5]] | classes[t[6]] | classes[t[7]]
		text = text[8:]
	}
	for _, b := range text {
		mask |= classes[b]
	}
	return mask
}

// Folded text is ASCII where people mean the same: spaces of all kinds are ' ',
// every minus is '-', digits of all scripts are '0' to '9'. The two Arabic marks,
// which have no ASCII form, become these bytes.
//
// A line break is a space at an end only: between digits it parts two numbers, not two groups.
const (
	foldArabicDecimal = 0x01
	foldArabicGroup   = 0x02
	foldBreak         = 0x03
)

// foldRunes maps characters to their folded form; 0 drops the character.
var foldRunes = map[rune]rune{
	'\u2212': '-', '\u2010': '-', '\u2011': '-', '\u2012': '-', '\u2013': '-', '\u2014': '-', '\ufe63': '-',
	'\u2019': '\'', '\u2018': '\'', '\u02bc': '\'', '\u2032': '\'', '\uff07': '\'',
	'\u066b': foldArabicDecimal, '\u066c': foldArabicGroup,
	'\uff0e': '.', '\uff0c': ',', '\uff0f': '/', '\uff1a': ':', '\uff08': '(', '\uff09': ')', '\uff0b': '+', '\uff05': '%',
	'\u060c': ',', '\u3001': ',', '\u1363': ',', '\u2e41': ',', '\u02bb': '\'', '\u0609': '\u2030', '\uff04': '$',
	'\uffe5': '\u00a5',
	'\uff0d': '-', '\u066a': '%', '\t': ' ', '\n': foldBreak, '\r': foldBreak, '\v': foldBreak, '\f': foldBreak,
}

// fractions are the characters for a fraction of one, in the form that it has after a whole number.
var fractions = map[rune]string{
	'½': "1/2", '¼': "1/4", '¾': "3/4", '⅛': "1/8", '⅜': "3/8", '⅝': "5/8", '⅞': "7/8", '⅕': "1/5", '⅖': "2/5", '⅗': "3/5",
	'⅘': "4/5", '⅒': "1/10", '⅓': "1/3", '⅔': "2/3", '⅙': "1/6", '⅚': "5/6",
}

// appendFraction appends a fraction behind text, with its whole number.
func appendFraction(text []byte, fraction string) []byte {
	switch n := len(text); {
	case n == 0 || text[n-1]-'0' > 9 && (n == 1 || text[n-1] != ' ' || text[n-2]-'0' > 9):
		text = append(text, '0', ' ')
	case text[n-1] != ' ':
		text = append(text, ' ')
	}
	return append(text, fraction...)
}

// fold appends the folded form of a cell's text, without spaces and invisible
// characters at either end. It reports bytes that are not UTF-8, whether anything
// in it is invisible, and whether anything in it is [character.Stray]. torn says that its digits are no number
// together: they are of several scripts, or something that does not show stands between them, or a soft hyphen or a
// control character beside them.
func fold(dst, cell []byte) (text []byte, bad, invisible, stray, torn bool) {
	text = dst
	as := asItIs.get()
	var folded folding
	for len(cell) > 0 {
		plain := 0
		for plain < len(cell) && cell[plain]-' ' < 0x7f-' ' {
			plain++
		}
		if plain > 0 {
			torn = torn || folded.tears(text, cell[0])
			text = append(text, cell[:plain]...)
			cell = cell[plain:]
			continue
		}
		r, n := utf8.DecodeRune(cell)
		if page := r / foldPage; int(page) < len(as) && as[page] {
			text = append(text, cell[:n]...)
			cell = cell[n:]
			continue
		}
		switch f, ok := foldRunes[r]; {
		case r == utf8.RuneError: // no text, or what an earlier program put in its place
			bad = bad || n == 1
			text = append(text, cell[:n]...)
		case ok:
			text = utf8.AppendRune(text, f)
		case fractions[r] != "":
			text = appendFraction(text, fractions[r])
		case unicode.Is(unicode.Zs, r), r == '\u0085', r == '\u2028', r == '\u2029':
			stray = true
			text = append(text, ' ')
		case unicode.Is(unicode.Nd, r):
			torn = torn || folded.tears(text, '0')
			value := digitValue(r)
			torn = torn || folded.digits > 0 && folded.zero != r-rune(value)
			folded.zero = r - rune(value)
			folded.digits++
			text = append(text, '0'+byte(value))
		case character.Invisible(r):
			invisible, stray = true, true
			folded.hidden(text, r)
		default:
			text = append(text, cell[:n]...)
		}
		cell = cell[n:]
	}
	torn = torn || folded.tears(text, 0)
	if folded.digits > 0 {
		for _, b := range text {
			folded.digits -= int(bit(b-'0' <= 9))
		}
		torn = torn || folded.digits < 0
	}
	return trimSpaces(text), bad, invisible, stray, torn
}

// folding is what fold keeps in mind of a cell.
type folding struct {
	zero   rune // of the script of the digits so far that are not of ASCII
	digits int  // how many they are
	at     int  // one more than where something stood that does not show; 0 for none
	hard   bool // it is a soft hyphen or a control character, no mark for the direction of the text or the like
}

// hidden notes a character that does not show and stands at the end of text.
func (f *folding) hidden(text []byte, r rune) {
	f.at, f.hard = len(text)+1, r == '\u00ad' || unicode.Is(unicode.Cc, r)
}

// tears reports whether what was noted as hidden before the next byte tears a number.
func (f *folding) tears(text []byte, next byte) bool {
	if f.at != len(text)+1 {
		return false
	}
	f.at = 0
	before := len(text) > 0 && text[len(text)-1]-'0' <= 9
	after := next-'0' <= 9
	return before && after || f.hard && (before || after)
}

// foldPage is how many characters stand in a page of asItIs.
const foldPage = 64

// asItIs has the pages of characters of which fold changes none: the letters of most scripts.
var asItIs = lazy[[1 << 16 / foldPage]bool]{make: func() *[1 << 16 / foldPage]bool {
	var pages [1 << 16 / foldPage]bool
	for page := utf8.RuneSelf / foldPage; page < len(pages); page++ {
		pages[page] = true
	}
	pages[utf8.RuneError/foldPage] = false
	for r := range foldRunes {
		pages[r/foldPage] = false
	}
	for r := range fractions {
		pages[r/foldPage] = false
	}
	tables := append([]*unicode.RangeTable{unicode.Zs, unicode.Zl, unicode.Zp, unicode.Nd}, character.InvisibleTables...)
	for _, table := range tables {
		for _, g := range table.R16 {
			for r := int(g.Lo); r <= int(g.Hi); r += int(g.Stride) {
				pages[r/foldPage] = false
			}
		}
	}
	return &pages
}}

// Shown reports whether a character shows, so that a cell with it is not blank.
func Shown(c rune) bool {
	as := asItIs.get()
	if page := c / foldPage; int(page) < len(as) && as[page] {
		return true
	}
	return c != ' ' && foldRunes[c] != ' ' && foldRunes[c] != foldBreak && !character.Stray(c)
}

// digitValue returns the value of a decimal digit of any script: the digits of a
// script stand in a row in Unicode, each row starting at a multiple of ten code
// points from the start of its range.
func digitValue(r rune) int {
	for _, g := range unicode.Nd.R16 {
		if uint16(r) >= g.Lo && r <= rune(g.Hi) {
			return int(r-rune(g.Lo)) % 10
		}
	}
	for _, g := range unicode.Nd.R32 {
		if uint32(r) >= g.Lo && uint32(r) <= g.Hi {
			return int(uint32(r)-g.Lo) % 10
		}
	}
	return 0
}

func trimSpaces(b []byte) []byte {
	for len(b) > 0 && (b[0] == ' ' || b[0] == foldBreak) {
		b = b[1:]
	}
	for len(b) > 0 && (b[len(b)-1] == ' ' || b[len(b)-1] == foldBreak) {
		b = b[:len(b)-1]
	}
	return b
}

// Fold returns text as the reader sees it: ASCII where people mean the same.
func Fold(s string) string {
	text, _, _, _, _ := fold(nil, []byte(s))
	return string(text)
}

// NameKey returns the key by which a name of a month, a weekday or a part of the day
// is found: its letters and digits in lower case.
func NameKey(name string) string {
	return string(appendKey(nil, []byte(Fold(name))))
}

// appendKey appends the letters and digits of folded text in lower case.
func appendKey(dst, text []byte) []byte {
	for i := 0; i < len(text); {
		b := text[i]
		if b < utf8.RuneSelf {
			if c := classes[b]; c&(cLower|cUpper) != 0 {
				dst = append(dst, b|0x20)
			} else if c&cDigit != 0 {
				dst = append(dst, b)
			}
			i++
			continue
		}
		r, n := utf8.DecodeRune(text[i:])
		if unicode.IsLetter(r) || unicode.IsMark(r) {
			dst = utf8.AppendRune(dst, unicode.ToLower(r))
		}
		i += n
	}
	return dst
}
