package convert

import (
	"fmt"
	"sync/atomic"

	"junvo/internal/character"
)

// Fixes are a person's answers to failures: a text in place of a cell that failed, for
// the cell of one row, or for every cell of the column that has the same text.
type Fixes struct {
	shown   func(string) string // how failures show a cell's text
	answers map[[2]string]map[Place]*Answer
	order   []*Answer
}

// Place is where a cell stands: its row, the column of the file where columns have become rows, and the file where
// there are several, or have been. The zero Place is every cell of a text.
type Place struct {
	Row  int64
	From string
	File string
}

// Answer is one fix.
type Answer struct {
	Column, Value, Fix string
	Place
	asked, used atomic.Int64
}

// State says whether the answer was used: yes; refused, where it is no value of the column; or no,
// where no failure has asked for it.
func (a *Answer) State() string {
	switch {
	case a.used.Load() > 0:
		return "yes"
	case a.asked.Load() > 0:
		return "refused"
	}
	return "no"
}

// blankOnPurpose is the answer for a cell that is meant to be blank.
const blankOnPurpose = "(blank)"

// NewFixes returns no fixes yet. Values are compared as shown shows them, since that is
// what a person had before them.
func NewFixes(shown func(string) string) *Fixes {
	return &Fixes{shown: shown, answers: map[[2]string]map[Place]*Answer{}}
}

// Add adds the answer for a text of a column at a place. Two answers for one cell are an error.
func (f *Fixes) Add(at Place, column, value, fix string) (*Answer, error) {
	key := [2]string{column, value}
	if have := f.answers[key][at]; have != nil {
		if have.Fix != fix {
			// Not which, since the column may be private.
			return nil, fmt.Errorf("column %q has two answers for %q, which differ: keep one", column, value)
		}
		return have, nil
	}
	a := &Answer{Column: column, Value: value, Fix: fix, Place: at}
	if f.answers[key] == nil {
		f.answers[key] = map[Place]*Answer{}
	}
	f.answers[key][at] = a
	f.order = append(f.order, a)
	return a, nil
}

// of returns the answers to the failures of a column, nil where there are none. Those of
// a hidden column stand beside the shape of the cell, so that they hold for one row only.
func (f *Fixes) of(column string, hidden bool) func(cell []byte, at Place) *Answer {
	if f == nil {
		return nil
	}
	shown := f.shown(column)
	return func(cell []byte, at Place) *Answer {
		text := string(cell)
		if hidden {
			text = character.Shape(text)
		}
		answers := f.answers[[2]string{shown, f.shown(text)}]
		at.File = f.shown(at.File)
		if at.From != "" {
			at.From = f.shown(at.From)
		}
		a := answers[at]
		if a == nil {
			at.File = "" // the list was of one file
			a = answers[at]
		}
		if a == nil && !hidden {
			a = answers[Place{}]
		}
		if a != nil {
			a.asked.Add(1)
		}
		return a
	}
}

// None reports whether there are no answers.
func (f *Fixes) None() bool { return len(f.order) == 0 }

// Unused lists the answers that no failure has asked for.
func (f *Fixes) Unused() (list []*Answer) {
	for _, a := range f.order {
		if a.asked.Load() == 0 {
			list = append(list, a)
		}
	}
	return list
}
