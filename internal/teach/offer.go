package teach

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"junvo/internal/character"
	"junvo/internal/step"
)

// offered is a step that may be the next one, with what it costs to say it.
type offered struct {
	*step.Named
	cost float64
	idle bool // it is offered even if it changes no example, since it may change other cells
}

// offers makes the steps that texts may be taken through. A step is made once.
type offers struct {
	made map[string]*step.Named
	list []offered
	key  []byte

	names map[string]step.Args // texts as arguments, see named
}

// appendKey appends what tells the arguments of steps apart.
func appendKey(dst []byte, a step.Args) []byte {
	switch a := a.(type) {
	case string:
		dst = strconv.AppendQuote(dst, a)
	case bool:
		dst = strconv.AppendBool(append(dst, ' '), a)
	case int:
		dst = strconv.AppendInt(append(dst, ' '), int64(a), 10)
	case []step.Args:
		for _, one := range a {
			dst = appendKey(append(dst, ','), one)
		}
	case map[string]step.Args:
		for _, k := range slices.Sorted(maps.Keys(a)) {
			dst = appendKey(append(append(dst, ' '), k...), a[k])
		}
	}
	return dst
}

func (o *offers) add(cost float64, name string, args step.Args) {
	o.key = appendKey(append(o.key[:0], name...), args)
	made, ok := o.made[string(o.key)]
	if !ok {
		if s, err := step.New(name, args); err == nil {
			made = &step.Named{Name: name, Args: args, Step: s}
		}
		o.made[string(o.key)] = made
	}
	if made != nil {
		o.list = append(o.list, offered{made, cost, false})
	}
}

// idly makes the last steps that were offered, from a number on, ones that need not change an example.
func (o *offers) idly(from int) {
	for i := from; i < len(o.list); i++ {
		o.list[i].idle = true
	}
}

// take offers a take.
func (o *offers) take(cost float64, args map[string]step.Args) { o.add(cost, "take", args) }

type args = map[string]step.Args

// maxNth is how far runs and marks are counted.
const maxNth = 5

// takes offers the steps that take a part of texts, where all texts have it. First says that it is the first step.
func (o *offers) takes(texts, results []string, first bool) {
	most := maxNth
	if !first {
		most = 2
	}
	for _, kind := range []struct {
		key   string
		count func(string) int
	}{
		{"digits", func(s string) int { return count(s, digit) }},
		{"letters", func(s string) int { return count(s, letter) }},
		{"word", func(s string) int { return len(strings.Fields(s)) }},
		{"number", func(s string) int { return count(s, digit) }},
	} {
		fewest := leastOf(texts, kind.count)
		if kind.key == "number" && !slices.ContainsFunc(results, func(r string) bool {
			return strings.ContainsAny(r,
				".,-−+")
		}) {
			continue // a number is more than a run of digits only with marks
		}
		for n := 1; n <= min(fewest, most); n++ {
			o.take(costTake+costNth*float64(n-1), args{kind.key: n})
		}
		for n := 1; n <= min(fewest, 3, most); n++ {
			o.take(costTake+costLast+costNth*float64(n-1), args{kind.key: -n})
		}
	}
	o.cuts(texts, first)
	o.positions(texts, results, first)
}

func count(text string, c class) (n int) {
	for _, r := range runsOf(text) {
		if r.class == c {
			n++
		}
	}
	return n
}

func leastOf(texts []string, f func(string) int) int {
	least := f(texts[0])
	for _, t := range texts[1:] {
		least = min(least, f(t))
	}
	return least
}

// cutsOf returns the texts that all of the texts can be cut at.
func cutsOf(texts []string, most int) (list []string) {
	for _, p := range places(texts[0]) {
		if all(texts, func(t string) bool { return strings.Contains(t, p) }) {
			list = append(list, p)
		}
		if len(list) == most {
			break
		}
	}
	return list
}

// foldedCutsOf returns words that all of the texts can be cut at, but not all written in the same case.
func foldedCutsOf(texts []string, most int) (list []string) {
	for _, p := range places(texts[0]) {
		has := func(t string) bool { return strings.Contains(strings.ToLower(t), strings.ToLower(p)) }
		if lettered(p) && all(texts, has) && !all(texts, func(t string) bool { return strings.Contains(t, p) }) {
			list = append(list, p)
		}
		if len(list) == most {
			break
		}
	}
	return list
}

