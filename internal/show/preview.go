package show

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/character"
	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
)

// PreviewOptions say what a preview shows.
type PreviewOptions struct {
	Cells             int   // of each column, or rows of a grid, at most
	Failures, Emptied bool  // only such cells
	Steps             bool  // the text after every step, too
	Only              []int // these columns of the plan; nil for all
	// Chosen says which cells are shown, the first ones first; nil for a choice that shows what there is.
	Chosen func(t convert.Tried) bool
	Aside  *AsideRows // what is noted of rows that are not in the output
}

// AsideRows are the rows that a preview has met and that are not in the output, by their kinds.
type AsideRows struct {
	count [rowkind.NumKinds]int64
	first [rowkind.NumKinds][]string
}

// Add notes a row.
func (a *AsideRows) Add(row int64, kind rowkind.Kind) {
	if a.count[kind]++; len(a.first[kind]) < 5 {
		a.first[kind] = append(a.first[kind], strconv.FormatInt(row, 10))
	}
}

// counts are their numbers by the names of the kinds, for programs.
func (a *AsideRows) counts() map[string]int64 {
	counts := map[string]int64{}
	if a == nil {
		return counts
	}
	for kind, n := range a.count {
		if n > 0 {
			counts[rowkind.Catalogue[kind].Plural] = n
		}
	}
	return counts
}

// text says in a line how many they are, and which the first ones; "" for none.
func (a *AsideRows) text(width int) string {
	var said []string
	if a == nil {
		return ""
	}
	for kind, n := range a.count {
		if n == 0 {
			continue
		}
		name := rowkind.Kind(kind).String()
		if n > 1 {
			name = rowkind.Catalogue[kind].Plural
		}
		name = fmt.Sprintf("%d %s", n, name)
		if k := rowkind.Kind(kind); k >= rowkind.Failed { // what the plan has decided; others are in the profile
			name += " (" + strings.Join(a.first[kind], " ")
			if n > int64(len(a.first[kind])) {
				name += " …"
			}
			name += ")"
		}
		said = append(said, name)
	}
	if said == nil {
		return ""
	}
	return wrap("not in the output: "+strings.Join(said, ", "), width) + "\n"
}

// Preview collects the cells that show best what a plan does, and counts what becomes of all of them.
type Preview struct {
	PreviewOptions
	plan    *plan.Plan
	columns []previewColumn
}

type previewColumn struct {
	ordinary, shapes, failing, chosen []convert.Tried
	seen                              map[string]bool // shapes
	counts                            [numFates]int64
	more                              int64 // cells that were chosen and are not shown
}

// fate is what becomes of a cell.
type fate uint8

const (
	same fate = iota
	changed
	blank
	emptied
	failed
	numFates
)

// fates names them, and has the sign of each.
var fates = [numFates]struct{ name, sign string }{
	{"the same", "="},
	{"changed", ">"},
	{"blank", "."},
	{"emptied", "o"},
	{"fail", "x"},
}

func fateOf(t *convert.Tried) fate {
	switch {
	case t.Failure != nil:
		return failed
	case t.Emptied:
		return emptied
	case t.Out == "":
		return blank
	case t.Out == t.Raw:
		return same
	}
	return changed
}

// ordinaryRows is how many rows from the top are shown whatever is in them.
const ordinaryRows = 3

// NewPreview begins a preview of a plan.
func NewPreview(p *plan.Plan, o PreviewOptions) *Preview {
	v := &Preview{PreviewOptions: o, plan: p, columns: make([]previewColumn, len(p.Columns))}
	for i := range v.columns {
		v.columns[i].seen = map[string]bool{}
	}
	return v
}

// Add takes a cell.
func (v *Preview) Add(t convert.Tried) {
	if len(v.Only) > 0 && !slices.Contains(v.Only, t.Column) {
		return
	}
	c := &v.columns[t.Column]
	kind := fateOf(&t)
	c.counts[kind]++
	switch {
	case v.Failures && kind != failed, v.Emptied && kind != emptied:
	case v.Chosen != nil || v.Failures || v.Emptied:
		if v.Chosen != nil && !v.Chosen(t) {
			return
		}
		if len(c.chosen) < v.Cells {
			c.chosen = append(c.chosen, t)
		} else {
			c.more++
		}
	case kind == failed:
		if len(c.failing) < v.Cells {
			c.failing = append(c.failing, t)
		}
	default:
		v.addGood(c, t)
	}
}

// addGood keeps the first rows, and each different shape once.
func (v *Preview) addGood(c *previewColumn, t convert.Tried) {
	shape := character.Shape(t.Raw)
	switch {
	case len(c.ordinary) < min(ordinaryRows, v.Cells):
		c.ordinary = append(c.ordinary, t)
	case !c.seen[shape] && len(c.shapes) < v.Cells:
		c.shapes = append(c.shapes, t)
	default:
		return
	}
	c.seen[shape] = true
}

