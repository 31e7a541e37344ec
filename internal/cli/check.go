package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table"
)

func (a *app) checkCommand() *cobra.Command {
	var planPath, failOver string
	cmd := &cobra.Command{
		Use:   "check SOURCE... --plan PLAN",
		Short: "Say whether a source still fits the plan",
		Long: `Check runs a plan over a source without writing anything. It prints the ledger and
the drift: columns that are missing, new or moved, and columns that are another type
now, or written under another convention, or with other words for blank. The exit code
is 1 when the source does not fit: cells fail, or there is drift other than new or
moved columns.`,
		Example: `  junvo check february.csv --plan intake.plan.yaml
  junvo check february.csv --plan intake.plan.yaml --fail-over 1% --format json`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := a.check(); err != nil {
				return err
			}
			if planPath == "" {
				return usage("which plan? Name it, as in `junvo check %s --plan intake.plan.yaml`; `junvo draft` makes one", args[0])
			}
			if args[0] == "-" {
				return usage("check reads the source twice, so it can't be standard input; keep it in a file first")
			}
			return a.runCheck(cmd.Context(), args, planPath, failOver)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVar(&planPath, "plan", "", "the plan")
	f.StringVar(&failOver, "fail-over", "", "share of the non-blank cells, such as 1%, that may fail (default: none)")
	a.sourceFlags(cmd)
	return cmd
}

func (a *app) runCheck(ctx context.Context, paths []string, planPath, failOver string) error {
	allowed := 0.0
	if failOver != "" {
		var err error
		if allowed, err = parseShare("fail-over", failOver); err != nil {
			return err
		}
	}
	p, err := loadPlan(planPath)
	if err != nil {
		return err
	}
	prof, err := a.profileAs(ctx, paths, p)
	if err != nil {
		return err
	}
	verdict := &show.Verdict{Drift: prof.Drift(p)}
	var missing *plan.MissingError
	if err := p.Bind(prof.Info.Names); err == nil {
		if verdict.Ledger, err = a.tryOut(ctx, paths, p); err != nil {
			return err
		}
	} else if !errors.As(err, &missing) {
		return err
	}
	verdict.Judge(allowed)
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
	if err := a.print(text); err != nil {
		return err
	}
	if !verdict.Fits {
		return errFailures
	}
	return nil
}

// profileAs profiles a source that is read as the plan says.
func (a *app) profileAs(ctx context.Context, paths []string, p *plan.Plan) (*profile.Profile, error) {
	src, err := a.openAs(paths, &p.Source)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	report, end := a.progress("reading", src)
	defer end()
	prof, err := profile.Run(ctx, src, profile.Options{Workers: a.workers, BlankWords: p.BlankWords, Progress: report, Private: p.Hides})
	return prof, readError(paths, err)
}

// tryOut runs a plan and keeps nothing but the ledger.
func (a *app) tryOut(ctx context.Context, paths []string, p *plan.Plan) (*convert.Ledger, error) {
	repeats, err := a.repeats(ctx, paths, p, nil, "", 0)
	if err != nil {
		return nil, err
	}
	src, err := a.openAs(paths, &p.Source)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	report, end := a.progress("checking", src)
	defer end()
	q := *p
	q.Columns = slices.Clone(p.Columns)
	for i := range q.Columns {
		q.Columns[i].OnFailure = plan.FailBlank // a check goes on to the end
	}
	ledger, err := convert.Run(ctx, src, &q, convert.Options{Workers: a.workers, Sink: table.Discard{}, Repeats: repeats, Progress: report})
	if err != nil {
		return nil, readError(paths, err)
	}
	if err := ledger.Check(); err != nil {
		return nil, fmt.Errorf("%w. Please report this as a bug", err)
	}
	return ledger, nil
}
