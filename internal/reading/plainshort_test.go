package reading

import (
	"encoding/binary"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/value"
)

// ReadPlain reads what ReadShort reads, and compact days, as the number that they are; of all else, nothing.
func TestReadPlain(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	const alphabet = "0123456789..--,0 a"
	for range 300_000 {
		n := 1 + r.IntN(8)
		text := make([]byte, n)
		for i := range text {
			text[i] = alphabet[r.IntN(len(alphabet))]
		}
		if r.IntN(3) > 0 { // mostly digits
			for i := range text {
				if text[i] < '.' || text[i] > '9' {
					text[i] = '7'
				}
			}
		}
		var w [8]byte
		copy(w[:], text)
		coef, scale, ok := ReadPlain(binary.LittleEndian.Uint64(w[:]), uint(n))
		want, wantScale, _, wantOK := value.ParseShort(text)
		if !assert.Equal(t, []any{wantOK}, []any{ok}, "%s", text) || ok && !assert.Equal(t, []any{want, int(wantScale)}, []any{coef, int(scale)}, "%s", text) {
			return
		}
	}
}
