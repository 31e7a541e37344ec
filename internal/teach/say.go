package teach

import (
	"fmt"
	"slices"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/step"
)

// Say says in words what the rule gives.
func (r *Rule) Say(sources []Source) string {
	several := false
	for _, s := range sources {
		several = several || s.Column != sources[0].Column
	}
	var parts []string
	for _, p := range r.Pieces {
		if p.Text != "" {
			parts = append(parts, fmt.Sprintf("%q", p.Text))
			continue
		}
		parts = append(parts, p.say(&sources[p.Source], several))
	}
	say := strings.Join(parts, ", then ")
	if r.Blanks {
		say += "; cells that are blank are left out"
	}
	return say
}

// say says what a piece is: what is taken, of what, and how it is changed.
func (p *Piece) say(s *Source, several bool) string {
	of := "the text"
	if several {
		of = fmt.Sprintf("%q", s.Column)
	}
	if s.Read != nil {
		of = "the " + s.Read.Convention.Type.String()
		if several {
			of += fmt.Sprintf(" in %q", s.Column)
		}
		if s.Digits > 0 {
			of += fmt.Sprintf(" with %d digits after the point", s.Digits-1)
			if s.Up {
				of += ", halves rounded up"
			}
		}
	}
	said := ""
	for _, one := range p.Chain {
		part, change := sayStep(&one)
		switch {
		case one.Name == "keep" && said == "":
			if said = part; several || s.Read != nil {
				said += " of " + of
			}
		case change && said == "":
			said = of + ", " + part
		case change:
			said += ", " + part
		case said == "":
			said = part
			if several || s.Read != nil {
				said += " of " + of
			}
		default:
			said = part + " of " + said
		}
	}
	if said == "" {
		return of
	}
	return said
}

var ordinals = []string{"", "first", "second", "third", "fourth", "fifth"}

// nth says which one.
func nth(n int) string {
	switch {
	case n == -1:
		return "last"
	case n < 0 && -n < len(ordinals):
		return ordinals[-n] + " to last"
	case n > 0 && n < len(ordinals):
		return ordinals[n]
	}
	return fmt.Sprintf("%dth", n)
}

func sayArg(a step.Args) string {
	switch a := a.(type) {
	case string:
		if isClass(a) {
			return a
		}
		return fmt.Sprintf("%q", a)
	case args:
		return fmt.Sprintf("%q", a["text"])
	case []step.Args:
		parts := make([]string, len(a))
		for i := range a {
			parts[i] = sayArg(a[i])
		}
		if len(parts) > 1 {
			return strings.Join(parts[:len(parts)-1], ", ") + " and " + parts[len(parts)-1]
		}
		return strings.Join(parts, "")
	}
	return fmt.Sprint(a)
}

// sayStep says what a step takes, or how it changes what was taken.
func sayStep(s *step.Named) (say string, change bool) {
	m, _ := s.Args.(args)
	switch s.Name {
	case "take":
		say := sayTake(m)
		if m["ignore-case"] == true {
			say += " in any case of its letters"
		}
		if m["otherwise"] == "keep" {
			say += ", or all where there is none"
		}
		return say, false
	case "keep":
		return "only " + sayArg(s.Args), true
	case "drop":
		if m != nil && m["of"] != nil {
			return "without " + sayArg(m["of"]) + " in any case of its letters", true
		}
		return "without " + sayArg(s.Args), true
	case "trim":
		return "without spaces at the ends", true
	case "single-space":
		return "with single spaces", true
	case "case":
		if m != nil {
			return "in title case but for small words", true
		}
		return fmt.Sprintf("in %v case", s.Args), true
	case "pad":
		return fmt.Sprintf("filled up to %v characters with %q", m["width"], m["with"]), true
	case "replace":
		if m["pattern"] == leadingZeros {
			return "without leading zeros", true
		}
		return fmt.Sprintf("with %q for %q", m["with"], m["text"]), true
	case "punctuate":
		if m != nil {
			return fmt.Sprintf("laid out as %v where it has as many letters and digits", m["pattern"]), true
		}
		return fmt.Sprintf("laid out as %v", s.Args), true
	case "substitute":
		return "as the name of the month", true
	case "mend":
		return fmt.Sprintf("mended (%v)", s.Args), true
	case "label":
		return sayLabel(s.Args), true
	}
	return plan.StepText(*s), true
}

