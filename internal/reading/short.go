package reading

import "math/bits"

// Short is one of the ways in which a plain number of at most eight characters is written.
type Short struct {
	Set   Set
	Form  uint64
	Scale int32 // digits after the point
}

// ShortKind is the index of a way in Shorts: the scale; then one for numbers that may have a group, as
// 1.234, one for each digit that is a cell of its own, one for each number of digits that
// begin with 0, and one for numbers such as 18.05.
type ShortKind uint8

const (
	shortGrouped = maxShortScale
	shortDigit   = shortGrouped + 1
	shortZero    = shortDigit + 10          // one for each length of digits that begin with 0, from two
	shortClock   = shortZero + maxShort - 1 // two digits, a point and two digits that are a time of day, too
	// NumShorts is how many kinds of short numbers there are.
	NumShorts     = shortClock + 1
	maxShort      = 8
	maxShortScale = 7
)

// Shorts are the kinds of short numbers.
var Shorts = func() (kinds [NumShorts]Short) {
	kinds[0].Set = numbers | wholes | Plain
	for n := range maxShort - 1 {
		kinds[shortZero+n] = Short{Set: numbers | wholes | LeadingZero, Form: zeroForm(n + 2)}
	}
	kinds[shortClock] = Short{Set: NumPoint | MarkPoint | Plain | ClockPoint, Scale: 2}
	for scale := 1; scale < maxShortScale; scale++ {
		kinds[scale] = Short{Set: NumPoint | MarkPoint | Plain, Scale: int32(scale)}
	}
	kinds[shortGrouped] = Short{Set: NumPoint | MarkPoint | Plain | NumComma | IntComma, Scale: 3}
	for d := range uint64(10) {
		kinds[shortDigit+d] = Short{Set: numbers | wholes | Plain, Form: singleDigit + d}
	}
	return kinds
}()

// The eight bytes of a word hold a digit each where their upper halves are those of zeros.
const (
	ones, tops, zeros = 0x0101010101010101, 0x8080808080808080, 0x3030303030303030
	nines             = 0x7676767676767676 // brings all above nine over the top bit
)

// ReadShort reads a cell of one to eight bytes, which are those of w, the first of them
// lowest, as what Read says of a plain number: its digits as a whole number, with its sign,
// and how it is written. It reports false where it is none, and where it may be a day too.
func ReadShort(w uint64, n uint) (coef int64, kind ShortKind, ok bool) {
	if LongWay {
		return 0, 0, false
	}
	d := (w ^ zeros) << ((64 - 8*n) & 63) // the value of each digit, the last one topmost
	if (d+nines|d)&tops != 0 {
		return readShortPoint(w, n)
	}
	coef = eightDigits(d)
	switch {
	case n == 1:
		return coef, shortDigit + ShortKind(coef), true
	case n == 8 && coef >= firstCompact && coef <= lastCompact:
		return 0, 0, false
	case byte(w) == '0':
		return coef, shortZero + ShortKind(n-2), true
	}
	return coef, 0, true
}

// eightDigits returns the number of eight digits, the last one in the topmost byte: it adds
// up pairs of digits, then pairs of pairs (D. Lemire, "Quickly parsing eight digits").
func eightDigits(d uint64) int64 {
	const pairs = 0x000000ff000000ff
	d = d*10 + d>>8
	return int64((d&pairs*(100+1000000<<32) + d>>16&pairs*(1+10000<<32)) >> 32)
}

// readShortPoint is ReadShort for numbers with a minus or a point.
func readShortPoint(w uint64, n uint) (coef int64, kind ShortKind, ok bool) {
	negative := byte(w) == '-'
	if negative {
		w >>= 8
		n--
	}
	lead, whole := byte(w) == '0', n
	dot := w ^ ones*'.'
	if dot = (dot - ones) &^ dot & tops; dot != 0 {
		at := uint(bits.TrailingZeros64(dot)) &^ 7
		whole = at / 8
		n--
		if at == 0 || n == whole {
			return 0, 0, false
		}
		below := uint64(1)<<(at&63) - 1
		w = w&below | w>>8&^below // without the point
	}
	d := (w ^ zeros) << ((64 - 8*n) & 63)
	if n == 0 || (d+nines|d)&tops != 0 {
		return 0, 0, false
	}
	coef = eightDigits(d)
	scale := n - whole
	switch {
	case lead && whole > 1 && scale > 0:
		return 0, 0, false // the column asks how many digits stand before the point
	case scale == 3 && whole <= 3 && !lead:
		kind = shortGrouped
	case scale == 2 && whole <= 2 && !negative && isClock(coef):
		kind = shortClock
	case lead && whole > 1:
		kind = shortZero + ShortKind(n-2)
	default:
		kind = ShortKind(scale)
	}
	if negative {
		coef = -coef
	}
	return coef, kind, true
}

// ReadPlain reads a cell of one to eight bytes, which are those of w, the first of them lowest, as a plain number: its
// digits as a whole number, with its sign, and how many stand after the point. It is what ReadShort reads, without how
// it is written: there are few branches in it, since what is only added up is not worth that the processor guesses
// wrong.
func ReadPlain(w uint64, n uint) (coef int64, scale uint, ok bool) {
	if LongWay {
		return 0, 0, false
	}
	minus := uint64(1) - (uint64(byte(w)^'-')+0xff)>>8 // 1 where there is one
	w >>= 8 * minus
	n -= uint(minus)
	dot := w ^ ones*'.'
	if dot = (dot - ones) &^ dot & tops; dot != 0 {
		at := uint(bits.TrailingZeros64(dot)) &^ 7
		n--
		if scale = n - at/8; at == 0 || scale == 0 {
			return 0, 0, false
		}
		below := uint64(1)<<(at&63) - 1
		w = w&below | w>>8&^below // without the point
	}
	d := (w ^ zeros) << ((64 - 8*n) & 63)
	if n-1 > 7 || (d+nines|d)&tops != 0 {
		return 0, 0, false
	}
	coef = eightDigits(d)
	return (coef ^ -int64(minus)) + int64(minus), scale, true
}

// isClock reports whether three or four digits are hours and minutes.
func isClock(digits int64) bool { return digits < 2400 && digits%100 < 60 }

// zeroForm is the form of that many digits of the whole part of which the first is 0, so that a column knows
// whether its numbers have one length.
func zeroForm(digits int) uint64 { return zeroForms + uint64(digits) }

// zeroForms is after the forms of single digits.
const zeroForms = 1 << 8

// zeroDigits returns how many digits the whole part of a number has that begins with 0, from its form.
func zeroDigits(form uint64) int { return int(form) - zeroForms }
