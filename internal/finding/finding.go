// Package finding is the catalogue of findings: what is worth knowing about a column or a file. Sources, kinds of rows
// and profiles find them; help pages, reference documents and the lists of profiles are made from it.
//
//	k, ok := finding.Parse("leading-zeros")
//	fmt.Println(k.Entry().Do)
package finding

import (
	"fmt"
	"slices"
)

// Kind is what was found. The zero Kind is nothing. The more important kinds have the smaller numbers.
type Kind uint8

// The findings.
const (
	None Kind = iota
	Mixed
	OrderUndecided
	MarksUndecided
	NearlyTyped
	TimesUndecided
	ListsUndecided
	BracketsUndecided
	TruthUndecided
	SidesUndecided
	ByWitness
	TwoStyles
	NumbersAsText
	DatesAsText
	BooleansAsText
	BlanksAsText
	TextAmongNumbers
	StrayCharacters
	LeadingZeros
	MayBeCode
	VersionsOrDecimals
	LongDigits
	DigitsLost
	TwoDigitYears
	FarYears
	RareSigns
	Units
	Currencies
	Percent
	DayNumbers
	CutOff
	LookAlikes
	WrongDecoding
	Markup
	ErrorValues
	FormulaLike
	OneColumnOrSeveral
	RepeatedHeadings
	SectionHeadings
	TotalRows
	NamedTotals
	FullTotals
	BareTotals
	TotalNotRight
	MayBeTotal
	CarriedForward
	SecondTable
	UnreadStatements
	SummaryRows
	SwappedHeadings
	RuleRows
	Notes
	Footers
	BlankRows
	Duplicates
	ShortRows
	LongRows
	StrayQuotes
	OpenQuotes
	BadBytes
	NulBytes
	LongCells
	Blobs
	MergedCells
	HiddenSheets
	HiddenRows
	HiddenColumns
	DuplicateNames
	BlankNames
	NamesShifted
	NamesShort
	Formulas
	FormulasWithoutValue
	BrokenNames
	SpacedNames
	numKinds
)

// Scope is what a finding is about.
type Scope string

// The scopes.
const (
	OfFile   Scope = "file"
	OfColumn Scope = "column"
)

// Entry describes one finding in the catalogue.
type Entry struct {
	Kind Kind
	Name string
	Of   Scope
	Say  string
	Do   string // what to do about it
}

