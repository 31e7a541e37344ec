package teach

import (
	"slices"
	"strings"

	"junvo/internal/step"
)

const (
	costLabel = 3.0 // for each label of a rule
	fewLabels = 2   // texts that must have a label for a word of theirs to be why
	mostWords = 3   // that may be why
	mostLabel = 12  // labels of a rule
)

// labels adds rules that give each text a label by a word in it. A word is why a text has its label only where at least
// two texts with that label have it, and none with another; one text is no evidence, but a special case.
func (f *finder) labels() (rules []*Rule) {
	for source, s := range f.Sources {
		if s.Read != nil {
			continue
		}
		var order []string
		texts := map[string][]string{}
		for _, e := range f.shown {
			if texts[e.Result] == nil {
				order = append(order, e.Result)
			}
			if !slices.Contains(texts[e.Result], e.Texts[source]) {
				texts[e.Result] = append(texts[e.Result], e.Texts[source])
			}
		}
		if len(order) < 2 || len(order) > mostLabel {
			continue
		}
		choices := [][]step.Args{nil}
		for _, result := range order {
			if len(texts[result]) < fewLabels {
				choices = nil
				break
			}
			var next [][]step.Args
			for _, w := range f.reasons(source, result, texts[result]) {
				rule := args{"contains": w, "then": result, "ignore-case": true}
				for _, c := range choices {
					next = append(next, append(slices.Clone(c), step.Args(rule)))
				}
			}
			choices = next[:min(len(next), 27)]
		}
		for _, c := range choices {
			all := append(c, args{"otherwise": "fail"})
			made, err := step.New("label", all)
			if err != nil {
				continue
			}
			cost := costLabel * float64(len(order))
			p := &Piece{Source: source, Chain: step.Chain{{Name: "label", Args: all, Step: made}}, cost: cost}
			rules = append(rules, &Rule{Pieces: []*Piece{p}, Cost: cost})
		}
	}
	return rules
}

// reasons returns words that all texts with a result have and no text of another example.
func (f *finder) reasons(source int, result string, texts []string) (words []string) {
	for _, r := range runsOf(strings.ToLower(texts[0])) {
		if r.class != letter || len(r.text) < 2 || slices.Contains(words, r.text) {
			continue
		}
		has := func(t string) bool { return strings.Contains(strings.ToLower(t), r.text) }
		if slices.ContainsFunc(texts, func(t string) bool { return !has(t) }) ||
			slices.ContainsFunc(f.Examples, func(e Example) bool { return e.Result != result && has(e.Texts[source]) }) {
			continue
		}
		if words = append(words, r.text); len(words) == mostWords {
			break
		}
	}
	return words
}

// Contradiction returns two examples that show different results of the same cells; ok is false where there are none.
func (t *Task) Contradiction() (a, b int, ok bool) {
	for j := range t.Examples {
		for i := range j {
			if slices.Equal(t.Examples[i].Texts, t.Examples[j].Texts) && t.Examples[i].Result != t.Examples[j].Result {
				return i, j, true
			}
		}
	}
	return 0, 0, false
}

// Nearest returns a rule that fits most of the examples, where none fits all, and the examples that it misses.
func (t *Task) Nearest() (*Rule, []int) {
	var best *Rule
	var missed []int
	look := func(examples []Example) {
		part := &Task{Sources: t.Sources, Examples: examples}
		for _, r := range part.Search() {
			var misses []int
			for i := range t.Examples {
				if !r.fits(&t.Examples[i]) {
					misses = append(misses, i)
				}
			}
			if len(misses) < len(t.Examples) && (best == nil || len(misses) < len(missed)) {
				best, missed = r, misses
			}
		}
	}
	few := t.Examples[:min(len(t.Examples), 8)]
	for i := range few { // one is wrong, perhaps
		look(slices.Delete(slices.Clone(few), i, i+1))
	}
	if best == nil {
		for i := range few {
			look(few[i : i+1])
		}
	}
	return best, missed
}
