package convert

import (
	"context"
	"slices"

	"junvo/internal/plan"
	"junvo/internal/table"
)

// Broken is an example of a column, with what comes out of its cells now.
type Broken struct {
	Column  string
	Example *plan.Example
	Gives   string
	Hidden  bool // neither the example nor what it gives may be shown
}

// BrokenExamples returns the examples of a plan whose cells give something else than they show. The names are those of
// the source's columns; the cells that an example does not have are blank.
func BrokenExamples(ctx context.Context, p *plan.Bound, names []string) (broken []Broken, err error) {
	open := p.EachRow().BlankOn(plan.FailStop, plan.FailKeep, plan.FailAside)
	for i := range open.Columns {
		c := &open.Columns[i]
		place := open.Place(i)
		if place < 0 {
			continue // a helper is not written, and its examples are for those who read the plan
		}
		for j := range c.Examples {
			e := &c.Examples[j]
			row := make([]string, len(names))
			for name, text := range e.From {
				row[slices.Index(names, name)] = text
			}
			one := &oneRow{column: place}
			if _, err := Run(ctx, table.NewListed(names, [][]string{row}), open, Options{Workers: 1, Sink: one}); err != nil {
				return nil, err
			}
			if one.gives != e.Gives {
				broken = append(broken, Broken{c.Name, e, one.gives, c.Hidden()})
			}
		}
	}
	return broken, nil
}

// oneRow is a sink that keeps a cell of the one row that comes.
type oneRow struct {
	table.Discard
	column int
	gives  string
}

func (o *oneRow) Write(_ []byte, rows *table.Rows) error {
	if rows.Count > 0 {
		o.gives = string(rows.Cells[o.column].At(0))
	}
	return nil
}
