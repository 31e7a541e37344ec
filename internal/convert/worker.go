package convert

import (
	"slices"

	"junvo/internal/character"
	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/table"
)

// worker converts blocks. It serves one goroutine.
type worker struct {
	plan      *plan.Bound
	sink      table.Sink
	rowReader *rowkind.Reader
	columns   []*column
	numbers   []*column   // those that are added up
	stages    [][]*column // each after those that it is made of; those of a stage after what they ask of rows before
	visible   []int       // the columns that are written
	relays
	sectionHeadings headings  // of the block at hand
	splits          []*splits // of the plan's splits
	asks            bool      // whether a column sets rows aside
	hidden          []bool    // the columns of the source whose cells are not to be shown
	hides           bool      // whether there are any
	counts          bool      // whether the number of rows before a block matters
	before          rowCount  // that number
	// rowsOfPart is how many rows of a larger table stand before the source.
	rowsOfPart int64
	// asksFailed says that an expression asks which cells have failed.
	asksFailed bool
	// notesEmptied says that somebody wants to know which cells are emptied.
	notesEmptied bool
	decide       map[int]bool // the columns that decide which rows go out
	heirs        [][]int      // for each column the written ones that are made of it, if only by way of others
	// tellsFailures says that the sink wants to know which cells have failed.
	tellsFailures bool
	places        []int         // of the columns in the output, -1 for those that are not written
	fields        []table.Field // of the output, without those that say where a row came from
	// withOrigin has those too.
	withOrigin []table.Field
}

// result is what a worker has made of a block.
type result struct {
	rows      table.Rows
	cells     []table.Values // of the plan's columns, those of the output among them
	encoded   []byte
	out       int // rows that go out
	outMask   []bool
	failures  []Failure       // with the row in the block in place of Row
	lost      []Failure       // those of rows that were set aside for them
	emptiedAt map[cellAt]bool // where cells are emptied, if somebody wants to know; else nil
	failedAt  map[cellAt]bool // where there are failures, if an expression asks for that; else nil
	aside     []asideRow
	accounts  []Account
	earlier   []earlier // what the plan's expressions ask of rows before
	summed    summed
}

// cellAt is where a cell stands: its row in the block, and its column in the plan.
type cellAt struct{ row, column int }

type asideRow struct {
	row   int
	kind  rowkind.Kind
	cells []string
	// condition can't be worked out, and why says so; only of unclear rows.
	condition string
	why       error
}

func newWorker(info *table.Info, p *plan.Bound, o *Options, relays relays) *worker {
	w := &worker{
		plan: p, sink: o.Sink, relays: relays, rowReader: rowkind.NewReader(info.Names, info.Above, p.BlankWords),
		fields: p.Fields(), rowsOfPart: o.RowsBefore,
	}
	w.withOrigin = append(slices.Clone(w.fields), OriginFields...)
	for i := range p.Columns {
		c := newColumn(&p.Columns[i], p.BlankWords, len(p.Columns))
		c.repeats = o.Repeats.of(i)
		c.reader.Recall(reading.NewOutlines(len(p.Columns)))
		if o.Holds != nil {
			c.holds, c.asIs, c.verbatim = o.Holds, false, false
		}
		c.index, c.from, c.raw = i, p.From(i), p.Raw(c.plan.Compute)
		c.headed = &w.sectionHeadings
		c.asked = rowOf{&c.here, c.plan.Compute, c.raw}
		if c.filled.Above {
			c.above = &above{}
		}
		w.asks = w.asks || c.plan.OnFailure == plan.FailAside
		w.places = append(w.places, -1)
		if !c.plan.Helper {
			w.places[i] = len(w.visible)
			w.visible = append(w.visible, i)
		}
		w.columns = append(w.columns, c)
	}
	w.stages = make([][]*column, 1+len(relays.earlier))
	for i, c := range w.columns {
		if p.Order != nil {
			c = w.columns[p.Order[i]]
		}
		w.stages[c.plan.Stage()] = append(w.stages[c.plan.Stage()], c)
	}
	w.decide = p.Decide()
	w.numberColumns()
	w.share()
	w.hide(info, o.Reveal)
	for _, c := range w.columns {
		c.files = info.Files
		c.fix = o.Fixes.of(c.plan.Name, c.hidden)
	}
	w.counts = o.Fixes != nil || o.Repeats != nil || p.Asks(plan.AsksNumber) || len(p.Earlier) > 0
	w.asksFailed = p.Asks(plan.AsksFailed)
	if _, w.tellsFailures = o.Sink.(table.FailureReader); w.tellsFailures {
		w.inherit()
	}
	return w
}

