package delim

import (
	"bytes"
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/wlynxg/chardet"
)

// Text that is not UTF-8 says its encoding by what it would mean in each. The
// encodings of East Asia have byte patterns of their own, which a library knows, and
// Japanese is known by its kana. Of
// the one-byte encodings the one wins in which the characters beyond ASCII look most
// like letters of words: of one script with their neighbours, in lower case inside a
// word, and frequent in the languages that the encoding was made for.

// frequent has the letters beyond ASCII that languages use in each one-byte encoding;
// where two encodings draw, the first is the more usual: western letters come before those of
// Central Europe, and the code pages of DOS last.
var frequent = []struct{ name, letters string }{
	{"windows-1252", "äöüßÄÖÜ"},
	{"windows-1252", "éèêëàâçîïôûùœÉÀÇ"},
	{"windows-1252", "ñáéíóúÑÁÉÍÓÚü"},
	{"windows-1252", "ãõçáéíóúâêôàÃÕÇ"},
	{"windows-1252", "åæøäöÅÆØÄÖé"},
	{"windows-1252", "àèéìòù"},
	{"windows-1252", "äöüßÄÖÜéèàçåæøÅÆØ"},
	{"iso-8859-15", "äöüßÄÖÜéèêëàâçîïôûùñáíóú€œŒŠšŽž"},
	{"windows-1250", "ąćęłńóśźżĄĆĘŁŃÓŚŹŻ"},
	{"windows-1250", "áčďéěíňóřšťúůýžÁČĎÉŘŠŤÚŮÝŽ"},
	{"windows-1250", "áéíóöőúüűÁÉÍÓÖŐÚÜŰ"},
	{"windows-1250", "čćđšžČĆĐŠŽ"},
	{"windows-1250", "ăâîșțşţĂÂÎŞŢ"},
	{"iso-8859-2", "ąćęłńóśźżĄĆĘŁŃÓŚŹŻ"},
	{"iso-8859-2", "áčďéěíňóřšťúůýžÁČĎÉŘŠŤÚŮÝŽ"},
	{"iso-8859-2", "áéíóöőúüűÁÉÍÓÖŐÚÜŰ"},
	{"windows-1251", "аеиностлрвкдмпуыяьбгзчйхжшюцщэфАВСПКМНОТДРГБИ"},
	{"koi8-r", "аеиностлрвкдмпуыяьбгзчйхжшюцщэфАВСПКМНОТДРГБИ"},
	{"iso-8859-5", "аеиностлрвкдмпуыяьбгзчйхжшюцщэфАВСПКМНОТДРГБИ"},
	{"windows-1253", "αειοστνρκλμπυωςηθγδάέήίόύώβφχΑΕΚΜΠΣΤ"},
	{"windows-1254", "ığşçöüâîİĞŞÇÖÜ"},
	{"windows-1255", "אבגדהוזחטיכלמנסעפצקרשתםןךףץ"},
	{"windows-1256", "ابتثجحخدذرزسشصضطظعغفقكلمنهويةى"},
	{"windows-1257", "ąčęėįšųūžĄČĘĖĮŠŲŪŽ"},
	{"windows-1257", "āčēģīķļņšūž"},
	{"windows-874", "กขคฆงจฉชซญฎฏฐณดตถทธนบปผฝพฟภมยรลวศษสหฬอฮะัาำิีึืุูเแโใไ็่้๊์"},
	{"macintosh", "äöüßÄÖÜéèêëàâçîïôûùñáíóúåæøÅÆØãõ"},
	{"cp850", "äöüßÄÖÜéèêëàâçîïôûùñáíóúåæøÅÆØãõ"},
	{"cp437", "äöüßÄÖÜéèêëàâçîïôûùñáíóúåæÅÆ"},
	{"cp852", "ąćęłńóśźżĄĆĘŁŃÓŚŹŻ"},
	{"cp852", "áčďéěíňóřšťúůýžÁČĎÉŘŠŤÚŮÝŽ"},
	{"cp852", "áéíóöőúüűÁÉÍÓÖŐÚÜŰ"},
	{"cp852", "čćđšžČĆĐŠŽ"},
	{"cp866", "аеиностлрвкдмпуыяьбгзчйхжшюцщэфАВСПКМНОТДРГБИ"},
}

