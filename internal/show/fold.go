package show

import (
	"fmt"
	"strconv"
	"strings"

	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// A table of more than maxUnfolded columns is folded: columns without findings and
// failures share a line by their type, and of the others the first maxUnfolded are shown.
const maxUnfolded = 100

// folded is the columns that share lines.
type folded struct {
	byType [value.NumTypes][]*profile.ColumnProfile
	more   int // columns that there is something to tell of, beyond those that are shown
}

// fold takes out the columns that share a line, and returns the others.
func (q *folded) fold(columns []*profile.ColumnProfile) (rest []*profile.ColumnProfile) {
	for _, c := range columns {
		done := c.Conclusion
		switch {
		case len(c.Findings) == 0 && done.Fails == 0:
			q.byType[done.Convention.Type] = append(q.byType[done.Convention.Type], c)
		case len(rest) < maxUnfolded:
			rest = append(rest, c)
		default:
			q.more++
		}
	}
	return rest
}

// rows returns a row for each type.
func (q *folded) rows(places int, page Page) (rows [][]string) {
	for t, columns := range q.byType {
		if len(columns) == 0 {
			continue
		}
		var reads [reading.NumReadings]int64
		var fits int64
		var names []string
		for _, c := range columns {
			for r, n := range c.Conclusion.Reads {
				reads[r] += n
			}
			fits += c.Conclusion.Fits
			if len(names) < maxNamedInFold {
				names = append(names, Visible(c.Name))
			}
		}
		if len(columns) > maxNamedInFold {
			names = append(names, "…")
		}
		rows = append(rows, []string{
			Plural(int64(len(columns)), "column"), "", value.Type(t).String(), strip(reads, places, page), Share(fits,
				fits), "0",
			strconv.FormatInt(reads[reading.AsBlank], 10), "", "", strings.Join(names, ", "),
		})
	}
	return rows
}

// maxNamedInFold is how many columns of a line are named.
const maxNamedInFold = 4

func (q *folded) note() string {
	more := ""
	if q.more > 0 {
		more = fmt.Sprintf("; %d more columns with findings are left out", q.more)
	}
	return "columns without findings share a line by their type" + more + ": --unfold shows each, --only and --sort " +
		"choose\n"
}
