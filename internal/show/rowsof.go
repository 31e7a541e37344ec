package show

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"strconv"

	"junvo/internal/profile"
)

// RowList writes the rows of a finding one by one, however many they are.
type RowList struct {
	out   io.Writer
	form  Format
	csv   *csv.Writer
	files bool // rows come from several files
	rows  int64
}

// NewRowList begins a list.
func NewRowList(out io.Writer, form Format, files bool) *RowList {
	return &RowList{out: out, form: form, files: files}
}

var rowListHeader = []string{"file", "row", "line", "column", "value"}

// begin writes what stands before the first row.
func (l *RowList) begin() error {
	header := rowListHeader
	if !l.files {
		header = header[1:]
	}
	switch l.form {
	case CSV:
		l.csv = csv.NewWriter(l.out)
		return l.csv.Write(header)
	case JSON:
		_, err := io.WriteString(l.out, "{\"junvo\": 1, \"rows\": [")
		return err
	case Markdown:
		line, rule := "|", "|"
		for _, h := range header {
			line, rule = line+" "+h+" |", rule+" --- |"
		}
		_, err := fmt.Fprintf(l.out, "%s\n%s\n", line, rule)
		return err
	}
	_, err := fmt.Fprintf(l.out, "%9s  %9s  %s\n", "row", "line", "column and text")
	return err
}

// Add writes a row.
func (l *RowList) Add(r profile.FoundRow) error {
	if l.rows++; l.rows == 1 {
		if err := l.begin(); err != nil {
			return err
		}
	}
	cells := []string{
		r.Where.File, strconv.FormatInt(r.Where.Row, 10), strconv.FormatInt(r.Where.Line, 10), r.Column,
		r.Text,
	}
	if !l.files {
		cells = cells[1:]
	}
	var err error
	switch l.form {
	case CSV:
		for i := range cells {
			cells[i] = Guarded(cells[i])
		}
		err = l.csv.Write(cells)
	case JSON:
		comma := ",\n  "
		if l.rows == 1 {
			comma = "\n  "
		}
		var doc []byte
		if doc, err = json.Marshal(map[string]any{
			"file": r.Where.File, "row": r.Where.Row, "line": r.Where.Line,
			"column": r.Column, "value": r.Text,
		}); err == nil {
			_, err = fmt.Fprintf(l.out, "%s%s", comma, Printable(doc))
		}
	case Markdown:
		line := "|"
		for _, c := range cells {
			line += " " + escapeCell(Visible(c)) + " |"
		}
		_, err = fmt.Fprintln(l.out, line)
	default:
		where := ""
		if l.files {
			where = Visible(r.Where.File) + "  "
		}
		if r.Column != "" {
			where += Visible(r.Column) + "  "
		}
		_, err = fmt.Fprintf(l.out, "%9d  %9d  %s«%s»\n", r.Where.Row, r.Where.Line, where, Visible(r.Text))
	}
	return err
}

// End writes what stands after the last row.
func (l *RowList) End() error {
	if l.rows == 0 {
		if err := l.begin(); err != nil {
			return err
		}
	}
	switch l.form {
	case CSV:
		l.csv.Flush()
		return l.csv.Error()
	case JSON:
		_, err := io.WriteString(l.out, "\n]}\n")
		return err
	}
	return nil
}
