package table

import (
	"encoding/binary"
	"math/bits"
)

// MaxKey is the longest text, in bytes, that has a key.
const MaxKey = 16

// Key is a short text as three numbers, which compare faster than bytes: the
// texts of a block that are equal have equal keys, and no others do.
type Key struct {
	lo, hi uint64
	size   uint8
}

var lowBytes = func() (m [9]uint64) {
	for i := range m {
		m[i] = 1<<(8*i) - 1
	}
	m[8] = ^uint64(0)
	return m
}()

// Key returns the key of a span of at most MaxKey bytes that is not escaped.
func (b *Block) Key(s Span) Key {
	size := s.Len()
	k := Key{size: uint8(size)}
	if start := int(s.Start); start+MaxKey <= len(b.Text) {
		k.lo = binary.LittleEndian.Uint64(b.Text[start:])
		if size <= 8 {
			k.lo &= lowBytes[size]
		} else {
			k.hi = binary.LittleEndian.Uint64(b.Text[start+8:]) & lowBytes[size-8]
		}
		return k
	}
	var buf [MaxKey]byte
	copy(buf[:], b.Text[s.Start:int(s.Start)+size])
	k.lo, k.hi = binary.LittleEndian.Uint64(buf[:]), binary.LittleEndian.Uint64(buf[8:])
	return k
}

// Slot spreads keys over a table of n slots, a power of two.
func (k Key) Slot(n uint64) uint64 {
	h, l := bits.Mul64(k.lo^0x9e3779b97f4a7c15, k.hi^0xe7037ed1a0b428db)
	return (h ^ l) & (n - 1)
}

// Append appends the text that the key stands for.
func (k Key) Append(dst []byte) []byte {
	var buf [MaxKey]byte
	binary.LittleEndian.PutUint64(buf[:], k.lo)
	binary.LittleEndian.PutUint64(buf[8:], k.hi)
	return append(dst, buf[:k.size]...)
}
