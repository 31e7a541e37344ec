package cli

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/order"
	"junvo/internal/plan"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/wholefile"
	"junvo/internal/totals"
	"junvo/internal/value"
)

// totalsFlags is what totals is asked for.
type totalsFlags struct {
	guard   bool // cells that look like formulas
	replace bool // any file may go that the output takes the place of
	wishes  columnFlags
	plan    string
	by      []string
	columns [][]string // of each kind of figure
	orderBy string
	top     int
	expect  string
	against string // an earlier source
	across  string // the column whose groups stand across
	output  string

	acrossAt int // its place among those that make the groups
}

func (a *app) totals() *cobra.Command {
	t := totalsFlags{columns: make([][]string, len(totals.Catalogue))}
	cmd := &cobra.Command{
		Use:   "totals SOURCE... [--by COLUMN,…] [--sum COLUMN,…]",
		Short: "Add up the typed values by groups, exactly, and say what each sum lacks",
		Long: `Totals converts the source by a plan, or as it would be drafted, and counts and adds up
the typed values by groups. Sums are exact. Each group says how many of its cells are in no
figure because they have failed or are blank: they are never zero. Blanks of a column
that makes groups are a group, and so are cells of it that failed, by their reason.
The last line is for all rows, and all of it adds up with the ledger.

--by takes columns of the output, or NAME = EXPRESSION. With --expect, groups and figures
that somebody gave (a CSV file with the same headings) are compared with what comes out;
the exit code is 1 where they differ, and where cells failed in rows that a condition leaves
out, or a condition can't be worked out. --across takes one more column or NAME = EXPRESSION that
makes groups, and puts its values side by side.`,
		Example: `  junvo totals landings.csv --by Species --sum "Net weight" --mean "Price per kilo"
  junvo totals landings.csv --by 'month = inPattern(landed_on, "yyyy-MM")' --sum "Net weight"
  junvo totals landings.csv --plan intake.plan.yaml --by Vessel --sum "Net weight" --order-by Vessel --top 5
  junvo totals landings.csv --by Species --sum "Net weight" --expect control.csv
  junvo totals february.csv --by Species --sum "Net weight" --against january.csv
  junvo totals landings.csv --by Vessel,Species --largest Boxes -o totals.xlsx
  junvo totals landings.csv --by Species --across 'month = inPattern(landed_on, "yyyy-MM")' --sum "Net weight"`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			paths, kept, err := a.spooled(cmd.Context(), args, t.plan)
			if err != nil {
				return err
			}
			defer kept()
			return a.runTotals(cmd.Context(), paths, &t)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVar(&t.plan, "plan", "", "the plan, - for standard input (default: drafted from the source)")
	f.StringArrayVar(&t.by, "by", nil, "columns whose values make the groups, or NAME = EXPRESSION (repeatable)")
	for _, e := range totals.Catalogue {
		f.StringArrayVar(&t.columns[e.Kind], e.Name, nil, "columns, or NAME = EXPRESSION: "+strings.ToLower(e.Say[:1])+
			strings.TrimSuffix(e.Say[1:], ".")+" (repeatable)")
	}
	f.StringVar(&t.orderBy, "order-by", "", "the heading that groups are ordered by, a minus before it for the "+
		"largest first (default: by the groups)")
	f.IntVar(&t.top, "top", 0, "show that many groups, those with the largest of the first figure unless --order-by says otherwise (default: all)")
	f.StringVar(&t.expect, "expect", "", "a CSV `file` of groups and figures to compare with")
	f.StringVar(&t.against, "against", "", "an earlier `source`, whose figures are shown beside these, with the change")
	f.StringVar(&t.across, "across", "", "a `column` that makes groups, as in --by: each of its values becomes a "+
		"column of the table")
	f.StringVarP(&t.output, "output", "o", "", "also write the totals, as text where the format would round them: a name that ends in "+outputEndings())
	f.BoolVar(&t.replace, "replace", false, replaceUse)
	f.BoolVar(&t.guard, "guard-formulas", false, guardUse)
	into(cmd, groupJob)
	t.wishes.edits.rowFlags(cmd)
	t.wishes.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

// named reads lists of columns, and adds those that are to be computed for them to the others.
func named(lists []string, computes *[]string) (names []string, _ error) {
	for _, list := range lists {
		name, _, computed := strings.Cut(list, "=")
		columns := cutList(name)
		switch {
		case computed && len(columns) > 1:
			return nil, usage("NAME = EXPRESSION stands alone: give the flag once more for it, not %q", list)
		case computed && !slices.Contains(*computes, list):
			*computes = append(*computes, list)
		}
		for _, name := range columns {
			names = append(names, strings.TrimSpace(name))
		}
	}
	return names, nil
}

// cutList cuts a list at its commas, as CSV has them.
func cutList(list string) []string {
	r := csv.NewReader(strings.NewReader(list))
	r.LazyQuotes = true
	parts, err := r.Read()
	if err != nil {
		return []string{list}
	}
	return parts
}

func (a *app) runTotals(ctx context.Context, paths []string, t *totalsFlags) error {
	switch {
	case t.top < 0:
		return usage("--top is a number from 1")
	case t.across != "" && (t.top > 0 || t.orderBy != "" || t.expect != "" || t.against != ""):
		return usage("--across goes with none of --top, --order-by, --expect and --against")
	case t.across != "" && show.Format(a.format) == show.JSON:
		return usage("--across is how a table is shown; in JSON there are the groups: leave it out and add its column to " +
			"--by")
	case t.across != "":
		t.by = append(t.by, t.across)
	}
	var files wholefile.Files
	files.Writes(t.output, "the output")
	files.Reads(t.plan, "the plan")
	files.Reads(t.expect, "the control")
	files.Reads(t.against, "the earlier source")
	if err := errors.Join(sourcesOf(&files, paths), checkFiles(&files)); err != nil {
		return err
	}
	if t.output != "" && formatOf(t.output) == nil {
		return usage("the name of the output says what to write, and %q ends in none of %s", t.output, outputEndings())
	}
	page, err := a.totalsOf(ctx, paths, t)
	if err != nil {
		return err
	}
	var before *show.Totals
	if t.against != "" {
		if before, err = a.totalsOf(ctx, []string{t.against}, t); err != nil {
			return err
		}
	}
	return a.reportTotals(ctx, t, page, before)
}

// totalsOf counts a source.
func (a *app) totalsOf(ctx context.Context, paths []string, t *totalsFlags) (*show.Totals, error) {
	var computes []string
	names, err := named(t.by, &computes)
	if err != nil {
		return nil, err
	}
	columns := make([][]string, len(t.columns))
	for kind, lists := range t.columns {
		if columns[kind], err = named(lists, &computes); err != nil {
			return nil, err
		}
	}
	p, err := a.readyToCount(ctx, paths, t, slices.Concat(names, slices.Concat(columns...)), computes)
	if err != nil {
		return nil, err
	}
	page := &show.Totals{Fields: p.Fields()}
	if err := t.find(p.Plan, names, columns, page); err != nil {
		return nil, err
	}
	if t.top > 0 && t.orderBy == "" { // the largest are meant
		t.orderBy = "-rows"
		if len(page.Figures) > 0 {
			t.orderBy = "-" + page.FigureName(page.Figures[0])
		}
	}
	if t.across == "" { // else its columns are not known yet
		if err := mayReplaceOutput(t.output, page.Result(), 0, t.replace); err != nil {
			return nil, err
		}
	}
	return page, a.count(ctx, paths, p, page, t)
}

// keep keeps a group, or only those that are shown where nothing else asks for all.
func (t *totalsFlags) keep(page *show.Totals, g *totals.Group) error {
	few := t.top > 0 && t.expect == "" && t.against == "" && t.output == ""
	switch {
	case few && t.orderBy == "" && len(page.Groups) == t.top:
		page.Left++
		return nil
	case few && t.orderBy != "" && len(page.Groups) == 2*t.top+1000:
		if err := t.order(page); err != nil {
			return err
		}
		page.Left += int64(len(page.Groups) - t.top)
		clear(page.Groups[t.top:])
		page.Groups = page.Groups[:t.top]
	}
	page.Groups = append(page.Groups, g)
	return nil
}

// readyToCount returns a plan that has the columns of these names, which are counted; what is drafted has no others.
func (a *app) readyToCount(
	ctx context.Context, paths []string, t *totalsFlags, names, computes []string,
) (*plan.Bound, error) {
	if t.plan == "" {
		w := t.wishes // an earlier source is counted with them, too
		w.edits.only = names
		w.edits.list = slices.Clone(w.edits.list)
		for _, c := range computes {
			w.edits.list = append(w.edits.list, edit{computeFlag, c})
		}
		r, err := a.ready(ctx, paths, "", &w)
		if err != nil {
			return nil, err
		}
		return r.plan, nil
	}
	r, err := a.ready(ctx, paths, t.plan, &t.wishes)
	if err != nil || len(computes) == 0 {
		return boundOf(r), err
	}
	p := *r.plan.Plan
	p.Columns = slices.Clone(p.Columns)
	var e edits
	for _, c := range computes {
		e.list = append(e.list, edit{computeFlag, c})
	}
	if err := e.apply(&p, nil, &columnFlags{}, nil); err != nil {
		return nil, err
	}
	text, err := p.Write()
	if err != nil {
		return nil, err
	}
	again, err := plan.LoadWith(text, besideOf(t.plan))
	if err != nil {
		return nil, mistakesIn(err)
	}
	src, err := a.open(paths, again)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	return again.Bind(src.Info().Names)
}

func boundOf(r *runnable) *plan.Bound {
	if r == nil {
		return nil
	}
	return r.plan
}

// find finds the columns of groups and figures in the output.
func (t *totalsFlags) find(p *plan.Plan, names []string, columns [][]string, page *show.Totals) error {
	place := func(name string) (int, error) {
		at, err := outputColumn(p, name)
		if err != nil {
			return 0, err
		}
		if p.Columns[at].Helper {
			return 0, usage("the column %s is a helper, and not in the output", p.Columns[at].Name)
		}
		if p.Columns[at].Hidden() {
			return 0, usage("the column %s is private: its values appear in no report", p.Columns[at].Name)
		}
		return p.Place(at), nil
	}
	for _, name := range names {
		at, err := place(name)
		if err != nil {
			return err
		}
		if !slices.Contains(page.By, at) {
			page.By = append(page.By, at)
		}
		t.acrossAt = slices.Index(page.By, at) // the last one
	}
	for _, e := range totals.Catalogue {
		for _, name := range columns[e.Kind] {
			at, err := place(name)
			if err != nil {
				return err
			}
			if field := page.Fields[at]; e.Numbers && !field.Type.Numeric() {
				return usage("--%s is of numbers, and the column %s is %s: --as %q=decimal reads it as one", e.Name, field.Name,
					field.Type, field.Name)
			}
			if f := (totals.Figure{Kind: e.Kind, Column: at}); !slices.Contains(page.Figures, f) {
				page.Figures = append(page.Figures, f)
			}
		}
	}
	return nil
}

// count converts the source and counts what comes out.
func (a *app) count(ctx context.Context, paths []string, p *plan.Bound, page *show.Totals, t *totalsFlags) error {
	repeats, err := a.repeats(ctx, paths, p, nil, "", 0, 0, nil)
	if err != nil {
		return err
	}
	src, err := a.open(paths, p.Plan)
	if err != nil {
		return err
	}
	defer src.Close()
	sink := totals.New(totals.Options{Fields: page.Fields, By: page.By, Figures: page.Figures, Folder: os.TempDir()})
	defer sink.Close()
	report, end := a.progress("counting", src)
	ledger, err := convert.Run(ctx, src, p, convert.Options{
		Workers: a.workers, Sink: sink, Repeats: repeats,
		Progress: report,
	})
	end()
	var stop *convert.StopError
	switch {
	case errors.As(err, &stop):
		return &exitError{exitFailures, err}
	case err != nil:
		return readError(paths, err)
	}
	rows := int64(0) // of the groups
	err = sink.Each(ctx, func(g *totals.Group) error {
		if len(g.Keys) == 0 {
			page.All = g
			return nil
		}
		rows += g.Rows
		return t.keep(page, g)
	})
	var wrong *exitError
	switch {
	case errors.As(err, &wrong):
		return err
	case err != nil:
		return outputError(err)
	case len(page.By) == 0:
		rows = page.All.Rows
	}
	if n := ledger.FailedAside; n > 0 {
		ledger.Doubts = append(ledger.Doubts, convert.Doubt{
			Name: "failed-aside", Count: n, Say: show.Plural(n, "cell") + " failed in rows that are set aside, and no figure says so",
		})
	}
	page.Ledger = ledger
	return balanced(page, rows, ledger)
}

// balanced checks that the groups add up to all rows, and those to the ledger.
func balanced(page *show.Totals, rows int64, ledger *convert.Ledger) error {
	if err := ledger.Check(); err != nil || rows != page.All.Rows || rows != ledger.RowsOut {
		return &exitError{exitOutput, fmt.Errorf("the totals do not add up with the ledger (%d rows in groups, %d in "+
			"all, %d went out). Please report this as a bug", rows, page.All.Rows, ledger.RowsOut)}
	}
	for i, c := range totals.MeasuredOf(page.Figures) {
		for j := range ledger.Columns {
			l, m := &ledger.Columns[j], &page.All.Columns[i]
			if l.Name != page.Fields[c].Name || l.Helper {
				continue
			}
			if l.Failed != m.Failed {
				return &exitError{exitOutput, fmt.Errorf("the totals of %q count %d failures, and the ledger %d. Please report "+
					"this as a bug", l.Name, m.Failed, l.Failed)}
			}
			if slices.Contains(page.Figures, totals.Figure{Kind: totals.Sum, Column: c}) && m.Used > 0 &&
				!value.SameNumber(m.Sum, l.Sums.After) {
				return &exitError{exitOutput, fmt.Errorf("the totals of %q add up to %s, and the ledger to %s. Please report "+
					"this as a bug", l.Name, m.Sum, l.Sums.After)}
			}
		}
	}
	return nil
}

// reportTotals orders, writes, compares and prints the totals.
func (a *app) reportTotals(ctx context.Context, t *totalsFlags, page, before *show.Totals) error {
	if err := t.order(page); err != nil {
		return err
	}
	var compared *show.Compared
	if t.expect != "" {
		control, err := readRecords(t.expect, "the control")
		if err != nil {
			return err
		}
		if compared, err = page.Compare(control); err != nil {
			return usage("%s: %w", t.expect, err)
		}
	}
	var changes []show.Differing
	if before != nil {
		changes = page.Since(before)
	}
	if t.top > 0 && t.top < len(page.Groups) {
		page.Left += int64(len(page.Groups) - t.top)
		page.Groups = page.Groups[:t.top]
	}
	if t.across != "" {
		return a.reportAcross(ctx, t, page)
	}
	if t.output != "" {
		all := page.Groups
		if len(page.By) == 0 {
			all = append(all, page.All)
		} // with groups, a line of all rows would be one more to whoever adds them up
		if err := a.writeTotals(ctx, t, page.Result(), len(all),
			func(i int) []string { return page.Record(all[i]) }); err != nil {
			return err
		}
	}
	f := show.Format(a.format)
	differs := compared != nil && compared.Differs() || len(page.Ledger.Doubts) > 0
	if f == show.JSON {
		doc, err := page.JSON(compared, changes)
		if err != nil {
			return err
		}
		return printVerdict(a.out, string(doc), differs)
	}
	text := page.Text(f, a.page())
	if compared != nil {
		text += "\n" + compared.Text(f, a.page())
	}
	if before != nil {
		text += "\n" + show.ChangesText(changes, f, a.page())
	}
	return printVerdict(a.out, text, differs)
}

// reportAcross writes and prints totals of which the last key stands across.
func (a *app) reportAcross(ctx context.Context, t *totalsFlags, page *show.Totals) error {
	across, err := page.Turn(t.acrossAt)
	if err != nil {
		return usage("%w", err)
	}
	if err := mayReplaceOutput(t.output, across.Result(), len(page.By)-1, t.replace); err != nil {
		return err
	}
	if t.output != "" {
		records := across.Records()
		if err := a.writeTotals(ctx, t, across.Result(), len(records),
			func(i int) []string { return records[i] }); err != nil {
			return err
		}
	}
	return printVerdict(a.out, across.Text(show.Format(a.format), a.page()), len(page.Ledger.Doubts) > 0)
}

// order orders the groups by a heading.
func (t *totalsFlags) order(page *show.Totals) error {
	if t.orderBy == "" {
		return nil
	}
	name, descending := strings.CutPrefix(t.orderBy, "-")
	headings := page.Headings()
	heading, ok := findName(name, headings)
	if !ok { // the column of one figure
		var of []string
		for _, f := range page.Figures {
			if _, is := findName(name, []string{page.Fields[f.Column].Name}); is {
				of = append(of, page.FigureName(f))
			}
		}
		if ok = len(of) == 1; ok {
			heading = of[0]
		}
	}
	if !ok {
		return usage("%w", table.Unknown("heading", name, headings))
	}
	at := slices.Index(headings, heading)
	keys := order.NewKeys([]order.Key{{Type: page.Result()[at].Type, Descending: descending}})
	type keyed struct {
		key   []byte
		group *totals.Group
	}
	all := make([]keyed, len(page.Groups))
	for i, g := range page.Groups {
		text := page.Record(g)[at]
		all[i] = keyed{keys.Append(nil, func(int) []byte { return []byte(text) }), g}
	}
	slices.SortStableFunc(all, func(x, y keyed) int { return bytes.Compare(x.key, y.key) })
	for i := range all {
		page.Groups[i] = all[i].group
	}
	return nil
}
