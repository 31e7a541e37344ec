package delim

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/encoding/unicode/utf32"
	"golang.org/x/text/transform"
)

// charset is a character encoding. One-byte encodings are decoded block by block
// through a table; the others are decoded while the file is read.
type charset struct {
	name    string
	table   *[256]string // of a one-byte encoding that is ASCII below 0x80
	charmap *charmap.Charmap
	enc     encoding.Encoding
	bom     int  // bytes of the byte order mark that the file starts with
	open    bool // only ASCII so far: the first other bytes will decide
}

func (c *charset) utf8() bool { return c.table == nil && c.enc == nil }

// charsetNamed returns the encoding of a name or alias of the WHATWG Encoding Standard.
func charsetNamed(name string) (*charset, error) {
	lower := strings.ToLower(strings.TrimSpace(name))
	switch lower {
	case "utf-8", "utf8":
		return &charset{name: "utf-8"}, nil
	case "utf-16", "utf-16le":
		return &charset{name: "utf-16le", enc: unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)}, nil
	case "utf-16be":
		return &charset{name: "utf-16be", enc: unicode.UTF16(unicode.BigEndian, unicode.UseBOM)}, nil
	case "utf-32", "utf-32le":
		return &charset{name: "utf-32le", enc: utf32.UTF32(utf32.LittleEndian, utf32.UseBOM)}, nil
	case "utf-32be":
		return &charset{name: "utf-32be", enc: utf32.UTF32(utf32.BigEndian, utf32.UseBOM)}, nil
	}
	if name, page := codePage(lower); page != nil {
		return &charset{name: name, table: tableOf(page), charmap: page}, nil
	}
	enc, err := htmlindex.Get(lower)
	if err != nil {
		return nil, optionError("unknown encoding %q: names such as utf-8, windows-1252, iso-8859-2, cp850 and shift_jis "+
			"are known", name)
	}
	canonical, err := htmlindex.Name(enc)
	if err != nil {
		canonical = lower
	}
	c := &charset{name: canonical, enc: enc}
	if m, ok := enc.(*charmap.Charmap); ok {
		c.table, c.charmap, c.enc = tableOf(m), m, nil
	}
	return c, nil
}

// codePages are the code pages of DOS, by their numbers.
var codePages = map[string]*charmap.Charmap{
	"437": charmap.CodePage437, "850": charmap.CodePage850,
	"852": charmap.CodePage852, "855": charmap.CodePage855, "858": charmap.CodePage858, "860": charmap.CodePage860,
	"862": charmap.CodePage862, "863": charmap.CodePage863, "865": charmap.CodePage865, "866": charmap.CodePage866,
}

// codePage returns the code page of a name such as cp850 or ibm850, and Mac Roman by its names.
func codePage(lower string) (string, *charmap.Charmap) {
	switch lower {
	case "mac-roman", "macroman", "mac roman":
		return "macintosh", charmap.Macintosh
	}
	for _, prefix := range []string{"cp", "ibm", "dos-", "dos", "oem", ""} {
		if n, ok := strings.CutPrefix(lower, prefix); ok && codePages[n] != nil {
			return "cp" + n, codePages[n]
		}
	}
	return "", nil
}

// tableOf returns the texts of the bytes. Bytes that the encoding does not use
// stand for the control characters of the same number, as the Encoding Standard says.
func tableOf(m *charmap.Charmap) *[256]string {
	var t [256]string
	for b := range t {
		r := m.DecodeByte(byte(b))
		if r == utf8.RuneError {
			r = rune(b)
		}
		t[b] = string(r)
	}
	return &t
}

// decode appends text in UTF-8.
func (c *charset) decode(dst, text []byte) []byte {
	for len(text) > 0 {
		i := 0
		for i < len(text) && text[i] < utf8.RuneSelf {
			i++
		}
		dst = append(dst, text[:i]...)
		for text = text[i:]; len(text) > 0 && text[0] >= utf8.RuneSelf; text = text[1:] {
			dst = append(dst, c.table[text[0]]...)
		}
	}
	return dst
}

var utf8Mark = []byte{0xef, 0xbb, 0xbf}

// detectCharset decides the encoding from the start of a file.
func detectCharset(sample []byte) (*charset, string) {
	switch {
	case bytes.HasPrefix(sample, utf8Mark):
		return &charset{name: "utf-8", bom: 3}, "byte order mark"
	case bytes.HasPrefix(sample, []byte{0xff, 0xfe, 0, 0}):
		c, _ := charsetNamed("utf-32le")
		return c, "byte order mark"
	case bytes.HasPrefix(sample, []byte{0, 0, 0xfe, 0xff}):
		c, _ := charsetNamed("utf-32be")
		return c, "byte order mark"
	case bytes.HasPrefix(sample, []byte{0xff, 0xfe}):
		c, _ := charsetNamed("utf-16le")
		return c, "byte order mark"
	case bytes.HasPrefix(sample, []byte{0xfe, 0xff}):
		c, _ := charsetNamed("utf-16be")
		return c, "byte order mark"
	}
	if name, why := guessWide(sample); name != "" {
		c, _ := charsetNamed(name)
		return c, why
	}
	return charsetOf(sample)
}

// Decoder returns the encoding of a name, or where that is empty the one of two bytes or more for
// each character that the start of a text shows; and what decodes it. It returns nil for UTF-8.
func Decoder(name string, head []byte) (string, transform.Transformer, error) {
	cs, _ := detectCharset(head)
	if name != "" {
		var err error
		if cs, err = charsetNamed(name); err != nil {
			return "", nil, err
		}
	}
	switch {
	case cs.enc != nil && (name != "" || strings.HasPrefix(cs.name, "utf-")):
		return cs.name, cs.enc.NewDecoder(), nil
	case cs.table != nil && name != "":
		return cs.name, cs.charmap.NewDecoder(), nil
	}
	return "utf-8", nil, nil
}

// charsetOf decides the encoding by the bytes beyond ASCII.
func charsetOf(sample []byte) (*charset, string) {
	good, bad := countUTF8(sample)
	switch {
	case good+bad == 0:
		return &charset{name: "utf-8", open: true}, "it is all ASCII"
	case bad == 0:
		return &charset{name: "utf-8"}, fmt.Sprintf("valid characters beyond ASCII: %d, and no others", good)
	case good >= bad: // what looks like UTF-8 by chance is far rarer in any other encoding
		return &charset{name: "utf-8"}, fmt.Sprintf("valid characters beyond ASCII: %d, and bytes that are in none: %d",
			good, bad)
	}
	return guessCharset(sample)
}

// countUTF8 counts the valid characters beyond ASCII and the bytes that are in none.
func countUTF8(sample []byte) (good, bad int) {
	for len(sample) > 0 {
		if sample[0] < utf8.RuneSelf {
			sample = sample[1:]
			continue
		}
		r, n := utf8.DecodeRune(sample)
		switch {
		case r != utf8.RuneError || n > 1:
			good++
		case !utf8.FullRune(sample):
			return good, bad // cut off by the end of the sample
		default:
			bad++
		}
		sample = sample[n:]
	}
	return good, bad
}
