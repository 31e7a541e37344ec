package cli

import (
	"bytes"
	"context"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/report"
	"junvo/internal/show"
	"junvo/internal/table/wholefile"
)

// reporting is what a command is asked for of a report page.
type reporting struct {
	path     string
	failures int  // how many are listed at most
	replace  bool // any file may go that outputs take the place of
}

func (r *reporting) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&r.path, "report", "",
		"also write a page for a browser to this `file`, which needs nothing else: NAME.html")
	r.bound(cmd)
}

func (r *reporting) bound(cmd *cobra.Command) {
	cmd.Flags().IntVar(&r.failures, "report-failures", report.DefaultFailures, "how many failures the page lists at most")
	cmd.Flags().BoolVar(&r.replace, "replace", false, replaceUse)
}

func (r *reporting) wanted() bool { return r.path != "" }

// check returns an error where the page can't be written to its file.
func (r *reporting) check() error {
	switch ending := strings.ToLower(filepath.Ext(r.path)); {
	case !r.wanted():
		return nil
	case ending != ".html" && ending != ".htm":
		return usage("a report is a page for a browser, so that its name ends in .html, not %q", filepath.Ext(r.path))
	case r.failures < 0:
		return usage("--report-failures is a number from 0, not %d", r.failures)
	}
	return mayReplaceText(r.path, "report", permissionOf(true, r.replace), report.IsReport)
}

// checkWith returns an error where the page can't be written, or a run would write what it reads; the sources are added
// to the files.
func (r *reporting) checkWith(files *wholefile.Files, paths []string) error {
	if err := sourcesOf(files, paths); err != nil {
		return err
	}
	if err := checkFiles(files); err != nil {
		return err
	}
	return r.check()
}

// begin begins what the page tells of a source; nil where there is no page.
func (r *reporting) begin(manyFiles bool) *report.Source {
	if !r.wanted() {
		return nil
	}
	return &report.Source{Failures: report.NewFailures(r.failures, manyFiles), Around: &report.Around{}}
}

// everyColumn opens all columns.
func everyColumn(string) bool { return true }

// reportPage makes the page.
func (a *app) reportPage(sources ...*report.Source) ([]byte, error) {
	p := &report.Page{Sources: sources, Title: "Several sources", Again: []string{"junvo " + show.CommandLine(a.args)}}
	if len(sources) == 1 {
		p.Title = sources[0].Profile.Info.Name
	}
	var b bytes.Buffer
	err := p.Write(&b)
	return b.Bytes(), err
}

// completeReport adds what is known of a source when its plan has been run.
func (a *app) completeReport(
	ctx context.Context, paths []string, s *report.Source, r *runnable, given bool, l *convert.Ledger,
) error {
	if s == nil {
		return nil
	}
	var err error
	if s.Profile = r.profile; s.Profile == nil {
		if s.Profile, err = a.profileAs(ctx, paths, r.plan.Plan, everyColumn, nil); err != nil {
			return err
		}
	}
	s.Plan, s.Text, s.Ledger = r.plan, r.text, l
	if given {
		v := &show.Verdict{Ledger: l}
		if v.Drift, err = driftOf(ctx, s.Profile, r.plan.Plan, r.plan, nil); err != nil {
			return err
		}
		v.Judge(0, false)
		s.Checked, s.Drift, s.Fits = true, v.Drift, v.Fits
	}
	return a.readAround(ctx, paths, s, r.plan)
}

// readAround reads the rows around those that were set aside.
func (a *app) readAround(ctx context.Context, paths []string, s *report.Source, p *plan.Bound) error {
	file := *p.Plan
	file.Turn = nil // the rows of the file are shown as they stand there
	src, err := a.open(paths, &file)
	if err != nil {
		return err
	}
	defer src.Close()
	hiding := p.Hiding()
	return readError(paths, s.Around.Read(ctx, src, func(column string) bool {
		return hiding[column] || slices.Contains(p.Turn, column) && hiding[p.TurnInto[1]]
	}))
}

