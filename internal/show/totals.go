package show

import (
	"fmt"
	"math/big"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/table"
	"junvo/internal/totals"
	"junvo/internal/value"
)

// Totals is what has been counted and added up of a table by groups.
type Totals struct {
	Fields  []table.Field // of the columns that are counted
	By      []int
	Figures []totals.Figure
	Groups  []*totals.Group
	All     *totals.Group
	Left    int64 // groups that are not shown
	// Ledger says whether the total rows of the source are what their rows add up to, and what no group has.
	Ledger *convert.Ledger
}

// Headings are the names of the columns of the result: those of the groups, rows, the figures, what they lack, and what
// kind of group it is.
func (t *Totals) Headings() (names []string) {
	for _, field := range t.Result() {
		names = append(names, field.Name)
	}
	return names
}

// end returns where the columns stand that come behind the figures.
func (t *Totals) end() int { return len(t.By) + 1 + len(t.Figures) }

// behind are the columns behind the figures.
var behind = []table.Field{{Name: "lacking", Type: value.Text}, {Name: "group kind", Type: value.Text}}

// allRows is the kind of the group that has all rows.
const allRows = "all"

// groupKind says what kind of group it is: of values, or one that has no value in a key.
func groupKind(keys []totals.Key) string {
	kind := "values"
	for _, k := range keys {
		switch {
		case k.Failed != "":
			return "failed"
		case k.Blank:
			kind = "blank"
		}
	}
	return kind
}

// FigureName names a figure, as in sum net_weight.
func (t *Totals) FigureName(f totals.Figure) string {
	return f.Kind.String() + " " + t.Fields[f.Column].Name
}

// Result are the columns of the result with their types.
func (t *Totals) Result() (fields []table.Field) {
	for _, c := range t.By {
		fields = append(fields, t.Fields[c])
	}
	fields = append(fields, table.Field{Name: "rows", Type: value.Integer})
	for _, f := range t.Figures {
		field := table.Field{Name: t.FigureName(f), Type: t.Fields[f.Column].Type, Offsets: t.Fields[f.Column].Offsets}
		switch {
		case f.Kind == totals.Distinct:
			field.Type = value.Integer
		case field.Type == value.Integer && (f.Kind == totals.Mean || f.Kind == totals.Median):
			field.Type = value.Decimal
		}
		fields = append(fields, field)
	}
	return named(append(fields, behind...))
}

// named gives the columns names that differ: those of keys come first, and keep theirs.
func named(fields []table.Field) []table.Field {
	taken := map[string]bool{}
	for i := range fields {
		fields[i].Name = plan.UniqueName(fields[i].Name, taken)
		taken[fields[i].Name] = true
	}
	return fields
}

// figure returns a figure of a group.
func (t *Totals) figure(g *totals.Group, f totals.Figure) string {
	return g.Columns[slices.Index(totals.MeasuredOf(t.Figures), f.Column)].Figure(f.Kind)
}

// Record returns a group as the cells of the result. A group without a value in a key has a blank there.
func (t *Totals) Record(g *totals.Group) (cells []string) {
	for i := range t.By {
		key := ""
		if i < len(g.Keys) {
			key = g.Keys[i].Text
		}
		cells = append(cells, key)
	}
	cells = append(cells, strconv.FormatInt(g.Rows, 10))
	for _, f := range t.Figures {
		cells = append(cells, t.figure(g, f))
	}
	kind := groupKind(g.Keys)
	if g == t.All {
		kind = allRows
	}
	return append(cells, t.lacking(g), kind)
}

// lacking says which cells are not in the figures of a group, and which of its keys has failed.
func (t *Totals) lacking(g *totals.Group) string {
	var parts []string
	for i, k := range g.Keys {
		if k.Failed != "" {
			parts = append(parts, t.Fields[t.By[i]].Name+" failed: "+k.Failed)
		}
	}
	for i, c := range totals.MeasuredOf(t.Figures) {
		var missing []string
		if n := g.Columns[i].Failed; n > 0 {
			missing = append(missing, fmt.Sprintf("%d failed", n))
		}
		if n := g.Columns[i].Blank; n > 0 {
			missing = append(missing, fmt.Sprintf("%d blank", n))
		}
		if len(missing) > 0 {
			parts = append(parts, t.Fields[c].Name+" "+strings.Join(missing, ", "))
		}
	}
	return strings.Join(parts, "; ")
}

// keyText says what a key of a group is.
func keyText(k totals.Key) string {
	switch {
	case k.Failed != "":
		return "(" + k.Failed + ")"
	case k.Blank:
		return "(blank)"
	}
	return Visible(k.Text)
}

// bars are how many places the longest bar has.
const bars = 12

// Text returns the totals as a table; a bar shows the first figure of each group, or how many rows it has.
func (t *Totals) Text(f Format, page Page) string {
	g := figuresGrid(t.Result(), 8)
	line := func(group *totals.Group) []string {
		cells := t.Record(group)
		for i := range cells {
			cells[i] = Visible(cells[i])
		}
		for i, k := range group.Keys {
			if f != CSV { // which says it in a column
				cells[i] = keyText(k)
			}
		}
		return cells
	}
	for _, group := range t.Groups {
		g.rows = append(g.rows, line(group))
	}
	all := line(t.All)
	if len(t.By) > 0 {
		all[0] = allRows
		g.foot = all
	} else {
		g.rows = append(g.rows, all)
	}
	lacks := func(group *totals.Group) bool { return t.lacking(group) != "" }
	g.finish(f, lacks(t.All) || slices.ContainsFunc(t.Groups, lacks))
	if f == Table && len(t.By) > 0 && len(t.Groups) > 1 {
		t.draw(g)
	}
	text := g.render(f, page)
	if t.Left > 0 && f != CSV {
		text += Plural(t.Left, "more group") + "\n"
	}
	return text + t.around(f, page)
}

