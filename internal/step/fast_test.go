package step

import (
	"math/rand/v2"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/reason"

	"junvo/internal/character"
)

// alphabet has what the quick ways of the steps look out for, and what they leave to others.
var alphabet = []string{" ", " ", "\t", "\n", "\u00a0", "\u2009", "\u200b", "\ufeff", "\u00ad", "a", "B", "7", "٣", "é", "É", "-", "€", ",", "\x00", "\x7f", "\xff"}

func randomTexts(n int) []string {
	r := rand.New(rand.NewPCG(5, 6))
	texts := []string{""}
	for range n {
		var b strings.Builder
		for range r.IntN(9) {
			b.WriteString(alphabet[r.IntN(len(alphabet))])
		}
		texts = append(texts, b.String())
	}
	return texts
}

// What the steps do quickly to plain text is what the definition of their Classes says,
// character for character.
func TestQuickWaysAreTheDefinition(t *testing.T) {
	naive := map[string]func(string) string{
		"trim": func(s string) string { return strings.TrimFunc(s, spaceOrInvisible) },
		"single-space": func(s string) string {
			out, inside := "", false
			for _, r := range s {
				if !character.Space(r) {
					out += string(r)
				} else if !inside {
					out += " "
				}
				inside = character.Space(r)
			}
			return out
		},
	}
	for name, want := range naive {
		s, err := New(name, nil)
		require.NoError(t, err)
		for _, text := range randomTexts(3000) {
			got, why := s.Apply(text)
			assert.Equal(t, reason.None, why)
			if strings.ToValidUTF8(text, "") == text { // else the pieces of a character may be shown as others
				assert.Equal(t, want(text), got, "%s of %q", name, text)
			}
		}
	}
	in := func(class string) func(rune) bool {
		for _, c := range character.Classes {
			if c.Name == class {
				return c.In
			}
		}
		panic(class)
	}
	for _, c := range character.Classes {
		drop, err := New("drop", c.Name)
		require.NoError(t, err)
		keep, err := New("keep", c.Name)
		require.NoError(t, err)
		for _, text := range randomTexts(500) {
			if strings.ToValidUTF8(text, "") != text {
				continue
			}
			dropped, _ := drop.Apply(text)
			kept, _ := keep.Apply(text)
			var without, only string
			for _, r := range text {
				if in(c.Name)(r) {
					only += string(r)
				} else {
					without += string(r)
				}
			}
			assert.Equal(t, without, dropped, "drop %s of %q", c.Name, text)
			assert.Equal(t, only, kept, "keep %s of %q", c.Name, text)
		}
	}
}

// A step that has nothing to do gives back the text itself, so that nothing is copied.
func TestStepsWithNothingToDoCopyNothing(t *testing.T) {
	for _, name := range []string{"trim", "single-space"} {
		s, err := New(name, nil)
		require.NoError(t, err)
		text := "Alte Liebe, pier 2"
		assert.Zero(t, testing.AllocsPerRun(100, func() { _, _ = s.Apply(text) }), name)
	}
}

// Trimming twice is trimming once, and what is left neither begins nor ends with a space.
func TestTrimIsDone(t *testing.T) {
	for _, text := range randomTexts(3000) {
		once := trim(text)
		assert.Equal(t, once, trim(once), "%q", text)
		assert.Equal(t, singleSpace(text), singleSpace(singleSpace(text)), "%q", text)
		if once != "" {
			runes := []rune(once)
			assert.False(t, unicode.IsSpace(runes[0]) || unicode.IsSpace(runes[len(runes)-1]), "%q", text)
		}
	}
}
