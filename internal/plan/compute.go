package plan

import (
	"errors"
	"slices"

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
	// A column that is computed may be used by another: its type comes first.
	for range l.computed {
		if !l.computeTypes(p) {
			break
		}
	}
	for _, c := range l.computed {
		column := p.column(c.column)
		if e := l.expression(p, c.node, c.column); e != nil {
			*column.Compute = *e
			l.fits(column, e, c.node)
		}
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

func (p *Plan) column(name string) *Column {
	return &p.Columns[slices.IndexFunc(p.Columns, func(c Column) bool { return c.Name == name })]
}

// computeTypes gives columns without a type that of their expressions, where that
// compiles, and reports whether any type is another now.
func (l *loader) computeTypes(p *Plan) (changed bool) {
	for i := range l.computed {
		c := &l.computed[i]
		if c.typed {
			continue
		}
		if e, err := expression.Compile(c.node.text, p.variables(c.column)); err == nil {
			column := p.column(c.column)
			changed = changed || column.Convention.Type != e.Type
			column.Convention, _ = (&reading.Terms{}).Convention(e.Type) // no term can be wrong
		}
	}
	return changed
}

// variables are the columns that an expression may use, all but the one it makes.
func (p *Plan) variables(but string) (list []expression.Variable) {
	for _, c := range p.Columns {
		if c.Name != but {
			list = append(list, expression.Variable{Name: c.Name, Type: c.Convention.Type})
		}
	}
	return list
}

func (l *loader) expression(p *Plan, n *node, column string) *Expression {
	e, err := expression.Compile(l.text(n), p.variables(column))
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
	switch {
	case t == e.Type, t == value.Integer && e.Type == value.Decimal, t == value.Code && e.Type == value.Text:
	default:
		l.fail(n, "the expression gives %s, and the column is %s: say to: %s, or text(…)", e.Type, t, e.Type)
	}
}
