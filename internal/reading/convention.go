package reading

import (
	"slices"
	"unicode/utf8"

	"junvo/internal/value"
)

// Reading is what a cell is read as, one per cell.
type Reading uint8

// The readings, in the order in which they are shown.
const (
	AsInteger Reading = iota
	AsDecimal
	AsDate
	AsTime
	AsTimestamp
	AsBoolean
	AsCode
	AsText
	AsBlank
	NumReadings
)

// readingNames and readingLetters are the names in reports and the letters of the strip.
var (
	readingNames = [NumReadings]string{
		"integer", "decimal", "date", "time", "timestamp", "boolean", "code", "text",
		"blank",
	}
	readingLetters = [NumReadings]rune{'i', 'd', 'D', 'T', 'S', 'b', 'c', 'x', '·'}
)

func (r Reading) String() string { return readingNames[r] }

// Letter is the reading's letter in the strip.
func (r Reading) Letter() rune { return readingLetters[r] }

// Convention is how a column writes its values, and the type they are to become.
type Convention struct {
	Type  value.Type
	Mark  Mark // the decimal mark
	Known bool // whether the decimal mark is decided, or not needed
	// EachMark says that the column has numbers in two styles, and that each number shows its own decimal mark.
	EachMark bool
	// Zeros says that numbers may begin with zeros, which they lose; otherwise such a cell fails, since it may be a code.
	Zeros bool
	// Groups are the group marks that may stand in numbers, as bits; 0 for any.
	Groups Set
	// Orders has the order of day, month and year for each separator of dateSeps.
	Orders [len(dateSeps)]Order
	// Affix is the unit, currency or percent sign of the column's numbers.
	Affix     string
	AffixKind Set
	// Factors are what numbers with other words after them are multiplied by: other units, millions, sides of an account.
	Factors []Factor
	// Croatian says which months the names mean that are others in Croatian than in
	// Czech and Polish; MonthsKnown whether that is decided.
	Croatian, MonthsKnown bool
	// Compact says that eight digits are a day as yyyyMMdd, and Ordinals that 2021-063
	// is a day of a year.
	Compact, Ordinals bool
	// Offsets says that the timestamps carry an offset from UTC.
	Offsets bool
	// zone is the offset of those that carry none, where zoned says that it is known.
	zone  int16
	zoned bool
	// Languages are those of the names of months and parts of the day that are sure in no language by themselves.
	Languages languages
	// HalfDays says that a time needs a part of the day, unless its hour is one of 24: 9:15 is open among 9:20 pm.
	HalfDays bool
	// Pairs are the pairs of truth words, as bits.
	Pairs pairSet
	// Ticks says that a sign such as x or a tick is true, and that nothing is false.
	Ticks bool
	// BlankWords are the words that count as blank here, in lower case.
	BlankWords []string

	affixForm uint64
	tentative bool     // the type is being tried, and nothing has decided it yet
	alsoForms []uint64 // of symbols that mean the column's currency, too
	blank     []uint64 // the forms of BlankWords
}

// A Factor is what numbers with a word after them are multiplied by.
type Factor struct {
	Word string
	By   value.Number
	form uint64
}

// Dated reports whether the column is one of days, with a time or without.
func (c *Convention) Dated() bool { return c.Type == value.Date || c.Type == value.Timestamp }

// Judge returns the one reading of a cell under the convention and whether it
// fits the column's type. It depends on the set and the form only.
func (c *Convention) Judge(s Set, form uint64) (Reading, bool) {
	if s.Blank() != value.NotBlank || s.Any(BlankWord) && slices.Contains(c.blank, form) && !c.isTruth(s, form) {
		return AsBlank, true
	}
	return c.JudgeMade(s, form)
}

// JudgeMade is Judge for a text that somebody has made, and that did not come with the source: a word that stands for
// blank there stands for itself here. The text must not be blank otherwise.
func (c *Convention) JudgeMade(s Set, form uint64) (Reading, bool) {
	r := c.reading(s, form)
	switch c.Type {
	case value.Text:
		return r, !s.Any(BadBytes)
	case value.Code:
		return r, !s.Any(BadBytes | Shortened)
	case value.Integer:
		return r, r == AsInteger && c.sure(s) && c.affixFits(s, form) && (c.Zeros || !s.Any(LeadingZero))
	case value.Decimal:
		return r, (r == AsInteger || r == AsDecimal) && c.sure(s) && c.affixFits(s, form) && (c.Zeros || !s.Any(LeadingZero))
	case value.Date:
		return r, r == AsDate && c.dated(s, form)
	case value.Timestamp:
		return r, r == AsTimestamp && c.dated(s, form) && c.offsetFits(s)
	case value.Time:
		return r, r == AsTime && c.timed(s, form)
	case value.Boolean:
		return r, r == AsBoolean
	}
	return r, false
}

