package show

import (
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
)

// Format is how a table is printed.
type Format string

// The formats of tables.
const (
	Table    Format = "table"
	JSON     Format = "json"
	CSV      Format = "csv"
	Markdown Format = "markdown"
)

// Formats lists the formats.
var Formats = []Format{Table, JSON, CSV, Markdown}

// Page is where things are shown.
type Page struct {
	Width  int // of the terminal in columns
	Colour bool
}

// The library colours what it is told to, whatever the environment says: each page says for itself whether it
// has colours.
func init() { text.EnableColors() }

// column is a column of a printed table.
type column struct {
	name  string
	right bool // numbers stand on the right
	min   int  // how narrow the column may get; 0 for as wide as it is
	wrap  bool // whether text that does not fit goes on in the next line
	drop  int  // columns that do not fit are left out, those with the highest number first; 0 for never
	limit int  // how wide it is allowed to be; 0 for as wide as it is
}

// grid is a table to print.
type grid struct {
	columns []column
	rows    [][]string
	foot    []string
}

// remove leaves a column out.
func (g *grid) remove(name string) {
	g.removeAt(slices.IndexFunc(g.columns, func(c column) bool { return c.name == name }))
}

func (g *grid) removeAt(i int) {
	g.columns = slices.Delete(g.columns, i, i+1)
	for r := range g.rows {
		g.rows[r] = slices.Delete(g.rows[r], i, i+1)
	}
	if g.foot != nil {
		g.foot = slices.Delete(g.foot, i, i+1)
	}
}

// render returns the grid in a format. In a table the columns fit the width:
// those with a minimum get narrower, the last of them first; then columns are left out.
func (g *grid) render(f Format, page Page) string {
	if f == Table {
		g.fit(page.Width)
	}
	w := table.NewWriter()
	style := plainStyle
	if page.Colour {
		style.Color.Header = text.Colors{text.Bold}
	}
	w.SetStyle(style)
	var configs []table.ColumnConfig
	var header, foot table.Row
	for i, c := range g.columns {
		header = append(header, c.name)
		config := table.ColumnConfig{Number: i + 1}
		if c.right {
			config.Align, config.AlignHeader, config.AlignFooter = text.AlignRight, text.AlignRight, text.AlignRight
		}
		if c.limit > 0 && f == Table {
			config.WidthMax = c.limit
			config.WidthMaxEnforcer = trim
			if c.wrap {
				config.WidthMaxEnforcer = wrap
			}
		}
		configs = append(configs, config)
	}
	w.AppendHeader(header)
	w.SetColumnConfigs(configs)
	for _, r := range g.rows {
		w.AppendRow(rowOf(g.safe(r, f)))
	}
	if g.foot != nil {
		foot = rowOf(g.foot)
		w.AppendFooter(foot)
	}
	switch f {
	case CSV:
		return w.RenderCSV() + "\n"
	case Markdown:
		return w.RenderMarkdown() + "\n"
	}
	lines := strings.Split(w.Render(), "\n")
	for i := range lines {
		lines[i] = strings.TrimRight(lines[i], " ")
	}
	return strings.Join(lines, "\n") + "\n"
}

// safe keeps the cells of text from being run or read as markup where the form of the page would
// pass them on.
func (g *grid) safe(cells []string, f Format) []string {
	if f != CSV && f != Markdown {
		return cells
	}
	out := slices.Clone(cells)
	for i, c := range out {
		switch {
		case f == Markdown:
			out[i] = markdownText.Replace(c)
		case i < len(g.columns) && !g.columns[i].right:
			out[i] = guard(c)
		}
	}
	return out
}

func rowOf(cells []string) table.Row {
	row := make(table.Row, len(cells))
	for i, c := range cells {
		row[i] = c
	}
	return row
}

// wrap goes on in the next line where text does not fit, but never between a word and the
// number after it. What stands for their space meanwhile, a character for private use,
// does not come from the data, of which only visible text is shown.
func wrap(s string, width int) string {
	if first, rest, ok := strings.Cut(s, "\n"); ok {
		return wrap(first, width) + "\n" + wrap(rest, width)
	}
	const hard = "\ue000"
	for i := 1; i+1 < len(s); i++ {
		if s[i] == ' ' && s[i+1] >= '0' && s[i+1] <= '9' && s[i-1] >= 'a' && s[i-1] <= 'z' {
			s = s[:i] + hard + s[i+1:]
		}
	}
	return strings.ReplaceAll(text.WrapSoft(s, width), hard, " ")
}

// trim cuts text that is too long for its column and shows that it did.
func trim(s string, width int) string {
	if text.StringWidthWithoutEscSequences(s) <= width {
		return s
	}
	return text.Trim(s, width-1) + "…"
}

const gap = 2 // spaces between columns

// fit makes the table no wider than width. What can be left out for good goes
// first, then the last columns with a minimum get narrower, then more is left out.
func (g *grid) fit(width int) {
	for g.total() > width && g.leaveOut(spare) {
	}
	for {
		for i := range g.columns {
			g.columns[i].limit = 0
		}
		over := g.total() - width
		for i := len(g.columns) - 1; i >= 0 && over > 0; i-- {
			c := &g.columns[i]
			if give := min(over, g.width(i)-c.min); c.min > 0 && give > 0 {
				c.limit = g.width(i) - give
				over -= give
			}
		}
		if over <= 0 || !g.leaveOut(1) {
			return
		}
	}
}

// spare is the rank of columns that are left out before others get narrower.
const spare = 10

func (g *grid) total() int {
	n := 0
	for i := range g.columns {
		n += g.width(i) + gap
	}
	return n
}

// width is the width that a column needs.
func (g *grid) width(i int) int {
	w := text.StringWidthWithoutEscSequences(g.columns[i].name)
	for _, r := range g.rows {
		w = max(w, text.StringWidthWithoutEscSequences(r[i]))
	}
	if g.foot != nil {
		w = max(w, text.StringWidthWithoutEscSequences(g.foot[i]))
	}
	return w
}

// leaveOut leaves out the column that is missed least, of those with a rank of least or more.
func (g *grid) leaveOut(least int) bool {
	at, most := -1, least-1
	for i, c := range g.columns {
		if c.drop > most {
			at, most = i, c.drop
		}
	}
	if at < 0 {
		return false
	}
	g.columns = append(g.columns[:at:at], g.columns[at+1:]...)
	for i, r := range g.rows {
		g.rows[i] = append(r[:at:at], r[at+1:]...)
	}
	if g.foot != nil {
		g.foot = append(g.foot[:at:at], g.foot[at+1:]...)
	}
	return true
}

var plainStyle = table.Style{
	Name: "junvo",
	Box: table.BoxStyle{
		MiddleHorizontal: "─", MiddleSeparator: "─", MiddleVertical: " ", PaddingLeft: "", PaddingRight: " ",
		BottomLeft: "─", BottomRight: "─", BottomSeparator: "─", Left: "", LeftSeparator: "", Right: "", RightSeparator: "",
		TopLeft: "", TopRight: "", TopSeparator: "", UnfinishedRow: " ~",
	},
	Options: table.Options{SeparateColumns: true, SeparateHeader: true, SeparateFooter: true},
}
