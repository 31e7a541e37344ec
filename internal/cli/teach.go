package cli

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/wholefile"
	"junvo/internal/teach"
	"junvo/internal/value"
)

// teachFlags are what teach is shown, and asked to do.
type teachFlags struct {
	examples []string // TEXT => RESULT
	rows     []string // ROW => RESULT
	not      []string // texts for which there is no result
	file     string   // of examples
	from     []string // the columns, where there are several
	into     string
	plan     string
	preview  bool
	ask      bool
	wishes   columnFlags
}

func (a *app) teach() *cobra.Command {
	var t teachFlags
	cmd := &cobra.Command{
		Use:   "teach SOURCE... COLUMN --example 'TEXT => RESULT'",
		Short: "Find the rule behind one or two results, and where it is unsure",
		Long: `Teach is shown what is to come out of a few cells, and looks for rules that give it: steps
as a plan has them, joins of pieces and of several columns, numbers and dates written another
way. It runs the leading rules over the whole column and shows where they disagree: those
are the cells to look at before anything is written. On a terminal it asks which is right and
goes on with the answer; elsewhere it prints the questions.

An example is the text of a cell and the result after =>, nothing where there is none; --row
has the number of a row in place of the text. The exit code is 0 when there is one answer for
the whole column, 1 while questions are open, and 2 when no rule fits. With --into the rule
is written to the plan then, which is drafted where there is none, with its examples:
junvo check tells when they no longer come out. The column has the type that its results
show, or the one that --as says under its name. Cells that get a result unlike those of the
examples (another shape, the cell as it stands, without the sign that it has) are asked about.`,
		Example: `  junvo teach landings.csv Remarks --example 'LOT 88 / crate 51 => 8851'
  junvo teach landings.csv Remarks --row '25 => 2550' --row '40 =>'
  junvo teach landings.csv Skipper --example 'Petersen, Anke => A. Petersen' --into skipper --plan intake.plan.yaml
  junvo teach crew.csv --from 'First,Last' --example 'Anke | Petersen => Petersen, Anke'
  junvo teach landings.csv Remarks --examples shown.csv --not 'none' --format json`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if !cmd.Flags().Changed("ask") {
				t.ask = a.asksPerson()
			}
			paths, column, err := t.arguments(cmd, args)
			if err != nil {
				return err
			}
			return a.runTeach(cmd.Context(), paths, column, &t)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringArrayVar(&t.examples, "example", nil, "a cell and its result, as in 'lot 88 / crate 51 => 8851' (repeatable)")
	f.StringArrayVar(&t.rows, "row", nil, "the number of a row and its result, as in '17 => 8851' (repeatable)")
	f.StringArrayVar(&t.not, "not", nil, "a `text` for which there is no result (repeatable)")
	f.StringVar(&t.file, "examples", "", "a CSV `file` of examples: the texts and, in its last column, the results, "+
		"below a line of headings")
	f.StringSliceVar(&t.from, "from", nil, "several columns to make the result of, as in 'First,Last'; texts of "+
		"examples are separated by ' | '")
	f.StringVar(&t.into, "into", "", "the `name` of the column that the plan gets, when there is one answer")
	f.StringVar(&t.plan, "plan", "", "the plan that says how the source is read, and gets the rule with --into; it is "+
		"drafted if it is not there")
	f.BoolVar(&t.preview, "preview", false, "show what the rule makes of the column, before and after")
	f.BoolVar(&t.ask, "ask", false, "ask which answer is right, on standard input (default: at a terminal)")
	into(cmd, groupJob)
	t.wishes.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

// asksPerson reports whether there is somebody to ask: a terminal to read and to write, and tables to look at.
func (a *app) asksPerson() bool {
	return terminalOf(a.in) != nil && terminalOf(a.err) != nil && a.format == string(show.Table)
}

// dialogue is what teach works on.
type dialogue struct {
	paths   []string
	columns []string   // of the source
	as      *plan.Plan // how it is read
	held    []byte     // the text of the plan, where it is there
	prof    *profile.Profile
	task    teach.Task
	open    bool // questions are left
}

// typeOf takes the type of the taught column out of those that are asked for; nil where there is none.
func (t *teachFlags) typeOf() (*value.Type, error) {
	for i, s := range t.wishes.as {
		name := s[:max(0, strings.LastIndexByte(s, '='))]
		if t.into == "" || name != t.into {
			continue
		}
		types, err := parseTypes([]string{s}, []string{name})
		if err != nil {
			return nil, err
		}
		t.wishes.as = slices.Delete(slices.Clone(t.wishes.as), i, i+1)
		asked := types[name]
		return &asked, nil
	}
	return nil, nil
}

func (a *app) runTeach(ctx context.Context, paths []string, named string, t *teachFlags) error {
	asked, err := t.typeOf()
	if err != nil {
		return err
	}
	var files wholefile.Files
	if t.into != "" {
		files.Writes(t.plan, "the plan")
	}
	files.Reads(t.file, "the examples")
	if err := errors.Join(sourcesOf(&files, paths), checkFiles(&files)); err != nil {
		return err
	}
	paths, kept, err := a.spooled(ctx, paths, t.plan)
	if err != nil {
		return err
	}
	defer kept()
	l, err := a.prepareLesson(ctx, paths, named, t)
	if err != nil {
		return err
	}
	l.task.Type = asked
	if err := a.readExamples(ctx, l, t); err != nil {
		return err
	}
	in := bufio.NewReader(a.in)
	for {
		found, err := a.learn(ctx, l)
		if err != nil {
			return err
		}
		page := a.taughtPage(l, t, found)
		if len(found.Questions) == 0 || !t.ask {
			l.open = len(found.Questions) > 0
			return a.endLesson(ctx, l, t, page)
		}
		if err := a.print(page.Text(show.Table, a.page())); err != nil {
			return err
		}
		more, err := a.askWhich(l, page, in)
		if err != nil || !more {
			l.open = true
			return errors.Join(err, errFailures)
		}
	}
}

// arguments takes the sources and the column apart: the column stands last, unless --from has the columns.
func (t *teachFlags) arguments(cmd *cobra.Command, args []string) (paths []string, column string, err error) {
	if err := someSource(cmd, args[:min(len(args), 1)]); err != nil {
		return nil, "", err
	}
	paths, column = args[:len(args)-1], args[len(args)-1]
	if len(t.from) > 0 {
		if _, err := os.Stat(column); err == nil || len(args) == 1 {
			paths, column = args, ""
		}
	}
	switch {
	case len(t.examples)+len(t.rows) == 0 && t.file == "":
		return nil, "", usage("show what is to come out of a cell, as in --example 'lot 88 / crate 51 => 8851'")
	case t.into != "" && t.plan == "":
		return nil, "", usage("--into writes to a plan: name it with --plan, as in --plan intake.plan.yaml")
	case t.into != "" && t.plan == "-":
		return nil, "", usage("--into writes to the plan, which needs a file")
	case t.ask && slices.Contains(args, "-"):
		return nil, "", usage("standard input is one thing: the source or the answers, not both")
	case len(paths) == 0:
		return nil, "", usage("which column? As in `junvo teach %s Remark --example 'lot 88 / crate 51 => 8851'`", args[0])
	}
	return paths, column, someSource(cmd, paths)
}

// prepareLesson reads the plan, or drafts one, and finds the columns.
func (a *app) prepareLesson(ctx context.Context, paths []string, named string, t *teachFlags) (*dialogue, error) {
	l := &dialogue{paths: paths}
	var err error
	if t.plan != "" {
		if _, err := os.Stat(t.plan); err == nil || t.plan == "-" {
			var typed []string
			if len(t.wishes.as) == 0 { // what was given is the type of the new column
				typed = []string{"as"}
			}
			if err := a.notWithPlan(typed...); err != nil {
				return nil, err
			}
			if l.as, l.held, err = a.loadPlan(t.plan); err != nil {
				return nil, err
			}
		}
	}
	if err := a.findColumns(l, named, t.from); err != nil {
		return nil, err
	}
	others := func(column string) bool { return !slices.Contains(l.columns, column) }
	if l.as != nil {
		l.prof, err = a.profileAs(ctx, paths, l.as, nil, others)
	} else {
		if t.wishes.shapes = true; t.into == "" { // nothing is drafted of the other columns
			t.wishes.skip = others
		}
		l.prof, err = a.profileOf(ctx, paths, &t.wishes)
		if err == nil && l.prof.Unsure { // which rows are data, only the other columns tell
			t.wishes.skip = nil
			l.prof, err = a.profileOf(ctx, paths, &t.wishes)
		}
	}
	if err != nil {
		return nil, err
	}
	if l.as == nil {
		bound, _, err := drafted(l.prof, &t.wishes, true)
		if err != nil {
			return nil, err
		}
		l.as = bound.Plan
	}
	for _, name := range l.columns {
		c := l.prof.Columns[slices.Index(l.prof.Info.Names, name)]
		if c.Private() {
			return nil, usage("the column %q is private: its values appear in no report", name)
		}
		l.task.Sources = append(l.task.Sources, teach.SourcesOf(name, c.Counts, c.Conclusion)...)
	}
	if t.into != "" && slices.ContainsFunc(l.as.Columns, func(c plan.Column) bool { return c.Name == t.into }) {
		return nil, usage("the plan has a column %q already; choose another name for --into", t.into)
	}
	return l, nil
}

// findColumns finds the columns that are named: those of --from, and the one that stands beside the sources, unless
// that is a name for what --from is made into.
func (a *app) findColumns(l *dialogue, named string, from []string) error {
	src, err := a.open(l.paths, l.as)
	if err != nil {
		return err
	}
	defer src.Close()
	names := src.Info().Names
	wanted := from
	if _, known := findName(named, names); named != "" && (known || len(from) == 0) {
		wanted = append([]string{named}, from...)
	}
	for _, want := range wanted {
		name, ok := findName(want, names)
		if !ok {
			return unknownColumn(want, names)
		}
		if !slices.Contains(l.columns, name) {
			l.columns = append(l.columns, name)
		}
	}
	return nil
}

// run hands the rows of the columns to a sink.
func (l *dialogue) run(a *app) func(context.Context, table.Sink) error {
	return func(ctx context.Context, sink table.Sink) error {
		p, err := teach.Collecting(l.task.Sources, l.as)
		if err != nil {
			return err
		}
		src, err := a.open(l.paths, l.as)
		if err != nil {
			return err
		}
		defer src.Close()
		bound, err := p.Bind(src.Info().Names)
		if err != nil {
			return err
		}
		report, end := a.progress("trying rules", src)
		defer end()
		_, err = convert.Run(ctx, src, bound, convert.Options{Workers: a.workers, Sink: sink, Progress: report})
		return readError(l.paths, err)
	}
}

// learn searches for rules. Where none fits, the error says why.
func (a *app) learn(ctx context.Context, l *dialogue) (*teach.Found, error) {
	if i, j, ok := l.task.Contradiction(); ok {
		x, y := &l.task.Examples[i], &l.task.Examples[j]
		return nil, usage("the examples contradict each other: of %s, both %s and %s are to come out", l.cells(x),
			quotedResult(x.Result), quotedResult(y.Result))
	}
	if !slices.ContainsFunc(l.task.Examples, func(e teach.Example) bool { return !e.None() }) {
		return nil, usage("no example has a result; show one that does, as in --example 'lot 88 / crate 51 => 8851'")
	}
	for i := range l.task.Examples {
		if e := &l.task.Examples[i]; !e.None() && strings.Join(e.Texts, "") == "" {
			return nil, usage("a cell that is blank can't give %q; the step fill gives blank cells a value", e.Result)
		}
	}
	found, err := l.task.Over(ctx, l.run(a))
	if err != nil || len(found.Rules) > 0 {
		return found, err
	}
	return nil, l.noRule()
}

func quotedResult(result string) string {
	if result == "" {
		return "nothing"
	}
	return fmt.Sprintf("%q", result)
}

// cells says what the cells of an example are.
func (l *dialogue) cells(e *teach.Example) string {
	var parts []string
	for i, s := range l.task.Sources {
		if s.Read == nil {
			parts = append(parts, fmt.Sprintf("%q", e.Texts[i]))
		}
	}
	return strings.Join(parts, " with ")
}

// noRule says that no rule fits, and the nearest one with what it misses.
func (l *dialogue) noRule() error {
	lines := manyErrors{"no rule was found that fits all examples; the search is bounded, to three steps for each part " +
		"among others"}
	rule, missed := l.task.Nearest()
	if rule == nil {
		lines[0] = "no rule was found that gives any of the results: nothing in the cells shows how they are made"
		for i := range l.task.Examples[:min(len(l.task.Examples), 5)] {
			if e := &l.task.Examples[i]; !e.None() {
				lines = append(lines, fmt.Sprintf("of %s the example %s", l.cells(e), quotedResult(e.Result)))
			}
		}
		return &exitError{exitUsage, &lines}
	}
	lines = append(lines, fmt.Sprintf("the nearest one gives %s; it fits %d of %d", rule.Say(l.task.Sources),
		len(l.task.Examples)-len(missed), len(l.task.Examples)))
	for _, i := range missed[:min(len(missed), 5)] {
		e := &l.task.Examples[i]
		out, _ := rule.Apply(e.Texts)
		lines = append(lines, fmt.Sprintf("of %s it gives %s, and the example %s", l.cells(e), quotedResult(out),
			quotedResult(e.Result)))
	}
	return &exitError{exitUsage, &lines}
}

// taughtPage returns what is shown of what was found. Whoever answers a question goes on from the command as it was
// typed.
func (a *app) taughtPage(l *dialogue, t *teachFlags, found *teach.Found) *show.Taught {
	name := t.into
	if name == "" {
		name = plan.UsableName(strings.Join(l.columns, " "))
	}
	p := &show.Taught{
		Found: found, Sources: l.task.Sources, Columns: l.columns, Examples: len(l.task.Examples),
		Name: name,
	}
	if !t.ask {
		p.Wording = show.CommandLine(append([]string{"junvo"}, a.args[max(0, slices.Index(a.args, "teach")):]...))
	}
	return p
}

// askWhich asks the most telling question, and adds the answer to the examples; more is false where there is none.
func (a *app) askWhich(l *dialogue, page *show.Taught, in *bufio.Reader) (more bool, err error) {
	q := page.Questions[0]
	answers := q.Answers()
	for {
		if _, err := io.WriteString(a.err, page.Ask(q)); err != nil {
			return false, err
		}
		line, err := in.ReadString('\n')
		text := strings.TrimRight(line, "\r\n")
		if text == "" || err != nil && line == "" {
			return false, nil
		}
		result, ok := "", true
		switch {
		case text == "-":
		case strings.HasPrefix(text, "="):
			result = strings.TrimSpace(text[1:])
		case len(text) == 1 && int(text[0]-'a') < len(answers):
			result = answers[text[0]-'a'].Result
		default:
			ok = false
		}
		if ok {
			l.task.Examples = append(l.task.Examples, teach.Example{Texts: q.Texts, Result: result})
			return true, nil
		}
		if _, err := io.WriteString(a.err, "that is none of them\n"); err != nil {
			return false, err
		}
	}
}
