package cli

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table/input"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// readied is a plan that is ready to run over a source.
type readied struct {
	plan    *plan.Plan
	profile *profile.Profile // nil where the plan was given
	drafted []byte           // the text of the plan, where it was not
	files   int
}

// ready loads a plan, or drafts one where no path is given, and finds its columns in
// the source. What is drafted is written and loaded, so that running it is the same as
// running the file.
func (a *app) ready(ctx context.Context, paths []string, path string, w *wishes) (*readied, error) {
	if path != "" {
		if w.any() {
			return nil, errPlanAndWishes
		}
		return a.load(paths, path)
	}
	prof, err := a.profileOf(ctx, paths, w)
	if err != nil {
		return nil, err
	}
	text, err := prof.Plan(w.blankWords, false).Write()
	if err != nil {
		return nil, err
	}
	p, err := plan.Load(text)
	if err == nil {
		err = p.Bind(prof.Info.Names)
	}
	if err != nil {
		return nil, fmt.Errorf("the drafted plan can't be run, please report this as a bug: %w", err)
	}
	return &readied{p, prof, text, len(prof.Info.Files)}, nil
}

func (a *app) load(paths []string, path string) (*readied, error) {
	p, err := loadPlan(path)
	if err != nil {
		return nil, err
	}
	src, err := a.openAs(paths, &p.Source)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	if err := p.Bind(src.Info().Names); err != nil {
		return nil, usage("%s: %w", path, err)
	}
	return &readied{plan: p, files: len(src.Info().Files)}, nil
}

func loadPlan(path string) (*plan.Plan, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, usage("can't read the plan: %w", err)
	}
	p, err := plan.Load(text)
	var mistakes plan.Mistakes
	if errors.As(err, &mistakes) {
		var lines manyErrors
		for _, m := range mistakes {
			lines = append(lines, fmt.Sprintf("%s, line %d, column %d: %s", path, m.Line, m.Column, m.Say))
		}
		return nil, &exitError{exitUsage, &lines}
	}
	return p, err
}

var errPlanAndWishes = usage("--as, --blank-word, --decimal-mark, --date-order, --fit and --private change what is drafted; with --plan, change the plan")

// openAs opens a source as the plan reads it.
func (a *app) openAs(paths []string, s *plan.Source) (*input.Source, error) {
	a.readAs(s)
	return a.open(paths)
}

// readAs makes the plan's way to read a source that of the flags that are not given.
func (a *app) readAs(s *plan.Source) {
	o := &a.source
	for _, e := range []struct {
		flag *string
		plan string
	}{{&o.Encoding, s.Encoding}, {&o.Delimiter, s.Delimiter}, {&o.Quote, s.Quote}, {&o.Escape, s.Escape}} {
		if *e.flag == "" {
			*e.flag = e.plan
		}
	}
	if o.Widths == nil {
		o.Widths = s.Widths
	}
	if o.HeaderRow == 0 {
		if o.HeaderRow = s.HeaderRow; s.NoHeader {
			o.HeaderRow = -1
		}
	}
}

// any reports whether there is a wish.
func (w *wishes) any() bool {
	return len(w.as) > 0 || len(w.blankWords) > 0 || w.decimalMark != "" || w.dateOrder != "" || w.fit != defaultFit || len(w.private) > 0
}

