package workbook

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"junvo/internal/finding"
	"junvo/internal/table"
	"junvo/internal/value"
)

// rows are the rows of a sheet, in whatever format it is kept.
type rows interface {
	// next reads the next row that is in the file, and returns io.EOF after the last.
	next() error
	// at returns the number of the row that was read last, and its cells that are not blank, in the order of the columns.
	at() (row int64, cells []cell)
	// notes tells what the look of the sheet hides, when all has been read.
	notes() []table.Note
	close()
}

// sheets is a workbook in whatever format.
type sheets interface {
	all() []Sheet
	rows(*Sheet) (rows, error)
	// decisions tells what was found out about the workbook.
	decisions() []table.Decision
}

// Options are what the user says about a sheet; zero values leave it to detection.
type Options struct {
	HeaderRow int // the row of the names; 0 to detect, -1 for none
}

// Source reads a sheet of a workbook. It implements [table.Source].
type Source struct {
	info  table.Info
	rows  rows
	ahead []ahead // rows that were read to find the header
	line  int64   // in which the next block begins
	ended bool
	noted bool  // what the layout of the sheet is
	text  int64 // bytes of it that were read
}

// ahead is a row that has been read already.
type ahead struct {
	row   int64
	cells []cell
}

// maxSheetText and maxShared bound the text that a small file may stand for which repeats long texts: so much,
// and so much for each byte of the file.
const (
	maxSheetText = 1 << 30
	maxShared    = 64
)

// sampleRows is how many rows are looked at to find the header.
const sampleRows = 100

// Open opens a sheet of a workbook (XLSX) by its name, the first one that is not hidden for "".
func Open(r io.ReaderAt, size int64, name, sheet string, o Options) (*Source, error) {
	b, err := openBook(r, size)
	if err != nil {
		return nil, err
	}
	return openSheet(b, "workbook", size, name, sheet, o)
}

func openSheet(b sheets, format string, size int64, name, sheet string, o Options) (*Source, error) {
	sh, err := choose(b.all(), sheet)
	if err != nil {
		return nil, err
	}
	s := &Source{}
	if s.rows, err = b.rows(sh); err != nil {
		return nil, err
	}
	if err := s.lookAhead(); err != nil {
		s.rows.close()
		return nil, fmt.Errorf("the sheet %q is damaged: %w", sh.Name, err)
	}
	s.info = table.Info{Name: name, Format: format, Bytes: size, Typed: true, Sheet: true}
	s.decide(b, sh, sheet)
	if err := s.header(o); err != nil {
		s.rows.close()
		return nil, err
	}
	return s, nil
}

// Sheets returns the names of the sheets of a workbook (XLSX) that have a cell and are not hidden.
func Sheets(r io.ReaderAt, size int64) ([]string, error) {
	b, err := openBook(r, size)
	if err != nil {
		return nil, err
	}
	return filled(b)
}

// filled returns the names of the sheets that have a cell and are not hidden.
func filled(b sheets) (names []string, err error) {
	for _, sh := range b.all() {
		if sh.Hidden {
			continue
		}
		s := &Source{}
		if s.rows, err = b.rows(&sh); err != nil {
			return nil, err
		}
		err := s.lookAhead()
		s.rows.close()
		if err != nil {
			return nil, fmt.Errorf("the sheet %q is damaged: %w", sh.Name, err)
		}
		if len(s.ahead) > 0 {
			names = append(names, sh.Name)
		}
	}
	return names, nil
}

func (s *Source) decide(b sheets, sh *Sheet, asked string) {
	why := "as told"
	var others, hidden []string
	for _, o := range b.all() {
		if o.Name != sh.Name {
			others = append(others, o.Name)
		}
		if o.Name != sh.Name && o.Hidden {
			hidden = append(hidden, o.Name)
		}
	}
	if n := len(hidden); n > 0 {
		s.info.Notes = append(s.info.Notes, table.Note{Kind: finding.HiddenSheets, Count: int64(n), Say: fmt.Sprintf(
			"%d other sheets are hidden, and left out of book.xlsx#*: %s", n,
			strings.Join(hidden[:min(n, maxNamed)], ", "))})
	}
	if asked == "" {
		if why = "the only one"; len(others) > 0 {
			named := others
			if len(named) > maxNamed {
				named = append(slices.Clip(named[:maxNamed]), fmt.Sprintf("and %d more", len(others)-maxNamed))
			}
			why = fmt.Sprintf("the first; the others are %s: name one after #, as in book.xlsx#%s", strings.Join(named, ", "),
				others[0])
		}
	}
	s.info.Decisions = append(s.info.Decisions, table.Decision{What: "sheet", Value: sh.Name, Why: why})
	s.info.Decisions = append(s.info.Decisions, b.decisions()...)
}

// lookAhead reads the first rows.
func (s *Source) lookAhead() error {
	for len(s.ahead) < sampleRows {
		err := s.rows.next()
		if errors.Is(err, io.EOF) {
			s.ended = true
			return nil
		}
		if err != nil {
			return err
		}
		if row, cells := s.rows.at(); len(cells) > 0 {
			s.ahead = append(s.ahead, ahead{row, slices.Clone(cells)})
		}
	}
	return nil
}

