package convert

import (
	"errors"
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
func (c *column) made() outcome {
	switch {
	case c.plan.Compute != nil:
		return c.compute()
	case c.plan.Heading:
		return c.stepped(c.headed.above(c.row))
	}
	joined, why := c.join()
	if why != reason.None {
		return c.fail([]byte(joined), why, "")
	}
	return c.stepped(joined)
}

// stepped takes the text of a made cell through the column's steps, and reads what they leave.
func (c *column) stepped(joined string) outcome {
	text, why := joined, reason.None
	if joined != "" {
		text, c.touched, why = c.plan.Steps.Apply(joined)
	}
	switch {
	case why != reason.None:
		return c.fail([]byte(joined), why, c.stepDetail([]byte(joined)))
	case text == "" && joined != "":
		return c.empty([]byte(joined))
	case text == "":
		return c.blank(nil)
	}
	c.text = append(c.text[:0], text...)
	return c.value(c.judgeMade(c.text, value.StoredText), []byte(joined), c.text, table.Span{})
}

// compute computes the cell.
func (c *column) compute() outcome {
	e := c.plan.Compute
	out, err := e.Eval(&c.asked)
	if err != nil {
		_, detail, _ := strings.Cut(err.Error(), ": ")
		return c.fail([]byte(c.inputs(e, c.raw)), reason.NotComputed, detail)
	}
	if out == "" {
		return c.blank(nil)
	}
	if len(c.plan.Steps) > 0 && len(out) <= step.MaxText && utf8.ValidString(out) {
		return c.stepped(out)
	}
	why, detail := c.refused([]byte(out))
	switch {
	case len(out) > step.MaxText:
		why, detail = reason.TooLong, ""
	case c.conv.Type == value.Integer && strings.Contains(out, "."):
		why, detail = reason.NotWhole, out
	case !utf8.ValidString(out): // of a cell as it came
		why, detail = reason.BytesBroken, ""
	}
	if why != reason.None {
		return c.fail([]byte(c.inputs(e, c.raw)), why, detail)
	}
	start := len(c.out.Text)
	c.out.Text = append(c.out.Text, out...)
	c.out.AddMade(start)
	return converted
}

// rowOf is the row where a column is, as an expression asks for it.
type rowOf struct {
	*here
	e   *plan.Expression
	raw []int // where the cells that it uses as they came stand in the source
}

// Cell returns a value of the row, which is there already.
func (r *rowOf) Cell(i int) string { return string(r.res.cells[r.e.From[i]].At(r.row)) }

// Failed reports whether a cell of the output has failed.
func (r *rowOf) Failed(i int) bool { return r.res.failedAt[cellAt{r.row, r.e.From[i]}] }

// Raw returns a cell of the source.
func (r *rowOf) Raw(i int) string { return string(r.b.Cell(r.row, r.raw[i])) }

// Stored names how the source stores it.
func (r *rowOf) Stored(i int) string {
	if r.b.Kinds == nil {
		return value.StoredText.String()
	}
	return r.b.Kinds[r.row*r.b.Width+r.raw[i]].String()
}

// Number returns the number of the row in the source.
func (r *rowOf) Number() int64 { return r.number(r.row) }

// Earlier returns what its expression asks of the rows before.
func (r *rowOf) Earlier(i int) (text, why string) { return r.res.earlier[r.e.Earlier[i]].at(r.row) }

// number returns the number in the source of a row of the block.
func (h *here) number(row int) int64 { return h.before.file + h.b.RowOf(row) + 1 }

// place returns where a row of the block stands in the table, from 1: several may be made of one row of the source.
func (h *here) place(row int) int64 { return h.before.table + int64(row) + 1 }

// meets reports whether a condition is true of the row. One without a value is not; the error says why it can't be
// worked out.
func (h *here) meets(e *plan.Expression, p *plan.Bound) (bool, error) {
	return h.holds(e, p.Raw(e))
}

// holds reports whether an expression is true of the row; raw is where the cells stand in the source that it uses as
// they came.
func (h *here) holds(e *plan.Expression, raw []int) (bool, error) {
	out, err := e.Eval(&rowOf{h, e, raw})
	return out == "true", err
}

// fate returns what the plan's conditions make of the row: data, a row left out, or one for which they can't be worked
// out; and the condition that does it, with the reason.
func (h *here) fate(p *plan.Bound) (kind rowkind.Kind, condition string, why error) {
	for _, c := range []struct {
		name string
		of   *plan.Expression
		want bool
	}{{"keep", p.Keep, true}, {"drop", p.Drop, false}} {
		if c.of == nil {
			continue
		}
		switch is, err := h.meets(c.of, p); {
		case err != nil:
			return rowkind.Unclear, c.name + ": " + c.of.Text, err
		case is != c.want:
			return rowkind.LeftOut, c.name + ": " + c.of.Text, nil
		}
	}
	return rowkind.Data, "", nil
}

// inputs lists what an expression was given, for the report of its failure.
func (h *here) inputs(e *plan.Expression, raw []int) string {
	var parts []string
	for i, name := range e.Uses {
		if e.UsesValue(i) {
			parts = append(parts, name+" "+string(h.res.cells[e.From[i]].At(h.row)))
		}
	}
	for i, asked := range e.Expression.Earlier {
		text, why := h.res.earlier[e.Earlier[i]].at(h.row)
		if why != "" {
			text = "is not known"
		}
		parts = append(parts, asked.Function()+"("+e.Uses[asked.Use]+") "+text)
	}
	for i, name := range e.Raw {
		parts = append(parts, name+" "+string(h.b.Cell(h.row, raw[i])))
	}
	return strings.Join(parts, ", ")
}

// leaveOut sets the rows aside that the plan's conditions leave out, and reports whether
// there are any. Failures of the cells that decide that are kept, since they may be why the row is left out.
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
		at := here{b: b, res: res, row: row, before: w.before}
		if kind, condition, why := at.fate(p); kind != rowkind.Data {
			w.setAside(b, res, row, kind)
			left[int64(row)] = true
			if why != nil && w.hides {
				why = errHidden
			}
			if why != nil {
				a := &res.aside[len(res.aside)-1]
				a.condition, a.why = condition, why
			}
		}
	}
	for _, f := range res.failures {
		if left[f.Row] && w.decides(&f) {
			res.lost = append(res.lost, f)
		}
	}
	return len(left) > 0
}