func (a *app) draft() *cobra.Command {
	var w wishes
	var output string
	var keepNames bool
	cmd := &cobra.Command{
		Use:   "draft SOURCE... [-o PLAN]",
		Short: "Propose a plan: what is to become of every column, with the evidence",
		Long: `Draft profiles the source and writes the plan that it suggests: a text file to read,
review, keep in version control and run again next month. The evidence stands in
comments. Columns for which nothing could be decided stay text, with the choices.`,
		Example: `  junvo draft landings.csv -o intake.plan.yaml
  junvo draft landings.csv --keep-names
  junvo preview landings.csv --plan intake.plan.yaml
  junvo convert landings.csv --plan intake.plan.yaml -o clean.csv`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := a.check(); err != nil {
				return err
			}
			w.shapes = true
			prof, err := a.profileOf(cmd.Context(), args, &w)
			if err != nil {
				return err
			}
			text, err := prof.Plan(w.blankWords, !keepNames).Write()
			if err != nil {
				return err
			}
			if output == "" {
				return a.print(string(text))
			}
			return writeWhole(output, text)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVarP(&output, "output", "o", "", "the file to write (default: standard output)")
	f.BoolVar(&keepNames, "keep-names", false, "keep the names of the columns (default: lower case, with underscores)")
	w.flags(cmd)
	a.sourceFlags(cmd)
	return cmd
}

// writeWhole writes a file that appears whole or not at all. An older one is replaced.
func writeWhole(path string, text []byte) error {
	f, err := wholefile.Create(path)
	if err != nil {
		return outputError(err)
	}
	defer f.Abort()
	if _, err := f.Write(text); err != nil {
		return outputError(err)
	}
	if err := f.Finish(); err != nil {
		return outputError(err)
	}
	if err := f.Commit(); err != nil {
		return outputError(err)
	}
	return nil
}

// readFixes reads the answers of a failures file.
func readFixes(path string) (*convert.Fixes, error) {
	if path == "" {
		return nil, nil
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, usage("can't read the fixes: %w", err)
	}
	defer f.Close()
	r := csv.NewReader(f)
	header, err := r.Read()
	if err != nil {
		return nil, usage("%s: can't read the fixes: %w", path, err)
	}
	header[0] = strings.TrimPrefix(header[0], "\ufeff")
	column, value, fix := slices.Index(header, "column"), slices.Index(header, "value"), slices.Index(header, "fix")
	if column < 0 || value < 0 || fix < 0 {
		return nil, usage("%s has no columns column, value and fix: is it a failures file?", path)
	}
	row := slices.Index(header, "row") // a list of groups has none: its answers are for every equal cell
	fixes := convert.NewFixes(show.Guarded)
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			return fixes, nil
		}
		if err != nil {
			return nil, usage("%s: %w", path, err)
		}
		if record[fix] == "" {
			continue
		}
		number := int64(0)
		if row >= 0 {
			if number, err = strconv.ParseInt(record[row], 10, 64); err != nil || number < 1 {
				return nil, usage("%s: %q is no number of a row", path, record[row])
			}
		}
		if err := fixes.Add(number, record[column], record[value], record[fix]); err != nil {
			return nil, usage("%s: %w", path, err)
		}
	}
}

// repeats finds the values that stand in two rows of columns that must be unique, in the
// first rows of a source or, where limit is 0, in all; nil where no column must be.
func (a *app) repeats(ctx context.Context, paths []string, p *plan.Plan, fixes *convert.Fixes, output string, limit int64, holds func(value.Type, []byte) string) (*convert.Repeats, error) {
	if !p.AnyUnique() {
		return nil, nil
	}
	folder := os.TempDir()
	if output != "" {
		folder = filepath.Dir(output)
	}
	var known *convert.Repeats
	runs := 1
	if fixes != nil {
		runs = 2 // the answers may repeat a value in their turn
	}
	for range runs {
		src, err := a.openAs(paths, &p.Source)
		if err != nil {
			return nil, err
		}
		report, end := a.progress("looking for repeated values", src)
		known, err = convert.FindRepeats(ctx, src, p, convert.Options{Workers: a.workers, Fixes: fixes, Repeats: known, Holds: holds, Progress: report}, folder, limit)
		end()
		src.Close()
		if err != nil {
			return nil, readError(paths, err)
		}
	}
	return known, nil
}

// maxReported is how many fixes without a failure are named.
const maxReported = 5

// reportUnused says which answers no failure has asked for.
func (a *app) reportUnused(fixes *convert.Fixes) {
	if fixes == nil {
		return
	}
	unused := fixes.Unused()
	for i, u := range unused {
		if i == maxReported {
			fmt.Fprintf(a.err, "junvo: and %d more\n", len(unused)-i)
			break
		}
		where := ""
		if u.Row > 0 {
			where = fmt.Sprintf(" of row %d", u.Row)
		}
		fmt.Fprintf(a.err, "junvo: the fix for %q in column %q%s matches no failure\n", show.Visible(u.Value), show.Visible(u.Column), where)
	}
}