// ErrEmpty is a sheet without a cell.
var ErrEmpty = errors.New("the sheet is empty")

// header finds the row of the names: the first that fills more than half of the columns
// with text and nothing else.
func (s *Source) header(o Options) error {
	if len(s.ahead) == 0 {
		return ErrEmpty
	}
	width := 0
	for _, a := range s.ahead {
		width = max(width, a.cells[len(a.cells)-1].column+1)
	}
	at, named := -1, true
	for i, a := range s.ahead {
		if o.HeaderRow > 0 && a.row == int64(o.HeaderRow) || o.HeaderRow <= 0 && 2*len(a.cells) > width {
			at = i
			break
		}
	}
	if o.HeaderRow > 0 && at < 0 {
		return fmt.Errorf("no row of the sheet is number %d, where the header was said to be", o.HeaderRow)
	}
	at = max(at, 0)
	if o.HeaderRow == 0 {
		for _, c := range s.ahead[at].cells {
			named = named && c.kind == value.StoredText
		}
	}
	named = named && o.HeaderRow >= 0
	why := "the first row that fills the columns with text"
	if o.HeaderRow != 0 {
		why = "as told"
	}
	for _, a := range s.ahead[:at] {
		s.info.Above = append(s.info.Above, table.Line{Number: a.row, Text: lineText(a.cells), Reason: "above-header"})
	}
	cells := make([]string, width)
	first := s.ahead[at].row
	if named {
		for _, c := range s.ahead[at].cells {
			cells[c.column] = c.text
		}
		s.info.HeaderRow = first
		s.info.Decisions = append(s.info.Decisions, table.Decision{
			What: "header", Value: fmt.Sprintf("row %d", first),
			Why: why,
		})
		s.ahead = s.ahead[at+1:]
		first++
	} else {
		if o.HeaderRow == 0 {
			why = fmt.Sprintf("row %d has cells that are not text", first)
		}
		s.info.Decisions = append(s.info.Decisions, table.Decision{What: "header", Value: "none", Why: why})
		s.ahead = s.ahead[at:]
	}
	usable, notes := table.UsableNames(cells, named)
	s.info.Names, s.info.Notes = usable, append(s.info.Notes, notes...)
	s.info.Files = []table.File{{Name: s.info.Name, FirstLine: first}}
	s.line = first
	return nil
}

func lineText(cells []cell) string {
	var parts []string
	for _, c := range cells {
		parts = append(parts, c.text)
	}
	return strings.Join(parts, "\t")
}

// Info implements [table.Source].
func (s *Source) Info() *table.Info { return &s.info }

// Next implements [table.Source].
func (s *Source) Next(b *table.Block) error {
	b.Width = len(s.info.Names)
	b.Text = b.Buffer()
	start := s.line
	for !b.Full() {
		was := int64(len(b.Text))
		row, cells, err := s.row()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			last, _ := s.rows.at()
			return fmt.Errorf("the sheet is damaged after row %d: %w", last, err)
		}
		s.add(b, cells)
		if s.text += int64(len(b.Text)) - was; s.text > maxSheetText+maxShared*s.info.Bytes {
			return fmt.Errorf("the text of the sheet is longer than %d GB, of which the file repeats parts: row %d is the "+
				"last that was read", s.text>>30, row)
		}
		b.EndRow(uint32(row - start))
		s.line = row + 1
	}
	if s.ended && !s.noted {
		s.noted = true
		b.Learned.Notes = s.rows.notes()
	}
	if b.Rows == 0 && !b.Learned.Any() {
		return io.EOF
	}
	b.Filled()
	return nil
}

// row returns the next row that has a cell in it.
func (s *Source) row() (int64, []cell, error) {
	if len(s.ahead) > 0 {
		a := s.ahead[0]
		s.ahead = s.ahead[1:]
		return a.row, a.cells, nil
	}
	for !s.ended {
		err := s.rows.next()
		if errors.Is(err, io.EOF) {
			s.ended = true
			break
		}
		if err != nil {
			return 0, nil, err
		}
		if row, cells := s.rows.at(); len(cells) > 0 {
			return row, cells, nil
		}
	}
	s.rows.close()
	return 0, nil, io.EOF
}

// add adds a row's cells; where there is none, a null. Cells beyond the last column
// that the first rows have make the row a long one.
func (s *Source) add(b *table.Block, cells []cell) {
	at := 0
	for c := range b.Width {
		if at < len(cells) && cells[at].column == c {
			b.AddCell(cells[at].text, cells[at].kind)
			at++
			continue
		}
		b.AddCell("", value.StoredNull)
	}
	if at == len(cells) {
		return
	}
	extra := table.Extra{Row: b.Rows}
	for _, c := range cells[at:] {
		extra.Spans = append(extra.Spans, table.Span{Start: uint32(len(b.Text)), N: uint32(len(c.text))})
		b.Text = append(b.Text, c.text...)
	}
	b.Extra = append(b.Extra, extra)
	b.Trouble.Long.Add(b.Rows)
}

// Split implements [table.Source]: the cells are where they are already.
func (s *Source) Split(*table.Block) {}
