package step

import (
	"fmt"
	"slices"
	"strings"

	"github.com/rivo/uniseg"

	"junvo/internal/pattern"
	"junvo/internal/reason"
)

// Split makes a fixed number of pieces of a text.
type Split struct {
	n int
	// cut returns the pieces of a text, and whether it is cut anywhere.
	cut func(text string) ([]string, bool)
	// What becomes of texts that are not cut into n pieces.
	otherwise absent
	missing   string // blank or fail: there are too few
	rest      string // keep, join or fail: there are too many
	// whole returns the last piece, with all of the text behind it.
	whole func(text string) string
}

// NewSplit makes a split into n pieces of its arguments.
func NewSplit(args Args, n int) (*Split, error) {
	f, err := fieldsOf(args)
	if err != nil {
		return nil, err
	}
	s := &Split{n: n}
	var form func(*fields) error
	for key, one := range map[string]func(*fields) error{
		"at": s.at, "turn": s.turn, "positions": s.positions,
		"pattern": s.pattern,
	} {
		switch {
		case !f.has(key):
		case form != nil:
			return nil, fmt.Errorf("it splits in one way: at, turn, positions or pattern")
		default:
			form = one
		}
	}
	if form == nil {
		return nil, fmt.Errorf("it does not say where to split: at, turn, positions or pattern")
	}
	s.missing = f.oneOf("missing", "fail", "blank")
	s.rest = f.oneOf("rest", "fail", "keep", "join")
	if s.otherwise = f.otherwise("missing"); s.otherwise.way == "" {
		f.fail("otherwise is blank, keep or fail")
	}
	if err := form(f); err != nil {
		return nil, err
	}
	if s.rest == "keep" && s.whole == nil {
		f.fail("rest: keep goes with at and turn")
	}
	return s, f.done()
}

// oneOf reads an argument that is one of some words; the first is its value without it.
func (f *fields) oneOf(key string, words ...string) string {
	word := f.text(key, words[0])
	if !slices.Contains(words, word) {
		f.fail("%s is %s, not %q", key, strings.Join(words, ", "), word)
	}
	return word
}

func (s *Split) at(f *fields) error {
	d, err := f.delimiter("at", f.flag("ignore-case"))
	if err != nil {
		return err
	}
	return s.cutAt(f, d)
}

func (s *Split) turn(f *fields) error {
	list, _ := f.args["turn"].([]Args)
	f.used["turn"] = true
	if len(list) != 2 {
		return fmt.Errorf("turn is two classes, as in [letters, digits]")
	}
	from, err := newSelection(list[0])
	if err != nil {
		return fmt.Errorf("turn: %w", err)
	}
	to, err := newSelection(list[1])
	if err != nil {
		return fmt.Errorf("turn: %w", err)
	}
	if len(from.texts)+len(to.texts) > 0 {
		return fmt.Errorf("turn is two classes, as in [letters, digits]")
	}
	return s.cutAt(f, turning(from, to))
}

// cutAt cuts at every occurrence of a delimiter, or at the nth one.
func (s *Split) cutAt(f *fields, d delimiter) error {
	if f.has("nth") {
		nth := f.nth("nth", 1)
		if s.n != 2 {
			return fmt.Errorf("a split at one place makes two pieces, not %d", s.n)
		}
		s.cut = func(text string) ([]string, bool) {
			at, ok := d.nth(text, nth)
			if !ok {
				return []string{text}, false
			}
			return []string{text[:at[0]], text[at[1]:]}, true
		}
		return nil
	}
	s.cut = func(text string) ([]string, bool) {
		at := d.all(text, 0)
		pieces := make([]string, 0, len(at)+1)
		from := 0
		for _, p := range at {
			pieces = append(pieces, text[from:p[0]])
			from = p[1]
		}
		return append(pieces, text[from:]), len(at) > 0
	}
	s.whole = func(text string) string {
		if s.n == 1 {
			return text
		}
		return text[d.all(text, s.n-1)[s.n-2][1]:]
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
	s.cut = func(text string) ([]string, bool) {
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
		return append(pieces, text[start:]), next > 0
	}
	return nil
}

func (s *Split) pattern(f *fields) error {
	text := f.text("pattern", "")
	if f.flag("ignore-case") {
		text = "(?i:" + text + ")"
	}
	p, err := pattern.Compile(`\A(?:` + text + `)\z`)
	if err != nil {
		return err
	}
	if p.NumSubexp() != s.n {
		return fmt.Errorf("the pattern has %d groups, and there are %d pieces", p.NumSubexp(), s.n)
	}
	s.cut = func(text string) ([]string, bool) {
		m := p.FindStringSubmatch(text)
		if m == nil {
			return nil, false
		}
		return m[1:], true
	}
	return nil
}

// Pieces returns the pieces of a text, or why there are not as many as there have to be.
func (s *Split) Pieces(text string) ([]string, reason.Reason) {
	pieces, found := s.cut(text)
	if !found {
		switch s.otherwise.way {
		case "keep":
			return s.filled([]string{text}), reason.None
		case "blank":
			return s.filled(nil), reason.None
		case "fail":
			return nil, reason.NotFound
		}
	}
	more := len(pieces) - s.n
	switch {
	case more < 0 && s.missing == "blank":
		if pieces == nil {
			pieces = []string{text} // a pattern that does not match makes no pieces, and nothing is to be lost
		}
		return s.filled(pieces), reason.None
	case more < 0:
		return nil, reason.TooFewPieces
	case more > 0 && s.rest == "keep":
		return append(pieces[:s.n-1:s.n-1], s.whole(text)), reason.None
	case more > 0 && s.rest == "join":
		return append(pieces[:s.n-1:s.n-1], strings.Join(pieces[s.n-1:], " ")), reason.None
	case more > 0:
		return nil, reason.TooManyPieces
	}
	return pieces, reason.None
}

// filled returns as many pieces as there have to be, blank ones where there are too few.
func (s *Split) filled(pieces []string) []string {
	return append(slices.Clone(pieces), make([]string, s.n-len(pieces))...)
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
