package teach

import (
	"slices"
	"strings"
	"unicode"

	"junvo/internal/character"
)

// makes is how the cells and the results of the examples look. A result of another make, or one for which something of the
// cell counts that no example shows, is no answer yet, though all rules agree on it: somebody has to say that it is right.
type makes struct {
	made      [3]uint64 // what the results are made of
	always    [3]uint64 // the marks and spaces that all of them have
	shape     string    // of all results that are codes, where they have one
	unchanged bool      // whether a result is a cell as it stands
	signed    bool      // whether a cell has a sign
}

// longCode is how long a result of digits, capital letters and marks is at least whose length is no chance.
const longCode = 4

// makesOf looks at the examples.
func makesOf(t *Task) *makes {
	m := &makes{always: [3]uint64{1 << space, ^uint64(0), ^uint64(0)}}
	shapes := map[string]bool{}
	for i := range t.Examples {
		e := &t.Examples[i]
		cells := t.cells(e.Texts)
		m.signed = m.signed || slices.ContainsFunc(cells, signed)
		if e.None() {
			continue
		}
		k := kinds(e.Result)
		m.made = merge(m.made, k)
		for n := range k {
			m.always[n] &= k[n]
		}
		m.unchanged = m.unchanged || slices.Contains(cells, e.Result)
		shapes[codeShape(e.Result)] = true
	}
	if len(shapes) == 1 {
		for m.shape = range shapes {
		}
	}
	return m
}

// codeShape returns the shape of a code: a text of digits, capital letters and marks; "" of others, and of short ones.
func codeShape(text string) string {
	has := func(in func(rune) bool) bool { return strings.IndexFunc(text, in) >= 0 }
	if len(text) < longCode || !has(unicode.IsDigit) || has(unicode.IsLower) {
		return ""
	}
	return character.Shape(text)
}

// cells returns those texts of a row that are cells as they came.
func (t *Task) cells(texts []string) (cells []string) {
	for i, s := range t.Sources {
		if s.Read == nil {
			cells = append(cells, texts[i])
		}
	}
	return cells
}

// otherMade reports whether a text is made of something that no result is made of, or lacks what all have.
func (m *makes) otherMade(out string) bool {
	k := kinds(out)
	return merge(k, m.made) != m.made || merge(k, m.always) != k
}

// other reports whether what has come out of cells is no answer yet.
func (m *makes) other(cells []string, out string) bool {
	if m.otherMade(out) || m.shape != "" && codeShape(out) != m.shape {
		return true
	}
	for _, cell := range cells {
		if cell == out && !m.unchanged || m.lostSign(cell, out) {
			return true
		}
	}
	return false
}

// lostSign reports whether a cell is of a negative number, as no example's is, and what has come out of it is not.
func (m *makes) lostSign(cell, out string) bool {
	return !m.signed && signed(cell) && !signed(out) && strings.IndexFunc(out, unicode.IsDigit) >= 0
}

// signed reports whether a text has a minus before a number, and not between two words or numbers.
func signed(text string) bool {
	before := ' '
	for i, r := range text {
		if r == '-' || r == '−' || r == '–' {
			after := text[i+len(string(r)):]
			if len(after) > 0 && after[0] >= '0' && after[0] <= '9' && !unicode.IsLetter(before) && !unicode.IsDigit(before) &&
				(before != ' ' || !digitBefore(text[:i])) {
				return true
			}
		}
		before = r
	}
	return false
}

// digitBefore reports whether the last thing in a text, spaces aside, is a digit: a minus behind it is a dash.
func digitBefore(text string) bool {
	text = strings.TrimRightFunc(text, unicode.IsSpace)
	return text != "" && text[len(text)-1] >= '0' && text[len(text)-1] <= '9'
}
