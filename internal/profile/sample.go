package profile

import (
	"slices"

	"junvo/internal/table"
)

// Place is where a row stands: its block, and its row and line in the block. It is
// turned into the row and line of the file when all blocks have been counted.
type Place struct {
	Block, Row, Line uint32
}

func (p Place) less(q Place) bool {
	return p.Block < q.Block || p.Block == q.Block && p.Row < q.Row
}

// Sample is a cell that was kept as an example.
type Sample struct {
	Place Place
	Text  string
}

// maxSamples is how many cells of a tally are kept, the first in the file.
const maxSamples = 20

// maxSampleText is how much of a cell is kept as an example, in bytes.
const maxSampleText = 200

// place returns where a row of a block stands.
func place(b *table.Block, row int) Place {
	return Place{uint32(b.Seq), uint32(b.RowOf(row)), uint32(b.Line(row))}
}

// mergeSamples keeps the first samples of both.
func mergeSamples(a, b []Sample) []Sample {
	all := append(slices.Clip(a), b...)
	slices.SortFunc(all, func(x, y Sample) int {
		if x.Place.less(y.Place) {
			return -1
		}
		return 1
	})
	return all[:min(len(all), maxSamples)]
}
