package table

import "unsafe"

// Recent is a column's memory of short texts that it had a short while ago, each with what its user knows
// of it: the cells of most columns are like others before them, and looking one up costs less than reading
// it. It has a fixed number of slots, and each text may stand in one of two of them, so that two texts that
// want the same slot mostly both find a place. Where most texts are new, so that remembering costs more
// than it saves, the column rests from it for a while.
//
// It serves one goroutine.
type Recent[T any] struct {
	Texts []RecentText[T] // the slots, a power of two; nil before Open and after Close
	slots uint64

	check   int   // new texts until the next check
	misses  int   // those since the last one
	checked int64 // the number of cells at the last check
	rested  int   // cells of the last rest
	rest    int   // cells that are still to come before it ends
}

// RecentText is a text and what is known of it.
type RecentText[T any] struct {
	Key   Key
	Known T
}

// What all columns of a table remember takes about this many bytes for each worker; a column has a slot for
// each hash of a key, within these bounds.
const (
	recentBytes = 8 << 20
	minSlots    = 64
	maxSlots    = 4096
)

// NewRecent returns an empty memory for one of that many columns.
func NewRecent[T any](columns int) Recent[T] {
	size := uint64(unsafe.Sizeof(RecentText[T]{}))
	slots := uint64(maxSlots)
	for slots > minSlots && slots*uint64(columns)*size > recentBytes {
		slots /= 2
	}
	return Recent[T]{slots: slots}
}

// Open makes the slots, unless they are there.
func (r *Recent[T]) Open() {
	if r.Texts == nil {
		r.Texts = make([]RecentText[T], r.slots)
	}
}

// Close forgets all.
func (r *Recent[T]) Close() { r.Texts = nil }

// Pair returns the two slots that a text may stand in.
func (r *Recent[T]) Pair(k Key) (a, b *RecentText[T]) {
	i, j := k.slotPair(uint64(len(r.Texts)))
	return &r.Texts[i], &r.Texts[j]
}

// Find returns the slot that a text stands in, nil where it is not remembered.
func (r *Recent[T]) Find(k Key) *RecentText[T] {
	i, j := k.slotPair(uint64(len(r.Texts)))
	if e := &r.Texts[i]; e.Key == k {
		return e
	}
	if e := &r.Texts[j]; e.Key == k {
		return e
	}
	return nil
}

// A column sees so many new texts until it asks whether remembering is worth it, at first and later on: twice as many
// each time, so that a column of a thousand texts that repeat is soon known, and one of which all are new soon rests.
const (
	firstCheck = 512
	lastCheck  = 8192
)

// Miss notes a new text of a column that has had that many cells, and reports whether it should rest from
// here on: where most texts were new, each time for twice as many cells.
func (r *Recent[T]) Miss(cells int64) (rests bool) {
	r.check = max(r.check, firstCheck)
	if r.misses++; r.misses < r.check {
		return false
	}
	if cells-r.checked < 2*int64(r.check) {
		r.rested = min(max(2*r.rested, 16*r.check), 1<<22)
		r.rest, rests = r.rested, true
	}
	r.misses, r.checked, r.check = 0, cells+int64(r.rest), min(2*r.check, lastCheck)
	return rests
}

// Misses returns how many new texts there were since the last check.
func (r *Recent[T]) Misses() int { return r.misses }

// Resting reports whether the column does without remembering.
func (r *Recent[T]) Resting() bool { return r.rest > 0 }

// Rested notes that cells have gone by.
func (r *Recent[T]) Rested(cells int) { r.rest = max(0, r.rest-cells) }
