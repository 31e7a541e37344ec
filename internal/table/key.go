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
	lo, hi uint64 // the text's bytes, padded with zeros
	size   uint64
}

// loBytes and hiBytes mask the first and the second eight bytes of texts by their length.
var loBytes, hiBytes = func() (lo, hi [32]uint64) {
	for i := range lo {
		lo[i], hi[i] = ^uint64(0), ^uint64(0)
		if i < 8 {
			lo[i] = 1<<(8*i) - 1
		}
		if i < 16 {
			hi[i] = 1<<(8*max(0, i-8)) - 1
		}
	}
	return lo, hi
}()

// Pad makes room for keys behind the text. Whoever sets Text calls it before Key is.
func (b *Block) Pad() {
	n := len(b.Text)
	if cap(b.Text) < n+MaxKey {
		b.Text = append(b.Text, make([]byte, MaxKey)...)[:n]
	}
	b.padded = b.Text[:n+MaxKey]
}

// Key returns the key of a span of at most MaxKey bytes that is not escaped.
func (b *Block) Key(s Span) Key {
	text, size := b.padded[s.Start:], s.N&31
	return Key{
		binary.LittleEndian.Uint64(text) & loBytes[size], binary.LittleEndian.Uint64(text[8:]) & hiBytes[size], uint64(size),
	}
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

// What all columns of a table remember of recent texts takes so many bytes for each
// worker; a column has a slot for each hash of a key, within these bounds.
const (
	recentBytes = 8 << 20
	minSlots    = 64
	maxSlots    = 4096
)

// Slots returns for how many recent texts each of so many columns has room, where a
// text takes size bytes. It is a power of two.
func Slots(columns int, size uintptr) uint64 {
	n := uint64(maxSlots)
	for n > minSlots && n*uint64(columns)*uint64(size) > recentBytes {
		n /= 2
	}
	return n
}
