package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/demo"
	"junvo/internal/show"
	"junvo/internal/table/wholefile"
)

func (a *app) demo() *cobra.Command {
	rows := demo.Rows
	cmd := &cobra.Command{
		Use:   "demo [DIR]",
		Short: "Show the whole job on an example",
		Long: `Demo writes the landing records of a made-up harbour into DIR (default: junvo-demo),
with every trouble that a table can have, and runs the job on them: each command is
shown as a person would type it, followed by what it prints.`,
		Example: `  junvo demo
  junvo demo /tmp/big --rows 3500000    the same at any size, as CSV only; this is about 430 MB`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			dir := "junvo-demo"
			if len(args) > 0 {
				dir = args[0]
			}
			if rows < 1 {
				return usage("--rows must be at least 1")
			}
			return a.runDemo(cmd.Context(), dir, rows)
		},
	}
	cmd.Flags().IntVar(&rows, "rows", demo.Rows, "how many landings to make up")
	return cmd
}

// demoStep is a command that the demo runs, and the question that it answers.
type demoStep struct {
	say  string
	args []string
}

func (a *app) runDemo(ctx context.Context, dir string, rows int) error {
	if err := freshFolder(dir); err != nil {
		return err
	}
	source := filepath.Join(dir, demo.Name)
	if err := writeDemo(ctx, source, rows); err != nil {
		return outputError(err)
	}
	if err := a.print(fmt.Sprintf("Wrote %s, the landing records of a made-up harbour.\n",
		show.Visible(source))); err != nil {
		return err
	}
	if rows == demo.Rows {
		if err := a.otherForms(dir); err != nil {
			return err
		}
	}
	clean, plan := filepath.Join(dir, "clean.csv"), filepath.Join(dir, "intake.plan.yaml")
	steps := []demoStep{
		{"What is in these columns?", []string{"profile", source}},
		{"Why is this cell not a number?", []string{"why", source, "--row", "2", "--column", "Boxes"}},
		{"Propose what to do, as a file to read and to keep.", []string{"draft", source, "-o", plan, "--keep-names"}},
		{"Let me see it before I believe it.", []string{
			"preview", source, "--plan", plan, "--column", "Net weight",
			"--column", "Landed on",
		}},
		{
			"Put every column into its proper type, and tell everything that failed.",
			[]string{"convert", source, "--plan", plan, "-o", clean},
		},
	}
	if rows == demo.Rows { // others have no lots in the same rows
		steps = slices.Insert(
			steps, 4,
			demoStep{
				"I can show it better than say it: which rule makes 2550 of row 25?",
				[]string{"teach", source, "Remarks", "--row", "25 => 2550"},
			},
			demoStep{"It is unsure. With what is right for two of the rows, it has one answer for all.", []string{
				"teach", source, "Remarks", "--row", "25 => 2550", "--row", "365 => 558", "--row", "15 =>",
			}},
		)
	}
	if rows == demo.Rows { // fewer may hold no numbers to add up
		steps = append(steps, demoStep{"Do the totals come out?", []string{
			"totals", source, "--plan", plan, "--by",
			"Species", "--sum", "Net weight,Boxes",
		}})
	}
	for _, s := range steps {
		if err := a.print(fmt.Sprintf("\n# %s\n$ junvo %s\n", s.say, show.CommandLine(s.args))); err != nil {
			return err
		}
		// The sample has cells that no one can read, so that failures are no failure here.
		step := &app{format: "table", in: strings.NewReader(""), out: a.out, err: a.err}
		args := append([]string{"--color", a.color, "--workers", fmt.Sprint(a.workers)}, s.args...)
		if code := step.run(ctx, args); code > exitFailures {
			return &exitError{code, errors.New("")}
		}
	}
	return a.print(fmt.Sprintf("\nThe cells that failed are in %s, with the reason and what would mend them.\n",
		show.Visible(filepath.Join(dir, "clean.failures.csv"))))
}

// otherForms writes the same landings as a workbook, as JSON lines and as a database.
func (a *app) otherForms(dir string) error {
	if err := writeWhole(filepath.Join(dir, demo.WorkbookName), demo.Workbook); err != nil {
		return err
	}
	var records bytes.Buffer
	if err := demo.Records(&records); err != nil {
		return outputError(err)
	}
	if err := writeWhole(filepath.Join(dir, demo.RecordsName), records.Bytes()); err != nil {
		return err
	}
	if err := demo.Database(filepath.Join(dir, demo.DatabaseName)); err != nil {
		return outputError(err)
	}
	return a.print(fmt.Sprintf("Beside it the same landings as workbook, JSON lines and SQLite file: %s, %s, %s.\n",
		demo.WorkbookName, demo.RecordsName, demo.DatabaseName))
}

// freshFolder makes the folder, which must not have anything in it.
func freshFolder(dir string) error {
	entries, err := os.ReadDir(dir)
	switch {
	case err == nil && len(entries) > 0:
		return usage("the folder %s is not empty; name another, as in `junvo demo other-folder`, or remove it first", dir)
	case err == nil:
		return nil
	case errors.Is(err, os.ErrNotExist):
		if err := os.MkdirAll(dir, 0o755); err != nil {
			return outputError(err)
		}
		return nil
	}
	return outputError(err)
}

// writeDemo writes the sample, of that many rows.
func writeDemo(ctx context.Context, path string, rows int) error {
	f, err := wholefile.Create(path)
	if err != nil {
		return err
	}
	defer f.Abort()
	if err := demo.Generate(demo.Options{Rows: rows, Source: untilDone{ctx, f}}); err != nil {
		return err
	}
	return f.Commit()
}

// untilDone stops writing when the context ends.
type untilDone struct {
	ctx  context.Context
	file *wholefile.File
}

func (w untilDone) Write(p []byte) (int, error) {
	if err := w.ctx.Err(); err != nil {
		return 0, err
	}
	return w.file.Write(p)
}
