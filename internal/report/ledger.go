package report

import (
	"html/template"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/show"
)

// ledgerView is the balance of rows and cells.
type ledgerView struct {
	Sentence string
	Rows     template.HTML
	Columns  []accountView
	All      accountView
	Terms    []part // those of the cells that occur, with their letters
	Totals   string // whether the total rows of the source agree
	Differ   []named
	Sums     []sumView
}

// sumView is what a column of numbers adds up to.
type sumView struct{ Name, Before, After string }

type accountView struct {
	Name, Type, Convention string
	Bar                    template.HTML
	Cells                  int64
	Counts                 []int64 // of Terms
	Reasons                []reasonView
}

type reasonView struct {
	Name, Say string
	Count     int64
	Texts     []counted
	More      bool
}

// terms are those that cells add up from.
func terms(a *convert.Account) []part {
	return []part{
		{"t-right", "=", "right", a.Right},
		{"t-converted", ">", "converted", a.Converted},
		{"t-blank", "·", "blank", a.Blank},
		{"t-emptied", "o", "emptied", a.Emptied},
		{"t-kept", "k", "kept", a.Kept},
		{"t-fixed", "+", "fixed", a.Fixed},
		{"t-failed", "!", "failed", a.Failed},
	}
}

func (s *viewer) ledger() *ledgerView {
	l := s.Ledger
	v := &ledgerView{Sentence: strings.TrimPrefix(strings.TrimSpace(show.LedgerRows(l)), "rows: ")}
	v.Rows = bar([]part{{"t-converted", "=", "out", l.RowsOut}, {"t-blank", "-", "set aside", l.AsideTotal()}}, "")
	sum := l.Total()
	all := terms(&sum)
	used := make([]bool, len(all))
	for i, t := range all {
		if used[i] = t.N > 0 || t.Name == "failed"; used[i] {
			v.Terms = append(v.Terms, t)
		}
	}
	account := func(a *convert.Account) accountView {
		x := accountView{
			Name: show.Visible(a.Name), Type: a.Type.String(), Convention: show.Visible(a.Convention), Cells: a.Cells,
		}
		if a.Helper {
			x.Type += ", helper"
		}
		parts := terms(a)
		x.Bar = bar(parts, "")
		for i, t := range parts {
			if used[i] {
				x.Counts = append(x.Counts, t.N)
			}
		}
		for _, r := range a.Reasons {
			one := reasonView{Name: r.Reason.String(), Say: r.Reason.Entry().Hint, Count: r.Count, More: r.More}
			for _, t := range r.Texts {
				one.Texts = append(one.Texts, counted{s.fit(t.Text), t.Count})
			}
			x.Reasons = append(x.Reasons, one)
		}
		return x
	}
	for i := range l.Columns {
		v.Columns = append(v.Columns, account(&l.Columns[i]))
	}
	if t := &l.Totals; t.Rows > 0 {
		v.Totals = show.Agreeing(t)
		for i := range t.Differ {
			d := &t.Differ[i]
			v.Differ = append(v.Differ, named{show.Visible(d.Column), show.Differs(d, len(s.Profile.Info.Files) > 1)})
		}
	}
	for _, c := range l.Columns {
		if c.Sums.After != "" {
			v.Sums = append(v.Sums, sumView{show.Visible(c.Name), c.Sums.Before, c.Sums.After})
		}
	}
	v.All = account(&sum)
	v.All.Name, v.All.Type = "all columns", ""
	return v
}
