package step

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"junvo/internal/pattern"
)

// take finds a part of a text.
type take func(text string) (string, bool)

func newTake(args Args) (Step, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	var t take
	for _, form := range []struct {
		key  string
		make func(*fields) (take, error)
	}{
		{"before", takeBefore},
		{"after", takeAfter},
		{"between", takeBetween},
		{"word", takeRun("word", noSpace)},
		{"digits", takeRun("digits", unicode.IsDigit)},
		{"letters", takeRun("letters", inLetters)},
		{"number", takeNumber},
		{"first", takeFirst},
		{"last", takeLast},
		{"from", takeFrom},
		{"pattern", takePattern},
	} {
		if !f.has(form.key) {
			continue
		}
		if t != nil {
			return nil, fmt.Errorf("it takes one part: %s goes with none of the others", form.key)
		}
		if t, err = form.make(f); err != nil {
			return nil, err
		}
	}
	otherwise := f.otherwise("fail")
	if err := f.done(); err != nil {
		return nil, err
	}
	if t == nil {
		return nil, fmt.Errorf("it does not say what to take")
	}
	return finding{t, otherwise}, nil
}

// separator reads what a part stands before or behind, and which one of them.
func separator(f *fields, key string) (delimiter, int, error) {
	nth := f.nth("nth", 1)
	d, err := f.delimiter(key, f.flag("ignore-case"))
	return d, nth, err
}

func takeBefore(f *fields) (take, error) {
	d, nth, err := separator(f, "before")
	return func(text string) (string, bool) {
		at, ok := d.nth(text, nth)
		return text[:at[0]], ok
	}, err
}

func takeAfter(f *fields) (take, error) {
	d, nth, err := separator(f, "after")
	return func(text string) (string, bool) {
		at, ok := d.nth(text, nth)
		return text[at[1]:], ok
	}, err
}

func takeBetween(f *fields) (take, error) {
	list, _ := f.args["between"].([]Args)
	f.used["between"] = true
	nth, fold := f.nth("nth", 1), f.flag("ignore-case")
	if len(list) != 2 {
		return nil, fmt.Errorf(`between is two texts or classes, as in ["(", ")"]`)
	}
	open, err := delimiterOf(list[0], "between", fold)
	if err != nil {
		return nil, err
	}
	shut, err := delimiterOf(list[1], "between", fold)
	return func(text string) (string, bool) {
		n := nth
		if n < 0 { // counted from the end
			n += opened(text, open, shut) + 1
		}
		at, ok := open.nth(text, n)
		if !ok || n < 1 {
			return "", false
		}
		rest := text[at[1]:]
		end, _ := shut(rest)
		return rest[:max(0, end)], end >= 0
	}, err
}

// opened counts the places where a text between two delimiters begins.
func opened(text string, open, shut delimiter) (n int) {
	for {
		at, ok := open.nth(text, 1)
		if !ok || at[1] == 0 {
			return n
		}
		text = text[at[1]:]
		if end, _ := shut(text); end < 0 {
			return n
		}
		n++
	}
}

func noSpace(r rune) bool {
	return r != ' ' && r != '\t' && r != '\n' && r != '\f' && r != '\r' &&
		(r < utf8.RuneSelf || !unicode.Is(unicode.Zs, r))
}

func inLetters(r rune) bool { return unicode.IsLetter(r) || unicode.IsMark(r) }

// takeRun takes the nth run of some characters.
func takeRun(key string, in func(rune) bool) func(*fields) (take, error) {
	return func(f *fields) (take, error) {
		nth := f.nth(key, 1)
		return func(text string) (string, bool) {
			n := nth
			if n < 0 { // counted from the end
				n += runsIn(text, in) + 1
			}
			for rest := text; n > 0; n-- {
				var run string
				if run, rest = cutRun(rest, in); run == "" {
					break
				}
				if n == 1 {
					return run, true
				}
			}
			return "", false
		}, nil
	}
}

// cutRun returns the first run of some characters, and what stands after it; nothing where there is none.
func cutRun(text string, in func(rune) bool) (run, rest string) {
	start := strings.IndexFunc(text, in)
	if start < 0 {
		return "", ""
	}
	text = text[start:]
	end := strings.IndexFunc(text, func(r rune) bool { return !in(r) })
	if end < 0 {
		return text, ""
	}
	return text[:end], text[end:]
}

// runsIn counts the runs of some characters.
func runsIn(text string, in func(rune) bool) (n int) {
	for {
		var run string
		if run, text = cutRun(text, in); run == "" {
			return n
		}
		n++
	}
}

func takeFirst(f *fields) (take, error) {
	n := f.number("first", 1)
	return func(text string) (string, bool) {
		return text[:offset(text, n)], true
	}, nil
}

func takeLast(f *fields) (take, error) {
	n := f.number("last", 1)
	return func(text string) (string, bool) {
		return text[offset(text, max(0, length(text)-n)):], true
	}, nil
}

func takeFrom(f *fields) (take, error) {
	from, most := f.number("from", 1), f.number("length", 1<<30)
	return func(text string) (string, bool) {
		text = text[offset(text, from-1):]
		return text[:offset(text, most)], text != ""
	}, nil
}

func takePattern(f *fields) (take, error) {
	re, err := f.pattern("pattern")
	if err != nil {
		return nil, err
	}
	group := min(1, re.NumSubexp())
	if f.has("group") {
		if group = f.number("group", 1); group > re.NumSubexp() {
			return nil, fmt.Errorf("the pattern has %d groups", re.NumSubexp())
		}
	}
	nth := f.nth("nth", 1)
	return func(text string) (string, bool) {
		if nth == 1 {
			m := re.FindStringSubmatch(text)
			if m == nil {
				return "", false
			}
			return m[group], true
		}
		all := re.FindAllStringSubmatch(text, max(-1, nth))
		i := index(nth, len(all))
		if i < 0 {
			return "", false
		}
		return all[i][group], true
	}, nil
}

// pattern reads a regular expression, and whether it regards upper and lower case.
func (f *fields) pattern(key string) (*regexp.Regexp, error) {
	text := f.text(key, "")
	if f.flag("ignore-case") {
		text = "(?i:" + text + ")"
	}
	re, err := pattern.Compile(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", key, err)
	}
	return re, nil
}
