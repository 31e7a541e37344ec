package step

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"

	"junvo/internal/character"
	"junvo/internal/reason"
)

func spaceOrInvisible(r rune) bool { return character.Space(r) || character.Invisible(r) }

// inASCII says of each character of ASCII whether it is of a class: most text is of these.
type inASCII [utf8.RuneSelf]bool

func asciiOf(in func(rune) bool) (table inASCII) {
	for r := range rune(len(table)) {
		table[r] = in(r)
	}
	return table
}

var trimmed, spaces = asciiOf(spaceOrInvisible), asciiOf(character.Space)

func trim(text string) string {
	if n := len(text); n > 0 && plain(text[0], &trimmed) && plain(text[n-1], &trimmed) {
		return text
	}
	return strings.TrimFunc(text, spaceOrInvisible)
}

// plain reports whether a byte is a character of ASCII that is not of a class.
func plain(b byte, class *inASCII) bool { return b < utf8.RuneSelf && !class[b] }

// single reports whether a text is of ASCII and has no spaces but single plain ones.
func single(text string) bool {
	before := false
	for i := range len(text) {
		b := text[i]
		now := b >= utf8.RuneSelf || spaces[b]
		if now && (b != ' ' || before) {
			return false
		}
		before = now
	}
	return true
}

func singleSpace(text string) string {
	if single(text) {
		return text
	}
	var b strings.Builder
	inside := false
	for _, r := range text {
		if !character.Space(r) {
			b.WriteRune(r)
		} else if !inside {
			b.WriteByte(' ')
		}
		inside = character.Space(r)
	}
	return b.String()
}

func newDrop(args Args) (Step, error) {
	fold := false
	if f, err := fieldsOf(args); err == nil && f.has("of") {
		f.used["of"] = true
		fold, args = f.flag("ignore-case"), f.args["of"]
		if err := f.done(); err != nil {
			return nil, err
		}
	}
	s, err := newSelection(args)
	if err != nil {
		return nil, err
	}
	out := func(text, what string) string { return strings.ReplaceAll(text, what, "") }
	if fold {
		words := map[string]*regexp.Regexp{}
		for _, t := range s.texts {
			words[t] = regexp.MustCompile("(?i)" + regexp.QuoteMeta(t))
		}
		out = func(text, what string) string { return words[what].ReplaceAllString(text, "") }
	}
	rest := func(r rune) rune {
		if s.has(r) {
			return -1
		}
		return r
	}
	return simple(func(text string) string {
		for _, t := range s.texts {
			text = out(text, t)
		}
		if len(s.in) == 0 {
			return text
		}
		return without(text, &s.ascii, rest)
	}), nil
}

// without takes characters out of a text: those of ASCII that are gone, of any others those that rest makes -1 of.
func without(text string, gone *inASCII, rest func(rune) rune) string {
	first, last, n := -1, -1, 0 // of what stays
	for i := range len(text) {
		switch b := text[i]; {
		case b >= utf8.RuneSelf:
			return strings.Map(rest, text)
		case gone[b]:
			n++
		default:
			if last = i; first < 0 {
				first = i
			}
		}
	}
	if first < 0 {
		return ""
	}
	if last-first+1 == len(text)-n {
		return text[first : last+1] // it stands together
	}
	out := make([]byte, 0, len(text)-n)
	for i := first; i <= last; i++ {
		if !gone[text[i]] {
			out = append(out, text[i])
		}
	}
	return string(out)
}

func newKeep(args Args) (Step, error) {
	s, err := newSelection(args)
	if err != nil {
		return nil, err
	}
	chars := strings.Join(s.texts, "")
	stays := func(r rune) bool { return s.has(r) || strings.ContainsRune(chars, r) }
	gone := asciiOf(func(r rune) bool { return !stays(r) })
	rest := func(r rune) rune {
		if stays(r) {
			return r
		}
		return -1
	}
	return simple(func(text string) string { return without(text, &gone, rest) }), nil
}

// index turns a number from 1, or negative from the end, into an index, -1 if there
// are not so many.
func index(n, count int) int {
	if n < 0 {
		n += count + 1
	}
	if n < 1 || n > count {
		return -1
	}
	return n - 1
}

