package report

import (
	"fmt"
	"html/template"
	"strconv"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/finding"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/value"
)

// sourceView is what the page shows of a source.
type sourceView struct {
	ID    string // that its anchors begin with
	Name  string
	Facts string // rows, columns, bytes
	// WithFindings is how many columns have any, FailedCells how many cells failed, "" where nothing was run.
	WithFindings int
	FailedCells  string
	Read         []table.Decision
	Findings     []findingView
	Key          []letter // of the strips

	Ledger  *ledgerView
	Columns []*columnView

	Failed     []failed
	FailedLeft int64
	Listed     string
	ManyFiles  bool

	Around     []asideView
	AroundLeft int64

	Checked, Fits bool
	Drift         []draft.Difference
	Plan          string
	Words         []finding.Entry // the findings that occur
}

type findingView struct {
	Name, Say, Rows string
	Count           int64
}

// letter is a letter of the strips, and what it stands for.
type letter struct{ Class, Letter, Name string }

// columnView is what the page shows of a column.
type columnView struct {
	ID                  string
	Name, Stored, Type  string
	Strip, StripAgain   template.HTML
	Fits                string
	Fails, Blank        int64
	Distinct, FromTo    string
	DistinctNote        string
	Findings            []findingView
	Convention, Why     string
	Evidence            []reading.Evidence
	Blanks              []counted
	Words               []string
	Patterns            []string
	Numbers             []named
	Bins                template.HTML
	BinsFrom, BinsTo    string
	Becomes             []becomes // the columns of the output that are made of it
	Shapes              []shapeView
	MoreShapes          int
	Frequent            []counted
	Strays              []strayView
	Odd                 []profile.OddCell
	Private             bool
	Position, OfColumns int
}

type counted struct {
	Name string
	N    int64
}

type strayView struct {
	Code, Name, Place string
	Cells, Row        int64
}

type named struct{ Name, Say string }

// becomes is a column of the output.
type becomes struct {
	Name   string
	Number bool // its values stand on the right
}

// shapeView is a shape before, and what the cells of it became.
type shapeView struct {
	Shape, Example string
	Cells          int64
	After          []after // one for each column of Becomes
}

// after is what became of a cell.
type after struct {
	Text   string
	Failed string // the reason, "" where it has not failed
	Number bool   // it stands on the right
}

// viewer makes what the page shows of a source.
type viewer struct {
	*Source
	limits
}

// fit shows a text in the room that there is.
func (s *viewer) fit(text string) string { return fit(show.Visible(text), s.text) }

func (s *viewer) view(number int) *sourceView {
	p := s.Profile
	v := &sourceView{
		ID: fmt.Sprint("s", number), Name: show.Visible(p.Info.Name), Checked: s.Checked, Fits: s.Fits,
		ManyFiles: len(p.Info.Files) > 1, Plan: visibleLines(string(s.Text)),
	}
	bytes := p.Info.Bytes
	if bytes < 0 {
		bytes = p.Bytes
	}
	v.Facts = fmt.Sprintf("%s, %s, %s",
		show.Plural(p.Rows, "row"), show.Plural(int64(len(p.Columns)), "column"), show.Plural(bytes, "byte"))
	for _, d := range p.Info.Decisions {
		v.Read = append(v.Read, table.Decision{What: d.What, Value: show.Visible(d.Value), Why: show.Visible(d.Why)})
	}
	for r := range reading.NumReadings {
		v.Key = append(v.Key, letter{fmt.Sprint("r", int(r)), string(r.Letter()), r.String()})
	}
	v.Findings = findingsOf(p.Findings)
	found := map[finding.Kind]bool{}
	for _, f := range p.Findings {
		found[f.Kind] = true
	}
	for _, c := range p.Columns {
		for _, f := range c.Findings {
			found[f.Kind] = true
		}
	}
	for _, e := range finding.Catalogue[1:] {
		if found[e.Kind] {
			v.Words = append(v.Words, e)
		}
	}
	for _, d := range s.Drift {
		v.Drift = append(v.Drift, draft.Difference{Kind: d.Kind, Column: show.Visible(d.Column), Say: show.Visible(d.Say)})
	}
	for _, c := range p.Columns {
		v.Columns = append(v.Columns, s.column(v.ID, c))
		if len(c.Findings) > 0 {
			v.WithFindings++
		}
	}
	if s.Ledger != nil {
		v.FailedCells = strconv.FormatInt(s.Ledger.Failed(), 10)
		v.Ledger = s.ledger()
	}
	if s.Failures != nil {
		v.Failed, v.FailedLeft = s.Failures.byColumn(), s.Failures.left
		v.Listed = show.Plural(int64(len(s.Failures.all)), "cell")
	}
	if s.Around != nil {
		v.Around, v.AroundLeft = s.Around.view(v.ManyFiles, maxAround*s.lists/rooms[0].lists)
	}
	return v
}

// visibleLines shows what does not print in a text of several lines.
func visibleLines(text string) string {
	lines := strings.Split(text, "\n")
	for i, l := range lines {
		lines[i] = show.Visible(l)
	}
	return strings.Join(lines, "\n")
}

func findingsOf(found []profile.Finding) (all []findingView) {
	for _, f := range found {
		all = append(all, findingView{
			Name: f.Kind.String(), Say: show.Visible(f.Say), Rows: strings.TrimSpace(show.RowsNamed(f)), Count: f.Count,
		})
	}
	return all
}

