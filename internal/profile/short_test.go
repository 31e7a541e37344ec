package profile

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
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
	case 4:
		return fmt.Sprintf("%02d/%02d/%d", r.IntN(33), r.IntN(14), 1990+r.IntN(40))
	case 5:
		return fmt.Sprintf([]string{"%d.%03d,%02d €", "€ %d.%03d,%02d", "(%d,%03d.%02d)", " %d %03d,%02d"}[r.IntN(4)], 1+r.IntN(900), r.IntN(1000), r.IntN(100))
	case 6:
		return fmt.Sprintf("20%02d-%02d-%02dT%02d:%02d:%02dZ", r.IntN(100), r.IntN(14), 1+r.IntN(30), r.IntN(25), r.IntN(60), r.IntN(60))
	case 7: // more units than are counted apart
		return fmt.Sprintf("%d,%d %s%c%c", r.IntN(10), r.IntN(10), []string{"kg", "KG", "boxes"}[r.IntN(3)], 'a'+rune(r.IntN(10)), 'a'+rune(r.IntN(10)))
	case 8:
		signs := "-+/.:;!?"
		return fmt.Sprintf("порт %c%c %d%c%c", 'а'+rune(r.IntN(30)), signs[r.IntN(8)], r.IntN(100_000), signs[r.IntN(8)], signs[r.IntN(8)])
	case 9:
		return fmt.Sprintf("%d%0*d.%d", 1+r.IntN(9), 7+r.IntN(20), r.IntN(10_000_000), r.IntN(10))
	case 10: // a day but for a letter, or none, as the digits are
		return fmt.Sprintf("l%d/%02d/20%02d", r.IntN(10), r.IntN(40), r.IntN(100))
	case 11: // more digits behind the mark than are counted by themselves
		return fmt.Sprintf([]string{"%d,%07d kg", "%d.%07d%%", "-%d,%06d ‰", "%d.%03d EUR"}[r.IntN(4)], 1+r.IntN(900), r.IntN(10_000_000)%1000)
	default:
		return newCell(r, r.IntN(sorts-1))
	}
}

const sorts = 13

// slowly counts the cells of a block one by one.
func slowly(c *Column, b *table.Block) {
	c.Cells += int64(b.Rows)
	c.Stored[value.StoredText] += int64(b.Rows)
	for row := range b.Rows {
		c.unkeyed(b.Spans[row], b, row)
	}
}

// quicklyAndSlowly counts the cells of a block of one column as it does, and one by one, and holds both equal.
func quicklyAndSlowly(t *testing.T, block *table.Block, opened bool, name string) (fast, slow *Column) {
	fast, slow = newColumn(reading.NewReader(nil), 1), newColumn(reading.NewReader(nil), 1)
	if opened {
		fast.detail, slow.detail = newDetail(1), newDetail(1)
	}
	for row := 0; row < block.Rows; row += tile {
		fast.Add(block, 0, row, min(row+tile, block.Rows))
	}
	slowly(slow, block)
	fast.finish()
	slow.finish()
	if opened {
		require.Equal(t, shapesOf(slow.detail), shapesOf(fast.detail), name)
		require.Equal(t, slow.detail.texts, fast.detail.texts, name)
		require.Equal(t, [2]int{slow.detail.shortest, slow.detail.longest}, [2]int{fast.detail.shortest, fast.detail.longest}, name)
	}
	require.Len(t, fast.Tallies, len(slow.Tallies), name)
	for i := range slow.Tallies {
		want, got := slow.Tallies[i], fast.Tallies[i]
		assert.Equal(t, quartiles(t, want), quartiles(t, got), name)
		want.sketches = got.sketches
		assert.Equal(t, want, got, name)
	}
	assert.Equal(t, slow.lengths, fast.lengths, name)
	assert.Equal(t, slow.words, fast.words, name)
	want, wantExact := slow.distinct.count()
	got, exact := fast.distinct.count()
	assert.Equal(t, want, got, name)
	assert.Equal(t, wantExact, exact, name)
	return fast, slow
}

// What is counted many cells at a time is what is counted one by one.
func TestManyCellsAtATime(t *testing.T) {
	for k := range 2 * sorts {
		sort, opened := k/2, k%2 == 1
		name := fmt.Sprintf("sort %d", sort)
		block := columnBlock(60_000, func(r *rand.Rand, _ int) string { return newCell(r, sort) })
		fast, slow := quicklyAndSlowly(t, block, opened, name)
		require.Equal(t, sort == 7, slow.crowded && fast.crowded && sort < sorts-1, name)
		if sort < 2 {
			require.NotZero(t, fast.short.ready, name)
		}
		if opened {
			require.Equal(t, sort == 8, fast.detail.coarse && sort < sorts-1, name)
		}
	}
}

// Of an opened column of short numbers a new shape is noted where it comes first, however late, and those that are known
// are given up for coarse ones when there are too many.
func TestShapesOfShortNumbers(t *testing.T) {
	block := columnBlock(60_000, func(r *rand.Rand, row int) string {
		switch {
		case row == 30_000:
			return "421"
		case row == 55_000: // the shortest, when all runs of digits have one shape
			return "42"
		case row > 30_100 && row < 30_200:
			return fmt.Sprintf("-%d", 100+r.IntN(900))
		case row > 40_000 && row < 41_000:
			return strings.Map(func(c rune) rune { return c + '!' - '0' }, fmt.Sprintf("%b", row))
		}
		return fmt.Sprint(1_000_000 + r.IntN(9_000_000))[:4+r.IntN(4)]
	})
	fast, _ := quicklyAndSlowly(t, block, true, "shapes")
	require.True(t, fast.detail.coarse)
	require.NotNil(t, fast.detail.plain)
}

// Shapes become coarse while outlines have counted cells that are not in their shapes yet.
func TestShapesThatBecomeCoarse(t *testing.T) {
	const texts = 30_000
	block := columnBlock(texts+maxShapes+tile, func(r *rand.Rand, row int) string {
		switch {
		case row < texts && row%2 == 0:
			return fmt.Sprint(1_000_000 + r.IntN(9_000_000))
		case row >= texts && row < texts+maxShapes-3: // with those of the numbers as many shapes as are kept
			return strings.Map(func(c rune) rune { return c + '!' - '0' }, fmt.Sprintf("%b", row))
		case row == texts+maxShapes+79: // the last one of its tile, so that no other cell tells of the new shapes
			return "123456789"
		}
		return fmt.Sprintf("%d.%03d,%d kg", 1+r.IntN(99), r.IntN(1000), r.IntN(10))
	})
	fast, _ := quicklyAndSlowly(t, block, true, "shapes")
	require.True(t, fast.detail.coarse)
}

// quartiles are those of the sketches of a tally, with how many numbers each has.
func quartiles(t *testing.T, of Tally) (all [][]float64) {
	for _, s := range of.sketches {
		if s == nil {
			all = append(all, nil)
			continue
		}
		q, err := s.GetValuesAtQuantiles([]float64{0, 0.25, 0.5, 0.75, 1})
		require.NoError(t, err)
		all = append(all, append(q, s.GetCount()))
	}
	return all
}

// shapesOf are the shapes of an opened column, with how many cells have each, and the first of them.
func shapesOf(d *detail) map[string]shapeCount {
	all := map[string]shapeCount{}
	for shape, n := range d.shapes {
		all[shape] = *n
	}
	return all
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
	for i := range 300_000 { // and more, after it has been asked
		d.add(hashText(fmt.Appendf(nil, "%d more", i)))
	}
	n, _ = d.count()
	assert.InEpsilon(t, 600_000, n, DistinctError)
}
