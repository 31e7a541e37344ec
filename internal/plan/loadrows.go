package plan

import (
	"slices"

	"junvo/internal/rowkind"
)

// rows reads what the plan says of rows.
func (l *loader) rows(n *node, p *Plan) {
	var turn, into *node
	l.each(n, "rows", map[string]func(*node){
		"turn": func(n *node) { turn, p.Turn = n, l.texts(n) },
		"into": func(n *node) {
			into = n
			if names := l.texts(n); len(names) == 2 && names[0] != names[1] && names[0] != "" && names[1] != "" {
				p.TurnInto = [2]string(names)
				return
			}
			l.fail(n, "into has the names of two columns: for the names of the columns that are turned, and for their "+
				"cells, as in [month, amount]")
		},
		"keep": func(n *node) { l.keep = n },
		"drop": func(n *node) { l.drop = n },
		"section-heading-into": func(n *node) {
			p.HeadingInto, l.headingInto = l.text(n), n
			p.SetAside[rowkind.SectionHeading] = true
		},
		"order-by": func(n *node) {
			keys := []*node{n}
			if n.kind == list {
				keys = n.items
			}
			for _, k := range keys {
				l.orderKey(k, p)
			}
			if len(keys) == 0 {
				l.fail(n, "order-by is a column of the output, or a list of these")
			}
		},
		"set-aside": func(n *node) {
			for _, i := range n.items {
				l.setAside(i, p)
			}
			if n.kind != list {
				l.fail(n, "set-aside is a list of kinds of rows")
			}
		},
	})
	l.turn(p, turn, into)
}

// turn checks what the plan says of columns that become rows.
func (l *loader) turn(p *Plan, turn, into *node) {
	switch {
	case turn == nil && into == nil:
		return
	case turn == nil || into == nil:
		for _, n := range []*node{turn, into} {
			if n != nil {
				l.fail(n, "turn and into go together, as in turn: [Jan, Feb, Mar] with into: [month, amount]")
			}
		}
		return
	case len(p.Turn) == 0:
		l.fail(turn, "turn is a list of columns of the source")
	}
	seen := map[string]bool{}
	for _, name := range p.Turn {
		if seen[name] {
			l.fail(turn, "turn names the column %q twice", name)
		}
		seen[name] = true
	}
}

// headings makes the column that section headings become, or finds it among those of the plan.
func (l *loader) headings(p *Plan) {
	if p.HeadingInto == "" {
		return
	}
	for i := range p.Columns {
		c := &p.Columns[i]
		if c.Name != p.HeadingInto {
			continue
		}
		if c.Made() || c.Split != nil || c.Source != c.Name {
			l.fail(l.headingInto, "section-heading-into names the column %s, which is made of something else", c.Name)
		}
		c.Heading, c.Source = true, ""
		return
	}
	c := asText(p.HeadingInto)
	c.Heading, c.Source = true, ""
	p.Columns = slices.Insert(p.Columns, 0, c)
}

// orderKey reads a column to order by: its name, or {name: descending}.
func (l *loader) orderKey(n *node, p *Plan) {
	key := OrderKey{Column: n.text}
	if n.kind == mapping && len(n.keys) == 1 {
		key.Column = n.keys[0].text
		switch l.text(n.items[0]) {
		case "descending":
			key.Descending = true
		case "ascending":
		default:
			l.unknown(n.items[0], "order", n.items[0].text, []string{"ascending", "descending"})
		}
	} else if n.kind != scalar {
		l.fail(n, "order-by names a column of the output, as in net_weight or {net_weight: descending}")
		return
	}
	p.OrderBy = append(p.OrderBy, key)
	l.orderBy = append(l.orderBy, n)
}

// orderColumns finds the columns to order by in the output.
func (l *loader) orderColumns(p *Plan) {
	names := make([]string, len(p.Columns))
	for i, c := range p.Columns {
		names[i] = c.Name
	}
	for i := range p.OrderBy {
		key := &p.OrderBy[i]
		if key.At = slices.Index(names, key.Column); key.At < 0 {
			l.unknown(l.orderBy[i], "column of the output", key.Column, names)
		}
	}
}

func (l *loader) setAside(n *node, p *Plan) {
	var names []string
	for _, e := range rowkind.Catalogue[1:rowkind.Failed] {
		names = append(names, e.Plural)
		if e.Plural == n.text {
			p.SetAside[e.Kind] = true
			return
		}
	}
	l.unknown(n, "kind of rows", n.text, names)
}
