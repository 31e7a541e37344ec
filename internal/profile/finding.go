package profile

import "slices"

// Finding is something worth knowing about a column or the file.
type Finding struct {
	Name  string  `json:"name"`
	Count int64   `json:"count"`
	Rows  []int64 `json:"rows"`
	Say   string  `json:"say"`

	tallies map[tallyKey]bool // that the finding of a column was drawn from; nil where rows can't be told by them
}

// FindingEntry describes one finding in the catalogue.
type FindingEntry struct {
	Name string
	Of   string // file or column
	Say  string
	Do   string // what to do about it
}

// Catalogue is the catalogue of findings, the more important ones first.
var Catalogue = []FindingEntry{
	{"mixed", "column", "No one reading fits all non-blank cells of the column.", "Look at the odd rows: correct them, name blank words with --blank-word, or choose the type with --as."},
	{"order-undecided", "column", "Day and month can be exchanged and the column does not show which is which, or shows both.", "Say which with --date-order."},
	{"marks-undecided", "column", "A comma or point can be a decimal mark or a group mark and the column does not show which, or shows both.", "Say which with --decimal-mark."},
	{"nearly-typed", "column", "Most cells of the column fit one type, and too many do not for the column to get it.", "Look at the odd ones; give the column its type with --fit or --as."},
	{"times-undecided", "column", "Numbers such as 18.05 can be decimals or times of day and the column does not show which.", "Say which with --as NAME=time or --decimal-mark."},
	{"lists-undecided", "column", "Numbers with a comma stand beside lists such as 1,2,3, so that they may be lists, too.", "Say which with --decimal-mark, or split the column at the comma."},
	{"brackets-undecided", "column", "Every number of the column stands in parentheses, which may mean a minus or nothing.", "Say --as NAME=decimal if they mean a minus; else drop them with a step."},
	{"numbers-as-text", "column", "Numbers are written in a way that other programs take for text: with group marks, a decimal comma, a unit, stray characters.", "Convert the column."},
	{"dates-as-text", "column", "Dates are written in a way that other programs may read differently or not at all.", "Convert the column."},
	{"booleans-as-text", "column", "Truth values are written as words.", "Convert the column."},
	{"blanks-as-text", "column", "Blank cells hold a word, spaces or invisible characters, so that nothing finds them as blank.", "Convert the column; name further words with --blank-word."},
	{"text-among-numbers", "column", "A few cells of a column of numbers are no numbers.", "See the failures file for each of them."},
	{"stray-characters", "column", "Characters that do not show, or spaces that are not plain spaces, stand in cells.", "Convert the column; in text they stay as they are."},
	{"leading-zeros", "column", "Values begin with 0 and would lose it as numbers.", "Keep the column as code."},
	{"long-digits", "column", "Values have 16 digits or more; programs with binary floating point would change the last ones.", "Keep the column as code, or as integer: Junvo's are exact."},
	{"digits-lost", "column", "Numbers stand in the scientific notation in which spreadsheets show long ones, with digits missing.", "Get the values from where the file was made, with the column formatted as text."},
	{"two-digit-years", "column", "Years are written with two digits; the century is a convention.", "Check that the years lie between 1950 and 2049."},
	{"units", "column", "Numbers carry a unit.", "Check that all of them are meant in this unit."},
	{"currencies", "column", "Numbers carry a currency.", "Check that one currency is meant in the whole column."},
	{"percent", "column", "Numbers are percentages; they are converted to fractions.", "Check that no cell without the sign is meant as a percentage."},
	{"day-numbers", "column", "Whole numbers among dates may be the day numbers that spreadsheets store dates as.", "Make dates of them with the step day-number: 1900, or 1904 where the workbook begins there, or export the column again as dates."},
	{"cut-off", "column", "Many texts have exactly the greatest length of the column, as if they had been cut there.", "Ask for the source again with room for longer texts."},
	{"look-alikes", "column", "Letters stand where digits should, such as O for 0 and l for 1.", "Correct the cells; Junvo does not guess which digit was meant."},
	{"wrong-decoding", "column", "Text was decoded with the wrong encoding before it got here.", "Get the source again in the right encoding, or correct the cells."},
	{"markup", "column", "Tags or character references of a web page stand in the text.", "Export the column again as plain text, or correct the cells."},
	{"error-values", "column", "A spreadsheet wrote error values in place of values.", "Mend the formulas and export again."},
	{"formula-like", "column", "Cells begin with a sign that makes spreadsheets run them as formulas.", "Write a workbook, which keeps text as text, or guard the cells of a CSV output with --guard-formulas."},
	{"repeated-headings", "file", "Rows repeat the names of the columns.", "They are set aside."},
	{"section-headings", "file", "Rows hold one cell of text, as a heading of what follows.", "They are set aside; what they say of the rows below is lost in the table."},
	{"total-rows", "file", "Rows add up others.", "They are set aside, or sums would count everything twice."},
	{"named-totals", "file", "Rows begin with a word such as total and others, and add up the rows of the table.", "They are set aside, or sums would count everything twice."},
	{"full-totals", "file", "Rows begin with a word such as total, fill all columns, and add up the rows of the table.", "They are set aside, or sums would count everything twice."},
	{"bare-totals", "file", "The last row has no word and adds up the rows of the table.", "It is set aside, or sums would count everything twice."},
	{"summary-rows", "file", "Rows hold an average, minimum or maximum of the table.", "They are set aside."},
	{"swapped-headings", "file", "The names of the columns stand again in another order.", "Split the file there: below it the values stand in other columns."},
	{"rule-rows", "file", "Rows are lines drawn with dashes.", "They are set aside."},
	{"notes", "file", "Rows hold a sentence in place of data.", "They are set aside."},
	{"footers", "file", "Rows are comments, or say how many rows there are or where they are from.", "They are set aside."},
	{"blank-rows", "file", "Rows have no cell with anything in it.", "They are set aside."},
	{"duplicates", "file", "Rows are the same as others, in every column.", "Look whether the source was joined or exported twice; Junvo keeps them."},
	{"short-rows", "file", "Rows have fewer cells than the table has columns.", "The cells that are not there are blank; look whether a line break split the row."},
	{"long-rows", "file", "Rows have more cells than the table has columns.", "They are set aside: their values may stand in the wrong columns."},
	{"stray-quotes", "file", "Quotes stand inside cells.", "They are kept as characters; look whether cells were cut in the wrong place."},
	{"open-quotes", "file", "A quote opens a cell and is never closed.", "It is kept as a character; look at these rows."},
	{"bad-bytes", "file", "Bytes are no text in the encoding.", "Their cells fail in a conversion; name the right encoding with --encoding."},
	{"nul-bytes", "file", "Cells hold NUL bytes.", "They are kept; the file may be damaged or no text."},
	{"long-cells", "file", "A cell is longer than 64 MB.", "Look whether a quote or a line end is missing before it."},
	{"blobs", "file", "Cells of a database hold bytes that are no text.", "They are shown in hexadecimal; leave the column out with a plan."},
	{"merged-cells", "file", "Cells of a sheet are merged: only the first of each range has a value.", "The others are blank; the step fill: {from: above} carries a value down."},
	{"hidden-rows", "file", "Rows of a sheet are hidden.", "They are read as the others; look whether they are meant."},
	{"hidden-columns", "file", "Columns of a sheet are hidden.", "They are read as the others; leave them out with a plan."},
	{"duplicate-names", "file", "Columns have the same name.", "The second and later ones have a number behind their name."},
	{"blank-names", "file", "Columns have no name.", "They are called by their position."},
	{"names-shifted", "file", "The header has one name less than the rows have cells, and the first column numbers the rows.", "The first column is the one without a name; say --header-row if that is wrong."},
	{"names-short", "file", "The header has one name less than the rows have cells, so that names may stand over the wrong columns.", "Look which column has no name, and put it into the file."},
	{"formulas", "file", "Cells of a sheet are worked out by formulas; the values that were stored last are read.", "Look at whether the workbook was saved after its last change."},
	{"formulas-without-value", "file", "Formulas have no stored value, so that their cells are blank.", "Open the workbook in its program and save it."},
	{"broken-names", "file", "Names of columns have bytes that are no text in the encoding.", "Name the right encoding with --encoding."},
	{"spaced-names", "file", "Spaces stand around the names of columns.", "They are left out of the names; other programs may count them in."},
}

// rank returns a finding's place in the catalogue.
func rank(name string) int {
	return slices.IndexFunc(Catalogue, func(e FindingEntry) bool { return e.Name == name })
}

func sortFindings(f []Finding) {
	slices.SortStableFunc(f, func(a, b Finding) int { return rank(a.Name) - rank(b.Name) })
}
