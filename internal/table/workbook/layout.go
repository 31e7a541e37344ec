package workbook

import (
	"fmt"
	"strconv"
	"strings"

	"junvo/internal/finding"
	"junvo/internal/table"
)

// layout is what a sheet hides from whoever looks at it, or shows otherwise than it is
// stored: hidden rows and columns, and merged cells, of which only the first has a value.
type layout struct {
	rows, merged int64
	columns      int64
	formulas     int64 // cells with a formula
	unknown      int64 // of them those without a stored value
	firstUnknown []string
	firstRows    []string
	firstColumns []string
	firstMerged  []string
}

// maxNamed is how many of each are named.
const maxNamed = 5

func name(list []string, one string) []string {
	if len(list) == maxNamed {
		return list
	}
	return append(list, one)
}

func isTrue(v []byte) bool { return string(v) == "1" || string(v) == "true" }

// column takes note of the look of some columns.
func (l *layout) column(x *scan) {
	first, err1 := strconv.Atoi(string(x.attr("min")))
	last, err2 := strconv.Atoi(string(x.attr("max")))
	if !isTrue(x.attr("hidden")) || err1 != nil || err2 != nil || first < 1 || last > maxColumns {
		return
	}
	for c := first; c <= last; c++ {
		l.columns++
		l.firstColumns = name(l.firstColumns, strings.TrimRight(table.Address(c, 0), "0"))
	}
}

// line takes note of the look of a row.
func (l *layout) line(hidden bool, row int64) {
	if hidden {
		l.rows++
		l.firstRows = name(l.firstRows, strconv.FormatInt(row, 10))
	}
}

// formula takes note of a cell with a formula.
func (l *layout) formula(hasValue bool, row int64) {
	l.formulas++
	if !hasValue {
		l.unknown++
		l.firstUnknown = name(l.firstUnknown, "row "+strconv.FormatInt(row, 10))
	}
}

// below reads what stands below the rows. They have been read, so that damage there is none
// of theirs.
func (l *layout) below(x *scan) {
	for {
		t, err := x.start()
		if t == nil || err != nil {
			return
		}
		if string(t) == "mergeCell" {
			l.merged++
			l.firstMerged = name(l.firstMerged, string(x.attr("ref")))
		}
	}
}

func (l *layout) notes() (notes []table.Note) {
	add := func(k finding.Kind, n int64, first []string, one, many, say string) {
		if n == 0 {
			return
		}
		what := many
		if n == 1 {
			what = one
		}
		named := ""
		if len(first) > 0 {
			if int(n) > len(first) {
				first = append(first, "…")
			}
			named = " (" + strings.Join(first, ", ") + ")"
		}
		notes = append(notes, table.Note{Kind: k, Count: n, Say: fmt.Sprintf("%d %s%s%s", n, what, named, say)})
	}
	add(finding.MergedCells, l.merged, l.firstMerged, "range of cells is merged", "ranges of cells are merged",
		": only the first cell of each has a value")
	add(finding.HiddenRows, l.rows, l.firstRows, "row is hidden in the sheet", "rows are hidden in the sheet",
		"; hidden rows are read as the others")
	add(finding.HiddenColumns, l.columns, l.firstColumns, "column is hidden in the sheet",
		"columns are hidden in the sheet", "; hidden columns are read as the others")
	add(finding.Formulas, l.formulas, nil, "cell is", "cells are",
		" worked out by a formula; the value that was stored last is read")
	add(finding.FormulasWithoutValue, l.unknown, l.firstUnknown, "formula has", "formulas have",
		" no stored value, so that the cell is blank: open the workbook in its program and save it")
	return notes
}
