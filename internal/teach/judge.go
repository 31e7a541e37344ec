package teach

import (
	"cmp"
	"hash/maphash"
	"math"
	"slices"
	"strings"
	"unsafe"

	"junvo/internal/character"
	"junvo/internal/step"
)

// Sample is a row that stands for others like it.
type Sample struct {
	Row   int64
	Texts []string // of the sources
	Cells float64  // how many it stands for
}

// shapeOf returns what the cells of a row look like, those that came.
func shapeOf(sources []Source, texts []string) string {
	var parts []string
	for i, s := range sources {
		if s.Read == nil {
			parts = append(parts, character.Shape(texts[i]))
		}
	}
	return strings.Join(parts, " | ")
}

// Judged is a rule with what it does to the samples.
type Judged struct {
	*Rule
	// Weight is how likely the rule is the one that is meant, against others: by its cost, by how many cells it fails in,
	// and by how many results look otherwise than those of the examples.
	Weight  float64
	alike   []*Rule // others that do the same to all samples, and cost more
	Answers [numOutcomes]int64
	outs    []outcome // what it makes of the samples
	score   float64
}

// margin is by how much a rule may be worse than the best one and still be one of those that may be meant.
const margin = 6.0

// mostJudged is how many rules are held against all samples.
const mostJudged = 400

// newJudge returns a judge for the rules of a task.
func newJudge(t *Task, samples []Sample) *judge {
	j := &judge{
		task: t, samples: samples, pieces: map[*Piece][]outcome{}, tidied: map[*Piece]*Piece{},
		alike: map[*Piece][]*Piece{}, makes: makesOf(t),
	}
	return j
}

// likely holds rules against samples of a column, and returns those that may be meant, the likeliest first. Rules that
// do the same to all samples are one.
func (j *judge) likely(rules []*Rule) []*Judged {
	rules = rules[:min(len(rules), mostJudged)]
	var all []*Judged
	bySignature := map[uint64]*Judged{}
	for _, r := range rules {
		one := j.judge(j.tidy(r))
		sign := signature(one.outs)
		if have := bySignature[sign]; have != nil {
			have.Weight += math.Exp2(-one.score)
			if one.score < have.score {
				one.Rule, have.Rule, have.score = have.Rule, one.Rule, one.score
			}
			have.alike = append(have.alike, one.Rule)
			continue
		}
		one.Weight = math.Exp2(-one.score)
		bySignature[sign] = one
		all = append(all, one)
	}
	slices.SortStableFunc(all, func(a, b *Judged) int { return cmp.Compare(a.score, b.score) })
	for i, one := range all {
		if one.score > all[0].score+margin {
			return all[:i]
		}
	}
	return all
}

// judge is what rules are held against.
type judge struct {
	task    *Task
	samples []Sample
	pieces  map[*Piece][]outcome // what each makes of the samples
	tidied  map[*Piece]*Piece
	alike   map[*Piece][]*Piece // other pieces that do the same to all samples
	makes   *makes
}

func merge(a, b [3]uint64) [3]uint64 { return [3]uint64{a[0] | b[0], a[1] | b[1], a[2] | b[2]} }

// of returns what a piece makes of all samples.
func (j *judge) of(p *Piece) []outcome {
	have, ok := j.pieces[p]
	if !ok {
		have = make([]outcome, len(j.samples))
		for i := range j.samples {
			have[i] = p.apply(j.samples[i].Texts)
		}
		j.pieces[p] = have
	}
	return have
}

// tidy returns a rule whose pieces have no spaces at their ends, where the examples have none there.
func (j *judge) tidy(r *Rule) *Rule {
	out := r
	for i, p := range r.Pieces {
		if q := j.tidyPiece(p); q != p {
			if out == r {
				one := *r
				one.Pieces = slices.Clone(r.Pieces)
				out = &one
			}
			out.Pieces[i] = q
			out.Cost += 0.2
		}
	}
	return out
}

func (j *judge) tidyPiece(p *Piece) *Piece {
	if p.Text != "" {
		return p
	}
	if have, ok := j.tidied[p]; ok {
		return have
	}
	trim, err := step.New("trim", nil)
	q := *p
	q.Chain = append(slices.Clone(p.Chain), step.Named{Name: "trim", Step: trim})
	j.tidied[p] = p
	if err != nil {
		return p
	}
	for i := range j.task.Examples { // a space at an end may be what is shown
		e := &j.task.Examples[i]
		if !e.None() && p.apply(e.Texts) != q.apply(e.Texts) {
			return p
		}
	}
	for _, o := range j.of(p) {
		if o.text != "" && o.text != strings.TrimSpace(o.text) {
			j.tidied[p] = &q
			return &q
		}
	}
	return p
}

