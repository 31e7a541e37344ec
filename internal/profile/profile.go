package profile

import (
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/table"
)

// Options say how to profile; the zero value leaves all to the evidence.
type Options struct {
	Workers    int
	BlankWords []string
	Ask        func(column string) reading.Ask // nil for no wishes
	Shapes     func(column string) bool        // the columns whose shapes the plan is to remember; nil for none
	Open       func(column string) bool        // the columns to open, which are told in detail; nil for none
	Skip       func(column string) bool        // the columns whose cells are not looked at; nil for none
	Private    func(column string) bool        // the columns whose values are to appear nowhere; nil for none
	Progress   func(bytes, rows int64)         // called after every block, in order
	Alone      bool                            // whether each column is decided by its own cells only
	SetAside   *[rowkind.NumKinds]bool         // the kinds of rows that are no data; nil to decide
}

// Profile is what a table's columns hold.
type Profile struct {
	Info     *table.Info
	Bytes    int64 // of text that was read
	Rows     int64 // all rows below the header, those set aside included
	FileRows int64 // the same of the file, where these have been made of others
	Columns  []*ColumnProfile
	Findings []Finding // of the file's structure
	// Aside counts the rows of each kind that are no data.
	Aside    [rowkind.NumKinds]int64
	SetAside [rowkind.NumKinds]bool // the kinds that are to be set aside
	// Unsure says that columns were skipped that would tell whether rows are totals.
	Unsure bool

	blocks []blockStart
}

// blockStart is how many rows stand before a block, and the line of its file that
// it begins in.
type blockStart struct {
	rows, line int64
	file       int
}

// ColumnProfile is what one column holds.
type ColumnProfile struct {
	Name       string
	Position   int // from 1
	Column     *Column
	Counts     []reading.Count
	Conclusion *reading.Conclusion
	Unasked    *reading.Conclusion // what the cells show by themselves, whatever was told
	Range      Range
	Findings   []Finding
	Constant   bool   // every row has the same value
	Key        bool   // every row has a value of its own
	NearKey    bool   // so it may be, by an estimate
	CopyOf     string // the first column before it that holds the same

	ask reading.Ask // what is known of it
}

// AskedType reports whether the column has its type because somebody has said so.
func (c *ColumnProfile) AskedType() bool { return c.ask.Type != nil }

// Range has the extremes and the sum of a column of numbers, dates or times, in canonical text.
type Range struct {
	Smallest, Largest string
	Sum               string // of numbers only
}

// Where is the row of a cell, and the line of it in its file.
type Where struct {
	Row, Line int64
	File      string
}

// Where returns the row and line of a place.
func (p *Profile) Where(at Place) Where {
	b := p.blocks[at.Block]
	return Where{b.rows + int64(at.Row) + 1, b.line + int64(at.Line), p.Info.Files[b.file].Name}
}

// Distinct returns how many different texts the column has that are not blank, and
// whether the number is exact.
func (c *ColumnProfile) Distinct() (int64, bool) {
	n, exact := c.Column.distinct.count()
	return min(n, c.Conclusion.Fits+c.Conclusion.Fails), exact // an estimate may be too large
}

// Private reports whether the values of the column are not to be shown.
func (c *ColumnProfile) Private() bool { return c.Column.private }
