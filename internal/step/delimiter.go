package step

import (
	"fmt"
	"regexp"
	"strings"

	"junvo/internal/pattern"
)

// delimiter finds where a text is cut: at another text, or at a run of characters of some classes.
type delimiter func(text string) (start, end int) // of the first one; -1 where there is none

// delimiter reads a delimiter: a text, the name of a class, or a list of classes.
func (f *fields) delimiter(key string, fold bool) (delimiter, error) {
	f.used[key] = true
	return delimiterOf(f.args[key], key, fold)
}

func delimiterOf(args Args, key string, fold bool) (delimiter, error) {
	s, err := newSelection(args)
	switch {
	case err != nil:
		return nil, fmt.Errorf("%s: %w", key, err)
	case len(s.in) == 0 && len(s.texts) == 1:
		return literally(s.texts[0], fold)
	case len(s.texts) > 0:
		return nil, fmt.Errorf("%s is one text, or classes of characters", key)
	}
	return func(text string) (int, int) {
		start := strings.IndexFunc(text, s.has)
		if start < 0 {
			return -1, -1
		}
		end := strings.IndexFunc(text[start:], func(r rune) bool { return !s.has(r) })
		if end < 0 {
			return start, len(text)
		}
		return start, start + end
	}, nil
}

// literally finds a text.
func literally(want string, fold bool) (delimiter, error) {
	if fold {
		re, err := pattern.Compile("(?i)" + regexp.QuoteMeta(want))
		return matching(re), err
	}
	return func(text string) (int, int) {
		at := strings.Index(text, want)
		return at, at + len(want)
	}, nil
}

// matching finds what a pattern matches.
func matching(re *regexp.Regexp) delimiter {
	return func(text string) (int, int) {
		if at := re.FindStringIndex(text); at != nil {
			return at[0], at[1]
		}
		return -1, -1
	}
}

// turning finds the places where a character of one selection is followed by one of another; nothing stands there.
func turning(from, to *selection) delimiter {
	return func(text string) (int, int) {
		before := rune(-1)
		for i, r := range text {
			if before >= 0 && from.has(before) && to.has(r) {
				return i, i
			}
			before = r
		}
		return -1, -1
	}
}

// all returns all places of a text at which it is cut, at most so many; 0 for no limit.
func (d delimiter) all(text string, most int) (at [][2]int) {
	for from := 0; most == 0 || len(at) < most; {
		start, end := d(text[from:])
		if start < 0 {
			break
		}
		at = append(at, [2]int{from + start, from + end})
		from += end // what is empty stands behind a character at least, so that this goes on
	}
	return at
}

// nth returns the nth place, from the end where n is negative.
func (d delimiter) nth(text string, n int) ([2]int, bool) {
	if n < 0 {
		at := d.all(text, 0)
		i := index(n, len(at))
		if i < 0 {
			return [2]int{}, false
		}
		return at[i], true
	}
	for from := 0; ; n-- {
		start, end := d(text[from:])
		if start < 0 {
			return [2]int{}, false
		}
		if n == 1 {
			return [2]int{from + start, from + end}, true
		}
		from += end
	}
}
