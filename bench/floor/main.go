// Command floor is a baseline: what no profile can leave out that counts how many different texts each column has. It
// cuts a file into cells by Junvo's own reader, hashes each, and puts the hash into a sketch of its column, on all
// processors. Nothing is read as a number or a date.
package main

import (
	"context"
	"fmt"
	"log"
	"math/bits"
	"os"
	"runtime"

	"github.com/zeebo/xxh3"

	"junvo/internal/table"
	"junvo/internal/table/input"
)

const precision = 14

// tile is how many rows of a column are taken in turn; of many columns, whose sketches do not fit in the processor's near
// memory, all of a block.
const (
	tile        = 128
	manyColumns = 80
)

// worker is what one worker has seen.
type worker struct {
	sketches [][1 << precision]uint8
	cells    int
}

func main() {
	log.SetFlags(0)
	source, err := input.OpenAll(os.Args[1:], input.Options{})
	if err != nil {
		log.Fatal(err)
	}
	workers := make([]worker, runtime.NumCPU())
	for i := range workers {
		workers[i].sketches = make([][1 << precision]uint8, len(source.Info().Names))
	}
	work := func(n int, b *table.Block) { workers[n].add(b) }
	if err := table.Each(context.Background(), source, len(workers), work, nil); err != nil {
		log.Fatal(err)
	}
	cells := 0
	for i := range workers {
		cells += workers[i].cells
	}
	fmt.Println(cells)
}

func (w *worker) add(b *table.Block) {
	w.cells += b.Rows * b.Width
	visit := tile
	if b.Width > manyColumns {
		visit = b.Rows
	}
	for from := 0; from < b.Rows; from += visit {
		for c := range b.Width {
			sketch := &w.sketches[c]
			for row := from; row < min(from+visit, b.Rows); row++ {
				h := xxh3.Hash(b.Cell(row, c))
				r := &sketch[h>>(64-precision)]
				*r = max(*r, uint8(bits.LeadingZeros64(h<<precision|1<<(precision-1)))+1)
			}
		}
	}
}
