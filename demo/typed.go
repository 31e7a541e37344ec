package demo

import (
	"bufio"
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
	_ "modernc.org/sqlite" // to write the database
)

// The same landings as other programs hand them on, which have types of their own: most
// numbers and dates are stored as such, and some as text, as people have typed or pasted
// them. Each form has troubles of its own kind.

// Names of the other forms.
const (
	WorkbookName = "landings.xlsx"
	RecordsName  = "landings.jsonl"
	DatabaseName = "landings.db"
)

// numeric and dated are the columns that such programs store as numbers and dates.
var (
	numeric = []string{"Net weight", "Price per kilo", "Boxes", "Hold temperature", "Ice share", "Balance"}
	dated   = []string{"Landed on", "Booked on"}
)

// asText reports whether a cell that could be stored as a number or date is stored as text.
func asText(row, column int) bool { return (7*row+3*column)%11 == 0 }

// text is a cell's text, without the quotes that a CSV file needs.
func (c cell) text() string {
	if strings.HasPrefix(c.raw, `"`) {
		return strings.ReplaceAll(strings.TrimSuffix(strings.TrimPrefix(c.raw, `"`), `"`), `""`, `"`)
	}
	return c.raw
}

// Records writes JSON lines: numbers as numbers but for some, blanks as null, as "" or not
// at all, and the skipper as a record of its own.
func Records(w io.Writer) error {
	out := bufio.NewWriter(w)
	err := Generate(Options{Rows: Rows, landing: func(n int, cells []cell) error {
		out.WriteByte('{')
		first := true
		for i, f := range fields {
			c := cells[i]
			value, err := c.inJSON(n, i, f.name)
			if err != nil {
				return err
			}
			if value == "" {
				continue // the key is missing
			}
			name := f.name
			if name == "Skipper" && c.truth != "" {
				last, given, _ := strings.Cut(c.truth, ", ")
				value = fmt.Sprintf(`{"last": %q, "first": %q}`, last, given)
			}
			if !first {
				out.WriteString(", ")
			}
			first = false
			fmt.Fprintf(out, "%q: %s", name, value)
		}
		_, err := out.WriteString("}\n")
		return err
	}})
	if err != nil {
		return err
	}
	return out.Flush()
}

// inJSON returns a cell as JSON, "" for none.
func (c cell) inJSON(row, column int, name string) (string, error) {
	switch {
	case c.raw == "" && row%3 == 0:
		return "", nil
	case c.raw == "" && row%3 == 1:
		return "null", nil
	case name == "Inspected" && c.truth != "" && row%2 == 0:
		return c.truth, nil
	case c.truth != "" && slices.Contains(numeric, name) && !asText(row, column):
		return c.truth, nil
	}
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(c.text())
	return strings.TrimSuffix(b.String(), "\n"), err
}

// Database writes a SQLite file. Its columns say INTEGER, REAL and DATE, and hold text too,
// as SQLite lets them.
func Database(path string) (err error) {
	db, err := sql.Open("sqlite", path)
	if err != nil {
		return err
	}
	defer func() {
		if closeErr := db.Close(); err == nil {
			err = closeErr
		}
	}()
	tx, err := db.Begin()
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // after a commit it does nothing
	columns, marks := make([]string, len(fields)), make([]string, len(fields))
	for i, f := range fields {
		kind := "TEXT"
		switch {
		case f.name == "Boxes":
			kind = "INTEGER"
		case slices.Contains(numeric, f.name):
			kind = "REAL"
		case slices.Contains(dated, f.name):
			kind = "DATE"
		}
		columns[i], marks[i] = fmt.Sprintf("%q %s", f.name, kind), "?"
	}
	if _, err := tx.Exec("CREATE TABLE landings (" + strings.Join(columns, ", ") + ")"); err != nil {
		return err
	}
	insert, err := tx.Prepare("INSERT INTO landings VALUES (" + strings.Join(marks, ", ") + ")")
	if err != nil {
		return err
	}
	defer insert.Close()
	err = Generate(Options{Rows: Rows, landing: func(n int, cells []cell) error {
		values := make([]any, len(cells))
		for i, c := range cells {
			values[i] = c.inDatabase(n, i, fields[i].name)
		}
		_, err := insert.Exec(values...)
		return err
	}})
	if err != nil {
		return err
	}
	return tx.Commit()
}

func (c cell) inDatabase(row, column int, name string) any {
	switch {
	case c.raw == "" && row%2 == 0:
		return nil
	case c.truth != "" && !asText(row, column) && slices.Contains(dated, name):
		return c.truth
	case c.truth != "" && !asText(row, column) && slices.Contains(numeric, name):
		if f, err := strconv.ParseFloat(c.truth, 64); err == nil {
			return f
		}
	}
	return c.text()
}

// Workbook writes a workbook: a title above the header, sections whose headings are merged
// cells, hidden totals, a hidden column, numbers and dates with a text flag, error values.
func Workbook(w io.Writer) error {
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
	names := make([]any, len(fields))
	for i, f := range fields {
		names[i] = f.name
	}
	for _, cells := range [][]any{{"Port of Nordhaven, landing records"}, nil, names} {
		if err := add(cells, false); err != nil {
			return err
		}
	}
	boxes := 0
	err = Generate(Options{Rows: Rows, landing: func(n int, cells []cell) error {
		if (n-1)%perSection == 0 {
			if n > 1 {
				if err := add([]any{"Total", nil, nil, nil, nil, nil, boxes}, true); err != nil {
					return err
				}
				boxes = 0
			}
			if err := add([]any{quays[n/perSection%len(quays)]}, false); err != nil {
				return err
			}
			if err := s.MergeCell(fmt.Sprintf("A%d", row), fmt.Sprintf("D%d", row)); err != nil {
				return err
			}
		}
		values := make([]any, len(cells))
		for i, c := range cells {
			values[i] = c.inWorkbook(n, i, fields[i].name, day)
		}
		count, _ := strconv.Atoi(cells[6].truth) // 0 for a cell that is no number
		boxes += count
		return add(values, false)
	}})
	if err != nil {
		return err
	}
	if err := s.Flush(); err != nil {
		return err
	}
	return f.Write(w)
}

func (c cell) inWorkbook(row, column int, name string, day int) any {
	switch {
	case c.raw == "":
		return nil
	case c.reason == "error-value":
		return excelize.Cell{Formula: "1/0", Value: c.raw}
	case c.truth != "" && !asText(row, column) && slices.Contains(dated, name):
		if t, err := time.Parse(time.DateOnly, c.truth); err == nil {
			return excelize.Cell{StyleID: day, Value: float64(t.Unix()/86400 + 25569)} // 25569 is 1970-01-01
		}
	case c.truth != "" && !asText(row, column) && slices.Contains(numeric, name):
		if f, err := strconv.ParseFloat(c.truth, 64); err == nil {
			return f
		}
	case name == "Inspected" && c.truth != "" && row%2 == 0:
		return c.truth == "true"
	}
	return c.text()
}
