package profile

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/reading"
)

// newCell makes cells that are all new, of the sorts that are counted many at a time and
// of those between them that must not be.
func newCell(r *rand.Rand, sort int) string {
	odd := []string{"", "-", ".", "n/a", "NA", "1-2", "12.345", "0.5", "007.50", "7", "-7", "-0", "20210304", "1e5", " 12 ", "12 kg", "1,5", "yes", "Mar 4, 2021", "lot", "\u00a0", "cr\u00e8me", "EUR 5"}
	if r.IntN(40) == 0 {
		return odd[r.IntN(len(odd))]
	}
	switch sort {
	case 0:
		return fmt.Sprintf("%07d", r.IntN(10_000_000))
	case 1:
		return fmt.Sprintf("%d.%0*d", r.IntN(2000)-1000, 1+r.IntN(3), r.IntN(10))
	case 2:
		return fmt.Sprintf("lot %d, crate %d, %s", r.IntN(1_000_000), r.IntN(100), strings.Repeat("fresh ", r.IntN(4)))
	case 3:
		return fmt.Sprintf("%s %d", []string{"Sep", "lo", "Dock", "eur", "ISO", "Oslo"}[r.IntN(6)], r.IntN(1_000_000))
	default:
		return newCell(r, r.IntN(4))
	}
}

// What is counted many cells at a time is what is counted one by one.
func TestManyCellsAtATime(t *testing.T) {
	for sort := range 5 {
		const rows = 120_000
		block := columnBlock(rows, func(r *rand.Rand, _ int) string { return newCell(r, sort) })
		fast, slow := newColumn(reading.NewReader(nil), 1), newColumn(reading.NewReader(nil), 1)
		slow.detail = newDetail(1) // what is opened is looked at cell by cell
		for row := 0; row < rows; row += tile {
			fast.Add(block, 0, row, min(row+tile, rows))
			slow.Add(block, 0, row, min(row+tile, rows))
		}
		if sort < 2 {
			require.NotZero(t, fast.short.ready, "sort %d", sort)
		}
		require.Zero(t, slow.short.ready)
		fast.finish()
		slow.finish()
		require.Len(t, fast.Tallies, len(slow.Tallies), "sort %d", sort)
		for i := range slow.Tallies {
			want, got := slow.Tallies[i], fast.Tallies[i]
			want.sketches = got.sketches
			assert.Equal(t, want, got, "sort %d", sort)
		}
		assert.Equal(t, slow.lengths, fast.lengths, "sort %d", sort)
		assert.Equal(t, slow.words, fast.words, "sort %d", sort)
		want, wantExact := slow.distinct.count()
		got, exact := fast.distinct.count()
		assert.Equal(t, want, got, "sort %d", sort)
		assert.Equal(t, wantExact, exact, "sort %d", sort)
	}
}

// Short texts are hashed as numbers: no two of one length alike, and any of another length
// as unlike as those of longer texts.
func TestHashText(t *testing.T) {
	seen := map[uint64]string{}
	for i := range 300_000 {
		for _, s := range []string{fmt.Sprint(i), fmt.Sprintf("%07d", i), fmt.Sprintf("%d,5", i), fmt.Sprintf("crate %d", i)} {
			h := hashText([]byte(s))
			if before, ok := seen[h]; ok && before != s {
				t.Fatalf("%q and %q have the same hash", before, s)
			}
			seen[h] = s
		}
	}
	d := distinct{exact: 100}
	for i := range 300_000 {
		d.add(hashText(fmt.Appendf(nil, "%d", i)))
	}
	n, exact := d.count()
	assert.False(t, exact)
	assert.InEpsilon(t, 300_000, n, DistinctError)
}
