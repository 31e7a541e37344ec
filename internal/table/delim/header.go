package delim

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"junvo/internal/table"
)

// header finds the line of the column names. Titles above it have fewer cells
// than the table has columns, so the first row that fills more than half of those that
// anything is in is the header, if it looks like names: no cell of it is a bare number or date.
func (l *layout) header(sample []byte, rows []sampleRow, o Options) error {
	if len(rows) == 0 {
		return nil
	}
	width := usualWidth(rows)
	at := -1
	switch {
	case o.HeaderRow > 0:
		for i, r := range rows {
			if r.line == int64(o.HeaderRow) {
				at = i
			}
		}
		if at < 0 { // it may be a comment
			l.noHeader(rows, width)
			return nil
		}
		l.take(rows, at, width)
		l.decide("header", fmt.Sprintf("line %d", o.HeaderRow), "as told")
		return nil
	default:
		used := usedColumns(rows, width)
		for i, r := range rows {
			if n := r.filled(); 2*n > used && len(r.cells)*2 > width && !declaration(r) && !r.drawn() && !comments(r, width) &&
				!pageTitle(rows, i, width) {
				at = belowPreamble(rows, i, width)
				break
			}
		}
	}
	at = max(at, 0)
	contrast := o.HeaderRow == 0 && contrasts(rows, at, width)
	named := at
	if !contrast && o.HeaderRow == 0 {
		at = firstOfTable(rows, at, width)
	}
	typed, rising := typedCells(rows[at]), at+1 < len(rows) && countsUp(rows[at], rows[at+1])
	if rising {
		typed = 0
	}
	switch {
	case o.HeaderRow < 0:
		l.noHeader(rows, width)
		l.decide("header", "none", "as told")
	case at < named:
		l.noHeader(rows, width)
		l.decide("header", "none", "line %d has the cells of a row, and no names for most columns", rows[at].line)
	case !contrast && typed == 0 && recurs(rows, at, width):
		l.noHeader(rows, width)
		l.decide("header", "none", "texts of line %d stand in their columns again", rows[at].line)
	case typed > 0:
		l.noHeader(rows, width)
		l.decide("header", "none", "line %d has %d cells that are numbers or dates", rows[at].line, typed)
	default:
		l.take(rows, at, width)
		why := "the first row that fills the columns, and no number in it"
		if rising {
			why = "beside words it has dates, ranges or counting numbers that rise, and the row below does not"
		}
		if at > 0 {
			why = fmt.Sprintf("the first row that fills the %d columns; the lines above it do not", width)
		}
		l.decide("header", fmt.Sprintf("line %d", rows[at].line), "%s", why)
	}
	return nil
}

// pageTitle reports whether a row that leaves cells blank stands again above the same row of words, as the title of a
// print does on each page, with another number perhaps.
func pageTitle(rows []sampleRow, at, width int) bool {
	if at+1 >= len(rows) || rows[at].filled() >= width {
		return false
	}
	key := func(r sampleRow) string { return withoutDigits(strings.Join(r.cells, "\x00")) }
	title := key(rows[at])
	for i := at + 1; i+1 < len(rows); i++ {
		if key(rows[i]) == title && slices.Equal(rows[i+1].cells, rows[at+1].cells) && typedCells(rows[at+1]) == 0 {
			return true
		}
	}
	return false
}

// contrasts reports whether a column has numbers or dates below a row that has a word there: then the row has names.
func contrasts(rows []sampleRow, at, width int) bool {
	for c := range min(width, len(rows[at].cells)) {
		if typedColumn(rows[at+1:], c) && typedCells(sampleRow{cells: rows[at].cells[c : c+1]}) == 0 &&
			strings.TrimSpace(rows[at].cells[c]) != "" {
			return true
		}
	}
	return false
}

// minOfTable is how many cells a row has at least that begins a table although it leaves most of them blank.
const minOfTable = 3

