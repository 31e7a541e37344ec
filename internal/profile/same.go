package profile

import (
	"cmp"
	"math/bits"
	"slices"

	"github.com/zeebo/xxh3"

	"junvo/internal/table"
	"junvo/internal/value"
)

// rowSet counts rows that are the same, byte for byte. It keeps the rows whose hashes
// begin with level zero bits, and of these at most maxRowsApart different ones: all rows
// of a short table, and of a long one a sample that holds every copy of its rows. The
// level is the lowest multiple of levelStep that will do, whatever the rows' order.
type rowSet struct {
	few     map[uint64]repeats
	level   uint8
	unknown bool // what a saved profile with private columns has left out
}

// repeats is how often a row occurs, and where first and next.
type repeats struct {
	times       uint32
	first, next Place
}

const (
	maxRowsApart = 1 << 15
	levelStep    = 3
	// manyRepeats is the part of all rows, as a divisor, from which rows that repeat others are many.
	manyRepeats = 8
)

// nowhere is after all places.
var nowhere = Place{Block: ^uint32(0)}

// takes reports whether a row of this hash is in the sample.
func (s *rowSet) takes(h uint64) bool { return h>>(64-s.level) == 0 }

// add adds a row of the sample that lies after all that were added to this set before.
func (s *rowSet) add(h uint64, at Place) {
	have, ok := s.few[h]
	if !ok {
		s.repeat(h, repeats{1, at, nowhere})
		return
	}
	have.times++
	if have.next == nowhere {
		have.next = at
	}
	s.few[h] = have
}

// repeat adds what is known of rows of one hash.
func (s *rowSet) repeat(h uint64, r repeats) {
	if s.few == nil {
		s.few = map[uint64]repeats{}
	}
	if have, ok := s.few[h]; ok {
		places := []Place{have.first, have.next, r.first, r.next}
		slices.SortFunc(places, comparePlaces)
		r = repeats{have.times + r.times, places[0], places[1]}
	}
	s.few[h] = r
	for len(s.few) > maxRowsApart {
		s.raise(s.level + levelStep)
	}
}

// raise keeps only the rows whose hashes begin with that many zero bits.
func (s *rowSet) raise(level uint8) {
	if level <= s.level {
		return
	}
	s.level = level
	for h := range s.few {
		if !s.takes(h) {
			delete(s.few, h)
		}
	}
}

func (s *rowSet) merge(o *rowSet) {
	if s.unknown = s.unknown || o.unknown; s.unknown {
		s.few = nil
		return
	}
	s.raise(o.level)
	for h, r := range o.few {
		if h>>(64-s.level) == 0 {
			s.repeat(h, r)
		}
	}
}

// repeated returns how many of that many rows repeat one before them, the first of those that are
// known, and whether the number is exact and not an estimate from a sample.
//
// Where few rows repeat others, an estimate is made of those of them that are in the sample. A row that is very
// frequent may be in the sample or not, so that it says too much or nothing; where many rows repeat others, those are
// counted that do not, of which none is more frequent than another.
func (s *rowSet) repeated(rows int64) (n int64, first []Place, exact bool) {
	different := int64(len(s.few)) << s.level
	for _, r := range s.few {
		if r.times > 1 {
			n += int64(r.times) - 1
			first = append(first, r.next)
		}
	}
	slices.SortFunc(first, comparePlaces)
	first = first[:min(len(first), maxRows)]
	if s.level == 0 {
		return n, first, true
	}
	if n <<= s.level; n > rows/manyRepeats || n == 0 && rows-different > rows/manyRepeats {
		n = max(0, rows-different)
	}
	return n, first, false
}

func comparePlaces(p, q Place) int {
	return cmp.Or(cmp.Compare(p.Block, q.Block), cmp.Compare(p.Row, q.Row))
}

// same counts equal rows, and finds equal columns.
type same struct {
	rows   rowSet
	copies copies
}

func (s *same) add(b *table.Block, from, to int, contiguous bool) {
	if b.Width < 2 {
		return
	}
	s.copies.add(b, from, to)
	for row := from; row < to; row++ {
		h := uint64(0)
		if contiguous {
			h = xxh3.Hash(rowBytes(b, row))
		} else {
			h = hashCells(b, row)
		}
		if s.rows.takes(h) {
			s.rows.add(h, place(b, row))
		}
	}
}

func mix(h uint64) uint64 {
	hi, lo := bits.Mul64(h|1, 0x9e3779b97f4a7c15)
	return hi ^ lo
}

// rowBytes returns the text of a row that stands in one piece.
func rowBytes(b *table.Block, row int) []byte {
	first, last := row*b.Width, (row+1)*b.Width-1
	for last > first && b.Spans[last].N&table.Missing != 0 {
		last--
	}
	end := b.Spans[last]
	return b.Text[b.Spans[first].Start : int(end.Start)+end.Len()]
}

// hashCells hashes a row cell by cell, with how each is stored.
func hashCells(b *table.Block, row int) (h uint64) {
	for i, s := range b.Row(row) {
		if b.Kinds != nil {
			h ^= uint64(b.Kinds[row*b.Width+i])
		}
		h = mix(bits.RotateLeft64(h, 17) ^ hashText(b.At(s)))
	}
	return h
}

func (s *same) merge(o *same) {
	s.rows.merge(&o.rows)
	s.copies.merge(&o.copies)
}

// facts says which columns are constant, which may be a key, and which hold the same as
// a column before them.
func (p *Profile) facts(s *same) {
	for i, c := range p.Columns {
		n, exact := c.Distinct()
		filled := c.Conclusion.Fits + c.Conclusion.Fails
		whole := c.Column.Cells > 1 && filled == c.Column.Cells
		c.Constant = whole && exact && n == 1
		if whole && filled >= minKey && c.tellsApart(filled) {
			c.Key = exact && n == filled
			c.NearKey = !exact && float64(n) >= (1-keyDoubt)*float64(filled)
		}
		if c.Constant || filled == 0 {
			continue
		}
		if at, ok := s.copies.copyOf(i); ok {
			c.CopyOf = p.Columns[at].Name
		}
	}
}

// tellsApart reports whether rows are told apart by such values: measures and days that happen to differ make no key.
// Whole numbers do if they are numbers of something by the name of the column, have one length as codes have, or lie
// close together as those that count.
func (c *ColumnProfile) tellsApart(cells int64) bool {
	switch c.Conclusion.Convention.Type {
	case value.Code, value.Text:
		return true
	case value.Integer:
		first, err1 := value.ParseNumber(c.Range.Smallest)
		last, err2 := value.ParseNumber(c.Range.Largest)
		if err1 != nil || err2 != nil {
			return false
		}
		dense := last.Float()-first.Float() < 2*float64(cells)
		return dense || codeWord(c.Name) != "" || (&finder{c: c}).oneLength() > 0
	}
	return false
}

// keyDoubt is the share by which the number of different texts may be too small where it
// is an estimate.
const keyDoubt = 0.02

// minKey is how many rows there must be until it says something that their values differ.
const minKey = 10
