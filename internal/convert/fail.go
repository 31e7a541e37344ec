package convert

import (
	"bytes"
	"slices"

	"junvo/internal/character"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/value"
)

// file returns the name of the file that the block is of.
func (c *column) file() string { return c.files[c.b.File].Name }

// turnedFrom returns the column of the file that the cell of a row of the block stands in, where columns have become
// rows; "" for the cells that stay.
func (c *column) turnedFrom(row int) string {
	if c.b.From == nil || c.plan.Made() || c.from != c.b.Width-1 || row < 0 {
		return ""
	}
	return c.b.TurnedFrom(row)
}

// fail notes a failure, unless a person has answered it.
func (c *column) fail(cell []byte, why reason.Reason, detail string) outcome {
	start := len(c.out.Text)
	if c.fix != nil {
		if a := c.fix(cell, Place{c.number(c.row), c.turnedFrom(c.row), c.file()}); a != nil {
			refused := "answers a cell that is to be taken apart: make it a step of the plan"
			if c.splits == nil || c.splits.at(c.row).why == reason.None {
				refused = c.appendAnswer(a.Fix)
			}
			if refused == "" {
				a.used.Add(1)
				if len(c.out.Text) == start {
					c.out.AddBlank()
				} else {
					c.out.AddMade(start)
				}
				return fixed
			}
			detail = "the fix " + a.Fix + " " + refused
		}
	}
	shown := string(cell)
	if c.hidden {
		shown, detail = character.Shape(shown), ""
	}
	c.res.failures = append(c.res.failures, Failure{
		column: c.index, Row: int64(c.row), Column: c.plan.Name, From: c.turnedFrom(c.row), Value: shown, Wanted: c.conv.Type, Reason: why,
		Detail: detail,
	})
	if c.res.failedAt != nil {
		c.res.failedAt[cellAt{c.row, c.index}] = true
	}
	if c.plan.OnFailure != plan.FailKeep {
		c.out.AddBlank()
		return failed
	}
	// Bytes that are not text can't be kept in any output.
	c.out.Text = append(c.out.Text, bytes.ToValidUTF8(cell, []byte("\ufffd"))...)
	c.out.AddMade(start)
	return failed
}

// appendAnswer appends the value that a person has given in place of a cell: one in canonical form,
// or written as the column's cells are, which no step changes. It appends nothing for a cell that is
// meant to be blank. It returns why the answer can't be taken, "" where it can.
func (c *column) appendAnswer(answer string) string {
	if answer == blankOnPurpose {
		if c.plan.Must.NotBlank {
			return "is not allowed: the cell must not be blank"
		}
		return ""
	}
	start := len(c.out.Text)
	canonical := c.conv.Canonical(answer)
	if !c.appendValue(answer, value.StoredText) {
		if !canonical {
			return "is no value of the column"
		}
		c.out.Text = append(c.out.Text, answer...)
		if why, _ := c.refused(c.out.Text[start:]); why != reason.None {
			c.out.Text = c.out.Text[:start]
			return "breaks what the plan says of values, or the output can't hold it"
		}
		return ""
	}
	if canonical && c.conv.Type.Numeric() && !value.SameNumber(string(c.out.Text[start:]), answer) {
		c.out.Text = c.out.Text[:start]
		return "can be read in two ways: write it without a group mark, and with a decimal point or as the column's cells are"
	}
	return ""
}

// sortFailures brings the failures of a block into the order of rows, then columns.
func sortFailures(f []Failure) {
	slices.SortStableFunc(f, func(a, b Failure) int { return int(a.Row - b.Row) })
}
