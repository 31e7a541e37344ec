package draft

import (
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/table"
)

// Record returns what the plan of the source remembers of it: shapes where the options have
// asked for them, and no values of private columns.
func Record(p *profile.Profile) *plan.Record {
	r := &plan.Record{Rows: p.Rows}
	for _, n := range p.Aside {
		r.Aside += n
	}
	r.Rows -= r.Aside
	for _, c := range p.Columns {
		one := plan.RecordColumn{
			Name: c.Name, Type: c.Unasked.Convention.Type, Fails: c.Conclusion.Fails,
			Blanks:   c.Conclusion.Reads[reading.AsBlank],
			Smallest: c.Range.Smallest, Largest: c.Range.Largest,
		}
		if c.Private() {
			one.Smallest, one.Largest = "", ""
		}
		one.Shapes = c.AllShapes(plan.MaxShapes(c.Conclusion.Convention.Type))
		r.Columns = append(r.Columns, one)
	}
	return r
}

// recorded finds what is other than the plan remembers.
func (d *drifter) recorded(p *plan.Plan, was *plan.Record) {
	now := Record(d.p)
	d.share(RowsMoved, "", "rows set aside", was.Aside, was.Aside+was.Rows, now.Aside, now.Aside+now.Rows)
	at, typeOf := was.Positions(), typesOf(p)
	for _, is := range now.Columns {
		i, ok := at[is.Name]
		if !ok {
			continue
		}
		a, b := seenOf(&was.Columns[i], was.Rows), seenOf(&is, now.Rows)
		if was.Columns[i].Type != is.Type {
			a.Smallest = "" // that it looks like another type says more
		}
		a.Type, b.Type = typeOf(is.Name, a.Type), typeOf(is.Name, b.Type) // ranges are of the plan's type
		d.column(&a, &b)
	}
}

// typesOf returns a function for the type of the plan's first column that reads one of the source, which
// is otherwise the one given.
func typesOf(p *plan.Plan) func(source, otherwise string) string {
	at := table.Positions(p.Columns, func(c *plan.Column) string {
		if c.Made() {
			return ""
		}
		return c.Source
	})
	return func(source, otherwise string) string {
		if i, ok := at[source]; ok {
			return p.Columns[i].Convention.Type.String()
		}
		return otherwise
	}
}

func seenOf(c *plan.RecordColumn, rows int64) Seen {
	return Seen{
		Name: c.Name, Type: c.Type.String(), Shapes: c.Shapes, Smallest: c.Smallest, Largest: c.Largest,
		Cells: rows, Blanks: c.Blanks, Fails: c.Fails,
	}
}
