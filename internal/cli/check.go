package cli

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/report"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/wholefile"
)

// checkFlags is what check is asked to do.
type checkFlags struct {
	plan, failOver string
	strict, accept bool
	report         reporting
}

func (a *app) checkCommand() *cobra.Command {
	var c checkFlags
	cmd := &cobra.Command{
		Use:   "check SOURCE... --plan PLAN",
		Short: "Say whether a source still fits the plan",
		Long: `Check runs a plan over a source without writing anything. It prints the ledger and
the drift: columns that are missing, new or moved; columns that are another type now,
or written under another convention, or with other words for blank; and, against what
the plan has seen before, new shapes, a wider range, another share of blank or odd cells.
The exit code is 1 when the source does not fit: cells fail, or columns are missing, are
another type, or are written otherwise. With --strict any drift will do. With --accept,
what a source that fits has held is added to what the plan has seen; nothing else in the
plan is touched.`,
		Example: `  junvo check february.csv --plan intake.plan.yaml
  junvo check february.csv --plan intake.plan.yaml --strict
  junvo check february.csv --plan intake.plan.yaml --accept
  junvo check february.csv --plan intake.plan.yaml --fail-over 1% --format json`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			if c.plan == "" {
				return usage("which plan? Name it, as in `junvo check %s --plan intake.plan.yaml`; `junvo draft` makes one",
					args[0])
			}
			paths, kept, err := a.spooled(cmd.Context(), args, c.plan)
			if err != nil {
				return err
			}
			defer kept()
			return a.runCheck(cmd.Context(), paths, &c)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVar(&c.plan, "plan", "", "the plan")
	f.StringVar(&c.failOver, "fail-over", "", "share of the non-blank cells, such as 1%, that may fail (default: none)")
	f.BoolVar(&c.strict, "strict", false, "any drift makes the source unfit")
	f.BoolVar(&c.accept, "accept", false, "add what a source that fits has held to what the plan has seen")
	into(cmd, groupJob)
	c.report.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

func (a *app) runCheck(ctx context.Context, paths []string, c *checkFlags) error {
	if c.accept && c.plan == "-" {
		return usage("--accept writes to the plan, which needs a file")
	}
	allowed := 0.0
	if c.failOver != "" {
		var err error
		if allowed, err = parseShare("fail-over", c.failOver); err != nil {
			return err
		}
	}
	var files wholefile.Files
	files.Writes(c.report.path, "the report")
	files.Reads(c.plan, "the plan")
	if err := c.report.checkWith(&files, paths); err != nil {
		return err
	}
	p, text, err := a.loadPlan(c.plan)
	if err != nil {
		return err
	}
	var open func(string) bool
	if c.report.wanted() {
		open = everyColumn
	}
	prof, err := a.profileAs(ctx, paths, p, open, nil)
	if err != nil {
		return err
	}
	page := c.report.begin(len(prof.Info.Files) > 1)
	verdict := &show.Verdict{}
	var missing *plan.MissingError
	bound, err := p.Bind(prof.Info.Names)
	if verdict.Drift, err = driftOf(ctx, prof, p, bound, err); err != nil && !errors.As(err, &missing) {
		return err
	}
	if bound != nil {
		if verdict.Ledger, err = a.tryOut(ctx, paths, bound, page); err != nil {
			return err
		}
		verdict.Ledger.Doubts = append(verdict.Ledger.Doubts, doubts(prof)...)
		for i := range verdict.Ledger.Doubts { // by the names that the ledger has
			d := &verdict.Ledger.Doubts[i]
			at := slices.IndexFunc(p.Columns, func(c plan.Column) bool { return c.Source == d.Column })
			if d.Column != "" && at >= 0 {
				d.Column = p.Columns[at].Name
			}
		}
		if page != nil {
			page.Plan = bound
			if err := a.readAround(ctx, paths, page, bound); err != nil {
				return err
			}
		}
	}
	verdict.Judge(allowed, c.strict)
	if page != nil {
		page.Profile, page.Text, page.Ledger = prof, text, verdict.Ledger
		page.Checked, page.Drift, page.Fits = true, verdict.Drift, verdict.Fits
		doc, err := a.reportPage(page)
		if err != nil {
			return err
		}
		if err := writeWhole(c.report.path, doc); err != nil {
			return err
		}
	}
	return a.printCheck(c, p, prof, verdict)
}

// driftOf lists in what a source is other than a plan expects, and which of its examples give something else now. The
// plan is bound to the source, unless the error of that says why not, which is returned then.
func driftOf(ctx context.Context, prof *profile.Profile, p *plan.Plan, bound *plan.Bound,
	unbound error,
) ([]draft.Difference, error) {
	found := draft.Drift(prof, p)
	if unbound != nil {
		return found, unbound
	}
	broken, err := convert.BrokenExamples(ctx, bound, prof.Info.Names)
	for i := range broken {
		found = append(found, brokenExample(&broken[i]))
	}
	return found, err
}

// brokenExample says which example of a column is broken.
func brokenExample(b *convert.Broken) draft.Difference {
	if b.Hidden {
		return draft.Difference{Kind: draft.ExampleBroken, Column: b.Column, Say: "an example of the private column " +
			"gives something else now"}
	}
	var cells []string
	for _, name := range slices.Sorted(maps.Keys(b.Example.From)) {
		cells = append(cells, fmt.Sprintf("%q", b.Example.From[name]))
	}
	gives, shown := fmt.Sprintf("gives %q now", b.Gives), fmt.Sprintf("%q", b.Example.Gives)
	if b.Gives == "" {
		gives = "gives nothing now"
	}
	if b.Example.Gives == "" {
		shown = "nothing"
	}
	return draft.Difference{
		Kind: draft.ExampleBroken, Column: b.Column,
		Say: fmt.Sprintf("%s %s, and was to give %s", strings.Join(cells, " with "), gives, shown),
	}
}

// printCheck prints the verdict, and adds what fits to what the plan has seen, if that is asked for.
func (a *app) printCheck(c *checkFlags, p *plan.Plan, prof *profile.Profile, verdict *show.Verdict) error {
	f := show.Format(a.format)
	text := ""
	if f == show.JSON {
		doc, err := show.VerdictJSON(verdict)
		if err != nil {
			return err
		}
		text = string(doc)
	} else {
		text = show.VerdictText(verdict, f, a.page())
	}
	if err := printVerdict(a.out, text, !verdict.Fits); err != nil {
		return err
	}
	if c.accept {
		return acceptSeen(c.plan, p, prof)
	}
	return nil
}

// acceptSeen adds what a source has held to what the plan has seen.
func acceptSeen(path string, p *plan.Plan, prof *profile.Profile) error {
	text, err := readText(path)
	if err != nil {
		return usage("can't read the plan: %w", err)
	}
	r := draft.Record(prof)
	r.Add(p.Seen)
	if text, err = plan.Accept(text, r, besideOf(path)); err != nil {
		return usage("%s: %w", path, err)
	}
	return writeWhole(path, text)
}

// profileAs profiles a source that is read as the plan says.
func (a *app) profileAs(
	ctx context.Context, paths []string, p *plan.Plan, open, skip func(string) bool,
) (*profile.Profile, error) {
	src, err := a.open(paths, p)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	report, end := a.progress("reading", src)
	defer end()
	hiding := p.Hiding()
	private := func(column string) bool { return hiding[column] }
	prof, err := profile.Run(ctx, src, profile.Options{
		Workers: a.workers, BlankWords: p.BlankWords, Progress: report,
		Private: private, Open: open, Skip: skip, Shapes: p.Seen.HasShapes(), Ask: draft.Asks(p),
	})
	return prof, readError(paths, err)
}

// tryOut runs a plan and keeps nothing but the ledger, and what a page tells of failures and rows set aside; nil for
// none.
func (a *app) tryOut(ctx context.Context, paths []string, p *plan.Bound, page *report.Source) (*convert.Ledger, error) {
	repeats, err := a.repeats(ctx, paths, p, nil, "", 0, 0, nil)
	if err != nil {
		return nil, err
	}
	src, err := a.open(paths, p.Plan)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	progress, end := a.progress("checking", src)
	defer end()
	toTheEnd := p.BlankOn(plan.FailStop, plan.FailKeep, plan.FailAside)
	o := convert.Options{Workers: a.workers, Sink: table.Discard{}, Repeats: repeats, Progress: progress}
	if page != nil {
		o.Failure, o.Aside = page.Failed, page.SetAside
	}
	ledger, err := convert.Run(ctx, src, toTheEnd, o)
	if err != nil {
		return nil, readError(paths, err)
	}
	if err := ledger.Check(); err != nil {
		return nil, fmt.Errorf("%w. Please report this as a bug", err)
	}
	return ledger, nil
}
