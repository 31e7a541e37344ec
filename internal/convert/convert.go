// Package convert runs a plan over a source: it writes typed rows to a sink,
// reports every cell that failed and every row that was set aside, and accounts
// for all of them in a ledger.
//
//	ledger, err := convert.Run(ctx, source, bound, convert.Options{Workers: 2, Sink: sink})
//	if err == nil {
//		err = ledger.Check()
//	}
//
// The workers convert blocks, each column of a block at a time; failures, rows set
// aside and output leave in block order, so that the result is the same for any
// number of workers.
package convert

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Failure is a cell that could not become its column's type.
type Failure struct {
	File      string
	Row, Line int64
	Address   string // of the cell in a sheet, "" elsewhere
	Column    string
	From      string // the column of the file that the cell stood in, where columns have become rows; "" elsewhere
	Value     string // as it came
	Wanted    value.Type
	Reason    reason.Reason
	Detail    string // what stood where; empty where the reason says it all
	column    int    // in the plan
}

// Position returns where the column stands in the plan, from 0.
func (f *Failure) Position() int { return f.column }

// AsideRow is a row that was set aside.
type AsideRow struct {
	File      string
	Row, Line int64 // Row is 0 for lines above the header
	Reason    string
	Cells     []string
}

// Options say where the results go.
type Options struct {
	Workers int
	Sink    table.Sink
	// Holds returns why the output's format can't hold a value, "" where it can; nil where it
	// holds all.
	Holds    func(t value.Type, text []byte) string
	Failure  func(Failure) error  // called for every failure, in the order of rows
	Aside    func(AsideRow) error // called for every row set aside, in order
	Fixes    *Fixes               // answers to failures; nil for none
	Repeats  *Repeats             // of columns that must be unique, see FindRepeats; nil for none
	Progress func(bytes, rows int64)
	Reveal   bool // show values of private columns in failures and rows set aside
	// RowsBefore is how many rows of a larger table stand before those of the source, which is a part of it.
	RowsBefore int64
	// Origin adds the file, row and line of every row as the last three columns. The
	// sink must have been made with the fields of [OriginFields] after the plan's.
	Origin bool
}

// OriginFields are the columns that Origin adds.
var OriginFields = []table.Field{
	{Name: "source_file", Type: value.Text},
	{Name: "source_row", Type: value.Integer},
	{Name: "source_line", Type: value.Integer},
}

// Run converts a source.
func Run(ctx context.Context, src table.Source, p *plan.Bound, o Options) (*Ledger, error) {
	r := &run{info: src.Info(), plan: p, o: o, ledger: &Ledger{}, tally: tally{}}
	for i := range p.Columns {
		r.ledger.Columns = append(r.ledger.Columns, accountOf(&p.Columns[i]))
	}
	r.ledger.Above = int64(len(r.info.Above))
	for _, l := range r.info.Above {
		if err := o.aside(AsideRow{
			File: r.info.Files[l.File].Name, Line: l.Number, Reason: l.Reason,
			Cells: []string{l.Text},
		}); err != nil {
			return nil, err
		}
	}
	r.relays = newRelays(ctx, p)
	r.adding = newAdding(p, r.info)
	workers := make([]*worker, o.Workers)
	for i := range workers {
		workers[i] = newWorker(r.info, p, &o, r.relays)
	}
	work := func(n int, b *table.Block) { workers[n].convert(b, !o.Origin) }
	if err := table.Each(ctx, src, o.Workers, work, r.finish); err != nil {
		return nil, err
	}
	for i := range r.ledger.Doubts {
		r.ledger.Doubts[i].Count = r.ledger.SetAside[rowkind.Unclear]
	}
	r.tally.report(r.ledger)
	r.adding.report(r.ledger, p)
	if r.info.Continues || r.info.More {
		r.adding.open(r.ledger, p, r.info.More)
	}
	return r.ledger, nil
}

// accountOf opens the account of a column.
func accountOf(c *plan.Column) Account {
	t := &c.Terms
	a := Account{
		Name: c.Name, Type: c.Convention.Type, Helper: c.Helper, Made: c.Made(), Convention: t.Say(), DecimalMark: t.DecimalMark,
		DateOrder: t.DateOrder[""],
	}
	for _, s := range c.Steps {
		a.Steps = append(a.Steps, StepCount{Name: s.Name})
	}
	return a
}

// run is what is done in block order.
type run struct {
	info   *table.Info
	plan   *plan.Bound
	o      Options
	ledger *Ledger
	lines  table.Lines
	bytes  int64
	tally  tally
	adding *adding
	relays
}

func (o *Options) aside(a AsideRow) error {
	if o.Aside == nil {
		return nil
	}
	return o.Aside(a)
}

