package reading

import (
	"maps"
	"strconv"
	"strings"
	"unicode/utf8"
)

//go:generate go run ./gen

// name is what a word in a date or a time of day may be. One word may be several
// things: mar is March in many languages and Tuesday in some.
type name struct {
	month    uint8 // from 1
	croatian uint8 // the month in Croatian where it is another there
	weekday  bool
	filler   bool   // a word beside the fields, as in 4 de marzo de 2021, or an era
	clock    bool   // a filler that stands beside times of day only
	bits     Set    // NamesCroatian or NamesWest, where the name shows the language
	hours    uint32 // as bits: those that a part of the day may mean
}

// The hours of the halves of the day.
const (
	amHours = 0x000fff
	pmHours = 0xfff000
)

// Names and words beside those of the CLDR.
const (
	moreMonths = "sept 9 mrz 3 " + // and those of Malta
		"jannar 1 frar 2 fra 2 marzu 3 april 4 mejju 5 mej 5 ġunju 6 ġun 6 lulju 7 lul 7 awwissu 8 aww 8 settembru 9 " +
		"ottubru 10 diċembru 12 diċ 12"
	moreWeekdays = "tues wednes thur thurs"
	moreFillers  = "the den le of r g ngày năm 号 號"
	clockWords   = "uhr"
)

// nameTable has what is looked up of names. It is built when it is first used: a start of the program that
// reads no cell does without.
type nameTable struct {
	names      map[string]name            // of all languages in the tables, by their keys (see NameKey)
	plain      map[string]name            // see plainNames
	starts     shortWords                 // what names begin with in up to three letters of ASCII
	short      shortWords                 // the names of up to three letters of ASCII
	fillers    uint32                     // the letters of ASCII that are fillers by themselves, as bits from a on
	beginnings [1 << beginningBits]uint64 // see mayGoOn
	wholes     [1 << beginningBits]uint64 // see mayBe
}

var theNames = lazy[nameTable]{make: func() *nameTable {
	t := &nameTable{names: allNames()}
	t.plain = plainNames(t.names)
	for _, list := range []map[string]name{t.names, t.plain} {
		for key := range list {
			ascii := letters([]byte(key))
			for n := 1; n <= min(ascii, 3); n++ {
				t.starts.add(key[:n])
			}
			if ascii == len(key) && ascii <= 3 {
				t.short.add(key)
			}
			if ascii == 1 && len(key) == 1 && list[key].filler {
				t.fillers |= 1 << (key[0] - 'a')
			}
			hash := uint32(fnvStart)
			for i := range len(key) {
				hash = (hash ^ uint32(key[i])) * fnvPrime
				word, bit := filterBit(hash)
				t.beginnings[word] |= bit
			}
			word, bit := filterBit(hash)
			t.wholes[word] |= bit
		}
	}
	return t
}}

// allNames returns the names of all languages in the tables, by their keys.
func allNames() map[string]name {
	m := make(map[string]name, 6000)
	add := func(key string, change func(n *name)) {
		n := m[key]
		change(&n)
		m[key] = n
	}
	for i, list := range strings.Split(cldrMonths, "\n\n") {
		for _, w := range strings.Fields(list) {
			add(w, func(n *name) { n.month = uint8(i + 1) })
		}
	}
	more := strings.Fields(moreMonths)
	for i := 0; i < len(more); i += 2 {
		add(more[i], func(n *name) { n.month = number8(more[i+1]) })
	}
	for line := range strings.Lines(strings.TrimSpace(cldrOpenMonths)) {
		f := strings.Fields(line)
		add(f[0], func(n *name) { n.croatian, n.month = number8(f[1]), number8(f[2]) })
	}
	for _, w := range strings.Fields(cldrCroatian) {
		add(w, func(n *name) { n.bits = NamesCroatian })
	}
	for _, w := range strings.Fields(cldrWestSlavic) {
		add(w, func(n *name) { n.bits = NamesWest })
	}
	for _, w := range strings.Fields(cldrWeekdays + moreWeekdays) {
		add(w, func(n *name) { n.weekday = true })
	}
	for _, w := range strings.Fields(cldrFillers + moreFillers) {
		if w == "am" {
			continue // before noon far more often than the Welsh for at
		}
		add(w, func(n *name) { n.filler = true })
	}
	for _, w := range strings.Fields(clockWords) {
		add(w, func(n *name) { n.filler, n.clock = true, true })
	}
	for line := range strings.Lines(strings.TrimSpace(cldrPeriods)) {
		f := strings.Fields(line)
		hours, err := strconv.ParseUint(f[0], 16, 32)
		if err != nil {
			panic(err)
		}
		for _, w := range f[1:] {
			add(w, func(n *name) { n.hours |= uint32(hours) })
		}
	}
	return m
}

