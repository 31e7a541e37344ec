package cli

import (
	"context"
	"errors"
	"slices"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/show"
	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/value"
)

// question is what why is asked.
type question struct {
	row, line int64
	column    string
	from      string // the column of the file, where columns have become rows
	value     string
	steps     []string // that the value takes
	plan      string
	reveal    bool
}

func (a *app) why() *cobra.Command {
	var q question
	var w columnFlags
	cmd := &cobra.Command{
		Use:   "why SOURCE --row N --column NAME",
		Short: "Say why a cell reads as it does, down to its characters",
		Long: `Why looks at one cell: its characters, all that it can be read as and the convention
that each reading needs, what the column decided and on what evidence, and the value
that comes out or the reason why none does. With --plan it shows what the plan makes
of the cell, step by step, and what that can be read as; of a column that is joined or
computed, what it was made of; and what else decides: the row that filled a cell, the
column of the file where columns have become rows, the condition that leaves a row out.
With --value no source is needed.`,
		Example: `  junvo why landings.csv --row 17 --column "Net weight"
  junvo why landings.csv --line 20 --column "Landed on" --format json
  junvo why landings.csv --row 17 --column "Net weight" --plan intake.plan.yaml
  junvo why --value "1.240,5 kg" --as decimal
  junvo why --value "03/04/2021" --as date --date-order dmy
  junvo why --value "lot 88 / crate 51" --step 'take: {digits: -1}'`,
		RunE: func(cmd *cobra.Command, args []string) error {
			var answer *show.Answer
			var err error
			if q.plan != "" {
				if err := a.notWithPlan(); err != nil {
					return err
				}
			}
			switch asked := cmd.Flags().Changed("value"); {
			case len(q.steps) > 0 && (!asked || q.plan != ""):
				return usage("--step goes with --value and without a plan; `junvo preview --steps` shows the steps of cells")
			case asked && q.plan != "":
				answer, err = a.whyPlanned(args, &q)
			case asked:
				answer, err = whyValue(args, &q, &w)
			default:
				answer, err = a.whyCell(cmd.Context(), args, &q, &w)
			}
			if err != nil {
				return err
			}
			return a.printAnswer(answer)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.Int64Var(&q.row, "row", 0, "row of the cell: a record below the header, counted from 1")
	f.Int64Var(&q.line, "line", 0, "line of the file in which the cell's row starts, in place of --row")
	f.StringVar(&q.column, "column", "", "column of the cell")
	f.StringVar(&q.value, "value", "", "a text to look at, in place of a cell of a source")
	f.StringArrayVar(&q.steps, "step", nil, "with --value: a step that the text takes first, as in 'keep: digits' "+
		"(repeatable, in order)")
	f.StringVar(&q.plan, "plan", "", "the plan whose steps to follow; --column may be a column of its output")
	f.BoolVar(&q.reveal, "reveal", false, "show the texts of private columns, too")
	into(cmd, groupJob)
	w.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

// whyValue answers for a text by itself.
func whyValue(args []string, q *question, w *columnFlags) (*show.Answer, error) {
	if len(args) > 0 || q.row > 0 || q.line > 0 || q.column != "" {
		return nil, usage("--value takes the place of a source, --row, --line and --column")
	}
	var chain step.Chain
	for _, s := range q.steps {
		steps, err := plan.ParseSteps(s)
		if err != nil {
			return nil, usage("--step %q: %w", s, err)
		}
		chain = append(chain, steps...)
	}
	text, _, _ := chain.Apply(q.value)
	answer := &show.Answer{Value: q.value}
	r := reading.NewReader(w.blankWords)
	x := r.Read([]byte(text))
	if q.value == "" {
		answer.Blank = value.Empty.String()
	}
	ask, err := w.askValue()
	if err != nil {
		return nil, err
	}
	count := reading.Count{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1}
	counts := []reading.Count{count}
	conclusion := reading.Conclude(counts, ask)
	if len(chain) > 0 {
		c := &plan.Column{Steps: chain, Convention: conclusion.Convention}
		traced := convert.Trace(c, w.blankWords, q.value, value.StoredText)
		answer.Trace(r, value.StoredText, c, &traced)
		answer.Decided = decided(conclusion, counts)
		return answer, nil
	}
	answer.Decided = decided(conclusion, counts)
	answer.Explain(r, value.StoredText, &conclusion.Convention)
	return answer, nil
}

// whyPlanned answers for a text by itself in a column of a plan.
func (a *app) whyPlanned(args []string, q *question) (*show.Answer, error) {
	if len(args) > 0 || q.row > 0 || q.line > 0 {
		return nil, usage("--value takes the place of a source, --row and --line")
	}
	if q.column == "" {
		return nil, usage("name the column of the plan with --column")
	}
	p, _, err := a.loadPlan(q.plan)
	if err != nil {
		return nil, err
	}
	c, err := columnOf(p, q.column)
	if err != nil {
		return nil, err
	}
	answer := &show.Answer{Value: q.value}
	if q.value == "" {
		answer.Blank = value.Empty.String()
	}
	traced := convert.Trace(c, p.BlankWords, q.value, value.StoredText)
	answer.Trace(reading.NewReader(p.BlankWords), value.StoredText, c, &traced)
	return answer, nil
}

// turned takes the column of the file that a cell stands in for that of the plan, where columns have become rows.
func (q *question) turned(p *plan.Plan) error {
	name, is := findName(q.column, p.Turn)
	switch {
	case is:
		q.from, q.column = name, p.TurnInto[1]
	case p.Turn != nil && q.column == p.TurnInto[1]:
		return usage("the row has a cell of %s for each of the columns %s: name one of them with --column", q.column, table.Some(p.Turn))
	}
	return nil
}

// columnOf finds a column of a plan by its name, or by the name of the column that it
// is made of.
func columnOf(p *plan.Plan, name string) (*plan.Column, error) {
	names := make([]string, len(p.Columns))
	for i, c := range p.Columns {
		names[i] = c.Name
	}
	if found, ok := findName(name, names); ok {
		return &p.Columns[slices.Index(names, found)], nil
	}
	for i := range p.Columns {
		if p.Columns[i].Source == name {
			return &p.Columns[i], nil
		}
	}
	return nil, unknownColumn(name, names)
}

// askValue reads the wishes where there is one text: --as has no column.
func (w *columnFlags) askValue() (reading.Ask, error) {
	as := w.as
	w.as = nil
	asker, err := w.asker(&derived{}, nil)
	if err != nil {
		return reading.Ask{}, err
	}
	ask := asker("")
	for _, name := range as {
		t, ok := value.ParseType(name)
		if !ok {
			return ask, usage("with --value, --as takes a type: %s; not %q", table.Some(value.TypeNames()), name)
		}
		ask.Type = &t
	}
	return ask, nil
}

// whyCell answers for a cell of a source. It reads the source up to the cell, then
// twice as a whole: for what the column decides, and for the cells alike.
func (a *app) whyCell(ctx context.Context, paths []string, q *question, w *columnFlags) (*show.Answer, error) {
	switch {
	case len(paths) == 0:
		return nil, usage("which cell? Name a source, --row and --column; or a text with --value")
	case slices.Contains(paths, "-"):
		return nil, usage("why reads the source several times, so it can't be standard input; keep it in a file first")
	case (q.row > 0) == (q.line > 0) || q.row < 0 || q.line < 0:
		return nil, usage("name the cell's --row or its --line, a number from 1")
	case q.column == "":
		return nil, usage("name the cell's --column")
	}
	var p *plan.Plan
	var made *plan.Column
	if q.plan != "" {
		r, err := a.load(paths, q.plan)
		if err != nil {
			return nil, err
		}
		p = r.plan.Plan
		if err := q.turned(p); err != nil {
			return nil, err
		}
		if made, err = columnOf(p, q.column); err != nil {
			return nil, err
		}
		if made.Made() {
			return a.whyMade(ctx, paths, q, p, made)
		}
		q.column, w.blankWords = made.Source, p.BlankWords
	}
	cell, column, err := a.find(paths, q, p)
	if err != nil {
		return nil, err
	}
	answer := answerFor(cell, q.column)
	answer.Cell = cell.Address
	if made == nil {
		open := *w
		open.private = nil // the answer is hidden when it is complete
		prof, err := a.profileOf(ctx, paths, &open)
		if err != nil {
			return nil, err
		}
		c := prof.Columns[column]
		answer.Column = c.Name
		answer.Decided = decided(c.Conclusion, c.Counts)
		answer.Explain(reading.NewReader(w.blankWords), cell.Stored, &c.Conclusion.Convention)
	} else {
		traced := convert.Trace(made, w.blankWords, cell.Text, cell.Stored)
		answer.Trace(reading.NewReader(w.blankWords), cell.Stored, made, &traced)
		answer.Turned = q.from
		looked, one, err := a.look(ctx, paths, q, p, made)
		if err != nil {
			return nil, err
		}
		answer.Look(made, looked, one)
	}
	src, err := a.open(paths, p)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	hidden, err := q.hides(w, p, column, src.Info().Names)
	if err != nil {
		return nil, err
	}
	if hidden {
		answer.Hide()
	}
	if err := readError(paths, cell.CountAlike(ctx, src, column, a.workers)); err != nil {
		return nil, err
	}
	return answer, nil
}

// look converts the source up to the row, and returns what becomes of it and of a column's cell.
func (a *app) look(ctx context.Context, paths []string, q *question, p *plan.Plan, c *plan.Column) (*convert.Looked,
	*convert.LookedCell, error,
) {
	src, err := a.open(paths, p)
	if err != nil {
		return nil, nil, err
	}
	defer src.Close()
	bound, err := p.Bind(src.Info().Names)
	if err != nil {
		return nil, nil, usage("%w", err)
	}
	repeats, err := a.repeats(ctx, paths, bound, nil, "", 0, 0, nil)
	if err != nil {
		return nil, nil, err
	}
	looked, err := convert.Look(ctx, src, bound, repeats, convert.Place{Row: q.row, From: q.from}, q.line)
	if errors.Is(err, convert.ErrNoRow) {
		return nil, nil, usage("there is no row %d; the source has fewer", q.row)
	}
	if err != nil {
		return nil, nil, readError(paths, err)
	}
	i := slices.IndexFunc(p.Columns, func(o plan.Column) bool { return o.Name == c.Name })
	return looked, &looked.Cells[i], nil
}

// whyMade answers for a cell of a column that the plan makes of others.
func (a *app) whyMade(
	ctx context.Context, paths []string, q *question, p *plan.Plan, c *plan.Column,
) (*show.Answer, error) {
	looked, cell, err := a.look(ctx, paths, q, p, c)
	if err != nil {
		return nil, err
	}
	answer := &show.Answer{File: paths[0], Row: looked.Row, Line: looked.Line, Column: c.Name, Value: cell.From}
	answer.Describe(reading.NewReader(p.BlankWords), value.StoredText)
	answer.Make(c)
	answer.Look(c, looked, cell)
	if c.Hidden() && !q.reveal {
		answer.Hide()
	}
	return answer, nil
}

// hides reports whether the cell's column is private.
func (q *question) hides(w *columnFlags, p *plan.Plan, column int, names []string) (bool, error) {
	if p != nil {
		return p.Hides(names[column]) && !q.reveal, nil
	}
	d, err := w.edits.derive(names)
	if err != nil {
		return false, err
	}
	private, err := w.hides(d, names)
	return err == nil && private(names[column]) && !q.reveal, err
}

func (a *app) find(paths []string, q *question, p *plan.Plan) (*profile.Cell, int, error) {
	src, err := a.open(paths, p)
	if err != nil {
		return nil, 0, err
	}
	defer src.Close()
	names := src.Info().Names
	name, ok := findName(q.column, names)
	if !ok {
		return nil, 0, unknownColumn(q.column, names)
	}
	column := slices.Index(names, name)
	cell, err := profile.Find(src, profile.Address{Row: q.row, Line: q.line, Column: column, From: q.from})
	var none *profile.NoCellError
	if errors.As(err, &none) {
		return nil, 0, usage("%s", none.Error())
	}
	return cell, column, readError(paths, err)
}

// answerFor begins the answer for a cell.
func answerFor(cell *profile.Cell, column string) *show.Answer {
	answer := &show.Answer{
		File: cell.Where.File, Row: cell.Where.Row, Line: cell.Where.Line, Column: column, Value: cell.Text,
		SameText: &cell.Alike.Raw, SameShape: &cell.Alike.Shape,
	}
	switch {
	case cell.Span.N&table.Missing != 0:
		answer.Blank = value.Missing.String()
	case cell.Text == "" && cell.Span.N&table.Quoted != 0:
		answer.Blank = value.QuotedEmpty.String()
	case cell.Stored == value.StoredNull:
		answer.Blank = value.Null.String()
	case cell.Text == "":
		answer.Blank = value.Empty.String()
	}
	if cell.Kind != rowkind.Data {
		answer.Aside = cell.Kind.String()
	}
	return answer
}

func decided(c *reading.Conclusion, counts []reading.Count) *show.Decided {
	d := &show.Decided{
		Type: c.Convention.Type.String(), Convention: c.Convention.Say(counts), Why: c.Why,
		Evidence: c.Evidence,
	}
	if d.Evidence == nil {
		d.Evidence = []reading.Evidence{}
	}
	return d
}

func (a *app) printAnswer(answer *show.Answer) error {
	if show.Format(a.format) == show.JSON {
		doc, err := show.AnswerJSON(answer)
		if err != nil {
			return err
		}
		return a.print(string(doc))
	}
	return a.print(show.AnswerText(answer, show.Format(a.format), a.page()))
}
