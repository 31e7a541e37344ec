package table

import (
	"io"

	"junvo/internal/value"
)

// A Sink takes typed rows. Encode may run on many goroutines at once, so that a
// text format is written as fast as it can be; Write is called in block order by
// one goroutine, with what Encode returned.
type Sink interface {
	// Encode appends the rows in the sink's format to dst.
	Encode(dst []byte, rows *Rows) []byte
	// Write writes encoded rows.
	Write(encoded []byte, rows *Rows) error
	// Finish writes all that is left to the disk, so that Commit can hardly fail.
	Finish() error
	// Commit makes the output appear under its name.
	Commit() error
	// Abort leaves nothing of the output behind. After Commit it does nothing.
	Abort()
}

// A Holder is a sink of a format that can't hold every value.
type Holder interface {
	// Holds returns why the format can't hold a value in canonical text, "" where it can.
	Holds(t value.Type, text []byte) string
}

// Output is where a sink writes: a file that appears whole or not at all.
type Output interface {
	io.Writer
	Finish() error
	Commit() error
	Abort()
}

// Field is a column of the output.
type Field struct {
	Name    string
	Type    value.Type
	Offsets bool // timestamps carry an offset from UTC
}

// Rows are typed rows in canonical text, column by column.
type Rows struct {
	Fields []Field
	Count  int    // rows in the block, left out ones included
	Out    []bool // which of them are written; nil for all
	// Numbers are those of the rows in the source, from 1; nil where all follow each other.
	Numbers []int64
	Cells   []Values // per column
	// Helpers are columns that are worked out and not written; an order of the rows may ask for them.
	Helpers []Values
	// Failed are the cells that have failed, of rows that are written; only for a sink that is a FailureReader.
	Failed []FailedCell
}

// FailedCell is a cell that has failed: its row in the block, its column in the output, and why.
type FailedCell struct {
	Row, Column int
	Reason      string
	// Inherited says that the cell is blank because one that it is made of has failed; it has not failed itself.
	Inherited bool
}

// A FailureReader is a sink that wants to know which cells have failed.
type FailureReader interface{ ReadsFailures() }

// FirstOut returns the first of the rows [row, to) that is left out, or to if none is.
func (r *Rows) FirstOut(row, to int) int {
	if r.Out == nil {
		return to
	}
	for row < to && r.Out[row] {
		row++
	}
	return row
}

// Values are the cells of one column of a block. A cell that is right already stays
// where it is in the block's text; the others are written to a text of their own. An
// empty cell is blank.
type Values struct {
	Text  []byte // of the cells that were made
	Block *Block // with the text of the others
	Spans []Span // one a row; those with the flag Made stand in Text
	// Plain says that no text format needs to look at the cells' characters: they
	// are digits, letters, signs and colons only.
	Plain bool
}

// Made is the flag of a span that stands in the values' own text.
const Made = Missing

// Reset empties the values for the next block.
func (v *Values) Reset(b *Block) {
	Poison(v.Text)
	Poison(v.Spans)
	v.Text, v.Spans, v.Block = v.Text[:0], v.Spans[:0], b
}

// AddBlank adds a blank cell.
func (v *Values) AddBlank() { v.Spans = append(v.Spans, Span{}) }

// AddSame adds a cell of the block as it is. It must not be escaped.
func (v *Values) AddSame(s Span) { v.Spans = append(v.Spans, s.Bare()) }

// AddMade adds the cell that stands in Text from start to its end.
func (v *Values) AddMade(start int) {
	v.Spans = append(v.Spans, Span{uint32(start), uint32(len(v.Text)-start) | Made})
}

// AddText adds a cell with a text of its own, blank where there is none.
func (v *Values) AddText(text []byte) {
	if len(text) == 0 {
		v.AddBlank()
		return
	}
	start := len(v.Text)
	v.Text = append(v.Text, text...)
	v.AddMade(start)
}

// At returns the text of a row's cell.
func (v *Values) At(row int) []byte {
	s := v.Spans[row]
	if s.N&Made != 0 {
		return v.Text[s.Start : int(s.Start)+s.Len()]
	}
	if s.N == 0 {
		return nil
	}
	return v.Block.Text[s.Start : int(s.Start)+s.Len()]
}
