package teach

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"junvo/internal/reason"
	"junvo/internal/step"
	"junvo/internal/value"
)

// Bounds of the search: with them it ends in a fraction of a second, whatever the cells.
const (
	maxMembers   = 12     // chains that make the same of the examples and are made longer
	mostMembers  = 24     // that are kept of a class of pieces
	maxNodes     = 260    // chains that are made longer
	maxWays      = 240    // ways to make the results of classes
	maxSearched  = 20_000 // ways that are looked at for these, complete or not
	maxArrived   = 60     // ways that go on from one place
	maxRules     = 600    // that a search returns
	maxChoices   = 50     // of members on one way
	maxPieces    = 9      // of a rule, constants included
	maxConstants = 24     // characters of a constant
	maxText      = 1000   // bytes of a cell of an example
)

// Task is what rules are searched for.
type Task struct {
	Sources  []Source
	Examples []Example
	Type     *value.Type // that the results are to have; nil for what they show
}

// atom is a chain of steps on a source, with what it makes of the examples that have results.
type atom struct {
	Piece
	outs []string
}

// atomClass is the atoms that make the same texts of all examples, the cheapest first.
type atomClass struct {
	outs    []string
	members []*atom
	told    bool // those that do the same to all rows that are judged are one
}

// finder searches for the rules of a task.
type finder struct {
	*Task
	judge   *judge     // nil for none
	shown   []*Example // those with results
	results []string
	offers  offers
	classes map[string]*atomClass
	order   []*atomClass // as they were found, so that a search is always the same
	scratch []string
	texts   string // all cells of the examples, to see which constants come of them
}

// Search returns the rules that fit all examples, the simplest first.
func (t *Task) Search() []*Rule { return t.search(nil) }

// search searches for rules. Pieces that do the same to all rows that are judged are one, where there are some.
func (t *Task) search(j *judge) []*Rule {
	f := &finder{
		Task: t, judge: j, classes: map[string]*atomClass{},
		offers: offers{made: map[string]*step.Named{}, names: map[string]step.Args{}},
	}
	without := false
	for i := range t.Examples {
		e := &t.Examples[i]
		if e.None() {
			without = true
			continue
		}
		f.shown = append(f.shown, e)
		f.texts += strings.ToLower(strings.Join(e.Texts, "\n")) + "\n"
	}
	if len(f.shown) == 0 {
		return nil
	}
	// How a rule goes on where a cell is blank is looked at when it is found: the others show what it is.
	if whole := slices.DeleteFunc(slices.Clone(f.shown), t.anyBlank); len(whole) > 0 {
		f.shown = whole
	}
	for _, e := range f.shown {
		f.results = append(f.results, e.Result)
	}
	for i := range t.Sources {
		f.enumerate(i)
	}
	var rules []*Rule
	for _, r := range append(f.compose(), f.labels()...) {
		r.Without = without
		rules = f.keepFitting(rules, r)
		if len(rules) == maxRules {
			break
		}
	}
	slices.SortStableFunc(rules, func(a, b *Rule) int { return cmp.Compare(a.Cost, b.Cost) })
	return rules
}

// anyBlank reports whether a cell of an example is blank.
func (t *Task) anyBlank(e *Example) bool {
	for i, s := range t.Sources {
		if s.Read == nil && e.Texts[i] == "" {
			return true
		}
	}
	return false
}

// keepFitting adds a rule if it fits all examples: those without a result, too, and those in which cells are blank.
func (f *finder) keepFitting(rules []*Rule, r *Rule) []*Rule {
	ways := []bool{false}
	if r.Several {
		ways = []bool{false, true}
	}
	for _, blanks := range ways {
		one := *r
		if one.Blanks = blanks; blanks {
			if _, ok := one.separator(); !ok {
				continue
			}
			one.Cost += 0.5
		}
		one.attach()
		if !slices.ContainsFunc(f.Examples, func(e Example) bool { return !one.fits(&e) }) {
			rules = append(rules, &one)
		}
	}
	return rules
}

// separator returns the text that stands between all pieces; ok is false where there are others, or some at the ends.
// It can be left out with a piece.
func (r *Rule) separator() (with string, ok bool) {
	n := len(r.variable())
	if len(r.Pieces) == n {
		return "", true
	}
	if len(r.Pieces) != 2*n-1 {
		return "", false
	}
	for i, p := range r.Pieces {
		if (i%2 == 1) != (p.Text != "") || i%2 == 1 && p.Text != r.Pieces[1].Text {
			return "", false
		}
	}
	return r.Pieces[1].Text, true
}

