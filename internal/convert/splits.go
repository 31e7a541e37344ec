package convert

import (
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/step"
)

// splits remembers what a split has made of the cells of the rows at hand, so that a cell of n pieces is taken
// apart once and not n times, by each of the columns that its pieces go to. Each worker has its own.
type splits struct {
	pass int // of the worker, so that nothing is taken for that of an earlier block
	rows [tile]splitRow
}

type splitRow struct {
	pass, row int
	text      string // what the steps before the split have made of the cell
	pieces    []string
	changed   uint64
	why       reason.Reason
}

// share gives the columns of each split one memory.
func (w *worker) share() {
	of := map[*plan.Split]*splits{}
	for _, c := range w.columns {
		if c.plan.Split == nil {
			continue
		}
		if of[c.plan.Split] == nil {
			of[c.plan.Split] = &splits{}
			w.splits = append(w.splits, of[c.plan.Split])
		}
		c.splits = of[c.plan.Split]
	}
}

// steps applies the column's steps to the text of its cell.
func (c *column) steps(cell string) (out string, changed uint64, why reason.Reason) {
	if c.splits == nil {
		return c.plan.Steps.Apply(cell)
	}
	before, all := c.plan.Split.Steps, c.plan.Steps
	split, n := step.PieceOf(all[len(before)].Step)
	e := &c.splits.rows[c.row%tile]
	if e.pass != c.splits.pass || e.row != c.row {
		*e = splitRow{pass: c.splits.pass, row: c.row}
		if e.text, e.changed, e.why = before.Apply(cell); e.why == reason.None {
			e.pieces, e.why = split.Pieces(e.text)
		}
	}
	if e.why != reason.None {
		return e.text, e.changed, e.why
	}
	return all.Continue(len(before), e.text, e.pieces[n], e.changed)
}