// Catalogue describes every finding, by its number.
var Catalogue = [numKinds]Entry{
	{},
	{
		Mixed, "mixed", OfColumn, "No one reading fits all non-blank cells of the column.",
		"Look at the odd rows: correct them, name blank words with --blank-word, or choose the type with --as.",
	},
	{OrderUndecided, "order-undecided", OfColumn, "Day and month can be exchanged and the column does not show which " +
		"is which, or shows both.", "Say which with --date-order."},
	{MarksUndecided, "marks-undecided", OfColumn, "A comma or point can be a decimal mark or a group mark and the " +
		"column does not show which, or shows both.", "Say which with --decimal-mark."},
	{NearlyTyped, "nearly-typed", OfColumn, "Most cells of the column fit one type, and too many do not for the " +
		"column to get it.", "Look at the odd ones; give the column its type with --fit or --as."},
	{TimesUndecided, "times-undecided", OfColumn, "Numbers such as 18.05 can be decimals or times of day and the " +
		"column does not show which.", "Say which with --as NAME=time or --decimal-mark."},
	{ListsUndecided, "lists-undecided", OfColumn, "Numbers with a comma stand beside lists such as 1,2,3, so that " +
		"they may be lists, too.", "Say which with --decimal-mark, or split the column at the comma."},
	{BracketsUndecided, "brackets-undecided", OfColumn, "Every number of the column stands in parentheses, which may " +
		"mean a minus or nothing.", "Say --as NAME=decimal if they mean a minus; else drop them with a step."},
	{TruthUndecided, "truth-undecided", OfColumn, "Every cell is one of two short words that stand for true and false in " +
		"some language, and for other things elsewhere.", "Say --as NAME=boolean if they mean true and false."},
	{SidesUndecided, "sides-undecided", OfColumn, "Numbers have a word behind that says on which side of an account they are, such " +
		"as CR and DR, or S and H. Which side is the negative one differs, so that the column stays text.", "Say it in a plan: " +
		"`factors: {CR: 1, DR: -1}`, or the other way round."},
	{ByWitness, "by-witness", OfColumn, "The cells leave the decimal mark or the order of dates open, and other columns of the " +
		"file show it.", "Say --each-column-alone if the columns were written by different programs."},
	{TwoStyles, "two-styles", OfColumn, "Numbers are written in two styles, some with a decimal point and some with a decimal " +
		"comma, and each shows which.", "Look whether the column was put together from two sources."},
	{NumbersAsText, "numbers-as-text", OfColumn, "Numbers are written in a way that other programs take for text: " +
		"with group marks, a decimal comma, a unit, stray characters.", "Convert the column."},
	{DatesAsText, "dates-as-text", OfColumn, "Dates are written in a way that other programs may read differently or " +
		"not at all.", "Convert the column."},
	{BooleansAsText, "booleans-as-text", OfColumn, "Truth values are written as words.", "Convert the column."},
	{BlanksAsText, "blanks-as-text", OfColumn, "Blank cells hold a word, spaces or invisible characters, so that " +
		"nothing finds them as blank.", "Convert the column; name further words with --blank-word."},
	{
		TextAmongNumbers, "text-among-numbers", OfColumn, "A few cells of a column of numbers are no numbers.",
		"See the failures file for each of them.",
	},
	{StrayCharacters, "stray-characters", OfColumn, "Characters that do not show, or spaces that are not plain " +
		"spaces, stand in cells.", "Convert the column; in text they stay as they are."},
	{
		LeadingZeros, "leading-zeros", OfColumn, "Values begin with 0 and would lose it as numbers.",
		"Keep the column as code.",
	},
	{MayBeCode, "may-be-code", OfColumn, "Whole numbers have one length and all differ, or the name of the column says that " +
		"they are numbers of something.", "Make the column code with --as NAME=code if next month's may begin with 0."},
	{VersionsOrDecimals, "versions-or-decimals", OfColumn, "Numbers such as 1.1 and 1.10 stand in the column, which are two " +
		"versions, and one number.", "Make the column code with --as NAME=code if they are versions or sections."},
	{LongDigits, "long-digits", OfColumn, "Values have 16 digits or more; programs with binary floating point would " +
		"change the last ones.", "Keep the column as code, or as integer: Junvo's are exact."},
	{DigitsLost, "digits-lost", OfColumn, "Numbers stand in the scientific notation in which spreadsheets show long " +
		"ones, with digits missing.", "Get the values from where the file was made, with the column formatted as text."},
	{
		TwoDigitYears, "two-digit-years", OfColumn, "Years are written with two digits; the century is a convention.",
		"Check that the years lie between 1950 and 2049.",
	},
	{
		FarYears, "far-years", OfColumn, "A few dates are of years before 1600 or after 2200.",
		"Look at them: a digit of the year may be mistyped.",
	},
	{
		RareSigns, "rare-signs", OfColumn, "A few numbers have their minus behind them or stand in parentheses, and no others do.",
		"Look whether a minus is meant.",
	},
	{Units, "units", OfColumn, "Numbers carry a unit.", "Check that all of them are meant in this unit."},
	{
		Currencies, "currencies", OfColumn, "Numbers carry a currency.",
		"Check that one currency is meant in the whole column.",
	},
	{
		Percent, "percent", OfColumn, "Numbers are percentages; they are converted to fractions.",
		"Check that no cell without the sign is meant as a percentage.",
	},
	{DayNumbers, "day-numbers", OfColumn, "Whole numbers among dates may be the day numbers that spreadsheets store " +
		"dates as.", "Make dates of them with the step day-number: 1900, or 1904 where the workbook begins there, or " +
		"export the column again as dates."},
	{CutOff, "cut-off", OfColumn, "Many texts have exactly the greatest length of the column, as if they had been cut " +
		"there.", "Ask for the source again with room for longer texts."},
	{
		LookAlikes, "look-alikes", OfColumn, "Letters stand where digits should, such as O for 0 and l for 1.",
		"Correct the cells; Junvo does not guess which digit was meant.",
	},
	{
		WrongDecoding, "wrong-decoding", OfColumn, "Text was decoded with the wrong encoding before it got here.",
		"Get the source again in the right encoding, or correct the cells.",
	},
	{
		Markup, "markup", OfColumn, "Tags or character references of a web page stand in the text.",
		"Export the column again as plain text, or correct the cells.",
	},
	{
		ErrorValues, "error-values", OfColumn, "A spreadsheet wrote error values in place of values.",
		"Mend the formulas and export again.",
	},
	{
		FormulaLike, "formula-like", OfColumn, "Cells begin with a sign that makes spreadsheets run them as formulas.",
		"Write a workbook, which keeps text as text, or guard the cells of a CSV output with --guard-formulas.",
	},
	{OneColumnOrSeveral, "one-column-or-several", OfFile, "A character occurs in most lines and not in the first one, so " +
		"it may be a delimiter below a title, or a part of the texts of one column.", "Look at the table; say --delimiter, which " +
		"may be none."},
	{RepeatedHeadings, "repeated-headings", OfFile, "Rows repeat the names of the columns.", "They are set aside."},
	{
		SectionHeadings, "section-headings", OfFile, "Rows hold one cell of text, as a heading of what follows.",
		"They are set aside; what they say of the rows below is lost in the table.",
	},
	{TotalRows, "total-rows", OfFile, "Rows add up others.", "They are set aside, or sums would count everything twice."},
	{NamedTotals, "named-totals", OfFile, "Rows begin with a word such as total and others, and add up the rows of " +
		"the table.", "They are set aside, or sums would count everything twice."},
	{FullTotals, "full-totals", OfFile, "Rows begin with a word such as total, fill all columns, and add up the rows " +
		"of the table.", "They are set aside, or sums would count everything twice."},
	{
		BareTotals, "bare-totals", OfFile, "The last row, or one above a gap or a heading, has no word and adds up the rows of the table or section.",
		"It is set aside, or sums would count everything twice.",
	},
	{TotalNotRight, "total-not-right", OfFile, "Rows begin with a word such as total, and their numbers are not what the rows add " +
		"up to.", "Look at them: they are kept as data; drop them with --drop-if if they are totals."},
	{
		MayBeTotal, "may-be-total", OfFile, "The last row has the sums of the rows above it in a column, and no word for totals.",
		"Look at it: it is kept as data; drop it with --drop-if if it is a total.",
	},
	{
		CarriedForward, "carried-forward", OfFile, "Rows carry the sum of an earlier page on, so that sums count it again.",
		"Look at them: they are kept as data; drop them with --drop-if.",
	},
	{
		SecondTable, "second-table", OfFile, "Below a blank row stand words in every cell, as the names of another table, and columns " +
			"have cells that do not fit.", "Look at it: split the file there.",
	},
	{
		UnreadStatements, "unread-statements", OfFile, "Statements of the dump change rows of the table, and are not " +
			"carried out: rows are read as they were inserted.",
		"Load the dump into a database and read the table there, or see that they do not matter.",
	},
	{SummaryRows, "summary-rows", OfFile, "Rows hold an average, minimum or maximum of the table.", "They are set aside."},
	{
		SwappedHeadings, "swapped-headings", OfFile, "The names of the columns stand again in another order.",
		"Split the file there: below it the values stand in other columns.",
	},
	{RuleRows, "rule-rows", OfFile, "Rows are lines drawn with dashes.", "They are set aside."},
	{Notes, "notes", OfFile, "Rows hold a sentence in place of data.", "They are set aside."},
	{
		Footers, "footers", OfFile, "Rows are comments, or say how many rows there are or where they are from.",
		"They are set aside.",
	},
	{BlankRows, "blank-rows", OfFile, "Rows have no cell with anything in it.", "They are set aside."},
	{
		Duplicates, "duplicates", OfFile, "Rows are the same as others, in every column.",
		"Look whether the source was joined or exported twice; Junvo keeps them.",
	},
	{
		ShortRows, "short-rows", OfFile, "Rows have fewer cells than the table has columns.",
		"The cells that are not there are blank; look whether a line break split the row.",
	},
	{
		LongRows, "long-rows", OfFile, "Rows have more cells than the table has columns.",
		"They are set aside: their values may stand in the wrong columns.",
	},
	{
		StrayQuotes, "stray-quotes", OfFile, "Quotes stand inside cells.",
		"They are kept as characters; look whether cells were cut in the wrong place.",
	},
	{
		OpenQuotes, "open-quotes", OfFile, "A quote opens a cell and is never closed.",
		"It is kept as a character; look at these rows.",
	},
	{
		BadBytes, "bad-bytes", OfFile, "Bytes are not text in the encoding.",
		"Their cells fail in a conversion; name the right encoding with --encoding.",
	},
	{NulBytes, "nul-bytes", OfFile, "Cells hold NUL bytes.", "They are kept; the file may be damaged or no text."},
	{
		LongCells, "long-cells", OfFile, "A cell is longer than 64 MB.",
		"Look whether a quote or a line end is missing before it.",
	},
	{
		Blobs, "blobs", OfFile, "Cells of a database hold bytes that are not text.",
		"They are shown in hexadecimal; leave the column out with a plan.",
	},
	{
		MergedCells, "merged-cells", OfFile, "Cells of a sheet are merged: only the first of each range has a value.",
		"The others are blank; the step fill: {from: above} carries a value down.",
	},
	{
		HiddenSheets, "hidden-sheets", OfFile, "Other sheets of the workbook are hidden: they are left out where all are " +
			"read, as in book.xlsx#*.",
		"Name a hidden sheet after # to read it.",
	},
	{
		HiddenRows, "hidden-rows", OfFile, "Rows of a sheet are hidden.",
		"They are read as the others; look whether they are meant.",
	},
	{
		HiddenColumns, "hidden-columns", OfFile, "Columns of a sheet are hidden.",
		"They are read as the others; leave them out with a plan.",
	},
	{
		DuplicateNames, "duplicate-names", OfFile, "Columns have the same name.",
		"The second and later ones have a number after their name.",
	},
	{BlankNames, "blank-names", OfFile, "Columns have no name.", "They are called by their position."},
	{NamesShifted, "names-shifted", OfFile, "The header has one name less than the rows have cells, and the first " +
		"column numbers the rows.", "The first column is the one without a name; say --header-row if that is wrong."},
	{NamesShort, "names-short", OfFile, "The header has one name less than the rows have cells, so that names may " +
		"stand over the wrong columns.", "Look which column has no name, and put it into the file."},
	{Formulas, "formulas", OfFile, "Cells of a sheet are worked out by formulas; the values that were stored last are " +
		"read.", "Look at whether the workbook was saved after its last change."},
	{FormulasWithoutValue, "formulas-without-value", OfFile, "Formulas have no stored value, so that their cells are " +
		"blank.", "Open the workbook in its program and save it."},
	{
		BrokenNames, "broken-names", OfFile, "Names of columns have bytes that are not text in the encoding.",
		"Name the right encoding with --encoding.",
	},
	{
		SpacedNames, "spaced-names", OfFile, "Spaces stand around the names of columns.",
		"They are left out of the names; other programs may count them in.",
	},
}

