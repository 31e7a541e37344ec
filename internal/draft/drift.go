package draft

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Drift lists in what the source is other than the plan expects.
func Drift(p *profile.Profile, expected *plan.Plan) []Difference {
	d := &drifter{p: p}
	d.columns(expected)
	columns := table.Positions(p.Columns, func(c **profile.ColumnProfile) string { return (*c).Name })
	d.seen = expected.Seen.Positions()
	for i := range expected.Columns {
		c := &expected.Columns[i]
		if c.Made() {
			continue
		}
		at, ok := columns[c.Source]
		if ok && len(c.Steps) == 0 { // after steps the text is another
			d.convention(c, p.Columns[at], expected)
		}
	}
	if expected.Seen != nil {
		d.recorded(expected, expected.Seen)
	}
	return d.found
}

type drifter struct {
	p     *profile.Profile
	seen  map[string]int // where the columns stand in the record of the plan
	found []Difference
}

func (d *drifter) add(kind Kind, column, format string, args ...any) {
	d.found = append(d.found, Difference{kind, column, fmt.Sprintf(format, args...)})
}

// columns finds columns that are missing, new or moved. A column that the plan has seen and does not read is not new,
// and where the plan has seen the order of the columns, its own order says nothing of the source.
func (d *drifter) columns(expected *plan.Plan) {
	reads := expected.Reads()
	ordered := reads
	if expected.Seen != nil && len(expected.Seen.Columns) > 0 {
		ordered = nil
		for _, c := range expected.Seen.Columns {
			ordered = append(ordered, c.Name)
		}
	}
	known := slices.Concat(reads, ordered)
	if expected.Others && expected.Seen == nil { // it takes whatever comes
		known = append(known, d.p.Info.Names...)
	}
	d.names(known, reads, ordered, d.p.Info.Names)
}

// Asks returns what a plan says of the columns of a source, as wishes for a profile of it: what
// that finds is then what a conversion does.
func Asks(p *plan.Plan) func(column string) reading.Ask {
	at := table.Positions(p.Columns, func(c *plan.Column) string {
		if c.Made() || len(c.Steps) > 0 {
			return ""
		}
		return c.Source
	})
	return func(column string) (ask reading.Ask) {
		i, ok := at[column]
		if !ok || p.Columns[i].Undecided {
			return ask
		}
		c := &p.Columns[i].Convention
		ask.Type = &c.Type
		if c.Type.Numeric() && c.Known {
			ask.Mark = &c.Mark
		}
		if o, ok := reading.ParseOrder(p.Columns[i].Terms.DateOrder[""]); ok {
			ask.Order = &o
		}
		return ask
	}
}

// fails counts the cells that do not fit a column of a plan.
func fails(c *profile.ColumnProfile, conv *reading.Convention) (n int64) {
	for _, k := range c.Counts {
		if r, fits := conv.Judge(k.Set, k.Form); r != reading.AsBlank && !fits {
			n += k.Cells
		}
	}
	return n
}

// zeros counts the numbers that begin with 0 and fail for that in a column of a plan.
func zeros(c *profile.ColumnProfile, conv *reading.Convention) (n int64) {
	for _, k := range c.Counts {
		if conv.Type.Numeric() && !conv.Zeros && k.Set.Any(reading.LeadingZero) && k.Set.IsNumber() {
			n += k.Cells
		}
	}
	return n
}

// convention finds what a column is written with now and was not. What was told when the plan was
// made counts as it was then: only where more cells fail now, or text looks like another type than
// it did, is anything changed.
func (d *drifter) convention(c *plan.Column, have *profile.ColumnProfile, p *plan.Plan) {
	now := have.Unasked.Convention
	looked, failed := c.Convention.Type, int64(0)
	if p.Seen != nil {
		if i, ok := d.seen[have.Name]; ok {
			looked, failed = p.Seen.Columns[i].Type, p.Seen.Columns[i].Fails
		}
	} else if c.Convention.Type.Textual() {
		looked = now.Type
	}
	if filled := have.Conclusion.Fits + have.Conclusion.Fails; filled == 0 || have.Unasked.Why == "every cell is blank" {
		return
	}
	textual := c.Convention.Type.Textual()
	if c.Convention.Type == value.Code && now.Type == value.Integer {
		return // digits without a zero in front are a code as well
	}
	if n := zeros(have, &c.Convention); n > 0 {
		d.add(ConventionChanged, c.Name, "%s with 0: they may be codes", profile.Counted(n, "number begins", "numbers begin"))
		return
	}
	if !textual && fails(have, &c.Convention) <= failed || textual && (now.Type == looked || c.Undecided) {
		return
	}
	if now.Type != c.Convention.Type {
		d.add(TypeChanged, c.Name, "%s before, and now the cells look like %s: %s", looked, now.Type, have.Unasked.Why)
		return
	}
	was, is := c.Terms, now.Terms(have.Counts)
	for _, t := range []struct{ what, was, is string }{
		{"decimal mark", was.DecimalMark, is.DecimalMark},
		{"unit", was.Unit, is.Unit},
		{"currency", was.Currency, is.Currency},
		{"sign", was.Sign, is.Sign},
	} {
		if t.was != t.is && t.is != "" {
			d.add(ConventionChanged, c.Name, "%s %q before, and %q now", t.what, t.was, t.is)
		}
	}
	if !maps.Equal(was.DateOrder, is.DateOrder) && len(is.DateOrder) > 0 && len(was.DateOrder) > 0 {
		d.add(ConventionChanged, c.Name, "dates in the order %v before, and %v now", orderText(was.DateOrder),
			orderText(is.DateOrder))
	}
	var words []string
	for _, w := range is.BlankWords {
		if !slices.Contains(was.BlankWords, w) && !slices.Contains(p.BlankWords, w) {
			words = append(words, w)
		}
	}
	if len(words) > 0 {
		d.add(BlankWordsNew, c.Name, "%s", strings.Join(words, ", "))
	}
}

func orderText(orderOf map[string]string) string {
	var parts []string
	for _, sep := range slices.Sorted(maps.Keys(orderOf)) {
		if sep == "" {
			return orderOf[sep]
		}
		parts = append(parts, orderOf[sep]+" with "+sep)
	}
	return strings.Join(parts, ", ")
}
