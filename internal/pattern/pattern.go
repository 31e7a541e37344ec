// Package pattern compiles the regular expressions of plans and expressions, which are those of RE2, and says what to
// write in place of what RE2 does not have.
//
//	re, err := pattern.Compile(`crate (\d+)`)
package pattern

import (
	"fmt"
	"regexp"
	"strings"
)

// Compile compiles a regular expression.
func Compile(text string) (*regexp.Regexp, error) {
	re, err := regexp.Compile(text)
	if err != nil {
		return nil, fmt.Errorf("%s", Explained(err.Error()))
	}
	return re, nil
}

// instead says what to write in place of what other libraries of regular expressions have.
var instead = []struct{ sign, say string }{
	{"(?<=", "RE2 does not look behind: put what comes before into the pattern, and a group around what is wanted"},
	{"(?<!", "RE2 does not look behind: put what may come before into the pattern, and a group around what is wanted"},
	{"(?=", "RE2 does not look ahead: put what follows into the pattern, and a group around what is wanted"},
	{"(?!", "RE2 does not look ahead: put what may follow into the pattern, and a group around what is wanted"},
	{"(?>", "RE2 has no atomic groups, and needs none: write (?:…)"},
	{"++", "RE2 has no possessive repetition, and needs none: write one +"},
	{"*+", "RE2 has no possessive repetition, and needs none: write *"},
	{`\1`, "RE2 does not refer back to a group within a pattern"},
}

// Explained adds to what the library says of a pattern what to write instead.
func Explained(say string) string {
	for _, e := range instead {
		if strings.Contains(say, e.sign) && !strings.Contains(say, e.say) {
			return say + ". " + e.say
		}
	}
	return say
}
