package profile

import (
	"cmp"
	"sort"

	"golang.org/x/text/unicode/runenames"
)

// Stray is a character that keeps cells from being read.
type Stray struct {
	Rune  rune
	Name  string // of the Unicode Character Database
	Place string // leading, inside or trailing
	Cells int64
	Row   int64 // the first
}

// Strays returns a column's strays, the most frequent first.
func (p *Profile) Strays(c *ColumnProfile) []Stray {
	strays := make([]Stray, 0, len(c.Column.Strays))
	for k, n := range c.Column.Strays {
		strays = append(strays, Stray{k.Rune, runenames.Name(k.Rune), k.Place, n.cells, p.Where(n.first).Row})
	}
	sort.Slice(strays, func(i, j int) bool {
		a, b := &strays[i], &strays[j]
		return cmp.Or(cmp.Compare(b.Cells, a.Cells), cmp.Compare(a.Rune, b.Rune), cmp.Compare(a.Place, b.Place)) < 0
	})
	return strays
}