// offset returns where the text ends that has the first n characters, as people see them, of a text.
func offset(text string, n int) int {
	if eachByte(text) {
		return min(n, len(text))
	}
	at, state := 0, -1
	for ; n > 0 && at < len(text); n-- {
		var c string
		c, _, _, state = uniseg.FirstGraphemeClusterInString(text[at:], state)
		at += len(c)
	}
	return at
}

// length returns how many characters a text has, as people see them.
func length(text string) int {
	if eachByte(text) {
		return len(text)
	}
	return uniseg.GraphemeClusterCount(text)
}

// eachByte reports whether each byte of a text is a character: it is of ASCII, without a line break of two bytes.
func eachByte(text string) bool {
	for i := range len(text) {
		if text[i] >= utf8.RuneSelf || text[i] == '\r' {
			return false
		}
	}
	return true
}

func newOverwrite(args Args) (Step, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	with := f.text("with", "")
	from, most := f.number("from", 1), f.number("length", max(1, length(with)))
	otherwise := f.otherwise("keep")
	if err := f.done(); err != nil {
		return nil, err
	}
	return finding{func(text string) (string, bool) {
		start := offset(text, from-1)
		if start == len(text) {
			return "", false
		}
		rest := text[start:]
		return text[:start] + with + rest[offset(rest, most):], true
	}, otherwise}, nil
}

func newPad(args Args) (Step, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	width, with, side := f.number("width", 0), f.text("with", " "), f.text("side", "left")
	otherwise := f.otherwise("keep")
	switch {
	case !f.has("width"):
		f.fail("it takes a width")
	case length(with) != 1:
		f.fail("with is one character")
	case side != "left" && side != "right":
		f.fail("side is left or right")
	case width > maxWidth:
		f.fail("width is at most %d", maxWidth)
	}
	if err := f.done(); err != nil {
		return nil, err
	}
	return finding{func(text string) (string, bool) {
		n := width - length(text)
		if n < 0 {
			return "", false
		}
		fill := strings.Repeat(with, n)
		if side == "right" {
			return text + fill, true
		}
		return fill + text, true
	}, otherwise}, nil
}

// maxWidth bounds what pad makes of a cell.
const maxWidth = 10_000

func newPunctuate(args Args) (Step, error) {
	f := oneOr(args, "pattern")
	pattern, otherwise := f.text("pattern", ""), f.otherwise("keep")
	if err := f.done(); err != nil {
		return nil, err
	}
	places := strings.Count(pattern, "9")
	if places == 0 {
		return nil, fmt.Errorf("it takes a pattern in which each 9 stands for a letter or digit")
	}
	return finding{func(text string) (string, bool) {
		var chars []rune
		for _, r := range text {
			if unicode.IsDigit(r) || unicode.IsLetter(r) {
				chars = append(chars, r)
			}
		}
		if len(chars) != places {
			return "", false
		}
		var b strings.Builder
		for _, r := range pattern {
			if r == '9' {
				r, chars = chars[0], chars[1:]
			}
			b.WriteRune(r)
		}
		return b.String(), true
	}, otherwise}, nil
}

// fill gives blank cells a value; whoever applies the chain asks for it ([Chain.Fill]).
type fill struct{ Filling }

// Filling is what blank cells are given.
type Filling struct {
	With  string // a text
	Above bool   // or the value of the nearest cell above that is not blank
}

func newFill(args Args) (Step, error) {
	if f, err := fieldsOf(args); err == nil {
		if f.text("from", "") != "above" {
			f.fail("from is above")
		}
		return fill{Filling{Above: true}}, f.done()
	}
	list, err := texts(args)
	if err != nil || len(list) != 1 || list[0] == "" {
		return nil, fmt.Errorf("it takes the value for blank cells, or {from: above}")
	}
	return fill{Filling{With: list[0]}}, nil
}

func (f fill) Apply(text string) (string, reason.Reason) {
	if text == "" {
		return f.With, reason.None
	}
	return text, reason.None
}
