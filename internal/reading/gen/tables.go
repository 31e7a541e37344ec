package main

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"junvo/internal/reading"
)

type set map[string]bool

func union(a, b set) set {
	out := maps.Clone(a)
	maps.Copy(out, b)
	return out
}

// tables is what the reader needs to know of all locales together.
type tables struct {
	months     [13]set
	byLanguage map[string]map[string]int  // language, name, month
	names      map[role]map[string]set    // what a word is, the word, its languages
	words      map[string]uint32          // of parts of the day: the hours they may mean
	pending    map[string]map[string]set  // language, part of the day, words
	currencies map[string]map[string]bool // symbol, codes
	pairs      map[[2]string]bool
}

// role is what a word is in a date or a time of day, as the reader's names have it: a month from m1 to m12, a weekday
// from d0 for Sunday, p with the hours of a part of the day, or one of these.
type role string

const (
	leads    role = "lead"   // before a date
	inside   role = "inside" // between the fields of a date, and after it
	joins    role = "join"   // between a date and a time
	clocks   role = "clock"  // in and after a time
	era      role = "era"    // the Common Era
	otherEra role = "other"  // the era before it
)

// note notes that a word has a role in a language.
func (t *tables) note(r role, language, word string) {
	if t.names[r] == nil {
		t.names[r] = map[string]set{}
	}
	if t.names[r][word] == nil {
		t.names[r][word] = set{}
	}
	t.names[r][word][language] = true
}

func newTables() *tables {
	t := &tables{
		byLanguage: map[string]map[string]int{}, names: map[role]map[string]set{}, words: map[string]uint32{},
		pending: map[string]map[string]set{}, currencies: map[string]map[string]bool{}, pairs: map[[2]string]bool{},
	}
	for m := range t.months {
		t.months[m] = set{}
	}
	return t
}

// add adds what a locale has.
func (t *tables) add(l *locale) {
	language, _, _ := strings.Cut(l.Locales[0], "-")
	for _, names := range l.Months {
		for i, name := range names {
			t.month(language, name, i+1)
			for _, p := range append(slices.Clone(l.Dates), l.DateTimes...) {
				for _, joined := range attached(p, name) {
					t.month(language, joined, i+1)
				}
			}
		}
	}
	for _, names := range l.Weekdays {
		for i, name := range names {
			for _, k := range keys(name) {
				t.note(role(fmt.Sprint("d", i)), language, k)
			}
		}
	}
	for _, p := range l.Dates {
		first := true
		for _, text := range literals(p) {
			if first && strings.HasPrefix(p, "'") {
				t.filler(leads, language, text)
			} else {
				t.filler(inside, language, text)
			}
			first = false
		}
	}
	for _, p := range l.Times {
		for _, text := range literals(p) {
			t.filler(clocks, language, text)
		}
	}
	for _, p := range l.DateTimes {
		for _, text := range literals(p) {
			t.filler(joins, language, text)
		}
	}
	for _, k := range keys(l.Era) {
		t.note(era, language, k)
	}
	for _, e := range l.before {
		for _, k := range keys(e) {
			t.note(otherEra, language, k)
		}
	}
	for _, w := range l.dateWords {
		period, text, _ := strings.Cut(w, "\t")
		period, _, _ = strings.Cut(period, "-")
		if t.pending[language] == nil {
			t.pending[language] = map[string]set{}
		}
		if t.pending[language][period] == nil {
			t.pending[language][period] = set{}
		}
		for _, k := range keys(text) {
			t.pending[language][period][k] = true
		}
	}
	t.addSymbols(l)
}

func (t *tables) addSymbols(l *locale) {
	for code, symbols := range l.currency {
		for _, s := range symbols {
			folded := reading.Fold(s)
			if s == code || folded == "" || folded == "XXXX" || strings.ContainsAny(folded, "-()0123456789") {
				continue
			}
			if t.currencies[folded] == nil {
				t.currencies[folded] = map[string]bool{}
			}
			t.currencies[folded][code] = true
		}
	}
	for _, p := range l.Pairs {
		yes, no := reading.Fold(strings.ToLower(p[0])), reading.Fold(strings.ToLower(p[1]))
		if !strings.ContainsAny(yes+no, " :/ः") {
			t.pairs[[2]string{yes, no}] = true
		}
	}
}

