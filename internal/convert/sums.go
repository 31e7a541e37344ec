package convert

import (
	"slices"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Every column of numbers is added up, as its cells stood in the source and as they are now, and so that each total row of
// the source can be held against the rows that it adds up. A worker adds up the rows of its block between two total rows or
// headings; what the blocks have is brought together in their order.

// Sums are what a column of numbers adds up to.
type Sums struct {
	Before string // the cells of the source that are plain numbers as they stand, "" where none is: what others would add up
	After  string // the values that went out, "" where there is none
}

// Totals says whether the total rows of a source are what their rows add up to.
type Totals struct {
	Rows, Agree int64         // the rows that have a number under a column of numbers, and those in which all agree
	Differ      []TotalDiffer // the first that do not
}

// TotalDiffer is a cell of a total row that says another number than its rows add up to.
type TotalDiffer struct {
	File      string
	Row, Line int64
	Column    string
	Says      string
	AddsUp    string // the rows since the total row before
	Failed    int64  // how many cells of those the sum lacks, since they have failed
	column    int    // in the plan
}

// maxDiffer is how many cells of total rows are told.
const maxDiffer = 20

// stretch is the rows of a block up to a total row, a heading, or the end of the block.
type stretch struct {
	row    int          // that ends it
	kind   rowkind.Kind // of that row; Data for the end of the block
	sums   []value.Adder
	failed []int64
	says   []string // the numbers of a total row, "" for none
}

// summed is what a block adds up to, for each column of numbers.
type summed struct {
	before, after []value.Adder
	stretches     []stretch
}

// numberColumns are the columns that are added up.
func (w *worker) numberColumns() (columns []*column) {
	for _, c := range w.columns {
		if c.conv.Type.Numeric() {
			columns = append(columns, c)
		}
	}
	return columns
}

// addUp adds up the rows of a block that are data, whether or not a condition leaves them out.
func (w *worker) addUp(b *table.Block, res *result) {
	s := &res.summed
	s.before, s.after, s.stretches = make([]value.Adder, len(w.numbers)), make([]value.Adder, len(w.numbers)), s.stretches[:0]
	from := 0
	for i := range res.aside {
		if k := res.aside[i].kind; k.IsTotal() || k == rowkind.SectionHeading {
			w.stretch(res, from, res.aside[i].row, k)
			from = res.aside[i].row + 1
		}
	}
	w.stretch(res, from, b.Rows, rowkind.Data)
	for k := range res.failures {
		f := &res.failures[k]
		if i := slices.IndexFunc(w.numbers, func(c *column) bool { return c.index == f.column }); i >= 0 {
			in := slices.IndexFunc(s.stretches, func(x stretch) bool { return int(f.Row) < x.row })
			s.stretches[in].failed[i]++
		}
	}
	for i := range w.numbers {
		for k := range s.stretches {
			s.after[i].Merge(&s.stretches[k].sums[i])
		}
	}
}

// stretch adds up the rows [from, to) of a block.
func (w *worker) stretch(res *result, from, to int, kind rowkind.Kind) {
	x := stretch{row: to, kind: kind, sums: make([]value.Adder, len(w.numbers)), failed: make([]int64, len(w.numbers))}
	for i, c := range w.numbers {
		c.addUp(from, min(to+1, c.b.Rows), &res.summed.before[i], &x.sums[i])
	}
	if kind.IsTotal() {
		for _, c := range w.numbers {
			x.says = append(x.says, c.totalSays(to))
		}
	}
	res.summed.stretches = append(res.summed.stretches, x)
}

// addUp adds up the cells of the rows [from, to) as they stand in the source, and their values.
func (c *column) addUp(from, to int, before, after *value.Adder) {
	b, out := c.b, &c.res.cells[c.index]
	var stood, now shortSums
	made := c.plan.Made()
	for row := from; row < to; row++ {
		s := out.Spans[row]
		same := s.N != 0 && s.N&table.Made == 0
		if s.N != 0 {
			if coef, scale, ok := shortOf(out, s); ok {
				now.add(coef, scale)
				if same && !made {
					stood.add(coef, scale)
					continue
				}
			} else {
				after.Add(out.At(row))
			}
		}
		if made {
			continue
		}
		if s = b.Spans[row*b.Width+c.from]; s.Len() == 0 || s.N&table.Missing != 0 {
			continue
		}
		if s.Within(table.MaxWord) {
			if coef, kind, ok := reading.ReadShort(b.Padded().Word(s), uint(s.Len())); ok {
				stood.add(coef, reading.Shorts[kind].Scale)
				continue
			}
		}
		before.Add(b.At(s))
	}
	stood.addTo(before)
	now.addTo(after)
}

// shortOf reads a value of at most eight characters.
func shortOf(out *table.Values, s table.Span) (coef int64, scale int32, ok bool) {
	w, ok := out.Word(s)
	if !ok {
		return 0, 0, false
	}
	coef, kind, ok := reading.ReadShort(w, uint(s.Len()))
	return coef, reading.Shorts[kind].Scale, ok
}

// shortSums are the sums of the short numbers of a block, for each number of digits after the point: a block has not so
// many cells that they could overflow.
type shortSums struct {
	coefs [table.MaxWord]int64
	seen  uint8
}

func (s *shortSums) add(coef int64, scale int32) {
	s.coefs[scale&7] += coef
	s.seen |= 1 << (scale & 7)
}

func (s *shortSums) addTo(a *value.Adder) {
	for scale, coef := range s.coefs {
		if s.seen>>scale&1 != 0 {
			a.AddShort(coef, int32(scale))
		}
	}
}

// addUpAgain adds up what goes out, after more rows have been left out.
func (w *worker) addUpAgain(res *result) {
	for i, c := range w.numbers {
		var before value.Adder // which is known already
		res.summed.after[i] = value.Adder{}
		c.addUp(0, c.b.Rows, &before, &res.summed.after[i])
	}
}

// totalSays returns the number that stands in a total row under the column, "" for none.
func (c *column) totalSays(row int) string {
	if c.plan.Made() || c.hidden {
		return ""
	}
	cell, kind := c.cellOf(row)
	text, changed, why := c.plan.Steps.Apply(string(cell))
	if why != reason.None || text == "" {
		return ""
	}
	if changed != 0 {
		kind = value.StoredText
	}
	start := len(c.out.Text)
	if !c.appendValue(text, kind) {
		return ""
	}
	says := string(c.out.Text[start:])
	c.out.Text = c.out.Text[:start]
	return says
}

// adding brings together what the blocks of a source add up to.
type adding struct {
	columns                     []int // of the plan, those of numbers
	before, after               []value.Adder
	sinceTotal, sinceHead, file []value.Adder
	failed                      []int64 // since the total row before
	inFile                      int     // the number of the file
}

func newAdding(p *plan.Bound) *adding {
	a := &adding{}
	for i := range p.Columns {
		if p.Columns[i].Convention.Type.Numeric() {
			a.columns = append(a.columns, i)
		}
	}
	n := len(a.columns)
	a.before, a.after = make([]value.Adder, n), make([]value.Adder, n)
	a.restart(n)
	return a
}

func (a *adding) restart(n int) {
	a.sinceTotal, a.sinceHead, a.file = make([]value.Adder, n), make([]value.Adder, n), make([]value.Adder, n)
	a.failed = make([]int64, n)
}

// add adds a block, and tells of each total row what it says and its rows add up to.
func (a *adding) add(file int, s *summed, tell func(row int, differ []TotalDiffer)) {
	if file != a.inFile {
		a.inFile = file
		a.restart(len(a.columns))
	}
	for i := range a.columns {
		a.before[i].Merge(&s.before[i])
		a.after[i].Merge(&s.after[i])
	}
	for k := range s.stretches {
		x := &s.stretches[k]
		for i := range a.columns {
			for _, since := range [][]value.Adder{a.sinceTotal, a.sinceHead, a.file} {
				since[i].Merge(&x.sums[i])
			}
			a.failed[i] += x.failed[i]
		}
		switch {
		case x.kind.IsTotal():
			if differ, any := a.hold(x); any {
				tell(x.row, differ)
			}
			clear(a.sinceTotal)
			clear(a.failed)
		case x.kind == rowkind.SectionHeading:
			clear(a.sinceHead)
		}
	}
}

// hold holds a total row against what its rows add up to: those since the total row before, since the heading, or all of the
// file. It reports whether the row has a number.
func (a *adding) hold(x *stretch) (differ []TotalDiffer, any bool) {
	for i, says := range x.says {
		if says == "" {
			continue
		}
		any = true
		agrees := false
		for _, since := range []*value.Adder{&a.sinceTotal[i], &a.sinceHead[i], &a.file[i]} {
			agrees = agrees || value.SameNumber(since.Text(), says)
		}
		if !agrees {
			differ = append(differ, TotalDiffer{column: a.columns[i], Says: says, AddsUp: a.sinceTotal[i].Text(), Failed: a.failed[i]})
		}
	}
	return differ, any
}

// report puts the sums into the ledger, but for those of columns that nobody is to see.
func (a *adding) report(l *Ledger, p *plan.Bound) {
	hiding := p.Hiding()
	for i, column := range a.columns {
		if c := &p.Columns[column]; !c.Hidden() && !hiding[c.Source] {
			l.Columns[column].Sums = Sums{a.before[i].Text(), a.after[i].Text()}
		}
	}
}

// note notes what a total row says, and its rows add up to.
func (t *Totals) note(differ []TotalDiffer) {
	if t.Rows++; len(differ) == 0 {
		t.Agree++
	}
	t.Differ = append(t.Differ, differ[:min(len(differ), maxDiffer-len(t.Differ))]...)
}

// merge adds the sums of another source.
func (s *Sums) merge(o Sums) {
	for _, of := range []struct {
		to   *string
		more string
	}{{&s.Before, o.Before}, {&s.After, o.After}} {
		var sum value.Adder
		sum.Add([]byte(*of.to))
		sum.Add([]byte(of.more))
		*of.to = sum.Text()
	}
}
