package show

import (
	"fmt"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"

	"junvo/internal/convert"
	"junvo/internal/plan"
)

// Text returns the page; more says that there may be more rows than were looked at.
func (v *Preview) Text(f Format, page Page, rows int64, more bool) string {
	var b strings.Builder
	if f == Table {
		b.WriteString(previewHead(rows, more) + v.Aside.text(page.Width))
	}
	columns, unchanged := v.shown()
	if f == CSV {
		return v.table(append(columns, unchanged...)).render(f, page)
	}
	blocks := make([]string, len(columns))
	for i, c := range columns {
		blocks[i] = v.column(c, f, page)
	}
	if f == Table && page.Width >= wide {
		blocks = beside(blocks, page.Width)
	}
	for _, block := range blocks {
		b.WriteString("\n" + block)
	}
	switch {
	case len(columns) == 0 && v.Failures:
		b.WriteString("nothing fails\n")
	case len(columns) == 0 && v.Emptied:
		b.WriteString("the steps leave something of every cell that held something\n")
	case len(unchanged) > 0:
		names := make([]string, len(unchanged))
		for i, c := range unchanged {
			names[i] = Visible(v.plan.Columns[c].Name)
		}
		say := "unchanged: " + strings.Join(names, ", ")
		if f == Markdown {
			b.WriteString("\n" + escapeCell(say) + "\n")
		} else {
			b.WriteString("\n" + page.entry("unchanged", strings.Join(names, ", ")))
		}
	}
	if f == Markdown {
		return strings.TrimLeft(b.String(), "\n")
	}
	return b.String()
}

// wide is how many columns a terminal has at least on which tables stand side by side.
const wide = 140

// beside puts blocks of lines side by side as far as there is room, in their order.
func beside(blocks []string, width int) (rows []string) {
	const gap = 4
	var row []string
	used := 0
	for _, block := range blocks {
		w := blockWidth(block)
		if len(row) > 0 && used+gap+w > width {
			rows = append(rows, joinBlocks(row, gap))
			row, used = nil, 0
		}
		if len(row) > 0 {
			used += gap
		}
		row = append(row, block)
		used += w
	}
	if len(row) > 0 {
		rows = append(rows, joinBlocks(row, gap))
	}
	return rows
}

func blockWidth(block string) (width int) {
	for line := range strings.Lines(block) {
		width = max(width, text.StringWidthWithoutEscSequences(strings.TrimSuffix(line, "\n")))
	}
	return width
}

// joinBlocks writes blocks side by side.
func joinBlocks(blocks []string, gap int) string {
	var lines []string // what stands to the left so far
	left := 0
	for _, block := range blocks {
		own := strings.Split(strings.TrimSuffix(block, "\n"), "\n")
		for i, line := range own {
			if i == len(lines) {
				lines = append(lines, "")
			}
			if pad := left - text.StringWidthWithoutEscSequences(lines[i]); pad > 0 && line != "" {
				lines[i] += strings.Repeat(" ", pad)
			}
			lines[i] += line
		}
		left += blockWidth(block) + gap
	}
	return strings.Join(lines, "\n") + "\n"
}

// previewHead says what is previewed.
func previewHead(rows int64, more bool) string {
	of := "the " + Plural(rows, "row")
	if more {
		of = "the first " + Plural(rows, "row")
	}
	return fmt.Sprintf("preview of %s; nothing is written\n", of)
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
		list, _ := v.cells(&v.columns[i])
		for _, t := range list {
			before, after := shownTexts(&t)
			g.rows = append(g.rows, []string{
				Visible(p.Name), p.Convention.Type.String(), rowName(&t),
				Visible(before), Visible(after), whyFailed(&t),
			})
		}
	}
	return g
}

// whyFailed says why a cell failed, "" where it did not.
func whyFailed(t *convert.Tried) string {
	switch {
	case t.Failure == nil:
		return ""
	case t.Failure.Detail == "":
		return t.Failure.Reason.String()
	}
	return t.Failure.Reason.String() + ": " + Visible(t.Failure.Detail)
}

// madeOf says what a column of a plan is made of and becomes.
func madeOf(p *plan.Column) string {
	head := Visible(p.Name)
	switch {
	case p.Heading:
		head += " of section headings,"
	case p.Join != nil:
		head += " joined of " + Visible(strings.Join(p.Join.Columns, ", ")) + ","
	case p.Compute != nil:
		head += " computed,"
	case p.Source != p.Name:
		head += fmt.Sprintf(" from %q", Visible(p.Source))
	}
	head += " to " + withNote(p.Convention.Type.String(), p.Terms.Say())
	if p.Helper {
		head += ", a helper"
	}
	return head
}

// counts says what becomes of the cells that were looked at.
func (c *previewColumn) counted() string {
	var parts []string
	for kind, n := range c.counts {
		if n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, fates[kind].name))
		}
	}
	return strings.Join(parts, ", ")
}

func (v *Preview) column(i int, f Format, page Page) string {
	c, p := &v.columns[i], &v.plan.Columns[i]
	head := madeOf(p) + ": " + c.counted()
	g := &grid{columns: []column{
		{name: "row", right: true},
		{name: "before", min: 20},
	}}
	if v.Steps && p.Compute == nil {
		for _, s := range p.Steps {
			g.columns = append(g.columns, column{name: Visible(plan.StepText(s)), min: 12})
		}
	}
	steps := len(g.columns) - 2
	g.columns = append(g.columns, column{name: ""}, column{name: "after", min: 20, right: p.Convention.Type.Numeric()},
		column{name: "reason", min: 16})
	anyFails := false
	list, more := v.cells(c)
	for _, t := range list {
		before, after := shownTexts(&t)
		row := []string{rowName(&t), Visible(before)}
		made := v.steps(&t)
		for i := range steps {
			text := ""
			if i < len(made) {
				text = Visible(made[i].Text)
			}
			row = append(row, text)
		}
		g.rows = append(g.rows, append(row, fates[fateOf(&t)].sign, Visible(after), whyFailed(&t)))
		anyFails = anyFails || t.Failure != nil
	}
	if !anyFails {
		g.remove("reason")
	}
	if f == Markdown {
		head = "### " + escapeCell(head) + "\n"
	}
	return head + "\n" + g.render(f, page) + v.unseen(more)
}

// unseen says that there are more cells than are shown.
func (v *Preview) unseen(more int64) string {
	switch {
	case more <= 0:
		return ""
	case v.Failures || v.Chosen == nil && !v.Emptied:
		return fmt.Sprintf("%d more fail\n", more)
	case v.Emptied:
		return fmt.Sprintf("%d more are emptied\n", more)
	}
	return fmt.Sprintf("%d more\n", more)
}
