package profile

import "iter"

// hashSet is a set of hashes. They are spread as evenly as can be already, so that each chooses its slot by its lowest
// bits, and a slot that is taken by another is followed by the next: looking one up costs a few instructions, where a
// map hashes it once more.
type hashSet struct {
	slots []uint64 // a power of two, at most half of them taken; 0 for none
	n     int      // those in slots
	zero  bool     // whether 0 is in the set
}

// minHashSlots is how many slots a set begins with.
const minHashSlots = 8

// add adds a hash.
func (s *hashSet) add(h uint64) {
	if h == 0 {
		s.zero = true
		return
	}
	if 2*s.n >= len(s.slots) {
		s.grow()
	}
	most := uint64(len(s.slots) - 1)
	for i := h & most; ; i = (i + 1) & most {
		switch s.slots[i] {
		case h:
			return
		case 0:
			s.slots[i] = h
			s.n++
			return
		}
	}
}

func (s *hashSet) grow() {
	old := s.slots
	s.slots, s.n = make([]uint64, max(minHashSlots, 2*len(old))), 0
	for _, h := range old {
		if h != 0 {
			s.add(h)
		}
	}
}

// has reports whether a hash is in the set.
func (s *hashSet) has(h uint64) bool {
	if h == 0 || len(s.slots) == 0 {
		return h == 0 && s.zero
	}
	most := uint64(len(s.slots) - 1)
	for i := h & most; s.slots[i] != 0; i = (i + 1) & most {
		if s.slots[i] == h {
			return true
		}
	}
	return false
}

// size returns how many hashes are in the set.
func (s *hashSet) size() int {
	if s.zero {
		return s.n + 1
	}
	return s.n
}

// all goes through the hashes.
func (s *hashSet) all() iter.Seq[uint64] {
	return func(yield func(uint64) bool) {
		if s.zero && !yield(0) {
			return
		}
		for _, h := range s.slots {
			if h != 0 && !yield(h) {
				return
			}
		}
	}
}
