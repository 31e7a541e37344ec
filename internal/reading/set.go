package reading

import "junvo/internal/value"

// Set says under which conventions a cell can be read and what stands in it. It
// is all that a conclusion about a column needs to know of a cell.
//
// A set is not a guess. The cell 1.234 has NumPoint, IntComma and NumComma at once: it is a number with a decimal
// point, and it is a whole number, with a group point, where the comma is the decimal mark. Which of these the column
// means is decided later, by counting: a cell with only NumComma, such as 99,1, is evidence for the comma, one with
// both is none. So a column of a billion cells comes down to a few dozen different sets with their counts, which can be
// merged in any order; and the decision, which sees nothing else, can be tested without a file.
//
// The bits fall into groups: what a number is under each decimal mark, which marks stand in it, what stands around it;
// under which orders of day and month a date is one; what is odd about the cell; and, in the topmost four bits, why it
// is blank. What a set leaves open (the widths of a date's fields, which word, which unit) is in the form beside it.
type Set uint64

// Bits of a Set. The blank kind of a cell stands in the topmost bits.
const (
	NumPoint      Set = 1 << iota // a number if the decimal mark is a point
	NumComma                      // a number if the decimal mark is a comma
	NumArabic                     // a number if the decimal mark is U+066B
	IntPoint                      // a whole number if the decimal mark is a point
	IntComma                      // a whole number if the decimal mark is a comma
	IntArabic                     // a whole number if the decimal mark is U+066B
	MarkPoint                     // a point stands between the digits
	MarkComma                     // a comma stands between the digits
	MarkSpace                     // a space of some kind stands between the digits
	MarkApos                      // an apostrophe stands between the digits
	MarkUnder                     // an underscore stands between the digits
	MarkArabic                    // U+066C stands between the digits
	Plain                         // in the canonical form of its reading already
	LeadingZero                   // whole part of several digits that begins with 0
	LongDigits                    // 16 plain digits or more
	Exponent                      // in scientific notation
	ExponentBare                  // in scientific notation without a mark or sign, as 1E5: may be a code
	Percent                       // with a percent sign
	PerMille                      // with a per mille sign
	Currency                      // with a currency symbol or code
	Unit                          // with a unit that is widely known
	UnitWord                      // with some other word after the number
	DateSure                      // a date that can be read in one way only, by its form
	DateDMY                       // a date if the order is day, month, year
	DateMDY                       // a date if the order is month, day, year
	DateYMD                       // a date if the order is year, month, day
	DateNever                     // written like a date, of a day that the calendar does not have
	DateOther                     // written like a date, of a year that belongs to another calendar
	MonthOpen                     // a date with a name that is one month in Croatian and another in Czech and Polish
	NamesCroatian                 // a date with a name of a month that is Croatian
	NamesWest                     // a date with a name of a month that is Czech or Polish
	ShortYear                     // a date with a year of two digits
	HasTime                       // a date with a time of day
	HasOffset                     // a date and time with a zone or an offset
	ZoneUnknown                   // a date and time with the name of a zone
	ClockOnly                     // a time of day without a date
	BoolWord                      // a word of a pair such as yes and no
	BlankWord                     // a word that stands for blank in some tables
	Told                          // a blank word that the user named
	CodeLike                      // digits and letters without a space
	ErrorValue                    // an error value of a spreadsheet
	BadBytes                      // bytes that are not text in the encoding
	Formula                       // would be run as a formula by a spreadsheet
	DateCompact                   // eight digits that are a day as yyyyMMdd, of 1900 to 2099
	DateOrdinal                   // a year and a day of the year, as 2021-063
	Dialled                       // a plus sign and seven digits or more: a telephone number
	LookAlike                     // would be a number if letters that look like digits were digits
	WrongDecoding                 // decoded with the wrong encoding
	Typed                         // stored as what it is by the source, not as text
	Markup                        // with a tag or a character reference of a web page
	Strays                        // with characters that plain text would not have
	Shortened                     // in the notation in which spreadsheets show long numbers, with digits missing: 4.00638E+12
	ListPoint                     // digits with two points or more between them that are no groups: 2.1.3
	ListComma                     // digits with two commas or more between them that are no groups: 1,2,3
	Bracketed                     // a number in parentheses
	ClockPoint                    // one digit or two, a point, two digits: a decimal, or a time of day
	NeverWest                     // with MonthOpen: Czech and Polish have no such day
	NeverCroatian                 // with MonthOpen: Croatian has no such day
	LetterSign                    // with a currency sign that is one plain letter, before digits without a mark
	WeekdayOther                  // written like a date, with the name of another weekday than that of its day
)

// Values are the bits of cells that have a value of their own: numbers, dates, times.
const Values = numbers | dates | ClockOnly | DateOrdinal

// Dates are the bits of dates.
const Dates = dates

// Affixes are the bits of what stands around a number, and GroupMarks those of the marks in it.
const (
	Affixes    = affixes
	GroupMarks = groupMarks
)

// Numbers are the bits of numbers.
const Numbers = numbers

const blankShift = 60

