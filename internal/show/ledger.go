package show

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/finding"
	"junvo/internal/rowkind"
	"junvo/internal/value"
)

// ledgerColumns are the columns of the balance of cells.
var ledgerColumns = []column{
	{name: "column", min: 12},
	{name: "type"},
	{name: "convention", min: 14, wrap: true},
	{name: "cells", right: true},
	{name: "right", right: true},
	{name: "converted", right: true},
	{name: "blank", right: true},
	{name: "emptied", right: true},
	{name: "kept", right: true},
	{name: "fixed", right: true},
	{name: "failed", right: true},
}

// LedgerText returns the balance of cells and, but for CSV, that of rows, what failed, what the steps changed, and the
// list of the files that were written.
func LedgerText(l *convert.Ledger, f Format, page Page, files string) string {
	text := ledgerTable(l, f, page)
	switch f {
	case Table:
		return text + "\n" + LedgerRows(l) + LedgerTotals(l, page) + ledgerFailures(l, page) + ledgerDoubts(l, page) +
			ledgerSums(l, page) + ledgerSteps(l, page) + files
	case Markdown:
		page = Page{Width: 1 << 20} // whoever shows it breaks the lines
		var b strings.Builder
		for line := range strings.Lines(LedgerRows(l) + LedgerTotals(l, page) + ledgerFailures(l, page) +
			ledgerDoubts(l, page) + ledgerSums(l, page) + ledgerSteps(l, page) + files) {
			b.WriteString("- " + escapeCell(strings.TrimSpace(line)) + "\n")
		}
		return text + "\n" + b.String()
	}
	return text
}

// ledgerTable returns the balance of cells, a line for each column.
func ledgerTable(l *convert.Ledger, f Format, page Page) string {
	g := &grid{columns: slices.Clone(ledgerColumns)}
	for _, c := range l.Columns {
		g.rows = append(g.rows, accountRow(Visible(c.Name), typeOf(&c), c.Convention, c))
	}
	sum := l.Total()
	g.foot = accountRow("all columns", "", "", sum)
	if sum.Fixed == 0 {
		g.remove("fixed")
	}
	if sum.Emptied == 0 {
		g.remove("emptied")
	}
	return g.render(f, page)
}

// typeOf names the type of a column, and says whether it is a helper.
func typeOf(a *convert.Account) string {
	if a.Helper {
		return a.Type.String() + ", helper"
	}
	return a.Type.String()
}

func accountRow(name, t, convention string, a convert.Account) []string {
	row := []string{name, t, convention}
	for _, n := range []int64{a.Cells, a.Right, a.Converted, a.Blank, a.Emptied, a.Kept, a.Fixed, a.Failed} {
		row = append(row, strconv.FormatInt(n, 10))
	}
	return row
}

// LedgerRecords returns the balance of cells as records, the names of the columns first.
func LedgerRecords(l *convert.Ledger) [][]string {
	names := make([]string, len(ledgerColumns))
	for i, c := range ledgerColumns {
		names[i] = c.name
	}
	records := [][]string{names}
	for _, c := range l.Columns {
		records = append(records, accountRow(c.Name, typeOf(&c), c.Convention, c))
	}
	return append(records, []string{LedgerRows(l)})
}

// LedgerRows returns the balance of rows in a sentence.
func LedgerRows(l *convert.Ledger) string {
	var parts []string
	for _, e := range rowkind.Catalogue {
		if n := l.SetAside[e.Kind]; n > 0 {
			name := e.Plural
			if n == 1 {
				name = e.Name
			}
			parts = append(parts, fmt.Sprintf("%d %s", n, name))
		}
	}
	in := fmt.Sprintf("%d in", l.RowsIn)
	if l.Turned > 0 {
		in += fmt.Sprintf(", turned into %d", l.Turned)
	}
	s := fmt.Sprintf("rows: %s = %d out + %d set aside", in, l.RowsOut, l.AsideTotal())
	if len(parts) > 0 {
		s += " (" + strings.Join(parts, ", ") + ")"
	}
	if l.Above > 0 {
		s += "; " + Plural(l.Above, "line") + " above the header"
	}
	if l.FailedAside > 0 {
		s += "\n      " + Plural(l.FailedAside, "cell") + " failed in rows set aside"
	}
	return s + "\n"
}

// ledgerFailures says of every column why its cells failed, with the most frequent texts; "" where none has.
func ledgerFailures(l *convert.Ledger, page Page) string {
	var b strings.Builder
	for _, c := range l.Columns {
		for _, r := range c.Reasons {
			if b.Len() == 0 {
				b.WriteString("why cells failed, and the most frequent texts:\n")
			}
			texts := make([]string, 0, len(r.Texts)+1)
			for _, t := range r.Texts {
				texts = append(texts, fmt.Sprintf("\"%s\" %d", Visible(t.Text), t.Count))
			}
			if r.More {
				texts = append(texts, "…")
			}
			b.WriteString(page.entry(Visible(c.Name), fmt.Sprintf("%d %s: %s", r.Count, r.Reason, strings.Join(texts, ", "))))
		}
	}
	return b.String()
}