// judge holds one rule against the samples.
func (j *judge) judge(r *Rule) *Judged {
	pieces := make([][]outcome, len(r.Pieces))
	for i, p := range r.Pieces {
		if p.Text == "" {
			pieces[i] = j.of(p)
		}
	}
	one := &Judged{Rule: r, outs: make([]outcome, len(j.samples))}
	var cells, failed, strange float64
	for s := range j.samples {
		out, _ := r.join(func(i int) outcome {
			if pieces[i] == nil {
				return outcome{text: r.Pieces[i].Text}
			}
			return pieces[i][s]
		}, nil)
		one.outs[s] = out
		if blankFor(r, j.samples[s].Texts) {
			continue
		}
		n := j.samples[s].Cells
		cells += n
		switch {
		case out.of != Answered:
			failed += n
		case j.makes.otherMade(out.text):
			strange += n
		}
	}
	one.score = r.Cost
	if failed == cells {
		one.score += costNone
	}
	if cells > failed {
		one.score += costOtherway * strange / (cells - failed)
	}
	if cells > 0 {
		one.score += costFails * failed / cells
	}
	return one
}

// blankFor reports whether all cells that a rule uses are blank.
func blankFor(r *Rule, texts []string) bool {
	for _, p := range r.Pieces {
		if p.Text == "" && texts[p.Source] != "" {
			return false
		}
	}
	return true
}

var seed = maphash.MakeSeed()

// signature tells apart what is made of all samples: the texts, whether there is none for one reason or another.
func signature(outs []outcome) uint64 {
	var h maphash.Hash
	h.SetSeed(seed)
	for i := range outs { // with their lengths, since a text may have any byte
		maphash.WriteComparable(&h, len(outs[i].text))
		h.WriteString(outs[i].text)
	}
	return h.Sum64()
}

// Group is the rows of a shape in which rules disagree in one and the same way, or that none of them answers.
type Group struct {
	Shape string
	Row   int64    // of the first one
	Texts []string // of its sources
	Cells int64
	// Confirms says that the rules agree here, and rest on too few examples; Other, that what they give looks otherwise
	// than what the examples show, or that of these cells something counts that no example has.
	Confirms, Other bool
	outs            []outcome // of the rules
}

// Answer is what some of the rules make of the first row of a group.
type Answer struct {
	Result string // "" for none
	Rules  []int  // which, from 0
	Cells  int64  // for which these rules give something, and each the same
}

// Answers returns what the rules make of the first row, in the order of the rules.
func (g *Group) Answers() (answers []Answer) {
	for i, o := range g.outs {
		at := slices.IndexFunc(answers, func(a Answer) bool { return a.Result == o.text })
		if at < 0 {
			at = len(answers)
			answers = append(answers, Answer{Result: o.text, Cells: g.Cells})
		}
		answers[at].Rules = append(answers[at].Rules, i)
	}
	return answers
}

// gain is how much of what is not known yet the answer for a group would tell: the entropy of the rules' weights.
func (g *Group) gain(rules []*Judged) (bits float64) {
	total := 0.0
	for _, r := range rules {
		total += r.Weight
	}
	for _, a := range g.Answers() {
		share := 0.0
		for _, i := range a.Rules {
			share += rules[i].Weight / total
		}
		if share > 0 {
			bits -= share * math.Log2(share)
		}
	}
	return bits
}

// order sorts groups so that the most telling one is first.
func order(groups []*Group, rules []*Judged) {
	slices.SortStableFunc(groups, func(a, b *Group) int {
		if c := cmp.Compare(math.Round(b.gain(rules)*1e6), math.Round(a.gain(rules)*1e6)); c != 0 {
			return c
		}
		if c := cmp.Compare(b.Cells, a.Cells); c != 0 {
			return c
		}
		return cmp.Compare(a.Row, b.Row)
	})
}

// groupKey appends what the rows of a group have in common: their shape, and which rules agree.
func groupKey(dst []byte, sources []Source, texts []string, outs []outcome) []byte {
	for i, s := range sources {
		if s.Read == nil {
			dst = append(character.AppendShape(dst, unsafe.Slice(unsafe.StringData(texts[i]), len(texts[i]))), 0)
		}
	}
	for i := range outs {
		first := 0
		for outs[first].text != outs[i].text {
			first++
		}
		dst = append(dst, byte(first))
	}
	return dst
}
