package teach

import (
	"regexp"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// class is what a character is to rules: letters, digits and spaces run together, any other stands for itself.
type class uint8

const (
	other class = iota
	letter
	digit
	space
)

func classOf(r rune) class {
	switch {
	case unicode.IsDigit(r):
		return digit
	case unicode.IsLetter(r) || unicode.IsMark(r):
		return letter
	case unicode.IsSpace(r):
		return space
	}
	return other
}

// run is a run of characters of one class; of other characters, one.
type run struct {
	text  string
	class class
}

// runsOf cuts a text into its runs.
func runsOf(text string) (runs []run) {
	for start := 0; start < len(text); {
		r, n := utf8.DecodeRuneInString(text[start:])
		c, end := classOf(r), start+n
		for c != other && end < len(text) {
			next, n := utf8.DecodeRuneInString(text[end:])
			if classOf(next) != c {
				break
			}
			end += n
		}
		runs = append(runs, run{text[start:end], c})
		start = end
	}
	return runs
}

// places lists the texts of a cell that others may be cut at: marks, spaces, words, and what stands between digits.
func places(text string) (list []string) {
	seen := map[string]bool{}
	add := func(s string) {
		if s != "" && !seen[s] && len(s) <= maxPlace {
			seen[s] = true
			list = append(list, s)
		}
	}
	runs := runsOf(text)
	for i, r := range runs { // marks with the spaces beside them first: they say more than a mark by itself
		if r.class != other {
			continue
		}
		before, after := "", ""
		if i > 0 && runs[i-1].class == space {
			before = runs[i-1].text
		}
		if i+1 < len(runs) && runs[i+1].class == space {
			after = runs[i+1].text
		}
		add(before + r.text + after)
		add(r.text + after)
		add(r.text)
	}
	for _, r := range runs {
		if r.class == space {
			add(r.text)
		}
	}
	for i, r := range runs {
		if r.class != letter {
			continue
		}
		after, before := "", ""
		if i+1 < len(runs) && runs[i+1].class != digit && runs[i+1].class != letter {
			after = runs[i+1].text
		}
		if i > 0 && runs[i-1].class == space {
			before = runs[i-1].text
		}
		add(r.text + after)
		add(before + r.text)
		add(r.text)
	}
	for part := range strings.FieldsFuncSeq(text, unicode.IsDigit) {
		add(part)
	}
	return list
}

// maxPlace is how many bytes a text has at most that others are cut at.
const maxPlace = 24

// kinds returns what a text is made of: a bit for each class, and one for each mark of ASCII.
func kinds(text string) (bits [3]uint64) {
	for _, r := range text {
		switch c := classOf(r); {
		case c == letter && unicode.IsUpper(r):
			bits[0] |= 1 << 4
		case c != other:
			bits[0] |= 1 << c
		case r < utf8.RuneSelf:
			bits[1+r/64] |= 1 << (r % 64)
		default:
			bits[0] |= 1
		}
	}
	return bits
}

// patternOf returns regular expressions that texts of the form of this one match: of runs of any length, and of those
// lengths; "" where the text has but one run.
func patternOf(text string) (loose, exact string) {
	var a, b strings.Builder
	runs := runsOf(text)
	b.WriteString(`\b`)
	for _, r := range runs {
		switch r.class {
		case digit:
			a.WriteString(`\d+`)
			b.WriteString(`\d`)
		case letter:
			one := `[a-z]`
			switch {
			case r.text == strings.ToUpper(r.text):
				one = `[A-Z]`
			case r.text != strings.ToLower(r.text):
				one = `[A-Za-z]`
			}
			a.WriteString(one + "+")
			b.WriteString(one)
		default:
			a.WriteString(regexp.QuoteMeta(r.text))
			b.WriteString(regexp.QuoteMeta(r.text))
			continue
		}
		if n := utf8.RuneCountInString(r.text); n > 1 {
			b.WriteString("{" + strconv.Itoa(n) + "}")
		}
	}
	b.WriteString(`\b`)
	first, last := runs[0].class, runs[len(runs)-1].class
	if first == other || first == space || last == other || last == space || !isASCII(text) || len(runs) > 7 {
		return "", ""
	}
	if len(runs) == 1 {
		return "", b.String()
	}
	return a.String(), b.String()
}

func isASCII(text string) bool {
	return strings.IndexFunc(text, func(r rune) bool { return r >= utf8.RuneSelf }) < 0
}
