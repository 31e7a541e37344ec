package reading

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"junvo/internal/character"
	"junvo/internal/value"
)

// Reads is what one cell can be read as. It is valid until its Reader reads the
// next cell.
type Reads struct {
	Set Set
	// Form tells how the cell was written where the set leaves it open: the layout of
	// a date or time, the word, the affix of a number, the shape of a code.
	Form     uint64
	affix    string // the name of the known unit, currency or sign around a number
	word     []byte // the other word after a number
	Negative bool
	Days     [numOrders]value.Day // in the slots that the set has
	Moment   value.Moment         // time of day and offset; the day is in Days

	coef   int64 // the digits of a plain number
	length uint8 // and how many they are
	small  bool  // whether the number stands in coef and not in the reader's digits
	reader *Reader
}

// A Reader reads cells. It keeps scratch space, so a Reader serves one goroutine.
type Reader struct {
	told map[string]int // the user's blank words

	reads  Reads
	num    numeral
	digits []byte
	scales [numMarks]int32
	runs   [maxRuns]int // digits in each run of a number
	kinds  [maxRuns]Set // the mark after each run
	folded []byte
	lower  []byte
	source []byte // of the tokens
	high   bool   // whether the cell has characters beyond ASCII
	cut    bool   // whether a token is shorter than it was
	toks   []token
	tokBuf [maxTokens]token
	at     int

	valued   bool // whether the value of a number in the cell has decided anything about dates
	said     said
	outlines *Outlines // nil where a cell is more than its outline
	known    *Outline  // of the cell; nil where it was not known
	pad      outlineText
}

// NewReader returns a reader for which the given words stand for blank wherever
// they are all that a cell holds.
func NewReader(blankWords []string) *Reader {
	r := &Reader{
		folded: make([]byte, 0, 256), digits: make([]byte, 0, 64), lower: make([]byte, 0, 64),
		outlines: NewOutlines(1),
	}
	r.reads.reader = r
	if len(blankWords) > 0 {
		r.told = make(map[string]int, len(blankWords))
		for i, w := range blankWords {
			r.told[w] = i
			// A word with digits is one cell of its outline, and stands for blank.
			if strings.ContainsFunc(w, unicode.IsDigit) {
				r.outlines = nil
			}
		}
	}
	return r
}

// Another returns a reader that reads as this one does, and shares nothing with it that changes.
func (r *Reader) Another() *Reader {
	other := NewReader(nil)
	if other.told = r.told; r.outlines == nil {
		other.outlines = nil
	}
	return other
}

// Chars returns how many characters the cell has that was read last.
func (r *Reader) Chars(cell []byte) int {
	if r.known != nil {
		return int(r.known.chars)
	}
	if r.high {
		return utf8.RuneCount(cell)
	}
	return len(cell)
}

// Told reports whether the user named blank words, of which a number may be one.
func (r *Reader) Told() bool { return r.told != nil }

// maxFolded is the longest cell, in bytes, that is read as anything but text.
const maxFolded = 512

var emptySet = blankSet(value.Empty)

// begin forgets the cell before.
func (r *Reader) begin() *Reads {
	x := &r.reads
	x.Set, x.Form, x.affix, x.Negative, x.small = 0, 0, "", false, false
	r.known, r.high = nil, false
	return x
}

// mayBePlain reports whether a cell that is not empty may be plain, by its first byte.
func (r *Reader) mayBePlain(cell []byte) bool {
	return (cell[0]-'0' <= 9 || cell[0] == '-') && r.told == nil && !LongWay
}

// Read says what the cell can be read as. It decides nothing and allocates nothing.
func (r *Reader) Read(cell []byte) *Reads {
	x := r.begin()
	if len(cell) == 0 {
		x.Set = emptySet
		return x
	}
	if LongWay {
		return r.long(cell, classesOf(cell), x)
	}
	if r.likeLast(cell, x) || len(cell) <= plainFirst && r.mayBePlain(cell) && r.plain(cell, x) {
		return x
	}
	return r.unknown(cell, x)
}

// ReadUnknown reads a cell as Read does, after Outline, Plain and LookUp have said that they don't know it.
func (r *Reader) ReadUnknown(cell []byte) *Reads { return r.unknown(cell, r.begin()) }

// unknown reads a cell that is not written as the last one of its length, nor plain and short.
func (r *Reader) unknown(cell []byte, x *Reads) *Reads {
	b := cell[0]
	var mask uint32
	if letter(b) {
		mask = classesOf(cell)
		if mask&cDigit == 0 {
			if r.told == nil && (onlyText(cell, mask) || mask&cHigh != 0 && onlyLetters(cell, mask) > 0) {
				r.high = mask&cHigh != 0
				return x
			}
			return r.long(cell, mask, x)
		}
	}
	done, learn := r.outlined(cell, x)
	if done || learn == nil && len(cell) > plainFirst && r.mayBePlain(cell) && r.plain(cell, x) {
		return x
	}
	if mask == 0 {
		mask = classesOf(cell)
	}
	switch {
	case learn != nil || r.told != nil:
	case letter(b) && onlyText(cell, mask):
		return x
	case b >= utf8.RuneSelf && onlyLetters(cell, mask) > 0:
		r.high = true
		return x
	case onlyCode(cell, mask):
		if mask&cSpace != 0 {
			return x
		}
		if x.Set = CodeLike; r.outlines == nil || !r.outlines.Crowded {
			x.Form = shape(cell)
		}
		return x
	}
	r.long(cell, mask, x)
	if learn != nil {
		r.learn(learn, cell, x)
	}
	return x
}

