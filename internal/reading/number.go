package reading

import "junvo/internal/value"

// maxRuns is how many runs of digits between marks a number may have: 192 grouped digits.
const maxRuns = 64

// maxExponent bounds scientific notation, so that no cell grows beyond reason when written out.
const maxExponent = 400

// number reads text (folded) as a number and adds what it finds to the reads.
// Text without a digit is no number.
func (r *Reader) number(text []byte, out *Reads) {
	n := &r.num
	if !n.split(text) {
		return
	}
	known, isKnown, ok := n.named()
	if !ok {
		return
	}
	s, ok := n.scan(r)
	if !ok || s&numbers == 0 {
		out.Set |= n.list()
		return
	}
	if len(n.affix) == 1 && letter(n.affix[0]) && known.kind == Currency {
		switch {
		case !n.affixBefore:
			return // 12K is twelve thousand, 12R a house number
		case s.Any(MarkPoint | MarkComma):
		case n.spacedBefore:
			s |= LetterSign // R 12 may be an amount, or room 12
		default:
			return // R12 is a code
		}
	}
	if len(n.affix) == 3 && known.kind == Currency && known.name == string(n.affix) && n.affixBefore && !n.spacedBefore &&
		!s.Any(groupMarks) && !n.signed {
		s |= LetterSign | CodeLike // EUR5 may be an amount, and TOP01 is a code
	}
	var kind Set
	if n.affix != nil {
		switch {
		case isKnown:
			kind, out.affix = known.kind, known.name
			out.Form = affixForm(known.name)
		case !unitWord(n.affix):
			return
		default:
			kind, out.word = UnitWord, n.affix
			out.Form = affixForm(n.affix)
		}
		s &^= Plain
	}
	if kind&(Percent|PerMille) != 0 {
		s &^= wholes
	}
	switch {
	case n.affix != nil:
	case n.signed && !n.negative && s.Any(wholes) && !s.Any(LeadingZero):
		out.Form = PlusSign
	case n.signedBehind:
		out.Form = SignBehind
	case len(n.body) == 1 && !n.negative:
		out.Form = singleDigit + uint64(r.digits[0]-'0')
	case s.Has(LeadingZero|wholes) && !s.Any(groupMarks):
		out.Form = zeroForm(len(r.digits))
	case s.Any(LeadingZero) && (s&groupMarks == MarkPoint || s&groupMarks == MarkComma) && !s.Any(wholes|Exponent):
		out.Form = zeroForm(r.runs[0])
	}
	out.Negative = n.negative
	if n.bracketed {
		s |= Bracketed
	}
	out.Set |= s | kind
}

// named returns what is known of the affix, and whether text with it may be a number.
func (n *numeral) named() (known affix, isKnown, ok bool) {
	if n.affix == nil {
		return affix{}, false, true
	}
	known, isKnown = affixNamed(n.affix)
	switch {
	case n.affixBefore:
		// Only what people write before amounts: a letter before digits is part of a code.
		return known, isKnown, isKnown && known.kind.Any(Currency|Percent|PerMille)
	case isKnown:
		return known, true, true
	case glued(n.affix, n.body):
		return known, false, true
	case !n.spaced: // a letter right after the digits is part of a code
		return known, false, false
	case n.words > 1: // a sentence
		return known, false, false
	case partOfDay(n.affix): // a time
		return known, false, false
	}
	return known, false, true
}

// list returns the bit of a body of digits with one mark in several places that is no number,
// where nothing stands around it: 2.1.3 is a version or a section, 1,2,3 a list.
func (n *numeral) list() Set {
	mark, marks := byte(0), 0
	for i, b := range n.body {
		switch {
		case classes[b]&cDigit != 0:
		case (b == '.' || b == ',') && (mark == 0 || b == mark) && i > 0 && n.body[i-1] != b:
			mark = b
			marks++
		default:
			return 0
		}
	}
	switch {
	case marks < 2 || !n.bare || n.negative:
		return 0
	case mark == '.':
		return ListPoint
	}
	return ListComma
}

