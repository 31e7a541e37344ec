package rowkind

import (
	"bytes"

	"junvo/internal/table"
)

// Odd calls each for every row of a block that is no data, with what it is.
func Odd(b *table.Block, rows *Reader, each func(row int, k Kind)) {
	extra := b.Extra
	for r := 0; ; r++ {
		until := b.Rows
		if len(extra) > 0 {
			until = extra[0].Row
		}
		if r = usual(b, rows, r, until); r == b.Rows {
			return
		}
		k := rows.Kind(func(c int) []byte { return b.Cell(r, c) }, b.Last && r == b.Rows-1)
		if r == until {
			if filled(b, extra[0].Spans) {
				k = Long
			}
			extra = extra[1:]
		}
		if k != Data {
			each(r, k)
		}
	}
}

// usual passes rows that need no closer look, from one on and up to another, and returns the
// first that does.
func usual(b *table.Block, rows *Reader, from, to int) int {
	half := b.Width/2 + 1 // where most cells of a row are empty, one of these is
	for ; from < to; from++ {
		if b.Last && from == b.Rows-1 {
			break // the last row may be a total without a word
		}
		at := from * b.Width
		cells := b.Spans[at : at+half]
		first := b.Text[cells[0].Start : int(cells[0].Start)+cells[0].Len()]
		if (table.AnyEmpty(cells) || !rows.Usual(first)) && rows.Suspect(first, table.CountEmpty(b.Row(from))) {
			break
		}
	}
	return from
}

// filled reports whether any of the cells has more than spaces in it.
func filled(b *table.Block, spans []table.Span) bool {
	for _, s := range spans {
		if len(bytes.TrimSpace(b.At(s))) > 0 {
			return true
		}
	}
	return false
}
