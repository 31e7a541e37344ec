package spread

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/apache/beam/sdks/v2/go/pkg/beam"
	"github.com/apache/beam/sdks/v2/go/pkg/beam/x/beamx"

	"junvo/internal/cli"
	"junvo/internal/table/input"
	"junvo/internal/table/wholefile"
)

// Job is a command that is spread.
type Job struct {
	Each    int64  // bytes of a range
	Staging string // the folder in which the job's own folder is made; "" for that of the output, or of temporary files
	Out     io.Writer
	Err     io.Writer

	folder string   // for what the parts leave, as long as the job runs
	beside string   // where the output is put together: beside where it appears, so that this takes no copying
	remote []string // the sources, where some stand in a file system of Beam's; nil where none does
}

// Run runs a command of junvo, profile or convert with their flags, and returns the exit code.
func (j *Job) Run(ctx context.Context, args []string) int {
	err := j.command(ctx, args)
	var ended code
	var wrong *Usage
	var source *input.Error
	switch {
	case err == nil:
		return 0
	case ctx.Err() != nil:
		fmt.Fprintln(j.Err, "junvo-beam: interrupted; nothing was written")
		return exitInterrupted
	case errors.As(err, &ended):
		return int(ended)
	}
	var part *Failed
	if errors.As(err, &part) {
		fmt.Fprintln(j.Err, "junvo-beam: "+part.Say)
		return part.Code
	}
	fmt.Fprintln(j.Err, "junvo-beam: "+err.Error())
	switch {
	case errors.As(err, &wrong):
		return exitUsage
	case errors.As(err, &source):
		return exitSource
	}
	return exitOutput
}

func (j *Job) command(ctx context.Context, args []string) (err error) {
	if len(args) == 0 {
		return usage("which command? There are profile and convert, as in `junvo-beam profile 'parts/*.csv'`")
	}
	if args[0] != "profile" && args[0] != "convert" {
		return usage("%s is not spread; there are profile and convert. `junvo %s` runs on this machine", args[0], args[0])
	}
	if slices.Contains(args, "--help") || slices.Contains(args, "-h") {
		return j.asked(cli.RunSpread(ctx, args, cli.Spread{}, j.Out, j.Err))
	}
	remove, err := j.makeFolders(args)
	defer remove()
	if err != nil {
		return err
	}
	if n, _ := take(args, "workers"); n == "" {
		args = with(args, "--workers=2") // the runner may have several parts worked on at a time
	}
	flags, sources := cli.Parted(args)
	if slices.ContainsFunc(sources, remote) {
		if j.remote, err = listed(ctx, sources); err != nil {
			return err
		}
		// The command itself looks at the first file, for the names of the columns.
		first, done, err := fetched(ctx, j.remote[0])
		if err != nil {
			return &input.Error{Name: j.remote[0], Err: err}
		}
		defer done()
		args = append(flags, first)
	}
	if args[0] == "profile" {
		return j.profile(ctx, args)
	}
	return j.converting(ctx, args)
}

// makeFolders makes the folders of the job. What it returns removes them.
func (j *Job) makeFolders(args []string) (remove func(), err error) {
	remove = func() { _ = errors.Join(os.RemoveAll(j.folder), os.RemoveAll(j.beside)) }
	folderIn := func(in string) (string, error) {
		in, err := filepath.Abs(in) // workers may have another working directory
		if err != nil {
			return "", err
		}
		folder, err := os.MkdirTemp(in, "junvo-job-*")
		if err != nil {
			return "", fmt.Errorf("can't make a folder for what the parts leave: %w", err)
		}
		return folder, nil
	}
	staging := j.Staging
	if args[0] == "convert" {
		output, _ := take(args, "output", "o")
		if err := checkOutput(output); err != nil {
			return remove, err
		}
		if j.beside, err = folderIn(filepath.Dir(filepath.Clean(output))); err != nil || staging == "" {
			j.folder = j.beside
			return remove, err
		}
	}
	j.folder, err = folderIn(cmp.Or(staging, os.TempDir()))
	return remove, err
}

func (j *Job) asked(exit int) error {
	if exit == 0 {
		return nil
	}
	return code(exit)
}

