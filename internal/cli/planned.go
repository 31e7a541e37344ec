package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// runnable is a plan that is ready to run over a source.
type runnable struct {
	plan    *plan.Bound
	profile *profile.Profile // nil where the plan was given
	text    []byte           // of the plan
	drafted []byte           // the same, where it was drafted
	files   int
}

// ready loads a plan, or drafts one where no path is given, and finds its columns in
// the source. What is drafted is written and loaded, so that running it is the same as
// running the file.
func (a *app) ready(ctx context.Context, paths []string, path string, w *columnFlags) (*runnable, error) {
	if path != "" {
		if err := a.notWithPlan(); err != nil {
			return nil, err
		}
		return a.load(paths, path)
	}
	prof, err := a.profileOf(ctx, paths, w)
	if err != nil {
		return nil, err
	}
	bound, text, err := drafted(prof, w, false)
	if err != nil {
		return nil, err
	}
	return &runnable{plan: bound, profile: prof, text: text, drafted: text, files: len(prof.Info.Files)}, nil
}

// drafted returns the plan that a profile suggests, with what the command line changes, as it is when its text, which
// it returns, too, has been read again.
func drafted(prof *profile.Profile, w *columnFlags, usableNames bool) (bound *plan.Bound, text []byte, err error) {
	p := draft.Plan(prof, w.blankWords, usableNames)
	if err := w.edits.apply(p, prof.Info.Names, w, func(column int) bool { return prof.Columns[column].AskedType() }); err != nil {
		return nil, nil, err
	}
	if text, err = p.Write(); err != nil {
		return nil, nil, err
	}
	if p, err = plan.LoadWith(text, readText); err == nil {
		bound, err = p.Bind(w.edits.cameWith(prof.Info.Names))
	}
	switch {
	case len(text) > plan.MaxBytes:
		return nil, nil, usage("a plan of this source would be longer than %d MB, since the names of its columns are so long: "+
			"say where the names are with --header-row, or --no-header", plan.MaxBytes>>20)
	case err != nil && w.edits.any():
		return nil, nil, mistakesIn(err)
	case err != nil:
		return nil, nil, fmt.Errorf("the drafted plan can't be run, please report this as a bug: %w", err)
	}
	return bound, text, nil
}

func (a *app) load(paths []string, path string) (*runnable, error) {
	p, text, err := a.loadPlan(path)
	if err != nil {
		return nil, err
	}
	src, err := a.open(paths, p)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	bound, err := p.Bind(src.Info().Names)
	if err != nil {
		return nil, usage("%s: %w", path, err)
	}
	return &runnable{plan: bound, text: text, files: max(len(src.Info().Files), a.spread.Files)}, nil
}

// loadPlan reads a plan, and returns its text, too; - is that on standard input.
func (a *app) loadPlan(path string) (p *plan.Plan, text []byte, err error) {
	if path == "-" {
		if a.heldPlan == nil {
			a.heldPlan, err = io.ReadAll(a.in)
		}
		text = a.heldPlan
	} else {
		text, err = readText(path)
	}
	if err != nil {
		return nil, nil, usage("can't read the plan: %w", err)
	}
	p, err = plan.LoadWith(text, besideOf(path))
	if path == "-" {
		path = "the plan on standard input"
	}
	var mistakes plan.Mistakes
	if errors.As(err, &mistakes) {
		var lines manyErrors
		for _, m := range mistakes {
			lines = append(lines, fmt.Sprintf("%s, line %d, column %d: %s", path, m.Line, m.Column, m.Say))
		}
		return nil, nil, &exitError{exitUsage, &lines}
	}
	return p, text, err
}

// besideOf returns what reads the files that a plan names, which stand beside it.
func besideOf(plan string) func(name string) ([]byte, error) {
	return func(name string) ([]byte, error) {
		if !filepath.IsAbs(name) {
			name = filepath.Join(filepath.Dir(plan), name)
		}
		return readText(name)
	}
}

// notWithPlan returns an error where flags were given that change what is drafted, but for some, for a command that has a
// plan.
func (a *app) notWithPlan(but ...string) error {
	var given []string
	a.flags.Visit(func(f *pflag.Flag) {
		if group := groupOf(f); (group == groupTypes || group == groupEdits) && !slices.Contains(but, f.Name) {
			given = append(given, "--"+f.Name)
		}
	})
	if given == nil {
		return nil
	}
	return usage("--plan can't be used together with flags that change what is drafted: %s. Change the plan",
		strings.Join(given, ", "))
}

func (a *app) draft() *cobra.Command {
	var w columnFlags
	var output string
	var keepNames, overwrite bool
	cmd := &cobra.Command{
		Use:   "draft SOURCE... [-o PLAN]",
		Short: "Propose a plan: what is to become of every column, with the evidence",
		Long: `Draft profiles the source and writes the plan that it suggests: a text file to read,
review, keep in version control and run again next month. The evidence stands in
comments. Columns for which nothing could be decided stay text, with the choices.`,
		Example: `  junvo draft landings.csv -o intake.plan.yaml
  junvo draft landings.csv --keep-names
  junvo draft landings.csv -o intake.plan.yaml --step 'Skipper: take: {before: ","}' --rename Skipper=surname
  junvo preview landings.csv --plan intake.plan.yaml
  junvo convert landings.csv --plan intake.plan.yaml -o clean.csv`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			var files wholefile.Files
			files.Writes(output, "the plan")
			if err := errors.Join(sourcesOf(&files, args), checkFiles(&files)); err != nil {
				return err
			}
			w.shapes = true
			prof, err := a.profileOf(cmd.Context(), args, &w)
			if err != nil {
				return err
			}
			_, text, err := drafted(prof, &w, !keepNames)
			if err != nil {
				return err
			}
			if output == "" {
				return a.print(string(text))
			}
			text = plan.Drafted(text)
			if err := mayReplacePlan(output, text, overwrite, "--overwrite"); err != nil {
				return err
			}
			return writeWhole(output, text)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVarP(&output, "output", "o", "", "the file to write (default: standard output)")
	f.BoolVar(&overwrite, "overwrite", false, "let the draft take the place of a plan that is there and may have been "+
		"edited")
	f.BoolVar(&keepNames, "keep-names", false, "keep the names of the columns (default: lower case, with underscores)")
	into(cmd, groupJob)
	w.edits.flags(cmd)
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

// repeats finds the values that stand in two rows of columns that must be unique, in the
// first rows of a source or, where limit is 0, in all; nil where no column must be.
func (a *app) repeats(ctx context.Context, paths []string, p *plan.Bound, fixes *convert.Fixes, output string,
	limit, before int64, holds func(value.Type, []byte) string,
) (*convert.Repeats, error) {
	if !p.AnyUnique() {
		return nil, nil
	}
	folder := spillFolder(output)
	var known *convert.Repeats
	runs := 1
	if fixes != nil {
		runs = 2 // the answers may repeat a value in their turn
	}
	for range runs {
		src, err := a.open(paths, p.Plan)
		if err != nil {
			return nil, err
		}
		report, end := a.progress("looking for repeated values", src)
		known, err = convert.FindRepeats(ctx, src, p, convert.Options{
			Workers: a.workers, Fixes: fixes, Repeats: known,
			Holds: holds, Progress: report, RowsBefore: before,
		}, folder, limit)
		end()
		src.Close()
		if err != nil {
			return nil, readError(paths, err)
		}
	}
	return known, nil
}
