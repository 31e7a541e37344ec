package teach

import (
	"context"
	"slices"
	"strings"
	"unicode/utf8"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Found is what was found for the examples over a whole column.
type Found struct {
	Rules     []*Judged // that may be meant, the likeliest first, with what each does to all cells
	Questions []*Group  // where they disagree, or none has an answer, the most telling one first
	Cells     int64
	More      int64 // rows that are asked about in no question, because there are too many
	// Type is what the results of the likeliest rule are, by the rows that stand for all others; nil for text.
	Type *Type
}

// Type is a type of results, and how they are written.
type Type struct {
	Convention reading.Convention
	Terms      reading.Terms
}

// mostLeading is how many rules are taken over a whole column.
const mostLeading = 5

// Over searches for rules, and holds those that may be meant against each other over a whole column. Run hands a sink
// all rows of it, with the columns of [Collecting]; it is called twice.
func (t *Task) Over(ctx context.Context, run func(context.Context, table.Sink) error) (*Found, error) {
	collected := &collector{Sources: t.Sources}
	if err := run(ctx, collected); err != nil {
		return nil, err
	}
	samples := collected.Samples()
	j := newJudge(t, samples)
	judged := j.likely(t.search(j))
	if len(judged) == 0 {
		return &Found{}, nil
	}
	leading := judged[:min(len(judged), mostLeading)]
	counted := &counter{Sources: t.Sources, task: t, makes: j.makes, Rules: slices.Concat(leading, j.alikes(leading[0]))}
	if err := run(ctx, counted); err != nil {
		return nil, err
	}
	counted.forget(len(leading))
	f := &Found{Rules: counted.Rules, Questions: counted.Groups, Cells: counted.Cells, More: counted.More}
	order(f.Questions, f.Rules)
	f.Type = t.typeOf(f.Rules[0].Rule, samples)
	if len(f.Questions) == 0 && t.unsure(f.Rules[0].Rule, samples) {
		f.Questions = t.confirm(f.Rules, samples, counted.Cells)
	}
	return f, nil
}

// typeOf returns the type of the results of a rule: the one that is asked for, or one that all of them have.
func (t *Task) typeOf(r *Rule, samples []Sample) *Type {
	reader := reading.NewReader(nil)
	var counts []reading.Count
	for i := range samples {
		if out, of := r.Apply(samples[i].Texts); of == Answered {
			x := reader.Read([]byte(out))
			cells := max(1, int64(samples[i].Cells))
			counts = append(counts, reading.Count{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: cells})
		}
	}
	c := reading.Conclude(counts, reading.Ask{Type: t.Type})
	if t.Type == nil && (c.Convention.Type == value.Text || c.Fails > 0) {
		return nil
	}
	return &Type{c.Convention, c.Convention.Terms(counts)}
}

// Give gives the last of the columns that do what a rule does a type. Texts that are computed are joined to one, since an
// expression has a type of its own.
func (t *Type) Give(columns []plan.Column, taken map[string]bool) []plan.Column {
	last := &columns[len(columns)-1]
	if last.Compute != nil {
		name := last.Name
		last.Name, last.Helper = plan.UniqueName(name+"_text", taken), true
		columns = append(columns, plan.Column{Name: name, Join: &plan.Join{Columns: []string{last.Name}}})
		last = &columns[len(columns)-1]
	}
	last.Convention, last.Terms = t.Convention, t.Terms
	return columns
}

// Value returns a result as a value of the type is written; as it is where it is none.
func (t *Type) Value(result string) string {
	x := reading.NewReader(nil).Read([]byte(result))
	if _, fits := t.Convention.Judge(x.Set, x.Form); !fits || result == "" {
		return result
	}
	return string(t.Convention.Append(nil, []byte(result), x))
}

// alikes returns rules that do what a rule does to all samples, and may do something else to other rows.
func (j *judge) alikes(r *Judged) (list []*Judged) {
	add := func(rule *Rule) {
		if len(list) < mostAlikes {
			list = append(list, &Judged{Rule: rule, Weight: r.Weight / 100})
		}
	}
	for i, p := range r.Pieces {
		for _, other := range j.alike[p][:min(len(j.alike[p]), 2)] {
			one := *r.Rule
			one.Pieces = slices.Clone(r.Pieces)
			one.Pieces[i] = other
			add(&one)
		}
	}
	for _, rule := range r.alike {
		add(rule)
	}
	return list
}

// mostAlikes is how many of them are taken over the whole column.
const mostAlikes = 3

// forget leaves rules out, from a number on, that have done what the first rule does to all rows.
func (c *counter) forget(from int) {
	differs := make([]bool, len(c.Rules))
	for _, g := range c.Groups {
		for i := range g.outs {
			differs[i] = differs[i] || g.outs[i].text != g.outs[0].text
		}
	}
	for i := len(c.Rules) - 1; i >= from; i-- {
		if differs[i] {
			continue
		}
		c.Rules = slices.Delete(c.Rules, i, i+1)
		for _, g := range c.Groups {
			g.outs = slices.Delete(g.outs, i, i+1)
		}
	}
}

// bitsShown is how much of what a piece of a rule costs to say an example makes up for: a rule that says much is one of
// many that fit a few examples by chance.
const bitsShown = 2.0

// unsure reports whether a rule needs another example although there is no other rule: it says more than the examples
// bear out, or gives one and the same text for all cells.
func (t *Task) unsure(r *Rule, samples []Sample) bool {
	shown := 0.0
	results := map[string]bool{}
	for i := range t.Examples {
		if e := &t.Examples[i]; !e.None() {
			shown++
			results[e.Result] = true
		}
	}
	for _, p := range r.Pieces {
		lettered := strings.IndexFunc(p.Text, func(c rune) bool { return classOf(c) == letter || classOf(c) == digit }) >= 0
		if lettered && (shown < 2 || shown < 3 && utf8.RuneCountInString(p.Text) < 3) || p.Text == "" &&
			p.cost > bitsShown*shown+0.5 {
			return true
		}
	}
	if shown > 3 || len(results) > 1 {
		return false
	}
	for _, s := range samples {
		if out, of := r.Apply(s.Texts); of == Answered && !results[out] {
			return shown == 1 && utf8.RuneCountInString(out) < 2
		}
	}
	return true
}

// confirm returns a question about a row that is unlike the examples: the longest one that none of them has, or the
// shortest.
func (t *Task) confirm(rules []*Judged, samples []Sample, cells int64) []*Group {
	var chosen *Sample
	size := func(s *Sample) int {
		n := len(strings.Join(s.Texts, ""))
		if len(t.Examples)%2 == 0 {
			return -n
		}
		return n
	}
	for i := range samples {
		s := &samples[i]
		known := slices.ContainsFunc(t.Examples, func(e Example) bool { return slices.Equal(e.Texts, s.Texts) })
		if !known && !blankFor(rules[0].Rule, s.Texts) && (chosen == nil || size(s) > size(chosen)) {
			chosen = s
		}
	}
	if chosen == nil {
		return nil
	}
	g := &Group{
		Shape: shapeOf(t.Sources, chosen.Texts), Row: chosen.Row, Texts: chosen.Texts, Cells: cells,
		Confirms: true,
	}
	g.outs = ownOutcomes(newRunner(rules).run(chosen.Texts))
	return []*Group{g}
}