// offsetFits reports whether a timestamp has an offset as the column's do, or is given the column's.
func (c *Convention) offsetFits(s Set) bool { return s.Any(HasOffset) == c.Offsets || c.zoned }

func (c *Convention) reading(s Set, form uint64) Reading {
	switch {
	case c.Compact && s.Any(DateCompact), c.Ordinals && s.Any(DateOrdinal):
		return AsDate
	case c.Type == value.Time && s.Any(ClockPoint):
		return AsTime
	case s.Any(numbers):
		return c.numberReading(s, form)
	case s.Any(dates|ClockOnly) && form&(weakMonth|weakPeriod) != 0 && !c.timed(s, form):
		return AsText
	case c.Type == value.Time && s.Any(ClockOnly):
		return AsTime
	case s.Any(dates):
		if o := c.Orders[dateSepOf(form)]; o != Undecided && !s.Any(DateSure|MonthOpen|o.bit()) {
			return AsText
		}
		if s.Any(HasTime) {
			return AsTimestamp
		}
		return AsDate
	case s.Any(ClockOnly):
		return AsTime
	case s.Any(BoolWord) && c.truthWord(form):
		return AsBoolean
	case s.Any(CodeLike):
		return AsCode
	}
	return AsText
}

func (c *Convention) numberReading(s Set, form uint64) Reading {
	whole := s.Has(c.markOf(s).whole())
	switch {
	case c.Type == value.Code && !s.Any(affixes|MarkPoint|MarkComma|MarkSpace|MarkApos), s.Any(LetterSign) &&
		form != c.affixForm:
		return AsCode
	case c.Type == value.Boolean && whole && (form == singleDigit || form == singleDigit+1):
		return AsBoolean
	case c.Known && !s.Has(c.Mark.number()):
		return AsText
	case whole:
		return AsInteger
	}
	return AsDecimal
}

// neutral reports whether a number is the same under every decimal mark that people use.
func neutral(s Set) bool {
	return s.Has(NumPoint|NumComma) && !s.Any(MarkPoint|MarkComma)
}

// sure reports whether a number's value is certain under the convention.
func (c *Convention) sure(s Set) bool {
	if marks := s & groupMarks &^ decimalMarks[c.Mark]; c.Groups != 0 && marks&^c.Groups != 0 {
		return false
	}
	return c.Known && s.Has(c.Mark.number()) || neutral(s) || c.EachMark && oneMark(s)
}

// oneMark reports whether a number can be read with one decimal mark only.
func oneMark(s Set) bool { return s&numbers != 0 && s&numbers&(s&numbers-1) == 0 }

func (c *Convention) affixFits(s Set, form uint64) bool {
	if c.AffixKind.Any(Percent | PerMille) {
		return s.Any(c.AffixKind)
	}
	if !s.Any(affixes) || c.AffixKind != 0 && s.Any(c.AffixKind) &&
		(form == c.affixForm || slices.Contains(c.alsoForms, form)) {
		return true
	}
	_, known := c.Factor(s, form)
	return known
}

// Factor returns what numbers of a set and form are multiplied by, false where it is nothing.
func (c *Convention) Factor(s Set, form uint64) (value.Number, bool) {
	if len(c.Factors) == 0 || !s.Any(Unit|UnitWord) {
		return value.Number{}, false
	}
	for i := range c.Factors {
		if f := &c.Factors[i]; f.form == form {
			return f.By, true
		}
	}
	return value.Number{}, false
}

// SlotOf returns where the value of a date or time of the set and form stands under the convention.
func (c *Convention) SlotOf(s Set, form uint64) Slot {
	switch {
	case c.Type == value.Time && s.Any(ClockOnly) && s.Any(dates):
		return ClockSlot
	case s.Any(DateSure | DateCompact | DateOrdinal):
		return onlySlot
	case !s.Any(MonthOpen):
		return c.Orders[dateSepOf(form)].slot()
	case !c.MonthsKnown:
		return openSlot
	case c.Croatian:
		return croatianSlot
	}
	return westSlot
}

// isTruth reports whether a word that may stand for blank is one of the column's truth
// words: na is no in Welsh.
func (c *Convention) isTruth(s Set, form uint64) bool {
	return c.Type == value.Boolean && s.Any(BoolWord) && c.truthWord(form)
}

func (c *Convention) truthWord(form uint64) bool {
	w := wordList[form]
	return w.tick && c.Ticks || !w.yes.or(w.no).and(c.Pairs).empty()
}

