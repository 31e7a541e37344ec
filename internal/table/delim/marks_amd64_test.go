package delim

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/cpu"
)

// What find does with the instructions of newer processors, it does with those of all.
func TestFindIsTheSameOnEveryProcessor(t *testing.T) {
	if !cpu.X86.HasAVX2 {
		t.Skip("this processor has no AVX2")
	}
	r := rand.New(rand.NewPCG(11, 12))
	for range 2000 {
		groups := r.IntN(9)
		text := make([]byte, 64*groups+1)
		for i := range text {
			text[i] = ",\n\"abcdefghijk"[r.IntN(14)]
		}
		text[r.IntN(len(text))] = byte(r.IntN(256))
		old, recent := make([]uint64, marksPerGroup*groups+1), make([]uint64, marksPerGroup*groups+1)
		a := findSSE2(&text[0], groups, &old[0], lowBits*',', lowBits*'\n', lowBits*'"')
		b := findAVX2(&text[0], groups, &recent[0], lowBits*',', lowBits*'\n', lowBits*'"')
		require.Equal(t, old, recent, "%q", text)
		require.Equal(t, a != 0, b != 0, "%q", text)
	}
}