// figuresGrid makes a grid of figures, of whose columns each has a least width.
func figuresGrid(fields []table.Field, least int) *grid {
	g := &grid{}
	for _, field := range fields {
		g.columns = append(g.columns, column{name: Visible(field.Name), right: field.Type.Numeric(), min: least})
	}
	lacking := &g.columns[len(fields)-len(behind)]
	lacking.min, lacking.wrap = 16, true
	return g
}

// finish leaves out what a person need not see: the kind of each group, which its keys show, and what nothing lacks. A
// program reads the same columns each time.
func (g *grid) finish(f Format, lacks bool) {
	if f == CSV {
		return
	}
	g.removeAt(len(g.columns) - 1)
	if !lacks {
		g.removeAt(len(g.columns) - 1)
	}
}

// around says of the source what stands in no group.
func (t *Totals) around(f Format, page Page) string {
	if t.Ledger == nil || f != Table {
		return ""
	}
	text := totalRows(&t.Ledger.Totals, page) + ledgerDoubts(t.Ledger, page)
	if text != "" {
		text = "\n" + text
	}
	return text
}

// draw adds a column of bars.
func (t *Totals) draw(g *grid) {
	of := func(group *totals.Group) *big.Rat {
		text := strconv.FormatInt(group.Rows, 10)
		if len(t.Figures) > 0 {
			text = t.figure(group, t.Figures[0])
		}
		n, err := value.ParseNumber(text)
		if err != nil {
			return nil
		}
		return n.Rat()
	}
	largest := new(big.Rat)
	for _, group := range t.Groups {
		if n := of(group); n != nil && new(big.Rat).Abs(n).Cmp(largest) > 0 {
			largest.Abs(n)
		}
	}
	if largest.Sign() == 0 {
		return
	}
	at := len(t.By) + 1 + min(1, len(t.Figures))
	g.columns = slices.Insert(g.columns, at, column{name: "", drop: 1})
	for i, group := range t.Groups {
		bar := ""
		if n := of(group); n != nil && n.Sign() > 0 {
			share, _ := new(big.Rat).Quo(n, largest).Float64()
			bar = strings.Repeat("▪", max(1, int(share*bars+0.5)))
		}
		g.rows[i] = slices.Insert(g.rows[i], at, bar)
	}
	if g.foot != nil {
		g.foot = slices.Insert(g.foot, at, "")
	}
}

type (
	comparedJSON struct {
		Agree  int             `json:"agree"`
		Differ []differingJSON `json:"differ"`
	}
	differingJSON struct {
		Group      string `json:"group"`
		Figure     string `json:"figure"`
		Expected   string `json:"expected"`
		Is         string `json:"is"`
		Difference string `json:"difference"`
	}
)

// JSON returns the totals for programs. Its schema is docs/schemas/totals.schema.json.
func (t *Totals) JSON(compared *Compared, changes []Differing) ([]byte, error) {
	type columnJSON struct {
		Column  string            `json:"column"`
		Used    int64             `json:"used"`
		Failed  int64             `json:"failed"`
		Blank   int64             `json:"blank"`
		Figures map[string]string `json:"figures"`
	}
	type keyJSON struct {
		Value  *string `json:"value"`
		Failed *string `json:"failed"`
	}
	type groupJSON struct {
		Keys    []keyJSON    `json:"keys"`
		Rows    int64        `json:"rows"`
		Columns []columnJSON `json:"columns"`
	}
	one := func(g *totals.Group) groupJSON {
		out := groupJSON{Keys: []keyJSON{}, Rows: g.Rows, Columns: []columnJSON{}}
		for _, k := range g.Keys {
			key := keyJSON{Failed: optional(k.Failed)}
			if !k.Blank && k.Failed == "" {
				key.Value = &k.Text
			}
			out.Keys = append(out.Keys, key)
		}
		for i, c := range totals.MeasuredOf(t.Figures) {
			m := &g.Columns[i]
			col := columnJSON{t.Fields[c].Name, m.Used, m.Failed, m.Blank, map[string]string{}}
			for _, f := range t.Figures {
				if f.Column == c {
					col.Figures[f.Kind.String()] = m.Figure(f.Kind)
				}
			}
			out.Columns = append(out.Columns, col)
		}
		return out
	}
	doc := struct {
		Junvo    int             `json:"junvo"`
		By       []string        `json:"by"`
		Groups   []groupJSON     `json:"groups"`
		All      groupJSON       `json:"all"`
		Left     int64           `json:"left"`
		Compared *comparedJSON   `json:"compared"`
		Changes  []differingJSON `json:"changes"` // expected is what was before
		Source   *totalsOfJSON   `json:"total_rows"`
		Doubts   []convert.Doubt `json:"doubts"`
	}{Doubts: []convert.Doubt{}, Junvo: 1, Changes: []differingJSON{}, By: []string{}, Groups: []groupJSON{}, All: one(t.All), Left: t.Left}
	if compared != nil {
		doc.Compared = &comparedJSON{compared.Agree, []differingJSON{}}
		for _, l := range compared.Lines {
			doc.Compared.Differ = append(doc.Compared.Differ, differingJSON(l))
		}
	}
	for _, l := range changes {
		doc.Changes = append(doc.Changes, differingJSON(l))
	}
	if t.Ledger != nil {
		doc.Source, doc.Doubts = totalsDoc(&t.Ledger.Totals), append(doc.Doubts, t.Ledger.Doubts...)
	}
	for _, c := range t.By {
		doc.By = append(doc.By, t.Fields[c].Name)
	}
	for _, g := range t.Groups {
		doc.Groups = append(doc.Groups, one(g))
	}
	return encode(doc)
}