// firstOfTable returns the first row down to that at which has all delimiters of the table and several filled cells: a
// title has one or two.
func firstOfTable(rows []sampleRow, at, width int) int {
	for i, r := range rows[:at] {
		if len(r.cells) == width && r.filled() >= minOfTable && !r.drawn() && !strings.HasPrefix(r.cells[0], "#") {
			return i
		}
	}
	return at
}

// recurs reports whether a text of a row stands in its column twice below, in rows that do not repeat it whole: texts
// of data do, names do not.
func recurs(rows []sampleRow, at, width int) bool {
	if width < 2 || len(rows[at].cells) != width {
		return false
	}
	for c, name := range rows[at].cells {
		name = strings.TrimSpace(name)
		if len(name) < 2 {
			continue
		}
		times := 0
		for _, r := range rows[at+1:] {
			if len(r.cells) == width && strings.TrimSpace(r.cells[c]) == name && !slices.Equal(r.cells, rows[at].cells) {
				times++
			}
		}
		if times > 1 {
			return true
		}
	}
	return false
}

// comments reports whether a row is a comment that fills no more than a part of the columns.
func comments(r sampleRow, width int) bool {
	return len(r.cells) > 0 && strings.HasPrefix(r.cells[0], "#") && len(r.cells) < width
}

func declaration(r sampleRow) bool {
	return len(r.cells) > 0 && strings.HasPrefix(strings.ToLower(r.cells[0]), "sep=")
}

// usualWidth is the width that most of the rows have.
func usualWidth(rows []sampleRow) int {
	widths := map[int]int{}
	best := 1
	for _, r := range rows {
		if r.blank() {
			continue
		}
		w := len(r.cells)
		widths[w]++
		if widths[w] > widths[best] || widths[w] == widths[best] && w > best {
			best = w
		}
	}
	return best
}

// usedColumns is how many columns have anything in them, in rows of the usual width. Tables
// that are drawn with delimiters at both ends of each row have two that are always blank.
func usedColumns(rows []sampleRow, width int) int {
	used := make([]bool, width)
	for _, r := range rows {
		for c, cell := range r.cells {
			if len(r.cells) == width && strings.TrimSpace(cell) != "" {
				used[c] = true
			}
		}
	}
	n := 0
	for _, u := range used {
		if u {
			n++
		}
	}
	return n
}

// drawn reports whether a row is a line drawn with dashes.
func (r sampleRow) drawn() bool {
	return !r.blank() && strings.Trim(strings.Join(r.cells, ""), "-=_+:~ ") == ""
}

// typedCells counts the cells that are numbers or dates and no names: digits, and
// hardly a letter. Years may be names of columns.
func typedCells(r sampleRow) (n int) {
	years := 0
	for _, c := range r.cells {
		c = strings.TrimSpace(c)
		digits, letters := 0, 0
		for _, b := range []byte(c) {
			switch {
			case isDigit(b):
				digits++
			case b|0x20 >= 'a' && b|0x20 <= 'z', b >= 0x80:
				letters++
			}
		}
		switch {
		case digits == 0 || letters > 3 || letters >= digits || c[0]|0x20 >= 'a' && c[0]|0x20 <= 'z':
		case digits == 4 && len(c) == 4 && (c[:2] == "19" || c[:2] == "20"):
			years++
		default:
			n++
		}
	}
	if n > 0 {
		n += years
	}
	return n
}