// someCutsOf returns the texts that some of the texts can be cut at, and others can't.
func someCutsOf(texts []string, most int) (list []string) {
	for _, from := range texts[:min(len(texts), 4)] {
		for _, p := range places(from) {
			if len(list) == most {
				return list
			}
			if !slices.Contains(list, p) && !all(texts, func(t string) bool { return strings.Contains(t, p) }) {
				list = append(list, p)
			}
		}
	}
	return list
}

func all(texts []string, is func(string) bool) bool {
	return !slices.ContainsFunc(texts, func(t string) bool { return !is(t) })
}

func lettered(text string) bool { return strings.IndexFunc(text, unicode.IsLetter) >= 0 }

func costOfCut(cut string) float64 {
	if !lettered(cut) && strings.IndexFunc(cut, unicode.IsDigit) < 0 {
		return costMark
	}
	return costWord + 0.05*float64(len(cut))
}

// named is a text as an argument of a step that takes classes of characters, too.
func (o *offers) named(text string) step.Args {
	a, ok := o.names[text]
	if !ok {
		a = text
		if _, err := step.New("drop", text); err != nil || slices.Contains(classNames, text) {
			a = args{"text": text}
		}
		o.names[text] = a
	}
	return a
}

// cuts offers what stands before, after and between marks, words and classes.
func (o *offers) cuts(texts []string, first bool) {
	most, pairs := 20, 12
	if !first {
		most, pairs = 8, 0
	}
	list := cutsOf(texts, most)
	for _, cut := range list {
		cost := costOfCut(cut)
		fewest := leastOf(texts, func(t string) int { return strings.Count(t, cut) })
		for n := 1; n <= min(fewest, 3); n++ {
			more := costNth * float64(n-1)
			for _, key := range []string{"before", "after"} {
				if n == 1 {
					o.take(cost, args{key: o.named(cut)})
					if lettered(cut) {
						o.take(cost+0.2, args{key: o.named(cut), "ignore-case": true})
					}
				} else {
					o.take(cost+more, args{key: o.named(cut), "nth": n})
				}
			}
			if n > 1 || first {
				o.take(cost+1+more, args{"between": []step.Args{o.named(cut), o.named(cut)}, "nth": n})
			}
		}
		o.take(cost+costLast, args{"before": o.named(cut), "nth": -1})
		o.take(cost+costLast, args{"after": o.named(cut), "nth": -1})
	}
	for i, open := range list[:min(len(list), pairs)] {
		for j, shut := range list[:min(len(list), pairs)] {
			if i == j || strings.Contains(open, shut) && strings.Contains(shut, open) {
				continue
			}
			if slices.ContainsFunc(texts, func(t string) bool {
				_, rest, _ := strings.Cut(t, open)
				return !strings.Contains(rest, shut)
			}) {
				continue
			}
			cost := costBetween + (costOfCut(open)+costOfCut(shut))/2 - costMark
			if brackets[open] == shut {
				cost = costMark
			}
			o.take(cost, args{"between": []step.Args{o.named(open), o.named(shut)}})
			if lettered(open) || lettered(shut) {
				o.take(cost+0.2, args{"between": []step.Args{o.named(open), o.named(shut)}, "ignore-case": true})
			}
		}
	}
	if first {
		o.partly(texts)
	}
	for _, c := range []string{"digits", "letters", "spaces"} {
		for _, key := range []string{"before", "after"} {
			o.take(costClass, args{key: c})
			if first {
				o.take(costClass+costLast, args{key: c, "nth": -1})
			}
		}
	}
}

// partly offers what stands before and after texts that some cells have, where the others stay as they are; and words
// that are written in upper and in lower case.
func (o *offers) partly(texts []string) {
	const most = 12
	for _, cut := range someCutsOf(texts, most) {
		for _, key := range []string{"before", "after"} {
			o.take(costOfCut(cut)+costKeeps, args{key: o.named(cut), "otherwise": "keep"})
		}
		if lettered(cut) {
			o.add(costWord+costKeeps+0.05*float64(len(cut)), "drop", o.named(cut))
			o.add(costWord+costKeeps+costFold+0.05*float64(len(cut)), "drop", args{"of": o.named(cut), "ignore-case": true})
		}
	}
	for _, cut := range foldedCutsOf(texts, most) {
		for _, key := range []string{"before", "after"} {
			o.take(costOfCut(cut)+costFold, args{key: o.named(cut), "ignore-case": true})
		}
		o.add(costWord+costFold+0.05*float64(len(cut)), "drop", args{"of": o.named(cut), "ignore-case": true})
	}
	for _, cut := range cutsOf(texts, most) { // other cells may not have it
		if !lettered(cut) {
			o.take(costOfCut(cut)+costKeeps, args{"before": o.named(cut), "otherwise": "keep"})
			o.take(costOfCut(cut)+costKeeps, args{"after": o.named(cut), "otherwise": "keep"})
		}
	}
}

