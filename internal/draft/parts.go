package draft

import (
	"regexp"
	"strings"
	"sync"

	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/step"
	"junvo/internal/value"
)

// part is a column that is made of a part of cells: by a split, or by steps.
type part struct {
	suffix string
	steps  step.Chain
}

// partForm is a form of cells that have parts, and how these are taken.
type partForm struct {
	say     string
	pattern *regexp.Regexp // whole cells of the form
	split   step.Args      // nil where each part has steps of its own
	parts   []part
}

type stepArgs = map[string]step.Args

func taking(args stepArgs) step.Chain { return step.Chain{{Name: "take", Args: args}} }

// partForms are the forms, those that say more before those that fit more. They are made when a plan is first drafted:
// a start of the program does without.
var partForms = sync.OnceValue(func() []partForm {
	return []partForm{
		{
			"two names, the last one first", regexp.MustCompile(`^(?:\p{Ll}{1,4} ){0,2}\p{Lu}[\p{L}\p{M}'’ -]*, ?\p{Lu}[\p{L}\p{M}'’. -]*$`),
			stepArgs{"at": ","},
			[]part{{"last", trimming}, {"first", trimming}},
		},
		{
			"a number, x, another number and a unit", regexp.MustCompile(`^\d+(?:[.,]\d+)? ?[x×] ?\d+(?:[.,]\d+)? ?[\p{L}µ]*\.?$`), nil,
			[]part{
				{"1", taking(stepArgs{"number": 1})},
				{"2", taking(stepArgs{"number": 2})},
				{"unit", step.Chain{{Name: "take", Args: stepArgs{"pattern": `\d ?([^\d\s]+)$`, "otherwise": "blank"}}}},
			},
		},
		{
			"two numbers", regexp.MustCompile(`^\d+ ?[/–-] ?\d+$`), nil,
			[]part{{"1", taking(stepArgs{"digits": 1})}, {"2", taking(stepArgs{"digits": 2})}},
		},
		{
			"a text, and in brackets a number with a unit", regexp.MustCompile(`^\p{L}[^()]*\(\d+(?:[.,]\d+)? ?[\p{L}%°]+\)$`), nil,
			[]part{
				{"text", step.Chain{{Name: "take", Args: stepArgs{"before": "("}}, {Name: "trim"}}},
				{"number", step.Chain{
					{Name: "take", Args: stepArgs{"between": []step.Args{"(", ")"}}},
					{Name: "take", Args: stepArgs{"number": 1}},
				}},
				{"unit", step.Chain{
					{Name: "take", Args: stepArgs{"between": []step.Args{"(", ")"}}}, {
						Name: "keep",
						Args: []step.Args{"letters", "%", "°"},
					},
				}},
			},
		},
		{
			"a key and a value", regexp.MustCompile(`^[\p{L}_][\p{L}\d_ -]*=[^=;,&]+$`),
			stepArgs{"at": "="},
			[]part{{"key", trimming}, {"value", trimming}},
		},
		{
			"two texts with # between them", regexp.MustCompile(`^[^#]+#[^#]+$`),
			stepArgs{"at": "#"},
			[]part{{"1", trimming}, {"2", trimming}},
		},
		{
			"two texts with | between them", regexp.MustCompile(`^[^|]+\|[^|]+$`),
			stepArgs{"at": "|"},
			[]part{{"1", trimming}, {"2", trimming}},
		},
		{
			"letters and digits", regexp.MustCompile(`^\p{L}+\d+$`),
			stepArgs{"turn": []step.Args{"letters", "digits"}},
			[]part{{"letters", nil}, {"digits", nil}},
		},
		{
			"letters, a hyphen and digits", regexp.MustCompile(`^\p{L}+-\d+$`),
			stepArgs{"at": "-"},
			[]part{{"letters", nil}, {"digits", nil}},
		},
		{
			"two words with capitals, names perhaps", regexp.MustCompile(`^\p{Lu}[\p{L}\p{M}'’-]+ \p{Lu}[\p{L}\p{M}'’-]+$`),
			stepArgs{"at": " "},
			[]part{{"first", nil}, {"last", nil}},
		},
		{
			"two words with a slash between them", regexp.MustCompile(`^[\p{L}\d][^/]*/ ?[\p{L}\d][^/]*$`),
			stepArgs{"at": "/"},
			[]part{{"1", trimming}, {"2", trimming}},
		},
	}
})