// take makes the row at the header, and the lines above it titles.
func (l *layout) take(rows []sampleRow, at, width int) {
	h := rows[at]
	l.headerRow = h.line
	names := h.cells
	for len(names) > width && strings.TrimSpace(names[len(names)-1]) == "" {
		names = names[:len(names)-1]
	}
	if at > 0 && strings.HasPrefix(rows[at-1].cells[0], "#") { // a comment, as the line of the names is
		names = slices.Clone(names)
		names[0] = cmp.Or(strings.TrimLeft(strings.TrimPrefix(names[0], "#"), " "), names[0])
	}
	names = l.lacksFirst(names, rows[at+1:], width)
	for len(names) < width {
		names = append(names, "")
	}
	usable, notes := table.UsableNames(names, true)
	l.names, l.notes = usable, append(l.notes, notes...)
	l.above = linesOf(rows[:at], l.dialect.Delimiter)
	l.body, l.bodyLine = h.end, h.line+1+l.breaks(h.cells)
	for at+1 < len(rows) {
		r := rows[at+1]
		reason := belowHeader(r, rows[at+2:], width)
		if reason == "" {
			break
		}
		l.above = append(l.above, lineOf(r, l.dialect.Delimiter, reason))
		l.body, l.bodyLine = r.end, r.line+1+l.breaks(r.cells)
		at++
	}
}

// breaks counts the line breaks inside the cells of a row.
func (l *layout) breaks(cells []string) (n int64) {
	for _, c := range cells {
		n += int64(strings.Count(c, string(l.dialect.EOL)))
	}
	return n
}

// noHeader makes all rows data: where there are no names, nothing stands above them. What is no
// data among the rows is told as everywhere.
func (l *layout) noHeader(rows []sampleRow, width int) {
	at := 0
	if declaration(rows[0]) && len(rows) > 1 {
		at = 1
	}
	l.above = linesOf(rows[:at], l.dialect.Delimiter)
	l.body, l.bodyLine = rows[at].start, rows[at].line
	l.names, _ = table.UsableNames(make([]string, width), false)
}

func linesOf(rows []sampleRow, delimiter byte) (lines []table.Line) {
	for _, r := range rows {
		lines = append(lines, lineOf(r, delimiter, "above-header"))
	}
	return lines
}

func lineOf(r sampleRow, delimiter byte, reason string) table.Line {
	return table.Line{Number: r.line, Text: strings.Join(r.cells, string(rune(delimiter))), Cells: r.cells, Reason: reason}
}

// belowHeader says what the row right below the header is, if it is no data: a line
// of units, or a second heading line, which has words in all the columns (two at
// least) that are numbers or dates further down.
func belowHeader(r sampleRow, below []sampleRow, width int) string {
	if units(r) {
		return "units"
	}
	typed := 0
	for c := range width {
		n, digits := 0, 0
		for _, b := range below[:min(len(below), 30)] {
			if units(b) {
				continue
			}
			if c < len(b.cells) && strings.TrimSpace(b.cells[c]) != "" {
				n++
				digits += typedCells(sampleRow{cells: b.cells[c : c+1]})
			}
		}
		if n < 3 || 10*digits < 8*n {
			continue
		}
		typed++
		if c >= len(r.cells) || !wordy(r.cells[c]) {
			return ""
		}
	}
	if typed < 2 || 2*r.filled() <= width {
		return ""
	}
	return "second-heading"
}

// wordy reports whether a cell is words: letters and no digit, and no word that
// stands for blank.
func wordy(cell string) bool {
	cell = strings.TrimSpace(cell)
	return len(cell) > 3 && strings.IndexFunc(cell, unicode.IsLetter) >= 0 && !strings.ContainsAny(cell, "0123456789") &&
		!strings.EqualFold(cell, "null") && !strings.EqualFold(cell, "none")
}

// units reports whether all that a row has, two cells at least, are units in brackets.
func units(r sampleRow) bool {
	n := 0
	for _, c := range r.cells {
		c = strings.TrimSpace(c)
		if c == "" {
			continue
		}
		inBrackets := len(c) > 2 && (c[0] == '(' && c[len(c)-1] == ')' || c[0] == '[' && c[len(c)-1] == ']')
		if !inBrackets || strings.ContainsAny(c, "0123456789") {
			return false
		}
		n++
	}
	return n >= 2
}
