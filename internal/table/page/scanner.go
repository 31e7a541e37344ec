package page

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"junvo/internal/table"
)

// row is a row of a table: which one's, and its cells.
type row struct {
	table int // its number, from 1
	cells []cell
	head  bool // it stands in the head of the table, or all its cells are headings
}

// cell is a cell of a row.
type cell struct {
	text          string
	heading       bool
	columns, rows int // that it spans
}

// scanner finds the rows of all tables of a page, each as soon as it ends. A table within a cell is a table of its own,
// and its text belongs to the cell, too.
type scanner struct {
	z        *html.Tokenizer
	tables   int      // that have begun
	captions []string // of each
	open     []*building
	heading  strings.Builder // the last heading, or what of it has been read
	inTitle  atom.Atom       // the element whose text is a heading or a caption; 0 for none
	skipping atom.Atom       // the element whose text is none, or is not shown; 0 for none
	depth    int             // how many elements of that name are open
	ready    []row
	sup, sub int // how many elements are open that raise their text, and that lower it
}

// building is a table that has begun and not ended.
type building struct {
	number int
	cells  []cell
	text   *text // of the cell that is open; nil for none
	head   bool  // within the head
	inRow  bool
}

// maxOpen is how deep tables may stand within tables.
const maxOpen = 50

// maxRow is how many bytes the texts of a row may have.
const maxRow = table.MaxCell

func newScanner(r io.Reader) *scanner {
	z := html.NewTokenizer(r)
	z.SetMaxBuf(table.MaxCell)
	return &scanner{z: z}
}

// next returns the next row of any table, and io.EOF after the last.
func (s *scanner) next() (row, error) {
	for len(s.ready) == 0 {
		switch s.z.Next() {
		case html.ErrorToken:
			err := s.z.Err()
			if errors.Is(err, html.ErrBufferExceeded) {
				err = fmt.Errorf("a tag or a text of the page is longer than %d MB", table.MaxCell>>20)
			}
			if !errors.Is(err, io.EOF) {
				return row{}, err
			}
			for len(s.open) > 0 { // tables that the page does not end
				s.endTable()
			}
			if len(s.ready) == 0 {
				return row{}, io.EOF
			}
		case html.TextToken:
			if err := s.text(); err != nil {
				return row{}, err
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			if err := s.start(); err != nil {
				return row{}, err
			}
		case html.EndTagToken:
			name, _ := s.z.TagName()
			s.end(atom.Lookup(name))
		}
	}
	r := s.ready[0]
	s.ready = s.ready[1:]
	return r, nil
}

func (s *scanner) text() error {
	if s.skipping != 0 {
		return nil
	}
	text := s.set(s.z.Text())
	if s.inTitle != 0 && s.heading.Len() < maxCaption {
		s.heading.WriteString(strings.ToValidUTF8(string(text[:min(len(text), maxCaption)]), "")) // cut between characters
	}
	for _, b := range s.open {
		if b.text == nil {
			continue
		}
		if b.text.add(text); b.text.b.Len() > maxRow {
			return fmt.Errorf("a cell of the page is longer than %d MB", maxRow>>20)
		}
	}
	return nil
}

// raised and lowered are the digits above and below the line, so that what is set so does not join the number before it.
var raised, lowered = []rune("⁰¹²³⁴⁵⁶⁷⁸⁹"), []rune("₀₁₂₃₄₅₆₇₈₉")

// set returns a text with the digits that its place on the line gives them.
func (s *scanner) set(text []byte) []byte {
	digits := raised
	switch {
	case s.sup > 0:
	case s.sub > 0:
		digits = lowered
	default:
		return text
	}
	return bytes.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return digits[r-'0']
		}
		return r
	}, text)
}

// breaks are the elements that begin a line of their own.
var breaks = map[atom.Atom]bool{
	atom.Br: true, atom.P: true, atom.Div: true, atom.Li: true, atom.Tr: true, atom.H1: true, atom.H2: true, atom.H3: true,
	atom.H4: true, atom.H5: true, atom.H6: true, atom.Dt: true, atom.Dd: true, atom.Hr: true, atom.Ul: true, atom.Ol: true,
}

// void are the elements that have no end.
var void = map[atom.Atom]bool{
	atom.Br: true, atom.Img: true, atom.Input: true, atom.Hr: true, atom.Col: true, atom.Meta: true, atom.Link: true,
	atom.Wbr: true, atom.Area: true, atom.Base: true, atom.Embed: true, atom.Source: true, atom.Track: true,
}

