package page

import (
	"bytes"
	"errors"
	"io"
	"strings"
)

// unitSeparator stands between cells (ISO/IEC 6429: information separator one), so that the rows are read as those of
// delimited text are.
const unitSeparator = 0x1f

// lines are the rows of one table as lines of text. It implements [io.Reader].
type lines struct {
	s        *scanner
	table    int
	header   int     // the line of the names that the page marks as such; 0 for none
	spans    []above // of each column, the cell above that reaches down
	spanning int64   // cells that span several rows or columns
	out      bytes.Buffer
	ahead    [][]string
	next     *row // that was read ahead
	ended    bool
}

// above is a cell that reaches down into more rows.
type above struct {
	text string
	rows int
}

// maxHeadings is how many rows of names there may be, one above the other.
const maxHeadings = 12

// heading reads the rows of names, of which one is made.
func (l *lines) heading() error {
	for {
		r, err := l.row()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		if !r.head || len(l.ahead) == maxHeadings {
			l.next = r
			break
		}
		cells := l.place(r, true)
		for i := range cells {
			cells[i] = strings.ReplaceAll(cells[i], "\n", " ")
		}
		l.ahead = append(l.ahead, cells)
	}
	if l.header = len(l.ahead); l.header == 0 {
		return nil
	}
	if l.header == maxHeadings { // all cells are headings, and those of data, too
		l.header = 1
		return nil
	}
	// The names of a column stand above each other, from the general to the special. A row of one text is a title.
	names := l.ahead[l.header-1]
	for c, name := range names {
		var parts []string
		for _, r := range l.ahead[:l.header-1] {
			if c < len(r) && !title(r) && r[c] != "" && r[c] != name && (len(parts) == 0 || parts[len(parts)-1] != r[c]) {
				parts = append(parts, r[c])
			}
		}
		names[c] = strings.TrimSpace(strings.Join(append(parts, name), " "))
	}
	return nil
}

// title reports whether a row has one text and no more, however many columns it spans.
func title(row []string) bool {
	first := ""
	for _, cell := range row {
		switch {
		case cell == "" || cell == first:
		case first == "":
			first = cell
		default:
			return false
		}
	}
	return true
}

// row returns the next row of the table.
func (l *lines) row() (*row, error) {
	if r := l.next; r != nil {
		l.next = nil
		return r, nil
	}
	for {
		r, err := l.s.next()
		if err != nil {
			l.ended = l.ended || errors.Is(err, io.EOF)
			return nil, err
		}
		if r.table == l.table {
			return &r, nil
		}
	}
}

// place puts the cells of a row into columns: below those that reach down into it. The text of one that spans several
// columns stands in the first, and in all of them where names are meant.
func (l *lines) place(r *row, names bool) (out []string) {
	add := func(text string, rows int) {
		if len(out) == len(l.spans) {
			l.spans = append(l.spans, above{})
		}
		if rows > 1 {
			l.spans[len(out)] = above{text, rows - 1}
		}
		out = append(out, text)
	}
	down := func() {
		for len(out) < len(l.spans) && l.spans[len(out)].rows > 0 {
			l.spans[len(out)].rows--
			out = append(out, l.spans[len(out)].text)
		}
	}
	for _, c := range r.cells {
		down()
		if c.columns > 1 || c.rows > 1 {
			l.spanning++
		}
		for i := range max(1, c.columns) {
			if len(out) == maxColumns {
				return out
			}
			if text := c.text; i == 0 || names {
				add(text, c.rows)
			} else {
				add("", c.rows)
			}
		}
	}
	down()
	return out
}

// Read implements [io.Reader].
func (l *lines) Read(p []byte) (int, error) {
	for l.out.Len() == 0 {
		cells, err := l.nextCells()
		if err != nil {
			return 0, err
		}
		l.write(cells)
	}
	return l.out.Read(p)
}

func (l *lines) nextCells() ([]string, error) {
	if len(l.ahead) > 0 {
		cells := l.ahead[0]
		l.ahead = l.ahead[1:]
		return cells, nil
	}
	r, err := l.row()
	if err != nil {
		return nil, err
	}
	return l.place(r, false), nil
}

// write writes a row as a line.
func (l *lines) write(cells []string) {
	for i, c := range cells {
		if i > 0 {
			l.out.WriteByte(unitSeparator)
		}
		if strings.ContainsAny(c, "\"\n\r\x1f") || c == "" && len(cells) == 1 {
			l.out.WriteByte('"')
			l.out.WriteString(strings.ReplaceAll(c, `"`, `""`))
			l.out.WriteByte('"')
			continue
		}
		l.out.WriteString(c)
	}
	l.out.WriteByte('\n')
}