// Blanks are the bits of the blank kind, of which a cell with something in it has none.
const Blanks = Set(15) << blankShift

// numbers, wholes and orders are the bits that belong together, in the order of Mark and Order.
const (
	numbers    = NumPoint | NumComma | NumArabic
	wholes     = IntPoint | IntComma | IntArabic
	orders     = DateDMY | DateMDY | DateYMD
	dates      = DateSure | MonthOpen | orders
	groupMarks = MarkPoint | MarkComma | MarkSpace | MarkApos | MarkUnder | MarkArabic
	affixes    = Percent | PerMille | Currency | Unit | UnitWord
)

// Has reports whether all bits are in the set.
func (s Set) Has(bits Set) bool { return s&bits == bits }

// Any reports whether any of the bits is in the set.
func (s Set) Any(bits Set) bool { return s&bits != 0 }

// Blank returns the blank kind, NotBlank for cells with something in them. A
// blank word that the user did not name is not blank yet: the column decides.
func (s Set) Blank() value.Blank { return value.Blank(s >> blankShift) }

func blankSet(b value.Blank) Set { return Set(b) << blankShift }

// Mark is a decimal mark.
type Mark uint8

// The decimal marks, in the order of the bits NumPoint, NumComma, NumArabic.
const (
	Point Mark = iota
	Comma
	Arabic
	numMarks
)

var markTexts = [numMarks]string{".", ",", "٫"}

func (m Mark) String() string { return markTexts[m] }

func (m Mark) number() Set { return NumPoint << m }
func (m Mark) whole() Set  { return IntPoint << m }

// ParseMark returns the decimal mark written as s.
func ParseMark(s string) (Mark, bool) {
	for m, t := range markTexts {
		if t == s {
			return Mark(m), true
		}
	}
	return 0, false
}

// Order is the order of day, month and year.
type Order uint8

// The orders, in the order of the bits DateDMY, DateMDY, DateYMD.
const (
	DMY Order = iota
	MDY
	YMD
	numOrders
	// Undecided is no order: the evidence is missing or contradicts itself.
	Undecided = numOrders
)

var orderNames = [...]string{"dmy", "mdy", "ymd", "undecided"}

func (o Order) String() string { return orderNames[o] }

func (o Order) bit() Set { return DateDMY << o }

// say names the order in a sentence.
func (o Order) say() string {
	return [...]string{"day first", "month first", "year first", "undecided"}[o]
}

// Slot is where a value stands among those that a date leaves open. Mostly they are the days under each order;
// where the name of a month is one month in Czech and Polish and another in Croatian, they are the days of
// each; and where a text may be a date or a time of day, as 18.05.09, the time comes after the days.
type Slot uint8

// The slots that are no order's.
const (
	westSlot     = Slot(DMY)
	croatianSlot = Slot(MDY)
	onlySlot     = Slot(DMY) // where all days are the same
	ClockSlot    = Slot(numOrders)
	NumSlots     = ClockSlot + 1
	openSlot     = NumSlots // the evidence is missing or contradicts itself
)

// slot is where the day under an order stands.
func (o Order) slot() Slot {
	if o == Undecided {
		return openSlot
	}
	return Slot(o)
}

// ParseOrder returns the order of that name.
func ParseOrder(s string) (Order, bool) {
	for o, n := range orderNames[:numOrders] {
		if n == s {
			return Order(o), true
		}
	}
	return 0, false
}

var (
	noMarks    = []Mark{}
	pointOnly  = []Mark{Point}
	commaOnly  = []Mark{Comma}
	arabicOnly = []Mark{Arabic}
	eitherMark = []Mark{Point, Comma}
)

// Marks returns the decimal marks under which a number has values of its own: one
// mark where the value is the same under all that apply.
func (s Set) Marks() []Mark {
	switch {
	case s.Has(NumPoint|NumComma) && s.Any(MarkPoint|MarkComma):
		return eitherMark
	case s.Any(NumPoint):
		return pointOnly
	case s.Any(NumComma):
		return commaOnly
	case s.Any(NumArabic):
		return arabicOnly
	}
	return noMarks
}

// slotLists has the slots for each choice of orders.
var slotLists = [8][]Slot{
	{}, {0}, {1}, {0, 1}, {2}, {0, 2}, {1, 2}, {0, 1, 2},
}

// Slots returns the slots in which a date has values of its own; one where its form leaves no choice.
func (s Set) Slots() []Slot {
	switch {
	case s.Any(orders):
		return slotLists[s/DateDMY&7]
	case s.Any(MonthOpen):
		return slotLists[1<<westSlot|1<<croatianSlot]
	case s.Any(DateSure | ClockOnly):
		return slotLists[1<<onlySlot]
	}
	return nil
}

// Known reports whether a set and form can come from a reader, as far as using them
// relies on it.
func (s Set) Known(form uint64) bool {
	return s.Blank() < value.NumBlanks && (!s.Any(BoolWord|BlankWord) || s.Any(Told) || int(form) < len(wordList))
}

// IsNumber reports whether the cell is a number under some decimal mark.
func (s Set) IsNumber() bool { return s.Any(numbers) }
