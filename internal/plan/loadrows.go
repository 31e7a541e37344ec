package plan

import (
	"slices"

	"junvo/internal/rowkind"
)

// rows reads what the plan says of rows.
func (l *loader) rows(n *node, p *Plan) {
	l.each(n, "rows", map[string]func(*node){
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
		} else if p.Columns[key.At].Helper {
			l.fail(l.orderBy[i], "the helper %s is not written, and rows are ordered by what is", key.Column)
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
