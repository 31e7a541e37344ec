// Package reason is the catalogue of reasons: why a cell could not become its column's type. Reading, steps, plans and
// conversions all fail for one of them; help pages, reference documents and the lists of failures are made from it.
//
//	why := reason.NotFound
//	fmt.Println(why, why.Entry().Hint)
package reason

// Reason is why a cell could not become its column's type. The zero Reason is none.
type Reason uint8

// The reasons.
const (
	None Reason = iota
	NotANumber
	SeveralNumbers
	NotWhole
	Scientific
	LeadingZero
	UnitUnexpected
	GroupMisplaced
	MarkAmbiguous
	MarkConflict
	CurrencyMixed
	NotADate
	NoSuchDay
	WeekdayConflict
	OtherCalendar
	OtherEra
	NameAmbiguous
	OrderAmbiguous
	OrderConflict
	NotATime
	HalfDayMissing
	ZoneUnexpected
	UnknownZone
	NotABoolean
	ErrorValue
	SeveralValues
	BytesBroken
	NotFound
	TooFewPieces
	TooManyPieces
	NotComputed
	BlankNotAllowed
	Emptied
	NotUnique
	OutOfRange
	NotListed
	PatternBroken
	TooLong
	BeyondFormat
	numReasons
)

// Entry describes one reason in the catalogue of reasons.
type Entry struct {
	Reason Reason
	Name   string
	Say    string // what is wrong, in one sentence
	Hint   string // what would mend it
}

// planHints are the hints that speak of flags, as they are where the plan alone decides.
var planHints = map[Reason]string{
	NotANumber:     "Correct the cell, or name the text among the plan's blank-words if it stands for blank.",
	NotWhole:       "Make the column decimal: to: decimal.",
	MarkAmbiguous:  "Add decimal-mark to the column.",
	NotADate:       "Correct the cell, or name the text among the plan's blank-words if it stands for blank.",
	OrderAmbiguous: "Add date-order to the column.",
}

// Mend says what would mend a failure, by the plan where that alone decides.
func (r Reason) Mend(plan bool) string {
	if say := planHints[r]; plan && say != "" {
		return say
	}
	return r.Entry().Hint
}

