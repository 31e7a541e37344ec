package workbook

import (
	"bytes"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Sink writes a workbook: a sheet with the rows, one with what has failed, and one with
// the ledger. Numbers, dates and truth values are stored as such, and all text as text, so
// that no program reads it again as something else. It implements [table.Sink].
type Sink struct {
	out    table.Output
	file   *excelize.File
	rows   *excelize.StreamWriter
	fields []table.Field
	styles [value.NumTypes]int
	marked int   // the style of cells that have failed
	before int64 // rows of the source so far
	row    int   // of the sheet, the last that was written
	cells  []any

	waiting  map[place]int // failed cells that are not written yet, by their place among failures
	failures []Failed
	more     int // failures beyond those that the sheet lists
	notes    int
	ledger   [][]string
	finished bool
}

type place struct {
	row    int64
	column int
}

// Failed is a cell that has failed, to be marked.
type Failed struct {
	Row, Line int64 // of the source
	Column    int   // of the output
	// Name, Value, Wanted, Reason, Detail and Hint are as in the file of failures.
	Name, Value, Wanted, Reason, Detail, Hint string

	address string
}

// The bounds of the format (ECMA-376 and the limits that programs state), and of what is
// listed in a workbook.
const (
	maxRows     = 1 << 20
	maxText     = 32767 // characters of a cell
	maxFailures = 100_000
	maxNotes    = 2_000
	noNote      = -1
)

// Sheets of a workbook that is written.
const (
	rowsSheet     = "rows"
	failuresSheet = "failures"
	ledgerSheet   = "ledger"
)

// firstDay is the first day whose number all programs agree on: the format counts a 29
// February 1900, which there was not.
var firstDay = time.Date(1900, 3, 1, 0, 0, 0, 0, time.UTC)

// NewSink begins a workbook for rows of these fields.
func NewSink(out table.Output, fields []table.Field) (*Sink, error) {
	if len(fields) > maxColumns {
		return nil, fmt.Errorf("a sheet has at most %d columns, not %d", maxColumns, len(fields))
	}
	s := &Sink{out: out, file: excelize.NewFile(), fields: fields, waiting: map[place]int{}, cells: make([]any, len(fields))}
	return s, s.begin()
}

func (s *Sink) begin() error {
	err := s.file.SetSheetName("Sheet1", rowsSheet)
	for t, code := range map[value.Type]string{value.Date: "yyyy-mm-dd", value.Time: "hh:mm:ss", value.Timestamp: `yyyy-mm-dd"T"hh:mm:ss`, value.Text: "@", value.Code: "@"} {
		var styleErr error
		s.styles[t], styleErr = s.file.NewStyle(&excelize.Style{CustomNumFmt: &code})
		err = errors.Join(err, styleErr)
	}
	var styleErr, streamErr error
	s.marked, styleErr = s.file.NewStyle(&excelize.Style{Fill: excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{"F4C7B8"}}})
	s.rows, streamErr = s.file.NewStreamWriter(rowsSheet)
	if err = errors.Join(err, styleErr, streamErr); err != nil {
		return err
	}
	names := make([]any, len(s.fields))
	for i, f := range s.fields {
		names[i] = f.Name
		err = errors.Join(err, s.rows.SetColWidth(i+1, i+1, float64(min(40, max(12, utf8.RuneCountInString(f.Name)+2)))))
	}
	return errors.Join(err, s.head(s.rows, names))
}

// head writes the names of the columns and keeps them in view.
func (s *Sink) head(w *excelize.StreamWriter, names []any) error {
	bold, err := s.file.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	err = errors.Join(err, w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}))
	s.row = 1
	return errors.Join(err, w.SetRow("A1", names, excelize.RowOpts{StyleID: bold}))
}

// Fail says that a cell of a row that is still to be written has failed.
func (s *Sink) Fail(f Failed) {
	if len(s.failures) == maxFailures {
		s.waiting[place{f.Row, f.Column}] = noNote
		s.more++
		return
	}
	s.waiting[place{f.Row, f.Column}] = len(s.failures)
	s.failures = append(s.failures, f)
}

// Ledger gives the rows of the sheet of the ledger, the names of its columns first.
func (s *Sink) Ledger(rows [][]string) { s.ledger = rows }

