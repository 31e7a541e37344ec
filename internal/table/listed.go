package table

import (
	"io"
	"unicode/utf8"
)

// Listed is a source of rows that are in memory.
type Listed struct {
	info Info
	rows [][]string // that are not read yet
}

// listedRows is how many rows a block has.
const listedRows = 1000

// NewListed returns a source of rows of text below these names. A row that is too short lacks its last cells.
func NewListed(names []string, rows [][]string) *Listed {
	return &Listed{info: Info{
		Name: "rows", Format: "list", Names: names, Files: []File{{Name: "rows", FirstLine: 1}},
		Records: true,
	}, rows: rows}
}

// Info tells the names.
func (l *Listed) Info() *Info { return &l.info }

// Next fills a block.
func (l *Listed) Next(b *Block) error {
	if len(l.rows) == 0 {
		return io.EOF
	}
	rows := l.rows[:min(len(l.rows), listedRows)]
	l.rows = l.rows[len(rows):]
	b.Width, b.Rows = len(l.info.Names), len(rows)
	for _, row := range rows {
		for i := range l.info.Names {
			if i >= len(row) {
				b.Spans = append(b.Spans, Span{N: Missing})
				continue
			}
			b.Spans = append(b.Spans, Span{uint32(len(b.Text)), uint32(len(row[i]))})
			b.Text = append(b.Text, row[i]...)
		}
	}
	b.LineCount, b.Last, b.Quote, b.Escape = uint32(len(rows)), len(l.rows) == 0, '"', '"'
	b.Broken = !utf8.Valid(b.Text)
	b.Pad()
	return nil
}

// Split has nothing to do.
func (*Listed) Split(*Block) {}
