package step

import (
	"fmt"
	"strings"

	"github.com/rivo/uniseg"

	"junvo/internal/pattern"
	"junvo/internal/reason"
)

// Split makes a fixed number of pieces of a text.
type Split struct {
	n   int
	cut func(text string) []string
}

// SplitArgs are the forms that the arguments of a split take.
var SplitArgs = []string{
	"at: a text, at every occurrence of which is split; with nth, at that one only, from 1, or -1 for the last",
	"positions: [N, …]: after how many characters, counted from the start",
	"pattern: a regular expression (RE2) for the whole text, each group of which is a piece",
}

// NewSplit makes a split into n pieces of its arguments.
func NewSplit(args Args, n int) (*Split, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	s := &Split{n: n}
	var form func(*fields) error
	for key, one := range map[string]func(*fields) error{"at": s.at, "positions": s.positions, "pattern": s.pattern} {
		switch {
		case !f.has(key):
		case form != nil:
			return nil, fmt.Errorf("it splits in one way: at, positions or pattern")
		default:
			form = one
		}
	}
	if form == nil {
		return nil, fmt.Errorf("it does not say where to split: at, positions or pattern")
	}
	if err := form(f); err != nil {
		return nil, err
	}
	return s, f.done()
}

func (s *Split) at(f *fields) error {
	sep := f.text("at", "")
	if sep == "" {
		return fmt.Errorf("at is a text")
	}
	if !f.has("nth") {
		s.cut = func(text string) []string { return strings.Split(text, sep) }
		return nil
	}
	nth := f.nth("nth", 1)
	if s.n != 2 {
		return fmt.Errorf("a split at one place makes two pieces, not %d", s.n)
	}
	s.cut = func(text string) []string {
		i, ok := occurrence(text, sep, nth)
		if !ok {
			return []string{text}
		}
		return []string{text[:i], text[i+len(sep):]}
	}
	return nil
}

func (s *Split) positions(f *fields) error {
	f.used["positions"] = true
	list, _ := f.args["positions"].([]Args)
	var at []int
	for _, a := range list {
		n, ok := a.(int)
		if !ok || n < 1 || len(at) > 0 && n <= at[len(at)-1] {
			return fmt.Errorf("positions is a list of whole numbers from 1, each larger than the one before")
		}
		at = append(at, n)
	}
	if len(at)+1 != s.n {
		return fmt.Errorf("%d positions make %d pieces, not %d", len(at), len(at)+1, s.n)
	}
	s.cut = func(text string) []string {
		var pieces []string
		chars, start, next := 0, 0, 0
		g := uniseg.NewGraphemes(text)
		for g.Next() {
			if from, _ := g.Positions(); next < len(at) && chars == at[next] {
				pieces = append(pieces, text[start:from])
				start = from
				next++
			}
			chars++
		}
		return append(pieces, text[start:])
	}
	return nil
}

func (s *Split) pattern(f *fields) error {
	p, err := pattern.Compile(`\A(?:` + f.text("pattern", "") + `)\z`)
	if err != nil {
		return err
	}
	if p.NumSubexp() != s.n {
		return fmt.Errorf("the pattern has %d groups, and there are %d pieces", p.NumSubexp(), s.n)
	}
	s.cut = func(text string) []string {
		m := p.FindStringSubmatch(text)
		if m == nil {
			return nil
		}
		return m[1:]
	}
	return nil
}

// Pieces returns the pieces of a text, or why there are not as many as there have to be.
func (s *Split) Pieces(text string) ([]string, reason.Reason) {
	pieces := s.cut(text)
	switch {
	case len(pieces) < s.n:
		return nil, reason.TooFewPieces
	case len(pieces) > s.n:
		return nil, reason.TooManyPieces
	}
	return pieces, reason.None
}

// Piece returns the step that takes the nth piece, counted from 0.
func (s *Split) Piece(n int) Step { return piece{s, n} }

// PieceOf returns the split and the number of the piece of a step that Piece has returned.
func PieceOf(s Step) (*Split, int) {
	p := s.(piece)
	return p.split, p.n
}

type piece struct {
	split *Split
	n     int
}

func (p piece) Apply(text string) (string, reason.Reason) {
	pieces, why := p.split.Pieces(text)
	if why != reason.None {
		return text, why
	}
	return pieces[p.n], reason.None
}
