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
		spans := b.Spans[r*b.Width : (r+1)*b.Width]
		// A row with more empty cells than others has one among the first half.
		empty := 0
		if table.AnyEmpty(spans[:b.Width/2+1]) {
			empty = table.CountEmpty(spans)
		}
		k := reading.Data
		if rows.Suspect(b.Text[spans[0].Start:int(spans[0].Start)+spans[0].Len()], empty) {
			k = rows.Kind(func(c int) []byte { return b.At(spans[c]) })
		}
		if len(extra) > 0 && extra[0].Row == r {
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

// filled reports whether any of the cells has more than spaces in it.
func filled(b *table.Block, spans []table.Span) bool {
	for _, s := range spans {
		if len(bytes.TrimSpace(b.At(s))) > 0 {
			return true
		}
	}
	return false
}