// weighty are the findings that change what values mean, or which rows are data. They are told wherever somebody
// decides: in the ledger of a conversion, in the comments of a drafted plan, on the page, and by a check; the others in
// a profile only.
var weighty = [numKinds]bool{
	OrderUndecided: true, MarksUndecided: true, NearlyTyped: true, TimesUndecided: true, ListsUndecided: true,
	BracketsUndecided: true, TruthUndecided: true, SidesUndecided: true, ByWitness: true, TwoStyles: true, VersionsOrDecimals: true, LeadingZeros: true, MayBeCode: true, DigitsLost: true,
	TwoDigitYears: true, FarYears: true, RareSigns: true, DayNumbers: true, OneColumnOrSeveral: true, TotalNotRight: true,
	MayBeTotal: true, CarriedForward: true, SecondTable: true, UnreadStatements: true, NamesShifted: true, NamesShort: true,
}

// Weighs reports whether a finding changes what values mean, or which rows are data.
func (k Kind) Weighs() bool { return weighty[k] }

// Entry returns what the catalogue says of a finding.
func (k Kind) Entry() Entry { return Catalogue[k] }

func (k Kind) String() string { return Catalogue[k].Name }

// MarshalText writes a finding as its name.
func (k Kind) MarshalText() ([]byte, error) { return []byte(k.String()), nil }

// UnmarshalText reads a finding by its name.
func (k *Kind) UnmarshalText(name []byte) error {
	found, ok := Parse(string(name))
	if !ok {
		return fmt.Errorf("there is no finding %q", name)
	}
	*k = found
	return nil
}

// Parse returns the finding of a name, and whether there is one.
func Parse(name string) (Kind, bool) {
	i := slices.IndexFunc(Catalogue[:], func(e Entry) bool { return e.Name == name })
	return Kind(max(i, 0)), i > 0
}