func sayTake(m args) string {
	which, _ := m["nth"].(int)
	mark := func(a step.Args) string {
		switch {
		case isClass(a) && (which == 0 || which == 1):
			return "the " + sayArg(a)
		case isClass(a):
			return "the " + nth(which) + " " + sayArg(a)
		case which == 0 || which == 1:
			return sayArg(a)
		}
		return "the " + nth(which) + " " + sayArg(a)
	}
	number := func(key string) int { n, _ := m[key].(int); return n }
	switch {
	case m["digits"] != nil:
		return "the " + nth(number("digits")) + " run of digits"
	case m["letters"] != nil:
		return "the " + nth(number("letters")) + " run of letters"
	case m["word"] != nil:
		return "the " + nth(number("word")) + " word"
	case m["number"] != nil:
		return "the " + nth(number("number")) + " number"
	case m["before"] != nil:
		return "what stands before " + mark(m["before"])
	case m["after"] != nil:
		return "what stands after " + mark(m["after"])
	case m["between"] != nil:
		pair := m["between"].([]step.Args)
		return "what stands between " + mark(pair[0]) + " and " + sayArg(pair[1])
	case m["first"] != nil:
		return characters("first", number("first"))
	case m["last"] != nil:
		return characters("last", number("last"))
	case m["length"] != nil:
		if number("length") == 1 {
			return fmt.Sprintf("character %d", number("from"))
		}
		return fmt.Sprintf("characters %d to %d", number("from"), number("from")+number("length")-1)
	case m["from"] != nil:
		return fmt.Sprintf("all from character %d on", number("from"))
	}
	if which == -1 {
		return fmt.Sprintf("the last match of %v", m["pattern"])
	}
	return fmt.Sprintf("what matches %v", m["pattern"])
}

func characters(end string, n int) string {
	if n == 1 {
		return "the " + end + " character"
	}
	return fmt.Sprintf("the %s %d characters", end, n)
}

func isClass(a step.Args) bool {
	text, ok := a.(string)
	return ok && slices.Contains(classNames, text)
}

// sayLabel says which texts have which label.
func sayLabel(a step.Args) string {
	var parts []string
	rules, _ := a.([]step.Args)
	for _, r := range rules {
		if m, _ := r.(args); m["contains"] != nil {
			parts = append(parts, fmt.Sprintf("%q where it contains %q", m["then"], m["contains"]))
		}
	}
	return strings.Join(parts, ", ")
}

// Steps returns the steps of the rule as a plan has them; where it is made of several pieces, or of a cell as it is
// read, what each piece is made of.
func (r *Rule) Steps(sources []Source) (list []string) {
	pieces := r.pieces()
	b := &builder{without: r.Without}
	if len(pieces) == 1 && sources[pieces[0].Source].Read == nil {
		for _, s := range b.steps(pieces[0]) {
			list = append(list, plan.StepText(s))
		}
		return list
	}
	for _, p := range r.Pieces {
		if p.Text != "" {
			list = append(list, fmt.Sprintf("%q", p.Text))
			continue
		}
		s := &sources[p.Source]
		one := s.Column
		if s.Read != nil {
			one += " to " + s.Read.Convention.Type.String()
		}
		if s.Digits > 0 {
			one += fmt.Sprintf(" with %d digits after the point", s.Digits-1)
		}
		if s.Up {
			one += ", halves up"
		}
		for _, step := range b.steps(shapedPiece{Piece: p}) {
			one += ", " + plan.StepText(step)
		}
		list = append(list, one)
	}
	return list
}
