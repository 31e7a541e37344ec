package reading

import (
	"fmt"
	"slices"
	"strings"

	"junvo/internal/value"
)

// What looks like numbers may be something else: identifiers that would lose zeros or digits,
// versions and sections, times of day, lists, numbers in brackets. One odd cell says nothing
// about the others; what decides are shares of the whole column, and where these leave two
// answers the column stays text and says so.

// minOpen is how many numbers such as 18.05 it takes to doubt that they are decimals.
const minOpen = 3

// question says what stays open about a column most of whose cells can be numbers.
func (d *decider) question() Question {
	all := d.sum(func(s Set) bool { return s.Any(numbers) && !s.Any(Typed) })
	cells := d.sum(func(s Set) bool { return !s.Any(BlankWord) })
	if 2*all <= cells || d.ask.Mark != nil {
		return NothingOpen
	}
	count := func(bits Set) int64 {
		return d.sum(func(s Set) bool { return s.Any(numbers) && !s.Any(Typed) && s.Has(bits) })
	}
	lists := d.sum(func(s Set) bool { return s.Any(ListComma) })
	commas := d.sum(func(s Set) bool { return s.Any(numbers) && s&groupMarks == MarkComma })
	switch {
	case count(ClockPoint) == all && all >= minOpen && count(LeadingZero) == 0 && d.clockOnly() == 0 &&
		(!d.shortHours() || d.otherMark()):
		d.evidence(0, 0, "%d numbers such as 18.05 can be times of day, too, and none shows what they are", all)
		return OpenTimes
	case lists > 0 && commas > 0 && 20*lists >= commas:
		d.evidence(0, 0, "%d cells are lists such as 1,2,3, so that the %d numbers with a comma may be lists, too", lists,
			commas)
		return OpenLists
	case count(Bracketed) == all && d.sum(func(s Set) bool { return s.Any(Currency|MarkPoint|MarkComma) && s.Any(numbers) }) == 0:
		d.evidence(0, 0, "all %d numbers stand in parentheses, so that these may mean a minus or nothing", all)
		return OpenBrackets
	}
	if words := d.sides(); words != nil {
		d.evidence(0, 0, "%s behind numbers says on which side of an account they are: which side is negative is open",
			strings.Join(words, " and "))
		return OpenSides
	}
	return NothingOpen
}

// shortHours reports whether some of the numbers that may be times of day have an hour of one digit, as most amounts
// have.
func (d *decider) shortHours() bool {
	return slices.ContainsFunc(d.counts, func(k Count) bool {
		return k.Set.Any(ClockPoint) && !k.Set.Any(LeadingZero) && k.Digits[0] == 1
	})
}

// minShortHours is how many numbers such as 9.45 it takes to doubt that they are decimals.
const minShortHours = 20

// otherMark reports whether many numbers with a point stand in a file whose others have a comma.
func (d *decider) otherMark() bool {
	m := d.ask.Witness.Mark
	return m != nil && *m == Comma && d.sum(func(s Set) bool { return s.Any(numbers) }) >= minShortHours
}

// clockOnly counts the cells that are times of day and nothing else.
func (d *decider) clockOnly() int64 {
	return d.sum(func(s Set) bool { return s.Any(ClockOnly) && !s.Any(dates) })
}

// clocks says why numbers such as 08.05 are times of day, "" where they are not: all of them can
// be, and some begin with 0, or stand beside times that can be nothing else.
func (d *decider) clocks() string {
	all := d.sum(func(s Set) bool { return s.Any(numbers) })
	points := d.sum(func(s Set) bool { return s.Any(ClockPoint) && !s.Any(Typed) })
	zeros := d.sum(func(s Set) bool { return s.Has(ClockPoint | LeadingZero) })
	if d.shortHours() {
		zeros = 0
	}
	only := d.clockOnly()
	cells := d.sum(func(s Set) bool { return !s.Any(BlankWord) })
	if points == 0 || points < all || zeros+only == 0 || d.ask.Mark != nil ||
		float64(points+only) < d.ask.Fit*float64(cells) {
		return ""
	}
	return fmt.Sprintf("%d of %d are hours and minutes, and %d of them begin with 0 or have a colon",
		points+only, cells, zeros+only)
}

