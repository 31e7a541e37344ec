package profile

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// A set of hashes holds what a map holds, whatever their bits are, 0 and neighbours among them.
func TestHashSet(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 8))
	for _, of := range []func() uint64{r.Uint64, func() uint64 { return r.Uint64N(40) }, func() uint64 { return r.Uint64N(300) << 40 }} {
		var s hashSet
		want := map[uint64]bool{}
		for range 1000 {
			h := of()
			s.add(h)
			want[h] = true
			require.Equal(t, len(want), s.size())
		}
		got := slices.Sorted(s.all())
		require.Len(t, slices.Compact(got), len(want))
		for _, h := range got {
			require.True(t, want[h])
		}
		for range s.all() {
			break // which ends it
		}
	}
}
