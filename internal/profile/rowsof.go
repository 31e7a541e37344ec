package profile

import (
	"bytes"
	"context"
	"errors"
	"slices"
	"unicode/utf8"

	"junvo/internal/character"
	"junvo/internal/finding"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/table"
	"junvo/internal/value"
)

// A profile keeps the first rows of each finding. All of them are found by reading the source once
// more: a cell belongs to a finding of its column if its set and form are among those that the
// finding was drawn from.

// FoundRow is a row that a finding is about, and its cell where the finding is of a column.
type FoundRow struct {
	Where  Where
	Column string // "" for findings of the file
	Text   string // of the cell
}

// ErrNoFinding says that a profile has no such finding, ErrNoRows that rows can't be told one by one.
var (
	ErrNoFinding = errors.New("the profile has no such finding")
	ErrNoRows    = errors.New("the finding is not of single rows")
)

// RowsOf calls each for every row of a finding, in order, reading the source of the profile again.
// columns are those that are looked at; nil for all.
func (p *Profile) RowsOf(ctx context.Context, src table.Source, k finding.Kind, columns []string, o Options,
	each func(FoundRow) error,
) error {
	find, err := p.finderOf(k, columns, o)
	if err != nil {
		return err
	}
	info := src.Info()
	finders := make([]blockFinder, o.Workers)
	for i := range finders {
		finders[i] = find()
	}
	var lines table.Lines
	var rows int64
	work := func(n int, b *table.Block) { b.Result = finders[n](b) }
	return table.Each(ctx, src, o.Workers, work, func(b *table.Block) error {
		first := lines.Start(info, b)
		found, _ := b.Result.([]foundIn)
		for _, f := range found {
			r := FoundRow{Where: Where{rows + b.RowOf(f.row) + 1, first + b.Line(f.row), info.Files[b.File].Name}, Text: f.text}
			if f.column >= 0 {
				r.Column = info.Names[f.column]
			}
			if err := each(r); err != nil {
				return err
			}
		}
		rows += b.RowsOfFile()
		return nil
	})
}

// blockFinder finds the rows of a finding in a block. It serves one goroutine.
type blockFinder func(b *table.Block) []foundIn

type foundIn struct {
	row, column int // column is -1 for findings of the file
	text        string
}

// finderOf returns what makes finders for a finding.
func (p *Profile) finderOf(k finding.Kind, columns []string, o Options) (func() blockFinder, error) {
	of := map[int]map[tallyKey]bool{}
	for i, c := range p.Columns {
		if columns != nil && !slices.Contains(columns, c.Name) {
			continue
		}
		for _, f := range c.Findings {
			if f.Kind == k && f.tallies != nil {
				of[i] = f.tallies
			}
		}
	}
	if len(of) > 0 {
		return func() blockFinder { return p.cellFinder(of, o) }, nil
	}
	if !slices.ContainsFunc(p.Findings, func(f Finding) bool { return f.Kind == k }) {
		return nil, ErrNoFinding
	}
	for _, e := range rowkind.Catalogue {
		if e.Finding == k {
			return func() blockFinder { return p.kindFinder(e.Kind, o) }, nil
		}
	}
	if match := rowTests[k]; match != nil {
		return func() blockFinder { return func(b *table.Block) []foundIn { return rowsWhere(b, match) } }, nil
	}
	return nil, ErrNoRows
}

// cellFinder finds cells by their sets and forms.
func (p *Profile) cellFinder(of map[int]map[tallyKey]bool, o Options) blockFinder {
	rows, reader := rowkind.NewReader(p.Info.Names, p.Info.Above, o.BlankWords), reading.NewReader(o.BlankWords)
	return func(b *table.Block) (found []foundIn) {
		aside := map[int]bool{}
		rowkind.Odd(b, rows, func(row int, k rowkind.Kind) { aside[row] = p.SetAside[k] })
		for row := range b.Rows {
			if aside[row] {
				continue
			}
			for column := range b.Width {
				tallies := of[column]
				if tallies == nil {
					continue
				}
				at := row*b.Width + column
				cell := b.At(b.Spans[at])
				key := keyOf(b, reader, at, cell)
				if !tallies[key] && !(crowds(key.set) && tallies[tallyKey{key.set, crowd}]) {
					continue
				}
				text := string(cell)
				if p.Columns[column].Private() || o.Private != nil && o.Private(p.Info.Names[column]) {
					text = character.Shape(text)
				}
				found = append(found, foundIn{row, column, text})
			}
		}
		return found
	}
}

// keyOf returns what a cell is counted by in its column.
func keyOf(b *table.Block, reader *reading.Reader, at int, cell []byte) tallyKey {
	s := b.Spans[at]
	kind := value.StoredText
	if b.Kinds != nil {
		kind = b.Kinds[at]
	}
	if s.Len() == 0 && (kind == value.StoredText || s.N&table.Missing != 0) {
		return tallyKey{reading.BlankSet(blankOf(s)), 0}
	}
	x := reader.ReadStored(cell, kind)
	return tallyKey{x.Set, x.Form}
}

// kindFinder finds rows of a kind that are set aside.
func (p *Profile) kindFinder(kind rowkind.Kind, o Options) blockFinder {
	rows := rowkind.NewReader(p.Info.Names, p.Info.Above, o.BlankWords)
	return func(b *table.Block) (found []foundIn) {
		rowkind.Odd(b, rows, func(row int, k rowkind.Kind) {
			if k == kind {
				found = append(found, foundIn{row, -1, string(bytes.Join(rowTexts(b, row), []byte{' '}))})
			}
		})
		return found
	}
}

// rowTests tell the rows of findings about the structure of a file.
var rowTests = map[finding.Kind]func(b *table.Block, row int) bool{
	finding.ShortRows: func(b *table.Block, row int) bool { return b.Spans[(row+1)*b.Width-1].N&table.Missing != 0 },
	finding.LongRows:  func(b *table.Block, row int) bool { return b.ExtraOf(row) != nil },
	finding.BadBytes: func(b *table.Block, row int) bool {
		return b.Broken && slices.ContainsFunc(rowTexts(b, row), func(t []byte) bool { return !utf8.Valid(t) })
	},
	finding.NulBytes: func(b *table.Block, row int) bool {
		return slices.ContainsFunc(rowTexts(b, row), func(t []byte) bool { return bytes.IndexByte(t, 0) >= 0 })
	},
}

func rowsWhere(b *table.Block, match func(*table.Block, int) bool) (found []foundIn) {
	for row := range b.Rows {
		if match(b, row) {
			found = append(found, foundIn{row, -1, string(bytes.Join(rowTexts(b, row), []byte{' '}))})
		}
	}
	return found
}

func rowTexts(b *table.Block, row int) (texts [][]byte) {
	for _, cell := range b.RowCells(row) {
		texts = append(texts, []byte(cell))
	}
	return texts
}
