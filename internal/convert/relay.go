package convert

import (
	"context"
	"sync"

	"junvo/internal/plan"
)

// relay hands what each block knows to the next.
//
// Blocks are converted side by side and end in any order, but block n+1 may need what block n knows: how many rows
// stand before it, or the last cell that is not blank. It is handed on as soon as it is known, which takes a look at a
// few cells, and before the block is converted, which takes most of the time; so the workers wait for each other for
// that look only. A block takes from the one before it, never from one after it, so that nobody waits for ever: the
// first block takes nothing.
type relay[T any] struct {
	ctx    context.Context
	mutex  sync.Mutex
	more   *sync.Cond
	blocks map[int]T // by the number of the block that hands it on
}

func newRelay[T any](ctx context.Context) *relay[T] {
	r := &relay[T]{ctx: ctx, blocks: map[int]T{}}
	r.more = sync.NewCond(&r.mutex)
	context.AfterFunc(ctx, func() {
		r.mutex.Lock()
		defer r.mutex.Unlock()
		r.more.Broadcast()
	})
	return r
}

// hand hands on what a block knows.
func (r *relay[T]) hand(block int, known T) {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	r.blocks[block] = known
	r.more.Broadcast()
}

// take waits for what a block knows. It is the zero value before the first, and when the
// conversion has been cancelled.
func (r *relay[T]) take(block int) (known T) {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	for block >= 0 {
		if known, ok := r.blocks[block]; ok {
			return known
		}
		if r.ctx.Err() != nil {
			break
		}
		r.more.Wait()
	}
	return known
}

// forget drops what a block knew, when the next one has taken it.
func (r *relay[T]) forget(block int) {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	delete(r.blocks, block)
}

// rowCount is how many rows stand before a block: of the file, and of the table that is made of them.
type rowCount struct{ file, table int64 }

// relays are what the blocks of a conversion tell each other.
type relays struct {
	cells       *relay[[]carried] // that fill cells below
	rowsBefore  *relay[rowCount]
	lastHeading *relay[heading]
	earlier     []*relay[[]soFar] // of each stage
}

func newRelays(ctx context.Context, p *plan.Bound) relays {
	r := relays{newRelay[[]carried](ctx), newRelay[rowCount](ctx), newRelay[heading](ctx), nil}
	for _, a := range p.Earlier {
		for len(r.earlier) < a.Stage {
			r.earlier = append(r.earlier, newRelay[[]soFar](ctx))
		}
	}
	return r
}

func (r *relays) forget(block int) {
	r.cells.forget(block)
	r.rowsBefore.forget(block)
	r.lastHeading.forget(block)
	for _, e := range r.earlier {
		e.forget(block)
	}
}
