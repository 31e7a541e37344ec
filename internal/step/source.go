package step

import (
	"slices"

	"junvo/internal/reason"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Source is a source whose cells have gone through steps already, so that what the steps leave can be looked at as
// the cells of any source are. Empty cells take no steps, and a cell of which a step fails stays as it is.
type Source struct {
	table.Source
	info   table.Info
	chains map[int]Chain // by the number of the column, from 0
	made   []Made
}

// NewSource returns a source with the columns of these numbers taken through steps, and columns that are made of others, as
// those came, behind them.
func NewSource(src table.Source, chains map[int]Chain, made []Made) *Source {
	info := *src.Info()
	info.Contiguous = false // equal rows need not have equal bytes any more
	info.Names = slices.Clone(info.Names)
	for _, m := range made {
		info.Names = append(info.Names, m.Name)
	}
	info.Made += len(made)
	return &Source{Source: src, info: info, chains: chains, made: made}
}

// Info tells what the source tells.
func (s *Source) Info() *table.Info { return &s.info }

// Split finds the cells of a block, and takes them through their steps.
func (s *Source) Split(b *table.Block) {
	s.Source.Split(b)
	text := append(make([]byte, 0, len(b.Text)+len(b.Text)/4+64), b.Text...) // what came stays as it is
	came, kinds := b.Spans, b.Kinds
	if len(s.made) > 0 {
		came, kinds = slices.Clone(b.Spans), slices.Clone(b.Kinds)
	}
	for column, chain := range s.chains {
		for at := column; at < len(b.Spans); at += b.Width {
			cell := b.At(b.Spans[at])
			if len(cell) == 0 {
				continue
			}
			out, changed, why := chain.Apply(string(cell))
			if changed == 0 || why != reason.None {
				continue
			}
			b.Spans[at] = table.Span{Start: uint32(len(text)), N: uint32(len(out))}
			text = append(text, out...)
			if b.Kinds != nil {
				b.Kinds[at] = value.StoredText
			}
		}
	}
	if len(s.made) > 0 {
		text = s.addMade(b, came, kinds, text)
	}
	b.Text = text
	b.Pad()
}
