package show

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"junvo/internal/character"
)

// Visible returns text with everything in it that does not print shown as its code
// point, as in ⟨U+00A0⟩; a line break is ⟨LF⟩, a tab ⟨TAB⟩. Bytes that are no UTF-8 are
// shown as ⟨FF⟩. Text without such characters comes back as it is.
func Visible(s string) string {
	ascii := 0 // as far as it prints; character.Stray has none of it
	for ascii < len(s) && s[ascii]-' ' < 0x7f-' ' {
		ascii++
	}
	if ascii == len(s) {
		return s
	}
	plain := true
	for _, r := range s[ascii:] {
		if hidden(r) || r == utf8.RuneError || r == '⟨' {
			plain = false
			break
		}
	}
	if plain {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		r, n := utf8.DecodeRuneInString(s[i:])
		switch {
		case r == utf8.RuneError && n == 1:
			code(&b, Hex(uint32(s[i]), 2))
		case r == '\n':
			code(&b, "LF")
		case r == '\r':
			code(&b, "CR")
		case r == '\t':
			code(&b, "TAB")
		case hidden(r):
			code(&b, "U+"+Hex(uint32(r), 4))
		case r == '⟨':
			b.WriteString("⟨⟨⟩")
		default:
			b.WriteRune(r)
		}
		i += n
	}
	return b.String()
}

func code(b *strings.Builder, s string) {
	b.WriteString("⟨" + s + "⟩")
}

func hidden(r rune) bool {
	return r < ' ' || r == 0x7f || character.Stray(r) || !unicode.IsGraphic(r) && r != utf8.RuneError
}

// Hex writes a number in that many hexadecimal digits at least.
func Hex(v uint32, digits int) string {
	const hexDigits = "0123456789ABCDEF"
	var b []byte
	for ; v > 0 || len(b) < digits; v >>= 4 {
		b = append([]byte{hexDigits[v&15]}, b...)
	}
	return string(b)
}

// Guarded is Visible for files that a spreadsheet may open: a sign at the start
// that would make it run the text as a formula is shown as a code as well.
func Guarded(s string) string { return guard(Visible(s)) }

// guard shows a sign at the start of text that is visible already.
func guard(v string) string {
	if v != "" && strings.ContainsRune("=+-@", rune(v[0])) {
		return "⟨" + v[:1] + "⟩" + v[1:]
	}
	return v
}

// markdownText keeps text from being read as markup: Markdown passes tags, links and pictures on.
var markdownText = strings.NewReplacer("\\", "\\\\", "`", "\\`", "*", "\\*", "_", "\\_", "[", "\\[", "]", "\\]", "<",
	"&lt;", ">", "&gt;", "&", "&amp;",
	"!", "\\!", "#", "\\#", "~", "\\~", "$", "\\$", "://", ":\u200b//", "www.", "www\u200b.")

// escapeCell is a text as a cell of a table in Markdown.
func escapeCell(s string) string { return strings.ReplaceAll(markdownText.Replace(s), "|", "\\|") }
