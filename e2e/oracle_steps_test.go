package e2e

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"unicode"

	"github.com/rivo/uniseg"
)

// oracleStep is a step as a plan writes it, and what it makes of a text; false where that fails.
type oracleStep struct {
	plan string
	of   func(text string) (string, bool)
}

func never(of func(string) string) func(string) (string, bool) {
	return func(s string) (string, bool) { return of(s), true }
}

func oracleSpace(r rune) bool { return unicode.IsSpace(r) || unicode.Is(unicode.Z, r) }

func unseen(r rune) bool {
	return (unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Cc, r)) && !oracleSpace(r)
}

// isBlank reports whether a text has nothing in it but spaces and what does not print.
func isBlank(text string) bool {
	return strings.TrimFunc(text, func(r rune) bool { return oracleSpace(r) || unseen(r) }) == ""
}

// oracleClasses are classes as the documents define them.
var oracleClasses = map[string]func(rune) bool{
	"digits":      func(r rune) bool { return unicode.Is(unicode.Nd, r) },
	"letters":     func(r rune) bool { return unicode.Is(unicode.L, r) || unicode.Is(unicode.M, r) },
	"upper":       func(r rune) bool { return unicode.Is(unicode.Lu, r) },
	"lower":       func(r rune) bool { return unicode.Is(unicode.Ll, r) },
	"spaces":      oracleSpace,
	"invisible":   unseen,
	"punctuation": func(r rune) bool { return unicode.Is(unicode.P, r) },
	"signs":       func(r rune) bool { return unicode.Is(unicode.S, r) || r == '-' },
}

// characters takes a text apart into characters as people see them.
func characters(text string) (all []string) {
	for g := uniseg.NewGraphemes(text); g.Next(); {
		all = append(all, g.Str())
	}
	return all
}

func pick[T any](r *rand.Rand, of ...T) T { return of[r.IntN(len(of))] }

// nthOf returns the nth of a list, from its end where n is negative.
func nthOf[T any](all []T, n int) (one T, ok bool) {
	if n < 0 {
		n += len(all) + 1
	}
	if n < 1 || n > len(all) {
		return one, false
	}
	return all[n-1], true
}

// runs cuts the runs of characters of a class out of a text.
func runs(text string, in func(rune) bool) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return !in(r) })
}

// otherwise writes what a text gives in which a step finds nothing, and gives it.
func otherwise(r *rand.Rand, fallback string, find func(string) (string, bool)) (string, func(string) (string, bool)) {
	way := pick(r, "", "", "blank", "keep", "fail", "none found")
	written := ""
	if way != "" {
		written = ", otherwise: " + way
	} else {
		way = fallback
	}
	return written, func(text string) (string, bool) {
		if out, ok := find(text); ok {
			return out, true
		}
		switch way {
		case "blank":
			return "", true
		case "keep":
			return text, true
		case "fail":
			return "", false
		}
		return way, true
	}
}

var oracleWords = []string{"lot", "kg", "/", "-", ", ", "(", "12", "é", "ii", "alte", "a"}