// nameOf returns the name of a key.
func nameOf(key []byte) (name, bool) {
	t := theNames.get()
	n, ok := t.names[string(key)]
	if !ok {
		n, ok = t.plain[string(key)]
	}
	return n, ok
}

// plainNames returns the names of months as people write them who have no accents: without them, and
// with two letters for one that has two points (fevrier, Maerz). A key that is another name
// already, or would be two months, is left out.
func plainNames(names map[string]name) map[string]name {
	withoutMarks, twoLetters := strings.NewReplacer(strings.Fields(marked)...),
		strings.NewReplacer(strings.Fields(pairs)...)
	m := map[string]name{}
	open := map[string]bool{}
	for key, n := range names {
		if n.month == 0 || n.croatian != 0 {
			continue
		}
		for _, plain := range [...]string{withoutMarks.Replace(key), twoLetters.Replace(key)} {
			if _, taken := names[plain]; taken || plain == key || !isASCII([]byte(plain)) {
				continue
			}
			if have, ok := m[plain]; ok && have.month != n.month {
				open[plain] = true
			}
			m[plain] = name{month: n.month}
		}
	}
	maps.DeleteFunc(m, func(key string, _ name) bool { return open[key] })
	return m
}

// The letters with marks in the names of months that are written in Latin letters, each before what people
// write who have no marks.
const (
	marked = "á a à a â a ä a ã a å a ā a ă a ą a ả a ạ a ć c č c ç c ċ c ď d đ d é e è e ê e ë e ē e ė e ę e ě e ế e " +
		"ệ e " +
		"ğ g ġ g ģ g í i ì i î i ï i ī i į i ı i ķ k ĺ l ľ l ļ l ł l ñ n ń n ň n ņ n ó o ò o ô o ö o õ o ø o ō o ő o ŕ r " +
		"ř r ś s š s ş s ș s ť t ţ t ț t " +
		"ú u ù u û u ü u ū u ů u ű u ų u ý y ÿ y ź z ž z ż z"
	pairs = "ä ae ö oe ü ue å aa ø oe æ ae ß ss"
)

func number8(s string) uint8 {
	n, err := strconv.ParseUint(s, 10, 8)
	if err != nil {
		panic(err)
	}
	return uint8(n)
}

// shortWords is a set of words of one to three letters of ASCII, without regard to case.
type shortWords [27*27*27/64 + 1]uint64

// placeOf returns the number of a word in the set: its letters are digits from 1 to 26.
func placeOf[T []byte | string](word T) (n uint) {
	for i := range len(word) {
		n = n*27 + uint(word[i]|0x20-'a'+1)
	}
	return n
}

func (s *shortWords) add(word string) {
	n := placeOf(word)
	s[n/64] |= 1 << (n % 64)
}

// has reports whether a word of up to three letters is in the set.
func (s *shortWords) has(word []byte) bool {
	n := placeOf(word)
	return s[n/64]>>(n%64)&1 == 1
}

// maxNameParts is how many runs of letters a name may have: π.μ. has two.
const maxNameParts = 5

