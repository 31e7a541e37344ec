package plan

import (
	"fmt"
	"slices"

	"junvo/internal/reading"
	"junvo/internal/value"
)

// resolve finds the columns that are made of others in a way that takes the whole plan to see: those whose from names a
// column that the plan makes, and joins of columns of the source, for which it adds helpers.
func (p *Plan) resolve() {
	made := map[string]bool{}
	names := map[string]bool{}
	for i := range p.Columns {
		c := &p.Columns[i]
		names[c.Name] = true
		made[c.Name] = c.Made() || c.Split != nil && c.Source != c.Name
	}
	for i := range p.Columns {
		c := &p.Columns[i]
		if c.Source != c.Name && made[c.Source] && c.Split == nil && !c.Made() {
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

// asText is a column that has the cells of one of the source as they are.
func asText(name string) Column {
	c := Column{Name: name, Source: name, added: true}
	c.Convention, _ = (&reading.Terms{}).Convention(value.Text) // no term can be wrong
	return c
}

// withOthers returns the plan with the columns of a source that it does not name, each in its place: behind the last
// column that is made of one of the source before it.
func (p *Plan) withOthers(names []string) (*Plan, error) {
	if !p.Others {
		return p, nil
	}
	read := map[string]bool{}
	for i := range p.Columns {
		if c := &p.Columns[i]; !c.Made() && !c.Helper {
			read[c.Source] = true
		}
	}
	place := make(map[string]int, len(names))
	var kept []int
	for i, name := range names {
		place[name] = i
		if !read[name] {
			kept = append(kept, i)
		}
	}
	if len(kept) == 0 {
		return p, nil
	}
	q := *p
	q.Columns = nil
	moved := make([]int, len(p.Columns)) // where the plan's own columns stand now
	next := 0
	var pending []int // columns made of others that stand before any of the source
	keep := func(before int) error {
		for next < len(kept) && kept[next] < before {
			c := asText(names[kept[next]])
			if i := p.addedFor(c.Name); i >= 0 { // the one that a join uses is written, too
				moved[i] = len(q.Columns)
			} else if slices.ContainsFunc(p.Columns, func(o Column) bool { return o.Name == c.Name }) {
				return fmt.Errorf("others: keep would write the column %q of the source as it is, and the plan makes a column of that name of another: give that another name", c.Name)
			}
			q.Columns = append(q.Columns, c)
			next++
		}
		return nil
	}
	put := func(columns []int) []int {
		for _, i := range columns {
			moved[i] = len(q.Columns)
			q.Columns = append(q.Columns, p.Columns[i])
		}
		return nil
	}
	first := true
	for i := range p.Columns {
		c := &p.Columns[i]
		if c.added && c.Helper {
			continue
		}
		if !c.Made() && !c.Helper {
			if err := keep(place[c.Source]); err != nil {
				return nil, err
			}
			pending = put(pending)
			first = false
		}
		if first {
			pending = append(pending, i)
		} else {
			put([]int{i})
		}
	}
	if err := keep(len(names)); err != nil {
		return nil, err
	}
	put(pending)
	q.move(moved)
	return &q, nil
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
		return &Expression{Expression: e.Expression, From: all(e.From)}
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
	p.OrderBy = slices.Clone(p.OrderBy)
	for i := range p.OrderBy {
		p.OrderBy[i].At = moved[p.OrderBy[i].At]
	}
}