// rareness is what a score has to be better by, for encodings that are rare in files of today.
var rareness = map[string]float64{
	"windows-1250": 0.03, "iso-8859-2": 0.04, "windows-874": 0.05, "macintosh": 0.08, "cp850": 0.08, "cp437": 0.09,
	"cp852": 0.1, "cp866": 0.05,
}

// guessSize is how many bytes are enough to tell an encoding.
const guessSize = 32 << 10

// guessCharset decides the encoding of text that is not UTF-8.
func guessCharset(sample []byte) (*charset, string) {
	if c := eastAsian(sample); c != nil {
		return c, "its bytes follow the pattern of this encoding"
	}
	part := sample[:min(len(sample), guessSize)]
	var best, second, g guess
	var runes []rune
	for _, f := range frequent {
		if g.charset == nil || g.charset.name != f.name {
			c, err := charsetNamed(f.name)
			if err != nil {
				continue
			}
			g = guess{charset: c, text: string(c.decode(nil, part))}
			runes = []rune(g.text)
		}
		g.score = score(runes, f.letters) - rareness[f.name]
		switch {
		case best.charset == nil || g.score > best.score:
			if best.text != g.text {
				second = best
			}
			best = g
		case g.text != best.text && (second.charset == nil || g.score > second.score):
			second = g
		}
	}
	if n := beyondASCII(part); n < 8 {
		return best.charset, fmt.Sprintf("not UTF-8; guessed from %d characters, so look at the letters and name the "+
			"right one with --encoding", n)
	}
	if best.score < minScore {
		return best.charset, "not UTF-8; its letters hardly make words in any encoding that is known, so look at them " +
			"and name the right one with --encoding"
	}
	if best.score-second.score < 0.02 {
		return best.charset, fmt.Sprintf("not UTF-8; %s is as likely, so look at the letters and name the right one with "+
			"--encoding", second.charset.name)
	}
	return best.charset, "not UTF-8; its letters make words in this encoding"
}

// minScore is the least score of text that is mostly words.
const minScore = 0.35

func beyondASCII(text []byte) (n int) {
	for _, b := range text {
		if b >= utf8.RuneSelf {
			n++
		}
	}
	return n
}

// guess is what a text would be in an encoding, and how much it looks like words.
type guess struct {
	charset *charset
	text    string
	score   float64
}

// eastAsian returns the encoding of text with two bytes or more for a character, nil
// if it is none or does not decode without an error.
func eastAsian(sample []byte) *charset {
	part := sample[:min(len(sample), guessSize)]
	for _, name := range []string{"shift_jis", "euc-jp"} {
		if c, text := decodes(name, part); c != nil && looksJapanese(text) {
			return c
		}
	}
	found := chardet.Detect(part)
	name, ok := eastAsianNames[found.Encoding]
	if !ok || found.Confidence < 0.8 {
		return nil
	}
	c, _ := decodes(name, part)
	return c
}

// eastAsianNames are the encodings that the library tells, by its names for them.
var eastAsianNames = map[string]string{
	"SHIFT_JIS": "shift_jis", "CP932": "shift_jis", "EUC-JP": "euc-jp", "EUC-KR": "euc-kr", "Big5": "big5",
	"GB18030": "gb18030", "GB2312": "gb18030", "GBK": "gb18030",
}

// decodes returns an encoding and the text in it, or nil where it does not decode.
func decodes(name string, part []byte) (*charset, string) {
	c, err := charsetNamed(name)
	if err != nil {
		return nil, ""
	}
	text, err := c.enc.NewDecoder().Bytes(part)
	if err != nil || bytes.Count(text, []byte("\ufffd")) > 1 { // the last character may be cut off
		return nil, ""
	}
	return c, string(text)
}