// oracleSteps make steps of all kinds.
var oracleSteps = []func(r *rand.Rand) oracleStep{
	func(*rand.Rand) oracleStep {
		return oracleStep{"trim", never(func(s string) string {
			return strings.TrimFunc(s, func(r rune) bool { return oracleSpace(r) || unseen(r) })
		})}
	},
	func(*rand.Rand) oracleStep {
		return oracleStep{"single-space", never(func(s string) string {
			return regexp.MustCompile(`[\p{Z}\t-\r\x{85}]+`).ReplaceAllString(s, " ")
		})}
	},
	func(r *rand.Rand) oracleStep {
		class, word := pick(r, "digits", "letters", "upper", "spaces", "invisible", "punctuation", "signs"), pick(r, oracleWords...)
		return oracleStep{fmt.Sprintf("{drop: [%s, {text: %s}]}", class, quoted(word)), never(func(s string) string {
			return without(strings.ReplaceAll(s, word, ""), oracleClasses[class])
		})}
	},
	func(r *rand.Rand) oracleStep {
		class, chars := pick(r, "digits", "letters", "lower", "spaces", "punctuation"), pick(r, "-", "/.", "12", "é")
		return oracleStep{fmt.Sprintf("{keep: [%s, {text: %s}]}", class, quoted(chars)), never(func(s string) string {
			return without(s, func(c rune) bool { return !oracleClasses[class](c) && !strings.ContainsRune(chars, c) })
		})}
	},
	replaceStep,
	patternStep,
	func(r *rand.Rand) oracleStep {
		from, length, with := 1+r.IntN(6), 1+r.IntN(3), pick(r, "XX", "é", "-")
		written, of := otherwise(r, "keep", func(s string) (string, bool) {
			c := characters(s)
			if from > len(c) {
				return "", false
			}
			return strings.Join(c[:from-1], "") + with + strings.Join(c[min(len(c), from-1+length):], ""), true
		})
		return oracleStep{fmt.Sprintf("{overwrite: {from: %d, length: %d, with: %s%s}}", from, length, quoted(with), written), of}
	},
	takeStep,
	func(r *rand.Rand) oracleStep {
		form := pick(r, "upper", "lower")
		return oracleStep{"{case: " + form + "}", never(func(s string) string {
			if form == "lower" {
				return strings.ToLower(strings.ReplaceAll(s, "Ω", "ω"))
			}
			return strings.ToUpper(strings.ReplaceAll(s, "ß", "SS"))
		})}
	},
	func(r *rand.Rand) oracleStep {
		width, with, side := 1+r.IntN(12), pick(r, "0", " ", "é"), pick(r, "left", "right")
		written, of := otherwise(r, "keep", func(s string) (string, bool) {
			n := width - len(characters(s))
			switch {
			case n < 0:
				return "", false
			case side == "right":
				return s + strings.Repeat(with, n), true
			}
			return strings.Repeat(with, n) + s, true
		})
		return oracleStep{fmt.Sprintf("{pad: {width: %d, with: %s, side: %s%s}}", width, quoted(with), side, written), of}
	},
	func(r *rand.Rand) oracleStep {
		at, text := pick(r, 1, 2, 5, -1, -3), pick(r, "-", "é", "12")
		written, of := otherwise(r, "keep", func(s string) (string, bool) {
			c := characters(s)
			i := at - 1
			if at < 0 {
				i = len(c) + at
			}
			if i < 0 || i >= len(c) {
				return "", false
			}
			return strings.Join(c[:i], "") + text + strings.Join(c[i:], ""), true
		})
		return oracleStep{fmt.Sprintf("{insert: {text: %s, at: %d%s}}", quoted(text), at, written), of}
	},
	func(r *rand.Rand) oracleStep {
		list := map[string]string{"lot": "A", "7": "seven", "a": "", "Marliesa": "M"}
		written, of := otherwise(r, "keep", func(s string) (string, bool) { out, ok := list[s]; return out, ok })
		return oracleStep{`{substitute: {list: {lot: A, "7": seven, a: "", Marliesa: M}` + written + "}}", of}
	},
	func(r *rand.Rand) oracleStep {
		pattern := pick(r, "99-9", "(9)", "9 9 9 9")
		written, of := otherwise(r, "keep", func(s string) (string, bool) {
			var c []string
			for _, x := range s {
				if unicode.IsLetter(x) || unicode.Is(unicode.Nd, x) {
					c = append(c, string(x))
				}
			}
			if len(c) != strings.Count(pattern, "9") {
				return "", false
			}
			parts := strings.Split(pattern, "9")
			out := parts[0]
			for i := range c {
				out += c[i] + parts[i+1]
			}
			return out, true
		})
		return oracleStep{fmt.Sprintf("{punctuate: {pattern: %s%s}}", quoted(pattern), written), of}
	},
	labelStep,
}

func without(text string, gone func(rune) bool) string {
	return strings.Map(func(r rune) rune {
		if gone(r) {
			return -1
		}
		return r
	}, text)
}

// replaced replaces the nth place of those that are found, all for 0.
func replaced(s string, at [][]int, nth int, with func(i int) string) (string, bool) {
	if nth < 0 {
		nth += len(at) + 1
		if nth < 1 {
			return "", false
		}
	}
	if len(at) == 0 || nth > len(at) {
		return "", false
	}
	out, end := "", 0
	for i, m := range at {
		if nth == 0 || nth == i+1 {
			out += s[end:m[0]] + with(i)
			end = m[1]
		}
	}
	return out + s[end:], true
}

func replaceStep(r *rand.Rand) oracleStep {
	text, with, nth, fold := pick(r, oracleWords...), pick(r, "_", "$1", "é", ""), pick(r, 0, 1, 2, -1), r.IntN(3) == 0
	written, of := otherwise(r, "keep", func(s string) (string, bool) {
		re := regexp.QuoteMeta(text)
		if fold {
			re = "(?i)" + re
		}
		return replaced(s, regexp.MustCompile(re).FindAllStringIndex(s, -1), nth, func(int) string { return with })
	})
	args := fmt.Sprintf("text: %s, with: %s", quoted(text), quoted(with))
	if nth != 0 {
		args += fmt.Sprintf(", nth: %d", nth)
	}
	if fold {
		args += ", ignore-case: true"
	}
	return oracleStep{"{replace: {" + args + written + "}}", of}
}

