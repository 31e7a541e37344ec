package reading

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// A word is something a cell can consist of: one of a pair of truth words, or a word
// that stands for blank.
type word struct {
	text    string
	id      uint64
	yes, no pairSet // the pairs of which it is the true or the false word
	blank   bool
	marked  bool // blank, and no word of a language
	tick    bool // see ticks
}

// pairSet is a set of pairs of truth words, as bits.
type pairSet [2]uint64

func (p *pairSet) add(i int) { p[i/64] |= 1 << (i % 64) }

func (p pairSet) and(q pairSet) pairSet { return pairSet{p[0] & q[0], p[1] & q[1]} }

func (p pairSet) without(q pairSet) pairSet { return pairSet{p[0] &^ q[0], p[1] &^ q[1]} }

func (p pairSet) or(q pairSet) pairSet { return pairSet{p[0] | q[0], p[1] | q[1]} }

func (p pairSet) empty() bool { return p == pairSet{} }

// morePairs are pairs of words for true and false beside those of the CLDR. A column
// is boolean when it holds both words of a pair and few other texts.
const morePairs = `
true false
y n
t f
j n
o n
s n
wahr falsch
vrai faux
verdadero falso
vero falso
evet hayır
예 아니오
예 아니요
是 否
✓ ✗
✓ ✘
✔ ✗
✔ ✘
☑ ☐
✅ ❌
+ -
`

// ticks are signs for true that are the only sign of a column whose other cells are blank.
const ticks = "x ✓ ✔ ☑ ✅"

// blankWords stand for blank in some tables and for themselves in others; the
// column decides. Those in markedBlanks are no words of a language, so they count
// in a column of text too.
var (
	blankWords   = strings.Fields("na nan nil none null unknown missing tbd")
	markedBlanks = strings.Fields("- -- --- – — . .. ... ? ?? n/a n.a. #n/a \\n n.n. k.a. s/d n/d n.d. (null) (blank) " +
		"(leer) (none) <null> * /")
)

var words, wordList = func() (map[string]*word, []*word) {
	m := map[string]*word{}
	var list []*word
	get := func(s string) *word {
		w := m[s]
		if w == nil {
			w = &word{text: s, id: uint64(len(list))}
			m[s], list = w, append(list, w)
		}
		return w
	}
	pairs := strings.Fields(morePairs + cldrPairs)
	if len(pairs) > 2*128 {
		panic("more pairs of words than a pairSet holds")
	}
	for i := 0; i < len(pairs); i += 2 {
		get(pairs[i]).yes.add(i / 2)
		get(pairs[i+1]).no.add(i / 2)
	}
	for _, s := range strings.Fields(ticks) {
		get(s).tick = true
	}
	for _, s := range blankWords {
		get(s).blank = true
	}
	for _, s := range markedBlanks {
		get(s).blank, get(s).marked = true, true
	}
	return m, list
}()

// openPairs are the pairs of truth words that are codes as likely: N and S are points of the compass, + and - results of a
// test, NO and SI, IE and NA countries.
var openPairs = func() (open pairSet) {
	pairs := strings.Fields(morePairs + cldrPairs)
	for i := 0; i < len(pairs); i += 2 {
		switch pairs[i] + " " + pairs[i+1] {
		case "t f", "j n", "o n", "s n", "+ -", "si no", "ie na":
			open.add(i / 2)
		}
	}
	return open
}()

// wordLengths has, for the first byte of a word in lower case, the lengths of the
// words that begin with it, as bits.
var wordLengths = func() (lengths [256]uint32) {
	for _, w := range wordList {
		lengths[w.text[0]] |= 1 << len(w.text)
	}
	return lengths
}()

// wordRunes has, for the first character of a word in lower case, by its lowest bits, how many characters the words
// have that begin with it, as bits: lower case has as many.
var wordRunes = func() (counts [256]uint32) {
	for _, w := range wordList {
		first, _ := utf8.DecodeRuneInString(w.text)
		counts[byte(first)] |= 1 << utf8.RuneCountInString(w.text)
	}
	return counts
}()

// maxWord is the longest word in the tables, in bytes, that is looked up.
const maxWord = 31

// lookUp finds a word without regard to case.
func (r *Reader) lookUp(text []byte) (*word, bool) {
	if len(text) > maxWord {
		return nil, false
	}
	if !mayBeWordOf(text, utf8.RuneCount(text)) {
		return nil, false
	}
	r.lower = r.lower[:0]
	for i := 0; i < len(text); {
		c, n := rune(text[i]), 1
		if c >= utf8.RuneSelf {
			c, n = utf8.DecodeRune(text[i:])
		}
		r.lower = utf8.AppendRune(r.lower, unicode.ToLower(c))
		i += n
	}
	w, ok := words[string(r.lower)]
	return w, ok
}

func isASCII(text []byte) bool {
	for _, b := range text {
		if b >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// text reads a whole cell (folded) as a word.
func (r *Reader) text(text []byte, out *Reads) {
	w, ok := r.lookUp(text)
	if !ok {
		return
	}
	if w.tick || !w.yes.or(w.no).empty() {
		out.Set |= BoolWord
		if s := string(text); s == "true" || s == "false" {
			out.Set |= Plain
		}
	}
	if w.blank {
		out.Set |= BlankWord
	}
	out.Form = w.id
}