// cells returns what is shown of a column, and how many cells of it fail, or were chosen, beside those. At least a
// third of the room is for failures, and all that the others leave.
func (v *Preview) cells(c *previewColumn) (list []convert.Tried, more int64) {
	if v.Chosen != nil || v.Failures || v.Emptied {
		return c.chosen, c.more
	}
	good := append(slices.Clone(c.ordinary), c.shapes...)
	room := max(1, v.Cells/3, v.Cells-len(good))
	failing := c.failing[:min(len(c.failing), room)]
	good = good[:min(len(good), v.Cells-len(failing))]
	return append(good, failing...), c.counts[failed] - int64(len(failing))
}

// shown returns the columns that are shown, those with failures first and then those that change something; and those
// in which nothing changes.
func (v *Preview) shown() (columns, unchanged []int) {
	var failing, changing []int
	for i := range v.columns {
		c := &v.columns[i]
		if len(v.Only) > 0 && !slices.Contains(v.Only, i) {
			continue
		}
		switch {
		case v.Failures || v.Emptied:
			if len(c.chosen) > 0 {
				failing = append(failing, i)
			}
		case len(v.Only) > 0 || v.Chosen != nil:
			changing = append(changing, i)
		case c.counts[failed] > 0:
			failing = append(failing, i)
		case c.counts[changed]+c.counts[emptied] > 0:
			changing = append(changing, i)
		default:
			unchanged = append(unchanged, i)
		}
	}
	return append(failing, changing...), unchanged
}

// stepText is what a step has made of a cell's text.
type stepText struct {
	Step string `json:"step"`
	Text string `json:"text"`
}

// steps returns the text of a cell after every step as far as they come; none of what is computed.
func (v *Preview) steps(t *convert.Tried) (list []stepText) {
	p := &v.plan.Columns[t.Column]
	if !v.Steps || p.Compute != nil || t.Raw == "" {
		return nil
	}
	text := t.Raw
	for _, s := range p.Steps {
		next, why := s.Step.Apply(text)
		if why != reason.None {
			return append(list, stepText{plan.StepText(s), why.String()})
		}
		shown := next
		if t.Hidden {
			shown = character.Shape(next)
		}
		list = append(list, stepText{plan.StepText(s), shown})
		if text = next; text == "" {
			break
		}
	}
	return list
}

// shownTexts returns the texts before and after, or their shapes where the column is private.
func shownTexts(t *convert.Tried) (before, after string) {
	if t.Hidden {
		return character.Shape(t.Raw), character.Shape(t.Out)
	}
	return t.Raw, t.Out
}

// JSON returns the preview for programs.
func (v *Preview) JSON(rows int64) ([]byte, error) {
	type cell struct {
		Row    int64      `json:"row"`
		From   string     `json:"from,omitempty"` // the column of the file, where columns have become rows
		Before string     `json:"before"`
		After  string     `json:"after"`
		Reason string     `json:"reason,omitempty"`
		Steps  []stepText `json:"steps,omitempty"`
	}
	type column struct {
		Name    string `json:"name"`
		Type    string `json:"type"`
		Same    int64  `json:"same"`
		Changed int64  `json:"changed"`
		Blank   int64  `json:"blank"`
		Emptied int64  `json:"emptied"`
		Fail    int64  `json:"fail"`
		Cells   []cell `json:"cells"`
	}
	doc := struct {
		Junvo   int              `json:"junvo"`
		Rows    int64            `json:"rows"`
		Aside   map[string]int64 `json:"set_aside"`
		Columns []column         `json:"columns"`
	}{Junvo: 1, Rows: rows, Aside: v.Aside.counts(), Columns: []column{}}
	columns, unchanged := v.shown()
	all := append(columns, unchanged...)
	slices.Sort(all)
	for _, i := range all {
		p, n := &v.plan.Columns[i], &v.columns[i].counts
		c := column{p.Name, p.Convention.Type.String(), n[same], n[changed], n[blank], n[emptied], n[failed], []cell{}}
		list, _ := v.cells(&v.columns[i])
		for _, t := range list {
			before, after := shownTexts(&t)
			one := cell{t.Row, t.From, before, after, "", v.steps(&t)}
			if t.Failure != nil {
				one.Reason = t.Failure.Reason.String()
			}
			c.Cells = append(c.Cells, one)
		}
		doc.Columns = append(doc.Columns, c)
	}
	return encode(doc)
}

// rowName names the row that a cell stands in, with the column of the file that it was made of where there is one.
func rowName(t *convert.Tried) string {
	name := strconv.FormatInt(t.Row, 10)
	if t.From != "" {
		name += " " + Visible(t.From)
	}
	return name
}
