package convert

import (
	"slices"
	"strconv"

	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/step"
)

// splits remembers what a split has made of the cells of the rows at hand, so that a cell of n pieces is taken
// apart once and not n times, by each of the columns that its pieces go to. Each worker has its own.
type splits struct {
	pass  int // of the worker, so that nothing is taken for that of an earlier block
	fails int // the column that fails where the cell can't be taken apart
	rows  [tile]splitRow
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
			of[c.plan.Split] = &splits{fails: c.index}
			w.splits = append(w.splits, of[c.plan.Split])
		}
		// A cell that can't be taken apart is one failure, of the first column for which that has the gravest result.
		if s := of[c.plan.Split]; gravity[c.plan.OnFailure] > gravity[w.plan.Columns[s.fails].OnFailure] {
			s.fails = c.index
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
	e := c.splits.at(c.row)
	if e.pass != c.splits.pass || e.row != c.row {
		*e = splitRow{pass: c.splits.pass, row: c.row}
		if e.text, e.changed, e.why = before.Apply(cell); e.why == reason.None && e.text != "" {
			e.pieces, e.why = split.Pieces(e.text)
		}
	}
	if e.why != reason.None || e.text == "" { // steps never see what is blank, nor do splits
		return e.text, e.changed, e.why
	}
	return all.Continue(len(before), e.text, e.pieces[n], e.changed)
}

// gravity orders the ways to go on after a failure by what they do to the rest.
var gravity = map[plan.OnFailure]int{plan.FailBlank: 0, plan.FailKeep: 1, plan.FailAside: 2, plan.FailStop: 3}

func (s *splits) at(row int) *splitRow { return &s.rows[row%tile] }

// ofOther reports whether a cell could not be taken apart, and that is a failure of another column.
func (c *column) ofOther() bool {
	return c.splits != nil && c.splits.fails != c.index && c.splits.at(c.row).why != reason.None
}

// noPiece reports whether the cell is blank because its piece is, and another piece is not: nothing is lost of it then.
func (c *column) noPiece() bool {
	if c.splits == nil {
		return false
	}
	_, n := step.PieceOf(c.plan.Steps[len(c.plan.Split.Steps)].Step)
	pieces := c.splits.at(c.row).pieces // none where there was nothing to take apart
	return pieces != nil && pieces[n] == "" && slices.ContainsFunc(pieces, func(p string) bool { return p != "" })
}

// isPiece reports whether a text is the piece of the source that a split has given the column, and no step has changed
// it.
func (c *column) isPiece(text string) bool {
	if c.splits == nil {
		return false
	}
	_, n := step.PieceOf(c.plan.Steps[len(c.plan.Split.Steps)].Step)
	pieces := c.splits.at(c.row).pieces
	return pieces != nil && pieces[n] == text
}

// withOther leaves the cell blank that has failed with that of another column.
func (c *column) withOther() outcome {
	if c.res.failedAt != nil {
		c.res.failedAt[cellAt{c.row, c.index}] = true
	}
	c.out.AddBlank()
	return blank
}

// stepDetail says which step of the column has failed, and what it saw.
func (c *column) stepDetail(cell []byte) string {
	i, saw := c.plan.Steps.Failing(string(cell))
	if i < 0 {
		return ""
	}
	say := plan.StepText(c.plan.Steps[i])
	if saw != string(cell) {
		say += " saw " + strconv.Quote(saw)
	}
	return say
}
