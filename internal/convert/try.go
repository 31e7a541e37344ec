package convert

import (
	"context"
	"io"

	"junvo/internal/plan"
	"junvo/internal/rowkind"
	"junvo/internal/table"
)

// Tried is what would become of one cell.
type Tried struct {
	Row, Line int64
	From      string // the column of the file that the row was made of, where columns have become rows; "" elsewhere
	Column    int    // of the plan
	Raw, Out  string
	Hidden    bool     // neither Raw nor Out may be shown, only their shapes
	Emptied   bool     // the steps have left nothing of it
	Meets     bool     // the row meets the condition that was asked for; without one, all do
	Unclear   error    // why that can't be worked out for the row; nil where it can
	Failure   *Failure // nil unless the cell fails
}

// TryOptions say what of a source is tried.
type TryOptions struct {
	Repeats *Repeats
	Rows    int64           // the first ones; 0 for all
	Where   *plan.Condition // nil for none
	// Aside is called for each row that is not in the output, before the cells of its block; nil for nobody.
	Aside func(row int64, kind rowkind.Kind)
}

// Try converts the first rows of a source, and hands over every cell; nothing is written. It returns how many rows it
// has read.
func Try(src table.Source, p *plan.Bound, o TryOptions, each func(Tried) error) (int64, error) {
	rows := o.Rows
	info := src.Info()
	relays := newRelays(context.Background(), p)
	w := newWorker(info, p, &Options{Repeats: o.Repeats}, relays)
	w.notesEmptied = true
	if o.Where != nil {
		w.counts = w.counts || o.Where.AsksNumber()
		w.asksFailed = w.asksFailed || o.Where.AsksFailed()
	}
	var lines table.Lines
	var read int64
	b := &table.Block{}
	for seq := 0; rows == 0 || read < rows; seq++ {
		b.Reset()
		b.Seq = seq
		err := src.Next(b)
		if err == io.EOF {
			break
		}
		if err != nil {
			return read, err
		}
		src.Split(b)
		w.convert(b, false)
		relays.forget(seq - 1)
		first := lines.Start(info, b)
		n := b.RowsOfFile()
		if rows > 0 {
			n = min(n, rows-read)
		}
		if err := w.tryBlock(b, &o, read, first, n, each); err != nil {
			return read, err
		}
		read += n
	}
	return read, nil
}

func (w *worker) tryBlock(b *table.Block, o *TryOptions, before, first, n int64, each func(Tried) error) error {
	res := b.Result.(*result)
	failures := res.failures
	for _, a := range res.aside {
		if o.Aside != nil && b.RowOf(a.row) < n {
			o.Aside(before+b.RowOf(a.row)+1, a.kind)
		}
	}
	for i := range res.lost {
		if f := res.lost[i]; b.RowOf(int(f.Row)) < n { // a copy: the list is used again
			t := Tried{
				From: b.TurnedFrom(int(f.Row)), Row: before + b.RowOf(int(f.Row)) + 1, Line: first + b.Line(int(f.Row)), Column: f.column,
				Hidden: w.columns[f.column].hidden, Raw: f.Value, Failure: &f,
			}
			if err := each(t); err != nil {
				return err
			}
		}
	}
	for r := 0; r < b.Rows && b.RowOf(r) < n; r++ {
		for len(failures) > 0 && failures[0].Row < int64(r) {
			failures = failures[1:]
		}
		own := failures // those of the row
		for i := range own {
			if own[i].Row != int64(r) {
				own = own[:i]
				break
			}
		}
		if res.rows.Out != nil && !res.rows.Out[r] {
			continue
		}
		at := here{b: b, res: res, row: r, before: w.before}
		meets, unclear := o.Where == nil, error(nil)
		if o.Where != nil {
			meets, unclear = at.holds(o.Where.Expression, o.Where.Raw)
		}
		for i := range w.columns {
			t := Tried{
				From: b.TurnedFrom(r), Meets: meets, Unclear: unclear, Emptied: res.emptiedAt[cellAt{r, i}],
				Row: before + b.RowOf(r) + 1, Line: first + b.Line(r), Column: i,
				Hidden: w.columns[i].hidden, Raw: w.columns[i].source(r), Out: string(res.cells[i].At(r)),
			}
			for j := range own {
				if f := own[j]; f.column == i {
					t.Failure = &f
				}
			}
			if err := each(t); err != nil {
				return err
			}
		}
	}
	return nil
}
