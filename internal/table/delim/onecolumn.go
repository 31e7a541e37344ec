package delim

import (
	"slices"
	"strings"
	"unicode"

	"junvo/internal/finding"
	"junvo/internal/table"
)

// A list of one column has commas, colons or tabs in its texts as often as not: Name, and below it Okafor, Anke. What
// tells it from a table is its first line, which is the name of the column: it has none of them. A table has its
// delimiter in the header, too, unless a title stands above that; then numbers or dates stand in its columns, and words
// above them.

// oneColumn reports whether rows that a delimiter takes apart are texts of one column in which it occurs.
func oneColumn(rows []sampleRow, c candidate) bool {
	var seen []sampleRow
	for _, r := range rows {
		if !r.blank() {
			seen = append(seen, r)
		}
	}
	if len(seen) < 2 || len(seen[0].cells) > 1 {
		return false
	}
	above := titles(seen)
	if above == len(seen) {
		return true
	}
	table := seen[above:]
	table = withoutTitles(table, seen[:above])
	if above > 1 || table[0].line > seen[above-1].line+1 { // lines of text, or a blank line, above a table
		return 10*several(table) < 9*len(table) || len(table) < minTable && !contrasts(table, 0, c.width)
	}
	if len(table) < 2 {
		return false
	}
	named := false // whether words stand above numbers or dates
	for at := range c.width {
		if typedColumn(table[1:], at) {
			if at < len(table[0].cells) && typedCells(sampleRow{cells: table[0].cells[at : at+1]}) == 0 {
				named = true
			} else {
				return true // the first line is the only one that can be a name
			}
		}
	}
	return !named && (c.width == 2 || c.fit < len(seen)-1 || spaced(seen, c.width))
}

// minTable is how many rows a table of texts has at least below several titles.
const minTable = 3

// withoutTitles returns the rows of a table without the titles that stand above it again on each page of a print, with
// other numbers perhaps.
func withoutTitles(table, titles []sampleRow) []sampleRow {
	said := map[string]bool{}
	for _, r := range titles {
		said[withoutDigits(r.cells[0])] = true
	}
	return slices.DeleteFunc(slices.Clone(table), func(r sampleRow) bool {
		return len(r.cells) == 1 && said[withoutDigits(r.cells[0])]
	})
}

func withoutDigits(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsDigit(r) {
			return -1
		}
		return r
	}, strings.TrimSpace(text))
}

// titles returns how many rows with one cell stand before the first with more.
func titles(rows []sampleRow) int {
	for i, r := range rows {
		if len(r.cells) > 1 {
			return i
		}
	}
	return len(rows)
}

// several counts the rows with more than one cell.
func several(rows []sampleRow) (n int) {
	for _, r := range rows {
		if len(r.cells) > 1 {
			n++
		}
	}
	return n
}

// typedColumn reports whether nearly all cells of a column are numbers or dates.
func typedColumn(rows []sampleRow, at int) bool {
	filled, typed := 0, 0
	for _, r := range rows {
		if at < len(r.cells) && strings.TrimSpace(r.cells[at]) != "" {
			filled++
			typed += typedCells(sampleRow{cells: r.cells[at : at+1]})
		}
	}
	return filled > 0 && 10*typed >= 8*filled
}

// spaced reports whether a space stands after every delimiter, as in a sentence.
func spaced(rows []sampleRow, width int) bool {
	for _, r := range rows {
		for i := 1; i < len(r.cells); i++ {
			if !strings.HasPrefix(r.cells[i], " ") {
				return false
			}
		}
	}
	return width > 1
}

// doubtColumns notes that a delimiter was not taken for one, or was although the first line has none.
func (l *layout) doubtColumns(c candidate, one bool) {
	name := delimiterName(c.delimiter)
	say := "the first line has no " + name + ", so that the lines are read as one column: --delimiter '" + name +
		"' takes them apart"
	if !one {
		say = "the first line has no " + name + ", and is taken for a title: --delimiter none reads the lines as one column"
	}
	l.notes = append(l.notes, table.Note{Kind: finding.OneColumnOrSeveral, Count: int64(c.fit), Say: say})
}
