package delim

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"junvo/internal/finding"
	"junvo/internal/table"
)

// What a first row says of the columns is not always words. Measures over time and the answers of
// questionnaires have dates, times, ranges or counting numbers as names, and tables that other
// programs write with row numbers have a name less than columns.

// countsUp reports whether a row with numbers or dates in it is names all the same: beside a word
// it has dates, times, ranges or counting numbers that rise from cell to cell, and the row below
// does not.
func countsUp(r, below sampleRow) bool {
	words := 0
	for _, c := range r.cells {
		if typedCells(sampleRow{cells: []string{c}}) == 0 && strings.TrimSpace(c) != "" && !isYear(c) {
			words++
		}
	}
	kind := rises(r)
	return words > 0 && kind != "" && rises(below) != kind
}

// rises returns the kind of the cells that are numbers or dates, if they are of one kind and rise:
// whole numbers by one, the others by any step. There are two at least.
func rises(r sampleRow) string {
	kind, last, n := "", int64(0), 0
	for _, c := range r.cells {
		c = strings.TrimSpace(c)
		if typedCells(sampleRow{cells: []string{c}}) == 0 && !isYear(c) {
			continue
		}
		k, at := ordinalOf(c)
		if k == "" || n > 0 && (k != kind || at <= last || k == "count" && at != last+1) {
			return ""
		}
		kind, last = k, at
		n++
	}
	if n < 2 {
		return ""
	}
	return kind
}

func isYear(c string) bool {
	c = strings.TrimSpace(c)
	return len(c) == 4 && (c[:2] == "19" || c[:2] == "20") && strings.Trim(c, "0123456789") == ""
}

// layouts are how dates and times stand in names of columns.
var layouts = []string{
	"2006-01-02", "2006-01", "01/2006", "02.01.2006", "2.1.2006", "02/01/2006", "01/02/2006",
	"1/2/2006", "02.01.06", "15:04", "15:04:05",
}

// ordinalOf returns what a cell counts, and where it stands in that; "" where it counts nothing.
func ordinalOf(c string) (kind string, at int64) {
	if n, err := strconv.ParseInt(c, 10, 32); err == nil && n >= 0 {
		return "count", n
	}
	for _, l := range layouts {
		if t, err := time.Parse(l, c); err == nil {
			return l, t.Unix()
		}
	}
	from, to, found := strings.Cut(strings.NewReplacer(" ", "", "–", "-").Replace(c), "-")
	a, err1 := strconv.ParseInt(from, 10, 32)
	b, err2 := strconv.ParseInt(to, 10, 32)
	if found && err1 == nil && err2 == nil && a < b {
		return "range", a
	}
	return "", 0
}

// belowPreamble returns the row of the names below lines of keys and values, such as device;X and
// serial;12: the first that fills all columns with words, where two lines at least before it do not.
// It returns at where there is none.
func belowPreamble(rows []sampleRow, at, width int) int {
	for i := at; i < min(len(rows), at+maxPreamble); i++ {
		r := rows[i]
		if i > at && len(r.cells) == width && r.filled() == width && !strings.HasPrefix(r.cells[0], "#") {
			if i-at >= 2 && typedCells(r) == 0 && distinct(r.cells) {
				return i
			}
			return at
		}
		if r.filled() >= width {
			return at
		}
	}
	return at
}

// maxPreamble is how many lines of keys and values are looked at.
const maxPreamble = 60

func distinct(cells []string) bool {
	seen := map[string]bool{}
	for _, c := range cells {
		seen[strings.TrimSpace(c)] = true
	}
	return len(seen) == len(cells)
}

// lacksFirst decides about a header that has one name less than the rows have cells. Where the
// first column numbers the rows, or names each of them, it is the one without a name.
func (l *layout) lacksFirst(names []string, rows []sampleRow, width int) []string {
	if len(names)+1 != width {
		return names
	}
	first, last := column(rows, 0, width), column(rows, width-1, width)
	if len(last) < minLacking || allBlank(last) {
		return names // each row ends with a delimiter
	}
	n := len(first)
	if numbered(first) {
		l.notes = append(l.notes, table.Note{
			Kind: finding.NamesShifted, Count: int64(n),
			Say: "the rows have a cell more than there are names, and the first one numbers the rows: it is the one without " +
				"a name",
		})
		return append([]string{""}, names...)
	}
	l.notes = append(l.notes, table.Note{
		Kind: finding.NamesShort, Count: int64(n),
		Say: fmt.Sprintf("the rows have %d cells and there are %d names, so that names may stand over the wrong columns: "+
			"the last column has none", width, width-1),
	})
	return names
}

// minLacking is how many rows it takes to say anything about a name that is missing.
const minLacking = 2

// column returns the cells of a column in the rows of the usual width.
func column(rows []sampleRow, at, width int) (cells []string) {
	for _, r := range rows {
		if len(r.cells) == width {
			cells = append(cells, strings.TrimSpace(r.cells[at]))
		}
	}
	return cells
}

func allBlank(cells []string) bool { return strings.Join(cells, "") == "" }

// numbered reports whether cells count the rows from 0 or 1.
func numbered(cells []string) bool {
	for i, c := range cells {
		n, err := strconv.Atoi(c)
		if err != nil || n != i && n != i+1 {
			return false
		}
	}
	return len(cells) > 0
}
