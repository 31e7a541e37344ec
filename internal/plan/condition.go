package plan

import (
	"errors"

	"junvo/internal/expression"
	"junvo/internal/value"
)

// Condition is an expression on the rows of a plan that is no part of it.
type Condition struct {
	*Expression
	Raw []int // where the cells stand in the source that it uses as they came
}

// Condition compiles a condition on the rows of a source with columns of these names. The error says what is wrong.
func (b *Bound) Condition(text string, names []string) (*Condition, error) {
	l := &loader{aliases: b.aliases(), lists: map[string]map[string]string{}}
	for _, list := range b.Lists {
		l.lists[list.Name] = list.List
	}
	e, err := expression.Compile(text, l.variables(b.Plan, ""), l.means())
	if err != nil {
		return nil, err
	}
	if e.Type != value.Boolean {
		return nil, errors.New("a condition is true or false, and this is a " + e.Type.String())
	}
	if len(e.Earlier) > 0 {
		return nil, errors.New("a condition on what is shown can't ask for the rows before: make a column of it, as in " +
			"--compute 'earlier = previous(net_weight)'")
	}
	c := &Condition{Expression: &Expression{Expression: e}}
	place := b.placer()
	for _, name := range e.Uses {
		c.From = append(c.From, place(name))
	}
	find := finder(names)
	for _, name := range e.Raw {
		at, err := find(name)
		if err != nil {
			return nil, err
		}
		c.Raw = append(c.Raw, at)
	}
	return c, nil
}
