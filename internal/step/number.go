package step

import (
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"junvo/internal/reading"
)

// A number in a text is what the reading of cells would see there: digits with decimal and
// group marks between them, a mark before the first digit as in .5, groups of three after
// spaces, an exponent, and the sign. Between two digits or after a letter a hyphen is no
// sign: 10-12 has the numbers 10 and 12, and lot-5 has 5.

// groupSpaces are the spaces that people write between groups of digits.
const groupSpaces = " \u00a0\u202f\u2009\u2007\u2008"

// marks stand between the digits of a number.
const marks = ".,'’٫٬_"

func minus(r rune) bool { return strings.ContainsRune("-−﹣－‐‑–", r) }

// readers are the readers that look at whole cells; a reader serves one goroutine at a time.
var readers = sync.Pool{New: func() any { return reading.NewReader(nil) }}

// takeNumber takes the nth number of a text, with its sign.
func takeNumber(f *fields) (take, error) {
	nth := f.nth("number", 1)
	return func(text string) (string, bool) {
		all := numbersIn(text)
		i := index(nth, len(all))
		if i < 0 {
			return "", false
		}
		if len(all) == 1 && isDigit(firstOf(all[0])) && negative(text) {
			return "-" + all[0], true // (12.50), 12.50-, 12.50 Cr
		}
		return all[i], true
	}, nil
}

// negative reports whether a cell is a negative number as a whole.
func negative(text string) bool {
	r := readers.Get().(*reading.Reader)
	defer readers.Put(r)
	x := r.Read([]byte(text))
	return x.Set.IsNumber() && x.Negative
}

func isDigit(r rune) bool { return unicode.Is(unicode.Nd, r) }

func firstOf(s string) rune {
	r, _ := utf8.DecodeRuneInString(s)
	return r
}

// numbersIn returns the numbers of a text in order.
func numbersIn(text string) (all []string) {
	chars := []rune(text)
	at := func(i int) rune {
		if i < 0 || i >= len(chars) {
			return 0
		}
		return chars[i]
	}
	mark := func(i int) bool { return strings.ContainsRune(marks, at(i)) && at(i) != 0 }
	for i := 0; i < len(chars); {
		if !isDigit(chars[i]) {
			i++
			continue
		}
		start, end := i, numberEnd(at, mark, i)
		if (at(i-1) == '.' || at(i-1) == ',' || at(i-1) == '٫') && !word(at(i-2)) {
			start--
		}
		if s := at(start - 1); (minus(s) || s == '+') && !word(at(start-2)) && at(start-2) != ')' {
			start--
		}
		all = append(all, string(chars[start:end]))
		i = end
	}
	return all
}

func word(r rune) bool { return unicode.IsLetter(r) || isDigit(r) || r == '_' }

// numberEnd returns where the number ends whose first digit is the ith character.
func numberEnd(at func(int) rune, mark func(int) bool, i int) int {
	run := func(i int) int {
		for isDigit(at(i)) {
			i++
		}
		return i
	}
	end := run(i)
	if end-i <= 3 && at(i) != '0' {
		// Groups after spaces have three digits each.
		for at(end) != 0 && strings.ContainsRune(groupSpaces, at(end)) && run(end+1) == end+4 {
			end += 4
		}
	}
	for mark(end) && isDigit(at(end+1)) {
		end = run(end + 1)
	}
	if e := at(end); e == 'e' || e == 'E' {
		exp := end + 1
		if minus(at(exp)) || at(exp) == '+' {
			exp++
		}
		if last := run(exp); last > exp && last-exp <= 3 && !word(at(last)) {
			end = last
		}
	}
	return end
}
