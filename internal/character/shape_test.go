package character

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shapeByRunes is the definition of a shape, character by character.
func shapeByRunes(text string) string {
	var out strings.Builder
	last, run, digits := rune(0), 0, 0
	long := func() {
		if digits > MaxShapeRun {
			whole := strings.TrimSuffix(out.String(), strings.Repeat("9", digits))
			out.Reset()
			fmt.Fprintf(&out, "%s9{%d}", whole, digits)
		}
		digits = 0
	}
	for _, r := range text {
		class := rune(0)
		switch {
		case unicode.IsDigit(r):
			class = '9'
		case unicode.IsUpper(r):
			class = 'A'
		case unicode.IsLetter(r):
			class = 'a'
		case unicode.IsMark(r) && last != 0:
			continue
		}
		if class == '9' {
			out.WriteRune('9')
			digits++
			last, run = '9', 0
			continue
		}
		long()
		if class == 0 {
			out.WriteRune(r)
			last, run = 0, 0
			continue
		}
		if class != last {
			last, run = class, 0
		}
		switch run++; {
		case run <= MaxShapeRun:
			out.WriteRune(class)
		case run == MaxShapeRun+1:
			out.WriteRune('…')
		}
	}
	long()
	return out.String()
}

func TestShapeIsTheDefinition(t *testing.T) {
	for text, want := range map[string]string{
		"1.240,5 kg": "9.999,9 aa", "Petersen, Anke": "Aaaaaaaa, Aaaa", "": "", "٣٤": "99", "Möwe II": "Aaaa AA",
		"123456789012": "9{12}", "a1234567890-1": "a9{10}-9", "e\u0301t\u00e9": "aaa", "東京": "aa", "\u0301x": "\u0301a",
	} {
		assert.Equal(t, want, Shape(text), text)
	}
	pieces := []string{"1", "٣", "a", "B", "é", "É", "ß", "\u0301", "東", " ", "-", "\u00a0", "…", "9", "Z", "\U0001f41f"}
	r := rand.New(rand.NewPCG(11, 12))
	for range 5000 {
		var b strings.Builder
		for range r.IntN(24) {
			b.WriteString(pieces[r.IntN(len(pieces))])
		}
		text := b.String()
		if strings.Contains(text, "9\u0301") || strings.Contains(text, "1\u0301") || strings.Contains(text, "٣\u0301") {
			continue // a mark on a digit stays
		}
		assert.Equal(t, shapeByRunes(text), Shape(text), "%q", text)
	}
}

// What stands for the letters of large tables without a search is what a search finds.
func TestShapeClasses(t *testing.T) {
	for r := rune(utf8.RuneSelf); r <= unicode.MaxRune; r++ {
		want := byte(0)
		switch {
		case unicode.IsDigit(r):
			want = '9'
		case unicode.IsUpper(r):
			want = 'A'
		case unicode.IsLetter(r):
			want = 'a'
		}
		require.Equal(t, want, shapeClass(r), "%c", r)
	}
}

// runsOf cuts a shape after so many runs of like characters.
func runsOf(shape string, most int) string {
	last, runs := rune(0), 0
	for i, r := range shape {
		if r == '…' || r == last {
			continue
		}
		if last = r; runs == most {
			return shape[:i]
		}
		runs++
	}
	return shape
}

// The start of a shape begins as the shape does, and has the runs that were asked for, if the shape has them.
func TestAppendShapeStart(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 16))
	pieces := []string{"a", "B", "7", "7777777777", "abcdefghijkl", "-", "--", " ", "…", "ü", "Ж", "東京", "\u0301", "\xff", "\uFFFD", "."}
	for range 20_000 {
		text := ""
		for range r.IntN(20) {
			text += pieces[r.IntN(len(pieces))]
		}
		most := r.IntN(12)
		whole, start := Shape(text), string(AppendShapeStart(nil, []byte(text), most))
		require.Equal(t, runsOf(whole, most), runsOf(start, most), "%q %d", text, most)
	}
}

func TestAppendShapeCopiesNothing(t *testing.T) {
	space, text := make([]byte, 0, 64), []byte("Petersen, Anke 12")
	assert.Zero(t, testing.AllocsPerRun(100, func() { space = AppendShape(space[:0], text) }))
}