// Holds returns why a workbook can't hold a value, "" where it can.
func (*Sink) Holds(t value.Type, text []byte) string {
	switch t {
	case value.Integer, value.Decimal:
		if _, _, digits := value.Digits(text); digits > value.FloatDigits {
			return fmt.Sprintf("a workbook keeps %d digits of a number", value.FloatDigits)
		}
	case value.Date, value.Timestamp:
		if string(text[:10]) < firstDay.Format(time.DateOnly) {
			return "the days of a workbook begin on 1900-03-01"
		}
		return clockHolds(text[10:])
	case value.Time:
		return clockHolds(text)
	case value.Text, value.Code:
		return textHolds(text)
	}
	return ""
}

// clockHolds looks at a time of day, with the letter before it and the offset behind it.
func clockHolds(text []byte) string {
	if bytes.ContainsAny(text, "Z+-") {
		return "a workbook keeps no offset from UTC"
	}
	if _, fraction, _ := bytes.Cut(text, []byte{'.'}); len(fraction) > 3 {
		return "a workbook keeps thousandths of a second"
	}
	return ""
}

func textHolds(text []byte) string {
	if len(text) > maxText && utf8.RuneCount(text) > maxText {
		return fmt.Sprintf("a cell of a workbook has at most %d characters", maxText)
	}
	for _, r := range string(text) {
		if r < ' ' && r != '\n' && r != '\t' || r == 0xFFFE || r == 0xFFFF || r == utf8.RuneError {
			return fmt.Sprintf("a workbook has no character U+%04X", r)
		}
	}
	return ""
}

// Encode implements [table.Sink]: there is nothing to do before Write.
func (s *Sink) Encode(dst []byte, _ *table.Rows) []byte { return dst }

// Write implements [table.Sink].
func (s *Sink) Write(_ []byte, rows *table.Rows) error {
	for row := range rows.Count {
		number := s.before + int64(row) + 1
		if rows.Numbers != nil {
			number = rows.Numbers[row]
		}
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		if s.row == maxRows {
			return fmt.Errorf("a sheet has at most %d rows; write a file of another format", maxRows)
		}
		s.row++
		for i, f := range rows.Fields {
			s.cells[i] = s.cell(f.Type, rows.Cells[i].At(row))
			if len(s.waiting) > 0 {
				if err := s.mark(number, i); err != nil {
					return err
				}
			}
		}
		if err := s.rows.SetRow("A"+strconv.Itoa(s.row), s.cells); err != nil {
			return err
		}
	}
	s.before += int64(rows.Count)
	return nil
}

// mark marks a cell that has failed.
func (s *Sink) mark(row int64, column int) error {
	at, failed := s.waiting[place{row, column}]
	if !failed {
		return nil
	}
	delete(s.waiting, place{row, column})
	c := excelize.Cell{StyleID: s.marked}
	if kept, ok := s.cells[column].(excelize.Cell); ok { // its text was kept
		c.Value = kept.Value
	}
	s.cells[column] = c
	if at == noNote {
		return nil
	}
	f := &s.failures[at]
	address, err := excelize.CoordinatesToCellName(column+1, s.row)
	f.address = address
	if s.notes == maxNotes || err != nil {
		return err
	}
	s.notes++
	note := f.Reason
	if f.Detail != "" {
		note += ": " + f.Detail
	}
	note += "\n" + clipped(f.Value, 300) + "\n" + f.Hint
	return s.file.AddComment(rowsSheet, excelize.Comment{Cell: address, Author: "junvo", Text: note, Width: 260, Height: 120})
}

func clipped(text string, most int) string {
	if utf8.RuneCountInString(text) <= most {
		return text
	}
	return string([]rune(text)[:most]) + "…"
}

// cell returns a value as the workbook stores it.
func (s *Sink) cell(t value.Type, text []byte) any {
	if len(text) == 0 {
		return nil
	}
	var stored any
	switch t {
	case value.Integer, value.Decimal:
		if _, err := value.ParseNumber(string(text)); err == nil {
			if f, err := strconv.ParseFloat(string(text), 64); err == nil {
				return f
			}
		}
	case value.Boolean:
		if string(text) == "true" || string(text) == "false" {
			return string(text) == "true"
		}
	case value.Date:
		if m, err := value.ParseMoment(string(text) + "T00:00:00"); err == nil {
			stored = dayNumber(m)
		}
	case value.Timestamp:
		if m, err := value.ParseMoment(string(text)); err == nil && !m.HasOffset {
			stored = dayNumber(m)
		}
	case value.Time:
		if m, err := value.ParseMoment("1900-03-01T" + string(text)); err == nil {
			stored = float64(m.Clock.Nanos) / float64(24*time.Hour)
		}
	}
	if stored == nil {
		return excelize.Cell{StyleID: s.styles[value.Text], Value: escaped(string(text))}
	}
	return excelize.Cell{StyleID: s.styles[t], Value: stored}
}