// frequentKanji are characters that Japanese names, places and records are full of.
const frequentKanji = "日本東京都道府県市区町村大小中上下山川田島海港北南西野村木林藤井石高橋佐々鈴伊渡辺吉松清水原子郎" +
	"一二三四五六七八九十百千万円年月火金土時分人名前後内外社会店番号数量価格合計品目注文発送住所電話"

// looksJapanese reports whether most characters beyond ASCII are kana or frequent kanji.
// Half-width kana do not count: any bytes can be read as those.
func looksJapanese(text string) bool {
	n, fit := 0, 0
	for _, r := range text {
		switch {
		case r < utf8.RuneSelf:
			continue
		case r >= 0x3041 && r <= 0x30ff, strings.ContainsRune(frequentKanji, r):
			fit++
		}
		n++
	}
	return n >= 2 && 5*fit >= 2*n
}

// score says how much the characters of a text beyond ASCII look like letters of
// words, given the usual ones, from about -1 to 1 for each of them.
func score(text []rune, letters string) float64 {
	usual := map[rune]bool{}
	for _, r := range letters {
		usual[r] = true
	}
	var sum float64
	n := 0
	for i, r := range text {
		if r < utf8.RuneSelf {
			continue
		}
		n++
		sum += weight(r, at(text, i-1), at(text, i+1), usual)
	}
	if n == 0 {
		return 0
	}
	return sum / float64(n)
}

func at(text []rune, i int) rune {
	if i < 0 || i >= len(text) {
		return ' '
	}
	return text[i]
}

// weight says how well a character stands between its neighbours.
func weight(r, before, after rune, usual map[rune]bool) float64 {
	switch {
	case unicode.IsControl(r):
		return -2
	case unicode.IsLetter(r):
		w := 0.2
		if usual[r] {
			w = 1
		}
		if unicode.IsUpper(r) && unicode.IsLower(before) {
			w -= 1.5 // a capital inside a word
		}
		for _, n := range []rune{before, after} {
			if unicode.IsLetter(n) && latin(n) != latin(r) {
				w -= 1.5 // two scripts in a word
			}
		}
		return w
	case unicode.IsSpace(r):
		return 0.3
	case unicode.IsLetter(before) && unicode.IsLetter(after):
		if r == '’' || r == '‘' {
			return 0.3
		}
		return -1 // a sign inside a word
	case r == '€' || r == '°' || r == '–' || r == '„' || r == '“' || r == '”' || r == '’' || r == '²' || r == '³' ||
		r == '½':
		return 0.5
	}
	return -0.2
}

func latin(r rune) bool { return unicode.Is(unicode.Latin, r) }

// guessWide finds UTF-16 and UTF-32 without a byte order mark: in most text every other byte is 0,
// or three of four are.
func guessWide(sample []byte) (name, why string) {
	var zeros [4]int
	for i, b := range sample {
		if b == 0 {
			zeros[i&3]++
		}
	}
	quarter := len(sample) / 4
	if quarter < 2 {
		return "", ""
	}
	most := func(n, of int) bool { return n*5 > of*2 }
	few := func(n, of int) bool { return n*20 < of }
	switch {
	case 10*zeros[3] >= 9*quarter && 10*zeros[2] >= 9*quarter && few(zeros[0], quarter):
		return "utf-32le", "two or three of every four bytes are 0"
	case 10*zeros[0] >= 9*quarter && 10*zeros[1] >= 9*quarter && few(zeros[3], quarter):
		return "utf-32be", "two or three of every four bytes are 0"
	case most(zeros[1]+zeros[3], 2*quarter) && few(zeros[0]+zeros[2], 2*quarter):
		return "utf-16le", "every other byte is 0"
	case most(zeros[0]+zeros[2], 2*quarter) && few(zeros[1]+zeros[3], 2*quarter):
		return "utf-16be", "every other byte is 0"
	}
	return "", ""
}
