package show

import (
	"fmt"
	"strconv"
	"strings"

	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// Opened returns all that there is to tell of some columns.
func Opened(p *profile.Profile, columns []*profile.ColumnProfile, f Format, page Page) string {
	all := newFacts(f, page)
	for i, c := range columns {
		if i > 0 && f == Table {
			all.b.WriteByte('\n')
		}
		all.of = Visible(c.Name)
		o := &opened{facts: all, p: p, c: c, d: p.Details(c)}
		o.everything()
	}
	return all.text()
}

func (o *opened) everything() {
	c, done := o.c, o.c.Conclusion
	o.heading(fmt.Sprintf("%s (column %d of %d): %s", Visible(c.Name), c.Position, len(o.p.Columns),
		withNote(done.Convention.Type.String(), done.Convention.Say(c.Counts))))
	if o.f == CSV {
		o.entry("type", done.Convention.Type.String())
	}
	o.entry("why", done.Why)
	for _, e := range done.Evidence {
		o.entry("evidence", fmt.Sprintf("%s (%d for, %d against)", Visible(e.Say), e.For, e.Against))
	}
	o.entry("cells", fmt.Sprintf("%d: %d fit, %d fail, %d blank", c.Column.Cells, done.Fits, done.Fails,
		done.Reads[reading.AsBlank]))
	o.entry("distinct", DistinctText(c)+DistinctNote(c))
	o.blanks()
	o.entry("lengths", fmt.Sprintf("%d to %d characters", o.d.Shortest, o.d.Longest))
	for _, pattern := range c.Patterns() {
		o.entry("pattern", pattern)
	}
	o.values()
	o.findings()
	o.readings()
	o.shapes()
	o.frequent()
	o.strays()
	o.odd()
}

// DistinctNote says what the number of different values of a column means, "" where that is nothing.
func DistinctNote(c *profile.ColumnProfile) string {
	note := ""
	_, exact := c.Distinct()
	if !exact {
		note = fmt.Sprintf(" (an estimate, at most %g %% off)", 100*profile.DistinctError)
	}
	switch {
	case c.NearKey:
		note += ", about as many as rows"
	case c.Key:
		note += ", a value of its own in every row: may be a key"
	case c.Constant:
		note += ", the same in every row"
	}
	if c.CopyOf != "" {
		note += "; holds the same as " + Visible(c.CopyOf)
	}
	return note
}

// opened adds what there is to tell of one column to a page.
type opened struct {
	*facts
	p *profile.Profile
	c *profile.ColumnProfile
	d *profile.Details
}

func (o *opened) blanks() {
	var parts []string
	for b := value.Missing; b < value.NumBlanks; b++ {
		if n := o.c.Conclusion.Blanks[b]; n > 0 {
			parts = append(parts, fmt.Sprintf("%s %d", b, n))
		}
	}
	if len(parts) > 0 {
		o.entry("blanks", strings.Join(parts, ", "))
	}
	if words := o.c.BlankWords(); len(words) > 0 {
		for i, w := range words {
			words[i] = "«" + Visible(w) + "»"
		}
		o.entry("blank words", strings.Join(words, " "))
	}
}

func (o *opened) values() {
	r := o.c.Range
	if r.Smallest == "" {
		return
	}
	o.entry("from … to", r.Smallest+" … "+r.Largest)
	if r.Sum != "" {
		o.entry("sum", r.Sum)
		o.entry("mean", o.d.Mean)
	}
	if len(o.d.Quartiles) == 3 {
		say := strings.Join(o.d.Quartiles, ", ")
		if o.d.Estimated {
			say += " (estimated, within 1 %)"
		}
		o.entry("quartiles", say)
	}
	o.histogram()
}

// barWidth is how wide the longest bar of a histogram is.
const barWidth = 40

// histogram draws the bins with blocks of eighths.
func (o *opened) histogram() {
	var most int64
	width := 0
	for _, b := range o.d.Histogram {
		most = max(most, b.Cells)
		width = max(width, len(b.From), len(b.To))
	}
	for i, b := range o.d.Histogram {
		name := ""
		if i == 0 || o.f != Table {
			name = "histogram"
		}
		eighths := int((b.Cells*barWidth*8 + most - 1) / most)
		bar := strings.Repeat("█", eighths/8)
		if rest := eighths % 8; rest > 0 {
			bar += string(rune(0x2590 - rest)) // from U+258F, one eighth, to U+2589, seven
		}
		o.entry(name, strings.TrimRight(fmt.Sprintf("%*s … %*s %6d %s", width, b.From, width, b.To, b.Cells, bar), " "))
	}
}

func (o *opened) findings() {
	for _, f := range o.c.Findings {
		o.entry(f.Kind.String(), Visible(f.Say)+RowsNamed(f))
	}
}

func (o *opened) readings() {
	g := &grid{columns: []column{{name: "reading"}, {name: "cells", right: true}, {name: "first rows", min: 20}}}
	for _, r := range o.d.Readings {
		rows := make([]string, len(r.Rows))
		for i, n := range r.Rows {
			rows[i] = strconv.FormatInt(n, 10)
		}
		g.rows = append(g.rows, []string{r.Reading.String(), strconv.FormatInt(r.Cells, 10), strings.Join(rows, " ")})
	}
	o.table("reading", "readings", g)
}

// maxShapes is how many shapes are shown.
const maxShapes = 12

func (o *opened) shapes() {
	g := &grid{columns: []column{
		{name: "shape", min: 20},
		{name: "cells", right: true},
		{name: "row", right: true},
		{name: "for example", min: 20},
	}}
	for _, s := range o.d.Shapes[:min(len(o.d.Shapes), maxShapes)] {
		g.rows = append(g.rows, []string{
			Visible(s.Shape), strconv.FormatInt(s.Cells, 10),
			strconv.FormatInt(s.First.Row, 10), Visible(s.Text),
		})
	}
	title := "shapes: digits as 9, letters as A and a, the most frequent"
	if n := len(o.d.Shapes); n > maxShapes {
		title = fmt.Sprintf("%s %d of %d", title, maxShapes, n)
	}
	if o.d.ManyShapes {
		title += "; there are many, so that like characters in a row are shown as one"
	}
	o.table("shape", title, g)
}

func (o *opened) frequent() {
	if o.c.Private() {
		o.note("the column is private: its values are not shown, and texts are given as their shapes")
		return
	}
	if o.d.ManyTexts {
		o.note("there are too many different texts to tell the most frequent")
		return
	}
	g := &grid{columns: []column{{name: "text", min: 20}, {name: "cells", right: true}}}
	for _, t := range o.d.Frequent {
		if t.Cells > 1 || len(o.d.Frequent) < 4 {
			g.rows = append(g.rows, []string{"«" + Visible(t.Text) + "»", strconv.FormatInt(t.Cells, 10)})
		}
	}
	o.table("frequent text", "the most frequent texts", g)
}

func (o *opened) strays() {
	g := &grid{columns: []column{
		{name: "stray"},
		{name: "name", min: 16},
		{name: "place"},
		{name: "cells", right: true},
		{name: "row", right: true},
	}}
	for _, s := range o.p.Strays(o.c) {
		g.rows = append(g.rows, []string{
			"U+" + Hex(uint32(s.Rune), 4), s.Name, s.Place, strconv.FormatInt(s.Cells, 10),
			strconv.FormatInt(s.Row, 10),
		})
	}
	o.table("stray character", "stray characters", g)
}

func (o *opened) odd() {
	g := &grid{columns: []column{
		{name: "row", right: true},
		{name: "line", right: true},
		{name: "text", min: 20},
		{name: "reads as"},
	}}
	for _, cell := range o.p.Odd(o.c, maxOdd) {
		g.rows = append(g.rows, []string{
			strconv.FormatInt(cell.Where.Row, 10), strconv.FormatInt(cell.Where.Line, 10), "«" + Visible(cell.Text) + "»",
			cell.Reading.String(),
		})
	}
	o.table("odd one", "the odd ones out, the first", g)
}
