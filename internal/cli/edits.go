package cli

import (
	"encoding/csv"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"junvo/internal/expression"
	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/table/input"
	"junvo/internal/turn"
	"junvo/internal/value"
)

// edits are the changes to a drafted plan that a person makes on the command line, to try them in one line. What is
// drafted has them in it, so that the plan that is written does the same again.
type edits struct {
	turn     string    // COLUMN,COLUMN,… => NAMES,CELLS
	turned   turn.Turn // the same, when the source has been seen
	list     []edit    // in the order in which they were given
	keepIf   string
	dropIf   string
	only     []string
	leaveOut []string
	orderBy  []string
	heading  string   // the column that section headings become
	derived  *derived // what steps and splits make of the source, when that has been seen
}

// edit is a change of those whose order counts: what makes a column, or changes one that is there by then.
type edit struct{ flag, text string }

// The flags of edits.
const (
	stepFlag    = "step"
	splitFlag   = "split"
	joinFlag    = "join"
	computeFlag = "compute"
	renameFlag  = "rename"
)

// editValue is the value of a flag of edits. It takes several, which stand in one order with those of the others.
type editValue struct {
	list *[]edit
	flag string
}

func (v editValue) Set(text string) error { return v.Append(text) }
func (editValue) Type() string            { return "TEXT" }
func (editValue) String() string          { return "" }

// Append implements [pflag.SliceValue], as do the two others.
func (v editValue) Append(text string) error {
	*v.list = append(*v.list, edit{v.flag, text})
	return nil
}

func (v editValue) Replace(texts []string) error {
	*v.list = slices.DeleteFunc(*v.list, func(e edit) bool { return e.flag == v.flag })
	for _, text := range texts {
		_ = v.Append(text)
	}
	return nil
}

func (v editValue) GetSlice() (texts []string) {
	for _, e := range *v.list {
		if e.flag == v.flag {
			texts = append(texts, e.text)
		}
	}
	return texts
}

func (e *edits) flag(f *pflag.FlagSet, name, use string) { f.Var(editValue{&e.list, name}, name, use) }

// stepFlags are the edits that change what the cells of a source are.
func (e *edits) stepFlags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&e.turn, "turn", "",
		"make rows of `columns`, as in 'Jan,Feb,Mar => month,amount': one row for each, with its name and its cell")
	e.flag(cmd.Flags(), stepFlag, "take a column's cells through a step first, as in 'Remark: keep: digits', or make a column of "+
		"them, as in 'lot from Remark: keep: digits' (repeatable, in order)")
	e.flag(cmd.Flags(), splitFlag, "make columns of the pieces of a column's cells, as in 'Keeper: {at: \" \"} => first, last' (repeatable)")
	into(cmd, groupEdits)
	wholeOnly(cmd, "turn")
}

// rowFlags are the edits that say which rows and columns there are.
func (e *edits) rowFlags(cmd *cobra.Command) {
	e.stepFlags(cmd)
	f := cmd.Flags()
	e.flag(f, computeFlag, "add a column, as in 'value = round(net_weight * price, 2)' (repeatable); names as in the output or usable ones")
	e.flag(f, joinFlag, "add a column of the values of others, as in 'address = \", \": street, place' (repeatable); blank ones are skipped")
	conditionVar(f, &e.keepIf, "keep-if", false, "keep only rows for which an `expression` is true, as in 'net_weight > 40' (repeatable)")
	conditionVar(f, &e.dropIf, "drop-if", true, "leave out rows for which an `expression` is true (repeatable)")
	f.StringVar(&e.heading, "section-heading-into", "", "add a `column` that has the section heading above each row")
	into(cmd, groupEdits)
}

func (e *edits) flags(cmd *cobra.Command) {
	e.rowFlags(cmd)
	f := cmd.Flags()
	f.StringSliceVar(&e.only, "only", nil, "the columns of the output, in order (default: all)")
	f.StringSliceVar(&e.leaveOut, "leave-out", nil, "columns that are not written")
	e.flag(f, renameFlag, "give a column another name, as in 'Net weight=kg' (repeatable)")
	f.StringSliceVar(&e.orderBy, "order-by", nil, "columns to order the rows by; a minus before one for descending")
	into(cmd, groupEdits)
	wholeOnly(cmd, "order-by")
}

