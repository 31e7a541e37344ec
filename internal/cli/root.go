// Package cli has the commands: flags in, calls of the core, what to print. Each
// command has a file of its own.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log"
	"os"
	"os/signal"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"golang.org/x/term"

	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/input"
	"junvo/internal/table/postgres"
	"junvo/internal/table/wholefile"
)

// The exit codes.
const (
	exitDone        = 0
	exitFailures    = 1
	exitUsage       = 2
	exitSource      = 3
	exitOutput      = 4
	exitFault       = 70 // of the program itself, as in sysexits.h of BSD
	exitInterrupted = 130
)

// exitError ends the program with a code; the sentence is for standard error.
type exitError struct {
	code int
	err  error
}

func (e *exitError) Error() string { return e.err.Error() }
func (e *exitError) Unwrap() error { return e.err }

// manyErrors are several sentences, a line each.
type manyErrors []string

func (m *manyErrors) Error() string { return strings.Join(*m, "\n") }

func usage(format string, args ...any) error {
	return &exitError{exitUsage, fmt.Errorf(format, args...)}
}

// errFailures ends the program with exit code 1; what failed has been printed.
var errFailures = &exitError{exitFailures, errors.New("")}

// app is what all commands share.
type app struct {
	args     []string       // as they were typed
	flags    *pflag.FlagSet // of the command
	in       io.Reader
	out, err io.Writer
	color    string
	format   string
	workers  int
	source   input.Options
	noHeader bool
	heldPlan []byte // that on standard input
	spread   Spread
	wrong    error // what is wrong with the command line, where the library does not ask
}

// Main runs the program and returns its exit code.
func Main(args []string, in io.Reader, out, errOut io.Writer) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	// A closed pipe is an error of the write, not the end of the program.
	signal.Ignore(syscall.SIGPIPE)
	log.SetOutput(io.Discard) // what libraries warn of damaged files is told in errors
	a := &app{format: "table", in: in, out: &errTrackingWriter{w: out}, err: errOut}
	ended := make(chan struct{})
	defer close(ended)
	go forceExitAfter(ctx, ended, errOut)
	return a.run(ctx, args)
}

// patience is how long an interrupted command may take to end by itself. It may wait for input that
// never comes, or for a library that does not listen.
const patience = 400 * time.Millisecond

// forceExitAfter ends the program when an interrupt has come and the command has not ended in time.
// Nothing of what has been begun is left; outputs that are appearing appear first.
func forceExitAfter(ctx context.Context, ended <-chan struct{}, errOut io.Writer) {
	<-ctx.Done()
	select {
	case <-ended:
		return
	case <-time.After(patience):
	}
	say := "nothing was written"
	if wholefile.RemoveAll() { // what is left to do is to say so
		select {
		case <-ended:
			return
		case <-time.After(patience):
		}
		say = "the output may have been written"
	}
	fmt.Fprintln(errOut, "junvo: interrupted; "+say)
	os.Exit(exitInterrupted)
}

// errTrackingWriter is standard output. It keeps the first error of writing, which who prints help does not.
type errTrackingWriter struct {
	w   io.Writer
	err error
}

func (w *errTrackingWriter) Write(p []byte) (int, error) {
	n, err := w.w.Write(p)
	if err != nil && w.err == nil {
		w.err = err
	}
	return n, err
}

func (a *app) run(ctx context.Context, args []string) int {
	a.args = args
	root := a.root()
	root.SetArgs(args)
	root.SetIn(a.in)
	root.SetOut(a.out)
	root.SetErr(a.err)
	err := a.execute(ctx, root)
	if w, ok := a.out.(*errTrackingWriter); ok && w.err != nil && (err == nil || errors.Is(err, w.err)) {
		err = &exitError{exitOutput, fmt.Errorf("can't write to standard output: %w", w.err)}
	}
	code := exitCode(ctx, err)
	var fault *table.FaultError
	switch {
	case errors.As(err, &fault):
		a.reportFault(fault, args)
	case code == exitInterrupted:
		fmt.Fprintln(a.err, "junvo: interrupted; nothing was written")
	case code != exitDone && err.Error() != "":
		var many *manyErrors
		if !errors.As(err, &many) {
			many = &manyErrors{err.Error()}
		}
		for _, line := range *many {
			fmt.Fprintln(a.err, "junvo: "+show.Visible(line))
		}
	}
	return code
}

// execute runs the command. A panic is an error, so that what has been begun is cleaned up.
func (a *app) execute(ctx context.Context, root *cobra.Command) (err error) {
	defer func() {
		if fault := recover(); fault != nil {
			err = &table.FaultError{Fault: fault, Stack: debug.Stack()}
		}
	}()
	// Before anything that might print what was typed, or keep it in a plan.
	if slices.ContainsFunc(a.args, postgres.TellsPassword) {
		return usage("%w", postgres.ErrPassword)
	}
	if err := root.ExecuteContext(ctx); err != nil {
		return err
	}
	return a.wrong
}

