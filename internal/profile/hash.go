package profile

import (
	"encoding/binary"

	"github.com/zeebo/xxh3"
)

// hashText hashes a text: a short one as a number, which costs a fraction of hashing bytes.
func hashText(text []byte) uint64 {
	n := len(text)
	switch {
	case n > 8:
		return xxh3.Hash(text)
	case n >= 4: // the two halves may overlap
		return hashWord(uint64(binary.LittleEndian.Uint32(text))|uint64(binary.LittleEndian.Uint32(text[n-4:]))<<(8*(n-4)), n)
	case n > 0:
		return hashWord(uint64(text[0])|uint64(text[n/2])<<(8*(n/2))|uint64(text[n-1])<<(8*(n-1)), n)
	}
	return hashWord(0, 0)
}

// hashWord hashes a text of n bytes, at most eight, which stand in w from the lowest byte
// on. It is the finalizer of SplitMix64 (Steele, Lea, Flood: Fast splittable pseudorandom
// number generators), so that different texts of one length never have the same hash.
func hashWord(w uint64, n int) uint64 {
	h := w + uint64(n)*0x9e3779b97f4a7c15
	h = (h ^ h>>30) * 0xbf58476d1ce4e5b9
	h = (h ^ h>>27) * 0x94d049bb133111eb
	return h ^ h>>31
}