// any reports whether there is an edit.
func (e *edits) any() bool {
	return e.turn != "" || len(e.list)+len(e.only)+len(e.leaveOut)+len(e.orderBy) > 0 || e.keepIf != "" || e.dropIf != "" ||
		e.heading != ""
}

// turnedSource returns a source whose columns have become rows, as they are asked for.
// aside says which kinds of rows of the file are no data.
func (e *edits) turnedSource(src *input.Source, blankWords []string, aside *[rowkind.NumKinds]bool) (*input.Source, error) {
	columns, into, err := e.turns(src.Info().Names)
	if err != nil || columns == nil {
		return src, err
	}
	e.turned = turn.Turn{Columns: columns, Into: into, BlankWords: blankWords, Aside: *aside}
	return turned(src, e.turned)
}

// turns reads which columns become rows, and of which names the two columns are that they become.
func (e *edits) turns(names []string) (columns []string, into [2]string, err error) {
	if e.turn == "" {
		return nil, into, nil
	}
	list, to, ok := strings.Cut(e.turn, "=>")
	targets, _ := csv.NewReader(strings.NewReader(to)).Read()
	wanted, _ := csv.NewReader(strings.NewReader(list)).Read()
	for i := range targets {
		targets[i] = strings.TrimSpace(targets[i])
	}
	if !ok || len(wanted) == 0 || len(targets) != 2 || targets[0] == "" || targets[1] == "" || targets[0] == targets[1] {
		return nil, into, usage("--turn takes COLUMNS => NAMES,CELLS, as in 'Jan,Feb,Mar => month,amount', not %q", e.turn)
	}
	for _, want := range wanted {
		found := among(strings.TrimSpace(want), names)
		if found == nil {
			return nil, into, unknownColumn(strings.TrimSpace(want), names)
		}
		for _, name := range found {
			if !slices.Contains(columns, name) {
				columns = append(columns, name)
			}
		}
	}
	return columns, [2]string(targets), nil
}

// stepped returns a source whose cells have gone through the steps, with the columns that these make.
func (e *edits) stepped(src table.Source) (table.Source, error) {
	d, err := e.derive(src.Info().Names)
	if e.derived = d; err != nil || d.none() {
		return src, err
	}
	return step.NewSource(src, d.chains, d.sourceMade()), nil
}

// apply changes a drafted plan of a source with columns of these names, those that steps have made behind the others; the type
// of a column that was asked for stays.
func (e *edits) apply(p *plan.Plan, names []string, flags *columnFlags, asked func(column int) bool) error {
	p.Turn, p.TurnInto = e.turned.Columns, e.turned.Into
	d := e.derived
	if d == nil {
		var err error
		if d, err = e.derive(names); err != nil {
			return err
		}
	}
	types, err := parseTypes(flags.as, d.called())
	if err != nil {
		return err
	}
	d.ofPlan(p, names, asked)
	if e.heading != "" {
		if err := freeName(p, e.heading); err != nil {
			return usage("--section-heading-into: %w", err)
		}
		p.HeadingInto = e.heading
		p.Columns = slices.Insert(p.Columns, 0, plan.Column{Name: e.heading, Source: e.heading})
	}
	for i, one := range e.list {
		if err := e.applyOne(p, one, d.done[i], types); err != nil {
			return err
		}
	}
	for _, want := range flags.private {
		for _, name := range among(want, d.called()) {
			if at, err := outputColumn(p, name); err == nil { // what is unknown was found before
				p.Columns[at].Private = true
			}
		}
	}
	if e.keepIf != "" {
		p.Keep = expressionOf(e.keepIf)
	}
	if e.dropIf != "" {
		p.Drop = expressionOf(e.dropIf)
	}
	for _, key := range e.orderBy {
		name, descending := strings.CutPrefix(key, "-")
		at, err := outputColumn(p, name)
		if err != nil {
			return err
		}
		p.OrderBy = append(p.OrderBy, plan.OrderKey{Column: p.Columns[at].Name, Descending: descending})
	}
	return e.keepOnly(p)
}

