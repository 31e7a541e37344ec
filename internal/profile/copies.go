package profile

import (
	"bytes"

	"junvo/internal/table"
)

// copies finds the columns that hold the same in every row: a partition of the columns, in one
// class until a row tells them apart. In most tables a few rows leave no two columns together, so
// that looking at all rows costs nothing; where columns are copies, their cells are compared.
type copies struct {
	of   []int32 // the first column of its class for each column; nil before the first row
	rows int64
	left []int32 // the columns that are not the first of their class
}

// add compares the cells of the rows in [from, to).
func (c *copies) add(b *table.Block, from, to int) {
	if from < to && c.of == nil {
		c.begin(b.Width)
	}
	c.rows += int64(to - from)
	for row := from; row < to && len(c.left) > 0; row++ {
		for _, at := range c.left {
			if !sameCell(b, row, int(c.of[at]), int(at)) {
				c.part(b, row)
				break
			}
		}
	}
}

// begin puts all columns into one class.
func (c *copies) begin(width int) {
	c.of = make([]int32, width)
	c.leave()
}

// part tells the columns of a class apart by what they hold in a row.
func (c *copies) part(b *table.Block, row int) {
	type held struct {
		class int32
		kind  uint8
		text  string
	}
	first := map[held]int32{}
	for i, class := range c.of {
		h := held{class: class, text: string(b.Cell(row, i))}
		if b.Kinds != nil {
			h.kind = uint8(b.Kinds[row*b.Width+i])
		}
		if _, known := first[h]; !known {
			first[h] = int32(i)
		}
		c.of[i] = first[h]
	}
	c.leave()
}

// leave lists the columns that are not the first of their class.
func (c *copies) leave() {
	c.left = c.left[:0]
	for i, class := range c.of {
		if class != int32(i) {
			c.left = append(c.left, int32(i))
		}
	}
}

// sameCell reports whether two cells of a row are the same text, stored as the same kind.
func sameCell(b *table.Block, row, i, j int) bool {
	at := row * b.Width
	if b.Kinds != nil && b.Kinds[at+i] != b.Kinds[at+j] {
		return false
	}
	s, t := b.Spans[at+i], b.Spans[at+j]
	if (s.N|t.N)&table.Escaped != 0 {
		return string(b.At(s)) == string(b.At(t))
	}
	return bytes.Equal(b.Text[s.Start:int(s.Start)+s.Len()], b.Text[t.Start:int(t.Start)+t.Len()])
}

// merge adds what other rows of the same columns have shown: columns stay together that both have
// together.
func (c *copies) merge(o *copies) {
	switch {
	case o.of == nil:
		return
	case c.of == nil:
		*c = *o
		return
	}
	c.rows += o.rows
	first := map[[2]int32]int32{}
	for i := range c.of {
		pair := [2]int32{c.of[i], o.of[i]}
		if _, known := first[pair]; !known {
			first[pair] = int32(i)
		}
		c.of[i] = first[pair]
	}
	c.leave()
}

// copyOf returns the first column that holds the same as a column in all rows, and whether there
// is one before it.
func (c *copies) copyOf(column int) (int, bool) {
	if c.of == nil || c.rows < minCompared || c.of[column] == int32(column) {
		return 0, false
	}
	return int(c.of[column]), true
}

// minCompared is how many rows must be compared until columns count as equal.
const minCompared = 3
