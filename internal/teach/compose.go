package teach

import (
	"cmp"
	"container/heap"
	"encoding/binary"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// way is a way through the results: the classes and constants that they are made of so far.
type way struct {
	at    []int // how far each of the results is made
	cost  float64
	edge  edge
	from  *way
	parts int
}

// edge is a class, or a constant where there is none.
type edge struct {
	class *atomClass
	text  string
	cost  float64
}

type ways []*way

func (w ways) Len() int           { return len(w) }
func (w ways) Less(i, j int) bool { return w[i].cost < w[j].cost }
func (w ways) Swap(i, j int)      { w[i], w[j] = w[j], w[i] }
func (w *ways) Push(x any)        { *w = append(*w, x.(*way)) }
func (w *ways) Pop() any {
	last := (*w)[len(*w)-1]
	*w = (*w)[:len(*w)-1]
	return last
}

// compose finds the cheapest ways to make the results of classes and constants, and the rules of each.
func (f *finder) compose() []*Rule {
	open := ways{{at: make([]int, len(f.results))}}
	arrived := map[string]int{} // how many ways have come to each place
	var place []byte
	var rules []*Rule
	found := 0
	best := 0.0
	for n := 0; len(open) > 0 && n < maxSearched && found < maxWays; n++ {
		w := heap.Pop(&open).(*way)
		if found > 0 && w.cost > best+costSpread {
			break
		}
		if f.reachesEnd(w) {
			if made := f.rulesOf(w); len(made) > 0 {
				if found == 0 {
					best = w.cost
				}
				rules = append(rules, made...)
				found++
			}
			continue
		}
		place = place[:0]
		for _, at := range w.at {
			place = binary.AppendUvarint(place, uint64(at))
		}
		if arrived[string(place)]++; arrived[string(place)] > maxArrived || w.parts == maxPieces {
			continue
		}
		f.each(w, func(e edge) {
			if found > 0 && w.cost+e.cost > best+costSpread {
				return
			}
			next := &way{at: slices.Clone(w.at), cost: w.cost + e.cost, edge: e, from: w, parts: w.parts + 1}
			for i := range next.at {
				if e.class != nil {
					next.at[i] += len(e.class.outs[i])
				} else {
					next.at[i] += len(e.text)
				}
			}
			heap.Push(&open, next)
		})
	}
	slices.SortStableFunc(rules, func(a, b *Rule) int { return cmp.Compare(a.Cost, b.Cost) })
	return rules
}

// costSpread is how much more than the cheapest a rule may cost.
const costSpread = 12

func (f *finder) reachesEnd(w *way) bool {
	for i, at := range w.at {
		if at != len(f.results[i]) {
			return false
		}
	}
	return true
}

// each calls a function with what may come next on a way.
func (f *finder) each(w *way, visit func(edge)) {
	variable := false
	for v := w; v.from != nil; v = v.from {
		variable = variable || v.edge.class != nil
	}
	for _, c := range f.order {
		fits := true
		for i, out := range c.outs {
			if !strings.HasPrefix(f.results[i][w.at[i]:], out) {
				fits = false
				break
			}
		}
		if fits && !(w.edge.text != "" && joins(w.edge.text, c.outs[0])) {
			cost := c.members[0].cost
			if variable {
				cost += costPiece
			}
			visit(edge{class: c, cost: cost})
		}
	}
	if w.from != nil && w.edge.class == nil {
		return // two constants are one
	}
	common := f.results[0][w.at[0]:]
	for i, r := range f.results[1:] {
		common = commonPrefix(common, r[w.at[i+1]:])
	}
	n := 0
	for i := range common { // constants end where characters do
		if i > 0 && f.stands(w, common[:i]) {
			visit(edge{text: common[:i], cost: f.costOf(common[:i])})
		}
		if n++; n > maxConstants {
			return
		}
	}
	if common != "" && f.wholeCharacters(w, len(common)) && f.stands(w, common) {
		visit(edge{text: common, cost: f.costOf(common)})
	}
}

// joins reports whether one text would go on with the last word or number of another.
func joins(before, after string) bool {
	if before == "" || after == "" {
		return false
	}
	a, _ := utf8.DecodeLastRuneInString(before)
	b, _ := utf8.DecodeRuneInString(after)
	return classOf(a) == classOf(b) && (classOf(a) == letter || classOf(a) == digit)
}

// stands reports whether a constant may come next on a way: it does not go on with a word or a number that comes of the
// cells, unless it is an ending, of two letters at most or of zeros.
func (f *finder) stands(w *way, text string) bool {
	made := f.results[0][:w.at[0]]
	if !joins(made, text) {
		return true
	}
	ending := len(made)+len(text) == len(f.results[0])
	return ending && (strings.Trim(text, "0") == "" || utf8.RuneCountInString(text) <= 2 &&
		strings.IndexFunc(text, unicode.IsDigit) < 0)
}

// wholeCharacters reports whether a constant of that many bytes ends where characters do in all results.
func (f *finder) wholeCharacters(w *way, n int) bool {
	for i, r := range f.results {
		if end := w.at[i] + n; end < len(r) && r[end]&0xc0 == 0x80 {
			return false
		}
	}
	return true
}

func commonPrefix(a, b string) string {
	n := 0
	for n < min(len(a), len(b)) && a[n] == b[n] {
		n++
	}
	return a[:n]
}

// costOf is what it costs to say a constant: more where it has letters or digits, and more yet where they stand in the
// cells, of which they likely come.
func (f *finder) costOf(text string) float64 {
	cost := 0.4
	for _, r := range runsOf(text) {
		n := float64(len([]rune(r.text)))
		switch r.class {
		case letter:
			cost += costLetter * min(n, 6)
		case digit:
			cost += costDigit * n
		default:
			cost += costMark1 * min(n, 3)
			continue
		}
		if strings.Contains(f.texts, strings.ToLower(r.text)) {
			cost += costSeen
		}
	}
	return cost
}

// members returns the members of a class that do something else to a row that is judged, the cheapest of each.
func (f *finder) members(c *atomClass) []*atom {
	if f.judge == nil || c.told {
		return c.members
	}
	c.told = true
	first := map[uint64]*Piece{}
	c.members = slices.DeleteFunc(c.members, func(m *atom) bool {
		tidy := f.judge.tidyPiece(&m.Piece) // as it will stand in a rule
		sign := signature(f.judge.of(tidy))
		if have := first[sign]; have != nil {
			f.judge.alike[have] = append(f.judge.alike[have], tidy)
			return true
		}
		first[sign] = tidy
		return false
	})
	return c.members
}

// rulesOf returns the rules of a way: every choice of members of its classes, the cheapest first.
func (f *finder) rulesOf(w *way) []*Rule {
	var edges []edge
	for v := w; v.from != nil; v = v.from {
		edges = append(edges, v.edge)
	}
	slices.Reverse(edges)
	rules := []*Rule{{}}
	for _, e := range edges {
		var next []*Rule
		for _, r := range rules {
			if e.class == nil {
				next = append(next, r.with(&Piece{Text: e.text}, e.cost))
				continue
			}
			for _, m := range f.members(e.class) {
				cost := m.cost
				if len(r.variable()) > 0 {
					cost += costPiece
				}
				if r.continues(&m.Piece) {
					cost += costTwice
				}
				next = append(next, r.with(&m.Piece, cost))
			}
		}
		slices.SortStableFunc(next, func(a, b *Rule) int { return cmp.Compare(a.Cost, b.Cost) })
		rules = next[:min(len(next), maxChoices)]
	}
	for _, r := range rules {
		columns := map[string]bool{}
		for _, p := range r.variable() {
			columns[f.Sources[p.Source].Column] = true
		}
		if len(columns) == 0 {
			return nil // a constant for all cells is no rule
		}
		r.Several = len(columns) > 1
		r.Cost += costColumn * float64(len(columns)-1)
	}
	return rules
}

func (r *Rule) with(p *Piece, cost float64) *Rule {
	return &Rule{Pieces: append(slices.Clip(slices.Clone(r.Pieces)), p), Cost: r.Cost + cost}
}

// continues reports whether a piece would go on with the same part of a source that the piece before it is of: such a
// rule takes a run apart only to put it together again.
func (r *Rule) continues(p *Piece) bool {
	if len(r.Pieces) == 0 {
		return false
	}
	last := r.Pieces[len(r.Pieces)-1]
	return last.Text == "" && last.Source == p.Source && p.first != nil && last.first == p.first
}