// applyOne makes one of the changes that stand in an order. Done says that the cells have gone through it already.
func (e *edits) applyOne(p *plan.Plan, one edit, done bool, types map[string]value.Type) error {
	switch one.flag {
	case renameFlag:
		return rename(p, one.text)
	case computeFlag:
		return compute(p, one.text, types)
	case joinFlag:
		return join(p, one.text, types)
	case stepFlag:
		if !done {
			return stepOfMade(p, one.text, types)
		}
	}
	return nil
}

func rename(p *plan.Plan, text string) error {
	i := strings.LastIndexByte(text, '=')
	if i <= 0 || i == len(text)-1 {
		return usage("--rename takes OLD=NEW, as in 'Net weight=kg', not %q", text)
	}
	at, err := outputColumn(p, text[:i])
	if err != nil {
		return err
	}
	if err := freeName(p, text[i+1:]); err != nil {
		return usage("--rename %q: %w", text, err)
	}
	for j := range p.Columns { // what was joined before goes on to be
		if join := p.Columns[j].Join; join != nil {
			for k, name := range join.Columns {
				if name == p.Columns[at].Name {
					join.Columns[k] = text[i+1:]
				}
			}
		}
	}
	p.Columns[at].Name = text[i+1:]
	return nil
}

// cutComputed takes the name of the new column off a computation.
func cutComputed(text string) (name, expression string, err error) {
	name, expression, ok := strings.Cut(text, "=")
	if name, expression = strings.TrimSpace(name), strings.TrimSpace(expression); !ok || name == "" || expression == "" || expression[0] == '=' {
		return "", "", usage("--compute takes NAME = EXPRESSION, as in 'value = net_weight * price', not %q", text)
	}
	if before, assigns := strings.CutSuffix(name, ":"); assigns {
		return "", "", usage("--compute takes NAME = EXPRESSION, with no colon: '%s = %s'", strings.TrimSpace(before), expression)
	}
	return name, expression, nil
}

func compute(p *plan.Plan, text string, types map[string]value.Type) error {
	name, expression, err := cutComputed(text)
	if err != nil {
		return err
	}
	if err := freeName(p, name); err != nil {
		return usage("--compute %q: %w", text, err)
	}
	c := plan.Column{Name: name, Compute: expressionOf(expression), Untyped: true}
	if t, ok := types[name]; ok {
		c.Untyped, c.Convention = false, reading.Convention{Type: t}
	}
	p.Columns = append(p.Columns, c)
	return nil
}

// join adds a column of the values of others, without the blank ones.
func join(p *plan.Plan, text string, types map[string]value.Type) error {
	name, with, columns, err := cutJoin(text)
	if err != nil {
		return err
	}
	if err := freeName(p, name); err != nil {
		return usage("--join %q: %w", text, err)
	}
	c := plan.Column{Name: name, Join: &plan.Join{With: with}, Convention: reading.Convention{Type: types[name]}}
	for _, column := range columns {
		at, err := outputColumn(p, column)
		if err != nil {
			return err
		}
		c.Join.Columns = append(c.Join.Columns, p.Columns[at].Name)
	}
	p.Columns = append(p.Columns, c)
	return nil
}

// stepOfMade adds a step to a column that is made of others: computed or joined. It is read as text then, unless its type was
// asked for.
func stepOfMade(p *plan.Plan, text string, types map[string]value.Type) error {
	names := make([]string, len(p.Columns))
	for i, c := range p.Columns {
		names[i] = c.Name
	}
	name, steps, err := cutStep(text, names)
	if err != nil {
		return err
	}
	chain, err := plan.ParseSteps(steps)
	if err != nil {
		return usage("--step %q: %w", text, err)
	}
	c := &p.Columns[slices.Index(names, name)]
	c.Steps = append(c.Steps, chain...)
	if c.Untyped {
		c.Untyped, c.Convention = false, reading.Convention{Type: types[name]}
	}
	return nil
}

