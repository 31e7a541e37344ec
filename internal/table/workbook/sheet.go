package workbook

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/table"
	"junvo/internal/value"
)

// cell is a cell of a row.
type cell struct {
	column int // from 0
	text   string
	kind   value.Stored
}

// partRows reads the part of a sheet row by row. It implements [rows].
type partRows struct {
	book  *book
	x     *scan
	part  io.Closer
	cells []cell
	row   int64  // the number of the row that was read last
	style []byte // of the cell that is read
	kind  []byte

	layout layout
}

func (b *book) rows(s *Sheet) (rows, error) {
	f, err := b.open(s.part)
	if err != nil {
		return nil, err
	}
	if f == nil {
		return nil, fmt.Errorf("the sheet %q is not in the workbook", s.Name)
	}
	f.token = unboundedToken // the scan has a bound of its own
	return &partRows{book: b, x: newScan(f), part: f}, nil
}

func (r *partRows) close() { r.part.Close() }

func (r *partRows) at() (int64, []cell) { return r.row, r.cells }

func (r *partRows) notes() []table.Note { return r.layout.notes() }

// token reads a token of the sheet, whose end comes before that of the data.
func (r *partRows) token() (sort, error) {
	t, err := r.x.next()
	if errors.Is(err, io.EOF) {
		err = io.ErrUnexpectedEOF
	}
	return t, err
}

// next reads the next row that is in the file, and returns io.EOF after the last.
func (r *partRows) next() error {
	for {
		t, err := r.token()
		if err != nil {
			return err
		}
		switch {
		case t == endTag && string(r.x.name) == "sheetData":
			r.layout.below(r.x)
			return io.EOF
		case t == startTag && string(r.x.name) == "col":
			r.layout.column(r.x)
		case t == startTag && string(r.x.name) == "row":
			r.row++
			if n, err := strconv.ParseInt(string(r.x.attr("r")), 10, 64); err == nil && n >= r.row {
				r.row = n
			}
			r.layout.line(isTrue(r.x.attr("hidden")), r.row)
			return r.readRow()
		}
	}
}

func (r *partRows) readRow() error {
	r.cells = r.cells[:0]
	column := -1
	for {
		t, err := r.token()
		if err != nil {
			return err
		}
		switch {
		case t == endTag && string(r.x.name) == "row":
			return r.inOrder()
		case t == startTag && string(r.x.name) == "c":
			column++
			if c, ok := columnOf(r.x.attr("r")); ok {
				column = c
			}
			if column >= maxColumns {
				return ErrTooLarge
			}
			c, err := r.readCell()
			if err != nil {
				return err
			}
			c.column = column
			if c.kind != value.StoredNull {
				r.cells = append(r.cells, c)
			}
		}
	}
}

// inOrder brings the cells of a row into the order of the columns, in which they nearly
// always are. Two cells at one place are damage.
func (r *partRows) inOrder() error {
	byColumn := func(a, b cell) int { return a.column - b.column }
	if !slices.IsSortedFunc(r.cells, byColumn) {
		slices.SortStableFunc(r.cells, byColumn)
	}
	for i := 1; i < len(r.cells); i++ {
		if r.cells[i].column == r.cells[i-1].column {
			return fmt.Errorf("row %d has the cell %s twice", r.row, table.Address(r.cells[i].column+1, r.row))
		}
	}
	return nil
}

// columnOf reads the column of an address such as AB12.
func columnOf(address []byte) (int, bool) {
	n := 0
	for i := 0; i < len(address) && i < 4; i++ {
		c := address[i]
		if c < 'A' || c > 'Z' {
			break
		}
		n = n*26 + int(c-'A') + 1
	}
	return n - 1, n > 0
}

// readCell reads a cell up to its end.
func (r *partRows) readCell() (cell, error) {
	r.kind, r.style = append(r.kind[:0], r.x.attr("t")...), append(r.style[:0], r.x.attr("s")...)
	var v []byte
	inValue, hasValue, formula := false, false, false
	for {
		t, err := r.token()
		if err != nil {
			return cell{}, err
		}
		switch t {
		case startTag:
			switch string(r.x.name) {
			case "v":
				inValue, hasValue = true, true
			case "f":
				formula = true
			case "is":
				text, err := r.richText()
				if err != nil {
					return cell{}, err
				}
				v, hasValue = append(v, text...), true
			}
		case endTag:
			switch string(r.x.name) {
			case "c":
				if formula {
					r.layout.formula(hasValue && (len(v) > 0 || string(r.kind) == "str"), r.row)
				}
				if !hasValue {
					return cell{kind: value.StoredNull}, nil
				}
				return r.cell(v)
			case "v":
				inValue = false
			}
		case plainText:
			if inValue {
				v = append(v, r.x.text...)
			}
		}
	}
}

// richText returns the text of a cell that has its own, as [decoder.richText] does.
func (r *partRows) richText() (string, error) {
	var text []byte
	inText, phonetic := false, 0
	for {
		t, err := r.token()
		if err != nil {
			return "", err
		}
		switch t {
		case startTag:
			if inText = string(r.x.name) == "t"; string(r.x.name) == "rPh" {
				phonetic++
			}
		case endTag:
			inText = false
			switch string(r.x.name) {
			case "is":
				return unescape(string(text)), nil
			case "rPh":
				phonetic--
			}
		case plainText:
			if inText && phonetic == 0 {
				text = append(text, r.x.text...)
			}
		}
	}
}