// run runs a pipeline.
func (j *Job) run(ctx context.Context, p *beam.Pipeline) error {
	if err := beamx.Run(ctx, p); err != nil {
		return reason(err)
	}
	return nil
}

// sources returns the files that a command reads, and how, as the command itself finds that out.
func (j *Job) sources(ctx context.Context, args []string) (paths []string, how reading, err error) {
	query := false
	exit := cli.RunSpread(ctx, args, cli.Spread{Opens: func(named []string, o input.Options) error {
		how, query = reading{o.Options, o.Format}, o.Query != ""
		paths, err = input.Paths(named)
		return nil
	}}, j.Out, j.Err)
	switch {
	case exit != 0:
		return nil, how, code(exit)
	case err != nil:
		return nil, how, err
	case query:
		return nil, how, usage("--query is not spread: a query runs on the server, so that `junvo` does the same")
	case j.remote != nil:
		return j.remote, how, nil
	case slices.Contains(paths, "-"):
		return nil, how, usage("standard input is not spread: keep it in a file first")
	}
	for i, path := range paths { // workers may have another working directory
		if strings.Contains(path, "://") {
			continue
		}
		if paths[i], err = filepath.Abs(path); err != nil {
			return nil, how, err
		}
	}
	return paths, how, nil
}

// profile is junvo profile.
func (j *Job) profile(ctx context.Context, args []string) error {
	if flagged := cli.WholeOnly(args); flagged != "" {
		return usage("--%s is not spread; `junvo profile` has it", flagged)
	}
	paths, how, err := j.sources(ctx, args)
	if err != nil {
		return err
	}
	parts, err := j.cut(ctx, paths, how, false)
	if err != nil {
		return err
	}
	flags, _ := cli.Parted(args)
	all, err := j.collect(ctx, flags, parts)
	if err != nil {
		return err
	}
	return j.asked(cli.RunSpread(ctx, args, cli.Spread{Have: all, Once: j.remote != nil}, j.Out, j.Err))
}

// converting is junvo convert.
func (j *Job) converting(ctx context.Context, args []string) error {
	if flagged := cli.WholeOnly(args); flagged != "" {
		return usage("--%s is not spread; `junvo convert` has it", flagged)
	}
	output, args := take(args, "output", "o")
	ending, args := take(args, "output-format")
	ledger, args := take(args, "ledger")
	plan, args := take(args, "plan")
	if ending == "" {
		ending = "csv"
	}
	// What is wrong with the command line, and which files it must not write, is told by the command, before anything is
	// read.
	try := with(args, "-o", filepath.Join(j.folder, "try."+ending))
	if plan != "" {
		try = with(try, "--plan", plan)
	}
	if ledger != "" {
		try = with(try, "--ledger", ledger)
	}
	paths, how, err := j.sources(ctx, try)
	if err != nil {
		return err
	}
	if plan != "" {
		if err := j.requireRowLocal(plan, plan); err != nil {
			return err
		}
	}
	parts, err := j.cut(ctx, paths, how, true)
	if err != nil {
		return err
	}
	drafted := plan == ""
	if drafted {
		if plan, args, err = j.draft(ctx, args, parts); err != nil {
			return err
		}
		if err := j.requireRowLocal(plan, "the plan that is drafted"); err != nil {
			return err
		}
	}
	if plan, err = filepath.Abs(plan); err != nil {
		return err
	}
	flags, _ := cli.Parted(args)
	folder, err := j.convert(ctx, append(flags, "--plan", plan), ending, parts)
	if err != nil {
		return err
	}
	if drafted {
		if err := move(plan, filepath.Join(folder, "plan.yaml")); err != nil {
			return err
		}
	}
	return j.finish(ctx, folder, output, ledger, formatOf(args), drafted)
}

// checkOutput sees that the output's folder can be made.
func checkOutput(output string) error {
	if output == "" {
		return usage("where to? Name a folder that is not there yet, as in `-o clean/`")
	}
	entries, err := os.ReadDir(output)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return nil
	case err != nil:
		return usage("-o names a folder for the parts of the output, and %s is none", output)
	case len(entries) > 0:
		return usage("there is something in the folder %s; name one that is empty, or not there yet", output)
	}
	return nil
}

