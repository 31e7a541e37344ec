package convert

import (
	"bytes"
	"slices"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// fail notes a failure, unless a person has answered it.
func (c *column) fail(cell []byte, why reading.Reason, detail string, row int, res *result, v *table.Values) outcome {
	start := len(v.Text)
	if c.fix != nil {
		if answer, ok := c.fix(cell, c.before+int64(row)+1); ok {
			if c.appendValue(answer, value.StoredText, v) {
				v.AddMade(start)
				return fixed
			}
			detail = "the fix " + answer + " is no value of the column"
		}
	}
	shown := string(cell)
	if c.hidden {
		shown, detail = reading.Shape(shown), ""
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

// sortFailures brings the failures of a block into the order of rows, then columns.
func sortFailures(f []Failure) {
	slices.SortStableFunc(f, func(a, b Failure) int { return int(a.Row - b.Row) })
}
