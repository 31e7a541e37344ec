package step

import (
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"unicode"

	"github.com/rivo/uniseg"
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

// Characters are counted as they are where each is looked at, and runs are what a pattern for them finds.
func TestQuickPlacesAreTheDefinition(t *testing.T) {
	clusters := func(text string) (all []string) {
		for g := uniseg.NewGraphemes(text); g.Next(); {
			all = append(all, g.Str())
		}
		return all
	}
	apply := func(args map[string]Args, text string) (string, reason.Reason) {
		s, err := New("take", args)
		require.NoError(t, err)
		return s.Apply(text)
	}
	texts := append(randomTexts(2000), "a\r\nb\r\nc", "e\u0301t\u0301e", "👩‍👩‍👧x🇩🇪y", "\r", "ab12 cd34", "\r\n")
	for _, text := range texts {
		all := clusters(text)
		assert.Equal(t, len(all), length(text), "%q", text)
		for _, n := range []int{1, 2, 5, 20} {
			first, _ := apply(map[string]Args{"first": n}, text)
			assert.Equal(t, strings.Join(all[:min(n, len(all))], ""), first, "first %d of %q", n, text)
			last, _ := apply(map[string]Args{"last": n}, text)
			assert.Equal(t, strings.Join(all[max(0, len(all)-n):], ""), last, "last %d of %q", n, text)
			middle, why := apply(map[string]Args{"from": n, "length": 2}, text)
			if n > len(all) {
				assert.Equal(t, reason.NotFound, why, "from %d of %q", n, text)
			} else {
				assert.Equal(t, strings.Join(all[n-1:min(n+1, len(all))], ""), middle, "from %d of %q", n, text)
			}
		}
		for key, pattern := range map[string]string{"word": `[^\s\p{Zs}]+`, "digits": `\p{Nd}+`, "letters": `[\p{L}\p{M}]+`} {
			runs := regexp.MustCompile(pattern).FindAllString(text, -1)
			for _, n := range []int{1, 2, 3, -1, -2} {
				got, why := apply(map[string]Args{key: n}, text)
				if i := index(n, len(runs)); i >= 0 {
					assert.Equal(t, runs[i], got, "%s %d of %q", key, n, text)
				} else {
					assert.Equal(t, reason.NotFound, why, "%s %d of %q", key, n, text)
				}
			}
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
	for _, key := range []string{"word", "digits", "letters", "first", "last", "from"} {
		s, err := New("take", map[string]Args{key: 1})
		require.NoError(t, err)
		text := "Alte Liebe, pier 2"
		assert.Zero(t, testing.AllocsPerRun(100, func() { _, _ = s.Apply(text) }), "take %s", key)
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
