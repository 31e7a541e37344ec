package reading

import (
	"maps"
	"slices"

	"junvo/internal/value"
)

// multiplied reports whether the words after the column's numbers multiply them, and takes what they multiply by, if
// that is the same everywhere.
func (d *decider) multiplied(byName map[string]int64, carrying, all int64) bool {
	var cells int64
	var words []Factor
	for _, name := range slices.Sorted(maps.Keys(byName)) {
		if by := multiplying[name]; by != "" {
			n, _ := value.ParseNumber(by)
			words = append(words, Factor{name, n, affixForm(name)})
			cells += byName[name]
		}
	}
	if cells == 0 || cells < carrying || 2*cells < all {
		return false
	}
	d.c.Convention.Factors = words
	for _, f := range words {
		d.evidence(byName[f.Word], 0, "%s multiplies by %s", f.Word, f.By)
	}
	return true
}

// sides returns the words for the sides of an account that stand behind the column's numbers, nil where there are none
// or others. One letter is such a word only where both are there.
func (d *decider) sides() (words []string) {
	var carrying, all int64
	for _, k := range d.counts {
		switch {
		case !k.Set.Any(numbers) || k.Set.Any(Typed):
		case !k.Set.Any(affixes):
			all += k.Cells
		case !k.Set.Any(UnitWord) || sides[k.Affix] == "":
			return nil
		default:
			carrying += k.Cells
			all += k.Cells
			if !slices.Contains(words, k.Affix) {
				words = append(words, k.Affix)
			}
		}
	}
	slices.Sort(words)
	switch {
	case len(words) == 0 || len(words) > 2 || 4*carrying < all:
		return nil
	case len(words) == 2 && sides[words[0]] != words[1], len(words) == 1 && len(words[0]) == 1:
		return nil
	}
	return words
}
