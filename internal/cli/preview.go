package cli

import (
	"context"
	"slices"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/show"
)

// previewRows is how many rows of a source a preview looks at unless it is told to look at all.
const previewRows = 10_000

// previewFlags is what preview is asked to show.
type previewFlags struct {
	wishes   wishes
	plan     string
	columns  []string
	rows     int
	failures bool
	all      bool
}

func (a *app) preview() *cobra.Command {
	var v previewFlags
	cmd := &cobra.Command{
		Use:   "preview SOURCE... [--plan PLAN]",
		Short: "Show before and after, side by side, before anything is written",
		Long: `Preview runs a plan over the first rows of a source, or all of them with --all, and
shows for every column the text before and the value after: a few ordinary rows,
then each different shape once, then what fails. What stands between them says what
happened: = the same, > changed, . blank, x failed. Nothing is written.`,
		Example: `  junvo preview landings.csv --plan intake.plan.yaml
  junvo preview landings.csv --plan intake.plan.yaml --column net_weight --rows 40
  junvo preview landings.csv --plan intake.plan.yaml --failures --all
  junvo preview landings.csv --step 'Skipper: take: {before: ","}' --column Skipper
  junvo preview landings.csv --compute 'value = round(net_weight * price, 2)'`,
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
	f.StringVar(&v.plan, "plan", "", "the plan (default: drafted from the source)")
	f.StringArrayVar(&v.columns, "column", nil, "column of the output to show (repeatable; default: all)")
	f.IntVar(&v.rows, "rows", 8, "how many cells to show of each column")
	f.BoolVar(&v.failures, "failures", false, "show only what fails")
	f.BoolVar(&v.all, "all", false, "look at the whole source (default: its first 10,000 rows)")
	v.wishes.edits.flags(cmd)
	v.wishes.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

func (a *app) runPreview(ctx context.Context, paths []string, v *previewFlags) error {
	if v.rows < 1 {
		return usage("--rows must be at least 1")
	}
	r, err := a.ready(ctx, paths, v.plan, &v.wishes)
	if err != nil {
		return err
	}
	src, err := a.open(paths, r.plan.Plan)
	if err != nil {
		return err
	}
	defer src.Close()
	bound, err := r.plan.Bind(src.Info().Names)
	if err != nil {
		return usage("%w", err)
	}
	page := show.NewPreview(r.plan.Plan, v.rows, v.failures)
	names := make([]string, len(r.plan.Columns))
	for i, c := range r.plan.Columns {
		names[i] = c.Name
	}
	for _, c := range v.columns {
		name, ok := findName(c, names)
		if !ok {
			return unknownColumn(c, names)
		}
		page.Only(slices.Index(names, name))
	}
	limit := int64(previewRows)
	if v.all {
		limit = 0
	}
	repeats, err := a.repeats(ctx, paths, bound, nil, "", limit, nil)
	if err != nil {
		return err
	}
	rows, err := convert.Try(src, bound, repeats, limit, func(t convert.Tried) error {
		page.Add(t)
		return ctx.Err()
	})
	if err != nil {
		return readError(paths, err)
	}
	f := show.Format(a.format)
	if f == show.JSON {
		doc, err := page.JSON(rows)
		if err != nil {
			return err
		}
		return a.print(string(doc))
	}
	return a.print(page.Text(f, a.page(), rows, rows == limit))
}
