package plan

import (
	"bytes"

	"junvo/internal/reading"
	"junvo/internal/table"
)

// OddRows calls each for every row of a block that is no data, with what it is.
func OddRows(b *table.Block, rows *reading.RowReader, each func(row int, k reading.RowKind)) {
	extra := b.Extra
	for r := range b.Rows {
		long := len(extra) > 0 && extra[0].Row == r
		if !long && !suspect(b, r, rows) {
			continue
		}
		k := rows.Kind(func(c int) []byte { return b.Cell(r, c) })
		if long {
			if filled(b, extra[0].Spans) {
				k = reading.LongRow
			}
			extra = extra[1:]
		}
		if k != reading.Data {
			each(r, k)
		}
	}
}

// suspect reports whether a row needs a closer look.
func suspect(b *table.Block, r int, rows *reading.RowReader) bool {
	spans := b.Row(r)
	first := b.Text[spans[0].Start : int(spans[0].Start)+spans[0].Len()]
	// Where most cells are empty, one of the first half is.
	if !table.AnyEmpty(spans[:len(spans)/2+1]) && rows.Usual(first) {
		return false
	}
	return rows.Suspect(first, table.CountEmpty(spans))
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