// singleDigit is the form of the cell 0, so that a column that is told to be
// boolean knows its 0 and 1.
const singleDigit = 1

// The forms of numbers with a sign that says something of the column: a plus is that of a telephone number, or of a
// difference; a minus behind is what accounting programs write, or a stray stroke.
const (
	PlusSign   = 1 << 16
	SignBehind = 1 << 17
)

// numeral is a number taken apart: sign, what stands around it, and the body of
// digits and marks.
type numeral struct {
	body        []byte
	affix       []byte
	affixBefore bool
	words       int  // that the affix has: F CFA has two
	spaced      bool // a space stands between the body and the affix after it
	negative    bool
	signed      bool
	bare        bool // nothing around the body but a minus right before it
	bracketed   bool // in parentheses
	parted      bool // with a fraction of one, or what looks like it
	// signedBehind says that the minus stands after the digits.
	signedBehind bool
	// spacedBefore says that a space stands between the affix before the body and the body.
	spacedBefore bool
}

// split finds the body between the first and the last digit and reads what
// stands around it: one sign, one pair of accounting parentheses, one affix.
func (n *numeral) split(text []byte) bool {
	*n = numeral{}
	first := 0
	for first < len(text) && classes[text[first]]&cDigit == 0 {
		first++
	}
	last := len(text)
	for last > first && classes[text[last-1]]&cDigit == 0 {
		last--
	}
	if first == last {
		return false
	}
	// A decimal mark may stand before the first digit: .5
	if first > 0 && (text[first-1] == '.' || text[first-1] == ',' || text[first-1] == foldArabicDecimal) {
		if first < 2 || !letter(text[first-2]) && classes[text[first-2]] != cHigh {
			first--
		}
	}
	n.body = text[first:last]
	n.bare = last == len(text) && (first == 0 || first == 1 && text[0] == '-')
	return n.around(text[:first], text[last:])
}

func letter(b byte) bool { return classes[b]&(cLower|cUpper) != 0 }

// around reads the text before and after the body.
func (n *numeral) around(before, behind []byte) bool {
	open := false
	if len(before) > 0 && before[0] == '\'' { // a spreadsheet's mark for text
		before = before[1:]
	}
	for len(before) > 0 {
		switch b := before[0]; {
		case b == ' ':
			n.spacedBefore = n.spacedBefore || n.affixBefore
			before = before[1:]
		case b == '-' || b == '+':
			if n.signed || open {
				return false
			}
			n.signed, n.negative = true, b == '-'
			before = before[1:]
		case b == '(':
			if n.signed || open {
				return false
			}
			open, before = true, before[1:]
		default:
			word := wordAt(before)
			if len(word) == 0 {
				return false
			}
			n.addWord(word)
			n.affixBefore = true
			before = before[len(word):]
		}
	}
	for len(behind) > 0 {
		switch b := behind[0]; {
		case b == ' ':
			n.spaced = n.spaced || n.affix == nil
			behind = behind[1:]
		case b == ')':
			if !open {
				return false
			}
			open, n.negative, n.signed, n.bracketed = false, true, true, true
			behind = behind[1:]
		case b == '-': // accounting programs write the minus after
			if n.signed || open {
				return false
			}
			n.signed, n.negative, n.signedBehind = true, true, true
			behind = behind[1:]
		default:
			word := wordAt(behind)
			if len(word) == 0 || n.affixBefore {
				return false
			}
			n.addWord(word)
			behind = behind[len(word):]
		}
	}
	return !open
}

// addWord adds a word of the same text to the affix.
func (n *numeral) addWord(word []byte) {
	if n.words++; n.words == 1 {
		n.affix = word
		return
	}
	// The words stand in one text, with spaces or signs between them.
	n.affix = n.affix[: cap(n.affix)-cap(word)+len(word) : cap(n.affix)]
}

