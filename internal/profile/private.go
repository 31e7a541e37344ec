package profile

import (
	"fmt"

	"junvo/internal/character"
	"junvo/internal/reading"
)

// Values of a private column are not shown, saved or compared with: only shapes and
// counts are.

// hide forgets the values of a column.
func (c *Column) hide() {
	c.finish()
	c.private = true
	unit := c.mainUnit()
	for i := range c.Tallies {
		t := &c.Tallies[i]
		for k := range t.First {
			t.First[k].Text = character.Shape(t.First[k].Text)
		}
		for m, n := range t.Numbers {
			if n != nil {
				t.Numbers[m] = &numberStats{}
			}
			t.sketches[m] = nil
		}
		t.Days = [len(t.Days)]dayStats{}
		if t.Set.Any(reading.UnitWord) && t.Affix != unit {
			t.Affix = fmt.Sprintf("unit-%08x", t.Form)
			t.Form = reading.AffixForm(t.Affix)
		}
	}
	if d := c.detail; d != nil {
		d.texts, d.manyTexts = nil, true
		for _, s := range d.shapes {
			s.first.Text = ""
		}
	}
}

// mainUnit returns the word that most numbers with some word after them carry. It is a
// unit, which the column is converted by; another word may be part of what is not to be shown.
func (c *Column) mainUnit() (unit string) {
	cells := map[string]int64{}
	var all int64
	for i := range c.Tallies {
		if t := &c.Tallies[i]; t.Set.Any(reading.UnitWord) {
			cells[t.Affix] += t.Cells
			all += t.Cells
		}
	}
	for word, n := range cells {
		if n > minUnit && 2*n > all {
			unit = word
		}
	}
	return unit
}

// minUnit is how many cells a word must be after at least to be shown as a unit.
const minUnit = 3
