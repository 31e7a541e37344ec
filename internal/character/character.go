// Package character has facts about characters that all of the program agrees on: which of them do not print, which
// keep a cell from being read, how many there are as people see them, and the shape of a text, in which letters and
// digits are shown by their class:
//
//	character.Shape("LOT 25 / crate 7") // AAA 99 / aaaaa 9
package character

import (
	"unicode"

	"github.com/rivo/uniseg"
)

// Count returns how many characters as people see them a text has (extended grapheme clusters, UAX #29).
func Count(text string) int { return uniseg.GraphemeClusterCount(text) }

// Invisible reports whether a character does not print: format characters such as
// zero-width spaces, soft hyphens, byte order marks and bidirectional marks, and controls.
func Invisible(r rune) bool {
	switch r {
	case '\t', '\n', '\r', '\v', '\f':
		return false
	}
	return unicode.In(r, InvisibleTables...)
}

// InvisibleTables have the characters that are [Invisible], and five of white space in ASCII that are not: the last
// table has the fillers, which are letters and a symbol that show nothing.
var InvisibleTables = []*unicode.RangeTable{unicode.Cf, unicode.Cc, unicode.Variation_Selector, {R16: []unicode.Range16{
	{Lo: 0x115f, Hi: 0x1160, Stride: 1},
	{Lo: 0x2800, Hi: 0x2800, Stride: 1},
	{Lo: 0x3164, Hi: 0x3164, Stride: 1},
	{Lo: 0xffa0, Hi: 0xffa0, Stride: 1},
}}}

// Stray reports whether a character keeps cells from being read by programs that
// expect plain text: spaces other than the plain one, and what does not print.
func Stray(r rune) bool {
	if r < 0x7f && r >= ' ' || r == '\t' || r == '\n' || r == '\r' {
		return false
	}
	return unicode.Is(unicode.Zs, r) || r == '\u0085' || r == '\u2028' || r == '\u2029' || Invisible(r)
}
