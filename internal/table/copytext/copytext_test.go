package copytext

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
)

func ExampleCut() {
	cell, rest, more := Cut([]byte(`a\tb	\N`))
	fmt.Printf("%q %q %v\n", Unescape(nil, cell), rest, more)
	// Output: "a\tb" "\\N" true
}

// What COPY writes of a character, and octal and hexadecimal numbers of bytes.
func TestEscapes(t *testing.T) {
	for text, want := range map[string]string{
		`a\tb`: "a\tb", `\\N`: `\N`, `\b\f\n\r\v`: "\b\f\n\r\v", `\x41\x4a5`: "AJ5", `\101\7`: "A\a", `\q`: "q", `\xg`: "xg", `end\`: `end\`,
	} {
		assert.Equal(t, want, string(Unescape(nil, []byte(text))), text)
	}
}

// A text comes back from its escaped form, which is one cell of one line.
func FuzzEscaped(f *testing.F) {
	f.Add("a\tb\nc\\N\r")
	f.Fuzz(func(t *testing.T, text string) {
		escaped := AppendEscaped(nil, []byte(text))
		assert.Equal(t, -1, bytes.IndexAny(escaped, "\t\n\r"))
		assert.Equal(t, text, string(Unescape(nil, escaped)))
	})
}
