package table

import (
	"unicode/utf8"

	"junvo/internal/value"
)

// A source that is not text fills its blocks cell by cell: AddCell for each cell of a
// row, EndRow after the last, and Filled when the block is full.

// The size of a block that is filled cell by cell: at most this many rows, or this much text.
const (
	fullRows  = 4096
	fullText  = 512 << 10
	fullCells = 256 << 10 // a table may be wide and hold next to nothing
)

// Full reports whether the block has enough rows.
func (b *Block) Full() bool {
	return b.Rows >= fullRows || len(b.Text) >= fullText || len(b.Spans) >= fullCells
}

// AddCell adds a cell in the text that its value is written with.
func (b *Block) AddCell(text string, kind value.Stored) {
	b.Spans = append(b.Spans, Span{Start: uint32(len(b.Text)), N: uint32(len(text))})
	b.Kinds = append(b.Kinds, kind)
	b.Text = append(b.Text, text...)
}

// EndRow ends a row, which stands that many lines below the block's first.
func (b *Block) EndRow(line uint32) {
	b.Lines = append(b.Lines, line)
	b.LineCount = line + 1
	b.Rows++
}

// Filled makes the block ready for use.
func (b *Block) Filled() {
	b.buffer = b.Text
	b.Pad()
	if b.Broken = !utf8.Valid(b.Text); !b.Broken {
		return
	}
	for r := range b.Rows {
		broken := false
		for _, s := range b.Row(r) {
			if cell := b.At(s); !utf8.Valid(cell) {
				broken = true
				b.Trouble.AddOdd(cell)
			}
		}
		if broken {
			b.Trouble.BadBytes.Add(r)
		}
	}
}
