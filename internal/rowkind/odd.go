package rowkind

import (
	"bytes"
	"slices"

	"junvo/internal/reading"
	"junvo/internal/table"
)

// Odd calls each for every row of a block that is no data, with what it is. A total without a word above a gap is one
// only if its section begins in the block: a block says nothing of those before it.
func Odd(b *table.Block, rows *Reader, each func(row int, k Kind)) {
	if b.From != nil {
		for _, o := range b.Odd {
			each(o.Row, Kind(o.Kind))
		}
		return
	}
	extra, comments := b.Extra, b.Odd
	called, section := -1, 0 // the last row that was called, and the first of the section
	call := func(row int, k Kind) {
		// What stands right above a gap or a heading may add up the rows above it, without a word.
		if above := row - 1; endsSection(k) && above > called && !overflows(b, above) {
			if rows.Kind(func(c int) []byte { return b.Cell(above, c) }, true) == BareTotal && rows.Adds(b, section, above) {
				each(above, BareTotal)
			}
		}
		if called = row; k != Rule {
			section = row + 1
		}
		each(row, k)
	}
	for r := 0; ; r++ {
		if len(comments) > 0 && r == comments[0].Row {
			call(r, Footer)
			comments = comments[1:]
			for len(extra) > 0 && extra[0].Row == r {
				extra = extra[1:]
			}
			continue
		}
		until := b.Rows
		if len(extra) > 0 {
			until = extra[0].Row
		}
		stop := until
		if len(comments) > 0 {
			stop = min(stop, comments[0].Row)
		}
		if r = usual(b, rows, r, stop); r == b.Rows {
			return
		}
		if len(comments) > 0 && r == comments[0].Row {
			r--
			continue
		}
		k := rows.Kind(func(c int) []byte { return b.Cell(r, c) }, b.Last && r == b.Rows-1)
		if r == until {
			if filled(b, extra[0].Spans) {
				k = Long
			}
			extra = extra[1:]
		}
		if k != Data {
			call(r, k)
		}
	}
}

// endsSection reports whether rows of a kind end a section of the table.
func endsSection(k Kind) bool {
	return k == Blank || k == SectionHeading || k == RepeatedHeading || k == Rule
}

// overflows reports whether a row has more cells than the table has columns.
func overflows(b *table.Block, row int) bool {
	_, found := slices.BinarySearchFunc(b.Extra, row, func(e table.Extra, row int) int { return e.Row - row })
	return found
}

// usual passes rows that are data beyond doubt, of the rows [from, to), and returns the first that is not.
func usual(b *table.Block, rows *Reader, from, to int) int {
	for ; from < to && !reading.LongWay; from++ {
		if b.Last && from == b.Rows-1 {
			break // the last row may be a total without a word
		}
		if !rows.plain(b, b.Row(from)) {
			break
		}
	}
	return from
}

// plain reports whether a row is data beyond doubt, from the first bytes of its cells: nearly all rows are, and to read
// their cells would cost more than all else that is done with them. It is false for every row, other
// than the last, that Kind does not call data.
func (r *Reader) plain(b *table.Block, row []table.Span) bool {
	unclear := false                        // whether a cell may be blank that is not empty
	var first []byte                        // of the cells that are filled
	row = row[:min(len(row), len(r.names))] // what is made of them says nothing of the row
	for c, s := range row {
		text := b.Text[s.Start : int(s.Start)+s.Len()]
		switch {
		case r.mayBeBlank(text):
			if unclear = unclear || len(text) > 0; unclear && first == nil {
				return false // it may say something of the row
			}
			continue
		case first != nil:
			return true // two cells are filled, and the first says nothing of the row
		case r.special(c, text):
			return false
		}
		first = text
	}
	return first != nil && !unclear && (len(row) == 1 || len(row) == 2 && !mayFoot(first))
}

// mayFoot reports whether text that begins with a character that is seen may be a footer.
func mayFoot(text []byte) bool {
	counts := text[0] == '(' || text[0] == '.' || text[0] == ',' || text[0] == '\'' || text[0] >= '0' && text[0] <= '9'
	for _, c := range text {
		switch {
		case c == ' ':
			return counts // 60 rows
		case c == ':' || c < ' ' || c >= 0x7f:
			return true // Source: …
		}
	}
	return false
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
