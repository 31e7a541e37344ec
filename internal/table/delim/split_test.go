package delim

import (
	"math/rand/v2"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
)

// isUTF8 says what the library says, of text with few characters beyond ASCII, with many, and with bytes that are none.
func TestIsUTF8(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 16))
	pieces := []string{"a", "plain text of some length, and more of it", "ü", "€", "東京都", "порт и причал и", "🚢", "\xc3", "\xe2\x82", "\x80", "\xf0\x9f\x9a", "\xff", "\xed\xa0\x80", "\n"}
	for range 50_000 {
		var text []byte
		most := len(pieces)
		if r.IntN(2) == 0 {
			most = 7 // all of which are text
		}
		for range r.IntN(8) {
			text = append(text, pieces[r.IntN(most)]...)
		}
		text = text[:len(text)-min(len(text), r.IntN(2))]
		require.Equal(t, utf8.Valid(text), isUTF8(text), "%q", text)
	}
}