// written returns the columns that are written, nil for all.
func (e *edits) written(p *plan.Plan) (columns []int, err error) {
	if len(e.only)+len(e.leaveOut) == 0 {
		return nil, nil
	}
	names := make([]string, len(p.Columns))
	for i, c := range p.Columns {
		names[i] = c.Name
	}
	list := func(wanted []string) (columns []int, err error) {
		for _, want := range wanted {
			found := among(want, names)
			for _, name := range found {
				columns = append(columns, slices.Index(names, name))
			}
			if found == nil {
				at, err := outputColumn(p, want)
				if err != nil {
					return nil, err
				}
				columns = append(columns, at)
			}
		}
		return columns, nil
	}
	out, err := list(e.leaveOut)
	if err != nil {
		return nil, err
	}
	if columns, err = list(e.only); len(e.only) == 0 {
		for i := range names {
			columns = append(columns, i)
		}
	}
	columns = slices.DeleteFunc(columns, func(i int) bool { return slices.Contains(out, i) })
	if len(columns) == 0 && err == nil {
		err = usage("--leave-out leaves no column to write")
	}
	return columns, err
}

// keepOnly leaves the columns out that are not named.
func (e *edits) keepOnly(p *plan.Plan) error {
	only, err := e.written(p)
	if err != nil || only == nil {
		return err
	}
	var columns []plan.Column
	taken := map[string]bool{}
	for _, at := range only {
		if !taken[p.Columns[at].Name] { // a column that is named twice is one
			columns = append(columns, p.Columns[at])
			taken[p.Columns[at].Name] = true
		}
	}
	// What expressions and joins use is worked out all the same, and what that uses in its turn.
	help := func(e *plan.Expression, join *plan.Join) {
		var names []string
		if join != nil {
			names = join.Columns
		}
		if e != nil {
			used, all := expression.Names(e.Text)
			names = append(slices.Clone(names), used...)
			for i := range p.Columns {
				if c := &p.Columns[i]; all && c.Compute == nil && c.Join == nil {
					names = append(names, c.Name)
				}
			}
		}
		for _, name := range names {
			at, err := outputColumn(p, name)
			if err != nil || taken[p.Columns[at].Name] {
				continue // an unknown name is found when the expression is compiled
			}
			c := p.Columns[at]
			c.Helper = true
			columns = append(columns, c)
			taken[c.Name] = true
		}
	}
	help(p.Keep, nil)
	help(p.Drop, nil)
	for _, key := range p.OrderBy {
		help(nil, &plan.Join{Columns: []string{key.Column}})
	}
	for i := 0; i < len(columns); i++ { // there are more of them as it goes
		help(columns[i].Compute, columns[i].Join)
	}
	p.Columns = wholeSplits(p, columns)
	return nil
}

// freeName returns an error where the output has a column of a name already.
func freeName(p *plan.Plan, name string) error {
	if slices.ContainsFunc(p.Columns, func(c plan.Column) bool { return c.Name == name }) {
		return fmt.Errorf("the output has a column %q already; choose another name", name)
	}
	return nil
}

func expressionOf(text string) *plan.Expression {
	return &plan.Expression{Expression: &expression.Expression{Text: text}}
}

// outputColumn finds a column of the output by its name, its usable name or that of its source.
func outputColumn(p *plan.Plan, name string) (int, error) {
	names := make([]string, len(p.Columns))
	for i, c := range p.Columns {
		names[i] = c.Name
	}
	if found, ok := findName(name, names); ok {
		return slices.Index(names, found), nil
	}
	for i, c := range p.Columns {
		if c.Source == name || plan.UsableName(c.Name) == name {
			return i, nil
		}
	}
	return 0, unknownColumn(name, names)
}

// mistakesIn says what is wrong with the edits of a drafted plan, without its lines, which nobody has seen, and with
// the flags that mend it.
func mistakesIn(err error) error {
	var mistakes plan.Mistakes
	if !errors.As(err, &mistakes) {
		return err
	}
	var lines manyErrors
	for _, m := range mistakes {
		say := strings.NewReplacer("convert the column to a number", "say that the column is a number with --as NAME=decimal",
			"convert the column to a date", "say that the column is a date with --as NAME=date").Replace(m.Say)
		if !slices.Contains(lines, say) {
			lines = append(lines, say)
		}
	}
	return &exitError{exitUsage, &lines}
}
