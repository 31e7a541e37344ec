package convert

import (
	"strings"
	"unicode/utf8"

	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/value"
)

// made makes the cell of a column that is made of others, whose cells of the row are
// there already.
func (c *column) made(b *table.Block, row int, res *result, v *table.Values) outcome {
	if c.plan.Compute != nil {
		return c.compute(b, row, res, v)
	}
	text, why := c.join(row, res)
	if why != reason.None {
		return c.fail(text, why, "", row, res, v)
	}
	joined := string(text)
	out, changed, why := joined, uint64(0), reason.None
	if joined != "" {
		out, changed, why = c.plan.Steps.Apply(joined)
	}
	if why != reason.None {
		c.countSteps(changed)
		return c.fail([]byte(joined), why, "", row, res, v)
	}
	var o outcome
	var filled uint64
	if out == "" {
		o, filled = c.blank([]byte(joined), row, res, v)
	} else {
		o, filled = c.value([]byte(joined), []byte(out), table.Span{}, value.StoredText, row, res, v)
	}
	c.countSteps(changed | filled)
	return o
}

// compute computes the cell.
func (c *column) compute(b *table.Block, row int, res *result, v *table.Values) outcome {
	e := c.plan.Compute
	out, err := evaluate(e, b, row, res)
	if err != nil {
		_, detail, _ := strings.Cut(err.Error(), ": ")
		return c.fail([]byte(inputs(e, b, row, res)), reason.NotComputed, detail, row, res, v)
	}
	if out == "" {
		o, _ := c.blank(nil, row, res, v) // an expression has no steps
		return o
	}
	why, detail := c.refused([]byte(out))
	if len(out) > step.MaxText {
		return c.fail([]byte(inputs(e, b, row, res)), reason.TooLong, "", row, res, v)
	}
	if !utf8.ValidString(out) { // of a cell as it came
		why, detail = reason.BytesBroken, ""
	}
	if c.conv.Type == value.Integer && strings.Contains(out, ".") {
		why, detail = reason.NotWhole, out
	}
	if why != reason.None {
		return c.fail([]byte(inputs(e, b, row, res)), why, detail, row, res, v)
	}
	start := len(v.Text)
	v.Text = append(v.Text, out...)
	v.AddMade(start)
	return converted
}

// evaluate computes an expression for a row whose cells are there already.
func evaluate(e *plan.Expression, b *table.Block, row int, res *result) (string, error) {
	return e.Eval(
		func(i int) string { return string(res.rows.Cells[e.From[i]].At(row)) },
		func(i int) string { return string(b.Cell(row, e.RawFrom[i])) },
	)
}

// inputs lists what an expression was given, for the report of its failure.
func inputs(e *plan.Expression, b *table.Block, row int, res *result) string {
	var parts []string
	for i, name := range e.Uses {
		parts = append(parts, name+" "+string(res.rows.Cells[e.From[i]].At(row)))
	}
	for i, name := range e.Raw {
		parts = append(parts, name+" "+string(b.Cell(row, e.RawFrom[i])))
	}
	return strings.Join(parts, ", ")
}

// leaveOut sets the rows aside that the plan's conditions leave out, and reports whether
// there are any. A condition without a value is not true. Failures of the cells that the
// conditions use are kept, since they may be why the row is left out.
func (w *worker) leaveOut(b *table.Block, res *result) bool {
	p := w.plan
	if p.Keep == nil && p.Drop == nil {
		return false
	}
	left := map[int64]bool{}
	for row := range b.Rows {
		if res.rows.Out != nil && !res.rows.Out[row] {
			continue
		}
		is := func(e *plan.Expression) bool {
			out, err := evaluate(e, b, row, res)
			return err == nil && out == "true"
		}
		if p.Keep != nil && !is(p.Keep) || p.Drop != nil && is(p.Drop) {
			w.setAside(b, res, row, rowkind.LeftOut)
			left[int64(row)] = true
		}
	}
	for _, f := range res.failures {
		if left[f.Row] && (p.Keep.DependsOn(f.column) || p.Drop.DependsOn(f.column)) {
			res.lost = append(res.lost, f)
		}
	}
	return len(left) > 0
}

// join joins the values of a row. A cell that has failed is blank.
func (c *column) join(row int, res *result) ([]byte, reason.Reason) {
	j := c.plan.Join
	c.text = c.text[:0]
	parts, filled := 0, false
	why := reason.None
	for _, from := range j.From {
		part := res.rows.Cells[from].At(row)
		if len(part) == 0 && j.Blanks == plan.FailBlanks {
			why = reason.BlankNotAllowed
		}
		if len(part) == 0 && j.Blanks == plan.SkipBlanks {
			continue
		}
		if parts++; parts > 1 {
			c.text = append(c.text, j.With...)
		}
		c.text = append(c.text, part...)
		filled = filled || len(part) > 0
	}
	if !filled && why == reason.None {
		return nil, reason.None
	}
	if len(c.text) > step.MaxText && why == reason.None {
		c.text, why = c.text[:0], reason.TooLong // what such texts are joined to would grow without end
	}
	return c.text, why
}

// source returns what the cell of a row is made of: the text of the source, or for a column
// that is made of others, theirs.
func (c *column) source(b *table.Block, row int, res *result) string {
	if c.plan.Compute != nil {
		return inputs(c.plan.Compute, b, row, res)
	}
	if c.plan.Made() {
		text, _ := c.join(row, res)
		return string(text)
	}
	return string(b.Cell(row, c.plan.From))
}