// keys returns the key of a name, without the parts that are digits: those are read
// as the numbers that they are, and what stands beside them is a filler.
func keys(name string) []string {
	if k := reading.NameKey(name); k != "" && !strings.ContainsFunc(k, unicode.IsDigit) {
		return []string{k}
	}
	return nil
}

func (t *tables) month(language, name string, month int) {
	for _, k := range keys(name) {
		t.months[month][k] = true
		t.note(role(fmt.Sprint("m", month)), language, k)
		if t.byLanguage[language] == nil {
			t.byLanguage[language] = map[string]int{}
		}
		t.byLanguage[language][k] = month
	}
	if strings.ContainsFunc(name, unicode.IsDigit) {
		t.filler(inside, language, name)
	}
}

func (t *tables) filler(r role, language, text string) {
	for _, part := range strings.FieldsFunc(text, notLetter) {
		if k := reading.NameKey(part); k != "" {
			t.note(r, language, k)
		}
	}
	if k := reading.NameKey(text); k != "" && !strings.ContainsFunc(k, unicode.IsDigit) {
		t.note(r, language, k)
	}
}

// literals returns the texts of a pattern that are no fields.
func literals(pattern string) (out []string) {
	var b strings.Builder
	end := func() {
		if b.Len() > 0 {
			out = append(out, b.String())
		}
		b.Reset()
	}
	quoted := false
	for _, r := range pattern {
		switch {
		case r == '\'':
			quoted = !quoted
		case quoted, !(r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z'):
			b.WriteRune(r)
		default:
			end()
		}
	}
	end()
	return out
}

// attached returns the name of a month with the letters that a pattern writes right
// before or after it.
func attached(pattern, name string) []string {
	for _, field := range []string{"MMMM", "MMM", "LLLL", "LLL"} {
		before, behind, ok := strings.Cut(pattern, field)
		if !ok {
			continue
		}
		pre, post := "", ""
		if ls := literals(before); len(ls) > 0 && !endsInField(before) {
			pre = ls[len(ls)-1]
			pre = pre[strings.LastIndexFunc(pre, notLetter)+1:]
		}
		if ls := literals(behind); len(ls) > 0 && !startsWithField(behind) {
			post = ls[0]
			if i := strings.IndexFunc(post, notLetter); i >= 0 {
				post = post[:i]
			}
		}
		if pre+post == "" {
			return nil
		}
		return []string{pre + name, name + post, pre + name + post}
	}
	return nil
}

func notLetter(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) }