// scientific counts the numbers in scientific notation that may be codes, or identifiers which a
// spreadsheet has shortened.
func (d *decider) scientific() int64 {
	return d.sum(func(s Set) bool { return s.Any(ExponentBare | Shortened) })
}

// identifierDigits is how many digits a whole number has from which spreadsheets shorten it.
const identifierDigits = 12

// shortened reports whether spreadsheets have shortened identifiers: there are whole ones of
// twelve digits and more beside them, and no fractions.
func (d *decider) shortened() bool {
	short := d.sum(func(s Set) bool { return s.Any(Shortened) })
	long := slices.ContainsFunc(d.counts, func(k Count) bool {
		return k.Set.Any(LongDigits) ||
			k.Set.Any(IntPoint) && k.Digits[1] >= identifierDigits
	})
	fractions := d.sum(func(s Set) bool { return s.Any(numbers) && !s.Any(wholes|Shortened) })
	return short > 0 && long && fractions == 0
}

// decimals reports whether the numbers are more than codes that happen to look
// like scientific notation, such as 1E5.
func (d *decider) decimals() bool {
	bare := d.sum(func(s Set) bool { return s.Any(ExponentBare) })
	if bare == 0 {
		return true
	}
	return d.sum(func(s Set) bool { return s.Any(numbers) && !s.Any(ExponentBare) && !s.Has(IntPoint|IntComma) }) > 0
}

// few reports whether that many of all cells are odd ones rather than a sign of what all are.
func few(n, all int64) bool { return 100*n <= all || n == 1 && all >= 20 }

// codeNotNumber reports whether numbers are identifiers: some begin with 0, are longer than
// amounts are, or have more parts than a number.
func (d *decider) codeNotNumber() (bool, string) {
	all := d.sum(func(s Set) bool { return s.Any(numbers) })
	zeros := d.sum(func(s Set) bool { return s.Any(LeadingZero) && s.Any(wholes) })
	long := d.sum(func(s Set) bool { return s.Any(LongDigits) })
	marked := d.sum(func(s Set) bool {
		return s.Any(numbers) && (s.Any(affixes|MarkPoint|MarkComma|MarkSpace|MarkApos) || !s.Any(wholes))
	})
	dialled := d.sum(func(s Set) bool { return s.Any(Dialled) })
	parts := d.sum(func(s Set) bool { return s.Any(ListPoint) })
	var plus, parted int64
	for _, k := range d.counts {
		if k.Set.Any(numbers) && (k.Form == PlusSign || k.Set.Any(Dialled)) {
			plus += k.Cells
			parted += k.Cells * int64(bit(k.Set.Any(MarkSpace)))
		}
	}
	switch {
	case plus == all && parted > 0:
		return true, fmt.Sprintf("all %d begin with a plus sign, and some have spaces: dialling codes", all)
	case 2*dialled > all:
		return true, fmt.Sprintf("%d of %d begin with a plus sign and have %d digits or more: telephone numbers", dialled,
			all, minDialled)
	case zeros > 0 && 10*marked <= all && (!few(zeros, all) || d.oneLength()):
		return true, fmt.Sprintf("%d of %d begin with 0: as numbers they would lose it", zeros, all)
	case d.ask.CountsUp:
		return true, "the fractions count up, as those of versions and sections do: 1.9, 1.10, 1.11"
	case d.oneWidth():
		return true, "all have the same number of digits before the mark, with zeros in front"
	case long > 0 && 10*marked <= all && !few(long, all):
		return true, fmt.Sprintf("%d of %d have 16 digits or more: too long for an amount", long, all)
	case parts > 0 && 20*parts >= all:
		return true, fmt.Sprintf("%d beside %d numbers have several points, as versions and sections have", parts, all)
	}
	return false, ""
}

