package profile

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/finding"
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

// wordedTotals are the kinds of rows that begin with a word for totals: sums of parts and of the whole may be of
// several.
var wordedTotals = []rowkind.Kind{rowkind.Total, rowkind.NamedTotal, rowkind.FullTotal}

// decideAside decides which kinds of rows are no data, and adds the others to the data.
func (p *Profile) decideAside(all *part, o *Options) {
	ask := o.Ask
	for k := range all.aside {
		kind := rowkind.Kind(k)
		p.SetAside[k] = kind != rowkind.Data && (kind == rowkind.Long || !p.Info.Records)
		p.Aside[k] = all.aside[k].count
	}
	if o.SetAside != nil {
		p.SetAside = *o.SetAside
		return
	}
	together := p.addsUp(all, ask, wordedTotals...).right(rowkind.NamedTotal)
	for _, kind := range asideOrder {
		a := &all.aside[kind]
		if a.count > 0 && (together && slices.Contains(wordedTotals, kind) || p.isAside(all, kind, ask)) {
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

// isAside reports whether the rows of a doubtful kind are no data: there are few of them, and their numbers come out
// where they have any. What adds up is a total however many there are; one row whose word says so and whose sum does
// not come out is data until somebody looks at it.
func (p *Profile) isAside(all *part, kind rowkind.Kind, ask func(string) reading.Ask) bool {
	a := &all.aside[kind]
	many := float64(a.count) > maxAside*float64(p.Rows)
	if !kind.IsTotal() {
		return !many && (!kind.Adds() || p.addsUp(all, ask, kind).right(kind))
	}
	if a.summed == a.count {
		return true
	}
	sums := p.addsUp(all, ask, kind)
	rows := p.rowsOf(a.first)
	if sums.right(kind) || kind == rowkind.Total && !many && (a.count > 1 || sums.off == "" || !p.endTable(rows)) {
		return true
	}
	switch {
	case sums.compared == 0 || len(rows) == 0:
	case kind == rowkind.NamedTotal: // a name of many things begins with such a word
		p.carried(a)
	case kind != rowkind.BareTotal:
		p.Findings = append(p.Findings, Finding{
			Kind: finding.TotalNotRight, Count: a.count, Rows: rows,
			Say: fmt.Sprintf("row %d begins as a total does, and its numbers are not what the rows add up to (%s): it is kept as data",
				rows[0], sums.off),
		})
	case sums.matches > 0:
		p.Findings = append(p.Findings, Finding{
			Kind: finding.MayBeTotal, Count: a.count, Rows: rows,
			Say: fmt.Sprintf("row %d has the sums of the rows above it in %s: it is kept as data", rows[0],
				Counted(int64(sums.matches), "column", "columns")),
		})
	}
	return false
}

// carried finds rows that carry the sum of an earlier page on.
func (p *Profile) carried(a *aside) {
	var found []Sample
	for _, c := range a.columns {
		for i := range c.Tallies {
			for _, s := range c.Tallies[i].First {
				if rowkind.Carried([]byte(s.Text)) {
					found = append(found, s)
				}
			}
		}
	}
	if len(found) > 0 {
		p.Findings = append(p.Findings, Finding{
			Kind: finding.CarriedForward, Count: int64(len(found)), Rows: p.rowsOf(found),
			Say: "rows such as " + strconv.Quote(found[0].Text) + " carry a sum on: they are kept as data",
		})
	}
}

// endTable reports whether no data stands below a row.
func (p *Profile) endTable(rows []int64) bool {
	below := p.Aside[rowkind.Blank] + p.Aside[rowkind.Footer] + p.Aside[rowkind.Note] + p.Aside[rowkind.Rule]
	return len(rows) > 0 && rows[0]+below >= p.Rows
}

// sumsFound is in how many columns the numbers of rows were compared with those of the table, and were their sums.
type sumsFound struct {
	compared, matches int
	rows              int64  // of the table
	words             bool   // the rows have words, too
	digits            int    // of the sums that came out: small numbers add up by chance
	off               string // a number that is not the sum of cells that could all be read, and what they add up to
}

// minUnnamed is how many rows a total without a word for totals adds up at least, and in how many columns.
const minUnnamed, minUnnamedColumns = 3, 2

// minDigits is how many digits the sums have, together, that are no chance.
const minDigits = 3

// minChance is how many rows a sum has and digits together that is no chance.
const minChance = 8

// manyDigits is how many they have where other columns are no sums.
const manyDigits = 5

// right reports whether rows of a kind are the sums, or summarise, what they may.
func (s sumsFound) right(kind rowkind.Kind) bool {
	switch kind {
	case rowkind.Summary:
		return s.compared > 0 && s.matches == s.compared
	case rowkind.BareTotal:
		if s.words {
			return s.matches >= minUnnamedColumns && s.matches == s.compared && s.rows >= minUnnamed && s.digits >= minDigits
		}
		return s.matches > 0 && s.digits >= minDigits
	case rowkind.NamedTotal: // a name may begin with such a word
		all := s.matches == s.compared && s.digits >= minDigits && s.rows+int64(s.digits) >= minChance
		return all || s.digits >= manyDigits && 2*s.matches >= s.compared
	}
	return s.matches > 0
}

// addsUp compares the numbers of rows of kinds that may add up others, or summarise them, with those of the table's
// rows.
func (p *Profile) addsUp(all *part, ask func(string) reading.Ask, kinds ...rowkind.Kind) (found sumsFound) {
	kinds = slices.DeleteFunc(slices.Clone(kinds), func(k rowkind.Kind) bool { return all.aside[k].count == 0 })
	count := int64(0)
	for _, k := range kinds {
		count += all.aside[k].count
	}
	if len(kinds) == 0 {
		return found
	}
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
			found.words = found.words || all.aside[kinds[0]].columns[i].filled()
			continue
		}
		found.rows = max(found.rows, done.Fits)
		data, any := c.numbersOf(&done.Convention)
		rows, given := all.numbersOf(i, kinds, &done.Convention)
		if !any || !given {
			continue
		}
		found.compared++
		summary := kinds[0] == rowkind.Summary
		switch {
		case summary && summarises(&rows, &data, done.Fits), !summary && isSum(&rows, &data, done, count > 2):
			found.matches++
			if !strings.HasPrefix(data.smallest.String(), "-") { // numbers of both signs add up to small ones
				found.digits += wholeDigits(rows.top)
			}
		case found.off == "" && done.Fails == 0 && !c.private: // what could not be read may be what is lacking
			found.off = fmt.Sprintf("%s in %s, and they are %s", rows.sum.Number(), p.Info.Names[i], data.sum.Number())
		}
	}
	return found
}

// filled reports whether a column of rows has a cell that is not blank.
func (c *Column) filled() bool {
	c.finish()
	return slices.ContainsFunc(c.Tallies, func(t Tally) bool { return t.Set.Blank() == value.NotBlank })
}

// numbersOf returns the extremes and the sum of a column's numbers under a convention.
func (c *Column) numbersOf(conv *reading.Convention) (restStats, bool) {
	var all numberStats
	c.addNumbers(&all, conv)
	return all.total()
}

// numbersOf returns the same of the rows of kinds that are aside.
func (p *part) numbersOf(column int, kinds []rowkind.Kind, conv *reading.Convention) (restStats, bool) {
	var all numberStats
	for _, k := range kinds {
		p.aside[k].columns[column].addNumbers(&all, conv)
	}
	return all.total()
}

func (c *Column) addNumbers(all *numberStats, conv *reading.Convention) {
	c.finish()
	for i := range c.Tallies {
		t := &c.Tallies[i]
		if r, fits := conv.Judge(t.Set, t.Form); fits && r != reading.AsBlank {
			all.merge(t.numbersUnder(conv))
		}
	}
}

// isSum reports whether rows add up to the sum of the data, or to twice that where several are sums of parts and of the
// whole. Each cell that could not be read may be as large as the largest, and fractions may have been rounded.
func isSum(rows, data *restStats, done *reading.Conclusion, several bool) bool {
	sum, total := data.sum.Number().Rat(), rows.sum.Number().Rat()
	if sum.Sign() == 0 {
		return false
	}
	once, _ := total.Sub(total, sum).Float64()
	step, _ := sum.Float64()
	slack := float64(done.Fails) * math.Max(math.Abs(data.smallest.Float()), math.Abs(data.top.Float()))
	if scale := max(data.smallest.Scale, data.top.Scale, rows.top.Scale); scale > 0 {
		slack += float64(done.Fits) / 2 * math.Pow10(-int(scale))
	}
	return math.Abs(once) <= slack || several && math.Abs(once-step) <= slack
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
