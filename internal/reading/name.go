package reading

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

//go:generate go run ./gen

// name is what a word in a date or a time of day may be. One word may be several
// things: mar is March in many languages and Tuesday in some.
type name struct {
	id       uint64 // its place among all names: see nameAt
	month    uint8  // from 1
	croatian uint8  // the month in Croatian where it is another there
	weekdays uint8  // that it may be, as bits, Sunday the lowest
	roles    wordRole
	bits     Set    // NamesCroatian or NamesWest, where the name shows the language
	hours    uint32 // as bits: those that a part of the day may mean
	// short is how many letters the name has where they are one to four of a script with an alphabet: so short a word is
	// a unit, a code or a word of text as likely, and more has to show that it is a name. Else it is 0.
	short      uint8
	alphabetic bool // of a script with an alphabet
	latin      bool // its first letter is of ASCII
	wide       bool // it has letters beyond ASCII
	// in has the languages in which the word is that: a month, a weekday, a part of the day, another word.
	in [numNameKinds]languages
}

// maxShortName is the most letters of a short name.
const maxShortName = 4

// The things that a name may be, each of them in other languages.
const (
	ofMonths = iota
	ofWeekdays
	ofPeriods
	ofOthers
	numNameKinds
)

// wordRole says where a word may stand that is beside the fields of a date or a time, as bits.
type wordRole uint16

const (
	leads      wordRole = 1 << iota // before a date
	inside                          // between the fields of a date, and after it
	joins                           // between a date and a time of day
	clocks                          // in a time of day, and after it
	era                             // the Common Era, after a date
	otherEra                        // the era before it
	ofYear                          // behind the year of a date that has numbers only
	beforeTime                      // before a time of day
	ofHour                          // between hours and minutes
)

var wordRoles = map[string]wordRole{
	"lead": leads, "inside": inside, "join": joins, "clock": clocks, "era": era, "other": otherEra, "year": ofYear,
	"at": beforeTime, "hour": ofHour,
}

// universal reports whether a part of the day is written so in most languages: am and pm.
func (n *name) universal() bool {
	return n.short == 2 && (n.hours == amHours || n.hours == pmHours) && n.in[ofPeriods].has(english)
}

// joinsAlone reports whether a word that joins a date and a time is that beside a time alone, too: a longer one that is
// not in ASCII, since the others are names and codes as likely.
func (n *name) joinsAlone() bool { return !n.alphabetic || n.wide && n.short != 1 && n.short != 2 }

// The hours of the halves of the day.
const (
	amHours = 0x000fff
	pmHours = 0xfff000
)

// moreNames are names and words beside those of the CLDR, in the same form.
const moreNames = `
m9 en sept
m3 de mrz
m1 mt jannar
m2 mt frar fra
m3 mt marzu
m4 mt april
m5 mt mejju mej
m6 mt ġunju ġun
m7 mt lulju lul
m8 mt awwissu aww
m9 mt settembru
m10 mt ottubru
m12 mt diċembru diċ
d2 en tues
d3 en wednes
d4 en thur thurs
p000fff en a
lead en the
lead da,nb,sv,de den
lead fr le
inside en of
inside ca,es,fr,gl,it,oc,pt de d
inside pl r
inside bg g
lead vi ngày
inside vi năm
inside zh 号 號
clock de uhr
hour de uhr
hour fr,ca,pt h
other en be ah
at da,nb,sv kl klock
at fi klo
clock fr,ca,pt h
year bg,ru г
year uk р
year kk ж
year pl r
year bg g
year lt m
year en ad ce
`

// nameTable has what is looked up of names. It is built when it is first used: a start of the program that
// reads no cell does without.
type nameTable struct {
	names      map[string]*name           // of all languages in the tables, by their keys (see NameKey)
	plain      map[string]*name           // see plainNames
	all        []*name                    // by their places
	starts     shortWords                 // what names begin with in up to three letters of ASCII
	short      shortWords                 // the names of up to three letters of ASCII
	fillers    uint32                     // the letters of ASCII that are fillers by themselves, as bits from a on
	beginnings [1 << beginningBits]uint64 // see mayGoOn
	wholes     [1 << beginningBits]uint64 // see mayBe
}

