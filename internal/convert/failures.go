package convert

import (
	"cmp"
	"slices"
	"sort"
	"strings"

	"junvo/internal/reason"
)

// ReasonCount is how many cells of a column failed for a reason, and with which texts.
type ReasonCount struct {
	Reason reason.Reason
	Count  int64
	Texts  []TextCount // the most frequent ones, at most mostTexts
	More   bool        // there were other texts, too
}

// TextCount is how many cells failed with a text.
type TextCount struct {
	Text  string
	Count int64
}

// Bounds of what is kept of failures to say which texts are the most frequent: of the different texts of a column and a
// reason only the first are counted.
const (
	mostTexts    = 5
	countedTexts = 256
	longestText  = 60 // bytes; of a longer text the beginning counts
)

// tally counts the failures of a conversion by column, reason and text.
type tally map[tallyKey]*tallied

type tallyKey struct {
	column int
	why    reason.Reason
}

type tallied struct {
	count int64
	texts map[string]int64
	more  bool
}

func (t tally) add(f *Failure) {
	key := tallyKey{f.column, f.Reason}
	e := t[key]
	if e == nil {
		e = &tallied{texts: map[string]int64{}}
		t[key] = e
	}
	e.count++
	text := f.Value
	if len(text) > longestText {
		text = strings.ToValidUTF8(text[:longestText], "") + "…"
	}
	if _, known := e.texts[text]; !known && len(e.texts) == countedTexts {
		e.more = true
		return
	}
	e.texts[text]++
}

// report gives the ledger's columns their reasons.
func (t tally) report(l *Ledger) {
	for key, e := range t {
		r := ReasonCount{Reason: key.why, Count: e.count, More: e.more}
		for text, n := range e.texts {
			r.Texts = append(r.Texts, TextCount{text, n})
		}
		r.shorten()
		a := &l.Columns[key.column]
		a.Reasons = append(a.Reasons, r)
	}
	for i := range l.Columns {
		sortReasons(l.Columns[i].Reasons)
	}
}

func sortReasons(r []ReasonCount) {
	sort.Slice(r, func(i, j int) bool {
		a, b := &r[i], &r[j]
		return cmp.Or(cmp.Compare(b.Count, a.Count), cmp.Compare(a.Reason, b.Reason)) < 0
	})
}

// shorten keeps the most frequent texts.
func (r *ReasonCount) shorten() {
	sort.Slice(r.Texts, func(i, j int) bool {
		a, b := &r.Texts[i], &r.Texts[j]
		return cmp.Or(cmp.Compare(b.Count, a.Count), cmp.Compare(a.Text, b.Text)) < 0
	})
	if len(r.Texts) > mostTexts {
		r.Texts, r.More = r.Texts[:mostTexts:mostTexts], true
	}
}

// addReasons adds those of another source that was converted by the same plan.
func (a *Account) addReasons(more []ReasonCount) {
	for _, r := range more {
		i := slices.IndexFunc(a.Reasons, func(o ReasonCount) bool { return o.Reason == r.Reason })
		if i < 0 {
			a.Reasons = append(a.Reasons, r)
			continue
		}
		sum := &a.Reasons[i]
		sum.Count += r.Count
		sum.More = sum.More || r.More
		texts := slices.Clone(sum.Texts)
		for _, t := range r.Texts {
			if j := slices.IndexFunc(texts, func(o TextCount) bool { return o.Text == t.Text }); j >= 0 {
				texts[j].Count += t.Count
			} else {
				texts = append(texts, t)
			}
		}
		sum.Texts = texts
		sum.shorten()
	}
	sortReasons(a.Reasons)
}
