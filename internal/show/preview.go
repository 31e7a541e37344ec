package show

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/character"
	"junvo/internal/convert"
	"junvo/internal/plan"
)

// Preview collects the cells that show best what a plan does.
type Preview struct {
	plan     *plan.Plan
	limit    int // cells of each column
	failures bool
	only     []int
	columns  []previewColumn
}

type previewColumn struct {
	ordinary, shapes, failing []convert.Tried
	seen                      map[string]bool // shapes
	failed                    int64
}

// ordinaryRows is how many rows from the top are shown whatever is in them.
const ordinaryRows = 3

// NewPreview shows up to that many cells of each column, or only those that fail.
func NewPreview(p *plan.Plan, limit int, failures bool) *Preview {
	v := &Preview{plan: p, limit: limit, failures: failures, columns: make([]previewColumn, len(p.Columns))}
	for i := range v.columns {
		v.columns[i].seen = map[string]bool{}
	}
	return v
}

// Only shows this column of the plan, and others that Only was called for.
func (v *Preview) Only(column int) { v.only = append(v.only, column) }

// Add takes a cell.
func (v *Preview) Add(t convert.Tried) {
	if len(v.only) > 0 && !slices.Contains(v.only, t.Column) {
		return
	}
	c := &v.columns[t.Column]
	if t.Failure != nil {
		if c.failed++; len(c.failing) < v.limit {
			c.failing = append(c.failing, t)
		}
		return
	}
	shape := character.Shape(t.Raw)
	switch {
	case len(c.ordinary) < min(ordinaryRows, v.limit):
		c.ordinary = append(c.ordinary, t)
	case !c.seen[shape] && len(c.shapes) < v.limit:
		c.shapes = append(c.shapes, t)
	default:
		return
	}
	c.seen[shape] = true
}

// cells returns what is shown of a column: at least a third of the room is for failures.
func (v *Preview) cells(c *previewColumn) []convert.Tried {
	if v.failures {
		return c.failing
	}
	failing := c.failing[:min(len(c.failing), max(1, v.limit/3))]
	good := append(slices.Clone(c.ordinary), c.shapes...)
	good = good[:min(len(good), v.limit-len(failing))]
	return append(good, failing...)
}

// shown returns the columns that are shown.
func (v *Preview) shown() (columns []int) {
	for i := range v.columns {
		if (len(v.only) == 0 || slices.Contains(v.only, i)) && (!v.failures || v.columns[i].failed > 0) {
			columns = append(columns, i)
		}
	}
	return columns
}

// Text returns the page; more says that there may be more rows than were looked at.
func (v *Preview) Text(f Format, page Page, rows int64, more bool) string {
	var b strings.Builder
	of := "the " + plural(rows, "row")
	if more {
		of = "the first " + plural(rows, "row")
	}
	if f == Table {
		fmt.Fprintf(&b, "preview of %s; nothing is written\n", of)
	}
	columns := v.shown()
	if f == CSV {
		return v.table(columns).render(f, page)
	}
	for _, i := range columns {
		b.WriteString("\n" + v.column(i, f, page))
	}
	if len(columns) == 0 {
		b.WriteString("nothing fails\n")
	}
	if f == Markdown {
		return strings.TrimLeft(b.String(), "\n")
	}
	return b.String()
}

// table is all columns in one table.
func (v *Preview) table(columns []int) *grid {
	g := &grid{columns: []column{
		{name: "column"},
		{name: "type"},
		{name: "row", right: true},
		{name: "before"},
		{name: "after"},
		{name: "reason"},
	}}
	for _, i := range columns {
		p := &v.plan.Columns[i]
		for _, t := range v.cells(&v.columns[i]) {
			before, after := shown(t)
			g.rows = append(g.rows, []string{
				Visible(p.Name), p.Convention.Type.String(), strconv.FormatInt(t.Row, 10),
				Visible(before), Visible(after), failed(t),
			})
		}
	}
	return g
}

// failed says why a cell failed, "" where it did not.
func failed(t convert.Tried) string {
	switch {
	case t.Failure == nil:
		return ""
	case t.Failure.Detail == "":
		return t.Failure.Reason.String()
	}
	return t.Failure.Reason.String() + ": " + Visible(t.Failure.Detail)
}

func (v *Preview) column(i int, f Format, page Page) string {
	c, p := &v.columns[i], &v.plan.Columns[i]
	head := Visible(p.Name)
	switch {
	case p.Join != nil:
		head += " joined of " + Visible(strings.Join(p.Join.Columns, ", ")) + ","
	case p.Compute != nil:
		head += " computed,"
	case p.Source != p.Name:
		head += fmt.Sprintf(" from %q", Visible(p.Source))
	}
	head += " to " + withNote(p.Convention.Type.String(), p.Terms.Say())
	if c.failed > 0 {
		head += fmt.Sprintf(": %d fail", c.failed)
	}
	g := &grid{columns: []column{
		{name: "row", right: true},
		{name: "before", min: 20},
		{name: ""},
		{name: "after", min: 20, right: p.Convention.Type.Numeric()},
		{name: "reason", min: 16},
	}}
	anyFails := false
	for _, t := range v.cells(c) {
		before, after := shown(t)
		g.rows = append(g.rows, []string{strconv.FormatInt(t.Row, 10), Visible(before), sign(t), Visible(after), failed(t)})
		anyFails = anyFails || t.Failure != nil
	}
	if !anyFails {
		g.remove("reason")
	}
	if f == Markdown {
		head = "### " + escapeCell(head) + "\n"
	}
	return head + "\n" + g.render(f, page)
}

// shown returns the texts before and after, or their shapes where the column is private.
func shown(t convert.Tried) (before, after string) {
	if t.Hidden {
		return character.Shape(t.Raw), character.Shape(t.Out)
	}
	return t.Raw, t.Out
}

// sign says what happened to a cell.
func sign(t convert.Tried) string {
	switch {
	case t.Failure != nil:
		return "x"
	case t.Out == "":
		return "."
	case t.Out == t.Raw:
		return "="
	}
	return ">"
}

// JSON returns the preview for programs.
func (v *Preview) JSON(rows int64) ([]byte, error) {
	type cell struct {
		Row    int64  `json:"row"`
		Before string `json:"before"`
		After  string `json:"after"`
		Reason string `json:"reason,omitempty"`
	}
	type column struct {
		Name  string `json:"name"`
		Type  string `json:"type"`
		Fail  int64  `json:"fail"`
		Cells []cell `json:"cells"`
	}
	doc := struct {
		Junvo   int      `json:"junvo"`
		Rows    int64    `json:"rows"`
		Columns []column `json:"columns"`
	}{Junvo: 1, Rows: rows, Columns: []column{}}
	for _, i := range v.shown() {
		p := &v.plan.Columns[i]
		c := column{p.Name, p.Convention.Type.String(), v.columns[i].failed, []cell{}}
		for _, t := range v.cells(&v.columns[i]) {
			before, after := shown(t)
			one := cell{t.Row, before, after, ""}
			if t.Failure != nil {
				one.Reason = t.Failure.Reason.String()
			}
			c.Cells = append(c.Cells, one)
		}
		doc.Columns = append(doc.Columns, c)
	}
	return encode(doc)
}
