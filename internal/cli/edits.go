package cli

import (
	"encoding/csv"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

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
	steps    []string  // COLUMN: STEP
	computes []string  // NAME = EXPRESSION
	renames  []string  // OLD=NEW
	keepIf   string
	dropIf   string
	only     []string
	orderBy  []string
	heading  string // the column that section headings become
}

// stepFlags are the edits that change what the cells of a source are.
func (e *edits) stepFlags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&e.turn, "turn", "",
		"make rows of `columns`, as in 'Jan,Feb,Mar => month,amount': one row for each, with its name and its cell")
	cmd.Flags().StringArrayVar(&e.steps, "step", nil,
		"take a column's cells through a step first, as in 'Remark: keep: digits' (repeatable, in order)")
	into(cmd, groupEdits)
	wholeOnly(cmd, "turn")
}

// rowFlags are the edits that say which rows and columns there are.
func (e *edits) rowFlags(cmd *cobra.Command) {
	e.stepFlags(cmd)
	f := cmd.Flags()
	f.StringArrayVar(&e.computes, "compute", nil,
		"add a column, as in 'value = round(net_weight * price, 2)' (repeatable); names as in the output or usable ones")
	conditionVar(f, &e.keepIf, "keep-if", false, "keep only rows for which an `expression` is true, as in 'net_weight > 40' (repeatable)")
	conditionVar(f, &e.dropIf, "drop-if", true, "leave out rows for which an `expression` is true (repeatable)")
	f.StringVar(&e.heading, "section-heading-into", "", "add a `column` that has the section heading above each row")
	into(cmd, groupEdits)
}

func (e *edits) flags(cmd *cobra.Command) {
	e.rowFlags(cmd)
	f := cmd.Flags()
	f.StringSliceVar(&e.only, "only", nil, "the columns of the output, in order (default: all)")
	f.StringArrayVar(&e.renames, "rename", nil, "give a column another name, as in 'Net weight=kg' (repeatable)")
	f.StringSliceVar(&e.orderBy, "order-by", nil, "columns to order the rows by; a minus before one for descending")
	into(cmd, groupEdits)
	wholeOnly(cmd, "order-by")
}

// any reports whether there is an edit.
func (e *edits) any() bool {
	return e.turn != "" || len(e.steps)+len(e.computes)+len(e.renames)+len(e.only)+len(e.orderBy) > 0 || e.keepIf != "" ||
		e.dropIf != "" || e.heading != ""
}

// chains reads the steps for columns of these names.
func (e *edits) chains(names []string) (map[int]step.Chain, error) {
	if len(e.steps) == 0 {
		return nil, nil
	}
	chains := map[int]step.Chain{}
	for _, s := range e.steps {
		column, text, err := cutStep(s, names)
		if err != nil {
			return nil, err
		}
		chain, err := plan.ParseSteps(text)
		if err != nil {
			return nil, usage("--step %q: %w", s, err)
		}
		chains[column] = append(chains[column], chain...)
	}
	return chains, nil
}

// cutStep takes the name of the column off a step. A name may have colons in it, too.
func cutStep(s string, names []string) (column int, text string, err error) {
	for at := range len(s) {
		if s[at] != ':' {
			continue
		}
		if name, ok := findName(s[:at], names); ok {
			return slices.Index(names, name), strings.TrimSpace(s[at+1:]), nil
		}
	}
	first, _, named := strings.Cut(s, ":")
	if !named || first == "" {
		return 0, "", usage("--step takes COLUMN: STEP, as in 'Remark: keep: digits', not %q", s)
	}
	return 0, "", unknownColumn(first, names)
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
		name, found := findName(strings.TrimSpace(want), names)
		if !found {
			return nil, into, unknownColumn(strings.TrimSpace(want), names)
		}
		if !slices.Contains(columns, name) {
			columns = append(columns, name)
		}
	}
	return columns, [2]string(targets), nil
}

// stepped returns a source whose cells have gone through the steps.
func (e *edits) stepped(src table.Source) (table.Source, error) {
	chains, err := e.chains(src.Info().Names)
	if err != nil || chains == nil {
		return src, err
	}
	return step.NewSource(src, chains), nil
}