// reportFault says what to send to whom after a fault of the program.
func (a *app) reportFault(fault *table.FaultError, args []string) {
	fmt.Fprintln(a.err, "junvo: "+show.Visible(fmt.Sprintf("this is a fault of junvo, not of the file: %v", fault.Fault)))
	fmt.Fprintln(a.err, "junvo: nothing was written. Please send the lines below to whoever gave you junvo, with the "+
		"rows of the file where it happens if you may")
	fmt.Fprintln(a.err, "junvo: version "+version()+", command "+show.Visible(fmt.Sprintf("%q", args)))
	for _, line := range faultPlaces(fault.Stack) {
		fmt.Fprintln(a.err, "junvo:   at "+show.Visible(line))
	}
}

// faultPlaces returns the first places of the program's own code in a stack.
func faultPlaces(stack []byte) (places []string) {
	for line := range strings.Lines(string(stack)) {
		name, _, call := strings.Cut(strings.TrimSpace(line), "(")
		if call && strings.HasPrefix(name, "junvo/internal/") && !strings.Contains(name, "cli.(*app)") && len(places) < 8 {
			places = append(places, name)
		}
	}
	return places
}

func exitCode(ctx context.Context, err error) int {
	var e *exitError
	var in *input.Error
	var option *delim.OptionError
	var fault *table.FaultError
	switch {
	case errors.As(err, &fault):
		return exitFault
	case err == nil:
		return exitDone
	case errors.Is(err, errFailures):
		return exitFailures // all is done, whatever has come since
	case errors.Is(err, syscall.EPIPE):
		return exitDone // whoever read the output has seen enough
	case ctx.Err() != nil:
		return exitInterrupted
	case errors.As(err, &e):
		return e.code
	case errors.As(err, &option):
		return exitUsage
	case errors.As(err, &in):
		return exitSource
	}
	return exitUsage
}

func (a *app) root() *cobra.Command {
	root := &cobra.Command{
		Use:   "junvo",
		Short: "Find out what the columns of a table really hold, and put each into its proper type",
		Long: `Junvo reads a table whose numbers, dates and blanks are stored as text. It shows
what every column holds, converts each column to its proper type, and accounts
for every cell that would not go.`,
		Example: `  junvo demo                            the whole job on an example
  junvo profile landings.csv            what is in these columns?
  junvo convert landings.csv -o clean.csv
  junvo help tasks                      what people do, in a line each`,
		Version:           version(),
		SilenceErrors:     true,
		SilenceUsage:      true,
		CompletionOptions: cobra.CompletionOptions{HiddenDefaultCmd: true},
		Args:              cobra.ArbitraryArgs,
		// A command one or two letters off is suggested.
		SuggestionsMinimumDistance: 2,
		PersistentPreRunE: func(cmd *cobra.Command, _ []string) error {
			a.flags = cmd.Flags()
			return a.check()
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				return unknownCommand(cmd, args[0])
			}
			return cmd.Help()
		},
	}
	help := root.HelpFunc()
	root.SetHelpFunc(func(cmd *cobra.Command, args []string) {
		// junvo NOSUCH --help is no question about all commands.
		if names := cmd.Flags().Args(); cmd == root && len(names) > 0 && names[0] != "help" {
			a.wrong = unknownCommand(cmd, names[0])
			return
		}
		help(cmd, args)
	})
	root.SetVersionTemplate("junvo {{.Version}}\n")
	root.SetFlagErrorFunc(wrongFlag)
	f := root.PersistentFlags()
	f.StringVar(&a.color, "color", "auto", "colours: auto, always or never")
	f.IntVar(&a.workers, "workers", runtime.GOMAXPROCS(0), "blocks worked on at the same time; never changes the result")
	cobra.EnableCommandSorting = false // the order is that of the job
	root.AddCommand(a.demo(), a.profile(), a.why(), a.draft(), a.preview(), a.teach(), a.convert(), a.checkCommand(), a.totals(),
		a.reportCommand())
	for _, more := range []*cobra.Command{a.combine(), a.man()} {
		more.Annotations = map[string]string{moreKey: "true"}
		root.AddCommand(more)
	}
	root.AddCommand(a.topics()...)
	root.SetHelpCommand(a.help(root))
	root.SetUsageFunc(a.usageText)
	a.completions(root)
	finish(root, len(a.args) > 0 && strings.HasPrefix(a.args[0], cobra.ShellCompRequestCmd))
	return root
}

func unknownCommand(cmd *cobra.Command, name string) error {
	near := ""
	if s := cmd.SuggestionsFor(name); len(s) > 0 {
		near = fmt.Sprintf(" Did you mean %q?", s[0])
	}
	return usage("there is no command %q.%s `junvo --help` lists them", name, near)
}

// Commands returns all commands, for manual pages and completions.
func Commands() *cobra.Command {
	root := (&app{format: "table"}).root()
	root.InitDefaultHelpCmd()
	return root
}

// released is the version of what people install; those who build it set it.
var released string

