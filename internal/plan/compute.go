package plan

import (
	"errors"
	"strings"

	"junvo/internal/expression"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// toCompute is an expression of a column that has been read and not yet compiled.
type toCompute struct {
	column string
	node   *node
	typed  bool // whether the plan says the column's type
}

// compile compiles the expressions of a plan whose columns have been read.
func (l *loader) compile(p *Plan) {
	computed, columns := make(map[string]int, len(l.computed)), make(map[string]*Column, len(p.Columns))
	for i, c := range l.computed {
		computed[c.column] = i
	}
	l.aliases = p.aliases()
	for alias, i := range l.aliases {
		if c, ok := computed[p.Columns[i].Name]; ok {
			computed[alias] = c
		}
	}
	for i := range p.Columns {
		columns[p.Columns[i].Name] = &p.Columns[i]
	}
	state := make([]uint8, len(l.computed)) // 1 while it is visited, 2 when it is compiled
	circle := false
	var way []string // the columns that are visited
	var visit func(i int)
	visit = func(i int) {
		c := &l.computed[i]
		switch state[i] {
		case 1:
			say := circleOf(way, c.column)
			if strings.Contains(c.node.text, "before(") || strings.Contains(c.node.text, "previous(") {
				say += "; previous takes a column that is made without this one, and what adds up from row to row is sumSoFar(x)"
			}
			l.fail(c.node, "%s", say)
			circle = true
			return
		case 2:
			return
		}
		state[i] = 1
		way = append(way, c.column)
		defer func() { way = way[:len(way)-1] }()
		// A column that is computed may be used by another: its type comes first.
		names, _ := expression.Names(c.node.text)
		for _, name := range names {
			if j, ok := computed[name]; ok {
				visit(j)
			}
		}
		if state[i] = 2; circle {
			return // the types of its columns are not known
		}
		column := columns[c.column]
		e := l.expression(p, c.node, c.column)
		if e == nil {
			return
		}
		if !c.typed {
			column.Convention, _ = (&reading.Terms{}).Convention(e.Type) // no term can be wrong
		}
		*column.Compute = *e
		l.fits(column, e, c.node)
	}
	for i := range l.computed {
		visit(i)
	}
	for _, e := range []struct {
		node *node
		to   **Expression
	}{{l.keep, &p.Keep}, {l.drop, &p.Drop}} {
		if e.node == nil {
			continue
		}
		if *e.to = l.expression(p, e.node, ""); *e.to != nil && (*e.to).Type != value.Boolean {
			l.fail(e.node, "a condition is true or false, and this is a %s", (*e.to).Type)
		}
	}
}

// uses lists the names that the columns of a plan that are computed or joined are made of.
func (l *loader) uses(p *Plan) map[string][]string {
	uses := map[string][]string{}
	for _, c := range l.computed {
		uses[c.column], _ = expression.Names(c.node.text)
	}
	for i := range p.Columns {
		if c := &p.Columns[i]; c.Join != nil {
			uses[c.Name] = append(uses[c.Name], c.Join.Columns...)
		}
	}
	return uses
}

// variables are the columns that an expression may use, all but the one it makes.
func (l *loader) variables(p *Plan, but string) []expression.Variable {
	list := make([]expression.Variable, 0, len(p.Columns))
	for i := range p.Columns {
		if c := &p.Columns[i]; c.Name != but {
			list = append(list, expression.Variable{Name: c.Name, Type: c.Convention.Type, Made: c.Compute != nil || c.Join != nil})
		}
	}
	for alias, i := range l.aliases {
		if c := &p.Columns[i]; c.Name != but {
			list = append(list, expression.Variable{Name: alias, Type: c.Convention.Type, Made: true})
		}
	}
	return list
}

// means are what expressions may use beside columns.
func (l *loader) means() expression.Means {
	return expression.Means{Lists: l.lists, ParseSteps: ParseSteps}
}

func (l *loader) expression(p *Plan, n *node, column string) *Expression {
	e, err := expression.Compile(l.text(n), l.variables(p, column), l.means())
	var wrong *expression.Error
	if errors.As(err, &wrong) {
		at := *n
		at.line += wrong.Line - 1
		if at.column += wrong.Column - 1; !n.plain {
			at.column++ // the quote
		}
		l.fail(&at, "%s", wrong.Say)
		return nil
	}
	return &Expression{Expression: e}
}

// fits checks that a column can hold what its expression gives.
func (l *loader) fits(c *Column, e *Expression, n *node) {
	t := c.Convention.Type
	if len(c.Steps) > 0 {
		return // what they leave is read
	}
	switch {
	case t == e.Type, t == value.Integer && e.Type == value.Decimal, t == value.Code && e.Type == value.Text:
	default:
		l.fail(n, "the expression gives %s, and the column is %s: say to: %s, or text(…)", e.Type, t, e.Type)
	}
}
