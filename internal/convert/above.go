package convert

import (
	"junvo/internal/reading"
	"junvo/internal/reason"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Cells that are filled from above may need a cell of an earlier block. So each block
// hands the last cell that is not blank on to the next, before it is converted: that
// takes a look at a few cells only, and the blocks are converted side by side all the same.

// above says, for a column that is filled from above, whose cell each row of a block takes.
type above struct {
	from    []int // the row, its own where the cell is not blank; -1 for the one carried in
	carried carried
	takes   bool // whether a row takes the one carried in
}

// carried is the last cell of a column that is not blank.
type carried struct {
	text string // empty for none
	kind value.Stored
	row  int64
}

// lookAbove finds the cells that fill the blank ones of a block. Rows that have been set
// aside as no data neither give nor take.
func (w *worker) lookAbove(b *table.Block) {
	var columns []*column
	for _, c := range w.columns {
		if c.above != nil {
			columns = append(columns, c)
		}
	}
	if len(columns) == 0 {
		return
	}
	last := make([]int, len(columns))
	takes, opens := false, false // whether this block, or the next, needs what is carried in
	for i, c := range columns {
		last[i] = c.lookAbove()
		takes = takes || c.above.takes
		opens = opens || last[i] < 0
	}
	in := make([]carried, len(columns)) // no text where nothing is carried
	if opens {
		copy(in, w.cells.take(b.Seq-1))
	}
	out := make([]carried, len(columns))
	for i, c := range columns {
		if out[i] = in[i]; last[i] >= 0 {
			text, kind := c.cellOf(last[i])
			out[i] = carried{string(text), kind, c.number(last[i])}
		}
	}
	w.cells.hand(b.Seq, out)
	if takes && !opens {
		copy(in, w.cells.take(b.Seq-1))
	}
	for i, c := range columns {
		c.above.carried = in[i]
	}
}

// lookAbove finds whose cell each row of a block takes, and returns the last row whose
// cell is not blank, or -1.
func (c *column) lookAbove() int {
	a, out, last := c.above, c.res.rows.Out, -1
	a.from, a.takes = a.from[:0], false
	for row := range c.b.Rows {
		a.from = append(a.from, row)
		if out != nil && !out[row] {
			continue
		}
		if !c.isBlank(c.cellOf(row)) {
			last = row
			continue
		}
		a.from[row] = last
		a.takes = a.takes || last < 0
	}
	return last
}

// cellOf returns the column's cell of a row of the block.
func (c *column) cellOf(row int) ([]byte, value.Stored) {
	b, at := c.b, row*c.b.Width+c.from
	if b.Kinds == nil {
		return b.At(b.Spans[at]), value.StoredText
	}
	return b.At(b.Spans[at]), b.Kinds[at]
}

// isBlank reports whether a cell is blank, or its steps leave nothing of it.
func (c *column) isBlank(cell []byte, kind value.Stored) bool {
	if len(cell) == 0 {
		return true
	}
	if c.judge(cell, kind); c.judged.reading == reading.AsBlank {
		return true
	}
	text, _, why := c.plan.Steps.Apply(string(cell))
	return why == reason.None && text == ""
}

// fillAbove gives a blank cell the value of the cell above, unless that has none.
func (c *column) fillAbove() outcome {
	cell, _ := c.cellOf(c.row)
	own := string(cell) // the cell above may be read into the same memory
	cell, kind := []byte(c.above.carried.text), c.above.carried.kind
	from := c.above.from[c.row]
	if from >= 0 {
		cell, kind = c.cellOf(from)
	}
	start := len(c.out.Text)
	if len(cell) > 0 && c.appendAbove(string(cell), kind, from) {
		c.out.AddMade(start)
		c.touch(c.fillStep)
		return converted
	}
	return c.blank([]byte(own))
}

// rowAbove returns the number in the source of a row that fills others: one of the block, or for -1 that
// of a block before.
func (c *column) rowAbove(from int) int64 {
	if from < 0 {
		return c.above.carried.row
	}
	return c.number(from)
}

// appendAbove appends the value that a cell of a row above has, or that a person has given it.
func (c *column) appendAbove(cell string, kind value.Stored, from int) bool {
	text, changed, why := c.plan.Steps.Apply(cell)
	if changed != 0 {
		kind = value.StoredText
	}
	if why == reason.None && c.appendValue(text, kind) {
		return true
	}
	if c.fix == nil {
		return false
	}
	start := len(c.out.Text)
	answer := c.fix([]byte(cell), Place{c.rowAbove(from), c.turnedFrom(from), c.file()})
	return answer != nil && c.appendAnswer(answer.Fix) == "" && len(c.out.Text) > start
}
