package table

import (
	"encoding/binary"
	"math/bits"
	"unsafe"
)

// MaxKey is the longest text, in bytes, that has a key.
const MaxKey = 15

// Key is a short text as two numbers, which compare faster than bytes: the texts of
// a block that are equal have equal keys, and no others do.
type Key struct {
	lo, hi uint64 // the text's bytes, padded with zeros; its length is the topmost byte
}

// keyMasks keeps of the first and the second eight bytes those of a text of each
// length, and has the length for the topmost byte.
var keyMasks = func() (m [16]struct{ lo, hi, size uint64 }) {
	for i := range m {
		m[i].lo = 1<<(8*min(i, 8)) - 1
		m[i].hi = 1<<(8*max(0, i-8)) - 1
		m[i].size = uint64(i) << 56
	}
	return m
}()

// Pad makes room for keys after the text. Whoever sets Text calls it before Key is.
func (b *Block) Pad() {
	n := len(b.Text)
	if cap(b.Text) < n+16 {
		b.Text = append(b.Text, make([]byte, 16)...)[:n]
	}
	b.padded = Padded{unsafe.SliceData(b.Text)}
}

// Padded is a block's text with room for a key after it. All spans of a block stand inside
// its text, so that what they point to is read without asking again whether it is there:
// that would be a fourth of the cost of counting a cell.
type Padded struct{ text *byte }

// Padded returns the text that Pad has made room after.
func (b *Block) Padded() Padded { return b.padded }

// MaxWord is the longest text, in bytes, that is a word.
const MaxWord = 8

// Word returns the bytes of a span of at most MaxWord bytes that is not escaped, the first
// of them lowest.
func (p Padded) Word(s Span) uint64 {
	text := (*[8]byte)(unsafe.Add(unsafe.Pointer(p.text), s.Start))
	return binary.LittleEndian.Uint64(text[:]) & keyMasks[s.N&15].lo
}

// Key returns the key of a span of at most MaxKey bytes that is not escaped.
func (p Padded) Key(s Span) Key {
	text, m := (*[16]byte)(unsafe.Add(unsafe.Pointer(p.text), s.Start)), &keyMasks[s.N&15]
	return Key{
		binary.LittleEndian.Uint64(text[:8]) & m.lo,
		binary.LittleEndian.Uint64(text[8:])&m.hi | m.size,
	}
}

// slotPair returns two of n slots, a power of two up to 4096, that have little to do with each other: texts
// that share one mostly differ in the other.
func (k Key) slotPair(n uint64) (a, b uint64) {
	h := (k.lo ^ bits.RotateLeft64(k.hi, 29)) * 0x9e3779b97f4a7c15
	return h >> 52 & (n - 1), h >> 40 & (n - 1)
}

// Append appends the text that the key stands for.
func (k Key) Append(dst []byte) []byte {
	var buf [16]byte
	binary.LittleEndian.PutUint64(buf[:], k.lo)
	binary.LittleEndian.PutUint64(buf[8:], k.hi)
	return append(dst, buf[:k.hi>>56]...)
}