// enumerate finds the chains on a source, by the number of their steps.
func (f *finder) enumerate(source int) {
	var texts []string
	for _, e := range f.shown {
		t := e.Texts[source]
		if t == "" || len(t) > maxText {
			if len(f.shown) == 1 || !f.severalColumns() || len(t) > maxText {
				return
			}
			continue // a rule of several columns may do without
		}
		texts = append(texts, t)
	}
	if len(texts) == 0 {
		return
	}
	root := &atom{Piece: Piece{Source: source}, outs: texts}
	if f.Sources[source].Read != nil {
		root.cost = costRead
		if f.Sources[source].Digits > 0 {
			root.cost += 0.5
		}
		if f.Sources[source].Up {
			root.cost += 0.3
		}
	}
	level := []*atom{root}
	if f.finish(root); f.Sources[source].Digits > 0 {
		return // a number that is laid out is not taken apart: that is done with the number itself
	}
	seen := map[string]int{strings.Join(texts, "\x00"): 1}
	for depth := range 2 {
		var next []*atom
		for _, a := range level {
			f.offers.list = f.offers.list[:0]
			results := f.resultsOf(source)
			if depth == 0 {
				f.offers.mends()
				f.offers.forms(a.outs, results)
			}
			f.offers.takes(a.outs, results, depth == 0)
			f.offers.selections(a.outs, results)
			for i := range f.offers.list {
				o := &f.offers.list[i]
				outs := f.outs(a, o)
				if outs == nil {
					continue
				}
				if key := strings.Join(outs, "\x00"); seen[key] < maxMembers {
					seen[key]++
					next = append(next, extended(a, o, slices.Clone(outs)))
				}
			}
		}
		slices.SortStableFunc(next, func(a, b *atom) int { return cmp.Compare(a.cost, b.cost) })
		for _, b := range next {
			f.finish(b)
		}
		level = next[:min(len(next), maxNodes)]
	}
}

func (f *finder) severalColumns() bool {
	return slices.ContainsFunc(f.Sources, func(s Source) bool { return s.Column != f.Sources[0].Column })
}

// resultsOf returns the results of the examples in which a source is not blank.
func (f *finder) resultsOf(source int) (results []string) {
	for _, e := range f.shown {
		if e.Texts[source] != "" {
			results = append(results, e.Result)
		}
	}
	return results
}

// outs takes the texts of a chain through one more step; nil where it fails, leaves nothing, or changes nothing. They
// are good until it is called again.
func (f *finder) outs(a *atom, o *offered) []string {
	f.scratch = f.scratch[:0]
	changed := o.idle
	for _, t := range a.outs {
		out, why := o.Step.Apply(t)
		if why != reason.None || out == "" {
			return nil
		}
		f.scratch = append(f.scratch, out)
		changed = changed || out != t
	}
	if !changed {
		return nil
	}
	return f.scratch
}

// extended returns a chain with one more step, which makes these texts.
func extended(a *atom, o *offered, outs []string) *atom {
	cost := a.cost + o.cost
	if len(a.Chain) > 0 {
		cost += costStep
	}
	b := &atom{Piece{Source: a.Source, Chain: append(slices.Clip(a.Chain), *o.Named), first: a.first, cost: cost}, outs}
	if b.first == nil {
		b.first = o.Named
	}
	return b
}

// finish keeps a chain as a piece of results, if it may be one, as it is or after one more step.
func (f *finder) finish(a *atom) {
	if f.stand(a.Source, a.outs) {
		f.keep(a)
	}
	f.offers.list = f.offers.list[:0]
	f.offers.finishes(a.outs, f.resultsOf(a.Source))
	if f.Sources[a.Source].Read != nil {
		f.offers.months(a.outs, f.results)
	}
	for i := range f.offers.list {
		o := &f.offers.list[i]
		if outs := f.outs(a, o); outs != nil && f.stand(a.Source, outs) {
			f.keep(extended(a, o, slices.Clone(outs)))
		}
	}
}

// stand reports whether what is made of a source stands in the results.
func (f *finder) stand(source int, outs []string) bool {
	for _, e := range f.shown {
		if e.Texts[source] == "" {
			continue
		}
		if !strings.Contains(e.Result, outs[0]) {
			return false
		}
		outs = outs[1:]
	}
	return true
}

// keep adds a chain to its class.
func (f *finder) keep(a *atom) {
	i := 0
	outs := make([]string, len(f.shown))
	for j, e := range f.shown {
		if e.Texts[a.Source] != "" {
			outs[j] = a.outs[i]
			i++
		}
	}
	key := strings.Join(outs, "\x00")
	c := f.classes[key]
	if c == nil {
		c = &atomClass{outs: outs}
		f.classes[key] = c
		f.order = append(f.order, c)
	}
	at, _ := slices.BinarySearchFunc(c.members, a.cost, func(m *atom, cost float64) int {
		if m.cost <= cost {
			return -1
		}
		return 1
	})
	if at < mostMembers {
		c.members = slices.Insert(c.members, at, a)
		c.members = c.members[:min(len(c.members), mostMembers)]
	}
}

// months offers names in place of the numbers of months.
func (o *offers) months(texts, results []string) {
	if slices.ContainsFunc(texts, func(t string) bool { return len(t) != 2 || t < "01" || t > "12" }) {
		return
	}
	for _, short := range []bool{false, true} {
		list := args{}
		for m := time.January; m <= time.December; m++ {
			name := m.String()
			if short {
				name = name[:3]
			}
			list[string('0'+rune(m/10))+string('0'+rune(m%10))] = name
		}
		o.add(costMonth, "substitute", args{"list": list})
	}
}
