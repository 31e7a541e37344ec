package convert

import (
	"sort"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Every column of numbers is added up, as its cells stood in the source and as they are now, and so that each total
// row of the source can be held against the rows that it adds up. A worker adds up the rows of its block between two
// total rows or headings; what the blocks have is brought together in their order.

// Sums are what a column of numbers adds up to.
type Sums struct {
	// Before adds up the cells of the source that are plain numbers as they stand, which is what other programs would come
	// to; "" where none is.
	Before string
	After  string // the values that went out, "" where there is none
}

// Totals says whether the total rows of a source are what their rows add up to.
type Totals struct {
	Rows, Agree int64         // the rows that have a number under a column of numbers, and those in which all agree
	Differ      []TotalDiffer // the first that do not
	Open        *OpenTotals   // of a range of a file; nil elsewhere
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

// summands are the columns of a plan that are added up.
func summands(p *plan.Bound) (columns []int) {
	for i := range p.Columns {
		if p.Columns[i].Convention.Type.Numeric() {
			columns = append(columns, i)
		}
	}
	return columns
}

// numberColumns finds the columns that are added up.
func (w *worker) numberColumns() {
	for _, c := range w.columns {
		c.summand = -1
	}
	for i, column := range summands(w.plan) {
		w.columns[column].summand = i
		w.numbers = append(w.numbers, w.columns[column])
	}
}

// openStretches finds the stretches of a block, before its rows are converted.
func (w *worker) openStretches(b *table.Block, res *result) {
	s := &res.summed
	n := len(w.numbers)
	s.before, s.after, s.stretches = make([]value.Adder, n), make([]value.Adder, n), s.stretches[:0]
	open := func(row int, kind rowkind.Kind) {
		x := stretch{row: row, kind: kind, sums: make([]value.Adder, n), failed: make([]int64, n)}
		s.stretches = append(s.stretches, x)
	}
	for i := range res.aside {
		switch row, k := res.aside[i].row, res.aside[i].kind; {
		case k.IsTotal(), k == rowkind.SectionHeading:
			open(row, k)
		case k == rowkind.Blank && (i == 0 || res.aside[i-1].kind != k || res.aside[i-1].row != row-1):
			open(row, k)
		}
	}
	open(b.Rows, rowkind.Data)
	for _, c := range w.numbers {
		c.stretch = 0
	}
}

// addUp adds up the cells of the rows [from, to) of a block that has just been converted, whether or not a condition
// will leave the rows out.
func (c *column) addUp(from, to int) {
	s := &c.res.summed
	for from < to {
		x := &s.stretches[c.stretch]
		end := min(to, x.row+1) // the row that ends it is no data, and has no value
		c.addUpRows(from, end, &s.before[c.summand], &x.sums[c.summand])
		if from = end; from > x.row {
			c.stretch++
		}
	}
}

// closeStretches adds what is known when all rows of a block have been converted.
func (w *worker) closeStretches(res *result) {
	s := &res.summed
	for k := range res.failures {
		f := &res.failures[k]
		if i := w.columns[f.column].summand; i >= 0 {
			in := sort.Search(len(s.stretches), func(k int) bool { return int(f.Row) < s.stretches[k].row })
			s.stretches[in].failed[i]++
		}
	}
	for k := range s.stretches {
		x := &s.stretches[k]
		for i, c := range w.numbers {
			s.after[i].Merge(&x.sums[i])
			if x.kind.IsTotal() {
				x.says = append(x.says, c.totalSays(x.row))
			}
		}
	}
}

// addUpRows adds up cells as they stand in the source, and their values. Most are short numbers that stay as they
// are: these are added up by themselves.
func (c *column) addUpRows(from, to int, before, after *value.Adder) {
	var same shortSums
	padded, spans, made := c.b.Padded(), c.out.Spans, c.plan.Made()
	for row := from; row < to; row++ {
		if s := spans[row]; s.N-1 < table.MaxWord && !made {
			if coef, scale, ok := reading.ReadPlain(padded.Word(s), uint(s.N)); ok {
				same.coefs[scale&7] += coef
				same.seen |= 1 << (scale & 7)
				continue
			}
		}
		c.addUpCell(row, before, after)
	}
	same.addTo(before)
	same.addTo(after)
}

// addUpCell adds up a cell as it stands in the source, and its value.
func (c *column) addUpCell(row int, before, after *value.Adder) {
	after.Add(c.out.At(row))
	if c.plan.Made() {
		return
	}
	if s := c.b.Spans[row*c.b.Width+c.from]; s.Len() > 0 && s.N&table.Missing == 0 {
		before.Add(c.b.At(s))
	}
}

// shortSums are the sums of short numbers, for each number of digits after the point: there are not so many of them
// in a block that they could overflow.
type shortSums struct {
	coefs [8]int64
	seen  uint8
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
		c.addUpRows(0, c.b.Rows, &before, &res.summed.after[i])
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
	sinceGap                    []value.Adder
	failed                      []int64 // since the total row before
	inFile                      int     // the number of the file

	plan                *plan.Bound
	continues           bool // it is a range of a file, before which others stand
	total, heading, gap bool // whether one stood in it
	waiting             []WaitingTotal
}

func newAdding(p *plan.Bound, info *table.Info) *adding {
	a := &adding{columns: summands(p), plan: p, continues: info.Continues, waiting: []WaitingTotal{}}
	n := len(a.columns)
	a.before, a.after = make([]value.Adder, n), make([]value.Adder, n)
	a.restart(n)
	return a
}

func (a *adding) restart(n int) {
	a.sinceTotal, a.sinceHead = make([]value.Adder, n), make([]value.Adder, n)
	a.sinceGap, a.file = make([]value.Adder, n), make([]value.Adder, n)
	a.failed = make([]int64, n)
}

// add adds a block, and tells of each total row what it says and its rows add up to, or that it waits for what stands
// in the ranges before.
func (a *adding) add(file int, s *summed, tell func(row int, differ []TotalDiffer, waits *WaitingTotal)) {
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
			for _, since := range [][]value.Adder{a.sinceTotal, a.sinceHead, a.sinceGap, a.file} {
				since[i].Merge(&x.sums[i])
			}
			a.failed[i] += x.failed[i]
		}
		switch {
		case x.kind.IsTotal():
			if differ, any := a.hold(x); any {
				tell(x.row, differ, a.waitsFor(x))
			}
			clear(a.sinceTotal)
			clear(a.failed)
			a.total = true
		case x.kind == rowkind.SectionHeading:
			clear(a.sinceHead)
			a.heading = true
		case x.kind == rowkind.Blank:
			clear(a.sinceGap)
			a.gap = true
		}
	}
}

// hold holds a total row against what its rows add up to: those since the total row before, since the heading, since
// the gap, or all of the file. It reports whether the row has a number.
func (a *adding) hold(x *stretch) (differ []TotalDiffer, any bool) {
	for i, says := range x.says {
		if says == "" {
			continue
		}
		any = true
		agrees := false
		for _, since := range []*value.Adder{&a.sinceTotal[i], &a.sinceHead[i], &a.sinceGap[i], &a.file[i]} {
			agrees = agrees || value.SameNumber(since.Text(), says)
		}
		if !agrees {
			d := TotalDiffer{column: a.columns[i], Says: says, AddsUp: a.sinceTotal[i].Text(), Failed: a.failed[i]}
			differ = append(differ, d)
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