// oneLength reports whether all whole numbers have the same number of digits, as postcodes and
// account numbers have.
func (d *decider) oneLength() bool {
	length := 0
	for _, k := range d.counts {
		if !k.Set.Any(wholes) || k.Set.Any(affixes|groupMarks) {
			continue
		}
		fewest, most := k.Digits[0], k.Digits[1]
		if k.Set.Any(LeadingZero) {
			fewest = zeroDigits(k.Form)
			most = fewest
		}
		if length == 0 {
			length = fewest
		}
		if fewest != length || most != length {
			return false
		}
	}
	return length > 0
}

// zerosOfNumbers reports whether numbers that begin with zeros are numbers all the same: marks or units show that the
// column's are, or who asked for numbers has said so.
func (d *decider) zerosOfNumbers() bool {
	zeros := d.sum(func(s Set) bool { return s.Any(numbers) && s.Any(LeadingZero) })
	if zeros == 0 || d.ask.Type != nil {
		return zeros > 0
	}
	all := d.sum(func(s Set) bool { return s.Any(numbers) })
	marked := d.sum(func(s Set) bool { return s.Any(numbers) && (s.Any(affixes|groupMarks) || !s.Any(wholes)) })
	return 10*marked > all
}

// oneWidth reports whether the numbers have a fraction, the same number of digits before it, and zeros in front of
// some: 0101.21 beside 8471.30 is a code with a point in it.
func (d *decider) oneWidth() bool {
	width, zeros := 0, false
	for _, k := range d.counts {
		if k.Set.Blank() != value.NotBlank || k.Set.Any(BlankWord) {
			continue
		}
		if !k.Set.Any(numbers) || k.Set.Any(affixes|Exponent|Bracketed) || k.Set.Has(wholes) ||
			k.Set&groupMarks != MarkPoint && k.Set&groupMarks != MarkComma {
			return false
		}
		fewest, most := k.Digits[0], k.Digits[1]
		if k.Set.Any(LeadingZero) {
			fewest = zeroDigits(k.Form)
			most, zeros = fewest, true
		}
		if width == 0 {
			width = fewest
		}
		if fewest == 0 || fewest != width || most != width {
			return false
		}
	}
	return zeros
}

// versions makes a text column a code where its cells are numbers and texts of digits with
// several points between them.
func (d *decider) versions() bool {
	parts := d.sum(func(s Set) bool { return s.Any(ListPoint) })
	plain := d.sum(func(s Set) bool { return s.Any(NumPoint) && !s.Any(affixes|MarkComma|MarkSpace|MarkApos) })
	all := d.sum(func(s Set) bool { return !s.Any(BlankWord) })
	if parts == 0 || float64(parts+plain) < d.ask.Fit*float64(all) {
		return false
	}
	d.c.Convention.Type = value.Code
	d.c.Why = fmt.Sprintf("%d of %d have several points, as versions and sections have", parts, all)
	return true
}

// names of currencies in a column, by which symbols that several share get their meaning.
type currencyNames map[string]string

// ownCurrencies finds which currency each symbol of the column stands for: where a symbol is
// shared and the column names one of those that share it by its code, it stands for that.
func ownCurrencies(counts []Count) currencyNames {
	codes := map[string]bool{}
	for _, k := range counts {
		if k.Set.Any(Currency) && shared[k.Affix] == "" {
			codes[k.Affix] = true
		}
	}
	own := currencyNames{}
	for symbol, list := range shared {
		var found []string
		for _, code := range strings.Fields(list) {
			if codes[code] {
				found = append(found, code)
			}
		}
		if len(found) == 1 {
			own[symbol] = found[0]
		}
	}
	return own
}

// of returns the currency that an affix stands for.
func (c currencyNames) of(affix string) string {
	if code, ok := c[affix]; ok {
		return code
	}
	return affix
}
