package profile

import (
	"math"

	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/value"
)

// maxAside is the share of the rows up to which rows of a doubtful kind are no data.
const maxAside = 0.2

// asideOrder is the order in which it is decided what kinds of doubtful rows are: those that are
// data after all count as such for those that follow.
var asideOrder = []rowkind.Kind{
	rowkind.SectionHeading, rowkind.Note, rowkind.Total, rowkind.NamedTotal, rowkind.FullTotal, rowkind.BareTotal,
	rowkind.Summary,
}

// decideAside decides which kinds of rows are no data, and adds the others to the data.
func (p *Profile) decideAside(all *part, ask func(string) reading.Ask) {
	for k := range all.aside {
		kind := rowkind.Kind(k)
		p.SetAside[k] = kind != rowkind.Data && (kind == rowkind.Long || !p.Info.Records)
		p.Aside[k] = all.aside[k].count
	}
	for _, kind := range asideOrder {
		a := &all.aside[kind]
		many := float64(a.count) > maxAside*float64(p.Rows)
		if a.count > 0 && !many && (!kind.Adds() || p.addsUp(all, kind, ask)) {
			continue
		}
		if a.count > 0 || kind.Adds() { // nothing shows that the next file's are no data
			p.SetAside[kind] = false
		}
		p.Aside[kind] = 0
		all.same.copies.merge(&a.copies)
		for i, c := range a.columns {
			all.columns[i].Merge(c)
		}
	}
}

// addsUp reports whether the numbers of rows that may add up others, or summarise them, are what
// the rows of the table are: in one column at least, or in all of them.
func (p *Profile) addsUp(all *part, kind rowkind.Kind, ask func(string) reading.Ask) bool {
	compared, matches := 0, 0
	for i, c := range all.columns {
		if c.skipped {
			p.Unsure = true
			continue
		}
		c.finish()
		var wish reading.Ask
		if ask != nil {
			wish = ask(p.Info.Names[i])
		}
		done := reading.Conclude(c.Counts(), wish)
		if !done.Convention.Type.Numeric() {
			continue
		}
		data, any := c.numbersOf(&done.Convention)
		rows, given := all.aside[kind].columns[i].numbersOf(&done.Convention)
		if !any || !given {
			continue
		}
		compared++
		if kind == rowkind.Summary && summarises(&rows, &data, done.Fits) || kind != rowkind.Summary &&
			isSum(&rows, &data, done.Fails) {
			matches++
		}
	}
	if kind == rowkind.Summary {
		return compared > 0 && matches == compared
	}
	return matches > 0
}

// numbersOf returns the extremes and the sum of a column's numbers under a convention.
func (c *Column) numbersOf(conv *reading.Convention) (restStats, bool) {
	c.finish()
	var all numberStats
	for i := range c.Tallies {
		t := &c.Tallies[i]
		if r, fits := conv.Judge(t.Set, t.Form); fits && r != reading.AsBlank {
			all.merge(t.numbersUnder(conv))
		}
	}
	return all.total()
}

// isSum reports whether rows add up to the sum of the data, or to twice that where there are sums
// of parts and of the whole. Each cell that could not be read may be as large as the largest.
func isSum(rows, data *restStats, unread int64) bool {
	sum, total := data.sum.Number().Rat(), rows.sum.Number().Rat()
	if sum.Sign() == 0 {
		return false
	}
	once, _ := total.Sub(total, sum).Float64()
	step, _ := sum.Float64()
	slack := float64(unread) * math.Max(math.Abs(data.smallest.Float()), math.Abs(data.top.Float()))
	return math.Abs(once) <= slack || math.Abs(once-step) <= slack
}

// summarises reports whether the numbers of rows are the smallest, the largest or the mean of n
// numbers of the data.
func summarises(rows, data *restStats, n int64) bool {
	if rows.smallest.Compare(data.smallest) < 0 || rows.top.Compare(data.top) > 0 {
		return false
	}
	mean := data.sum.Number().Float() / float64(n)
	near := func(v value.Number) bool { return math.Abs(v.Float()-mean) <= math.Pow10(-int(v.Scale)) }
	return rows.smallest.Compare(data.smallest) == 0 || rows.top.Compare(data.top) == 0 || near(rows.smallest) ||
		near(rows.top)
}
