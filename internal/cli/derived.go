package cli

import (
	"encoding/csv"
	"path"
	"slices"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/step"
	"junvo/internal/value"
)

// Steps and splits of a source's columns come before the profile: their types are drafted from what they leave. What they say of
// columns that are computed or joined is left to the plan.

// derived is what the steps and splits of the command line make of a source.
type derived struct {
	chains map[int]step.Chain // of columns of the source, by their number
	made   []madeColumn
	done   []bool         // which of the edits are in that
	source []string       // the names of the source's columns
	names  []string       // those of the output
	at     map[string]int // where a name of the output comes from: a column of the source, or behind them one that is made; -1 for others
}

type madeColumn struct {
	step.Made
	split *plan.Split // where it is a piece
}

func (d *derived) none() bool { return len(d.chains)+len(d.made) == 0 }

// sourceMade returns the columns that are made, as a source has them.
func (d *derived) sourceMade() (made []step.Made) {
	for _, m := range d.made {
		made = append(made, m.Made)
	}
	return made
}

// cameWith returns the names of the source's own columns, of those of a profile.
func (e *edits) cameWith(names []string) []string {
	if e.derived == nil {
		return names
	}
	return names[:len(names)-len(e.derived.made)]
}

// profiled returns the column of the profile that a name of the output comes from, false for none.
func (d *derived) profiled(name string, names []string) (string, bool) {
	if at := d.at[name]; at >= 0 && at < len(names) {
		return names[at], true
	}
	return "", false
}