// count finds how many rows stand before the block, where that matters.
func (w *worker) count(b *table.Block) {
	if !w.counts {
		return
	}
	before := w.rowsBefore.take(b.Seq - 1)
	if b.Seq == 0 {
		before = rowCount{w.rowsOfPart, w.rowsOfPart}
	}
	w.rowsBefore.hand(b.Seq, rowCount{before.file + b.RowsOfFile(), before.table + int64(b.Rows)})
	w.before = before
	for _, c := range w.columns {
		c.before = before
	}
}

// hide makes the reports show the shapes of private cells.
func (w *worker) hide(info *table.Info, reveal bool) {
	w.hidden = make([]bool, len(info.Names))
	if reveal {
		return
	}
	hiding := w.plan.Hiding()
	for i, name := range info.Names {
		w.hidden[i] = hiding[name]
		w.hides = w.hides || w.hidden[i]
	}
	for _, c := range w.columns {
		c.hidden = c.plan.Made() && c.plan.Hidden() || !c.plan.Made() && w.hidden[c.from]
	}
}

// tile is how many rows are converted column by column before the next: as many
// as the processor's nearest memory holds.
const tile = 128

// convert converts a block and leaves the result in it, encoded if asked.
func (w *worker) convert(b *table.Block, encode bool) {
	res, ok := b.Result.(*result)
	if !ok {
		res = &result{accounts: make([]Account, len(w.columns))}
		res.cells = make([]table.Values, len(w.columns))
		res.rows.Cells = make([]table.Values, 0, len(w.visible)+len(OriginFields))
		res.earlier = make([]earlier, len(w.plan.Earlier))
		b.Result = res
	}
	res.rows.Fields, res.rows.Count = w.fields, b.Rows
	table.Poison(res.failures)
	table.Poison(res.aside)
	table.Poison(res.lost)
	res.failures, res.aside, res.lost = res.failures[:0], res.aside[:0], res.lost[:0]
	for _, c := range w.columns {
		c.enter(b, res)
	}
	w.count(b)
	w.sort(b, res)
	w.lookAbove(b)
	w.lookHeadings(b, res)
	w.openStretches(b, res)
	w.pass(b, res, false)
	w.closeStretches(res)
	failed, left := w.setFailedAside(b, res), w.leaveOut(b, res)
	if failed || left {
		slices.SortStableFunc(res.aside, func(x, y asideRow) int { return x.row - y.row })
		res.out = b.Rows - len(res.aside)
		w.pass(b, res, true)
		w.addUpAgain(res)
	}
	sortFailures(res.failures)
	sortFailures(res.lost)
	res.rows.Cells = res.rows.Cells[:0]
	for _, i := range w.visible {
		res.rows.Cells = append(res.rows.Cells, res.cells[i])
	}
	res.rows.Helpers = res.rows.Helpers[:0]
	if len(w.plan.OrderBy) > 0 {
		for i := range w.plan.Columns {
			if w.plan.Columns[i].Helper {
				res.rows.Helpers = append(res.rows.Helpers, res.cells[i])
			}
		}
	}
	w.tellFailures(res)
	if encode {
		table.Poison(res.encoded)
		res.encoded = w.sink.Encode(res.encoded[:0], &res.rows)
	} else {
		res.rows.Fields = w.withOrigin
		res.rows.Cells = res.rows.Cells[:len(w.visible)+len(OriginFields)]
	}
}