// cell says what a value is by the kind of its cell.
func (r *partRows) cell(v []byte) (cell, error) {
	switch string(r.kind) {
	case "s":
		if len(bytes.TrimSpace(v)) == 0 {
			return cell{kind: value.StoredNull}, nil
		}
		i, err := strconv.Atoi(string(bytes.TrimSpace(v)))
		if err != nil || i < 0 || i >= len(r.book.shared) {
			return cell{}, fmt.Errorf("row %d has a text that the workbook does not have", r.row)
		}
		return cell{text: r.book.shared[i]}, nil
	case "str":
		return cell{text: unescape(string(v))}, nil
	case "inlineStr": // unescaped with its runs
		return cell{text: string(v)}, nil
	case "b":
		return truth(string(v)), nil
	case "e":
		return cell{text: string(v), kind: value.StoredError}, nil
	case "d":
		return cell{text: string(v), kind: value.StoredDate}, nil
	}
	text := string(bytes.TrimSpace(v))
	if text == "" {
		return cell{kind: value.StoredNull}, nil
	}
	if c, ok := r.book.styled(text, r.book.formatOf(r.style)); ok {
		return c, nil
	}
	return cell{text: meant(text), kind: value.StoredNumber}, nil
}

// truth returns what a cell of a truth value holds.
func truth(text string) cell {
	switch is := strings.ToLower(strings.TrimSpace(text)); is {
	case "1", "true":
		return cell{text: "true", kind: value.StoredBoolean}
	case "0", "false":
		return cell{text: "false", kind: value.StoredBoolean}
	case "":
		return cell{kind: value.StoredNull}
	}
	return cell{text: text, kind: value.StoredError}
}

// meant returns the number that a workbook means by one which it stores: the shortest decimal
// that is the same in binary floating point (7.6 is stored as 7.5999999999999996).
func meant(v string) string {
	if len(v) <= value.FloatDigits && !strings.ContainsAny(v, "eE") {
		return v
	}
	f, err := strconv.ParseFloat(v, 64)
	if err != nil {
		return v
	}
	return strconv.FormatFloat(f, 'f', -1, 64)
}

// formatOf returns what the number format of a cell's style shows.
func (b *book) formatOf(style []byte) format {
	s, err := strconv.Atoi(string(style))
	if err != nil || s < 0 || s >= len(b.formats) {
		return plainNumber
	}
	return b.formats[s]
}

// styled reads a number as what its format shows it as, if that is no number: a date, a time,
// a duration, or digits with zeros before them.
func (b *book) styled(v string, f format) (cell, bool) {
	switch {
	case f == plainNumber:
		return cell{}, false
	case f > asDigits:
		text := meant(v)
		if strings.Trim(text, "0123456789") != "" {
			return cell{}, false
		}
		return cell{text: strings.Repeat("0", max(0, int(f-asDigits)-len(text))) + text}, true
	case f == asDuration:
		text, ok := duration(v)
		return cell{text: text}, ok
	}
	text, ok := b.dayNumber(v, f)
	return cell{text: text, kind: value.StoredDate}, ok
}

// duration writes a number of days as hours, minutes and seconds; there may be more than 24 hours.
func duration(v string) (string, bool) {
	days, err := strconv.ParseFloat(v, 64)
	if err != nil || !(math.Abs(days) < maxDuration) {
		return "", false
	}
	sign := ""
	if days < 0 {
		sign, days = "-", -days
	}
	millis := int64(math.Round(days * 86400e3))
	text := fmt.Sprintf("%s%02d:%02d:%02d", sign, millis/3600e3, millis/60e3%60, millis/1e3%60)
	if millis%1000 != 0 {
		text += strings.TrimRight(fmt.Sprintf(".%03d", millis%1000), "0")
	}
	return text, true
}

// maxDuration is the longest duration in days, about that from the year 1900 to 9999.
const maxDuration = 3e6

// lastMoment is the last thousandth of a second of a day; a time of day after it is of that day, too.
const lastMoment = (86400e3 - 1) / 86400e3

// dayNumber reads a number as the date that its format shows it as.
func (b *book) dayNumber(v string, f format) (string, bool) {
	n, err := strconv.ParseFloat(v, 64)
	if err != nil {
		return "", false
	}
	fine := value.DayNumberKeepsThousandths(v, n)
	if f == asDateOrTime && n >= 1 {
		f = asDate
	}
	if (f == asTime || f == asDateOrTime) && n >= 0 && n < 1 {
		m, ok := value.OfDayNumber(1+min(n, lastMoment), false, fine) // of any day
		return string(m.Clock.Append(nil)), ok
	}
	m, ok := value.OfDayNumber(n, b.base == 1904, fine)
	if !ok {
		return "", false
	}
	if m.Clock.Nanos == 0 && f == asDate {
		return string(m.Day.Append(nil)), true
	}
	return string(m.Append(nil)), true
}
