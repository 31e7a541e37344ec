package profile

import (
	"cmp"
	"slices"

	"junvo/internal/reading"
	"junvo/internal/value"
)

// Patterns returns how the dates or times of the column are written, in the field
// letters of UTS #35, the most frequent first.
func (c *ColumnProfile) Patterns() []string {
	conv := &c.Conclusion.Convention
	if t := conv.Type; t != value.Date && t != value.Timestamp && t != value.Time {
		return nil
	}
	cells := map[string]int64{}
	for _, k := range c.Counts {
		r, fits := conv.Judge(k.Set, k.Form)
		if fits && r != reading.AsBlank {
			if p := reading.Pattern(k.Set, k.Form, conv.SlotOf(k.Set, k.Form)); p != "" {
				cells[p] += k.Cells
			}
		}
	}
	patterns := make([]string, 0, len(cells))
	for p := range cells {
		patterns = append(patterns, p)
	}
	slices.SortFunc(patterns, func(a, b string) int {
		return cmp.Or(cmp.Compare(cells[b], cells[a]), cmp.Compare(a, b))
	})
	return patterns
}

// BlankWords returns the words that count as blank in the column, as they were
// written first.
func (c *ColumnProfile) BlankWords() []string {
	conv := &c.Conclusion.Convention
	if c.Private() {
		return conv.BlankWords
	}
	var words []string
	for i := range c.Column.Tallies {
		t := &c.Column.Tallies[i]
		r, _ := conv.Judge(t.Set, t.Form)
		if r != reading.AsBlank || len(t.First) == 0 {
			continue
		}
		if b := t.Set.Blank(); b == value.NotBlank || b == value.Word {
			words = append(words, t.First[0].Text)
		}
	}
	slices.Sort(words)
	return slices.Compact(words)
}

// AllShapes returns the shapes of a column where the options have asked for them, in order; nil where there are more
// than so many, or more than [character.MostShapes].
func (c *ColumnProfile) AllShapes(most int) []string { return c.Column.shapes.list(most) }
