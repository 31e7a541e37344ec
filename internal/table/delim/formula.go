package delim

import (
	"sync/atomic"

	"junvo/internal/table"
	"junvo/internal/value"
)

// formulaSign is true for the signs with which a cell begins that programs run as a formula
// when they open delimited text, unless it is a number.
//
// A tab or a line break may stand before the sign; programs drop them. Spaces before it, and
// the full-width forms of the signs, make text of the cell in the programs that were looked at.
var formulaSign = [256]bool{'=': true, '+': true, '-': true, '@': true, '\t': true, '\r': true, '\n': true}

// formulas counts such cells as they are written, and guards them where that is asked: an
// apostrophe before the sign makes the programs take the cell as text.
type formulas struct {
	guard bool
	cells atomic.Int64
}

// Formulas returns how many cells that were written look like formulas.
func (s *Sink) Formulas() int64 { return s.formulas.cells.Load() }

// Guarded reports whether they are guarded.
func (s *Sink) Guarded() bool { return s.formulas.guard }

// Guard makes the sink put an apostrophe before cells that look like formulas.
func (s *Sink) Guard() { s.formulas.guard = true }

// formulaLike looks closer at text that begins with such a sign.
func formulaLike(text []byte) bool {
	for len(text) > 0 && (text[0] == '\t' || text[0] == '\r' || text[0] == '\n') {
		text = text[1:]
	}
	if len(text) == 0 || !formulaSign[text[0]] {
		return false
	}
	if text[0] == '+' {
		text = text[1:]
	}
	return !value.IsNumber(text)
}

// guarded puts an apostrophe before a cell, where that is asked.
func (f *formulas) guarded(v *table.Values, row int, text []byte) {
	if !f.guard {
		return
	}
	start := len(v.Text)
	v.Text = append(append(v.Text, '\''), text...)
	v.Spans[row] = table.Span{Start: uint32(start), N: uint32(len(v.Text)-start) | table.Made}
}
