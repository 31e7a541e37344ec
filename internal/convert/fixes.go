package convert

import (
	"fmt"
	"sync/atomic"
)

// Fixes are a person's answers to failures: a text in place of a cell that failed, for
// every cell of the column that has the same text.
type Fixes struct {
	shown   func(string) string // how failures show a cell's text
	answers map[[2]string]*answer
	order   []*answer
}

type answer struct {
	column, value, fix string
	used               atomic.Int64
}

// NewFixes returns no fixes yet. Values are compared as shown shows them, since that is
// what a person had before them.
func NewFixes(shown func(string) string) *Fixes {
	return &Fixes{shown: shown, answers: map[[2]string]*answer{}}
}

// Add adds the answer for a text of a column. Two answers for one text are an error.
func (f *Fixes) Add(column, value, fix string) error {
	key := [2]string{column, value}
	if have := f.answers[key]; have != nil {
		if have.fix != fix {
			return fmt.Errorf("column %q has two answers for %q: %q and %q", column, value, have.fix, fix)
		}
		return nil
	}
	a := &answer{column: column, value: value, fix: fix}
	f.answers[key] = a
	f.order = append(f.order, a)
	return nil
}

// Len returns how many answers there are.
func (f *Fixes) Len() int { return len(f.order) }

// of returns the answers to the failures of a column, nil where there are none.
func (f *Fixes) of(column string) func(cell []byte) (string, bool) {
	if f == nil {
		return nil
	}
	shown := f.shown(column)
	return func(cell []byte) (string, bool) {
		a := f.answers[[2]string{shown, f.shown(string(cell))}]
		if a == nil {
			return "", false
		}
		a.used.Add(1)
		return a.fix, true
	}
}

// Unused lists the answers that no failure has asked for, as column and value.
func (f *Fixes) Unused() (list [][2]string) {
	for _, a := range f.order {
		if a.used.Load() == 0 {
			list = append(list, [2]string{a.column, a.value})
		}
	}
	return list
}
