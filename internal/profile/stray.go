package profile

import (
	"unicode/utf8"

	"junvo/internal/character"
)

// strayKey is a stray character and where in the cell it stands.
type strayKey struct {
	Rune  rune
	Place string // leading, inside, trailing
}

type strayCount struct {
	cells int64
	first Place
}

func (s *strayCount) merge(o *strayCount) {
	s.cells += o.cells
	if o.first.less(s.first) {
		s.first = o.first
	}
}

// strays counts the stray characters of a cell, each once for each place.
func (c *Column) strays(cell []byte, at Place) {
	eachStray(cell, func(k strayKey) {
		n := c.Strays[k]
		if n == nil {
			n = &strayCount{first: at}
			c.Strays[k] = n
		}
		n.cells++
	})
}

// moreStrays counts a cell again whose strays have been counted before.
func (c *Column) moreStrays(cell []byte, times int64) {
	eachStray(cell, func(k strayKey) { c.Strays[k].cells += times })
}

// eachStray calls found for every different stray character and place of a cell.
func eachStray(cell []byte, found func(strayKey)) {
	first, last := -1, -1 // the printing characters between which a stray is inside
	for i := 0; i < len(cell); {
		r, n := utf8.DecodeRune(cell[i:])
		if r != ' ' && !character.Stray(r) {
			if first < 0 {
				first = i
			}
			last = i
		}
		i += n
	}
	var done [8]strayKey
	seen := done[:0]
	for i := 0; i < len(cell); {
		r, n := utf8.DecodeRune(cell[i:])
		k := strayKey{r, "inside"}
		switch {
		case i < first || first < 0:
			k.Place = "leading"
		case i > last:
			k.Place = "trailing"
		}
		if (character.Stray(r) || r == ' ' && k.Place != "inside") && !contains(seen, k) {
			seen = append(seen, k)
			found(k)
		}
		i += n
	}
}

func contains(keys []strayKey, k strayKey) bool {
	for _, s := range keys {
		if s == k {
			return true
		}
	}
	return false
}