func (a *app) reportCommand() *cobra.Command {
	var w columnFlags
	var r reporting
	var planPath string
	cmd := &cobra.Command{
		Use:   "report SOURCE... -o NAME.html",
		Short: "Write a page that shows a colleague what a table holds and what would become of it",
		Long: `Report writes one page for a browser that needs nothing else, neither a network nor
another file: how the source was read, what its rows and cells would become, every
column with its shapes before and after, the convention and the evidence for it, all
failures with filter and search, the rows set aside among their neighbours, and the
plan. With --plan it runs that plan, and says what has drifted; without, it drafts one.
Nothing is converted; ` + "`junvo convert … --report NAME.html`" + ` does that and writes the
page, too. Private columns show shapes only.`,
		Example: `  junvo report landings.csv -o landings.html
  junvo report february.csv --plan intake.plan.yaml -o february.html
  junvo report landings.csv -o landings.html --private Skipper
  junvo convert landings.csv -o clean.csv --report landings.html`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			if !r.wanted() {
				return usage("where to? Name the page, as in `junvo report %s -o landings.html`", args[0])
			}
			return a.runReport(cmd.Context(), args, planPath, &w, &r)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVarP(&r.path, "output", "o", "", "the page to write: NAME.html")
	f.StringVar(&planPath, "plan", "", "the plan to run (default: drafted from the source)")
	r.bound(cmd)
	into(cmd, groupJob)
	w.edits.flags(cmd)
	w.flags(cmd)
	a.sourceFlags(cmd)
	return cmd
}

func (a *app) runReport(ctx context.Context, paths []string, planPath string, w *columnFlags, r *reporting) error {
	var files wholefile.Files
	files.Writes(r.path, "the report")
	files.Reads(planPath, "the plan")
	if err := r.checkWith(&files, paths); err != nil {
		return err
	}
	paths, kept, err := a.spooled(ctx, paths, planPath)
	if err != nil {
		return err
	}
	defer kept()
	w.open = everyColumn
	ready, err := a.ready(ctx, paths, planPath, w)
	if err != nil {
		return err
	}
	s := r.begin(ready.files > 1)
	ledger, err := a.tryOut(ctx, paths, ready.plan, s)
	if err != nil {
		return err
	}
	if err := a.completeReport(ctx, paths, s, ready, planPath != "", ledger); err != nil {
		return err
	}
	page, err := a.reportPage(s)
	if err != nil {
		return err
	}
	if err := writeWhole(r.path, page); err != nil {
		return err
	}
	return a.print(show.Plural(ledger.Failed(), "cell") + " would fail\nwrote: " + show.Visible(r.path) + "\n")
}

// checkPicture returns an error where a picture can't be drawn to its file. Nothing
// tells a picture that a person has made from one of ours.
func checkPicture(path string, each, told bool) error {
	switch ending := strings.ToLower(filepath.Ext(path)); {
	case path == "":
		return nil
	case ending != ".svg":
		return usage("a picture is written as SVG: name it NAME.svg, not %q", filepath.Base(path))
	case each:
		return usage("--picture draws one source, so that it does not go with --each")
	case isThere(path) && !told:
		return usage("%s is there already; move it away, name another picture, or say --replace", path)
	}
	return nil
}

// drawColumns draws the picture, if there is to be one.
func drawColumns(path string, p *profile.Profile, sel *selection) error {
	if path == "" {
		return nil
	}
	columns, err := sel.of(p)
	if err != nil {
		return err
	}
	return writeWhole(path, report.Picture(p, columns, len(sel.columns) > 0))
}

// reportProfiles writes the page of profiles alone.
func (a *app) reportProfiles(r *reporting, profiles ...*profile.Profile) error {
	if !r.wanted() {
		return nil
	}
	sources := make([]*report.Source, len(profiles))
	for i, p := range profiles {
		sources[i] = &report.Source{Profile: p}
	}
	page, err := a.reportPage(sources...)
	if err != nil {
		return err
	}
	return writeWhole(r.path, page)
}
