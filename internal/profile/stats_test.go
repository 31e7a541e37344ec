package profile

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/reading"
)

// Sums and extremes are what arithmetic of any length says, whatever the digits and the scales, in parts or in one,
// saved or not.
func TestNumberStatsAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 18))
	reader := reading.NewReader(nil)
	whole, parts := &numberStats{}, []*numberStats{{}, {}, {}}
	want := new(big.Rat)
	var smallest, top *big.Rat
	for range 4000 {
		cell := fmt.Sprintf("%d", r.Int64N(1<<uint(1+r.IntN(62))))
		for range r.IntN(3) {
			cell += fmt.Sprintf("%d", r.Uint64N(1<<uint(1+r.IntN(60))))
		}
		if r.IntN(3) > 0 {
			cell += fmt.Sprintf(".%d", r.Uint64N(1<<uint(1+r.IntN(63))))
		}
		if r.IntN(4) == 0 {
			cell = "-" + cell
		}
		if r.IntN(4) == 0 {
			cell += fmt.Sprintf("E%+d", r.IntN(60)-30)
		}
		number, ok := new(big.Rat).SetString(cell)
		require.True(t, ok)
		x := reader.Read([]byte(cell))
		times := uint64(1 + r.IntN(3))
		require.True(t, x.Set.Any(reading.NumPoint), cell)
		whole.add(x, reading.Point, times)
		parts[r.IntN(len(parts))].add(x, reading.Point, times)
		want.Add(want, new(big.Rat).Mul(number, new(big.Rat).SetUint64(times)))
		if smallest == nil || number.Cmp(smallest) < 0 {
			smallest = number
		}
		if top == nil || number.Cmp(top) > 0 {
			top = number
		}
	}
	parts[0].merge(parts[1])
	loader := &savedLoader{}
	loaded := loader.numbers(parts[2].save())
	require.NoError(t, loader.err)
	parts[0].merge(loaded)
	for range 2 { // asking changes nothing
		for i, s := range []*numberStats{whole, parts[0]} {
			all, some := s.total()
			require.True(t, some)
			for what, pair := range map[string][2]*big.Rat{
				"sum": {want, all.sum.Number().Rat()}, "smallest": {smallest, all.smallest.Rat()}, "top": {top, all.top.Rat()},
			} {
				require.Zero(t, pair[0].Cmp(pair[1]), "%s of %d", what, i)
			}
		}
	}
}

// Numbers of up to 36 digits are counted without allocation.
func TestNumberStatsDoNotAllocate(t *testing.T) {
	reader, s := reading.NewReader(nil), &numberStats{}
	for _, cell := range []string{"0.12345678901234567", "123456789012345678901234567890.123456", "-1.2E+05"} {
		x := reader.Read([]byte(cell))
		s.add(x, reading.Point, 1)
		require.Zero(t, testing.AllocsPerRun(100, func() { s.add(x, reading.Point, 2) }), cell)
	}
}

// How many rows repeat others is never more than there are, and about right, whether few texts are very frequent or
// many are twice there.
func TestRepeatedRowsAreEstimated(t *testing.T) {
	for name, row := range map[string]func(i int) uint64{
		"a third is one of four rows": func(i int) uint64 { return uint64(i%3/2*(i+4) + i%3%2*(i%4)) },
		"each is twice there":         func(i int) uint64 { return uint64(i / 2) },
		"one in fifty repeats":        func(i int) uint64 { return uint64(i - i%50/49) },
		"none repeats":                func(i int) uint64 { return uint64(i) },
		"all are one of a hundred":    func(i int) uint64 { return uint64(i % 100) },
	} {
		const rows = 400_000
		var s rowSet
		seen := map[uint64]bool{}
		for i := range rows {
			v := row(i)
			seen[v] = true
			if h := hashText(fmt.Append(nil, v)); s.takes(h) {
				s.add(h, Place{Row: uint32(i)})
			}
		}
		n, _, exact := s.repeated(rows)
		want := int64(rows - len(seen))
		if exact {
			require.Equal(t, want, n, name)
			continue
		}
		require.InDelta(t, want, n, rows*0.02, name)
	}
}
