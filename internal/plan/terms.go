package plan

import (
	"slices"
	"strings"

	"junvo/internal/value"
)

// termTypes are the types for which a term of a convention has a meaning.
var termTypes = map[string][]value.Type{
	"decimal-mark": {value.Integer, value.Decimal}, "group-marks": {value.Integer, value.Decimal},
	"unit":    {value.Integer, value.Decimal},
	"factors": {value.Integer, value.Decimal}, "currency": {value.Integer, value.Decimal},
	"sign": {value.Integer, value.Decimal}, "zeros": {value.Integer, value.Decimal}, "marks": {value.Integer, value.Decimal},
	"date-order": {value.Date, value.Timestamp}, "months": {value.Date, value.Timestamp},
	"time-words": {value.Date, value.Timestamp, value.Time}, "half-days": {value.Timestamp, value.Time},
	"days-as-digits": {value.Date, value.Timestamp},
	"zone":           {value.Timestamp}, "offsets": {value.Timestamp}, "words": {value.Boolean},
}

// oneOfTerms are terms of which a column has one at most.
var oneOfTerms = []string{"unit", "currency", "sign"}

// terms finds terms that have no meaning for a column, or contradict each other.
func (l *loader) terms(c *Column, n *node) {
	var carried []string
	for i, k := range n.keys {
		types, isTerm := termTypes[k.text]
		switch {
		case !isTerm:
		case c.Compute != nil && len(c.Steps) == 0:
			l.fail(k, "%s says how text is read, and a computed column has none", k.text)
		case !slices.Contains(types, c.Convention.Type):
			names := make([]string, len(types))
			for i, t := range types {
				names[i] = t.String()
			}
			l.fail(k, "%s goes with %s, and the column is %s", k.text, strings.Join(names, " and "), c.Convention.Type)
		case slices.Contains(oneOfTerms, k.text):
			if carried = append(carried, k.text); len(carried) == 2 {
				l.fail(k, "%s and %s exclude each other", carried[0], carried[1])
			}
		}
		if k.text == "on-failure" && c.Compute != nil && c.OnFailure == FailKeep {
			l.fail(n.items[i], "a computed column has no text to keep: say blank, set-aside-row or stop")
		}
	}
}