// apply changes a drafted plan of a source with columns of these names; the type of a column that was asked for stays.
func (e *edits) apply(p *plan.Plan, names []string, asked func(column int) bool) error {
	chains, err := e.chains(names)
	if err != nil {
		return err
	}
	p.Turn, p.TurnInto = e.turned.Columns, e.turned.Into
	for column, chain := range chains {
		offered := p.Columns[column].Offer
		for i := range offered { // what is offered was seen of the cells that the steps leave
			if o := &offered[i]; o.Split != nil && (i == 0 || offered[i-1].Split != o.Split) {
				o.Split.Steps = chain
			}
			offered[i].Steps = slices.Concat(chain, offered[i].Steps)
		}
		if c := &p.Columns[column]; c.Convention.Type == value.Integer && chain.MakesCode() && !asked(column) {
			c.Convention, c.Terms = reading.Convention{Type: value.Code}, reading.Terms{}
			c.Comment = []string{"digits of a fixed width or place are a code"}
		}
		p.Columns[column].Steps = chain // there is a column for each of the source, in its order
		// What was seen is what the steps leave, and check looks at the cells as they come.
		p.Seen.Columns = slices.DeleteFunc(p.Seen.Columns, func(c plan.RecordColumn) bool { return c.Name == names[column] })
	}
	if e.heading != "" {
		if err := freeName(p, e.heading); err != nil {
			return usage("--section-heading-into: %w", err)
		}
		p.HeadingInto = e.heading
		p.Columns = slices.Insert(p.Columns, 0, plan.Column{Name: e.heading, Source: e.heading})
	}
	for _, r := range e.renames {
		i := strings.LastIndexByte(r, '=')
		if i <= 0 || i == len(r)-1 {
			return usage("--rename takes OLD=NEW, as in 'Net weight=kg', not %q", r)
		}
		at, err := outputColumn(p, r[:i])
		if err != nil {
			return err
		}
		if err := freeName(p, r[i+1:]); err != nil {
			return usage("--rename %q: %w", r, err)
		}
		p.Columns[at].Name = r[i+1:]
	}
	for _, c := range e.computes {
		name, text, ok := strings.Cut(c, "=")
		if name, text = strings.TrimSpace(name), strings.TrimSpace(text); !ok || name == "" || text == "" || text[0] == '=' {
			return usage("--compute takes NAME = EXPRESSION, as in 'value = net_weight * price', not %q", c)
		}
		if before, assigns := strings.CutSuffix(name, ":"); assigns {
			return usage("--compute takes NAME = EXPRESSION, with no colon: '%s = %s'", strings.TrimSpace(before), text)
		}
		if err := freeName(p, name); err != nil {
			return usage("--compute %q: %w", c, err)
		}
		p.Columns = append(p.Columns, plan.Column{Name: name, Compute: expressionOf(text), Untyped: true})
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

// keepOnly leaves the columns out that are not named.
func (e *edits) keepOnly(p *plan.Plan) error {
	if len(e.only) == 0 {
		return nil
	}
	var columns []plan.Column
	taken := map[string]bool{}
	for _, name := range e.only {
		at, err := outputColumn(p, name)
		if err != nil {
			return err
		}
		if !taken[p.Columns[at].Name] { // a column that is named twice is one
			columns = append(columns, p.Columns[at])
			taken[p.Columns[at].Name] = true
		}
	}
	// What expressions use is worked out all the same, and what that uses in its turn.
	help := func(e *plan.Expression) {
		if e == nil {
			return
		}
		for _, name := range expression.Names(e.Text) {
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
	help(p.Keep)
	help(p.Drop)
	for i := 0; i < len(columns); i++ { // there are more of them as it goes
		help(columns[i].Compute)
	}
	p.Columns = columns
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
		say := strings.Replace(m.Say, "convert the column to a number", "say that the column is a number with --as "+
			"NAME=decimal", 1)
		if !slices.Contains(lines, say) {
			lines = append(lines, say)
		}
	}
	return &exitError{exitUsage, &lines}
}