// name reads the longest name that stands at the reader's token, which is letters.
// Where words are written without spaces it may be the start of the token, which is
// then cut.
func (r *Reader) name() (name, bool) {
	var found name
	end, parts := 0, 0
	s := nameSearch{table: theNames.get(), key: r.lower[:0], hash: fnvStart}
	for j := r.at; j < len(r.toks) && parts < maxNameParts; j++ {
		t := &r.toks[j]
		if t.kind == tokLetters {
			parts++
			if s.addAll(t.text) < len(t.text) {
				break
			}
			if n, ok := s.name(); ok {
				found, end = n, j+1
			}
		} else if t.kind != tokOther || t.text[0] != '.' && t.text[0] != '\'' && t.text[0] != '-' {
			break
		}
	}
	r.lower = s.key[:0]
	if end > 0 {
		r.at = end
		return found, true
	}
	t := &r.toks[r.at]
	if isASCII(t.text) {
		return name{}, false
	}
	s = nameSearch{table: s.table, key: s.key[:0], hash: fnvStart}
	size := 0
	for i := 0; ; {
		n := s.add(t.text[i:])
		if i += n; n == 0 || i >= len(t.text) {
			break
		}
		if n, ok := s.name(); ok {
			found, size = n, i
		}
	}
	if size == 0 {
		return name{}, false
	}
	t.text, t.space, r.cut = t.text[size:], false, true
	return found, true
}

// nameSearch follows a text letter by letter for as long as names begin so: of most words that are no names the first
// two or three letters tell.
type nameSearch struct {
	table *nameTable
	key   []byte // see NameKey
	hash  uint32 // of the key
}

// add adds a letter at the start of text, and returns how many bytes it has: 0 where no name goes on with it.
func (s *nameSearch) add(text []byte) int {
	if letter(text[0]) {
		b := text[0] | 0x20
		s.key = append(s.key, b)
		s.hash = (s.hash ^ uint32(b)) * fnvPrime
		if len(s.key) > maxNameKey || !s.table.mayGoOn(s.hash) {
			return 0
		}
		return 1
	}
	before := len(s.key)
	_, n := utf8.DecodeRune(text)
	s.key = appendKey(s.key, text[:n])
	if len(s.key) == before {
		return n
	}
	for _, b := range s.key[before:] {
		s.hash = (s.hash ^ uint32(b)) * fnvPrime
	}
	if len(s.key) > maxNameKey || !s.table.mayGoOn(s.hash) {
		return 0
	}
	return n
}

// addAll adds all letters of a text, and returns how many bytes they have up to the one with which no name goes on.
func (s *nameSearch) addAll(text []byte) (size int) {
	for size < len(text) {
		n := s.add(text[size:])
		if n == 0 {
			break
		}
		size += n
	}
	return size
}

// name returns the name that the letters so far are, if they are one.
func (s *nameSearch) name() (name, bool) {
	if !s.table.mayBe(s.hash) {
		return name{}, false
	}
	return nameOf(s.key)
}

// The parameters of FNV-1a with 32 bits.
const fnvStart, fnvPrime = 2166136261, 16777619

// beginningBits is how many bits of a hash choose a word of nameTable.beginnings.
const beginningBits = 12

// mayGoOn reports whether a name may begin with what has this hash (FNV-1a). The hashes of all that names begin with,
// themselves among them, are kept as bits: most words of a text are none of it, so that they need not be looked up.
func (t *nameTable) mayGoOn(hash uint32) bool {
	word, bit := filterBit(hash)
	return t.beginnings[word]&bit != 0
}

// mayBe reports whether a name may have this hash.
func (t *nameTable) mayBe(hash uint32) bool {
	word, bit := filterBit(hash)
	return t.wholes[word]&bit != 0
}

// filterBit returns the word and the bit of a hash in the filters of nameTable.
func filterBit(hash uint32) (word uint32, bit uint64) {
	return hash >> (32 - beginningBits), 1 << (hash >> (26 - beginningBits) & 63)
}

// maxNameKey is longer than every key.
const maxNameKey = 64
