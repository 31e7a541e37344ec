package plan

import (
	"fmt"
	"slices"

	"junvo/internal/reading"
	"junvo/internal/value"
)

// resolve finds the columns that are made of others in a way that takes the whole plan to see: those whose from names a
// column that the plan makes, and joins of columns of the source, for which it adds helpers. A from of a column that the one of the
// name is made of, as in {net: {compute: was * 2}, was: {from: net}}, names the source's. Uses lists what columns are made of.
func (p *Plan) resolve(uses map[string][]string) {
	made := map[string]bool{}
	names := map[string]bool{}
	for i := range p.Columns {
		c := &p.Columns[i]
		names[c.Name] = true
		made[c.Name] = c.Made() || c.Split != nil && c.Source != c.Name
	}
	for i := range p.Columns {
		c := &p.Columns[i]
		if c.Source != c.Name && made[c.Source] && c.Split == nil && !c.Made() && !reaches(uses, c.Source, c.Name, map[string]bool{}) {
			c.Join = &Join{Columns: []string{c.Source}, single: true}
			c.Source = ""
		}
	}
	for i := range p.Columns {
		j := p.Columns[i].Join
		if j == nil {
			continue
		}
		for _, name := range j.Columns {
			if !names[name] {
				names[name] = true
				c := asText(name)
				c.Helper = true
				p.Columns = append(p.Columns, c)
			}
		}
	}
}

// reaches reports whether a column is made of another, by way of any others.
func reaches(uses map[string][]string, from, to string, seen map[string]bool) bool {
	if seen[from] = true; from == to {
		return true
	}
	return slices.ContainsFunc(uses[from], func(name string) bool { return !seen[name] && reaches(uses, name, to, seen) })
}

// asText is a column that has the cells of one of the source as they are.
func asText(name string) Column {
	c := Column{Name: name, Source: name, added: true}
	c.Convention, _ = (&reading.Terms{}).Convention(value.Text) // no term can be wrong
	return c
}

// withOthers returns the plan with the columns of a source that it does not name, each in its place: behind the last
// column that is made of one of the source before it. Columns that are made of others stand where they do in the plan,
// behind those of the source before them.
func (p *Plan) withOthers(names []string) (*Plan, error) {
	if !p.Others {
		return p, nil
	}
	a := &arrangement{
		from: p, names: names, moved: make([]int, len(p.Columns)), place: map[string]int{},
		read: map[string]bool{},
	}
	for i := range p.Columns {
		if c := &p.Columns[i]; !c.Made() && !c.Helper {
			a.read[c.Source] = true
		}
	}
	for i, name := range names {
		a.place[name] = i
		if !a.read[name] {
			a.kept = append(a.kept, i)
		}
	}
	if len(a.kept) == 0 {
		return p, nil
	}
	if err := a.arrange(); err != nil {
		return nil, err
	}
	q := *p
	q.Columns = a.columns
	q.move(a.moved)
	return &q, nil
}

// arrangement puts the columns of a plan and those that it keeps into one order.
type arrangement struct {
	from    *Plan
	names   []string        // of the source
	place   map[string]int  // where they stand in it
	read    map[string]bool // those that a column of the output is made of
	kept    []int           // those that are kept and not in the order yet
	columns []Column
	moved   []int // where the plan's own columns stand now
}

func (a *arrangement) arrange() error {
	var first []int // columns made of others that stand before any of the source
	begun := false
	for i := range a.from.Columns {
		c := &a.from.Columns[i]
		ofSource := !c.Made() && !c.Helper
		switch {
		case c.added && c.Helper && !a.read[c.Source]:
			// It is put where it stands in the source.
		case ofSource:
			if err := a.keepBefore(a.place[c.Source]); err != nil {
				return err
			}
			a.put(first...)
			a.put(i)
			first, begun = nil, true
		case begun:
			a.put(i)
		default:
			first = append(first, i)
		}
	}
	if err := a.keepBefore(len(a.names)); err != nil {
		return err
	}
	a.put(first...)
	return nil
}

// put puts columns of the plan into the order.
func (a *arrangement) put(columns ...int) {
	for _, i := range columns {
		a.moved[i] = len(a.columns)
		a.columns = append(a.columns, a.from.Columns[i])
	}
}

// keepBefore puts the columns into the order that are kept and stand in the source before a place.
func (a *arrangement) keepBefore(place int) error {
	for len(a.kept) > 0 && a.kept[0] < place {
		c := asText(a.names[a.kept[0]])
		if i := a.from.addedFor(c.Name); i >= 0 { // the one that a join uses is written, too
			a.moved[i] = len(a.columns)
		} else if slices.ContainsFunc(a.from.Columns, func(o Column) bool { return o.Name == c.Name }) {
			return fmt.Errorf("others: keep would write the column %q of the source as it is, and the plan makes a column "+
				"of that name of another: give that another name", c.Name)
		}
		a.columns = append(a.columns, c)
		a.kept = a.kept[1:]
	}
	return nil
}

// addedFor returns the column that was added for joins of one of the source, -1 for none.
func (p *Plan) addedFor(name string) int {
	return slices.IndexFunc(p.Columns, func(c Column) bool { return c.added && c.Helper && c.Name == name })
}

// move brings the numbers of columns up to date after they have moved, in expressions and joins of its own.
func (p *Plan) move(moved []int) {
	all := func(at []int) []int {
		out := make([]int, len(at))
		for i, n := range at {
			out[i] = moved[n]
		}
		return out
	}
	of := func(e *Expression) *Expression {
		if e == nil {
			return nil
		}
		return &Expression{Expression: e.Expression, From: all(e.From), Earlier: e.Earlier}
	}
	own := map[int]bool{}
	for _, n := range moved {
		own[n] = true
	}
	order := []int(nil)
	for i := range p.Columns {
		c := &p.Columns[i]
		if !own[i] {
			order = append(order, i)
			continue
		}
		c.Compute = of(c.Compute)
		if c.Join != nil {
			j := *c.Join
			j.From = all(j.From)
			c.Join = &j
		}
	}
	p.Order = append(order, all(p.Order)...)
	p.Keep, p.Drop = of(p.Keep), of(p.Drop)
	p.Earlier = slices.Clone(p.Earlier)
	for i := range p.Earlier {
		p.Earlier[i].Column = moved[p.Earlier[i].Column]
	}
	p.OrderBy = slices.Clone(p.OrderBy)
	for i := range p.OrderBy {
		p.OrderBy[i].At = moved[p.OrderBy[i].At]
	}
}
