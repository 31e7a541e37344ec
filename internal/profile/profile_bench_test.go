package profile

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"junvo/internal/reading"
	"junvo/internal/table"
)

// column makes a block of one column.
func columnBlock(rows int, cell func(r *rand.Rand, row int) string) *table.Block {
	b := &table.Block{Width: 1, Rows: rows}
	r := rand.New(rand.NewPCG(1, 1))
	for i := range rows {
		s := cell(r, i)
		b.Spans = append(b.Spans, table.Span{Start: uint32(len(b.Text)), N: uint32(len(s))})
		b.Text = append(append(b.Text, s...), '\n')
	}
	b.Pad()
	return b
}

var benchColumns = []struct {
	name string
	cell func(r *rand.Rand, row int) string
}{
	{"few-texts", func(r *rand.Rand, _ int) string { return []string{"Anna", "Berta", "Clara Maria", "Dora"}[r.IntN(4)] }},
	{"days", func(r *rand.Rand, _ int) string { return fmt.Sprintf("2021-%02d-%02d", 1+r.IntN(12), 1+r.IntN(28)) }},
	{"prices", func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d.%02d", r.IntN(20), r.IntN(100)) }},
	{"numbered", func(_ *rand.Rand, row int) string { return fmt.Sprintf("%07d", row) }},
	{"weights", func(r *rand.Rand, _ int) string { return fmt.Sprintf("%d.%d", r.IntN(20000), r.IntN(10)) }},
	{"remarks", func(r *rand.Rand, _ int) string { return fmt.Sprintf("lot %d, crate %d", r.IntN(100000), r.IntN(100)) }},
	{"empty", func(*rand.Rand, int) string { return "" }},
	{"dirty-weights", func(r *rand.Rand, _ int) string {
		return fmt.Sprintf("%d.%03d,%d kg", 1+r.IntN(20), r.IntN(1000), r.IntN(10))
	}},
}

func BenchmarkAdd(b *testing.B) {
	for _, bc := range benchColumns {
		b.Run(bc.name, func(b *testing.B) {
			const rows = 100_000
			block := columnBlock(rows, bc.cell)
			c := newColumn(reading.NewReader(nil), 1)
			b.ReportAllocs()
			for b.Loop() {
				for i := 0; i < rows; i += tile {
					c.Add(block, 0, i, min(i+tile, rows))
				}
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/rows, "ns/cell")
		})
	}
}