// finish writes what a worker has made of a block.
func (r *run) finish(b *table.Block) error {
	r.forget(b.Seq - 1)
	res := b.Result.(*result)
	first := r.lines.Start(r.info, b)
	line := func(row int) int64 { return first + b.Line(row) }
	file := r.info.Files[b.File].Name
	before := r.o.RowsBefore + r.ledger.RowsIn
	if err := r.stopped(b, before, file, line); err != nil {
		return err
	}
	r.ledger.FailedAside += int64(len(res.lost))
	for _, f := range inRows(res.failures, res.lost) {
		f.File, f.Line = file, line(int(f.Row))
		f.Row = before + b.RowOf(int(f.Row)) + 1
		r.tally.add(&f)
		if c := &r.plan.Columns[f.column]; r.info.Sheet && !c.Made() {
			f.Address = table.Address(r.plan.From(f.column)+1, f.Line)
		}
		if r.o.Failure != nil {
			if err := r.o.Failure(f); err != nil {
				return err
			}
		}
	}
	for _, a := range res.aside {
		k := a.kind
		if k == rowkind.SwappedHeading {
			return &SwappedError{file, before + b.RowOf(a.row) + 1, line(a.row)}
		}
		row := AsideRow{File: file, Row: before + b.RowOf(a.row) + 1, Line: line(a.row), Reason: k.String(), Cells: a.cells}
		r.ledger.SetAside[k]++
		if k == rowkind.Unclear && r.ledger.SetAside[k] == 1 {
			r.ledger.Doubts = append(r.ledger.Doubts, Doubt{
				Name: rowkind.Catalogue[k].Plural, Say: fmt.Sprintf("%s can't be worked out for some rows, such as row %d (line %d): %s. They are "+
					"set aside", a.condition, row.Row, row.Line, a.why),
			})
		}
		if err := r.o.aside(row); err != nil {
			return err
		}
	}
	r.adding.add(b.File, &res.summed, func(row int, differ []TotalDiffer, waits *WaitingTotal) {
		if waits != nil {
			waits.File, waits.Row, waits.Line = file, before+b.RowOf(row)+1, line(row)
			r.adding.waiting = append(r.adding.waiting, *waits)
			return
		}
		for i := range differ {
			d := &differ[i]
			d.File, d.Row, d.Line, d.Column = file, before+b.RowOf(row)+1, line(row), r.plan.Columns[d.column].Name
		}
		r.ledger.Totals.note(differ)
	})
	if r.o.Origin {
		res.origin(file, b, before, line)
		res.encoded = r.o.Sink.Encode(res.encoded[:0], &res.rows)
	}
	if err := r.o.Sink.Write(res.encoded, &res.rows); err != nil {
		return err
	}
	for i := range res.accounts {
		r.ledger.Columns[i].add(&res.accounts[i])
	}
	r.ledger.RowsIn += b.RowsOfFile()
	if b.From != nil {
		r.ledger.Turned += int64(b.Rows)
	}
	r.ledger.RowsOut += int64(res.out)
	r.bytes += int64(len(b.Raw))
	if r.o.Progress != nil {
		r.o.Progress(r.bytes, r.ledger.RowsIn)
	}
	return nil
}

// StopError says that a cell failed where the plan says to stop.
type StopError struct{ Failure Failure }

func (e *StopError) Error() string {
	f := e.Failure
	return fmt.Sprintf("row %d (line %d) of %s failed in column %q, where the plan says to stop: %s", f.Row, f.Line,
		f.File, f.Column, f.Reason)
}

// SwappedError says that the names of the columns stand again in another order, so that the rows
// below have their values in other columns.
type SwappedError struct {
	File      string
	Row, Line int64
}

func (e *SwappedError) Error() string {
	return fmt.Sprintf("row %d (line %d) of %s has the names of the columns in another order, so that the rows below "+
		"it stand in other columns: split the file there. Nothing was written", e.Row, e.Line, e.File)
}

// stopped returns an error if a failure of the block is to stop the conversion.
func (r *run) stopped(b *table.Block, before int64, file string, line func(int) int64) error {
	res := b.Result.(*result)
	for _, f := range inRows(res.failures, res.lost) {
		if r.plan.Columns[f.column].OnFailure == plan.FailStop {
			f.File, f.Line = file, line(int(f.Row))
			f.Row = before + b.RowOf(int(f.Row)) + 1
			return &StopError{f}
		}
	}
	return nil
}

// inRows returns two lists of failures, each in the order of rows, as one.
func inRows(a, b []Failure) []Failure {
	if len(b) == 0 {
		return a
	}
	all := slices.Concat(a, b)
	sortFailures(all)
	return all
}

// origin adds the columns that say where each row came from.
func (res *result) origin(name string, b *table.Block, before int64, line func(int) int64) {
	cells := res.rows.Cells[len(res.rows.Cells)-len(OriginFields):]
	for i := range cells {
		cells[i].Reset(nil)
		cells[i].Plain = i > 0
	}
	for r := range b.Rows {
		var starts [3]int
		for i := range cells {
			starts[i] = len(cells[i].Text)
		}
		cells[0].Text = append(cells[0].Text, name...)
		cells[1].Text = strconv.AppendInt(cells[1].Text, before+b.RowOf(r)+1, 10)
		cells[2].Text = strconv.AppendInt(cells[2].Text, line(r), 10)
		for i := range cells {
			cells[i].AddMade(starts[i])
		}
	}
}