var brackets = map[string]string{
	"(": ")", "[": "]", "{": "}", "<": ">", "\"": "\"", "'": "'", "«": "»", "„": "“",
	"“": "”",
}

// positions offers so many characters at an end, or in the middle.
func (o *offers) positions(texts, results []string, first bool) {
	shortest := leastOf(texts, utf8.RuneCountInString)
	longest := 0
	for _, r := range results {
		longest = max(longest, utf8.RuneCountInString(r))
	}
	for n := 1; n <= min(shortest, longest, 12); n++ {
		cost := costEnds + 0.1*float64(n)
		if n == 1 {
			cost -= 1 // an initial
		}
		if !first {
			cost -= 0.8
		}
		o.take(cost, args{"first": n})
		o.take(cost+0.2, args{"last": n})
	}
	for from := 2; from <= min(shortest, 12); from++ {
		o.take(costMiddle-0.5+0.1*float64(from), args{"from": from})
		for n := 1; n <= min(shortest-from+1, longest, 8) && first; n++ {
			o.take(costMiddle+0.1*float64(from+n), args{"from": from, "length": n})
		}
	}
}

var classNames = character.ClassNames()

// selections offers what keeps or drops characters.
func (o *offers) selections(texts, results []string) {
	o.add(costKeep, "keep", "digits")
	o.add(costKeep, "keep", "letters")
	o.add(costKeep+0.4, "keep", "upper")
	o.add(costKeep+0.4, "keep", []step.Args{"digits", "letters"})
	o.add(costKeep+0.6, "keep", []step.Args{"letters", "spaces"})
	o.add(costKeep+1, "keep", []step.Args{"digits", "letters", "spaces"})
	for _, mark := range marksOf(results) {
		o.add(costKeep+0.6, "keep", []step.Args{"digits", mark})
		o.add(costKeep+1, "keep", []step.Args{"digits", "letters", mark})
	}
	o.add(costDrop, "drop", "spaces")
	o.add(costDrop, "drop", "digits")
	o.add(costDrop, "drop", "letters")
	o.add(costDrop, "drop", "punctuation")
	o.add(costDrop+0.3, "drop", []step.Args{"punctuation", "spaces"})
	o.add(costDrop, "drop", "invisible")
	var gone []step.Args // marks that no result has
	for _, mark := range marksOf(texts[:1]) {
		o.add(costDrop+0.2, "drop", o.named(mark))
		if !slices.ContainsFunc(results, func(r string) bool { return strings.Contains(r, mark) }) {
			gone = append(gone, o.named(mark))
		}
	}
	if len(gone) > 1 && len(gone) <= 4 {
		o.add(costDrop+0.6*float64(len(gone)), "drop", gone)
		o.add(costDrop+0.6*float64(len(gone))+0.3, "drop", append([]step.Args{"spaces"}, gone...))
	}
	for _, cut := range cutsOf(texts, 16) {
		if lettered(cut) {
			o.add(costWord+0.05*float64(len(cut)), "drop", o.named(cut))
		}
	}
}

// marksOf lists the marks of texts, each once.
func marksOf(texts []string) (list []string) {
	for _, t := range texts {
		for _, r := range t {
			if classOf(r) == other && !slices.Contains(list, string(r)) {
				list = append(list, string(r))
			}
		}
	}
	return list[:min(len(list), 8)]
}

// forms offers what has the form of a result, wherever it stands.
func (o *offers) forms(texts, results []string) {
	for _, r := range results[:1] {
		loose, exact := patternOf(r)
		for _, p := range []struct {
			pattern string
			cost    float64
		}{{loose, costForm}, {exact, costLengths}} {
			if p.pattern == "" || len(r) > 32 {
				continue
			}
			o.take(p.cost, args{"pattern": p.pattern})
			o.take(p.cost+costLast, args{"pattern": p.pattern, "nth": -1})
		}
	}
}

// mends offers what undoes damage and tidies up.
func (o *offers) mends() {
	o.add(0.8, "trim", nil)
	o.idly(len(o.list) - 1)
	o.add(1.2, "single-space", nil)
	for _, m := range []string{"decoding", "look-alikes", "markup", "compatibility"} {
		o.add(costMend, "mend", m)
	}
}