// wordAt returns the word at the start of text: up to a space, a sign or a parenthesis.
func wordAt(text []byte) []byte {
	for i, b := range text {
		switch b {
		case ' ', '(', ')', '-', '+':
			return text[:i]
		case '\'':
			// In a word it may be a letter: so'm is the sum of Uzbekistan.
			if i == 0 || i+1 == len(text) || !letter(text[i-1]) || !letter(text[i+1]) {
				return text[:i]
			}
		}
	}
	return text
}

// scan reads the body: runs of digits with marks between them. It leaves the
// digits in r.digits and the scale under each decimal mark in r.scales, and says
// under which decimal marks the body is a number.
func (n *numeral) scan(r *Reader) (Set, bool) {
	digits := r.digits[:0]
	runs, kinds := &r.runs, &r.kinds
	var marks Set
	count, run, exponent, expAt := 0, 0, 0, -1
	for i, b := range n.body {
		if classes[b]&cDigit != 0 {
			digits = append(digits, b)
			run++
			continue
		}
		if b == 'e' || b == 'E' {
			e, ok := readExponent(n.body[i+1:])
			if !ok || run == 0 {
				return 0, false
			}
			exponent, expAt = e, i
			break
		}
		m := markSet(b)
		if b == '/' && count == 1 && kinds[0] == MarkSpace {
			n.parted = true
			return n.fraction(r, runs[0], i)
		}
		if m == 0 || count == maxRuns-1 {
			return 0, false
		}
		runs[count], kinds[count] = run, m
		count, run = count+1, 0
		marks |= m
	}
	r.digits = digits
	runs[count] = run
	if run == 0 {
		return 0, false
	}
	if count == 0 {
		return n.whole(r, exponent, expAt), true
	}
	s := marks &^ NumArabic
	for m := Point; m < numMarks; m++ {
		scale, grouped, ok := scaleUnder(m, runs[:count+1], kinds[:count])
		if !ok || grouped && (digits[0] == '0' || expAt >= 0) {
			continue // groups follow neither a leading zero nor an exponent
		}
		s |= m.number()
		r.scales[m] = int32(scale)
		if scale == 0 && expAt < 0 {
			s |= m.whole()
		}
	}
	if expAt >= 0 {
		for m := range r.scales {
			r.scales[m] -= int32(exponent)
		}
		if count == 1 && runs[0] == 1 && exponent >= minShortened && len(digits)-1 <= exponent && n.bare &&
			string(n.body[expAt:expAt+2]) == "E+" {
			s |= Shortened
		}
		return s | Exponent, true
	}
	zero := runs[0] > 1 && digits[0] == '0'
	if zero {
		s |= LeadingZero
	}
	if marks == MarkPoint && count == 1 && runs[0] > 0 && !zero && n.bare {
		s |= Plain
	}
	if marks == MarkPoint && count == 1 && runs[0] <= 2 && runs[0] > 0 && runs[1] == 2 && n.bare && !n.negative &&
		isClock(number(digits)) {
		s |= ClockPoint
	}
	return s, true
}

// whole is the result for a body of digits only, with an exponent perhaps.
func (n *numeral) whole(r *Reader, exponent, expAt int) Set {
	for m := range r.scales {
		r.scales[m] = int32(-exponent)
	}
	if expAt >= 0 {
		s := numbers | Exponent
		switch c := n.body[expAt+1]; {
		case c != '+' && c != '-':
			s |= ExponentBare
		case c == '+' && expAt == 1 && exponent >= minShortened && n.bare && n.body[expAt] == 'E':
			s |= Shortened
		}
		return s
	}
	s := numbers | wholes
	switch {
	case len(r.digits) > 1 && r.digits[0] == '0':
		s |= LeadingZero
	case n.bare:
		s |= Plain
	case n.signed && !n.negative && n.affix == nil && len(r.digits) >= minDialled:
		s |= Dialled
	}
	if n.bare && !n.negative && len(r.digits) == 8 {
		s |= compactDate(&r.reads, int(number(r.digits)))
	}
	if len(r.digits) >= longDigits {
		s |= LongDigits
	}
	return s
}