// ReadStored reads a cell that its source stores as this kind. A stored number is
// the same under every decimal mark, and never a code.
func (r *Reader) ReadStored(cell []byte, kind value.Stored) *Reads {
	x := &r.reads
	switch kind {
	case value.StoredText:
		return r.Read(cell)
	case value.StoredNull:
		x.Set, x.Form, x.affix, x.small = blankSet(value.Null), 0, "", false
		return x
	}
	r.Read(cell)
	switch {
	case kind == value.StoredError && len(cell) > 0 && !x.Set.Any(ErrorValue|Told):
		x.Set, x.Form, x.affix, x.small = ErrorValue|x.Set&BadBytes, 0, "", false
	case kind == value.StoredSeveral:
		x.Set, x.Form, x.affix, x.small = x.Set&BadBytes, 0, "", false
	case kind == value.StoredNumber && x.Set.Has(NumPoint):
		whole, plain := x.Set.Has(IntPoint), x.Set&Plain
		x.Set = numbers | Typed | plain | x.Set&Exponent
		if whole {
			x.Set |= wholes
		}
		r.scales[Comma], r.scales[Arabic] = r.scales[Point], r.scales[Point]
	case kind == value.StoredDate, kind == value.StoredBoolean:
		x.Set |= Typed
	}
	return x
}

// long reads a cell that is not plain, and has bytes of these classes.
func (r *Reader) long(cell []byte, mask uint32, x *Reads) *Reads {
	x.Moment = value.Moment{}
	r.num.parted = false
	r.high, r.valued, r.said = mask&cHigh != 0, false, said{}
	text := cell
	if mask&(cHigh|cControl) != 0 {
		var bad, invisible, stray, torn bool
		text, bad, invisible, stray, torn = fold(r.folded[:0], cell)
		if cap(text) > cap(r.folded) && cap(text) <= 1<<16 {
			r.folded = text[:0]
		}
		if bad {
			x.Set |= BadBytes
		}
		if stray {
			x.Set |= Strays
		}
		if mask&cHigh != 0 && misdecoded(cell) {
			x.Set |= WrongDecoding
		}
		if len(text) == 0 {
			if invisible {
				x.Set |= blankSet(value.Invisible)
			} else {
				x.Set |= blankSet(value.Spaces)
			}
			return x
		}
		if mask = classesOf(text); torn {
			return x
		}
	} else {
		text = trimSpaces(cell)
		if len(text) == 0 {
			x.Set = blankSet(value.Spaces)
			return x
		}
	}
	if r.told != nil {
		if i, ok := r.told[string(text)]; ok {
			x.Set |= Told | blankSet(value.Word)
			x.Form = uint64(i)
			return x
		}
	}
	r.look(text, mask, x)
	if len(text) != len(cell) {
		x.Set &^= Plain
		if cell[0] == ' ' || cell[len(cell)-1] == ' ' {
			x.Set |= Strays
		}
	}
	return x
}

// look reads text (folded, not empty) as all that its characters allow.
func (r *Reader) look(text []byte, mask uint32, x *Reads) {
	if len(text) > maxFolded {
		r.numberOnly(text, mask, x)
		return
	}
	if mask&cDigit == 0 {
		r.text(text, x)
	} else {
		if mask&(cColon|cQuote) == 0 && (!letter(text[0]) || mayBeCurrency(text)) {
			r.number(text, x)
		}
		if !x.Set.Any(numbers) && mask&(cPoint|cSlash|cMinus|cColon|cSpace|cLower|cUpper|cHigh) != 0 && mayBeDate(text) {
			r.date(text, x)
		}
		if x.Set.Any(dates | ClockOnly | DateNever | DateOther) {
			x.Set &^= ListPoint | ListComma
		}
		if !x.Set.Any(numbers|dates|ClockOnly) && mask&(cLower|cUpper|cHigh|cSign|cMarkup) != 0 && r.lookAlike(text) {
			x.Set |= LookAlike
		}
		if !x.Set.Any(numbers|dates|ClockOnly) && mask&cSpace == 0 && mask&(cLower|cUpper) != 0 {
			x.Set |= CodeLike
			x.Form = shape(text)
		}
	}
	if mask&cMarkup != 0 && markup(text) {
		x.Set |= Markup
	}
	switch text[0] {
	case '#':
		r.errorValue(text, x)
	case '=', '@', '+', '-':
		if !x.Set.Any(numbers) && len(text) > 1 {
			x.Set |= Formula
		}
	}
}

// numberOnly reads a very long text: only a number may be that long.
func (r *Reader) numberOnly(text []byte, mask uint32, x *Reads) {
	if mask&^(cDigit|cPoint|cComma|cSpace|cMinus) == 0 && mask&cDigit != 0 {
		r.number(text, x)
	}
}

// errorValues are what spreadsheets show in place of a value that they could not compute.
var errorValues = map[string]bool{
	"#REF!": true, "#DIV/0!": true, "#VALUE!": true, "#NAME?": true, "#NUM!": true, "#NULL!": true, "#N/A": true,
	"#SPILL!": true, "#CALC!": true, "#FIELD!": true, "#BUSY!": true, "#GETTING_DATA": true,
}

func (r *Reader) errorValue(text []byte, x *Reads) {
	if errorValues[string(text)] {
		x.Set |= ErrorValue
	}
}

// ShapeHash hashes a text's shape.
func ShapeHash(text []byte) uint64 { return shape(text) }

// shape hashes a text's shape: digits alike, letters alike, all else as it is.
func shape(text []byte) uint64 {
	h := uint32(fnvStart)
	for _, b := range text {
		h = (h ^ uint32(character.ShapeBytes[b])) * fnvPrime
	}
	return uint64(h)
}

// BlankSet returns the set of a cell that is blank for the reason given.
func BlankSet(b value.Blank) Set { return blankSet(b) }