func patternStep(r *rand.Rand) oracleStep {
	pattern, with, nth := pick(r, `([0-9]+)`, `([a-z])([A-Z])?`, `\s+(\S)`, `^(.)`), pick(r, "<$1>", "x", "$1$1"), pick(r, 0, 1, -1)
	re := regexp.MustCompile(pattern)
	written, of := otherwise(r, "keep", func(s string) (string, bool) {
		all := re.FindAllStringSubmatchIndex(s, -1)
		return replaced(s, all, nth, func(i int) string {
			first := ""
			if m := all[i]; m[2] >= 0 {
				first = s[m[2]:m[3]]
			}
			return strings.ReplaceAll(with, "$1", first)
		})
	})
	args := fmt.Sprintf("pattern: %s, with: %s", quoted(pattern), quoted(with))
	if strings.Contains(with, "$1$1") {
		args = fmt.Sprintf("pattern: %s, with: %s", quoted(pattern), quoted("${1}${1}"))
	}
	if nth != 0 {
		args += fmt.Sprintf(", nth: %d", nth)
	}
	return oracleStep{"{replace: {" + args + written + "}}", of}
}

// places are where a text stands in another, one after the other.
func places(s, what string) (at [][]int) {
	return regexp.MustCompile(regexp.QuoteMeta(what)).FindAllStringIndex(s, -1)
}

func takeStep(r *rand.Rand) oracleStep {
	nth, n, mark := pick(r, 1, 2, -1, -2), 1+r.IntN(4), pick(r, "/", "-", "lot", ", ")
	var args string
	var find func(s string) (string, bool)
	switch r.IntN(8) {
	case 0:
		args = fmt.Sprintf("before: %s, nth: %d", quoted(mark), nth)
		find = func(s string) (string, bool) {
			m, ok := nthOf(places(s, mark), nth)
			if !ok {
				return "", false
			}
			return s[:m[0]], true
		}
	case 1:
		args = fmt.Sprintf("after: %s, nth: %d", quoted(mark), nth)
		find = func(s string) (string, bool) {
			m, ok := nthOf(places(s, mark), nth)
			if !ok {
				return "", false
			}
			return s[m[1]:], true
		}
	case 2:
		args = fmt.Sprintf("between: [%s, \")\"], nth: %d", quoted(mark), nth)
		find = func(s string) (string, bool) {
			var closed [][]int
			for _, m := range places(s, mark) {
				if strings.Contains(s[m[1]:], ")") {
					closed = append(closed, m)
				}
			}
			m, ok := nthOf(closed, nth)
			if !ok {
				return "", false
			}
			inside, _, _ := strings.Cut(s[m[1]:], ")")
			return inside, true
		}
	case 3:
		class := pick(r, "digits", "letters")
		args = fmt.Sprintf("%s: %d", class, nth)
		find = func(s string) (string, bool) { return nthOf(runs(s, oracleClasses[class]), nth) }
	case 4:
		args = fmt.Sprintf("word: %d", nth)
		find = func(s string) (string, bool) {
			return nthOf(runs(s, func(c rune) bool { return !oracleSpace(c) }), nth)
		}
	case 5:
		side := pick(r, "first", "last")
		args = fmt.Sprintf("%s: %d", side, n)
		find = func(s string) (string, bool) {
			c := characters(s)
			if side == "first" {
				return strings.Join(c[:min(n, len(c))], ""), true
			}
			return strings.Join(c[max(0, len(c)-n):], ""), true
		}
	case 6:
		args = fmt.Sprintf("from: %d, length: 2", n)
		find = func(s string) (string, bool) {
			c := characters(s)
			if n > len(c) {
				return "", false
			}
			return strings.Join(c[n-1:min(len(c), n+1)], ""), true
		}
	default:
		args = fmt.Sprintf(`pattern: "([a-z]+)[0-9 ]", nth: %d`, nth)
		find = func(s string) (string, bool) {
			m, ok := nthOf(regexp.MustCompile(`([a-z]+)[0-9 ]`).FindAllStringSubmatch(s, -1), nth)
			if !ok {
				return "", false
			}
			return m[1], true
		}
	}
	written, of := otherwise(r, "fail", find)
	return oracleStep{"{take: {" + args + written + "}}", of}
}

func labelStep(r *rand.Rand) oracleStep {
	word, begins := pick(r, oracleWords...), pick(r, "lot", "M", "7")
	return oracleStep{
		fmt.Sprintf("{label: [{contains: %s, then: has}, {begins: %s, then: \"\"}, {ends: a, then: ends, ignore-case: true}]}", quoted(word), quoted(begins)),
		never(func(s string) string {
			switch {
			case strings.Contains(s, word):
				return "has"
			case strings.HasPrefix(s, begins):
				return ""
			case strings.HasSuffix(strings.ToLower(s), "a"):
				return "ends"
			}
			return s
		}),
	}
}
