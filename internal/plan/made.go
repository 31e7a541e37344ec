package plan

import (
	"fmt"
	"slices"

	"junvo/internal/expression"
	"junvo/internal/step"
)

// Split is a column of the source that becomes several of the output. Each of these has
// the steps of the split, the one that takes its piece, and its own after them.
type Split struct {
	Name  string // what the plan calls it
	Args  step.Args
	Steps step.Chain // before the split
}

// OwnSteps returns the steps that the plan gives the column itself.
func (c *Column) OwnSteps() step.Chain {
	if c.Split == nil {
		return c.Steps
	}
	return c.Steps[len(c.Split.Steps)+1:]
}

// Join makes a column of the values of others of the output.
type Join struct {
	Columns []string
	With    string
	Blanks  JoinBlanks
	From    []int // where the columns stand in the output
	single  bool  // it is written as from: the one column that it is made of
}

// JoinBlanks is what becomes of a joined value where a column is blank.
type JoinBlanks uint8

// The ways to join blanks.
const (
	SkipBlanks JoinBlanks = iota // leave the blank and its separator out
	KeepBlanks                   // keep the separator
	FailBlanks                   // the cell fails
)

var joinBlankNames = []string{"skip", "keep", "fail"}

func (b JoinBlanks) String() string { return joinBlankNames[b] }

// Made reports whether a column is made of others of the output, or of section headings, and not of one of the source.
func (c *Column) Made() bool { return c.Join != nil || c.Compute != nil || c.Heading }

// Expression is a compiled expression of a plan.
type Expression struct {
	*expression.Expression
	From []int // where the columns that it uses stand in the output
	// Earlier is where what it asks of the rows before stands in the plan's Earlier.
	Earlier []int
}

// Earlier is what expressions of a plan ask of the rows before: of one column.
type Earlier struct {
	Column int
	Sum    bool // the sum of its values up to a row; else its value in the row before
	// Stage is how many times rows of a block have to be gone through before there is an answer: the column may itself be
	// made of such answers.
	Stage int
}