// called returns all names by which a column can be called in a flag that has no place among the others, such as --as: those of the
// output, and those of the source that are no other column's.
func (d *derived) called() []string {
	names := slices.Clone(d.names)
	for _, name := range d.source {
		if !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

// derive goes through the edits in their order, for a source with columns of these names.
func (e *edits) derive(names []string) (*derived, error) {
	d := &derived{chains: map[int]step.Chain{}, done: make([]bool, len(e.list)), source: names, names: slices.Clone(names), at: map[string]int{}}
	for i, name := range names {
		d.at[name] = i
	}
	source := len(names)
	for i, one := range e.list {
		var err error
		switch one.flag {
		case stepFlag:
			d.done[i], err = d.step(one.text, source)
		case splitFlag:
			d.done[i], err = true, d.split(one.text, source)
		case renameFlag:
			if at := strings.LastIndexByte(one.text, '='); at > 0 {
				if old, ok := findName(one.text[:at], d.names); ok {
					d.define(one.text[at+1:], d.at[old])
					d.names = slices.DeleteFunc(d.names, func(n string) bool { return n == old })
				}
			}
		case computeFlag:
			var name string
			if name, _, err = cutComputed(one.text); err == nil {
				d.define(name, -1)
			}
		case joinFlag:
			var name string
			if name, _, _, err = cutJoin(one.text); err == nil {
				d.define(name, -1)
			}
		}
		if err != nil {
			return nil, err
		}
	}
	return d, nil
}

// cutStep takes the name of the column off a step or a split. A name may have colons in it, too.
func cutStep(s string, names []string) (name, text string, err error) {
	for at := range len(s) {
		if s[at] != ':' {
			continue
		}
		if name, ok := findName(strings.TrimSpace(s[:at]), names); ok {
			return name, strings.TrimSpace(s[at+1:]), nil
		}
	}
	first, _, named := strings.Cut(s, ":")
	if !named || first == "" {
		return "", "", usage("--step takes COLUMN: STEP, as in 'Remark: keep: digits', not %q", s)
	}
	return "", "", unknownColumn(first, names)
}

// define adds a name of the output.
func (d *derived) define(name string, at int) {
	if !slices.Contains(d.names, name) {
		d.names = append(d.names, name)
	}
	d.at[name] = at
}

// make adds a column that is made of one of the source.
func (d *derived) make(name string, source int, m madeColumn) error {
	if slices.Contains(d.names, name) {
		return usage("there is a column %q already; choose another name", name)
	}
	m.Name = name
	d.define(name, source+len(d.made))
	d.made = append(d.made, m)
	return nil
}

// step adds a step, and reports whether it is of columns of the source or of what is made of them.
func (d *derived) step(text string, source int) (bool, error) {
	into := ""
	name, steps, err := cutStep(text, d.names)
	if err != nil { // a new column, or several of a pattern
		head, rest, _ := strings.Cut(text, ":")
		if before, after, ok := strings.Cut(head, " from "); ok {
			into = strings.TrimSpace(before)
			if name, steps, err = cutStep(after+":"+rest, d.names); err != nil {
				return false, err
			}
		} else if all := among(strings.TrimSpace(head), d.names); all != nil {
			for _, one := range all {
				if d.at[one] < 0 {
					continue
				}
				if _, err := d.step(one+":"+rest, source); err != nil {
					return false, err
				}
			}
			return true, nil
		} else {
			return false, err
		}
	}
	chain, err := plan.ParseSteps(steps)
	if err != nil {
		return false, usage("--step %q: %w", text, err)
	}
	at := d.at[name]
	switch {
	case into != "" && at < 0:
		return false, usage("--step %q: %s is computed; make the column with --compute '%s = steps(%s, …)'", text, name, into, name)
	case into != "" && at >= source && d.made[at-source].split != nil:
		return false, usage("--step %q: %s is a piece of a split; make the column with --compute '%s = steps(%s, …)'", text, name, into, name)
	case into != "" && at >= source:
		m := d.made[at-source]
		m.Steps = slices.Concat(m.Steps, chain)
		return true, d.make(into, source, m)
	case into != "":
		return true, d.make(into, source, madeColumn{Made: step.Made{From: at, Steps: slices.Concat(d.chains[at], chain)}})
	case at < 0:
		return false, nil
	case at >= source:
		m := &d.made[at-source]
		m.Steps = slices.Concat(m.Steps, chain)
	default:
		d.chains[at] = append(d.chains[at], chain...)
	}
	return true, nil
}

// split adds the columns of the pieces of a column.
func (d *derived) split(text string, source int) error {
	head, list, ok := cutLast(text, "=>")
	into, err := csv.NewReader(strings.NewReader(list)).Read()
	if !ok || err != nil || len(into) == 0 || !strings.Contains(head, ":") {
		return usage(`--split takes COLUMN: {at: " "} => NAME, NAME, …, not %q`, text)
	}
	name, how, err := cutStep(head, d.names)
	if err != nil {
		return err
	}
	s, cut, err := plan.ParseSplit(strings.TrimSpace(how), len(into))
	if err != nil {
		return usage("--split %q: %w", text, err)
	}
	at := d.at[name]
	if at < 0 || at >= source {
		return usage("--split %q: only columns of the source are split; use piece(…) or steps(…) in --compute", text)
	}
	s.Steps = slices.Clone(d.chains[at])
	s.Name = plan.UniqueName(plan.UsableName(name)+"_parts", map[string]bool{})
	for i, one := range into {
		chain := slices.Concat(s.Steps, step.Chain{{Name: "split", Args: s.Args, Step: cut.Piece(i)}})
		if err := d.make(strings.TrimSpace(one), source, madeColumn{Made: step.Made{From: at, Steps: chain}, split: s}); err != nil {
			return err
		}
	}
	return nil
}

// wholeSplits returns the columns of a plan that are kept with all pieces of their splits, since a split makes all of its pieces,
// in order: those that are not written are helpers. Pieces that stand in another order, or apart, are taken from helpers.
func wholeSplits(p *plan.Plan, kept []plan.Column) (whole []plan.Column) {
	taken := map[string]bool{}
	for i := range p.Columns {
		taken[p.Columns[i].Name] = true
	}
	var behind []plan.Column // pieces that columns are taken from
	for i := 0; i < len(kept); i++ {
		s := kept[i].Split
		if s == nil {
			whole = append(whole, kept[i])
			continue
		}
		other := func(c plan.Column) bool { return c.Split != s }
		all := slices.DeleteFunc(slices.Clone(p.Columns), other)
		here := slices.DeleteFunc(slices.Clone(kept), other)
		if inOrder(all, here) && len(here) <= len(kept)-i && !slices.ContainsFunc(kept[i:i+len(here)], other) {
			for _, c := range all {
				at := slices.IndexFunc(here, func(h plan.Column) bool { return h.Name == c.Name })
				if c.Helper = true; at >= 0 {
					c = here[at]
				}
				whole = append(whole, c)
			}
			i += len(here) - 1
			continue
		}
		one := kept[i]
		pieces := slices.DeleteFunc(slices.Clone(behind), other)
		if len(pieces) == 0 {
			for _, c := range all {
				piece := plan.Column{Name: plan.UniqueName(c.Name+"_piece", taken), Source: c.Source, Split: s, Steps: c.Steps, Helper: true, Private: c.Private}
				taken[piece.Name] = true
				pieces = append(pieces, piece)
			}
			behind = append(behind, pieces...)
		}
		at := slices.IndexFunc(all, func(c plan.Column) bool { return c.Name == one.Name })
		one.Source, one.Split, one.Steps = pieces[at].Name, nil, nil
		whole = append(whole, one)
	}
	return append(whole, behind...)
}

// inOrder reports whether some columns stand in the order in which they stand among all.
func inOrder(all, some []plan.Column) bool {
	last := -1
	for _, c := range some {
		at := slices.IndexFunc(all, func(a plan.Column) bool { return a.Name == c.Name })
		if at <= last {
			return false
		}
		last = at
	}
	return true
}

// cutLast cuts a text at the last occurrence of another.
func cutLast(text, at string) (before, after string, found bool) {
	if i := strings.LastIndex(text, at); i >= 0 {
		return text[:i], text[i+len(at):], true
	}
	return text, "", false
}

// cutJoin takes a join apart: the name of the new column, the text between the values in quotes, and the columns.
func cutJoin(text string) (name, with string, columns []string, err error) {
	name, rest, ok := strings.Cut(text, "=")
	rest = strings.TrimSpace(rest)
	if ok && strings.HasPrefix(rest, `"`) {
		if end := strings.Index(rest[1:], `"`); end >= 0 {
			with, rest = rest[1:end+1], strings.TrimSpace(rest[end+2:])
			if list, found := strings.CutPrefix(rest, ":"); found {
				columns, err = csv.NewReader(strings.NewReader(list)).Read()
				for i := range columns {
					columns[i] = strings.TrimSpace(columns[i])
				}
			}
		}
	}
	if name = strings.TrimSpace(name); name == "" || err != nil || len(columns) == 0 {
		return "", "", nil, usage(`--join takes NAME = "TEXT": COLUMN, COLUMN, as in 'address = ", ": street, place', not %q`, text)
	}
	return name, with, columns, nil
}

// ofPlan puts the steps and splits into a drafted plan, which has a column for each of the source and behind them one for each that
// is made.
func (d *derived) ofPlan(p *plan.Plan, names []string, asked func(column int) bool) {
	source := len(names) - len(d.made)
	for column, chain := range d.chains {
		offered := p.Columns[column].Offer
		for i := range offered { // what is offered was seen of the cells that the steps leave
			if o := &offered[i]; o.Split != nil && (i == 0 || offered[i-1].Split != o.Split) {
				o.Split.Steps = chain
			}
			offered[i].Steps = slices.Concat(chain, offered[i].Steps)
		}
		stepped(p, column, chain, asked)
		p.Columns[column].Steps = chain
	}
	for i, m := range d.made {
		stepped(p, source+i, m.Steps, asked)
		c := &p.Columns[source+i]
		c.Source, c.Steps, c.Split, c.Offer = names[m.From], m.Steps, m.split, nil
	}
	// What was seen is what the steps leave, and check looks at the cells as they come.
	if p.Seen == nil {
		return
	}
	p.Seen.Columns = slices.DeleteFunc(p.Seen.Columns, func(c plan.RecordColumn) bool {
		at := slices.Index(names, c.Name)
		return at >= source || d.chains[at] != nil
	})
}

// stepped notes of a column that its cells have gone through steps.
func stepped(p *plan.Plan, column int, chain step.Chain, asked func(column int) bool) {
	if c := &p.Columns[column]; c.Convention.Type == value.Integer && chain.MakesCode() && !asked(column) {
		c.Convention, c.Terms = reading.Convention{Type: value.Code}, reading.Terms{}
		c.Comment = []string{"digits of a fixed width or place are a code"}
	}
}

// among returns the columns that a name or a pattern of names stands for: the one of the name, else those that a pattern with * or ?
// matches, else those from one name to another, as in Jan..Dec; nil for none.
func among(want string, names []string) (found []string) {
	if name, ok := findName(want, names); ok {
		return []string{name}
	}
	if strings.ContainsAny(want, "*?") {
		escaped := strings.NewReplacer(`\`, `\\`, "[", `\[`).Replace(want)
		for _, n := range names {
			if ok, _ := path.Match(escaped, strings.ReplaceAll(n, "/", "_")); ok {
				found = append(found, n)
			}
		}
		return found
	}
	from, to, ok := strings.Cut(want, "..")
	first, ok1 := findName(strings.TrimSpace(from), names)
	last, ok2 := findName(strings.TrimSpace(to), names)
	if i, j := slices.Index(names, first), slices.Index(names, last); ok && ok1 && ok2 && i <= j {
		return names[i : j+1]
	}
	return nil
}
