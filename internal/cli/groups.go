package cli

import (
	"fmt"
	"strconv"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/show"
)

// groups collects failures, equal ones once.
type groups struct {
	of    map[groupKey]*group
	order []*group
}

type groupKey struct{ column, value, reason string }

type group struct {
	convert.Failure
	count int64
	rows  []string
}

var groupHeader = []string{"column", "value", "wanted", "reason", "detail", "hint", "count", "rows", "fix"}

// maxGroups is how many groups there may be: they are kept until the end.
const maxGroups = 200_000

// maxGroupRows is how many rows of a group are named.
const maxGroupRows = 10

func newGroups() *groups { return &groups{of: map[groupKey]*group{}} }

func (g *groups) add(f convert.Failure) error {
	key := groupKey{f.Column, f.Value, f.Reason.String()}
	one := g.of[key]
	if one == nil {
		if len(g.order) == maxGroups {
			return fmt.Errorf("there are more than %d different failures, the last one in row %d: list them without "+
				"--group-failures", maxGroups, f.Row)
		}
		one = &group{Failure: f}
		g.of[key] = one
		g.order = append(g.order, one)
	}
	if one.count++; len(one.rows) < maxGroupRows {
		one.rows = append(one.rows, strconv.FormatInt(f.Row, 10))
	}
	return nil
}

// records returns the groups in the order of their first rows.
func (g *groups) records() (records [][]string) {
	for _, one := range g.order {
		rows := strings.Join(one.rows, " ")
		if one.count > int64(len(one.rows)) {
			rows += " …"
		}
		records = append(records, []string{
			show.Guarded(one.Column), show.Guarded(one.Value), one.Wanted.String(), one.Reason.String(),
			show.Guarded(one.Detail),
			one.Reason.Entry().Hint, strconv.FormatInt(one.count, 10), rows, "",
		})
	}
	return records
}
