package profile

import (
	"encoding/binary"
	"math"

	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Columns whose texts are all new are mostly numbers, and most of these are short: they
// take a way of their own, many cells at a time.

// shortStats are the short numbers of one kind among some cells.
type shortStats struct {
	cells              uint32
	sum, smallest, top int64
}

var noShorts = func() (all [reading.NumShorts]shortStats) {
	for i := range all {
		all[i].smallest, all[i].top = math.MaxInt64, math.MinInt64
	}
	return all
}()

// shorts counts plain numbers of at most eight characters from a row on, up to the first
// cell that is no such number or whose tally wants more of it, and returns its row. There
// are at most tile rows.
func (c *Column) shorts(b *table.Block, column, row, to int) int {
	if c.short.ready == 0 || c.distinct.many == nil || !c.Tallies[c.last].Set.Any(reading.NumPoint) ||
		c.detail != nil && !c.detail.manyTexts {
		return row
	}
	var words [tile]uint64
	var sizes [tile]uint8
	n := shortWords(b, row*b.Width+column, to, &words, &sizes)
	if c.detail != nil {
		n = c.openShorts(&words, &sizes, n)
	}
	n = c.countShorts(&words, &sizes, n)
	c.distinct.many.addWords(words[:n], sizes[:n])
	return row + n
}

// shortWords gathers the bytes of the cells of a column, from the one with the span at on and
// up to the row to, or the first cell with none or more than eight. It returns how many they are.
func shortWords(b *table.Block, at, to int, words *[tile]uint64, sizes *[tile]uint8) (n int) {
	spans, width, padded := b.Spans[:to*b.Width], b.Width, b.Padded()
	for ; uint(at) < uint(len(spans)); at += width {
		s := spans[at]
		if !s.Within(table.MaxWord) {
			break
		}
		words[n&(tile-1)], sizes[n&(tile-1)] = padded.Word(s), uint8(s.Len())
		n++
	}
	return n
}

// countShorts counts n cells up to the first that is no short number or whose tally wants
// more of it, and returns how many they are.
func (c *Column) countShorts(words *[tile]uint64, sizes *[tile]uint8, n int) int {
	all := noShorts
	ready := c.short.ready
	i := 0
	for ; i < n; i++ {
		coef, kind, ok := reading.ReadShort(words[i&(tile-1)], uint(sizes[i&(tile-1)]))
		if !ok || ready>>(kind&63)&1 == 0 {
			break
		}
		a := &all[kind]
		a.cells++
		a.sum += coef
		a.smallest, a.top = min(a.smallest, coef), max(a.top, coef)
	}
	for kind := range all {
		if a := &all[kind]; a.cells > 0 {
			t := &c.Tallies[c.short.tally[kind]]
			t.Cells += int64(a.cells)
			t.Numbers[reading.Point].small[reading.Shorts[kind].Scale].addAll(a)
		}
	}
	return i
}

// openShorts adds n short numbers to what is collected of an opened column with many texts, up to the first that
// countShorts does not count or whose shape has no cell yet, and returns how many they are.
func (c *Column) openShorts(words *[tile]uint64, sizes *[tile]uint8, n int) int {
	d := c.detail
	if d.plain == nil {
		d.plain = new(plainShapes)
	}
	for i := range n {
		w, size := words[i&(tile-1)], sizes[i&(tile-1)]
		coef, kind, ok := reading.ReadShort(w, uint(size))
		if !ok || c.short.ready>>(kind&63)&1 == 0 {
			return i
		}
		scale := reading.Shorts[kind].Scale
		shape := &d.plain[size][scale][bit(byte(w) == '-')]
		if *shape == nil || (*shape).moved {
			var text [table.MaxWord]byte
			binary.LittleEndian.PutUint64(text[:], w)
			s := d.shapeOf(text[:size])
			if !s.seen() {
				return i
			}
			*shape = s
			d.length(int(size))
		}
		(*shape).cells++
		t := &c.Tallies[c.short.tally[kind]]
		_ = t.sketches[reading.Point].Add(value.Int128From(coef).Near(scale)) // fails for infinities only
	}
	return n
}

func bit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// addWords adds the hashes of texts that stand in words.
func (s *sketch) addWords(words []uint64, sizes []uint8) {
	for i, w := range words {
		s.add(hashWord(w, int(sizes[i])))
	}
}

// readyShorts sees which kinds of short numbers can be counted many at a time: those that
// mean the same under any decimal mark, where nothing but their sum and their extremes is
// wanted.
func (c *Column) readyShorts() {
	c.short.ready = 0
	if c.shapes.open() || c.reader.Told() {
		return
	}
	for i := range c.Tallies {
		t := &c.Tallies[i]
		if len(t.First) < maxSamples || t.Numbers[reading.Point] == nil || t.Set.Has(reading.NumComma|reading.MarkPoint) {
			continue
		}
		for kind, short := range reading.Shorts {
			if short.Set == t.Set && short.Form == t.Form {
				c.short.ready |= 1 << kind
				c.short.tally[kind] = int32(i)
			}
		}
	}
}

func (a *scaleStats) addAll(s *shortStats) {
	a.merge(&scaleStats{count: uint64(s.cells), sum: value.Int128From(s.sum), smallest: s.smallest, top: s.top})
}
