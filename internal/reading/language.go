package reading

import (
	"math/bits"
	"strings"
)

// languages is a set of the languages that names come from.
type languages [2]uint64

// english is the place of English.
const english = 0

// languageList has the languages by their places (the codes of ISO 639 that the CLDR uses): those first that are preferred
// where a column's words are the same in several.
var languageList = lazy[[]string]{make: func() *[]string {
	list := strings.Fields("en es fr de pt it nl ru pl tr sv da nb cs hu fi ro el uk ar he hi bn zh ja ko vi th id")
	have := map[string]bool{}
	for _, l := range list {
		have[l] = true
	}
	for line := range strings.Lines(cldrNames + moreNames) {
		f := strings.Fields(line)
		if len(f) < 3 {
			continue
		}
		for l := range strings.SplitSeq(f[1], ",") {
			if !have[l] {
				list, have[l] = append(list, l), true
			}
		}
	}
	return &list
}}

var languagePlaces = lazy[map[string]int]{make: func() *map[string]int {
	m := map[string]int{}
	for i, l := range *languageList.get() {
		m[l] = i
	}
	return &m
}}

// languagesOf returns the set of a list of codes with commas between them.
func languagesOf(list string) (l languages) {
	places := *languagePlaces.get()
	for code := range strings.SplitSeq(list, ",") {
		l = l.or(oneLanguage(places[code]))
	}
	return l
}

// languageNamed returns the set of one language, and whether there is such a code.
func languageNamed(code string) (languages, bool) {
	i, ok := (*languagePlaces.get())[code]
	return oneLanguage(i), ok
}

func oneLanguage(place int) (l languages) {
	l[place/64] = 1 << (place % 64)
	return l
}

func (l languages) has(place int) bool { return l[place/64]>>(place%64)&1 == 1 }

func (l languages) or(o languages) languages { return languages{l[0] | o[0], l[1] | o[1]} }

func (l languages) and(o languages) languages { return languages{l[0] & o[0], l[1] & o[1]} }

func (l languages) empty() bool { return l == languages{} }

// places lists the places of the languages of the set.
func (l languages) places() (list []int) {
	for i, word := range l {
		for ; word != 0; word &= word - 1 {
			list = append(list, 64*i+bits.TrailingZeros64(word))
		}
	}
	return list
}

// codes lists the codes of the languages of the set.
func (l languages) codes() (list []string) {
	for _, place := range l.places() {
		list = append(list, (*languageList.get())[place])
	}
	return list
}

// A vocabulary is the languages that the words of a cell have in common: no cell mixes them. The zero value has met
// no word.
type vocabulary struct {
	in    languages
	words bool
}

// meet takes a word in, and reports whether there is a language that has it and all others.
func (v *vocabulary) meet(in languages) bool {
	if v.words {
		in = in.and(v.in)
	}
	v.in, v.words = in, true
	return !in.empty()
}