// Reads lists the columns of the source that the plan reads.
func (p *Plan) Reads() (names []string) {
	add := func(name string) {
		if name != "" && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	for i := range p.Columns {
		add(p.Columns[i].Source)
	}
	for _, e := range p.expressions() {
		for _, name := range e.Raw {
			add(name)
		}
	}
	return names
}

// aliases are the usable names by which expressions may call columns too, such as net_weight for Net weight and ref for
// Ref, with where the columns stand: those that no other column has, or could be called by too.
func (p *Plan) aliases() map[string]int {
	taken, at := map[string]bool{}, map[string]int{}
	for i := range p.Columns {
		taken[p.Columns[i].Name] = true
	}
	for i := range p.Columns {
		name := p.Columns[i].Name
		alias := UsableName(name)
		if alias == name {
			continue
		}
		if taken[alias] {
			delete(at, alias)
			continue
		}
		taken[alias], at[alias] = true, i
	}
	// A column that has the usable name of its source's may be called by that one, too: a drafted plan has usable names.
	for i := range p.Columns {
		c := &p.Columns[i]
		if c.Source == "" || c.Made() || c.Split != nil || c.Source == c.Name || UsableName(c.Source) != c.Name {
			continue
		}
		if taken[c.Source] {
			delete(at, c.Source)
			continue
		}
		taken[c.Source], at[c.Source] = true, i
	}
	return at
}

// MadeOf returns which columns of the output some of them are made of, if only by way of others; they are among them.
func (p *Plan) MadeOf(columns []int) map[int]bool {
	all := map[int]bool{}
	for todo := slices.Clone(columns); len(todo) > 0; {
		c := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		if !all[c] {
			all[c] = true
			todo = append(todo, p.Columns[c].From()...)
		}
	}
	return all
}

// Decide returns which columns of the output decide which rows go out: those that a condition uses, and what those are
// made of.
func (p *Plan) Decide() map[int]bool {
	var used []int
	for _, e := range []*Expression{p.Keep, p.Drop} {
		if e != nil {
			used = append(used, e.From...)
		}
	}
	return p.MadeOf(used)
}

// expressions lists the plan's expressions.
func (p *Plan) expressions() (list []*Expression) {
	for i := range p.Columns {
		list = append(list, p.Columns[i].Compute)
	}
	return slices.DeleteFunc(append(list, p.Keep, p.Drop), func(e *Expression) bool { return e == nil })
}

// AsksFailed and AsksNumber are what expressions may ask of a row beside its cells.
var (
	AsksFailed = func(e *expression.Expression) bool { return e.AsksFailed() }
	AsksNumber = func(e *expression.Expression) bool { return e.AsksNumber() }
)

// Asks reports whether an expression of the plan asks for something.
func (p *Plan) Asks(asks func(*expression.Expression) bool) bool {
	return slices.ContainsFunc(p.expressions(), func(e *Expression) bool { return asks(e.Expression) })
}

// inputs returns the names of the columns of the output that a column is made of.
func (c *Column) inputs() []string {
	switch {
	case c.Join != nil:
		return c.Join.Columns
	case c.Compute != nil:
		return c.Compute.Uses
	}
	return nil
}

// From returns where the columns of the output stand that a column is made of.
func (c *Column) From() []int {
	switch {
	case c.Join != nil:
		return c.Join.From
	case c.Compute != nil:
		return c.Compute.From
	}
	return nil
}

// placer returns what finds a column by its name, or one of its aliases.
func (p *Plan) placer() func(name string) int {
	at := map[string]int{}
	for i, c := range p.Columns {
		at[c.Name] = i
	}
	aliases := p.aliases()
	return func(name string) int {
		if i, ok := at[name]; ok {
			return i
		}
		return aliases[name]
	}
}

// link finds the columns that others are made of, and the order in which to make them.
func (p *Plan) link() error {
	at := map[string]int{}
	for i, c := range p.Columns {
		if _, twice := at[c.Name]; twice {
			return fmt.Errorf("two columns of the output have the name %q", c.Name)
		}
		at[c.Name] = i
	}
	for i := range p.Columns {
		c := &p.Columns[i]
		if c.Join == nil {
			continue
		}
		for _, name := range c.Join.Columns {
			from, ok := at[name]
			if !ok {
				return fmt.Errorf("column %s joins the column %q, which the output does not have", c.Name, name)
			}
			c.Join.From = append(c.Join.From, from)
		}
	}
	place := p.placer()
	p.Order = nil
	state := make([]uint8, len(p.Columns)) // 1 while it is visited, 2 when it is in order
	var way []string                       // the columns that are visited
	var visit func(i int) error
	visit = func(i int) error {
		switch state[i] {
		case 1:
			return fmt.Errorf("%s", circleOf(way, p.Columns[i].Name))
		case 2:
			return nil
		}
		state[i] = 1
		way = append(way, p.Columns[i].Name)
		defer func() { way = way[:len(way)-1] }()
		for _, name := range p.Columns[i].inputs() {
			if err := visit(place(name)); err != nil {
				return err
			}
		}
		state[i] = 2
		p.Order = append(p.Order, i)
		return nil
	}
	for _, e := range p.expressions() {
		for _, name := range e.Uses {
			e.From = append(e.From, place(name))
		}
	}
	for i := range p.Columns {
		if err := visit(i); err != nil {
			return err
		}
	}
	p.stage()
	p.hide()
	return nil
}

// stage finds what expressions ask of the rows before, and after how many answers each column can be made. The columns
// are in order.
func (p *Plan) stage() {
	p.Earlier = nil
	find := func(e *Expression) (stage int) {
		e.Earlier = nil
		for i, from := range e.From {
			if e.UsesValue(i) {
				stage = max(stage, p.Columns[from].stage)
			}
		}
		for _, a := range e.Expression.Earlier {
			asked := Earlier{Column: e.From[a.Use], Sum: a.Sum, Stage: p.Columns[e.From[a.Use]].stage + 1}
			stage = max(stage, asked.Stage)
			at := slices.Index(p.Earlier, asked)
			if at < 0 {
				at = len(p.Earlier)
				p.Earlier = append(p.Earlier, asked)
			}
			e.Earlier = append(e.Earlier, at)
		}
		return stage
	}
	for _, i := range p.Order {
		switch c := &p.Columns[i]; {
		case c.Compute != nil:
			c.stage = find(c.Compute)
		case c.Join != nil:
			c.stage = 0
			for _, from := range c.Join.From {
				c.stage = max(c.stage, p.Columns[from].stage)
			}
		}
	}
	for _, e := range []*Expression{p.Keep, p.Drop} {
		if e != nil {
			find(e)
		}
	}
}

// Stage returns how many times what rows before have is to be found before the column can be made.
func (c *Column) Stage() int { return c.stage }

// circleOf says that a column is made of itself, by way of the last of those that were visited.
func circleOf(way []string, column string) string {
	way = way[slices.Index(way, column):]
	say := "column " + column + " is made of itself"
	for i, from := range way {
		if len(way) > 1 {
			say += []string{": ", ", "}[min(i, 1)] + from + " uses " + append(way, column)[i+1]
		}
	}
	return say
}

// hide notes the columns whose values are not to be shown: those that are private, or made of one that is.
// The columns are in order.
func (p *Plan) hide() {
	hiding := p.Hiding()
	for _, i := range p.Order {
		c := &p.Columns[i]
		c.hidden = c.Private || c.Heading && len(hiding) > 0 // a heading may stand in any column
		if c.Compute != nil {
			c.hidden = c.hidden || slices.ContainsFunc(c.Compute.Raw, func(name string) bool { return hiding[name] }) ||
				slices.ContainsFunc(c.Compute.From, func(from int) bool { return p.Columns[from].hidden })
		}
		if c.Join != nil {
			c.hidden = c.hidden || slices.ContainsFunc(c.Join.From, func(from int) bool { return p.Columns[from].hidden })
		}
	}
}

// Hidden reports whether the values of a column that was loaded are not to be shown.
func (c *Column) Hidden() bool { return c.hidden || c.Private }
