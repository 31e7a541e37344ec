package profile

import (
	"math/bits"

	"github.com/axiomhq/hyperloglog"
)

// distinct counts different texts by their hashes: exactly while there are few,
// with a sketch (HyperLogLog, precision 14, at most 2 % off) when there are many.
// Merging gives the same as counting all at once.
type distinct struct {
	few   map[uint64]struct{}
	many  *hyperloglog.Sketch
	seen  []uint8 // for each register of many, the most zeros that were added
	exact int     // how many are counted exactly
}

// Different texts are counted exactly up to maxExact for each column, and up to allExact
// for all columns of a worker together, but to minExact in any case.
const (
	maxExact = 4096
	minExact = 256
	allExact = 1 << 19
)

func exactFor(columns int) int { return min(maxExact, max(minExact, allExact/max(1, columns))) }

func (d *distinct) add(h uint64) {
	if d.many != nil {
		// A register keeps the most zeros behind the bits that choose it, so that most
		// hashes of a long column change nothing.
		register, zeros := h>>(64-precision), uint8(bits.LeadingZeros64(h<<precision))+1
		if zeros > d.seen[register] {
			d.seen[register] = zeros
			d.many.InsertHash(h)
		}
		return
	}
	if d.few == nil {
		d.few = make(map[uint64]struct{})
	}
	d.few[h] = struct{}{}
	if len(d.few) > d.exact {
		d.sketch()
	}
}

// precision is how many bits of a hash choose a register of the sketch.
const precision = 14

func (d *distinct) sketch() {
	d.seen = make([]uint8, 1<<precision)
	d.many = hyperloglog.NewNoSparse()
	for h := range d.few {
		d.many.InsertHash(h)
	}
	d.few = nil
}

func (d *distinct) merge(o *distinct) {
	if o.many != nil && d.many == nil {
		d.sketch()
	}
	if o.many != nil {
		_ = d.many.Merge(o.many) // fails for sketches of another precision only
		return
	}
	for h := range o.few {
		d.add(h)
	}
}

// count returns how many different texts there were, and whether that is exact.
func (d *distinct) count() (int64, bool) {
	if d.many != nil {
		return int64(d.many.Estimate()), false
	}
	return int64(len(d.few)), true
}