// version comes from the build information of the module.
func version() string {
	if released != "" {
		return released
	}
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "unknown"
	}
	v := info.Main.Version
	if v == "" || v == "(devel)" {
		v = "development"
	}
	for _, s := range info.Settings {
		if s.Key == "vcs.revision" && !strings.Contains(v, s.Value[:12]) {
			v += " " + s.Value[:12]
		}
	}
	return v
}

// sourceFlags are the flags of all commands that read a source.
func (a *app) sourceFlags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVar(&a.source.Encoding, "encoding", "", "encoding of the source, such as utf-8 or windows-1252 (default: "+
		"detected)")
	f.StringVar(&a.source.Delimiter, "delimiter", "", "character between cells, or the word tab or spaces (default: detected)")
	f.StringVar(&a.source.Quote, "quote", "", "quote around cells, or the word none (default \")")
	f.StringVar(&a.source.Escape, "escape", "", "how a quote stands inside quotes: double or backslash (default: "+
		"detected)")
	f.StringVar(&a.source.Comment, "comment", "", "what lines begin with that are comments, such as #: they are set "+
		"aside (default: none)")
	f.IntVar(&a.source.HeaderRow, "header-row", 0, "line of the column names (default: detected)")
	f.BoolVar(&a.noHeader, "no-header", false, "the source has no column names: call them column 1, column 2, …")
	f.StringVar(&a.source.Format, "source-format", "", "format of the source: "+strings.Join(input.Formats,
		", ")+" (default: by its content)")
	f.IntSliceVar(&a.source.Widths, "widths", nil, "widths of the columns in characters, as in 6,20,10, where the "+
		"source has columns of fixed width")
	f.Func("query", "`query` in SQL, in place of a table of a database", func(text string) error {
		if a.source.Query = text; strings.TrimSpace(text) == "" {
			return errors.New("it is empty; say what to ask, as in \"SELECT * FROM landings\"")
		}
		return nil
	})
	into(cmd, groupSource)
}

func (a *app) formatFlag(cmd *cobra.Command) {
	formats := make([]string, len(show.Formats))
	for i, s := range show.Formats {
		formats[i] = string(s)
	}
	cmd.Flags().StringVar(&a.format, "format", "table", "how to print: "+strings.Join(formats, ", "))
	into(cmd, groupLists)
}

// check looks at the flags that all commands share.
func (a *app) check() error {
	known := false
	for _, f := range show.Formats {
		known = known || string(f) == a.format
	}
	switch {
	case !known:
		return usage("there is no format %q; there are table, json, csv and markdown", a.format)
	case a.color != "auto" && a.color != "always" && a.color != "never":
		return usage("--color is auto, always or never, not %q", a.color)
	case a.workers < 1:
		return usage("--workers must be at least 1")
	case a.source.HeaderRow < 0:
		return usage("--header-row is the number of a line, from 1")
	case a.source.Format != "" && !slices.Contains(input.Formats, a.source.Format):
		return usage("--source-format is %s, not %q", table.Some(input.Formats), a.source.Format)
	case slices.ContainsFunc(a.source.Widths, func(w int) bool { return w < 1 }):
		return usage("--widths are numbers of characters, from 1")
	case a.source.Widths != nil && (a.source.Delimiter != "" || a.source.Quote != "" || a.source.Escape != ""):
		return usage("--widths goes with none of --delimiter, --quote and --escape")
	case a.noHeader && a.source.HeaderRow > 0:
		return usage("--header-row and --no-header exclude each other")
	}
	if a.noHeader {
		a.source.HeaderRow = -1
	}
	return nil
}

// terminalOf returns the terminal that something is read from or written to; nil where it is none.
func terminalOf(stream any) *os.File {
	f, ok := stream.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		return nil
	}
	return f
}

// page is the terminal that the output goes to. What goes to a file or a pipe is
// laid out for defaultWidth.
func (a *app) page() show.Page {
	p := show.Page{Width: defaultWidth, Colour: a.color == "always"}
	out := a.out
	if w, ok := out.(*errTrackingWriter); ok {
		out = w.w
	}
	f := terminalOf(out)
	if f == nil {
		return p
	}
	if w, _, err := term.GetSize(int(f.Fd())); err == nil && w > 0 {
		p.Width = w
	}
	if a.color == "auto" {
		p.Colour = os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
	}
	return p
}

const defaultWidth = 120

// printVerdict prints what a command has found, which its exit code tells, too: where nobody reads
// on, that is what is left.
func printVerdict(to io.Writer, s string, failed bool) error {
	err := printTo(to, s)
	if failed && (err == nil || errors.Is(err, syscall.EPIPE)) {
		return errFailures
	}
	return err
}

// print writes to standard output.
func (a *app) print(s string) error { return printTo(a.out, s) }

func printTo(to io.Writer, s string) error {
	if _, err := io.WriteString(to, s); err != nil {
		return &exitError{exitOutput, fmt.Errorf("can't write to standard output: %w", err)}
	}
	return nil
}
