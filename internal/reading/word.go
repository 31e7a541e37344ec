package reading

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// A word is something a cell or a part of a date can consist of: one of a pair
// of truth words, a word that stands for blank, the name of a month or weekday.
type word struct {
	text    string
	id      uint32
	yes, no uint32 // the pairs of which it is the true or the false word, as bits
	blank   bool
	marked  bool // blank, and no word of a language
	month   uint8
	weekday uint8 // 1 short, 2 long
}

// pairs are the pairs of words for true and false. A column is boolean when it
// holds both words of a pair and nothing else.
var pairs = []string{
	"true false", "yes no", "y n", "t f", "ja nein", "j n", "ja nej", "ja nee", "oui non", "o n", "si no", "sí no", "sì no",
	"sim não", "wahr falsch", "vrai faux", "verdadero falso", "vero falso", "да нет", "tak nie", "ano ne", "igen nem",
	"evet hayır", "kyllä ei", "はい いいえ", "是 否",
}

// blankWords stand for blank in some tables and for themselves in others; the
// column decides. Those in markedBlanks are no words of a language, so they count
// in a column of text too.
var (
	blankWords   = strings.Fields("na nan nil none null unknown missing tbd")
	markedBlanks = strings.Fields("- -- --- – — . .. ... ? ?? n/a n.a. #n/a n.n. k.a. s/d n/d n.d. (null) (blank) (leer) (none) <null> * /")
)

const (
	months   = "january february march april may june july august september october november december"
	weekdays = "monday tuesday wednesday thursday friday saturday sunday"
)

var words, wordList = func() (map[string]*word, []*word) {
	m := map[string]*word{}
	var list []*word
	get := func(s string) *word {
		w := m[s]
		if w == nil {
			w = &word{text: s, id: uint32(len(list))}
			m[s], list = w, append(list, w)
		}
		return w
	}
	for i, p := range pairs {
		yes, no, _ := strings.Cut(p, " ")
		get(yes).yes |= 1 << i
		get(no).no |= 1 << i
	}
	for _, s := range blankWords {
		get(s).blank = true
	}
	for _, s := range markedBlanks {
		get(s).blank, get(s).marked = true, true
	}
	for i, s := range strings.Fields(months) {
		get(s).month = uint8(i + 1)
		get(s[:3]).month = uint8(i + 1)
	}
	get("sept").month = 9
	for _, s := range strings.Fields(weekdays) {
		get(s).weekday = 2
		get(s[:3]).weekday = 1
	}
	for _, s := range []string{"tues", "thur", "thurs"} {
		get(s).weekday = 1
	}
	return m, list
}()

// nameStarts has, for the first letter of a name of a month or weekday, the second
// letters that occur, as bits.
var nameStarts = func() (starts [256]uint32) {
	for _, w := range wordList {
		if w.month|w.weekday != 0 {
			starts[w.text[0]] |= 1 << (w.text[1] - 'a')
		}
	}
	return starts
}()

// wordLengths has, for the first byte of a word in lower case, the lengths of the
// words that begin with it, as bits.
var wordLengths = func() (lengths [256]uint32) {
	for _, w := range wordList {
		lengths[w.text[0]] |= 1 << len(w.text)
	}
	return lengths
}()

// maxWord is the longest word in the tables, in bytes, that is looked up.
const maxWord = 24

// lookUp finds a word without regard to case.
func (r *Reader) lookUp(text []byte) (*word, bool) {
	if len(text) > maxWord {
		return nil, false
	}
	if b := text[0]; b < utf8.RuneSelf {
		if letter(b) {
			b |= 0x20
		}
		// Lower case may be longer or shorter than the text, but not where it is ASCII.
		if wordLengths[b]>>len(text)&1 == 0 && isASCII(text) {
			return nil, false
		}
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
	if w.yes|w.no != 0 {
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
