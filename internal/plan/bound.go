package plan

import (
	"fmt"
	"slices"

	"junvo/internal/table"
)

// Bound is a plan whose columns have been found in a source, so that it can be run over it.
type Bound struct {
	*Plan
	from []int                 // where the cells of each column stand in the source
	raw  map[*Expression][]int // where those that an expression uses as they came stand in it
}

// MissingError says that a source lacks a column that the plan names.
type MissingError struct{ Column, Nearest string }

func (e *MissingError) Error() string {
	s := fmt.Sprintf("the plan reads the column %q, and the source has no such column", e.Column)
	if e.Nearest != "" {
		s += fmt.Sprintf("; it has %q", e.Nearest)
	}
	return s
}

// finder returns what finds the columns of a source. Its error is a *MissingError.
func finder(names []string) func(name string) (int, error) {
	at := make(map[string]int, len(names))
	for i, n := range names {
		at[n] = i
	}
	return func(name string) (int, error) {
		i, ok := at[name]
		if !ok {
			i = slices.IndexFunc(names, func(n string) bool { return table.SameName(n) == table.SameName(name) })
			ok = i >= 0
		}
		if !ok {
			return 0, &MissingError{name, table.Nearest(name, names)}
		}
		return i, nil
	}
}

// Bind finds the plan's columns among the names of a source's. Its error is a *MissingError where a column is missing.
func (p *Plan) Bind(names []string) (*Bound, error) {
	p, err := p.withOthers(names)
	if err != nil {
		return nil, err
	}
	find := finder(names)
	b := &Bound{Plan: p, from: make([]int, len(p.Columns)), raw: map[*Expression][]int{}}
	for i := range p.Columns {
		if c := &p.Columns[i]; !c.Made() {
			if b.from[i], err = find(c.Source); err != nil {
				return nil, err
			}
		}
	}
	for _, e := range p.expressions() {
		for _, name := range e.Raw {
			from, err := find(name)
			if err != nil {
				return nil, err
			}
			b.raw[e] = append(b.raw[e], from)
		}
	}
	return b, nil
}

// From returns where the cells of a column of the output stand in the source, from 0. It has no meaning
// for a column that is made of others.
func (b *Bound) From(column int) int { return b.from[column] }

// Raw returns where the columns whose cells an expression uses as they came stand in the source.
func (b *Bound) Raw(e *Expression) []int { return b.raw[e] }

// BlankOn returns the plan with a blank cell in place of these ways to go on after a failure.
func (b *Bound) BlankOn(ways ...OnFailure) *Bound {
	p := *b.Plan
	p.Columns = slices.Clone(p.Columns)
	for i := range p.Columns {
		if slices.Contains(ways, p.Columns[i].OnFailure) {
			p.Columns[i].OnFailure = FailBlank
		}
	}
	return b.as(&p)
}

// Unconditional returns the plan without its conditions on rows.
func (b *Bound) Unconditional() *Bound {
	p := *b.Plan
	p.Keep, p.Drop = nil, nil
	return b.as(&p)
}

// EachRow returns the plan with nothing that sets rows aside.
func (b *Bound) EachRow() *Bound {
	p := *b.Unconditional().Plan
	clear(p.SetAside[:])
	return b.as(&p)
}

// as returns another plan that is bound in the same way. It has the same columns and expressions.
func (b *Bound) as(p *Plan) *Bound { return &Bound{Plan: p, from: b.from, raw: b.raw} }
