package convert

import (
	"junvo/internal/plan"
	"junvo/internal/value"
)

// Of a range of a file, the total rows may add up rows of the ranges before. So the ledger of a range has what its rows
// add up to since the last total row, the last heading and its start, and the total rows that wait for that: when the
// ledgers of the ranges are merged, in their order, all of them are held against what they add up.

// OpenTotals is what the ledger of a range of a file keeps for the ledgers beside it.
type OpenTotals struct {
	More    bool           `json:"more"`    // another range follows
	Total   bool           `json:"total"`   // a total row stands in the range
	Heading bool           `json:"heading"` // a section heading does
	Gap     bool           `json:"gap"`     // a blank row does
	Sums    []OpenSum      `json:"sums"`
	Waiting []WaitingTotal `json:"waiting"` // at most maxWaiting; others are taken to differ
}

// OpenSum is what the cells of a column add up to; "" where there is no number.
type OpenSum struct {
	Column       string `json:"column"`
	SinceTotal   string `json:"since_total"`
	SinceHeading string `json:"since_heading"`
	SinceGap     string `json:"since_gap"`
	SinceStart   string `json:"since_start"`
	Failed       int64  `json:"failed"` // since the last total row
}

// WaitingTotal is a total row that may add up rows of the ranges before.
type WaitingTotal struct {
	File         string        `json:"file"`
	Row          int64         `json:"row"`
	Line         int64         `json:"line"`
	FirstTotal   bool          `json:"first_total"`   // no total row stands before it in the range
	FirstHeading bool          `json:"first_heading"` // no section heading does
	FirstGap     bool          `json:"first_gap"`     // no blank row does
	Cells        []WaitingCell `json:"cells"`
}

// WaitingCell is a number of a total row, and what the rows of its range before it add up to.
type WaitingCell struct {
	OpenSum
	Says string `json:"says"`
}

const maxWaiting = 10_000

// plus adds up two sums.
func plus(a, b string) string {
	var sum value.Adder
	sum.Add([]byte(a)) // "" is no number, and adds nothing
	sum.Add([]byte(b))
	return sum.Text()
}

// of returns the sums of a column.
func (o *OpenTotals) of(column string) OpenSum {
	if o != nil {
		for _, s := range o.Sums {
			if s.Column == column {
				return s
			}
		}
	}
	return OpenSum{Column: column}
}

// behind returns what cells add up to together with those of the ranges before: since the total row, the heading
// and the gap before where these stand there.
func (s OpenSum) behind(before OpenSum, total, heading, gap bool) OpenSum {
	if total {
		s.SinceTotal, s.Failed = plus(before.SinceTotal, s.SinceTotal), before.Failed+s.Failed
	}
	if heading {
		s.SinceHeading = plus(before.SinceHeading, s.SinceHeading)
	}
	if gap {
		s.SinceGap = plus(before.SinceGap, s.SinceGap)
	}
	s.SinceStart = plus(before.SinceStart, s.SinceStart)
	return s
}

// agrees reports whether any of the sums is a number.
func (s *OpenSum) agrees(says string) bool {
	return value.SameNumber(s.SinceTotal, says) || value.SameNumber(s.SinceHeading, says) ||
		value.SameNumber(s.SinceGap, says) || value.SameNumber(s.SinceStart, says)
}

// merge adds what the ledger of the next source, or the next range of this one, says of total rows.
func (t *Totals) merge(o *Totals) {
	t.Rows += o.Rows
	t.Agree += o.Agree
	t.Differ = append(t.Differ, o.Differ[:min(len(o.Differ), maxDiffer-len(t.Differ))]...)
	before := t.Open
	if t.Open = nil; o.Open == nil {
		return
	}
	for i := range o.Open.Waiting {
		w := &o.Open.Waiting[i]
		var differ []TotalDiffer
		for _, c := range w.Cells {
			sum := c.behind(before.of(c.Column), w.FirstTotal, w.FirstHeading, w.FirstGap)
			if !sum.agrees(c.Says) {
				differ = append(differ, TotalDiffer{
					File: w.File, Row: w.Row, Line: w.Line, Column: c.Column, Says: c.Says, AddsUp: sum.SinceTotal, Failed: sum.Failed,
				})
			}
		}
		t.note(differ)
	}
	if !o.Open.More {
		return
	}
	t.Open = &OpenTotals{More: true, Waiting: []WaitingTotal{}}
	for _, s := range o.Open.Sums {
		t.Open.Sums = append(t.Open.Sums, s.behind(before.of(s.Column), !o.Open.Total, !o.Open.Heading, !o.Open.Gap))
	}
}

// openSum returns what a column adds up to so far.
func (a *adding) openSum(i int, name string) OpenSum {
	return OpenSum{name, a.sinceTotal[i].Text(), a.sinceHead[i].Text(), a.sinceGap[i].Text(), a.file[i].Text(), a.failed[i]}
}

// waitsFor returns a total row of a range that may add up rows of the ranges before: it is not what the rows in the
// range add up to, as far as that is known. It is nil for others.
func (a *adding) waitsFor(x *stretch) *WaitingTotal {
	if !a.continues || len(a.waiting) == maxWaiting {
		return nil
	}
	w := &WaitingTotal{FirstTotal: !a.total, FirstHeading: !a.heading, FirstGap: !a.gap}
	agree := true
	for i, says := range x.says {
		if says == "" {
			continue
		}
		c := WaitingCell{a.openSum(i, a.plan.Columns[a.columns[i]].Name), says}
		agree = agree && (a.total && value.SameNumber(c.SinceTotal, says) || a.heading &&
			value.SameNumber(c.SinceHeading, says) || a.gap && value.SameNumber(c.SinceGap, says))
		w.Cells = append(w.Cells, c)
	}
	if agree {
		return nil
	}
	return w
}

// open notes what the ledgers of other ranges need.
func (a *adding) open(l *Ledger, p *plan.Bound, more bool) {
	o := &OpenTotals{More: more, Total: a.total, Heading: a.heading, Gap: a.gap, Sums: []OpenSum{}, Waiting: a.waiting}
	hiding := p.Hiding()
	for i, column := range a.columns {
		if c := &p.Columns[column]; !c.Hidden() && !hiding[c.Source] {
			o.Sums = append(o.Sums, a.openSum(i, c.Name))
		}
	}
	l.Totals.Open = o
}
