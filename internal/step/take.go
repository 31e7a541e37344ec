package step

import (
	"fmt"
	"regexp"
	"strings"

	"junvo/internal/pattern"
	"junvo/internal/reason"
)

// take is a step that takes a part of the text: find returns it.
type take func(text string) (string, bool)

func (t take) Apply(text string) (string, reason.Reason) {
	part, ok := t(text)
	if !ok {
		return text, reason.NotFound
	}
	return part, reason.None
}

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
		{"word", takeRun("word", regexp.MustCompile(`[^\s\p{Zs}]+`))},
		{"digits", takeRun("digits", regexp.MustCompile(`\p{Nd}+`))},
		{"letters", takeRun("letters", regexp.MustCompile(`[\p{L}\p{M}]+`))},
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
	if err := f.done(); err != nil {
		return nil, err
	}
	if t == nil {
		return nil, fmt.Errorf("it does not say what to take")
	}
	return t, nil
}

// occurrence returns where the nth occurrence of sep begins.
func occurrence(text, sep string, nth int) (int, bool) {
	i := index(nth, strings.Count(text, sep))
	if i < 0 {
		return 0, false
	}
	at := 0
	for ; i >= 0; i-- {
		j := strings.Index(text[at:], sep)
		if i == 0 {
			return at + j, true
		}
		at += j + len(sep)
	}
	return 0, false
}

func separator(f *fields, key string) (string, int, error) {
	sep, nth := f.text(key, ""), f.nth("nth", 1)
	if sep == "" {
		return "", 0, fmt.Errorf("%s is a text", key)
	}
	return sep, nth, nil
}

func takeBefore(f *fields) (take, error) {
	sep, nth, err := separator(f, "before")
	return func(text string) (string, bool) {
		i, ok := occurrence(text, sep, nth)
		return text[:i], ok
	}, err
}

func takeAfter(f *fields) (take, error) {
	sep, nth, err := separator(f, "after")
	return func(text string) (string, bool) {
		i, ok := occurrence(text, sep, nth)
		if !ok {
			return "", false
		}
		return text[i+len(sep):], true
	}, err
}

func takeBetween(f *fields) (take, error) {
	list, err := texts(f.args["between"])
	f.used["between"] = true
	nth := f.nth("nth", 1)
	if err != nil || len(list) != 2 || list[0] == "" || list[1] == "" {
		return nil, fmt.Errorf(`between is two texts, as in ["(", ")"]`)
	}
	return func(text string) (string, bool) {
		i, ok := occurrence(text, list[0], nth)
		if !ok {
			return "", false
		}
		rest := text[i+len(list[0]):]
		j := strings.Index(rest, list[1])
		if j < 0 {
			return "", false
		}
		return rest[:j], true
	}, nil
}

// takeRun takes the nth match of a pattern.
func takeRun(key string, re *regexp.Regexp) func(*fields) (take, error) {
	return func(f *fields) (take, error) {
		nth := f.nth(key, 1)
		return func(text string) (string, bool) {
			all := re.FindAllString(text, -1)
			i := index(nth, len(all))
			if i < 0 {
				return "", false
			}
			return all[i], true
		}, nil
	}
}

func takeFirst(f *fields) (take, error) {
	n := f.number("first", 1)
	return func(text string) (string, bool) {
		all := characters(text)
		return strings.Join(all[:min(n, len(all))], ""), true
	}, nil
}

func takeLast(f *fields) (take, error) {
	n := f.number("last", 1)
	return func(text string) (string, bool) {
		all := characters(text)
		return strings.Join(all[max(0, len(all)-n):], ""), true
	}, nil
}

func takeFrom(f *fields) (take, error) {
	from, length := f.number("from", 1), f.number("length", 1<<30)
	return func(text string) (string, bool) {
		all := characters(text)
		if from > len(all) {
			return "", false
		}
		return strings.Join(all[from-1:min(from-1+length, len(all))], ""), true
	}, nil
}

func takePattern(f *fields) (take, error) {
	re, err := pattern.Compile(f.text("pattern", ""))
	if err != nil {
		return nil, fmt.Errorf("pattern: %w", err)
	}
	group := min(1, re.NumSubexp())
	if f.has("group") {
		if group = f.number("group", 1); group > re.NumSubexp() {
			return nil, fmt.Errorf("the pattern has %d groups", re.NumSubexp())
		}
	}
	return func(text string) (string, bool) {
		m := re.FindStringSubmatch(text)
		if m == nil {
			return "", false
		}
		return m[group], true
	}, nil
}

// rule is one rule of a label.
type rule struct {
	matches func(string) bool
	then    string
	always  bool // otherwise
}

func newLabel(args Args) (Step, error) {
	list, ok := args.([]Args)
	if !ok || len(list) == 0 {
		return nil, fmt.Errorf("it takes a list of rules")
	}
	var rules []rule
	for i, a := range list {
		if len(rules) > 0 && rules[i-1].always {
			return nil, fmt.Errorf("rule %d stands after otherwise, which always matches", i+1)
		}
		r, err := newRule(a)
		if err != nil {
			return nil, fmt.Errorf("rule %d: %w", i+1, err)
		}
		rules = append(rules, r)
	}
	return simple(func(text string) string {
		for _, r := range rules {
			if r.matches(text) {
				return r.then
			}
		}
		return text
	}), nil
}

func newRule(args Args) (rule, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return rule{}, err
	}
	if f.has("otherwise") {
		r := rule{matches: func(string) bool { return true }, then: f.text("otherwise", ""), always: true}
		return r, f.done()
	}
	var found []func(string) bool
	for key, match := range map[string]func(text, want string) bool{
		"is": func(text, want string) bool { return text == want }, "contains": strings.Contains,
		"begins": strings.HasPrefix, "ends": strings.HasSuffix,
	} {
		if f.has(key) {
			want := f.text(key, "")
			found = append(found, func(text string) bool { return match(text, want) })
		}
	}
	if f.has("matches") {
		re, err := pattern.Compile(f.text("matches", ""))
		if err != nil {
			return rule{}, fmt.Errorf("matches: %w", err)
		}
		found = append(found, re.MatchString)
	}
	r := rule{then: f.text("then", "")}
	if err := f.done(); err != nil {
		return r, err
	}
	if len(found) != 1 || !f.has("then") {
		return r, fmt.Errorf("it takes one of is, contains, begins, ends, matches, and then")
	}
	r.matches = found[0]
	return r, nil
}
