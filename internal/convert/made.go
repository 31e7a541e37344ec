package convert

import (
	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// made makes the cell of a column that is made of others, whose cells of the row are
// there already.
func (c *column) made(row int, res *result, v *table.Values) outcome {
	text, why := c.join(row, res)
	if why != reading.NoReason {
		return c.fail(text, why, "", row, res, v)
	}
	if len(text) == 0 {
		return c.blank(nil, row, res, v)
	}
	joined := string(text)
	out, changed, why := c.plan.Steps.Apply(joined)
	c.countSteps(changed)
	switch {
	case why != reading.NoReason:
		return c.fail([]byte(joined), why, "", row, res, v)
	case out == "":
		return c.blank([]byte(joined), row, res, v)
	}
	return c.value([]byte(joined), []byte(out), table.Span{}, value.StoredText, row, res, v)
}

// join joins the values of a row. A cell that has failed is blank.
func (c *column) join(row int, res *result) ([]byte, reading.Reason) {
	j := c.plan.Join
	c.text = c.text[:0]
	parts, filled := 0, false
	why := reading.NoReason
	for _, from := range j.From {
		part := res.rows.Cells[from].At(row)
		if len(part) == 0 && j.Blanks == plan.FailBlanks {
			why = reading.BlankNotAllowed
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
	if !filled && why == reading.NoReason {
		return nil, reading.NoReason
	}
	return c.text, why
}
