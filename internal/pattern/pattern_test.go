package pattern_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/pattern"
)

func TestWhatToWriteInstead(t *testing.T) {
	for text, want := range map[string]string{
		"(?<=a)b": "does not look behind", "(?<!a)b": "does not look behind", "a(?=b)": "does not look ahead",
		"a(?!b)": "does not look ahead", "(?>a)": "no atomic groups", "a++": "no possessive", "a*+": "no possessive",
		`(a)\1`: "does not refer back", "a(": "missing closing )",
	} {
		_, err := pattern.Compile(text)
		assert.ErrorContains(t, err, want, text)
	}
}

func Example() {
	re, err := pattern.Compile(`crate (\d+)`)
	fmt.Println(re.FindStringSubmatch("lot 88 crate 51")[1], err)
	// Output: 51 <nil>
}
