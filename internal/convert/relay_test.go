package convert

import (
	"context"
	"sync"
	"testing"
	"testing/synctest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Whatever the order in which blocks come to it, each gets what the one before knows.
func TestRelayHandsOnInOrder(t *testing.T) {
	const blocks = 500
	r := newRelay[int](context.Background())
	var group sync.WaitGroup
	got := make([]int, blocks)
	for i := blocks - 1; i >= 0; i-- { // the last waits for all others
		group.Go(func() {
			got[i] = r.take(i-1) + 1
			r.hand(i, got[i])
		})
	}
	group.Wait()
	for i := range got {
		assert.Equal(t, i+1, got[i])
		r.forget(i)
	}
	assert.Empty(t, r.blocks, "nothing is kept")
}

// Who waits for a block that never comes is let go when the conversion is cancelled.
func TestRelayHearsAnInterrupt(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		ctx, cancel := context.WithCancel(context.Background())
		r := newRelay[[]carried](ctx)
		done := make(chan []carried, 1)
		go func() { done <- r.take(7) }()
		synctest.Wait()
		require.Empty(t, done, "it did not wait")
		cancel()
		assert.Nil(t, <-done)
		assert.Nil(t, r.take(3), "and nobody waits any more")
	})
}

func TestBitsAreASet(t *testing.T) {
	var b bitset
	for _, n := range []int64{1, 63, 64, 65, 4095, 1_000_000} {
		assert.False(t, b.has(n))
		b.add(n)
		assert.True(t, b.has(n))
		assert.False(t, b.has(n+1000))
	}
	assert.False(t, b.has(0))
	assert.False(t, b.has(1<<40))
	var none *Repeats
	assert.Nil(t, none.of(3))
}
