package workbook

import (
	"bytes"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Sink writes a workbook: a sheet with the rows, one with what has failed, and one with
// the ledger. Numbers, dates and truth values are stored as such, and all text as text, so
// that no program reads it again as something else. It implements [table.Sink].
type Sink struct {
	out    table.Output
	book   *archive
	fields []table.Field
	before int64 // rows of the source so far
	digits []int // after the point, that all numbers of a column of decimals have so far; mixedDigits, noDigits

	waiting  map[place]int // failed cells that are not written yet, by their place among failures
	failures []Failed
	more     int // failures beyond those that the sheet lists
	notes    []note
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
	maxDigits   = 30 // after the point, that a format of numbers may have
	noNote      = -1
	noDigits    = -1 // there is no number yet
	mixedDigits = -2 // the numbers of the column have one so many and one so many
)

// Sheets of a workbook that is written.
const (
	RowsSheet     = "rows"
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
	s := &Sink{out: out, book: newArchive(out), fields: fields, waiting: map[place]int{}}
	names, widths := make([]string, len(fields)), make([]int, len(fields))
	for i, f := range fields {
		if say := textHolds([]byte(f.Name)); say != "" {
			return nil, fmt.Errorf("column %q can't be named so: %s; give it another name in a plan", f.Name, say)
		}
		names[i], widths[i] = f.Name, min(40, max(12, utf8.RuneCountInString(f.Name)+2))
	}
	s.book.begin(RowsSheet, names, widths, func(i int) bool { return fields[i].Type.Numeric() })
	for range fields {
		s.digits = append(s.digits, noDigits)
	}
	return s, s.book.err
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
		if !value.FloatKeeps(text) {
			return fmt.Sprintf("a workbook keeps %d digits of a number", value.FloatDigits)
		}
	case value.Timestamp:
		if bytes.ContainsAny(text[10:], "Z+-") {
			return "" // with its offset from UTC it is text
		}
		fallthrough
	case value.Date:
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

// clockHolds looks at a time of day, with the letter before it.
func clockHolds(text []byte) string {
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
		if r < ' ' && r != '\n' && r != '\t' && r != '\r' || r == 0xFFFE || r == 0xFFFF {
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
		if s.book.row == maxRows {
			return fmt.Errorf("a sheet has at most %d rows; write a file of another format", maxRows)
		}
		s.book.beginRow()
		for i, f := range rows.Fields {
			look := looks[f.Type]
			if len(s.waiting) > 0 && s.failed(number, i) {
				look = failedLook
			}
			s.cell(i, look, f.Type, rows.Cells[i].At(row))
		}
		s.book.endRow()
	}
	s.before += int64(rows.Count)
	return s.book.err
}

// failed reports whether a cell has failed, and notes why.
func (s *Sink) failed(row int64, column int) bool {
	at, failed := s.waiting[place{row, column}]
	if !failed {
		return false
	}
	delete(s.waiting, place{row, column})
	if at == noNote {
		return true
	}
	f := &s.failures[at]
	f.address = table.Address(column+1, int64(s.book.row))
	if len(s.notes) < maxNotes {
		text := f.Reason
		if f.Detail != "" {
			text += ": " + f.Detail
		}
		s.notes = append(s.notes, note{column, s.book.row, shown(text + "\n" + clipped(f.Value, 300) + "\n" + f.Hint)})
	}
	return true
}

// cell writes a value. Text that is no value of the type, as a failed cell may be that
// keeps its text, is text.
func (s *Sink) cell(column int, l look, t value.Type, text []byte) {
	if len(text) == 0 {
		if l == failedLook {
			s.book.empty(column, l)
		}
		return
	}
	switch t {
	case value.Integer, value.Decimal:
		if value.IsNumber(text) {
			if t == value.Decimal && l == general {
				l = numLooks + look(column)
				s.countDigits(column, text)
			}
			s.book.number(column, l, text)
			return
		}
	case value.Boolean:
		if is := string(text) == "true"; is || string(text) == "false" {
			s.book.truth(column, l, is)
			return
		}
	case value.Date, value.Time, value.Timestamp:
		if n, ok := dayNumberOf(t, string(text)); ok {
			s.book.number(column, l, appendDayNumber(nil, n))
			return
		}
	}
	s.book.string(column, l, text)
}

// countDigits notes how many digits a number of a column has after the point. Where all have as many, they are shown
// so.
func (s *Sink) countDigits(column int, text []byte) {
	_, fraction, _ := bytes.Cut(text, []byte{'.'})
	switch s.digits[column] {
	case noDigits:
		s.digits[column] = len(fraction)
	case len(fraction):
	default:
		s.digits[column] = mixedDigits
	}
}

// dayNumberOf returns the number that stands for a date or time.
func dayNumberOf(t value.Type, text string) (float64, bool) {
	switch t {
	case value.Date:
		day, err := value.ParseDate(text)
		return dayNumber(value.Moment{Day: day}), err == nil
	case value.Time:
		text = "1900-03-01T" + text
	}
	m, err := value.ParseMoment(text)
	if err != nil || m.HasOffset {
		return 0, false
	}
	if t == value.Time {
		return float64(m.Clock.Nanos) / float64(24*time.Hour), true
	}
	return dayNumber(m), true
}

// dayNumberDigits is how many digits a part of a day has at least: with fewer, a second that was rounded could be
// meant.
const dayNumberDigits = 7

// appendDayNumber appends a day number.
func appendDayNumber(dst []byte, n float64) []byte {
	start := len(dst)
	dst = strconv.AppendFloat(dst, n, 'f', -1, 64)
	if point := bytes.IndexByte(dst[start:], '.'); point >= 0 {
		for len(dst)-start-point-1 < dayNumberDigits {
			dst = append(dst, '0')
		}
	}
	return dst
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
		return s.book.err
	}
	s.finished = true
	s.book.end(nil, s.notes)
	for _, n := range s.digits {
		s.book.fixed = append(s.book.fixed, min(max(n, 0), maxDigits))
	}
	if len(s.failures) > 0 {
		s.writeFailures()
	}
	if len(s.ledger) > 0 {
		s.writeLedger()
	}
	return errors.Join(s.book.close(), s.out.Finish())
}

func (s *Sink) writeFailures() {
	a := s.book
	a.begin(failuresSheet, []string{"cell", "row", "line", "column", "value", "wanted", "reason", "detail", "hint"},
		[]int{10, 10, 10, 24, 30, 12, 20, 30, 60}, func(i int) bool { return i == 1 || i == 2 })
	var links []link
	for _, f := range s.failures {
		a.beginRow()
		if f.address != "" { // else the row was set aside
			links = append(links, link{table.Address(1, int64(a.row)), RowsSheet + "!" + f.address})
			a.string(0, linkLook, []byte(f.address))
		}
		a.number(1, general, strconv.AppendInt(nil, f.Row, 10))
		a.number(2, general, strconv.AppendInt(nil, f.Line, 10))
		for i, text := range []string{f.Name, f.Value, f.Wanted, f.Reason, f.Detail, f.Hint} {
			if text != "" {
				a.string(3+i, textLook, []byte(shown(text)))
			}
		}
		a.endRow()
	}
	if s.more > 0 {
		a.beginRow()
		a.string(0, textLook, fmt.Appendf(nil, "and %d more: the file of failures has them all", s.more))
		a.endRow()
	}
	a.end(links, nil)
}

// shown keeps a report's text within what a cell may have: characters that a workbook has not, and bytes that are no
// text, are written by their codes.
func shown(text string) string {
	if textHolds([]byte(text)) == "" && utf8.ValidString(text) {
		return text
	}
	var b strings.Builder
	n := 0
	for i, r := range text {
		if n++; n > maxText/longestCode {
			return b.String() + "…"
		}
		switch {
		case r == utf8.RuneError && text[i] != "\ufffd"[0]:
			fmt.Fprintf(&b, "⟨%02X⟩", text[i])
		case textHolds([]byte(string(r))) != "":
			fmt.Fprintf(&b, "⟨U+%04X⟩", r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

// longestCode is how many characters stand for one at most.
const longestCode = len("<U+FFFF>")

func (s *Sink) writeLedger() {
	a := s.book
	a.begin(ledgerSheet, s.ledger[0], []int{24, 12, 30}, func(i int) bool { return i > 2 })
	for _, cells := range s.ledger[1:] {
		a.beginRow()
		for i, c := range cells {
			if _, err := strconv.ParseInt(c, 10, 64); err == nil && i > 0 {
				a.number(i, general, []byte(c))
			} else if c != "" {
				a.string(i, textLook, []byte(shown(c)))
			}
		}
		a.endRow()
	}
	a.end(nil, nil)
}

// Commit makes the workbook appear.
func (s *Sink) Commit() error {
	if err := s.Finish(); err != nil {
		return err
	}
	return s.out.Commit()
}

// Abort leaves nothing of the workbook behind.
func (s *Sink) Abort() {
	s.finished = true
	s.out.Abort()
}
