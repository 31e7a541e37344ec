package main

import (
	"fmt"
	"io"
	"strconv"
	"time"

	"github.com/xuri/excelize/v2"

	"junvo/demo"
)

// writeWorkbook writes a workbook: a title above the header, sections whose headings are merged
// cells, hidden totals, a hidden column, numbers and dates with a text flag, error values.
func writeWorkbook(w io.Writer) error {
	f := excelize.NewFile()
	defer f.Close()
	const sheet = "Landings"
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return err
	}
	code := "dd.mm.yyyy"
	day, err := f.NewStyle(&excelize.Style{CustomNumFmt: &code})
	if err != nil {
		return err
	}
	s, err := f.NewStreamWriter(sheet)
	if err != nil {
		return err
	}
	if err := s.SetColVisible(11, 11, false); err != nil { // the buyers
		return err
	}
	row := 0
	add := func(cells []any, hidden bool) error {
		row++
		return s.SetRow("A"+strconv.Itoa(row), cells, excelize.RowOpts{Hidden: hidden})
	}
	for _, cells := range [][]any{{"Port of Nordhaven, landing records"}, nil, columnNames()} {
		if err := add(cells, false); err != nil {
			return err
		}
	}
	boxes := 0
	err = demo.EachLanding(func(n int, cells []demo.Cell) error {
		if (n-1)%demo.PerSection == 0 {
			if n > 1 {
				if err := add([]any{"Total", nil, nil, nil, nil, nil, boxes}, true); err != nil {
					return err
				}
				boxes = 0
			}
			if err := add([]any{demo.Quays[n/demo.PerSection%len(demo.Quays)]}, false); err != nil {
				return err
			}
			if err := s.MergeCell(fmt.Sprintf("A%d", row), fmt.Sprintf("D%d", row)); err != nil {
				return err
			}
		}
		values := make([]any, len(cells))
		for i := range cells {
			values[i] = stored(&cells[i], n, day)
		}
		count, _ := strconv.Atoi(cells[6].Truth) // 0 for a cell that is no number
		boxes += count
		return add(values, false)
	})
	if err != nil {
		return err
	}
	if err := s.Flush(); err != nil {
		return err
	}
	return f.Write(w)
}

// stored returns a cell as the workbook stores it.
func stored(c *demo.Cell, row, day int) any {
	switch {
	case c.Text == "":
		return nil
	case c.Reason == "error-value":
		return excelize.Cell{Formula: "1/0", Value: c.Text}
	case c.Dated():
		if t, err := time.Parse(time.DateOnly, c.Truth); err == nil {
			return excelize.Cell{StyleID: day, Value: float64(t.Unix()/86400 + 25569)} // 25569 is 1970-01-01
		}
	case c.Numeric():
		if f, err := strconv.ParseFloat(c.Truth, 64); err == nil {
			return f
		}
	case c.Column == "Inspected" && c.Truth != "" && row%2 == 0:
		return c.Truth == "true"
	}
	return c.Text
}

func columnNames() (names []any) {
	for _, name := range demo.Columns() {
		names = append(names, name)
	}
	return names
}
