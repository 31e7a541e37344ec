package table

import (
	"io"
	"unicode/utf8"
)

// Listed is a source of rows that are in memory.
type Listed struct {
	info Info
	rows [][]string
	read bool
}

// NewListed returns a source of rows of text below these names. A row that is too short lacks its last cells.
func NewListed(names []string, rows [][]string) *Listed {
	return &Listed{info: Info{Name: "rows", Format: "list", Names: names, Files: []File{{Name: "rows", FirstLine: 1}}, Records: true}, rows: rows}
}

// Info tells the names.
func (l *Listed) Info() *Info { return &l.info }

// Next fills the one block that there is.
func (l *Listed) Next(b *Block) error {
	if l.read || len(l.rows) == 0 {
		return io.EOF
	}
	l.read = true
	b.Width, b.Rows = len(l.info.Names), len(l.rows)
	for _, row := range l.rows {
		for i := range l.info.Names {
			if i >= len(row) {
				b.Spans = append(b.Spans, Span{N: Missing})
				continue
			}
			b.Spans = append(b.Spans, Span{uint32(len(b.Text)), uint32(len(row[i]))})
			b.Text = append(b.Text, row[i]...)
		}
	}
	b.LineCount, b.Last, b.Quote, b.Escape = uint32(len(l.rows)), true, '"', '"'
	b.Broken = !utf8.Valid(b.Text)
	b.Pad()
	return nil
}

// Split has nothing to do.
func (*Listed) Split(*Block) {}