// escapes are texts that the format reads as the code of a character.
var escapes = regexp.MustCompile("_(x[0-9A-Fa-f]{4}_)")

// escaped writes them so that they stay text.
func escaped(text string) string {
	if !strings.Contains(text, "_x") {
		return text
	}
	return escapes.ReplaceAllString(text, "_x005F_$1")
}

// dayNumber counts days from 1900 as the format does.
func dayNumber(m value.Moment) float64 {
	day := time.Date(m.Day.Year(), time.Month(m.Day.Month()), m.Day.Day(), 0, 0, 0, 0, time.UTC)
	const firstNumber = 61
	return float64((day.Unix()-firstDay.Unix())/86400+firstNumber) + float64(m.Clock.Nanos)/float64(24*time.Hour)
}

// Finish writes the other sheets, and the workbook.
func (s *Sink) Finish() error {
	if s.finished {
		return nil
	}
	s.finished = true
	err := s.rows.Flush()
	if err == nil && len(s.failures) > 0 {
		err = s.writeFailures()
	}
	if err == nil && len(s.ledger) > 0 {
		err = s.writeLedger()
	}
	if err == nil {
		err = s.file.Write(s.out)
	}
	return errors.Join(err, s.file.Close(), s.out.Finish())
}

// sheet writes a further sheet.
func (s *Sink) sheet(name string, names []any, widths []float64, fill func(w *excelize.StreamWriter) error) error {
	if _, err := s.file.NewSheet(name); err != nil {
		return err
	}
	w, err := s.file.NewStreamWriter(name)
	if err != nil {
		return err
	}
	for i, width := range widths {
		err = errors.Join(err, w.SetColWidth(i+1, i+1, width))
	}
	if err := errors.Join(err, s.head(w, names)); err != nil {
		return err
	}
	return errors.Join(fill(w), w.Flush())
}

func (s *Sink) writeFailures() error {
	names := []any{"cell", "row", "line", "column", "value", "wanted", "reason", "detail", "hint"}
	return s.sheet(failuresSheet, names, []float64{10, 10, 10, 24, 30, 12, 20, 30, 60}, func(w *excelize.StreamWriter) error {
		for i, f := range s.failures {
			link := any("") // the row was set aside
			if f.address != "" {
				link = excelize.Cell{Formula: fmt.Sprintf(`HYPERLINK("#%s!%s","%s")`, rowsSheet, f.address, f.address), Value: f.address}
			}
			if err := w.SetRow("A"+strconv.Itoa(i+2), []any{link, f.Row, f.Line, shown(f.Name), shown(f.Value), f.Wanted, f.Reason, shown(f.Detail), f.Hint}); err != nil {
				return err
			}
		}
		if s.more == 0 {
			return nil
		}
		return w.SetRow("A"+strconv.Itoa(len(s.failures)+2), []any{fmt.Sprintf("and %d more: the file of failures has them all", s.more)})
	})
}

// shown keeps a report's text within what a cell may have.
func shown(text string) string {
	if textHolds([]byte(text)) == "" {
		return text
	}
	return strconv.Quote(clipped(text, maxText/2-2))
}

func (s *Sink) writeLedger() error {
	row := func(cells []string) []any {
		out := make([]any, len(cells))
		for i, c := range cells {
			out[i] = shown(c)
			if n, err := strconv.ParseInt(c, 10, 64); err == nil && i > 0 {
				out[i] = n
			}
		}
		return out
	}
	return s.sheet(ledgerSheet, row(s.ledger[0]), []float64{24, 12, 30}, func(w *excelize.StreamWriter) error {
		for i, cells := range s.ledger[1:] {
			if err := w.SetRow("A"+strconv.Itoa(i+2), row(cells)); err != nil {
				return err
			}
		}
		return nil
	})
}

// Commit makes the workbook appear.
func (s *Sink) Commit() error { return errors.Join(s.Finish(), s.out.Commit()) }

// Abort leaves nothing of the workbook behind.
func (s *Sink) Abort() {
	if !s.finished {
		s.finished = true
		_ = s.file.Close()
	}
	s.out.Abort()
}
