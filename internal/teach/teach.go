// Package teach finds rules by examples: what someone shows of a few cells, as steps that do the same to all of them.
// It also finds where the rules that fit the examples disagree over a whole column, so that nobody has to trust the
// first one.
//
//	task := &teach.Task{Sources: sources, Examples: examples}
//	found, err := task.Over(ctx, run) // the rules that may be meant, and where they disagree over all rows
//
// A rule is a concatenation of pieces: constant texts, and what a short chain of steps takes of a cell, as it came or
// as it is read. The chains are enumerated bottom-up, from one step to three; chains that give the same texts for all
// examples are one class (observational equivalence, as in Albarghouthi, Gulwani and Kincaid, "Recursive program
// synthesis", CAV 2013), of which the cheapest members are kept. How results are made of pieces is a version space: a
// graph whose nodes are the places in the results of all examples at once, and whose edges are the classes (Lau et al.,
// "Programming by demonstration using version space algebra", Machine Learning 53, 2003; Gulwani, "Automating string
// processing in spreadsheets using input-output examples", POPL 2011). The cheapest ways through it are the rules.
//
// Members of one class are kept apart, since it is them that differ on other cells: the first run of digits and the
// last one are the same in "lot 88", and in no longer text.
package teach

import (
	"slices"
	"strings"
	"unsafe"

	"junvo/internal/character"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/step"
)

// Source is a text of a row that rules may use: a cell as it came, or its value as it is written under a convention.
type Source struct {
	Column string       // the name of the source's column
	Read   *plan.Column // how it is read; nil for the cell as it came
	Digits int          // for a number: how many digits after the point it is written with, plus one; 0 for as many as it has
	Up     bool         // halves are rounded up then, and not to the even digit
}

// Example is a row of which it is known what is to come out.
type Example struct {
	Texts  []string // of the sources
	Result string   // "" for no result
}

// None reports whether there is to be no result.
func (e *Example) None() bool { return e.Result == "" }

// Piece is a part of a rule's result: what the steps make of a source's text, or a constant text.
type Piece struct {
	Source int
	Chain  step.Chain
	Text   string // a constant text, where it is not ""
	cost   float64
	first  *step.Named // of the chain; each step of a search is made once
}

// Rule makes a result of the texts of a row.
type Rule struct {
	Pieces []*Piece
	// Blanks says that the result is made of those pieces that there are where others are blank or fail; otherwise there
	// is none then.
	Blanks bool
	// Without says that a text in which a step does not find what it takes has no result; otherwise it fails.
	Without bool
	// Several says that it is made of several columns; it fails then where one of their cells is blank.
	Several bool
	Cost    float64 // of what it says: the simplest rules cost the least
	// attached says of each piece whether constants belong to it as steps of its own, so that a space with them is no
	// blank.
	attached []bool
}

// Outcome is what a rule does with a row.
type Outcome uint8

// The outcomes.
const (
	Answered Outcome = iota
	Left             // there is no result: the cells are blank, or the steps leave nothing of them
	Failed           // a step does not find what it takes
	numOutcomes
)

// outcome is what has become of a row, or of a piece.
type outcome struct {
	text string
	of   Outcome
}

// apply takes the text of a source through the steps.
func (p *Piece) apply(texts []string) outcome {
	if p.Text != "" {
		return outcome{text: p.Text}
	}
	text := texts[p.Source]
	if text == "" {
		return outcome{of: Left}
	}
	out, _, why := p.Chain.Apply(text)
	switch {
	case why != reason.None:
		return outcome{of: Failed}
	case out == "":
		return outcome{of: Left}
	}
	return outcome{text: out}
}

// attach finds the pieces that constants belong to, in the way that the plan has them.
func (r *Rule) attach() {
	r.attached = make([]bool, len(r.Pieces))
	if r.expressed() && len(r.variable()) > 1 {
		return
	}
	if _, separated := r.separator(); separated {
		return
	}
	first := slices.IndexFunc(r.Pieces, func(p *Piece) bool { return p.Text == "" })
	for i, p := range r.Pieces {
		switch {
		case p.Text == "":
		case i < first:
			r.attached[first] = true
		default:
			for j := i; j >= 0; j-- {
				if r.Pieces[j].Text == "" {
					r.attached[j] = true
					break
				}
			}
		}
	}
}

// expressed reports whether a plan makes the result of several pieces by an expression, and not by a join.
func (r *Rule) expressed() bool { return !r.Blanks && (!r.Several || r.Without) }

// empty reports whether a text is blank: it has nothing but spaces and what does not show.
func empty(text string) bool {
	if text != "" && text[0] > ' ' && text[0] < 0x7f {
		return false
	}
	return strings.TrimFunc(text, func(r rune) bool { return character.Space(r) || character.Invisible(r) }) == ""
}

// Apply returns what the rule makes of the texts of a row.
func (r *Rule) Apply(texts []string) (string, Outcome) {
	o, _ := r.join(func(i int) outcome { return r.Pieces[i].apply(texts) }, nil)
	return o.text, o.of
}

// join makes the result of what has become of the pieces. Its text stands in the buffer, unless it is that of the only
// piece.
func (r *Rule) join(of func(i int) outcome, buffer []byte) (outcome, []byte) {
	if len(r.Pieces) == 1 {
		one := of(0)
		if one.of == Failed && r.Without || one.of == Answered && empty(one.text) {
			one = outcome{of: Left}
		}
		return one, buffer
	}
	start := len(buffer)
	answered, left, failed := 0, 0, false
	pending := ""
	for i, p := range r.Pieces {
		one := of(i)
		if p.Text == "" && one.of == Answered && !r.attached[i] && empty(one.text) {
			one.of = Left
		}
		switch {
		case p.Text != "" && r.Blanks:
			if pending = ""; answered > 0 {
				pending = p.Text
			}
		case p.Text != "":
			buffer = append(buffer, p.Text...)
		case one.of == Answered:
			buffer = append(append(buffer, pending...), one.text...)
			pending = ""
			answered++
		case one.of == Left || r.Blanks: // a join that leaves blank pieces out does so with those that fail
			left++
		default:
			failed = true
		}
	}
	switch {
	case failed && !r.Without, left > 0 && r.Several && !r.Blanks && !r.Without:
		return outcome{of: Failed}, buffer[:start]
	case failed, answered == 0, left > 0 && !r.Blanks:
		return outcome{of: Left}, buffer[:start]
	}
	text := buffer[start:]
	made := unsafe.String(unsafe.SliceData(text), len(text))
	if empty(made) {
		return outcome{of: Left}, buffer[:start]
	}
	return outcome{text: made}, buffer
}

// variable returns the pieces that are not constant.
func (r *Rule) variable() (list []*Piece) {
	for _, p := range r.Pieces {
		if p.Text == "" {
			list = append(list, p)
		}
	}
	return list
}

// Uses returns the sources that the rule is made of.
func (r *Rule) Uses() (list []int) {
	for _, p := range r.variable() {
		if !slices.Contains(list, p.Source) {
			list = append(list, p.Source)
		}
	}
	return list
}

// fits reports whether a rule gives what an example shows.
func (r *Rule) fits(e *Example) bool {
	out, of := r.Apply(e.Texts)
	if e.None() {
		return of != Answered
	}
	return of == Answered && out == e.Result
}
