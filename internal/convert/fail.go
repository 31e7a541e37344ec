package convert

import (
	"bytes"
	"slices"

	"junvo/internal/character"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/table"
	"junvo/internal/value"
)

// fail notes a failure, unless a person has answered it.
func (c *column) fail(cell []byte, why reason.Reason, detail string, row int, res *result, v *table.Values) outcome {
	start := len(v.Text)
	if c.fix != nil {
		if a := c.fix(cell, c.before+int64(row)+1); a != nil {
			refused := c.appendAnswer(a.Fix, v)
			if refused == "" {
				a.used.Add(1)
				if len(v.Text) == start {
					v.AddBlank()
				} else {
					v.AddMade(start)
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
	res.failures = append(res.failures, Failure{
		column: c.index, Row: int64(row), Column: c.plan.Name, Value: shown, Wanted: c.conv.Type, Reason: why, Detail: detail,
	})
	if c.plan.OnFailure != plan.FailKeep {
		v.AddBlank()
		return failed
	}
	// Bytes that are no text can't be kept in any output.
	v.Text = append(v.Text, bytes.ToValidUTF8(cell, []byte("\ufffd"))...)
	v.AddMade(start)
	return failed
}

// appendAnswer appends the value that a person has given in place of a cell: one in canonical form,
// or written as the column's cells are, which no step changes. It appends nothing for a cell that is
// meant to be blank. It returns why the answer can't be taken, "" where it can.
func (c *column) appendAnswer(answer string, v *table.Values) string {
	if answer == BlankOnPurpose {
		if c.plan.Must.NotBlank {
			return "is not allowed: the cell must not be blank"
		}
		return ""
	}
	start := len(v.Text)
	canonical := c.conv.Canonical(answer)
	if !c.appendValue(answer, value.StoredText, v) {
		if !canonical {
			return "is no value of the column"
		}
		v.Text = append(v.Text, answer...)
		if why, _ := c.refused(v.Text[start:]); why != reason.None {
			v.Text = v.Text[:start]
			return "breaks what the plan says of values, or the output can't hold it"
		}
		return ""
	}
	if canonical && c.conv.Type.Numeric() && !value.SameNumber(string(v.Text[start:]), answer) {
		v.Text = v.Text[:start]
		return "can be read in two ways: write it without a group mark, and with a decimal point or as the column's cells are"
	}
	return ""
}

// sortFailures brings the failures of a block into the order of rows, then columns.
func sortFailures(f []Failure) {
	slices.SortStableFunc(f, func(a, b Failure) int { return int(a.Row - b.Row) })
}