// Catalogue describes every reason, by its number.
var Catalogue = [numReasons]Entry{
	{},
	{
		NotANumber, "not-a-number", "The text is no number under any convention.",
		"Correct the cell, or name the text with --blank-word, or among the plan's blank-words, if it stands for blank.",
	},
	{
		SeveralNumbers, "several-numbers", "More than one number stands in the cell.",
		"Decide which number is meant, or take the cell apart into columns of their own.",
	},
	{
		NotWhole, "not-whole", "The number has a fraction, and the column is integer.",
		"Make the column decimal: --as NAME=decimal, or in the plan to: decimal.",
	},
	{Scientific, "scientific-notation", "The number is in scientific notation, and the column's values are whole: " +
		"where they are identifiers, digits were lost when the file was made.", "Get the value from where the file was " +
		"made; make the column decimal if the notation is meant."},
	{
		LeadingZero, "leading-zero", "The number begins with 0, which it would lose: it may be a code.",
		"Make the column code: --as NAME=code. If it holds numbers, put zeros: drop into the plan.",
	},
	{UnitUnexpected, "unit-unexpected", "The number carries a unit or sign that the rest of the column does not, or " +
		"lacks the sign that the rest has.", "Convert the number to the column's unit, or give its factor in the plan."},
	{
		GroupMisplaced, "group-misplaced", "Group marks stand where no group of digits ends.",
		"Look at the source: a digit may be lost, or the mark may be a decimal mark.",
	},
	{MarkAmbiguous, "mark-ambiguous", "The mark can be a decimal mark or a group mark, and no cell of the column " +
		"shows which.", "Say which with --decimal-mark, or with decimal-mark in the plan."},
	{
		MarkConflict, "mark-conflict", "The number is written with the other decimal mark than the rest of the column.",
		"Write the number as the rest of the column is written.",
	},
	{
		CurrencyMixed, "currency-mixed", "The amount is in another currency than the rest of the column.",
		"Convert the amount, or put the currencies into columns of their own.",
	},
	{NotADate, "not-a-date", "The text is no date.", "Correct the cell, or name the text with --blank-word, or among " +
		"the plan's blank-words, if it stands for blank."},
	{NoSuchDay, "no-such-day", "The calendar has no such day.", "Look at the source: day and month may be exchanged " +
		"or mistyped."},
	{
		WeekdayConflict, "weekday-conflict", "The date names another weekday than that of its day.",
		"Look at the source: the day, the month, the year or the weekday is mistyped.",
	},
	{
		OtherCalendar, "other-calendar", "The year is one of another calendar, so that the day would be a wrong one.",
		"Convert the date to the Gregorian calendar.",
	},
	{
		OtherEra, "other-era", "The date is one of another era than the common one.",
		"Types for dates hold days of the years 1 to 9999 of the common era: keep the column as text.",
	},
	{NameAmbiguous, "name-ambiguous", "The name of the month is one month in Croatian and another in Czech and " +
		"Polish, and no other name of the column shows which.", "Write the month as a number."},
	{
		OrderAmbiguous, "order-ambiguous", "Day and month can be exchanged, and no cell of the column shows which is which.",
		"Say which with --date-order, or with date-order in the plan.",
	},
	{OrderConflict, "order-conflict", "The date can only be read in another order of day and month than the rest of " +
		"the column.", "Write the date as yyyy-MM-dd."},
	{NotATime, "not-a-time", "There is no time of day in the cell.", "Add the time of day, or make the column date."},
	{
		HalfDayMissing, "half-day-missing", "The time has no part of the day such as am or pm, and others of the column have.",
		"Add am or pm to the cell, or remove half-days from the plan if the column's clock has 24 hours.",
	},
	{ZoneUnexpected, "zone-unexpected", "The timestamp has an offset from UTC where the rest has none, or lacks it " +
		"where the rest has one.", "Write the timestamp as the rest of the column is written."},
	{UnknownZone, "zone-unknown", "The name of a time zone stands after the timestamp; which offset it means depends " +
		"on the day and the place.", "Write the offset from UTC as in +01:00."},
	{
		NotABoolean, "not-a-boolean", "The text is none of the column's words for true and false.",
		"Correct the cell, or make the column text.",
	},
	{
		ErrorValue, "error-value", "A spreadsheet wrote an error value in place of a value that it could not compute.",
		"Mend the formula in the spreadsheet and export again.",
	},
	{
		SeveralValues, "several-values", "The record has the key more than once, with values that differ.",
		"Say with a fix which value is right.",
	},
	{
		BytesBroken, "bad-bytes", "There are bytes in the cell that are not text in the file's encoding.",
		"Name the right encoding, or correct the cell.",
	},
	{
		NotFound, "not-found", "A step of the plan is to take a part of the text, and the part is not there.",
		"Correct the cell, or change the step.",
	},
	{
		TooFewPieces, "too-few-pieces", "The text is to be split into columns and has fewer pieces than there are columns.",
		"Correct the cell, or change the split.",
	},
	{
		TooManyPieces, "too-many-pieces", "The text is to be split into columns and has more pieces than there are columns.",
		"Correct the cell, change the split, or add columns to it.",
	},
	{
		NotComputed, "not-computed", "The expression has no value for the row, such as a division by zero.",
		"Correct the cells that it uses, or let the expression look for such a case.",
	},
	{
		BlankNotAllowed, "blank-not-allowed", "The cell is blank, and the plan says that it must not be.",
		"Fill the cell in, or take not-blank out of the plan.",
	},
	{
		Emptied, "emptied", "The steps leave nothing of the cell, and the plan says that this is a failure.",
		"Change the steps, or take emptied: fail out of the plan.",
	},
	{
		NotUnique, "not-unique", "An earlier row has the same value, and the plan says that values must be unique.",
		"Correct one of the two cells, or set such rows aside with on-failure: set-aside-row.",
	},
	{
		OutOfRange, "out-of-range", "The value lies outside the range that the plan gives.",
		"Correct the cell, or widen the range.",
	},
	{
		NotListed, "not-listed", "The value is none of those that the plan lists.",
		"Correct the cell, or add the value to the list.",
	},
	{
		PatternBroken, "pattern-broken", "The value does not match the pattern that the plan gives.",
		"Correct the cell, or change the pattern.",
	},
	{TooLong, "too-long", "The value is longer than the plan allows, or steps, a join or an expression have made it " +
		"longer than 1 MB.", "Shorten the cell, or allow more characters."},
	{
		BeyondFormat, "beyond-format", "The output's format can't hold the value as it is.",
		"Write another format, or make the column text in the plan.",
	},
}

func (r Reason) String() string { return Catalogue[r].Name }

// Entry returns the reason's entry in the catalogue.
func (r Reason) Entry() Entry { return Catalogue[r] }
