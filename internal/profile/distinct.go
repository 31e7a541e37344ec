package profile

import (
	"math/bits"

	"github.com/axiomhq/hyperloglog"
)

// sketch counts different hashes (HyperLogLog, at most 2 % off).
//
// The idea: of random numbers, one in two begins with a zero bit, one in four with two, one in 2ⁿ with n. So the most
// zeros that any hash of many begins with tell about how many different hashes there were, and equal texts, which have
// equal hashes, do not change it. One such number is a rough guess; here the first 14 bits of a hash choose one of
// 16,384 registers, each of which keeps the most zeros of its share, and the estimate is made of all (Flajolet and
// others, 2007). Sketches are merged by taking the larger number of each register, so that the result does not depend
// on who has seen which rows. What each register holds is kept here, so that the
// many hashes that change nothing cost little; the library's sketch, which estimates, is made of that when it is asked
// for.
type sketch struct {
	seen     *[1 << precision]uint8 // for each register, the most zeros that were added, and one
	base     *hyperloglog.Sketch    // of a saved profile; nil elsewhere
	estimate int64                  // what was counted last, -1 where more was added since
	// Hashes are added many at a time: the registers of a table with many columns stand in memory far away, and each is
	// fetched for several hashes.
	held []uint64
	n    int // how many
}

// A column holds minHeld hashes until they are added, one of many columns up to maxHeld, and all of a worker together
// up to allHeld.
const (
	minHeld = 64
	maxHeld = 512
	allHeld = 1 << 18
)

func heldFor(columns int) int {
	if columns <= manyColumns {
		return minHeld
	}
	return max(minHeld, min(maxHeld, allHeld/columns))
}

// precision is how many bits of a hash choose a register.
const precision = 14

func newSketch(columns int) *sketch {
	return &sketch{seen: new([1 << precision]uint8), estimate: -1, held: make([]uint64, heldFor(columns))}
}

// add adds a hash.
func (s *sketch) add(h uint64) {
	if s.n == len(s.held) {
		s.flush()
	}
	s.held[s.n] = h
	s.n++
}

// flush adds the hashes that are held. It is no part of add, which is called for each cell, and is small without it.
//
//go:noinline
func (s *sketch) flush() {
	for _, h := range s.held[:s.n] {
		// Without a branch: in a table of few rows that would be guessed wrong for most.
		r := &s.seen[h>>(64-precision)]
		*r = max(*r, uint8(bits.LeadingZeros64(h<<precision|1<<(precision-1)))+1)
	}
	if s.n > 0 {
		s.n, s.estimate = 0, -1
	}
}

// log returns the library's sketch of all hashes. What a register holds depends on the most zeros only, so that one
// hash with as many stands for all.
func (s *sketch) log() *hyperloglog.Sketch {
	s.flush()
	log := hyperloglog.NewNoSparse()
	for i, n := range s.seen {
		if n > 0 {
			log.InsertHash(uint64(i)<<(64-precision) | 1<<63>>(n-1)>>precision)
		}
	}
	if s.base != nil {
		_ = log.Merge(s.base) // fails for sketches of another precision only
	}
	return log
}

func (s *sketch) merge(o *sketch) {
	s.flush()
	o.flush()
	s.estimate = -1
	for i, n := range o.seen {
		s.seen[i] = max(s.seen[i], n)
	}
	switch {
	case o.base == nil:
	case s.base == nil:
		s.base = o.base
	default:
		_ = s.base.Merge(o.base)
	}
}

func (s *sketch) count() int64 {
	s.flush()
	if s.estimate < 0 {
		s.estimate = int64(s.log().Estimate())
	}
	return s.estimate
}

// DistinctError is the share by which an estimate of different texts may be off.
const DistinctError = 0.02

// distinct counts different texts by their hashes: exactly while there are few, with a
// sketch when there are many. Merging gives the same as counting all at once.
type distinct struct {
	few     hashSet
	many    *sketch
	columns int        // of the table, which share the room
	exact   int        // how many are counted exactly
	told    *toldCount // where the texts have been forgotten; nil elsewhere
}

// toldCount is how many different texts there were, as it was told by a saved profile that has
// nothing of the texts themselves. Of the whole that parts make it says no more than the largest.
type toldCount struct {
	n     int64
	exact bool
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
	if d.told != nil {
		return
	}
	if d.many != nil {
		d.many.add(h)
		return
	}
	if d.few.add(h); d.few.size() > d.exact {
		d.sketch()
	}
}

func (d *distinct) sketch() {
	d.many = newSketch(d.columns)
	for h := range d.few.all() {
		d.many.add(h)
	}
	d.few = hashSet{}
}

func (d *distinct) merge(o *distinct) {
	if d.told != nil || o.told != nil {
		a, _ := d.count()
		b, _ := o.count()
		*d = distinct{told: &toldCount{max(a, b), false}, columns: d.columns, exact: d.exact}
		return
	}
	if o.many != nil && d.many == nil {
		d.sketch()
	}
	if o.many != nil {
		d.many.merge(o.many)
		return
	}
	for h := range o.few.all() {
		d.add(h)
	}
}

// count returns how many different texts there were, and whether that is exact.
func (d *distinct) count() (int64, bool) {
	if d.told != nil {
		return d.told.n, d.told.exact
	}
	if d.many != nil {
		return d.many.count(), false
	}
	return int64(d.few.size()), true
}
