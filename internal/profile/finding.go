package profile

import (
	"slices"

	"junvo/internal/finding"
)

// Finding is something worth knowing about a column or the file.
type Finding struct {
	Kind  finding.Kind `json:"name"`
	Count int64        `json:"count"`
	Rows  []int64      `json:"rows"`
	Say   string       `json:"say"`

	tallies map[tallyKey]bool // that the finding of a column was drawn from; nil where rows can't be told by them
}

// sortFindings brings the more important findings to the front.
func sortFindings(f []Finding) {
	slices.SortStableFunc(f, func(a, b Finding) int { return int(a.Kind) - int(b.Kind) })
}
