package step

import (
	"fmt"
	"html"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/unicode/norm"

	"junvo/internal/reading"
)

// mends undo damage, by the names that a plan uses.
var mends = map[string]func(string) string{
	"decoding":      mendDecoding,
	"look-alikes":   reading.MendLookAlikes,
	"markup":        mendMarkup,
	"compatibility": norm.NFKC.String,
}

func newMend(args Args) (Step, error) {
	list, err := texts(args)
	if err != nil {
		return nil, err
	}
	var all []func(string) string
	for _, name := range list {
		m, ok := mends[name]
		if !ok {
			return nil, fmt.Errorf("there is no damage %q; there are decoding, look-alikes, markup and compatibility", name)
		}
		all = append(all, m)
	}
	return simple(func(text string) string {
		for _, m := range all {
			text = m(text)
		}
		return text
	}), nil
}

// mendDecoding turns the characters back into the bytes of Windows-1252 that they were
// read as, and those into UTF-8, if that is what they are.
//
// Bytes that are not text are read as Windows-1252, too: one such byte stands for one character.
func mendDecoding(text string) string {
	if !utf8.ValidString(text) {
		return decodeBroken(text)
	}
	raw := make([]byte, 0, len(text))
	beyond := false
	for _, r := range text {
		b, ok := charmap.Windows1252.EncodeRune(r)
		if !ok && r < 0x100 {
			b, ok = byte(r), true
		}
		if !ok {
			return text
		}
		beyond = beyond || b >= utf8.RuneSelf
		raw = append(raw, b)
	}
	if !beyond || !utf8.Valid(raw) {
		return text
	}
	return string(raw)
}

// decodeBroken reads the bytes of a text that are no UTF-8 as Windows-1252.
func decodeBroken(text string) string {
	var b strings.Builder
	for len(text) > 0 {
		r, n := utf8.DecodeRuneInString(text)
		if r == utf8.RuneError && n == 1 {
			if r = charmap.Windows1252.DecodeByte(text[0]); r == utf8.RuneError {
				r = rune(text[0])
			}
		}
		b.WriteRune(r)
		text = text[n:]
	}
	return b.String()
}

var tag = regexp.MustCompile(`</?[A-Za-z][^<>]*>`)

func mendMarkup(text string) string {
	if strings.ContainsRune(text, '<') {
		text = tag.ReplaceAllString(text, "")
	}
	if strings.ContainsRune(text, '&') {
		text = html.UnescapeString(text)
	}
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) && r != '\n' && r != '\t' {
			return -1 // a character reference must not smuggle one in
		}
		return r
	}, text)
}