var theNames = lazy[nameTable]{make: func() *nameTable {
	t := &nameTable{names: map[string]*name{}, plain: map[string]*name{}, all: []*name{nil}}
	t.addNames()
	t.plainNames()
	for _, list := range []map[string]*name{t.names, t.plain} {
		for key := range list {
			ascii := letters([]byte(key))
			for n := 1; n <= min(ascii, 3); n++ {
				t.starts.add(key[:n])
			}
			if ascii == len(key) && ascii <= 3 {
				t.short.add(key)
			}
			if ascii == 1 && len(key) == 1 && list[key].roles != 0 {
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

// add returns the name of a key, a new one if there is none.
func (t *nameTable) add(list map[string]*name, key string) *name {
	n := list[key]
	if n == nil {
		n = &name{id: uint64(len(t.all)), latin: letter(key[0]), wide: !isASCII([]byte(key))}
		first, _ := utf8.DecodeRuneInString(key)
		n.alphabetic = alphabetic(first)
		if size := utf8.RuneCountInString(key); n.alphabetic && size <= maxShortName {
			n.short = uint8(size)
		}
		t.all, list[key] = append(t.all, n), n
	}
	return n
}

// alphabetic reports whether a letter is of a script that writes short words of a few letters, with spaces between them.
func alphabetic(c rune) bool {
	return unicode.In(c, unicode.Latin, unicode.Greek, unicode.Cyrillic, unicode.Armenian, unicode.Hebrew, unicode.Arabic)
}

// addNames adds the names of all languages in the tables.
func (t *nameTable) addNames() {
	for line := range strings.Lines(strings.TrimSpace(cldrNames + moreNames)) {
		f := strings.Fields(line)
		if len(f) < 3 {
			continue
		}
		in := languagesOf(f[1])
		for _, w := range f[2:] {
			t.add(t.names, w).is(f[0], in)
		}
	}
	for line := range strings.Lines(strings.TrimSpace(cldrOpenMonths)) {
		f := strings.Fields(line)
		n := t.add(t.names, f[0])
		n.croatian, n.month = number8(f[1]), number8(f[2])
	}
	for _, w := range strings.Fields(cldrCroatian) {
		t.add(t.names, w).bits = NamesCroatian
	}
	for _, w := range strings.Fields(cldrWestSlavic) {
		t.add(t.names, w).bits = NamesWest
	}
	for key, n := range t.names {
		t.joined(key, n)
	}
	t.names["am"].roles = 0 // before noon far more often than the Welsh for at
}

// joined gives a month with a word that some language writes as one with it, as denovembre, the languages that write the
// two apart.
func (t *nameTable) joined(key string, n *name) {
	for i := 1; n.month != 0 && i < len(key); i++ {
		word, rest := t.names[key[:i]], t.names[key[i:]]
		if word != nil && rest != nil && rest.month == n.month {
			n.in[ofMonths] = n.in[ofMonths].or(word.in[ofOthers].and(rest.in[ofMonths]))
		}
	}
}

// is notes what a name is in some languages.
func (n *name) is(what string, in languages) {
	kind := ofOthers
	switch role, ok := wordRoles[what]; {
	case ok:
		n.roles |= role
	case what[0] == 'm':
		n.month, kind = number8(what[1:]), ofMonths
	case what[0] == 'd':
		n.weekdays, kind = n.weekdays|1<<number8(what[1:]), ofWeekdays
	default:
		hours, err := strconv.ParseUint(what[1:], 16, 32)
		if err != nil {
			panic(err)
		}
		n.hours, kind = n.hours|uint32(hours), ofPeriods
	}
	n.in[kind] = n.in[kind].or(in)
}

// nameOf returns the name of a key.
func nameOf(key []byte) (*name, bool) {
	t := theNames.get()
	n, ok := t.names[string(key)]
	if !ok {
		n, ok = t.plain[string(key)]
	}
	return n, ok
}

// nameAt returns the name at a place, nil for 0.
func nameAt(id uint64) *name {
	if all := theNames.get().all; id < uint64(len(all)) {
		return all[id]
	}
	return nil
}

// plainNames adds the names of months as people write them who have no accents: without them, and
// with two letters for one that has two points (fevrier, Maerz). A key that is another name
// already, or would be two months, is left out.
func (t *nameTable) plainNames() {
	withoutMarks, twoLetters := strings.NewReplacer(strings.Fields(marked)...),
		strings.NewReplacer(strings.Fields(pairs)...)
	open := map[string]bool{}
	for _, key := range slices.Sorted(maps.Keys(t.names)) {
		n := t.names[key]
		if n.month == 0 || n.croatian != 0 {
			continue
		}
		for _, plain := range [...]string{withoutMarks.Replace(key), twoLetters.Replace(key)} {
			if _, taken := t.names[plain]; taken || plain == key || !isASCII([]byte(plain)) {
				continue
			}
			have := t.add(t.plain, plain)
			if have.month != 0 && have.month != n.month {
				open[plain] = true
			}
			have.month = n.month
			have.in[ofMonths] = have.in[ofMonths].or(n.in[ofMonths])
		}
	}
	maps.DeleteFunc(t.plain, func(key string, _ *name) bool { return open[key] })
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
func (r *Reader) name() (*name, bool) {
	var found *name
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
		return nil, false
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
		return nil, false
	}
	if next, _ := utf8.DecodeRune(t.text[size:]); alphabetic(next) { // words of an alphabet are written apart
		return nil, false
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
func (s *nameSearch) name() (*name, bool) {
	if !s.table.mayBe(s.hash) {
		return nil, false
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
