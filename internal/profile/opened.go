package profile

import (
	"cmp"
	"sort"

	"junvo/internal/reading"
)

// Details returns what was collected of a column that was opened, nil of another.
func (p *Profile) Details(c *ColumnProfile) *Details {
	d := c.Column.detail
	if d == nil {
		return nil
	}
	out := &Details{Shortest: d.shortest, Longest: d.longest, ManyTexts: d.manyTexts, ManyShapes: d.coarse}
	for t, n := range d.texts {
		out.Frequent = append(out.Frequent, Frequent{t, *n})
	}
	sort.Slice(out.Frequent, func(i, j int) bool {
		a, b := &out.Frequent[i], &out.Frequent[j]
		return cmp.Or(cmp.Compare(b.Cells, a.Cells), cmp.Compare(a.Text, b.Text)) < 0
	})
	out.Frequent = out.Frequent[:min(len(out.Frequent), maxFrequent)]
	for shape, n := range d.shapes {
		out.Shapes = append(out.Shapes, ShapeCount{shape, n.cells, p.Where(n.first.Place), n.first.Text})
	}
	sort.Slice(out.Shapes, func(i, j int) bool {
		a, b := &out.Shapes[i], &out.Shapes[j]
		return cmp.Or(cmp.Compare(b.Cells, a.Cells), cmp.Compare(a.Shape, b.Shape)) < 0
	})
	out.AllShapes = len(out.Shapes) <= maxListed && !d.coarse
	out.Shapes = out.Shapes[:min(len(out.Shapes), maxListed)]
	out.Readings = p.readings(c)
	c.distribution(out)
	return out
}

// readings lists the readings of a column with the first rows of each.
func (p *Profile) readings(c *ColumnProfile) (list []Readings) {
	var samples [reading.NumReadings][]Sample
	for i := range c.Column.Tallies {
		t := &c.Column.Tallies[i]
		r, _ := c.Conclusion.Convention.Judge(t.Set, t.Form)
		samples[r] = mergeSamples(samples[r], t.First)
	}
	for r, n := range c.Conclusion.Reads {
		if n > 0 {
			list = append(list, Readings{reading.Reading(r), n, p.rowsOf(samples[r])})
		}
	}
	return list
}
