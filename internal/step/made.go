package step

import (
	"junvo/internal/reason"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Made is a column that steps make of one of a source's, beside it.
type Made struct {
	Name  string
	From  int // the column of the source that it is made of
	Steps Chain
}

// addMade adds the cells of the columns that are made to each row of a block. A cell of which a step fails is the text that the
// step was given, and what has no cell has none here.
func (s *Source) addMade(b *table.Block, came []table.Span, stored []value.Stored, text []byte) []byte {
	width := b.Width + len(s.made)
	spans := make([]table.Span, 0, b.Rows*width)
	var kinds []value.Stored
	for row := range b.Rows {
		at := row * b.Width
		spans = append(spans, b.Spans[at:at+b.Width]...)
		if b.Kinds != nil {
			kinds = append(kinds, b.Kinds[at:at+b.Width]...)
		}
		for _, m := range s.made {
			span, kind := came[at+m.From], value.StoredText
			if cell := b.At(span); len(cell) > 0 {
				out, changed, why := m.Steps.Apply(string(cell))
				switch {
				case why != reason.None || changed > 0:
					span = table.Span{Start: uint32(len(text)), N: uint32(len(out))}
					text = append(text, out...)
				case b.Kinds != nil:
					kind = stored[at+m.From]
				}
			}
			spans = append(spans, span)
			if b.Kinds != nil {
				kinds = append(kinds, kind)
			}
		}
	}
	b.Spans, b.Width = spans, width
	if b.Kinds != nil {
		b.Kinds = kinds
	}
	return text
}