var trimming = step.Chain{{Name: "trim"}}

const (
	fewParts  = 3    // cells that a form is seen in at least
	partShare = 0.75 // of the cells that were looked at
)

// key pairs stand in a cell, several of them: each key gets a column.
var keyPairs = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`([\p{L}_][\p{L}\d_]*)=([^;,&]*)`) })

// formOf returns the form that most cells of a column have of those that were looked at.
func formOf(c *profile.ColumnProfile) *partForm {
	t := c.Conclusion.Convention.Type
	if c.Private() || !t.Textual() && c.Conclusion.Fails == 0 || t == value.Boolean {
		return nil
	}
	forms := partForms()
	matched := make([]float64, len(forms))
	seen := make([]map[string]bool, len(forms))
	pairs, cells := 0.0, 0.0
	for i := range c.Column.Tallies {
		tally := &c.Column.Tallies[i]
		for _, s := range tally.First {
			if strings.TrimSpace(s.Text) == "" {
				continue
			}
			n := float64(tally.Cells) / float64(len(tally.First))
			cells += n
			for f := range forms {
				if forms[f].pattern.MatchString(s.Text) {
					if matched[f] += n; seen[f] == nil {
						seen[f] = map[string]bool{}
					}
					seen[f][s.Text] = true
				}
			}
			if len(keyPairs().FindAllString(s.Text, 3)) > 1 {
				pairs += n
			}
		}
	}
	for f := range forms {
		if len(seen[f]) >= fewParts && matched[f] >= partShare*cells {
			return &forms[f]
		}
	}
	if cells > 0 && pairs >= partShare*cells {
		return keyForm(c)
	}
	return nil
}

// keyForm returns the form of cells with several keys and values: a part for each key.
func keyForm(c *profile.ColumnProfile) *partForm {
	form := &partForm{say: "keys and values"}
	seen := map[string]bool{}
	for i := range c.Column.Tallies {
		for _, s := range c.Column.Tallies[i].First {
			for _, m := range keyPairs().FindAllStringSubmatch(s.Text, -1) {
				if key := m[1]; !seen[key] && len(form.parts) < 12 {
					seen[key] = true
					form.parts = append(form.parts, part{plan.UsableName(key), step.Chain{
						{Name: "take", Args: stepArgs{
							"pattern":   `(?:^|[^\p{L}\d_])` + regexp.QuoteMeta(key) + `=([^;,&]*)`,
							"otherwise": "blank",
						}}, {Name: "trim"},
					}})
				}
			}
		}
	}
	return form
}

// offer adds to a column of a plan what may be made of its parts.
func offer(column *plan.Column, c *profile.ColumnProfile, taken map[string]bool) {
	form := formOf(c)
	if form == nil {
		return
	}
	column.Comment = append(column.Comment, "the cells look like "+form.say+": without their # the lines below make "+
		"columns of these parts")
	name := func(suffix string) string {
		n := plan.UniqueName(column.Name+"_"+suffix, taken)
		taken[n] = true
		return n
	}
	var split *plan.Split
	if form.split != nil {
		split = &plan.Split{Name: name("parts"), Args: form.split}
	}
	for _, p := range form.parts {
		one := plan.Column{Name: name(p.suffix), Source: c.Name, Steps: p.steps}
		if split != nil {
			one.Split = split
			one.Steps = append(step.Chain{{Name: "split", Args: form.split}}, p.steps...)
		}
		column.Offer = append(column.Offer, one)
	}
}