// start takes an element that begins.
func (s *scanner) start() error {
	name, more := s.z.TagName()
	tag := atom.Lookup(name)
	a := attributes{}
	for more {
		var key, v []byte
		key, v, more = s.z.TagAttr()
		a.take(string(key), string(v))
	}
	switch {
	case s.skipping != 0:
		if tag == s.skipping && !void[tag] {
			s.depth++
		}
		return nil
	case tag == atom.Script, tag == atom.Style, tag == atom.Template, tag == atom.Noscript, a.hidden && !void[tag]:
		s.skipping, s.depth = tag, 1
		return nil
	}
	switch tag {
	case atom.Sup:
		s.sup++
	case atom.Sub:
		s.sub++
	case atom.Td, atom.Th, atom.Tr, atom.Table: // what was not ended ends with its cell
		s.sup, s.sub = 0, 0
	}
	switch tag {
	case atom.Table:
		return s.beginTable()
	case atom.H1, atom.H2, atom.H3, atom.H4, atom.H5, atom.H6, atom.Caption:
		s.heading.Reset()
		s.inTitle = tag
	}
	if breaks[tag] {
		for _, b := range s.open {
			if b.text != nil {
				b.text.line()
			}
		}
	}
	if len(s.open) == 0 {
		return nil
	}
	b := s.open[len(s.open)-1]
	if tag == atom.Td || tag == atom.Th {
		for _, outer := range s.open[:len(s.open)-1] {
			if outer.text != nil {
				outer.text.space = true
			}
		}
	}
	switch tag {
	case atom.Thead:
		s.endRow(b)
		b.head = true
	case atom.Tbody, atom.Tfoot:
		s.endRow(b)
		b.head = false
	case atom.Tr:
		s.endRow(b)
		b.inRow = true
	case atom.Td, atom.Th:
		b.endCell()
		if b.inRow = true; len(b.cells) == maxColumns {
			return fmt.Errorf("a row of the page has more than %d cells", maxColumns)
		}
		b.cells = append(b.cells, cell{heading: tag == atom.Th, columns: a.columns, rows: a.rows})
		b.text = &text{}
	}
	return nil
}

// beginTable begins a table, which is called as the heading before it until it has a caption.
func (s *scanner) beginTable() error {
	if s.tables == maxTables || len(s.open) == maxOpen {
		return fmt.Errorf("the page has more than %d tables, or more than %d within each other", maxTables, maxOpen)
	}
	s.tables++
	s.captions = append(s.captions, caption(s.heading.String()))
	s.heading.Reset() // the next table has one of its own
	s.inTitle = 0
	s.open = append(s.open, &building{number: s.tables})
	return nil
}

// end takes an element that ends.
func (s *scanner) end(tag atom.Atom) {
	if s.skipping != 0 {
		if tag == s.skipping {
			if s.depth--; s.depth == 0 {
				s.skipping = 0
			}
		}
		return
	}
	switch tag {
	case atom.Sup:
		s.sup = max(0, s.sup-1)
	case atom.Sub:
		s.sub = max(0, s.sub-1)
	case atom.Td, atom.Th, atom.Tr, atom.Table:
		s.sup, s.sub = 0, 0
	}
	if tag == s.inTitle && tag != 0 {
		if tag == atom.Caption && len(s.open) > 0 {
			s.captions[s.open[len(s.open)-1].number-1] = caption(s.heading.String())
			s.heading.Reset()
		}
		s.inTitle = 0
	}
	if len(s.open) == 0 {
		return
	}
	b := s.open[len(s.open)-1]
	switch tag {
	case atom.Td, atom.Th:
		b.endCell()
	case atom.Tr:
		s.endRow(b)
	case atom.Thead, atom.Tbody, atom.Tfoot:
		s.endRow(b)
		b.head = false
	case atom.Table:
		s.endTable()
	}
}

func (b *building) endCell() {
	if b.text != nil {
		b.cells[len(b.cells)-1].text = b.text.String()
		b.text = nil
	}
}

// endRow ends a row that has begun.
func (s *scanner) endRow(b *building) {
	b.endCell()
	if !b.inRow {
		return
	}
	b.inRow = false
	r := row{table: b.number, cells: b.cells, head: b.head || len(b.cells) > 0}
	b.cells = nil
	for _, c := range r.cells {
		r.head = r.head && (b.head || c.heading)
	}
	if len(r.cells) > 0 {
		s.ready = append(s.ready, r)
	}
}

func (s *scanner) endTable() {
	b := s.open[len(s.open)-1]
	s.endRow(b)
	s.open = s.open[:len(s.open)-1]
	for _, outer := range s.open {
		if outer.text != nil {
			outer.text.line()
		}
	}
}

// caption returns a heading in one line.
func caption(text string) string { return strings.Join(strings.Fields(text), " ") }

// attributes are those of an element that matter here.
type attributes struct {
	columns, rows int
	hidden        bool
}

func (a *attributes) take(key, v string) {
	switch key {
	case "colspan":
		if n, err := strconv.Atoi(strings.TrimSpace(v)); err == nil && n > 0 {
			a.columns = min(n, 1000) // HTML, "Attributes common to td and th elements"
		}
	case "rowspan":
		if n, err := strconv.Atoi(strings.TrimSpace(v)); err == nil && n >= 0 {
			if a.rows = min(n, 65534); n == 0 {
				a.rows = 65534 // to the end of the table
			}
		}
	case "hidden":
		a.hidden = true
	case "style":
		style := strings.ToLower(strings.Join(strings.Fields(v), ""))
		a.hidden = a.hidden || strings.Contains(style, "display:none")
	}
}

// text is the text of a cell as a browser shows it: white space of any length is one space, and what stands in lines of
// its own does so here. No-break spaces stay.
type text struct {
	b     strings.Builder
	space bool // white space that has not been written
	lines bool // a line has ended
}

func (t *text) add(raw []byte) {
	for _, c := range raw {
		if c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' {
			t.space = true
			continue
		}
		if t.b.Len() > 0 {
			switch {
			case t.lines:
				t.b.WriteByte('\n')
			case t.space:
				t.b.WriteByte(' ')
			}
		}
		t.space, t.lines = false, false
		t.b.WriteByte(c)
	}
}

func (t *text) line() { t.lines = true }

func (t *text) String() string { return t.b.String() }
