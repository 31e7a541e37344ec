package profile

import (
	"fmt"

	"junvo/internal/finding"
	"junvo/internal/reading"
)

// finder finds what is worth knowing about a column.
type finder struct {
	p    *Profile
	c    *ColumnProfile
	conv *reading.Convention
}

// hit is the cells that a finding is about.
type hit struct {
	count   int64
	samples []Sample
	tallies map[tallyKey]bool
}

// where gathers the tallies whose set keep accepts.
func (f *finder) where(keep func(reading.Set) bool) hit {
	return f.gather(func(t *Tally) bool { return keep(t.Set) })
}

// failing gathers the tallies of cells that do not fit the type.
func (f *finder) failing() hit {
	return f.gather(func(t *Tally) bool {
		_, fits := f.conv.Judge(t.Set, t.Form)
		return !fits
	})
}

// gather gathers the tallies that keep accepts.
func (f *finder) gather(keep func(*Tally) bool) hit {
	var h hit
	for i := range f.c.Column.Tallies {
		if t := &f.c.Column.Tallies[i]; keep(t) {
			h.count += t.Cells
			h.samples = mergeSamples(h.samples, t.First)
			if h.tallies == nil {
				h.tallies = map[tallyKey]bool{}
			}
			h.tallies[tallyKey{t.Set, t.Form}] = true
		}
	}
	return h
}

// add adds a finding unless there is nothing to find. The sentence begins with the
// count and one or many, for what is counted.
func (f *finder) add(k finding.Kind, h hit, one, many, rest string) {
	if h.count == 0 {
		return
	}
	f.c.Findings = append(f.c.Findings, Finding{
		k, h.count, f.p.rowsOf(h.samples), Counted(h.count, one, many) + rest,
		h.tallies,
	})
}

// Counted says how many of something there are.
func Counted(n int64, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// rowsOf returns the rows of the first samples.
func (p *Profile) rowsOf(samples []Sample) []int64 {
	rows := make([]int64, 0, maxRows)
	for _, s := range samples[:min(len(samples), maxRows)] {
		rows = append(rows, p.Where(s.Place).Row)
	}
	return rows
}