// draft drafts a plan of all parts, and returns where it is, and the flags that are left for the conversion.
func (j *Job) draft(ctx context.Context, args []string, parts []Part) (plan string, left []string, err error) {
	plan = filepath.Join(j.folder, "plan.yaml")
	_, sources := cli.Parted(args)
	rest, own := cli.KnownTo("draft", args)
	drafting := append([]string{"draft", "--keep-names"}, rest...)
	all, err := j.collect(ctx, drafting, parts)
	if err != nil {
		return "", nil, err
	}
	exit := cli.RunSpread(ctx, append(drafting, sources[0], "-o", plan), cli.Spread{Have: all}, j.Out, j.Err)
	return plan, slices.Concat([]string{"convert"}, own, sources), j.asked(exit)
}

// requireRowLocal sees that rows can be converted by themselves; name is what the plan is called.
func (j *Job) requireRowLocal(plan, name string) error {
	p, exit := cli.LoadPlan(plan, j.Err)
	if exit != 0 {
		return code(exit)
	}
	if what := p.CrossRow(); what != "" {
		return usage("%s: %s needs rows of more than one part. Take it out of the plan and run it over the output "+
			"with `junvo convert`, or convert the whole table with that", name, what)
	}
	return nil
}

func countOf(parts int) string {
	if parts == 1 {
		return "1 part"
	}
	return fmt.Sprintf("%d parts", parts)
}

// finish joins the ledgers, makes the output appear, and says what is in it.
func (j *Job) finish(ctx context.Context, folder, output, ledger, format string, drafted bool) error {
	all, err := ledgers(folder)
	if err != nil {
		return err
	}
	var text bytes.Buffer
	if exit := cli.RunSpread(ctx, append([]string{"combine", "--format", "json"}, all...), cli.Spread{}, &text,
		j.Err); exit > exitFailures {
		return code(exit)
	}
	if err := os.WriteFile(filepath.Join(folder, "ledger.json"), text.Bytes(), 0o666); err != nil {
		return err
	}
	if ledger != "" {
		if err := writeWhole(ledger, text.Bytes()); err != nil {
			return err
		}
	}
	var printed bytes.Buffer
	exit := cli.RunSpread(ctx, append([]string{"combine", "--format", format}, all...), cli.Spread{}, &printed, j.Err)
	if info, err := os.Stat(output); err == nil && info.IsDir() {
		_ = os.Remove(output) // an empty one gives way
	}
	if err := os.Rename(folder, output); err != nil {
		return fmt.Errorf("the output can't appear: %w", err)
	}
	if format == "table" {
		fmt.Fprintf(&printed, "wrote: %s (%s, each with its failures, its rows set aside and its ledger; ledger.json", output, countOf(len(all)))
		if drafted {
			printed.WriteString("; plan.yaml, which was drafted")
		}
		printed.WriteString(")\n")
	}
	if _, err := printed.WriteTo(j.Out); err != nil {
		return err
	}
	return j.asked(exit)
}

// writeWhole writes a file of the user's, which appears whole.
func writeWhole(path string, text []byte) error {
	f, err := wholefile.Create(path)
	if err != nil {
		return err
	}
	defer f.Abort()
	_, err = f.Write(text)
	if err == nil {
		err = f.Finish()
	}
	if err == nil {
		err = f.Commit()
	}
	return err
}

// Split parts the arguments of a command from the flags that are Beam's own, which it sets.
func Split(args []string, beam *flag.FlagSet) (rest []string, err error) {
	for i := 0; i < len(args); i++ {
		if args[i] == "--" {
			return append(rest, args[i:]...), nil
		}
		name, value, with := strings.Cut(strings.TrimLeft(args[i], "-"), "=")
		f := beam.Lookup(name)
		if !strings.HasPrefix(args[i], "--") || f == nil {
			rest = append(rest, args[i])
			continue
		}
		if b, ok := f.Value.(interface{ IsBoolFlag() bool }); ok && b.IsBoolFlag() && !with {
			value, with = "true", true
		}
		if !with {
			if i++; i == len(args) {
				return nil, usage("--%s wants a value", name)
			}
			value = args[i]
		}
		if err := beam.Set(name, value); err != nil {
			return nil, usage("--%s: %v", name, err)
		}
	}
	return rest, nil
}