// Append appends the cell's value in canonical text. The cell must fit the type
// (see Judge); raw is its text as it came.
func (c *Convention) Append(dst, raw []byte, x *Reads) []byte {
	switch c.Type {
	case value.Integer, value.Decimal:
		if c.Plain(x.Set) && raw[0] != '-' {
			return append(dst, raw...)
		}
		if _, other := c.Factor(x.Set, x.Form); other {
			return append(dst, c.Number(x).String()...)
		}
		return x.appendNumber(dst, c.markOf(x.Set))
	case value.Date:
		return x.Days[c.SlotOf(x.Set, x.Form)].Append(dst)
	case value.Timestamp:
		m := x.Moment
		m.Day = x.Days[c.SlotOf(x.Set, x.Form)]
		if c.zoned && !m.HasOffset {
			m.HasOffset, m.Offset = true, c.zone
		}
		return m.Append(dst)
	case value.Time:
		return x.clock().Append(dst)
	case value.Boolean:
		if c.true(x) {
			return append(dst, "true"...)
		}
		return append(dst, "false"...)
	}
	return append(dst, raw...)
}

// Canonical reports whether a text is a value of the type in canonical form.
func (c *Convention) Canonical(text string) bool {
	var err error
	switch c.Type {
	case value.Integer, value.Decimal:
		var n value.Number
		n, err = value.ParseNumber(text)
		return err == nil && (c.Type == value.Decimal || n.Scale <= 0)
	case value.Date:
		_, err = value.ParseDate(text)
	case value.Timestamp:
		var m value.Moment
		m, err = value.ParseMoment(text)
		return err == nil && m.HasOffset == c.Offsets
	case value.Time:
		_, err = value.ParseMoment("2000-01-01T" + text)
	case value.Boolean:
		return text == "true" || text == "false"
	}
	return err == nil && utf8.ValidString(text)
}

// Plain reports whether a cell that fits is written in canonical form. (Of -0 it
// may say so; the canonical form is 0.)
func (c *Convention) Plain(s Set) bool {
	if (c.Type == value.Boolean || c.Type == value.Time) && s.Any(numbers) {
		return false // 1 is true, and 18.05 is 18:05
	}
	if c.Type == value.Date && s.Any(DateCompact|DateOrdinal) {
		return false
	}
	if c.zoned && !s.Any(HasOffset) {
		return false
	}
	return s.Any(Plain) && (!s.Any(MarkPoint) || c.markOf(s) == Point)
}

// markOf returns the decimal mark under which a number of the column is read.
func (c *Convention) markOf(s Set) Mark {
	switch {
	case c.EachMark && s.Any(numbers):
		return s.Marks()[0]
	case s.Has(c.Mark.number()):
		return c.Mark
	}
	return Point
}

func (c *Convention) true(x *Reads) bool {
	if x.Set.Any(numbers) {
		return x.Form == singleDigit+1
	}
	w := wordList[x.Form]
	return w.tick && c.Ticks || !w.yes.and(c.Pairs).empty()
}

// Number returns a fitting cell's number.
func (c *Convention) Number(x *Reads) value.Number {
	n := x.Number(c.markOf(x.Set))
	if f, other := c.Factor(x.Set, x.Form); other {
		return n.Times(f)
	}
	return n
}

// AffixIs sets the unit, currency or sign that the column's numbers carry.
func (c *Convention) affixIs(name string, kind Set) {
	c.Affix, c.AffixKind, c.affixForm, c.alsoForms = name, kind, affixForm(name), nil
	if kind.Any(Currency) {
		for symbol := range shared {
			if means(symbol, name) {
				c.alsoForms = append(c.alsoForms, affixForm(symbol))
			}
		}
	}
}

// clock returns the time of day of a cell; 18.05 is a number to the reader.
func (x *Reads) clock() value.Clock {
	if !x.Set.Any(ClockPoint) {
		return x.Moment.Clock
	}
	return ClockOf(number(x.digits()))
}

// ClockOf returns the time of day of hours and minutes in four digits.
func ClockOf(digits int64) value.Clock {
	c, _ := value.NewClock(int(digits/100), int(digits%100), 0, 0, 0)
	return c
}

// dated reports whether it is decided which day a date is, and that there is such a day.
func (c *Convention) dated(s Set, form uint64) bool {
	switch at := c.SlotOf(s, form); {
	case at == openSlot:
		return false
	case !c.timed(s, form):
		return false
	case !s.Any(MonthOpen):
		return true
	case at == croatianSlot:
		return !s.Any(NeverCroatian)
	}
	return !s.Any(NeverWest)
}

// blankIs adds a word that counts as blank in the column.
func (c *Convention) blankIs(form uint64) {
	c.blank = append(c.blank, form)
	c.BlankWords = append(c.BlankWords, wordList[form].text)
}
