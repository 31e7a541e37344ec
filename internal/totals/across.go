package totals

import (
	"bytes"
	"cmp"
	"fmt"
	"slices"
	"strings"

	"junvo/internal/order"
	"junvo/internal/value"
)

// Pivoted is totals of which one key stands across: each of its values is a column.
type Pivoted struct {
	Across []Key // in the order of their values; blank and what has failed come last
	Rows   []PivotedRow
}

// PivotedRow is the groups that have the same other keys.
type PivotedRow struct {
	Keys   []Key    // without the one that stands across
	Groups []*Group // for each of Across; nil where there is none
}

// Turn puts the key at a place, of that type, across. The groups come in the order of their keys.
func Turn(groups []*Group, at int, t value.Type) *Pivoted {
	turned := &Pivoted{}
	rows, columns := map[string]int{}, map[Key]bool{}
	for _, g := range groups {
		if !columns[g.Keys[at]] {
			columns[g.Keys[at]] = true
			turned.Across = append(turned.Across, g.Keys[at])
		}
	}
	sorter := order.NewKeys([]order.Key{{Type: t}})
	sortKey := func(k Key) []byte {
		switch {
		case k.Failed != "":
			return append([]byte{keyOfFailed}, k.Failed...)
		case k.Blank:
			return []byte{keyOfBlank}
		}
		return sorter.Append([]byte{keyOfText}, func(int) []byte { return []byte(k.Text) })
	}
	slices.SortFunc(turned.Across, func(a, b Key) int {
		// What the order calls equal is not.
		return cmp.Or(bytes.Compare(sortKey(a), sortKey(b)), strings.Compare(a.Text, b.Text))
	})
	place := make(map[Key]int, len(turned.Across))
	for i, k := range turned.Across {
		place[k] = i
	}
	for _, g := range groups {
		others := slices.Delete(slices.Clone(g.Keys), at, at+1)
		name := fmt.Sprintf("%#v", others)
		i, ok := rows[name]
		if !ok {
			i = len(turned.Rows)
			rows[name] = i
			turned.Rows = append(turned.Rows, PivotedRow{others, make([]*Group, len(turned.Across))})
		}
		turned.Rows[i].Groups[place[g.Keys[at]]] = g
	}
	return turned
}