func field(b byte) bool { return b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' }

func endsInField(s string) bool     { return s != "" && field(s[len(s)-1]) }
func startsWithField(s string) bool { return s != "" && field(s[0]) }

// periods finds out which hours the words for parts of the day may mean.
func (t *tables) periods(dir string) {
	var file struct {
		Supplemental struct {
			DayPeriodRuleSet map[string]map[string]map[string]string
		}
	}
	read(&file, dir, "cldr-core", "supplemental", "dayPeriods.json")
	for language, periods := range t.pending {
		for period, words := range periods {
			var hours uint32
			switch rule := file.Supplemental.DayPeriodRuleSet[language][period]; {
			case period == "am":
				hours = 0xfff
			case period == "pm":
				hours = 0xfff000
			case rule["_at"] != "":
				hours = 1 << hour(rule["_at"])
			case rule["_from"] != "":
				for h := hour(rule["_from"]); h != hour(rule["_before"]); h = (h + 1) % 24 {
					hours |= 1 << h
				}
			}
			for w := range words {
				if len(w) > 1 || hours == 0xfff || hours == 0xfff000 {
					t.words[w] |= hours
					t.note("p", language, w)
				}
			}
		}
	}
	// A word for both halves of the day says nothing.
	maps.DeleteFunc(t.words, func(w string, hours uint32) bool { return hours == 0 || hours == 0xffffff })
	for w, languages := range t.names["p"] {
		for language := range languages {
			if hours := t.words[w]; hours != 0 {
				t.note(role(fmt.Sprintf("p%06x", hours)), language, w)
			}
		}
	}
	delete(t.names, "p")
}

func hour(clock string) int {
	var h int
	if _, err := fmt.Sscanf(clock, "%d:", &h); err != nil {
		check(err)
	}
	return h % 24
}

// only returns the names of months in one language that others do not have.
func (t *tables) only(language string, others ...string) set {
	out := set{}
	for name := range t.byLanguage[language] {
		alone := true
		for _, o := range others {
			_, has := t.byLanguage[o][name]
			alone = alone && !has
		}
		if alone {
			out[name] = true
		}
	}
	return out
}

// openMonths lists the names that stand for two months: the name, the month in
// Croatian, and the month in Czech or Polish. There must be no others.
func (t *tables) openMonths() (lines []string) {
	all := set{}
	for _, names := range t.months {
		maps.Copy(all, names)
	}
	for _, name := range slices.Sorted(maps.Keys(all)) {
		var found []int
		for m := 1; m <= 12; m++ {
			if t.months[m][name] {
				found = append(found, m)
			}
		}
		if len(found) < 2 {
			continue
		}
		croatian, ok := t.byLanguage["hr"][name]
		west := t.byLanguage["cs"][name] + t.byLanguage["pl"][name]
		if t.byLanguage["cs"][name] != 0 && t.byLanguage["pl"][name] != 0 {
			west /= 2
		}
		if !ok || len(found) != 2 || west == 0 {
			check(fmt.Errorf("the name %q is the months %v", name, found))
		}
		for _, m := range found {
			delete(t.months[m], name)
		}
		lines = append(lines, fmt.Sprintf("%s %d %d", name, croatian, west))
	}
	return lines
}

// nameLines lists the names: what they are, the languages that have them so, and the names.
func (t *tables) nameLines() (lines []string) {
	for _, r := range slices.Sorted(maps.Keys(t.names)) {
		byLanguages := map[string]set{}
		for word, languages := range t.names[r] {
			key := strings.Join(slices.Sorted(maps.Keys(languages)), ",")
			if byLanguages[key] == nil {
				byLanguages[key] = set{}
			}
			byLanguages[key][word] = true
		}
		for _, key := range slices.Sorted(maps.Keys(byLanguages)) {
			lines = append(lines, fmt.Sprintf("%s %s %s", r, key, strings.Join(slices.Sorted(maps.Keys(byLanguages[key])), " ")))
		}
	}
	return lines
}

// currencyLines lists the codes with the symbols that stand for them alone, and
// after a star those that stand for several. A tab separates them, since symbols
// may have spaces.
func (t *tables) currencyLines() (lines []string) {
	byCode := map[string][]string{}
	for _, symbol := range slices.Sorted(maps.Keys(t.currencies)) {
		codes := slices.Sorted(maps.Keys(t.currencies[symbol]))
		if len(codes) > 1 {
			codes = []string{"*"}
		}
		byCode[codes[0]] = append(byCode[codes[0]], symbol)
	}
	for _, code := range slices.Sorted(maps.Keys(byCode)) {
		lines = append(lines, code+"\t"+strings.Join(byCode[code], "\t"))
	}
	return lines
}

// pairLines lists the pairs of words for yes and no. Where two pairs have the same
// words the other way round, neither can be told from the other and both are left out.
func (t *tables) pairLines() (lines []string) {
	for p := range t.pairs {
		if !t.pairs[[2]string{p[1], p[0]}] {
			lines = append(lines, p[0]+" "+p[1])
		}
	}
	slices.Sort(lines)
	return lines
}
