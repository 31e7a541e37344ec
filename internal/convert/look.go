package convert

import (
	"context"
	"errors"
	"io"

	"junvo/internal/plan"
	"junvo/internal/rowkind"
	"junvo/internal/table"
)

// Looked is what a conversion makes of one row.
type Looked struct {
	Row, Line int64
	Aside     rowkind.Kind // why the row does not go out; Data where it does
	Condition string       // of the plan, keep or drop, that leaves it out; "" for none
	Cells     []LookedCell // of the plan's columns
}

// LookedCell is what a conversion makes of a cell.
type LookedCell struct {
	From       string // the text of the source, or what a made column was given
	Out        string // the value in canonical text
	Failure    *Failure
	FilledFrom int64 // the row whose value a blank cell has got; 0 for none
}

// ErrNoRow says that a source has no such row.
var ErrNoRow = errors.New("there is no such row")

// Look converts a source up to a row, given by its number or, where that is 0, by its line, and with the column that it
// was made of where columns have become rows, and tells what becomes of it. Conditions on rows are told, and leave
// nothing out.
func Look(ctx context.Context, src table.Source, p *plan.Bound, repeats *Repeats, at Place, line int64) (*Looked, error) {
	info := src.Info()
	unconditional := p.Unconditional()
	relays := newRelays(ctx, unconditional)
	w := newWorker(info, unconditional, &Options{Repeats: repeats, Reveal: true}, relays)
	w.counts = true
	var lines table.Lines
	var before int64
	b := &table.Block{}
	for seq := 0; ; seq++ {
		b.Reset()
		b.Seq = seq
		err := src.Next(b)
		if errors.Is(err, io.EOF) {
			return nil, ErrNoRow
		}
		if err != nil {
			return nil, err
		}
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		src.Split(b)
		w.convert(b, false)
		relays.forget(seq - 1)
		first := lines.Start(info, b)
		for r := range b.Rows {
			if at.From != "" && b.TurnedFrom(r) != at.From {
				continue
			}
			if at.Row > 0 && before+b.RowOf(r)+1 == at.Row || at.Row == 0 && first+b.Line(r) == line {
				l := w.look(b, p, r)
				l.Row, l.Line = before+b.RowOf(r)+1, first+b.Line(r)
				return l, nil
			}
		}
		before += b.RowsOfFile()
	}
}

// look tells what has become of a row of a block.
func (w *worker) look(b *table.Block, p *plan.Bound, row int) *Looked {
	res := b.Result.(*result)
	l := &Looked{Cells: make([]LookedCell, len(w.columns))}
	for _, a := range res.aside {
		if a.row == row {
			l.Aside = a.kind
		}
	}
	for i, c := range w.columns {
		cell := &l.Cells[i]
		cell.From, cell.Out = c.source(row), string(res.cells[i].At(row))
		if c.above != nil && l.Aside == rowkind.Data && c.above.from[row] != row && cell.Out != "" {
			cell.FilledFrom = c.rowAbove(c.above.from[row])
		}
	}
	for _, list := range [][]Failure{res.failures, res.lost} {
		for i := range list {
			if f := &list[i]; f.Row == int64(row) {
				l.Cells[f.column].Failure = f
			}
		}
	}
	if l.Aside != rowkind.Data {
		return l
	}
	at := here{b: b, res: res, row: row, before: w.before}
	var why error
	if l.Aside, l.Condition, why = at.fate(p); why != nil {
		l.Condition += ", which can't be worked out: " + why.Error()
	}
	return l
}