// decides reports whether a failure may be why a row is left out: it is of a column that decides that, or of a cell that
// can't be taken apart into one, which is a failure of another column.
func (w *worker) decides(f *Failure) bool {
	if w.decide[f.column] {
		return true
	}
	split := w.plan.Columns[f.column].Split
	if split == nil || f.Reason != reason.TooFewPieces && f.Reason != reason.TooManyPieces {
		return false
	}
	for c := range w.decide {
		if w.plan.Columns[c].Split == split {
			return true
		}
	}
	return false
}

// errHidden stands for why a condition can't be worked out that may use private values.
var errHidden = errors.New("the plan has private columns, whose values it may use")

// join joins the values of the row. A cell that has failed is blank.
func (c *column) join() (string, reason.Reason) {
	j := c.plan.Join
	c.text = c.text[:0]
	parts, filled := 0, false
	why := reason.None
	for _, from := range j.From {
		part := c.res.cells[from].At(c.row)
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
		return "", reason.None
	}
	if len(c.text) > step.MaxText && why == reason.None {
		return "", reason.TooLong // what such texts are joined to would grow without end
	}
	return string(c.text), why
}

// source returns what the cell of a row is made of: the text of the source, or for a column
// that is made of others, theirs.
func (c *column) source(row int) string {
	switch c.row = row; {
	case c.plan.Compute != nil:
		return c.inputs(c.plan.Compute, c.raw)
	case c.plan.Heading:
		return c.headed.above(row)
	case c.plan.Made():
		text, _ := c.join()
		return text
	}
	return string(c.b.Cell(row, c.from))
}