// finishes offers what changes a part before it goes into a result: case, width, marks.
func (o *offers) finishes(texts, results []string) {
	for _, c := range []string{"upper", "lower", "title", "sentence"} {
		cost := costCase
		if c == "sentence" {
			cost += 0.5
		}
		o.add(cost, "case", c)
	}
	o.add(costCase+0.7, "case", args{"to": "title", "except": smallWords})
	for _, width := range []int{2, 3, 4, 5, 6, 7, 8, 9, 10, 12} {
		if slices.ContainsFunc(texts, func(t string) bool { return utf8.RuneCountInString(t) < width }) &&
			!slices.ContainsFunc(results, func(r string) bool { return utf8.RuneCountInString(r) < width }) {
			o.add(costPad, "pad", args{"width": width, "with": "0"})
		}
	}
	o.silent(texts)
	if slices.ContainsFunc(texts, func(t string) bool { return t[0] == '0' }) {
		o.add(costReplace, "replace", args{"pattern": leadingZeros, "with": "$1"})
	}
	o.add(0.8, "trim", nil)
	o.add(costDrop, "drop", "spaces")
	o.add(costDrop, "drop", "punctuation")
	from, to := marksOf(texts[:1]), marksOf(results)
	if slices.ContainsFunc(texts[:1], func(t string) bool { return strings.Contains(t, " ") }) {
		from = append(from, " ")
	}
	if slices.ContainsFunc(results, func(t string) bool { return strings.Contains(t, " ") }) {
		to = append(to, " ")
	}
	for _, a := range from {
		for _, b := range to {
			if a != b {
				o.add(costReplace, "replace", args{"text": a, "with": b})
			}
		}
		o.add(costDrop+0.2, "drop", o.named(a))
	}
	o.layOuts(texts, results)
}

// silent offers what changes none of the texts, and is what may be meant all the same where others are unlike them:
// shorter numbers with zeros before them, or numbers with zeros without; lower-case letters of a code; small words in
// names.
func (o *offers) silent(texts []string) {
	from := len(o.list)
	width := len(texts[0])
	same := func(is func(string) bool) bool { return all(texts, is) }
	switch {
	case same(func(t string) bool { return onlyDigits(t) && len(t) == width && width > 1 && width <= 12 }):
		o.add(costPad+0.5, "pad", args{"width": width, "with": "0"})
		if same(func(t string) bool { return t[0] != '0' }) {
			o.add(costReplace+0.5, "replace", args{"pattern": leadingZeros, "with": "$1"})
		}
	case same(func(t string) bool { return onlyDigits(t) && t[0] != '0' }):
		o.add(costReplace+0.5, "replace", args{"pattern": leadingZeros, "with": "$1"})
	case same(func(t string) bool {
		return isASCII(t) && t == strings.ToUpper(t) && t != strings.ToLower(t) && width > 1
	}):
		o.add(costCase+1.2, "case", "upper")
	}
	o.idly(from)
}

func onlyDigits(text string) bool {
	return text != "" && strings.IndexFunc(text, func(r rune) bool { return r < '0' || r > '9' }) < 0
}

// smallWords are words that stay small in names.
var smallWords = []step.Args{
	"van", "von", "der", "den", "de", "del", "di", "da", "la", "le", "of", "and", "the", "zu",
	"zum", "zur", "am", "im", "und", "ter", "ten",
}

// leadingZeros is a pattern of zeros that a number does without.
const leadingZeros = "^0+(.)"

// layOuts offers to lay the letters and digits of a text out as they stand in a result.
func (o *offers) layOuts(texts, results []string) {
	bare := onlyPrinted(texts[0])
	digits := strings.Count(strings.Map(onlyDigit, bare), "0")
	for _, r := range results[:1] {
		at := strings.Index(onlyPrinted(r), bare)
		if at < 0 || bare == "" || bare == onlyPrinted(r) && bare == r || digits == 0 || digits*2 < len(bare) &&
			len(bare) > 12 {
			continue
		}
		if bare != onlyPrinted(r) || len(marksOf([]string{r})) == 0 && !strings.Contains(r, " ") {
			continue
		}
		layout := strings.Map(func(c rune) rune {
			if k := classOf(c); k == digit || k == letter {
				return '9'
			}
			return c
		}, r)
		o.add(costLayOut, "punctuate", layout)
		o.add(costLayOut+0.1, "punctuate", args{"pattern": layout, "otherwise": "fail"})
	}
}

func onlyDigit(r rune) rune {
	if classOf(r) == digit {
		return '0'
	}
	return -1
}

func onlyPrinted(text string) string {
	return strings.Map(func(c rune) rune {
		if k := classOf(c); k == digit || k == letter {
			return c
		}
		return -1
	}, text)
}
