package profile

import (
	"cmp"
	"math"
	"slices"

	"github.com/DataDog/sketches-go/ddsketch"
	"github.com/DataDog/sketches-go/ddsketch/store"

	"junvo/internal/reading"
	"junvo/internal/value"
)

// point is a value, where it lies on a line, and how many cells have it.
type point struct {
	text  string
	at    float64
	cells int64
}

// points returns the values of the texts that fit the column's type, in order.
func (c *ColumnProfile) points() (points []point) {
	conv := &c.Conclusion.Convention
	byText := map[string]*point{}
	for text, cells := range c.Column.detail.texts {
		n := *cells
		x := c.Column.reader.Read([]byte(text))
		if r, fits := conv.Judge(x.Set, x.Form); !fits || r == reading.AsBlank {
			continue
		}
		v := string(conv.Append(nil, []byte(text), x))
		p := byText[v]
		if p == nil {
			p = &point{text: v}
			switch conv.Type {
			case value.Date:
				day, _ := value.ParseDate(v)
				p.at = float64(day.Days())
			default:
				p.at = conv.Number(x).Float()
			}
			byText[v] = p
		}
		p.cells += n
	}
	for _, p := range byText {
		points = append(points, *p)
	}
	slices.SortFunc(points, func(a, b point) int { return cmp.Or(cmp.Compare(a.at, b.at), cmp.Compare(a.text, b.text)) })
	return points
}

// distribution fills in quartiles, mean and histogram.
func (c *ColumnProfile) distribution(d *Details) {
	t := c.Conclusion.Convention.Type
	if !t.Numeric() && t != value.Date {
		return
	}
	if t.Numeric() {
		d.Mean = c.mean()
	}
	if d.ManyTexts {
		if t.Numeric() {
			c.estimate(d)
		}
		return
	}
	points := c.points()
	var all int64
	for _, p := range points {
		all += p.cells
	}
	if all == 0 {
		return
	}
	for q := int64(1); q <= 3; q++ {
		rank, sum := (q*all+3)/4, int64(0) // the nearest rank
		for _, p := range points {
			if sum += p.cells; sum >= rank {
				d.Quartiles = append(d.Quartiles, p.text)
				break
			}
		}
	}
	d.Histogram = histogram(points, t)
}

// bins is how many bins a histogram has.
const bins = 10

func histogram(points []point, t value.Type) []Bin {
	low, high := points[0].at, points[len(points)-1].at
	if low == high || math.IsInf(high-low, 0) || math.IsNaN(high-low) {
		return nil // numbers beyond floating point can't be drawn
	}
	label := func(at float64) string {
		if t == value.Date {
			return string(value.DayOf(int(math.Round(at))).Append(nil))
		}
		return value.FormatFloat(at, (high-low)/bins)
	}
	out := make([]Bin, bins)
	for i := range out {
		step := (high - low) / bins
		out[i].From, out[i].To = label(low+float64(i)*step), label(low+float64(i+1)*step)
	}
	for _, p := range points {
		i := min(bins-1, int((p.at-low)/(high-low)*bins))
		out[i].Cells += p.cells
	}
	return out
}

// estimate takes the quartiles from the sketches of the tallies that fit.
func (c *ColumnProfile) estimate(d *Details) {
	conv := &c.Conclusion.Convention
	var all *ddsketch.DDSketch
	for i := range c.Column.Tallies {
		t := &c.Column.Tallies[i]
		r, fits := conv.Judge(t.Set, t.Form)
		if !fits || r == reading.AsBlank {
			continue
		}
		marks := t.Set.Marks()
		m := marks[0]
		if len(marks) > 1 {
			m = conv.Mark
		}
		s := t.sketches[m]
		if f, other := conv.Factor(t.Set, t.Form); other && s != nil {
			s = s.ChangeMapping(s.IndexMapping, store.NewDenseStore(), store.NewDenseStore(), f.Float())
		}
		switch {
		case s == nil:
		case all == nil:
			all = s.Copy()
		default:
			_ = all.MergeWith(s) // fails for another accuracy only
		}
	}
	if all == nil {
		return
	}
	values, err := all.GetValuesAtQuantiles([]float64{0.25, 0.5, 0.75})
	if err != nil {
		return
	}
	for _, v := range values {
		d.Quartiles = append(d.Quartiles, value.FormatFloat(v, math.Abs(v)*sketchAccuracy))
	}
	d.Estimated = true
}

// mean returns the mean of the numbers, to six more digits than the sum has.
func (c *ColumnProfile) mean() string {
	sum, err := value.ParseNumber(c.Range.Sum)
	if err != nil || c.Conclusion.Fits == 0 {
		return ""
	}
	return sum.Over(c.Conclusion.Fits)
}