// tellFailures tells the sink which cells have failed, if it wants to know.
func (w *worker) tellFailures(res *result) {
	if !w.tellsFailures {
		return
	}
	res.rows.Failed = res.rows.Failed[:0]
	for i := range res.failures {
		f := &res.failures[i]
		if w.places[f.column] >= 0 {
			res.rows.Failed = append(res.rows.Failed, table.FailedCell{
				Row: int(f.Row), Column: w.places[f.column],
				Reason: f.Reason.String(),
			})
		}
		for _, heir := range w.heirs[f.column] {
			if len(res.cells[heir].At(int(f.Row))) == 0 {
				res.rows.Failed = append(res.rows.Failed, table.FailedCell{
					Row: int(f.Row), Column: w.places[heir],
					Reason: f.Reason.String(), Inherited: true,
				})
			}
		}
	}
}

// inherit finds which columns are made of others.
func (w *worker) inherit() {
	w.heirs = make([][]int, len(w.columns))
	for i, c := range w.columns {
		if w.places[i] < 0 || !c.plan.Made() {
			continue
		}
		for from := range w.plan.MadeOf(c.plan.From()) {
			w.heirs[from] = append(w.heirs[from], i)
		}
	}
}

// pass converts the rows of a block that go out. Once more, without those that have been left out: those still are rows
// before others.
func (w *worker) pass(b *table.Block, res *result, again bool) {
	res.failures = res.failures[:0]
	if w.notesEmptied {
		res.emptiedAt = map[cellAt]bool{}
	}
	if w.asksFailed {
		res.failedAt = map[cellAt]bool{}
	}
	for _, s := range w.splits {
		s.pass++
	}
	for i, c := range w.columns {
		res.accounts[i] = Account{Steps: res.accounts[i].Steps[:0]}
		c.begin()
		c.cells += b.Rows
	}
	for stage, columns := range w.stages {
		if stage > 0 && !again {
			w.lookEarlier(b, res, stage)
		}
		for from := 0; from < b.Rows; from += tile {
			for _, c := range columns {
				to := min(from+tile, b.Rows)
				c.convert(from, to)
				if c.summand >= 0 && !again {
					c.addUp(from, to)
				}
			}
		}
	}
	for i, c := range w.columns {
		a := &res.accounts[i]
		a.Cells = int64(res.out)
		for _, n := range c.changed {
			a.Steps = append(a.Steps, StepCount{Changed: n})
		}
	}
}

// setFailedAside sets the rows aside of which a cell has failed in a column that asks for
// it, with all their failures, and reports whether there are any.
func (w *worker) setFailedAside(b *table.Block, res *result) bool {
	if !w.asks {
		return false
	}
	failed := map[int]bool{}
	for _, f := range res.failures {
		if w.plan.Columns[f.column].OnFailure == plan.FailAside {
			failed[int(f.Row)] = true
		}
	}
	for _, f := range res.failures {
		if failed[int(f.Row)] {
			res.lost = append(res.lost, f)
		}
	}
	for row := range b.Rows {
		if failed[row] {
			w.setAside(b, res, row, rowkind.Failed)
		}
	}
	return len(failed) > 0
}

// sort finds the rows that are set aside.
func (w *worker) sort(b *table.Block, res *result) {
	res.rows.Out = nil
	rowkind.Odd(b, w.rowReader, func(row int, k rowkind.Kind) {
		if !w.plan.SetAside[k] {
			return
		}
		w.setAside(b, res, row, k)
	})
	res.out = b.Rows - len(res.aside)
}

// setAside keeps a row out of the output.
func (w *worker) setAside(b *table.Block, res *result, row int, k rowkind.Kind) {
	if res.rows.Out == nil {
		res.outMask = slices.Grow(res.outMask[:0], b.Rows)[:b.Rows]
		for i := range res.outMask {
			res.outMask[i] = true
		}
		res.rows.Out = res.outMask
	}
	res.outMask[row] = false
	cells := b.RowCells(row)
	for i := range cells {
		if w.hides && (i >= len(w.hidden) || w.hidden[i]) { // a cell too many may be any
			cells[i] = character.Shape(cells[i])
		}
	}
	res.aside = append(res.aside, asideRow{row: row, kind: k, cells: cells})
}