// LedgerTotals says whether the total rows of the source are what their rows add up to, "" where there are none.
func LedgerTotals(l *convert.Ledger, page Page) string { return totalRows(&l.Totals, page) }

func totalRows(t *convert.Totals, page Page) string {
	if t.Rows == 0 {
		return ""
	}
	var b strings.Builder
	b.WriteString("total rows: " + Agreeing(t) + "\n")
	for _, d := range t.Differ {
		b.WriteString(page.entry(Visible(d.Column), Differs(&d, d.File != t.Differ[0].File ||
			d.File != t.Differ[len(t.Differ)-1].File)))
	}
	return b.String()
}

// Agreeing says how many total rows agree.
func Agreeing(t *convert.Totals) string {
	return fmt.Sprintf("%d of %d agree with the rows that they add up", t.Agree, t.Rows)
}

// IsOfTotals reports whether a finding is of total rows.
func IsOfTotals(k finding.Kind) bool {
	return slices.ContainsFunc(rowkind.Catalogue[:], func(e rowkind.Entry) bool {
		return e.Kind.IsTotal() &&
			e.Finding == k
	})
}

// Differs says what a cell of a total row says, and what its rows add up to; named says that it is to name the file.
func Differs(d *convert.TotalDiffer, named bool) string {
	adds := d.AddsUp
	if adds == "" {
		adds = "nothing"
	}
	file := ""
	if named {
		file = " of " + Visible(d.File)
	}
	say := fmt.Sprintf("line %d%s says %s, the rows above add up to %s", d.Line, file, d.Says, adds)
	if d.Failed > 0 {
		say += fmt.Sprintf(" without %s that failed", Plural(d.Failed, "cell"))
	}
	return say
}

// ledgerDoubts says what was found that changes what values mean; "" where nothing was.
func ledgerDoubts(l *convert.Ledger, page Page) string {
	var b strings.Builder
	for _, d := range l.Doubts {
		if b.Len() == 0 {
			b.WriteString("worth a look:\n")
		}
		column := d.Column
		if column == "" {
			column = "the file"
		}
		say := Visible(d.Say)
		if d.Name == convert.Undecided { // the parts of a table have counts of their own
			say = Plural(d.Count, "cell") + " " + say
		}
		b.WriteString(page.entry(Visible(column), d.Name+": "+say))
	}
	return b.String()
}

// ledgerSums says of the columns of numbers what they add up to, where others would have come to another sum; "" where
// none is so.
func ledgerSums(l *convert.Ledger, page Page) string {
	var b strings.Builder
	for _, c := range l.Columns {
		if c.Sums.After == "" || c.Sums.Before == "" && c.Made || value.SameNumber(c.Sums.Before, c.Sums.After) {
			continue
		}
		if b.Len() == 0 {
			b.WriteString("sums of the cells that are plain numbers as they came, and now:\n")
		}
		before := c.Sums.Before
		if before == "" {
			before = "none"
		}
		b.WriteString(page.entry(Visible(c.Name), before+", now "+c.Sums.After))
	}
	return b.String()
}

// ledgerSteps says of every step how many cells it has changed, "" where there are none.
func ledgerSteps(l *convert.Ledger, page Page) string {
	var b strings.Builder
	for _, c := range l.Columns {
		var parts []string
		for _, s := range c.Steps {
			parts = append(parts, fmt.Sprintf("%s %d", s.Name, s.Changed))
		}
		if len(parts) == 0 {
			continue
		}
		if b.Len() == 0 {
			b.WriteString("cells that each step has changed:\n")
		}
		b.WriteString(page.entry(Visible(c.Name), strings.Join(parts, ", ")))
	}
	return b.String()
}

