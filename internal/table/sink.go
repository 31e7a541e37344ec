package table

import "junvo/internal/value"

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

// Field is a column of the output.
type Field struct {
	Name string
	Type value.Type
}

// Rows are typed rows in canonical text: per column one buffer and the cells' ends in it.
type Rows struct {
	Fields []Field
	Count  int      // rows in the block, left out ones included
	Out    []bool   // which of them are written; nil for all
	Cells  []Values // per column
}

// Values are the cells of one column of a block.
type Values struct {
	Text []byte
	Ends []uint32 // where each cell ends in Text; a blank cell has no text
	// Plain says that no text format needs to look at the cells' characters: they
	// are digits, letters, signs and colons only.
	Plain bool
}

// Reset empties the values for the next block.
func (v *Values) Reset() { v.Text, v.Ends = v.Text[:0], v.Ends[:0] }

// Add ends the cell that has just been appended to Text.
func (v *Values) Add() { v.Ends = append(v.Ends, uint32(len(v.Text))) }

// At returns the text of a row's cell; empty means blank.
func (v *Values) At(row int) []byte {
	start := uint32(0)
	if row > 0 {
		start = v.Ends[row-1]
	}
	return v.Text[start:v.Ends[row]]
}
