package show

import "strings"

// facts is a page of headings, facts with a name, and tables. For people it reads from top to bottom; as CSV
// it is one table in which each fact and each row of a table has a row of its own.
type facts struct {
	b    strings.Builder
	f    Format
	page Page
	all  *grid
	of   string // the column that the facts are about, "" for none
}

func newFacts(f Format, page Page) *facts {
	return &facts{f: f, page: page, all: &grid{columns: []column{
		{name: "column"},
		{name: "what"},
		{name: "text"},
		{name: "cells", right: true},
		{name: "row", right: true},
		{name: "note"},
	}}}
}

func (p *facts) row(what, text, cells, row, note string) {
	p.all.rows = append(p.all.rows, []string{p.of, what, text, cells, row, note})
}

func (p *facts) heading(say string) {
	switch p.f {
	case CSV:
	case Markdown:
		if p.b.Len() > 0 {
			p.b.WriteByte('\n')
		}
		p.b.WriteString("### " + escapeCell(say) + "\n\n")
	default:
		p.b.WriteString(say + "\n")
	}
}

// entry adds a fact; those that belong to the one before have no name.
func (p *facts) entry(name, say string) {
	switch p.f {
	case CSV:
		p.row(name, say, "", "", "")
	case Markdown:
		if name != "" {
			name += ": "
		}
		p.b.WriteString("- " + escapeCell(name+say) + "\n")
	default:
		p.b.WriteString(p.page.entry(name, say))
	}
}

// note adds a remark between tables.
func (p *facts) note(say string) {
	switch p.f {
	case CSV:
		p.row("note", say, "", "", "")
	case Markdown:
		p.b.WriteString("\n" + escapeCell(say) + "\n")
	default:
		p.b.WriteString("\n" + say + "\n")
	}
}

// table adds a table unless it is empty; what names one of its rows.
func (p *facts) table(what, title string, g *grid) {
	switch {
	case len(g.rows) == 0:
	case p.f == CSV:
		for _, r := range g.rows {
			named := map[string]string{}
			var texts []string
			for i, c := range g.columns {
				if c.name == "cells" || c.name == "row" {
					named[c.name] = r[i]
				} else {
					texts = append(texts, r[i])
				}
			}
			p.row(what, texts[0], named["cells"], named["row"], strings.Join(texts[1:], ", "))
		}
	default:
		if p.f == Table {
			p.b.WriteByte('\n')
		}
		p.heading(title)
		p.b.WriteString(g.render(p.f, p.page))
	}
}

// text returns the page.
func (p *facts) text() string {
	if p.f == CSV {
		return p.all.render(CSV, p.page)
	}
	return p.b.String()
}
