package step

import (
	"fmt"
	"regexp"
	"strings"

	"junvo/internal/pattern"
	"junvo/internal/reason"
)

// rule is one rule of a label.
type rule struct {
	matches func(string) bool
	then    string
}

// label gives the value of the first rule that matches.
type label struct {
	rules     []rule
	otherwise absent
}

func (l label) Apply(text string) (string, reason.Reason) {
	for _, r := range l.rules {
		if r.matches(text) {
			return r.then, reason.None
		}
	}
	return l.otherwise.give(text)
}

func newLabel(args Args) (Step, error) {
	list, ok := args.([]Args)
	if !ok || len(list) == 0 {
		return nil, fmt.Errorf("it takes a list of rules")
	}
	l := label{otherwise: absent{way: "keep"}}
	for i, a := range list {
		f, err := fieldsOf(a)
		if err == nil && f.has("otherwise") {
			l.otherwise = f.otherwise("keep")
			if err = f.done(); err == nil && i+1 < len(list) {
				return nil, fmt.Errorf("rule %d stands after otherwise, which always matches", i+2)
			}
		} else if err == nil {
			var r rule
			r, err = newRule(f)
			l.rules = append(l.rules, r)
		}
		if err != nil {
			return nil, fmt.Errorf("rule %d: %w", i+1, err)
		}
	}
	return l, nil
}

// comparisons are the ways in which a rule compares a text with the one that it wants.
var comparisons = []struct {
	key        string
	holds      func(text, want string) bool
	start, end string // of the pattern that does the same without regard to case
}{
	{"is", func(text, want string) bool { return text == want }, `\A`, `\z`},
	{"contains", strings.Contains, "", ""},
	{"begins", strings.HasPrefix, `\A`, ""},
	{"ends", strings.HasSuffix, "", `\z`},
}

func newRule(f *fields) (rule, error) {
	var found []func(string) bool
	fold := f.flag("ignore-case")
	for _, c := range comparisons {
		if !f.has(c.key) {
			continue
		}
		want := f.text(c.key, "")
		holds := func(text string) bool { return c.holds(text, want) }
		if fold {
			re, err := pattern.Compile("(?i)" + c.start + regexp.QuoteMeta(want) + c.end)
			if err != nil {
				return rule{}, err
			}
			holds = re.MatchString
		}
		found = append(found, holds)
	}
	if f.has("matches") {
		re, err := f.pattern("matches")
		if err != nil {
			return rule{}, err
		}
		found = append(found, re.MatchString)
	}
	r, hasThen := rule{then: f.text("then", "")}, f.has("then")
	if err := f.done(); err != nil {
		return r, err
	}
	if len(found) != 1 || !hasThen {
		return r, fmt.Errorf("it takes one of is, contains, begins, ends, matches, and then")
	}
	r.matches = found[0]
	return r, nil
}
