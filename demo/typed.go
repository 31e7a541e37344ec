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

// Cell is a cell of a landing.
type Cell struct {
	Column, Text  string // without the quotes that a CSV file needs
	Truth, Reason string // the value, or why there is none
	IsText        bool   // whether it is stored as text where it could be a number or date
}

// EachLanding calls each for every landing, from 1.
func EachLanding(each func(n int, cells []Cell) error) error {
	return Generate(Options{Rows: Rows, landing: func(n int, made []cell) error {
		cells := make([]Cell, len(made))
		for i, c := range made {
			cells[i] = Cell{fields[i].name, c.text(), c.truth, c.reason, (7*n+3*i)%11 == 0}
		}
		return each(n, cells)
	}})
}

// Numeric reports whether the cell's value is a number, and is stored as such.
func (c *Cell) Numeric() bool {
	return c.Truth != "" && !c.IsText && slices.Contains(numeric, c.Column)
}

// Dated reports whether the cell's value is a date, and is stored as such.
func (c *Cell) Dated() bool { return c.Truth != "" && !c.IsText && slices.Contains(dated, c.Column) }

// numeric and dated are the columns that such programs store as numbers and dates.
var (
	numeric = []string{"Net weight", "Price per kilo", "Boxes", "Hold temperature", "Ice share", "Balance"}
	dated   = []string{"Landed on", "Booked on"}
)

// text is a cell's text, without the quotes that a CSV file needs.
func (c cell) text() string {
	if strings.HasPrefix(c.raw, `"`) {
		return strings.ReplaceAll(strings.TrimSuffix(strings.TrimPrefix(c.raw, `"`), `"`), `""`, `"`)
	}
	return c.raw
}

// Records writes JSON lines: numbers as numbers except for some, blanks as null, as "" or not
// at all, and the skipper as a record of its own.
func Records(w io.Writer) error {
	out := bufio.NewWriter(w)
	err := EachLanding(func(n int, cells []Cell) error {
		out.WriteByte('{')
		first := true
		for _, c := range cells {
			value, err := c.inJSON(n)
			if err != nil {
				return err
			}
			if value == "" {
				continue // the key is missing
			}
			if c.Column == "Skipper" && c.Truth != "" {
				last, given, _ := strings.Cut(c.Truth, ", ")
				value = fmt.Sprintf(`{"last": %q, "first": %q}`, last, given)
			}
			if !first {
				out.WriteString(", ")
			}
			first = false
			fmt.Fprintf(out, "%q: %s", c.Column, value)
		}
		_, err := out.WriteString("}\n")
		return err
	})
	if err != nil {
		return err
	}
	return out.Flush()
}

// inJSON returns a cell as JSON, "" for none.
func (c *Cell) inJSON(row int) (string, error) {
	switch {
	case c.Text == "" && row%3 == 0:
		return "", nil
	case c.Text == "" && row%3 == 1:
		return "null", nil
	case c.Column == "Inspected" && c.Truth != "" && row%2 == 0, c.Numeric():
		return c.Truth, nil
	}
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(c.Text)
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
	err = EachLanding(func(n int, cells []Cell) error {
		values := make([]any, len(cells))
		for i := range cells {
			values[i] = cells[i].inDatabase(n)
		}
		_, err := insert.Exec(values...)
		return err
	})
	if err != nil {
		return err
	}
	return tx.Commit()
}

func (c *Cell) inDatabase(row int) any {
	switch {
	case c.Text == "" && row%2 == 0:
		return nil
	case c.Dated():
		return c.Truth
	case c.Numeric():
		if f, err := strconv.ParseFloat(c.Truth, 64); err == nil {
			return f
		}
	}
	return c.Text
}
