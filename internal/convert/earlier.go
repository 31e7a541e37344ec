package convert

import (
	"fmt"
	"math"

	"junvo/internal/plan"
	"junvo/internal/table"
	"junvo/internal/value"
)

// An expression may ask for the value that a column has in the row before, and for the sum of its values up to a row.
// The rows are those of the source that are data; whether a condition leaves them out does not matter, since a
// condition may ask that, too. When a block's columns of one stage have been converted, it takes from the block
// before what that had at its end, and hands on what it has at its own; then the columns that ask for it are
// converted.

// earlier is what the rows of a block are told of the rows before them, about one column.
type earlier struct {
	asked  plan.Earlier
	values table.Values // for each row
	lost   int          // the row from which on there is no sum, since a cell has failed
	failed int64        // the number of that cell's row in the source
	column string       // its name
}

// soFar is what a block hands on about one column.
type soFar struct {
	any    bool   // whether there is anything
	text   string // the value in the last row, or the sum, "" for none
	failed int64  // the first row whose cell has failed, which a sum would lack; 0 for none
}

// at returns what a row is told, and why there is nothing to tell.
func (e *earlier) at(row int) (text, why string) {
	if row >= e.lost {
		return "", fmt.Sprintf("%s has failed in row %d, and from there on the sum is not known", e.column, e.failed)
	}
	return string(e.values.At(row)), ""
}

// lookEarlier finds what the rows of a block are told, about the columns that one stage asks for.
func (w *worker) lookEarlier(b *table.Block, res *result, stage int) {
	relay := w.relays.earlier[stage-1]
	own := make([]soFar, len(res.earlier))
	for i, asked := range w.plan.Earlier {
		if e := &res.earlier[i]; asked.Stage == stage {
			*e = earlier{asked: asked, column: w.plan.Columns[asked.Column].Name, values: e.values, lost: math.MaxInt}
			own[i] = e.ofBlock(res, b.Rows, func(row int) int64 { return w.before.file + b.RowOf(row) + 1 })
		}
	}
	before := relay.take(b.Seq - 1)
	if before == nil {
		before = make([]soFar, len(own))
	}
	after := make([]soFar, len(own))
	for i := range own {
		after[i] = before[i].and(own[i], res.earlier[i].asked.Sum)
	}
	relay.hand(b.Seq, after)
	for i, asked := range w.plan.Earlier {
		if asked.Stage == stage {
			res.earlier[i].tell(res, b.Rows, before[i])
		}
	}
}

// ofBlock returns what a block has of the column by itself; number returns what a row is called.
func (e *earlier) ofBlock(res *result, rows int, number func(row int) int64) (own soFar) {
	cells := &res.cells[e.asked.Column]
	if !e.asked.Sum {
		for row := rows - 1; row >= 0; row-- {
			if res.isData(row) {
				return soFar{text: string(cells.At(row)), any: true}
			}
		}
		return soFar{}
	}
	for i := range res.failures {
		if f := &res.failures[i]; f.column == e.asked.Column && int(f.Row) < e.lost {
			e.lost, e.failed = int(f.Row), number(int(f.Row))
		}
	}
	var sum value.Adder
	for row := range min(rows, e.lost) {
		if res.isData(row) {
			sum.Add(cells.At(row))
		}
	}
	return soFar{text: sum.Text(), failed: e.failed, any: true}
}

// and returns what there is after a block that has its own.
func (s soFar) and(own soFar, isSum bool) soFar {
	switch {
	case !own.any || s.failed > 0:
		return s
	case !isSum:
		return own
	}
	var sum value.Adder
	sum.Add([]byte(s.text))
	sum.Add([]byte(own.text))
	return soFar{text: sum.Text(), failed: own.failed, any: true}
}

// tell fills in what each row is told, after what the block before has handed on.
func (e *earlier) tell(res *result, rows int, before soFar) {
	if before.failed > 0 {
		e.lost, e.failed = 0, before.failed
	}
	cells := &res.cells[e.asked.Column]
	e.values.Reset(nil)
	var sum value.Adder
	sum.Add([]byte(before.text))
	last := []byte(before.text)
	for row := range rows {
		switch {
		case !res.isData(row):
			e.values.AddBlank()
		case e.asked.Sum:
			sum.Add(cells.At(row))
			e.values.AddText([]byte(sum.Text()))
		default:
			e.values.AddText(last)
			last = cells.At(row)
		}
	}
}

// isData reports whether a row of the block has not been set aside.
func (res *result) isData(row int) bool { return res.rows.Out == nil || res.rows.Out[row] }