// The JSON of a ledger. Its schema is docs/schemas/ledger.schema.json.
type (
	ledgerJSON struct {
		Junvo   int             `json:"junvo"`
		Output  string          `json:"output"`
		Formula formulaJSON     `json:"formula_like"`
		Rows    rowsJSON        `json:"rows"`
		Totals  totalsOfJSON    `json:"total_rows"`
		Columns []accountJSON   `json:"columns"`
		Doubts  []convert.Doubt `json:"doubts"`
		Files   filesJSON       `json:"files"`
	}
	// formulaJSON counts the cells of delimited text that look like formulas.
	formulaJSON struct {
		Cells   int64 `json:"cells"`
		Guarded bool  `json:"guarded"`
	}
	rowsJSON struct {
		In       int64            `json:"in"`
		Above    int64            `json:"lines_above"` // the header
		Turned   int64            `json:"turned,omitempty"`
		Out      int64            `json:"out"`
		SetAside int64            `json:"set_aside"`
		Failed   int64            `json:"failed_cells_set_aside"` // cells that failed in rows set aside
		Reasons  map[string]int64 `json:"reasons"`
	}
	accountJSON struct {
		Name        string       `json:"name"`
		Type        string       `json:"type"`
		Helper      bool         `json:"helper"`
		Convention  string       `json:"convention"`
		DecimalMark *string      `json:"decimal_mark"`
		DateOrder   *string      `json:"date_order"`
		Cells       int64        `json:"cells"`
		Right       int64        `json:"right"`
		Converted   int64        `json:"converted"`
		Blank       int64        `json:"blank"`
		Emptied     int64        `json:"emptied"`
		Kept        int64        `json:"kept"`
		Fixed       int64        `json:"fixed"`
		Failed      int64        `json:"failed"`
		Steps       []stepJSON   `json:"steps"`
		Reasons     []failedJSON `json:"failures"`
		Sum         *sumJSON     `json:"sum"`
	}
	// sumJSON is what a column of numbers adds up to.
	sumJSON struct {
		Before *string `json:"before"` // the cells that are plain numbers as they stand
		After  *string `json:"after"`
	}
	// totalsOfJSON says whether the total rows of the source are what their rows add up to.
	totalsOfJSON struct {
		Rows   int64        `json:"rows"`
		Agree  int64        `json:"agree"`
		Differ []differJSON `json:"differ"`
		// Open is of a range of a file.
		Open *convert.OpenTotals `json:"open,omitempty"`
	}
	differJSON struct {
		File   string  `json:"file"`
		Row    int64   `json:"row"`
		Line   int64   `json:"line"`
		Column string  `json:"column"`
		Says   string  `json:"says"`
		AddsUp *string `json:"adds_up"`
		Failed int64   `json:"failed"`
	}
	// failedJSON is the failures of a column for a reason.
	failedJSON struct {
		Reason string     `json:"reason"`
		Count  int64      `json:"count"`
		Texts  []textJSON `json:"texts"` // the most frequent ones
		More   bool       `json:"more"`  // there were others
	}
	textJSON struct {
		Text  string `json:"text"`
		Count int64  `json:"count"`
	}
	stepJSON struct {
		Step    string `json:"step"`
		Changed int64  `json:"changed"` // cells
	}
	filesJSON struct {
		Failures *string `json:"failures"`
		SetAside *string `json:"set_aside"`
		Plan     *string `json:"plan"`
		Report   *string `json:"report"`
	}
)

// Written names the files that a conversion has written; empty for none.
type Written struct {
	Output, Failures, SetAside, Plan string
	Report                           string
	Described                        []string // the files that describe the output
	Formulas                         int64    // cells of delimited text that look like formulas
	Guarded                          bool     // whether they were guarded
}

func totalsDoc(t *convert.Totals) *totalsOfJSON {
	doc := &totalsOfJSON{t.Rows, t.Agree, []differJSON{}, t.Open}
	for _, d := range t.Differ {
		doc.Differ = append(doc.Differ, differJSON{d.File, d.Row, d.Line, d.Column, d.Says, optional(d.AddsUp), d.Failed})
	}
	return doc
}

// LedgerJSON returns the ledger for programs.
func LedgerJSON(l *convert.Ledger, w Written) ([]byte, error) { return encode(ledgerDoc(l, w)) }

func ledgerDoc(l *convert.Ledger, w Written) ledgerJSON {
	doc := ledgerJSON{
		Junvo: 1, Output: w.Output, Formula: formulaJSON{w.Formulas, w.Guarded}, Columns: []accountJSON{},
		Doubts: append([]convert.Doubt{}, l.Doubts...),
		Rows: rowsJSON{
			In: l.RowsIn, Above: l.Above, Turned: l.Turned, Out: l.RowsOut, SetAside: l.AsideTotal(), Failed: l.FailedAside,
			Reasons: map[string]int64{},
		},
		Files: filesJSON{optional(w.Failures), optional(w.SetAside), optional(w.Plan), optional(w.Report)},
	}
	doc.Totals = *totalsDoc(&l.Totals)
	for _, e := range rowkind.Catalogue[1:] {
		doc.Rows.Reasons[e.Name] = l.SetAside[e.Kind]
	}
	for _, c := range l.Columns {
		a := accountJSON{
			Name: c.Name, Type: c.Type.String(), Convention: c.Convention, Cells: c.Cells, Right: c.Right,
			Converted: c.Converted, Blank: c.Blank, Emptied: c.Emptied, Helper: c.Helper, Kept: c.Kept, Fixed: c.Fixed, Failed: c.Failed, Steps: []stepJSON{},
			Reasons: []failedJSON{},
		}
		for _, r := range c.Reasons {
			f := failedJSON{r.Reason.String(), r.Count, []textJSON{}, r.More}
			for _, t := range r.Texts {
				f.Texts = append(f.Texts, textJSON{t.Text, t.Count})
			}
			a.Reasons = append(a.Reasons, f)
		}
		for _, s := range c.Steps {
			a.Steps = append(a.Steps, stepJSON{s.Name, s.Changed})
		}
		if c.Type.Numeric() {
			a.Sum = &sumJSON{optional(c.Sums.Before), optional(c.Sums.After)}
		}
		a.DecimalMark, a.DateOrder = optional(c.DecimalMark), optional(c.DateOrder)
		doc.Columns = append(doc.Columns, a)
	}
	return doc
}
