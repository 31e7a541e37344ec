package show

import (
	"fmt"

	"junvo/internal/table"
	"junvo/internal/totals"
	"junvo/internal/value"
)

// Across is totals of which one key stands across: a line for each group of the others, a column for each of its
// values.
type Across struct {
	of     *Totals
	at     int // the key in By
	turned *totals.Pivoted
}

// maxAcross is how many values may stand across.
const maxAcross = 200

// Turn puts a key, by its place among those that make the groups, across. The groups come in the order of their keys.
func (t *Totals) Turn(at int) (*Across, error) {
	a := &Across{t, at, totals.Turn(t.Groups, at, t.Fields[t.By[at]].Type)}
	if n := len(a.turned.Across); n > maxAcross {
		return nil, fmt.Errorf("the column %s has %d different values, and at most %d can stand across: put another one "+
			"across, or make groups of it with an expression", t.Fields[t.By[at]].Name, n, maxAcross)
	}
	return a, nil
}

// figures are those that are shown: the rows where none was asked for.
func (a *Across) figures() (names []string, of func(g *totals.Group, i int) string, fields []table.Field) {
	t := a.of
	result := t.Result()[len(t.By):]
	if len(t.Figures) == 0 {
		return []string{"rows"}, func(g *totals.Group, _ int) string { return fmt.Sprint(g.Rows) }, result[:1]
	}
	for _, f := range t.Figures {
		names = append(names, t.FigureName(f))
	}
	of = func(g *totals.Group, i int) string { return t.figure(g, t.Figures[i]) }
	return names, of, result[1 : len(result)-len(behind)]
}

// Result are the columns of the turned table with their types.
func (a *Across) Result() (fields []table.Field) {
	t := a.of
	for i, c := range t.By {
		if i != a.at {
			fields = append(fields, t.Fields[c])
		}
	}
	names, _, types := a.figures()
	for i, name := range names {
		for _, k := range a.turned.Across {
			field := types[i]
			if field.Name = keyName(k); len(names) > 1 {
				field.Name = name + " " + field.Name
			}
			fields = append(fields, field)
		}
	}
	return named(append(fields, behind...))
}

// keyName is a key as the name of a column.
func keyName(k totals.Key) string {
	switch {
	case k.Failed != "":
		return "(" + k.Failed + ")"
	case k.Blank:
		return "(blank)"
	}
	return k.Text
}

// Records returns the lines of the turned table.
func (a *Across) Records() (records [][]string) {
	names, of, _ := a.figures()
	for _, row := range a.turned.Rows {
		var cells []string
		for _, k := range row.Keys {
			cells = append(cells, k.Text)
		}
		for i := range names {
			for _, g := range row.Groups {
				cell := ""
				if g != nil {
					cell = of(g, i)
				}
				cells = append(cells, cell)
			}
		}
		kind := groupKind(row.Keys)
		if len(row.Keys) == 0 {
			kind = allRows
		}
		records = append(records, append(cells, a.lacking(row.Groups), kind))
	}
	return records
}

// lacking says which cells of a line are in none of its figures.
func (a *Across) lacking(groups []*totals.Group) string {
	sum := &totals.Group{Columns: make([]totals.Column, len(totals.MeasuredOf(a.of.Figures)))}
	for _, g := range groups {
		if g == nil {
			continue
		}
		for i := range g.Columns {
			sum.Columns[i].Failed += g.Columns[i].Failed
			sum.Columns[i].Blank += g.Columns[i].Blank
		}
	}
	return a.of.lacking(sum)
}

// foot is the line of all: what can be added up is.
func (a *Across) foot() []string {
	names, of, _ := a.figures()
	foot := make([]string, len(a.of.By)-1)
	var all []*totals.Group
	for i := range names {
		adds := len(a.of.Figures) == 0 || a.of.Figures[i].Kind == totals.Sum
		for k := range a.turned.Across {
			var sum value.Adder
			for _, row := range a.turned.Rows {
				if g := row.Groups[k]; g != nil && adds {
					sum.Add([]byte(of(g, i)))
				}
			}
			foot = append(foot, sum.Text())
		}
	}
	for _, row := range a.turned.Rows {
		all = append(all, row.Groups...)
	}
	if len(a.of.By) > 1 {
		foot[0] = allRows
	}
	return append(foot, a.lacking(all), allRows)
}

// Text returns the turned table.
func (a *Across) Text(f Format, page Page) string {
	g := figuresGrid(a.Result(), 6)
	some := false
	for i, cells := range a.Records() {
		for k, key := range a.turned.Rows[i].Keys {
			if f != CSV {
				cells[k] = keyText(key)
			}
		}
		some = some || cells[len(cells)-len(behind)] != ""
		for k := len(a.turned.Rows[i].Keys); k < len(cells); k++ {
			cells[k] = Visible(cells[k])
		}
		g.rows = append(g.rows, cells)
	}
	if len(a.of.By) > 1 {
		g.foot = a.foot()
	}
	g.finish(f, some)
	return g.render(f, page) + a.of.around(f, page)
}
