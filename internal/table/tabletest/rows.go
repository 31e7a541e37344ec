package tabletest

import (
	"io"
	"strings"

	"junvo/internal/table"
)

// Rows is a source of rows that are given, some to a block.
type Rows struct {
	info     table.Info
	rows     [][]string
	perBlock int
}

// NewRows returns a source of rows, the names of the columns first, of which each block has that many.
func NewRows(perBlock int, rows ...[]string) *Rows {
	names := rows[0]
	return &Rows{table.Info{Name: "t", Names: names, Files: []table.File{{Name: "t", FirstLine: 2}}}, rows[1:], perBlock}
}

// Info implements [table.Source].
func (s *Rows) Info() *table.Info { return &s.info }

// Next implements [table.Source].
func (s *Rows) Next(b *table.Block) error {
	if len(s.rows) == 0 {
		return io.EOF
	}
	n := min(s.perBlock, len(s.rows))
	b.Width, b.Rows, b.LineCount = len(s.info.Names), n, uint32(n)
	b.Text, b.Spans = nil, nil
	for _, row := range s.rows[:n] {
		for _, cell := range row {
			b.Spans = append(b.Spans, table.Span{Start: uint32(len(b.Text)), N: uint32(len(cell))})
			b.Text = append(b.Text, cell...)
		}
	}
	s.rows = s.rows[n:]
	return nil
}

// Split implements [table.Source].
func (s *Rows) Split(b *table.Block) { b.Pad() }

// NewLines returns a source of lines with a bar between the cells.
func NewLines(perBlock int, lines ...string) *Rows {
	rows := make([][]string, len(lines))
	for i, l := range lines {
		rows[i] = strings.Split(l, "|")
	}
	return NewRows(perBlock, rows...)
}

// OneRow returns a row of cells in canonical text, as a sink takes it.
func OneRow(fields []table.Field, cells ...string) *table.Rows {
	rows := &table.Rows{Fields: fields, Count: 1, Cells: make([]table.Values, len(fields)), Out: []bool{true}}
	for c, cell := range cells {
		rows.Cells[c].AddText([]byte(cell))
	}
	return rows
}
