package rowkind

import (
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// How many rows a total without a word adds up at least, in how many columns where it has a label, and how many digits
// the sums have together: small numbers add up by chance.
const minSummed, minSummedColumns, minSummedDigits = 3, 2, 3

// Adds reports whether the numbers of a row are what those of the rows [from, row) of a block add up to: three rows at
// least, in two columns, or in one where the row has nothing but numbers.
func (r *Reader) Adds(b *table.Block, from, row int) bool {
	if row-from < minSummed {
		return false
	}
	columns, digits, label := 0, 0, false
	for c := range r.names {
		x := r.reader.Read(b.Cell(row, c))
		switch {
		case x.Set.Blank() != value.NotBlank:
			continue
		case !x.Set.IsNumber():
			label = true
			continue
		}
		n, ok := r.addsColumn(b, c, from, row)
		if !ok {
			return false
		}
		columns++
		digits += n
	}
	return digits >= minSummedDigits && (columns >= minSummedColumns || !label)
}

// addsColumn reports whether the number of a row is the sum of a column under a decimal mark that all its numbers can
// have, and how many digits it has; sums of numbers of both signs come out by chance, and count as none.
func (r *Reader) addsColumn(b *table.Block, column, from, row int) (digits int, ok bool) {
	for _, m := range []reading.Mark{reading.Point, reading.Comma} {
		var sum value.Sum
		total, isOne := r.numberAt(b, row, column, m)
		numbers, signed := 0, total.Compare(value.Number{}) < 0
		for at := from; isOne && at < row; at++ {
			if cell := b.Cell(at, column); rule(cell) || r.reader.Read(cell).Set.Blank() != value.NotBlank {
				continue
			}
			var n value.Number
			if n, isOne = r.numberAt(b, at, column, m); isOne {
				sum.Add(n, 1)
				numbers++
				signed = signed || n.Compare(value.Number{}) < 0
			}
		}
		if !isOne || numbers < minSummed || sum.Number().Compare(total) != 0 {
			continue
		}
		if signed {
			return 0, true
		}
		for _, d := range total.String() {
			if d == '.' {
				break
			}
			digits++
		}
		return digits, true
	}
	return 0, false
}

// numberAt returns the number of a cell under a decimal mark, false where it is none.
func (r *Reader) numberAt(b *table.Block, row, column int, m reading.Mark) (value.Number, bool) {
	x := r.reader.Read(b.Cell(row, column))
	if !x.Set.Any(reading.NumPoint<<m) || x.Set.Any(reading.UnitWord) {
		return value.Number{}, false
	}
	return x.Number(m), true
}