// minShortened is the exponent from which spreadsheets show whole numbers in scientific
// notation: those of twelve digits and more.
const minShortened = 11

// MayBeShortened reports whether text ends as numbers do that spreadsheets have shortened: E+12.
func MayBeShortened(text []byte) bool {
	n := len(text)
	return n > 4 && text[n-4] == 'E' && text[n-3] == '+'
}

// minDialled is how many digits a telephone number with a plus sign has at least.
const minDialled = 7

// number returns the value of up to eighteen digits.
func number(digits []byte) (n int64) {
	for _, d := range digits {
		n = n*10 + int64(d-'0')
	}
	return n
}

// Eight digits from firstCompact to lastCompact may be a day, of the years 1900 to 2099.
const (
	firstCompact = 19000101
	lastCompact  = 20991231
)

// compactDate reads eight digits as yyyyMMdd (ISO 8601 basic format).
func compactDate(x *Reads, n int) Set {
	if n < firstCompact || n > lastCompact {
		return 0
	}
	day, ok := value.NewDay(n/10000, n/100%100, n%100)
	if !ok {
		return 0
	}
	x.Days = [numOrders]value.Day{day, day, day}
	return DateCompact
}

func markSet(b byte) Set {
	switch b {
	case '.':
		return MarkPoint
	case ',':
		return MarkComma
	case ' ':
		return MarkSpace
	case '\'':
		return MarkApos
	case '_':
		return MarkUnder
	case foldArabicGroup:
		return MarkArabic
	case foldArabicDecimal:
		return NumArabic // stands for itself: only ever a decimal mark
	}
	return 0
}

var decimalMarks = [numMarks]Set{MarkPoint, MarkComma, NumArabic}

// scaleUnder returns the digits after the decimal mark m, if the runs are a
// number under it: m at most once and last, all other marks alike, and groups of
// three, or in the Indian way of two with a last group of three (CLDR's #,##,##0).
// It also says whether there are groups.
func scaleUnder(m Mark, runs []int, kinds []Set) (scale int, grouped, ok bool) {
	if last := len(kinds) - 1; kinds[last] == decimalMarks[m] {
		scale = runs[len(runs)-1]
		runs, kinds = runs[:last+1], kinds[:last]
		if len(kinds) == 0 {
			return scale, false, true
		}
	}
	g := kinds[0]
	if g == NumArabic || g == decimalMarks[m] || m == Arabic && g != MarkArabic {
		return 0, false, false
	}
	for _, k := range kinds {
		if k != g {
			return 0, false, false
		}
	}
	last := len(runs) - 1
	if runs[last] != 3 || runs[0] == 0 || runs[0] > 3 {
		return 0, false, false
	}
	size := runs[1]
	if last > 1 && size == 2 && (g != MarkComma || runs[0] > 2) {
		return 0, false, false // groups of two are written with commas only
	}
	for _, n := range runs[1:last] {
		if n != size || n < 2 || n > 3 {
			return 0, false, false
		}
	}
	return scale, true, true
}

func readExponent(b []byte) (int, bool) {
	neg := false
	if len(b) > 0 && (b[0] == '+' || b[0] == '-') {
		neg, b = b[0] == '-', b[1:]
	}
	if len(b) == 0 || len(b) > 3 {
		return 0, false
	}
	e := 0
	for _, c := range b {
		if classes[c]&cDigit == 0 {
			return 0, false
		}
		e = e*10 + int(c-'0')
	}
	if neg {
		e = -e
	}
	return e, e >= -maxExponent && e <= maxExponent
}