func (s *viewer) column(id string, c *profile.ColumnProfile) *columnView {
	p, done := s.Profile, c.Conclusion
	d := p.Details(c)
	id = fmt.Sprint(id, "c", c.Position)
	v := &columnView{
		ID: id, Name: show.Visible(c.Name), Stored: show.StoredOf(c), Type: done.Convention.Type.String(),
		Strip: strip(done.Reads, id), StripAgain: again(id), Fits: show.Share(done.Fits, done.Fits+done.Fails),
		Fails: done.Fails, Blank: done.Reads[reading.AsBlank], Distinct: show.DistinctText(c),
		DistinctNote: show.DistinctNote(c), FromTo: show.FromTo(c), Findings: findingsOf(c.Findings),
		Convention: show.Visible(done.Convention.Say(c.Counts)), Why: show.Visible(done.Why),
		Patterns: c.Patterns(), Private: c.Private(), Position: c.Position, OfColumns: len(p.Columns),
	}
	for _, e := range done.Evidence {
		v.Evidence = append(v.Evidence, reading.Evidence{Say: show.Visible(e.Say), For: e.For, Against: e.Against})
	}
	for b := value.Missing; b < value.NumBlanks; b++ {
		if n := done.Blanks[b]; n > 0 {
			v.Blanks = append(v.Blanks, counted{b.String(), n})
		}
	}
	for _, w := range c.BlankWords() {
		v.Words = append(v.Words, show.Visible(w))
	}
	for i, x := range p.Strays(c) {
		if i == s.lists {
			break
		}
		v.Strays = append(v.Strays, strayView{"U+" + show.Hex(uint32(x.Rune), 4), x.Name, x.Place, x.Cells, x.Row})
	}
	for _, o := range p.Odd(c, s.lists) {
		o.Text = s.fit(o.Text)
		v.Odd = append(v.Odd, o)
	}
	if d != nil {
		v.details(s, c, d)
	}
	return v
}

// details adds what was counted of a column that was opened.
func (v *columnView) details(s *viewer, c *profile.ColumnProfile, d *profile.Details) {
	add := func(name, say string) {
		if say != "" {
			v.Numbers = append(v.Numbers, named{name, say})
		}
	}
	if r := c.Range; r.Smallest != "" && !v.Private {
		add("smallest", r.Smallest)
		if len(d.Quartiles) == 3 {
			about := ""
			if d.Estimated {
				about = " (about)"
			}
			add("lower quarter", d.Quartiles[0]+about)
			add("median", d.Quartiles[1]+about)
			add("upper quarter", d.Quartiles[2]+about)
		}
		add("largest", r.Largest)
		add("sum", r.Sum)
		add("mean", d.Mean)
	}
	add("length", fmt.Sprintf("%d to %d characters", d.Shortest, d.Longest))
	if n := len(d.Histogram); n > 1 && !v.Private {
		v.Bins, v.BinsFrom, v.BinsTo = histogram(d.Histogram), d.Histogram[0].From, d.Histogram[n-1].To
	}
	for _, t := range d.Frequent[:min(s.lists, len(d.Frequent))] {
		if t.Cells > 1 || len(d.Frequent) < 4 {
			v.Frequent = append(v.Frequent, counted{s.fit(t.Text), t.Cells})
		}
	}
	v.shapes(s, c, d)
}

// shapes adds the shapes of a column and what their first cells became: the most frequent, and where not all have
// room, some of those that failed.
func (v *columnView) shapes(s *viewer, c *profile.ColumnProfile, d *profile.Details) {
	makes := s.makes(c)
	for _, i := range makes {
		o := &s.Plan.Columns[i]
		v.Becomes = append(v.Becomes, becomes{show.Visible(o.Name), o.Convention.Type.Numeric()})
	}
	most, failed := s.lists, 0
	if len(d.Shapes) > most {
		failed = (most + 1) / 3
	}
	for i, x := range d.Shapes {
		if i >= most-failed && (failed == 0 || len(makes) == 0) {
			break
		}
		one := shapeView{Shape: s.fit(x.Shape), Cells: x.Cells}
		if !v.Private {
			one.Example = s.fit(x.Text)
		}
		fails := false
		for _, i := range makes {
			one.After = append(one.After, s.after(i, x.Text))
			fails = fails || one.After[len(one.After)-1].Failed != ""
		}
		switch {
		case i < most-failed:
		case fails && failed > 0:
			failed--
		default:
			continue
		}
		v.Shapes = append(v.Shapes, one)
	}
	v.MoreShapes = len(d.Shapes) - len(v.Shapes)
}

// makes returns the columns of the plan that are made of one of the source, cell by cell: none where its cells are
// not text, or not to be shown, or where another row decides.
func (s *viewer) makes(c *profile.ColumnProfile) (columns []int) {
	stored := &c.Column.Stored
	if s.Plan == nil || c.Private() || stored[value.StoredText]+stored[value.StoredNull] < c.Column.Cells {
		return nil
	}
	for i := range s.Plan.Columns {
		if o := &s.Plan.Columns[i]; !o.Made() && s.Plan.From(i) == c.Position-1 && !o.Hidden() {
			columns = append(columns, i)
		}
	}
	return columns[:min(len(columns), maxMade)]
}

// maxMade is how many columns that are made of one are shown beside it.
const maxMade = 4

// after returns what a column of the plan makes of a text.
func (s *viewer) after(column int, text string) after {
	c := &s.Plan.Columns[column]
	t := convert.Trace(c, s.Plan.BlankWords, text, value.StoredText)
	a := after{Text: s.fit(t.Out), Number: c.Convention.Type.Numeric()}
	if t.Failure != nil {
		a.Failed = t.Failure.Reason.String()
	}
	return a
}
