package show

import (
	"fmt"
	"slices"

	"junvo/internal/convert"
	"junvo/internal/plan"
)

// Grid shows whole rows: the columns of the source, each with all that is made of it beside it.
type Grid struct {
	PreviewOptions
	plan *plan.Plan
	rows [][]convert.Tried // a cell for each column of the plan
	row  []convert.Tried   // the one that is coming in
	more int64
}

// NewGrid begins a grid of rows of a plan.
func NewGrid(p *plan.Plan, o PreviewOptions) *Grid { return &Grid{PreviewOptions: o, plan: p} }

// Add takes a cell; those of a row come one after the other.
func (g *Grid) Add(t convert.Tried) {
	if len(g.row) > 0 && (g.row[0].Row != t.Row || g.row[0].From != t.From) {
		g.end()
	}
	g.row = append(g.row, t)
}

// end takes the row that has come in, if it is one that is shown.
func (g *Grid) end() {
	row := g.row
	g.row = nil
	if len(row) < len(g.plan.Columns) { // it was set aside for what failed in it
		return
	}
	shows := !g.Failures && !g.Emptied && g.Chosen == nil
	for i := range row {
		t := &row[i]
		if len(g.Only) > 0 && !slices.Contains(g.Only, t.Column) {
			continue
		}
		kind := fateOf(t)
		shows = shows || (!g.Failures || kind == failed) && (!g.Emptied || kind == emptied) &&
			(g.Chosen == nil || g.Chosen(*t))
	}
	switch {
	case !shows:
	case len(g.rows) < g.Cells:
		g.rows = append(g.rows, row)
	default:
		g.more++
	}
}

// Text returns the page; more says that there may be more rows than were looked at.
func (g *Grid) Text(f Format, page Page, rows int64, more bool) string {
	if len(g.row) > 0 {
		g.end()
	}
	out := &grid{columns: []column{{name: "row", right: true}}}
	for _, row := range g.rows {
		out.rows = append(out.rows, []string{rowName(&row[0])})
	}
	source := "" // whose cells stand there already
	for i := range g.plan.Columns {
		if len(g.Only) > 0 && !slices.Contains(g.Only, i) {
			continue
		}
		p := &g.plan.Columns[i]
		changes := p.Made()
		for _, row := range g.rows {
			kind := fateOf(&row[i])
			changes = changes || kind != same && (kind != blank || row[i].Raw != "")
		}
		if !p.Made() && p.Source != source {
			source = p.Source
			g.before(out, i, changes)
		}
		if changes {
			g.after(out, i)
		}
	}
	all := len(out.columns)
	text := out.render(f, page)
	if f != Table {
		return text
	}
	text = previewHead(rows, more) + g.Aside.text(page.Width) + "\n" + text
	if left := all - len(out.columns); left > 0 {
		text += fmt.Sprintf("%s left out, for which there is no room: --column chooses, and --format csv shows all\n",
			Plural(int64(left), "column"))
	}
	if g.more > 0 {
		text += Plural(g.more, "more row") + "\n"
	}
	return text
}

// rank orders the columns by what is left out first where there is no room for all: the last ones.
func (g *Grid) rank(i int) int { return 1 + i*(spare-2)/len(g.plan.Columns) }

// before adds the cells of a column of the source.
func (g *Grid) before(out *grid, i int, changes bool) {
	p := &g.plan.Columns[i]
	c := column{name: Visible(p.Source), min: 12, drop: g.rank(i)}
	if !changes {
		c.right = p.Convention.Type.Numeric() // it is what it is to be already
	}
	out.columns = append(out.columns, c)
	for r, row := range g.rows {
		before, _ := shownTexts(&row[i])
		out.rows[r] = append(out.rows[r], Visible(before))
	}
}

// after adds the values of a column of the output.
func (g *Grid) after(out *grid, i int) {
	p := &g.plan.Columns[i]
	out.columns = append(out.columns, column{
		name: "> " + Visible(p.Name), min: 12, drop: g.rank(i),
		right: p.Convention.Type.Numeric(),
	})
	for r, row := range g.rows {
		_, after := shownTexts(&row[i])
		text := Visible(after)
		switch fateOf(&row[i]) {
		case failed:
			text = "x " + row[i].Failure.Reason.String()
		case emptied:
			text = fates[emptied].sign
		}
		out.rows[r] = append(out.rows[r], text)
	}
}

// JSON returns the rows for programs.
func (g *Grid) JSON(rows int64) ([]byte, error) {
	if len(g.row) > 0 {
		g.end()
	}
	type cell struct {
		Column string `json:"column"`
		Before string `json:"before"`
		After  string `json:"after"`
		Reason string `json:"reason,omitempty"`
	}
	type line struct {
		Row   int64  `json:"row"`
		From  string `json:"from,omitempty"`
		Cells []cell `json:"cells"`
	}
	doc := struct {
		Junvo int              `json:"junvo"`
		Rows  int64            `json:"rows"`
		Aside map[string]int64 `json:"set_aside"`
		Grid  []line           `json:"grid"`
	}{Junvo: 1, Rows: rows, Aside: g.Aside.counts(), Grid: []line{}}
	for _, row := range g.rows {
		l := line{Row: row[0].Row, From: row[0].From, Cells: []cell{}}
		for i := range row {
			if t := &row[i]; len(g.Only) == 0 || slices.Contains(g.Only, t.Column) {
				before, after := shownTexts(t)
				one := cell{Column: g.plan.Columns[t.Column].Name, Before: before, After: after}
				if t.Failure != nil {
					one.Reason = t.Failure.Reason.String()
				}
				l.Cells = append(l.Cells, one)
			}
		}
		doc.Grid = append(doc.Grid, l)
	}
	return encode(doc)
}
