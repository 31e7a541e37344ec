package step

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/pattern"
)

func newReplace(args Args) (Step, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	text, wanted, with := f.text("text", ""), f.text("pattern", ""), f.text("with", "")
	nth, whole, fold := f.nth("nth", 0), f.flag("whole"), f.flag("ignore-case")
	otherwise, hasWith := f.otherwise("keep"), f.has("with")
	if err := f.done(); err != nil {
		return nil, err
	}
	if (text == "") == (wanted == "") || !hasWith {
		return nil, fmt.Errorf("it takes text or pattern, and with")
	}
	literal := text != ""
	if literal && nth == 0 && !whole && !fold {
		return finding{func(s string) (string, bool) {
			return strings.ReplaceAll(s, text, with), strings.Contains(s, text)
		}, otherwise}, nil
	}
	if literal {
		wanted = regexp.QuoteMeta(text)
		with = strings.ReplaceAll(with, "$", "$$")
	}
	if whole {
		wanted = "^(?:" + wanted + ")$"
	}
	if fold {
		wanted = "(?i)" + wanted
	}
	re, err := pattern.Compile(wanted)
	if err != nil {
		return nil, fmt.Errorf("pattern: %w", err)
	}
	if !literal {
		if with, err = template(with, re); err != nil {
			return nil, fmt.Errorf("with: %w", err)
		}
	}
	return finding{func(s string) (string, bool) { return replaceNth(re, s, with, nth) }, otherwise}, nil
}

// dollar finds what stands for a group of a pattern, and what people write for one elsewhere.
var dollar = regexp.MustCompile(`\$\$|\$\{[^}]*\}|\$\d+|\$|\\\d`)

// template turns what a person writes in place of a match into a template of [regexp.Regexp.Expand],
// in which every group has braces: $1kg is group 1 and kg there, not a group named 1kg.
func template(with string, re *regexp.Regexp) (string, error) {
	var wrong error
	out := dollar.ReplaceAllStringFunc(with, func(s string) string {
		group := strings.Trim(s, "${}")
		switch {
		case s == "$$":
			return s
		case s[0] == '\\':
			wrong = fmt.Errorf("write $%s for group %s, not %s", s[1:], s[1:], s)
		case group == "":
			wrong = fmt.Errorf("write $1 for a group, ${name} for one with a name, and $$ for the sign $ itself")
		default:
			wrong = hasGroup(re, group, wrong)
		}
		return "${" + group + "}"
	})
	return out, wrong
}

// hasGroup returns an error if the pattern has no group of that number or name, else the error given.
func hasGroup(re *regexp.Regexp, group string, otherwise error) error {
	if n, err := strconv.Atoi(group); err == nil {
		if n <= re.NumSubexp() {
			return otherwise
		}
		return fmt.Errorf("there is no group %d: the pattern has %d", n, re.NumSubexp())
	}
	if slices.Contains(re.SubexpNames(), group) {
		return otherwise
	}
	return fmt.Errorf("the pattern has no group named %q; one has its name as in (?P<%s>…)", group, group)
}

// replaceNth replaces the nth match, from the end where n is negative, all where it is 0, and reports whether there is
// one.
func replaceNth(re *regexp.Regexp, s, with string, n int) (string, bool) {
	if n == 0 {
		if !re.MatchString(s) {
			return "", false
		}
		return re.ReplaceAllString(s, with), true
	}
	all := re.FindAllStringSubmatchIndex(s, -1)
	i := index(n, len(all))
	if i < 0 {
		return "", false
	}
	m := all[i]
	return s[:m[0]] + string(re.ExpandString(nil, with, s, m)) + s[m[1]:], true
}
