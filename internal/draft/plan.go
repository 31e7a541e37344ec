// Package draft is what is made of a profile's conclusions: the plan that they suggest, the record of what was seen, in
// what another file is other than a plan expects (drift) or than it was before, and whether it fits nevertheless.
//
//	p := draft.Plan(prof, nil, true)       // to review, and to run
//	d := draft.Drift(next, p)              // next month's file
//	fits := draft.Fits(d, failed, cells, 0, false)
package draft

import (
	"fmt"
	"strings"
	"unicode"

	"junvo/internal/character"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// Plan drafts the plan that the profile suggests. Names are the source's, or made
// usable where that is asked.
func Plan(p *profile.Profile, blankWords []string, usableNames bool) *plan.Plan {
	d := &plan.Plan{BlankWords: blankWords, SetAside: p.SetAside, Source: readAs(p), Seen: Record(p)}
	for _, f := range p.Findings {
		if f.Kind.Weighs() {
			d.Comment = append(d.Comment, f.Kind.String()+": "+f.Say)
		}
	}
	taken := map[string]bool{}
	for _, c := range p.Columns {
		done := c.Conclusion
		name := c.Name
		if usableNames {
			name = plan.UniqueName(plan.UsableName(name), taken)
		}
		taken[name] = true
		d.Columns = append(d.Columns, plan.Column{
			Name: name, Source: c.Name, Convention: done.Convention, Terms: done.Convention.Terms(c.Counts),
			Private: c.Private(), Undecided: done.Convention.Type == value.Text &&
				(done.Mixed || done.MarksUndecided+done.OrderUndecided > 0 || done.Undecided != reading.NothingOpen),
			Comment: comment(c),
		})
	}
	for i, c := range p.Columns {
		offer(&d.Columns[i], c, taken)
	}
	return d
}

// readAs is how the source was read, so that the plan reads others like it the same
// way. Several files may each be written in their own way.
func readAs(p *profile.Profile) plan.Source {
	i := p.Info
	if i.Widths != nil && len(i.Files) == 1 {
		return plan.Source{
			Encoding: i.Encoding, NoHeader: i.HeaderRow == 0, HeaderRow: int(i.HeaderRow), Widths: i.Widths,
			Comment: i.Comment,
		}
	}
	if i.Delimiter == "" || len(i.Files) > 1 {
		return plan.Source{}
	}
	s := plan.Source{
		Encoding: i.Encoding, Delimiter: i.Delimiter, Quote: i.Quote, NoHeader: i.HeaderRow == 0, HeaderRow: int(i.HeaderRow),
		Comment: i.Comment,
	}
	if i.Quote == "" {
		s.Quote = "none"
	}
	if i.Quote == "\"" {
		s.Quote = ""
	}
	for _, d := range i.Decisions {
		if d.What == "quote escape" {
			s.Escape = d.Value
		}
	}
	return s
}

// comment gives the evidence for whoever reads the plan, and the choices where nothing
// could be decided.
func comment(c *profile.ColumnProfile) []string {
	done := c.Conclusion
	lines := []string{done.Why}
	for _, e := range done.Evidence {
		lines = append(lines, fmt.Sprintf("%s (%d for, %d against)", e.Say, e.For, e.Against))
	}
	if done.Fails > 0 {
		lines = append(lines, profile.Counted(done.Fails, "cell fails", "cells fail"))
	}
	if done.OffsetsDiffer {
		lines = append(lines, "to choose: to: timestamp with zone: \"+01:00\", the offset of those that carry none")
	}
	switch {
	case done.MarksUndecided > 0:
		lines = append(lines, "to choose: to: decimal with decimal-mark: \".\" or decimal-mark: \",\"")
	case done.Undecided == reading.OpenTimes:
		lines = append(lines, "to choose: to: time, or to: decimal with decimal-mark: \".\"")
	case done.Undecided == reading.OpenLists:
		lines = append(lines, "to choose: to: decimal with decimal-mark: \",\", or a split at the comma")
	case done.Undecided == reading.OpenBrackets:
		lines = append(lines, "to choose: to: decimal, with a minus for the parentheses, or steps: [{drop: [\"(\", "+
			"\")\"]}] before it")
	case done.Undecided == reading.OpenSides:
		lines = append(lines, "to choose: to: decimal, with its decimal-mark, and factors: {CR: 1, DR: -1} with the words of the "+
			"column, or the other way round")
	case done.Undecided == reading.OpenTruth:
		lines = append(lines, "to choose: to: boolean")
	case done.OrderUndecided > 0:
		lines = append(lines, "to choose: to: date with date-order: dmy or date-order: mdy")
	case prefix(c) != "":
		lines = append(lines, fmt.Sprintf("a number follows %q in every cell that was looked at: to choose: steps: "+
			"[{take: {after: %q}}] with to: integer or decimal", prefix(c), prefix(c)))
	case done.Mixed && done.Convention.Type == value.Text:
		lines = append(lines, "to choose among: "+readsText(done))
	}
	for _, f := range c.Findings {
		if weighs(c, f.Kind) {
			lines = append(lines, f.Kind.String()+": "+f.Say)
		}
	}
	return lines
}

// prefix returns what stands before the number in every cell of a column of text, where that
// is one and the same; only samples are looked at, so that it is a choice to offer.
func prefix(c *profile.ColumnProfile) string {
	if c.Conclusion.Convention.Type != value.Text || c.Private() {
		return ""
	}
	shapes := c.AllShapes(character.MostShapes)
	for _, s := range shapes {
		if i := strings.IndexByte(s, '9'); i <= 0 || strings.Trim(s[i:], "9.,…") != "" {
			return ""
		}
	}
	prefix := ""
	for i := range c.Column.Tallies {
		for _, s := range c.Column.Tallies[i].First {
			if s.Text == "" {
				continue
			}
			at := strings.IndexFunc(s.Text, unicode.IsDigit)
			if at <= 0 || prefix != "" && s.Text[:at] != prefix {
				return ""
			}
			prefix = s.Text[:at]
		}
	}
	if len(shapes) == 0 {
		return ""
	}
	return prefix
}

// readsText lists the readings of a column with their counts.
func readsText(c *reading.Conclusion) string {
	var parts []string
	for r, n := range c.Reads {
		if n > 0 && reading.Reading(r) != reading.AsBlank {
			parts = append(parts, fmt.Sprintf("%s %d", reading.Reading(r), n))
		}
	}
	return strings.Join(parts, ", ")
}
