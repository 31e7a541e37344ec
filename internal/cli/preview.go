package cli

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/character"
	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/show"
)

// previewRows is how many rows of a source a preview looks at unless it is told to look at all.
const previewRows = 10_000

// previewFlags is what preview is asked to show.
type previewFlags struct {
	wishes   columnFlags
	plan     string
	columns  []string
	rows     string
	where    string
	alike    int64
	failures bool
	emptied  bool
	steps    bool
	grid     bool
	all      bool
}

func (a *app) preview() *cobra.Command {
	var v previewFlags
	cmd := &cobra.Command{
		Use:   "preview SOURCE... [--plan PLAN]",
		Short: "Show before and after, side by side, before anything is written",
		Long: `Preview runs a plan over the first rows of a source, or all of them with --all, and
shows for every column the text before and the value after: a few ordinary rows,
then each different shape once, then what fails. Above each column stands how many cells
stay the same, change, are blank, emptied by the steps, or fail. What stands between the
texts says what happened: = the same, > changed, . blank, o emptied, x failed. Columns
that fail come first, and those in which nothing changes share a line. Nothing is written.

--rows, --where and --alike choose rows; --steps shows the text after every step, and
--grid whole rows, each column of the source with what is made of it beside it.`,
		Example: `  junvo preview landings.csv --plan intake.plan.yaml
  junvo preview landings.csv --plan intake.plan.yaml --column "Net weight" --rows 40
  junvo preview landings.csv --plan intake.plan.yaml --failures --all
  junvo preview landings.csv --rows 5,17,300-320 --grid
  junvo preview landings.csv --where 'failed(Boxes) || Boxes > 900' --all
  junvo preview landings.csv --alike 17 --column "Net weight"
  junvo preview landings.csv --step 'Skipper: [take: {before: ","}, case: upper]' --column Skipper --steps
  junvo preview landings.csv --compute 'value = round(net_weight * price_per_kilo, 2)'`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			paths, kept, err := a.spooled(cmd.Context(), args, v.plan)
			if err != nil {
				return err
			}
			defer kept()
			return a.runPreview(cmd.Context(), paths, &v)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVar(&v.plan, "plan", "", "the plan, - for standard input (default: drafted from the source)")
	f.StringArrayVar(&v.columns, "column", nil, "column of the output to show (repeatable; default: all)")
	f.StringVar(&v.rows, "rows", "8", "how many cells to show of each column; or which rows, as in 5,17,300-320")
	conditionVar(f, &v.where, "where", false, "show rows for which an `expression` is true (repeatable)")
	f.Int64Var(&v.alike, "alike", 0, "show cells of the same shape as those of this row")
	f.BoolVar(&v.failures, "failures", false, "show only what fails")
	f.BoolVar(&v.emptied, "emptied", false, "show only cells of which the steps leave nothing")
	f.BoolVar(&v.steps, "steps", false, "show the text after every step")
	f.BoolVar(&v.grid, "grid", false, "show whole rows, each column of the source with what is made of it")
	f.BoolVar(&v.all, "all", false, "look at the whole source (default: its first 10,000 rows)")
	into(cmd, groupJob)
	v.wishes.edits.flags(cmd)
	v.wishes.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

// previewPage is what a preview is collected for.
type previewPage interface {
	Add(t convert.Tried)
	Text(f show.Format, page show.Page, rows int64, more bool) string
	JSON(rows int64) ([]byte, error)
}

func (a *app) runPreview(ctx context.Context, paths []string, v *previewFlags) error {
	chosen, err := parseRows(v.rows)
	if err != nil {
		return err
	}
	switch {
	case v.alike < 0:
		return usage("--alike is the number of a row, from 1")
	case v.failures && v.emptied:
		return usage("--failures and --emptied exclude each other: no cell is both")
	case v.grid && v.steps:
		return usage("--grid and --steps exclude each other")
	}
	r, err := a.ready(ctx, paths, v.plan, &v.wishes)
	if err != nil {
		return err
	}
	o := show.PreviewOptions{Aside: &show.AsideRows{}, Cells: chosen.count, Failures: v.failures, Emptied: v.emptied, Steps: v.steps}
	names := make([]string, len(r.plan.Columns))
	for i, c := range r.plan.Columns {
		names[i] = c.Name
	}
	for _, c := range v.columns {
		name, ok := findName(c, names)
		if !ok {
			return unknownColumn(c, names)
		}
		o.Only = append(o.Only, slices.Index(names, name))
	}
	limit := int64(0)
	if !v.all {
		limit = max(previewRows, chosen.last())
	}
	repeats, err := a.repeats(ctx, paths, r.plan, nil, "", limit, 0, nil)
	if err != nil {
		return err
	}
	shapes, err := a.shapesOf(ctx, paths, r.plan, v.alike)
	if err != nil {
		return err
	}
	if chosen.list != nil || v.where != "" || v.alike > 0 {
		o.Chosen = func(t convert.Tried) bool {
			return t.Meets && chosen.has(t.Row) && (shapes == nil || shapes[t.Column] == character.Shape(t.Raw))
		}
	}
	var page previewPage = show.NewPreview(r.plan.Plan, o)
	if v.grid {
		page = show.NewGrid(r.plan.Plan, o)
	}
	unclear := unclearRows{}
	rows, err := a.try(ctx, paths, r.plan, convert.TryOptions{Repeats: repeats, Rows: limit, Aside: o.Aside.Add}, v.where, func(t convert.Tried) {
		unclear.note(t)
		page.Add(t)
	})
	if err != nil {
		return err
	}
	f := show.Format(a.format)
	if f == show.JSON {
		doc, err := page.JSON(rows)
		if err != nil {
			return err
		}
		return cmp.Or(a.print(string(doc)), unclear.err())
	}
	return cmp.Or(a.print(page.Text(f, a.page(), rows, rows == limit)), unclear.err())
}

// unclearRows are rows for which the condition of --where can't be worked out.
type unclearRows struct {
	count, first, last int64
	why                error
}

func (u *unclearRows) note(t convert.Tried) {
	if t.Unclear == nil || t.Row == u.last {
		return
	}
	if u.count++; u.count == 1 {
		u.first, u.why = t.Row, t.Unclear
	}
	u.last = t.Row
}

func (u *unclearRows) err() error {
	if u.count == 0 {
		return nil
	}
	return &exitError{exitFailures, fmt.Errorf("--where can't be worked out for %s, such as row %d, and they are not shown: %w",
		show.Plural(u.count, "row"), u.first, u.why)}
}

// try converts rows of a source and writes nothing. It returns how many rows it has read.
func (a *app) try(ctx context.Context, paths []string, p *plan.Bound, o convert.TryOptions, where string,
	each func(convert.Tried),
) (int64, error) {
	src, err := a.open(paths, p.Plan)
	if err != nil {
		return 0, err
	}
	defer src.Close()
	if where != "" {
		if o.Where, err = p.Condition(where, src.Info().Names); err != nil {
			return 0, usage("--where: %w", err)
		}
	}
	rows, err := convert.Try(src, p, o, func(t convert.Tried) error {
		each(t)
		return ctx.Err()
	})
	return rows, readError(paths, err)
}

// shapesOf returns the shapes of the cells of a row, by the columns of a plan; nil where no row is given.
func (a *app) shapesOf(ctx context.Context, paths []string, p *plan.Bound, row int64) (map[int]string, error) {
	if row == 0 {
		return nil, nil
	}
	shapes := map[int]string{}
	_, err := a.try(ctx, paths, p, convert.TryOptions{Rows: row}, "", func(t convert.Tried) {
		if t.Row == row {
			shapes[t.Column] = character.Shape(t.Raw)
		}
	})
	if err == nil && len(shapes) == 0 {
		err = usage("there is no row %d that goes out; --alike takes the number of one", row)
	}
	return shapes, err
}

// rowChoice is which rows are asked for.
type rowChoice struct {
	count int        // how many, whichever they are
	list  [][2]int64 // or the first and the last number of each run of them
}

// mostChosen is how many rows are shown that were asked for by their numbers.
const mostChosen = 10_000

// parseRows reads a number of rows, or the numbers of rows.
func parseRows(text string) (*rowChoice, error) {
	if n, err := strconv.Atoi(text); err == nil {
		if n < 1 {
			return nil, usage("--rows must be at least 1")
		}
		return &rowChoice{count: n}, nil
	}
	c := &rowChoice{}
	for part := range strings.SplitSeq(text, ",") {
		first, last, run := strings.Cut(strings.TrimSpace(part), "-")
		a, err := strconv.ParseInt(first, 10, 64)
		b := a
		if run && err == nil {
			b, err = strconv.ParseInt(last, 10, 64)
		}
		if err != nil || a < 1 || b < a {
			return nil, usage("--rows is how many rows to show, as in 40, or which, as in 5,17,300-320 or 17-17; not %q", text)
		}
		c.list = append(c.list, [2]int64{a, b})
		c.count += int(min(b-a+1, mostChosen))
	}
	c.count = min(c.count, mostChosen)
	return c, nil
}

func (c *rowChoice) has(row int64) bool {
	return c.list == nil || slices.ContainsFunc(c.list, func(r [2]int64) bool { return r[0] <= row && row <= r[1] })
}

// last returns the last row that is asked for, 0 where none is.
func (c *rowChoice) last() (row int64) {
	for _, r := range c.list {
		row = max(row, r[1])
	}
	return row
}
