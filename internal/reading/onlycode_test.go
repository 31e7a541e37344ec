package reading

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/value"
)

// pieces are what codes, dates, times and numbers are made of.
var pieces = []string{
	"0", "7", "12", "30", "31", "045", "1999", "2021", "20210304", "123456789", "1234567890", "a", "b", "c", "d", "e", "E", "f", "A", "B",
	"h", "K", "T", "W", "Z", "v", "x", "R", "p", "am", "pm", "AB", "de", "Ma", "mar", "Mar", "May", "march", "Dydd", "Sul", "kg", "EUR",
	"Kr", "USD", "th", "st", "er", "UTC", "Mo", "Tue", "lot", "crate", "pier", "deadbeef", "O", "l", "S", "N", "no", "k", "Mio", "million",
	"-", "-", "-", " ", " ", ".", "/", ",", ":", "_", "(", ")", "+", "'", "%", "#", "ü", "é", "\u00a0", "Ã¼",
	"@", "@", "*", "$", "!", "&", "&amp;", "<b>", "<", "=", "~", "ż", "Я", "нет", "não", "sí", "ja", "東京", "は", "いいえ", "â€™", "â", "Â",
	"Ã", "ô", "ñ", "ß", "İ", "ſ", "…", "’", "–", "e\u0301", "\u00ad", "\u200b", "\u2028", "\ufeff", "\ufffd", "\xc3", "\xe6\x9d", "𝟗", "٣", "अ", "ó",
}

// What the short ways say of a cell is what the long way says.
func TestShortWaysAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(29, 11))
	n := nets.Size(300_000, 2_000_000)
	short, long := NewReader(nil), NewReader(nil)
	short.outlines, long.outlines = nil, nil
	codes := 0
	for range n {
		cell := make([]byte, 0, 64)
		if r.IntN(2) == 0 { // what people write, with a piece in it that does not belong there
			cell = append(cell, patterns[r.IntN(len(patterns))]...)
			for i, b := range cell {
				if b == '9' {
					cell[i] = '0' + byte(r.IntN(10)&r.IntN(16)%10)
				}
			}
			at := r.IntN(len(cell) + 1)
			cell = slices.Insert(cell, at, []byte(pieces[r.IntN(len(pieces))])...)
		} else {
			for range 1 + r.IntN(6) {
				cell = append(cell, pieces[r.IntN(len(pieces))]...)
			}
		}
		if onlyCode(cell, classesOf(cell)) {
			codes++
		}
		requireExact(t, short, long, cell)
	}
	require.Greater(t, codes, n/20)
}

func requireExact(t *testing.T, short, long *Reader, cell []byte) {
	x := &long.reads
	x.Set, x.Form, x.affix, x.Negative, x.small = 0, 0, "", false, false
	want := long.long(cell, classesOf(cell), x)
	got := short.Read(cell)
	if want.Set.Any(numbers | dates) {
		short.high = long.high // which is not asked for
	}
	require.Equal(t, saidOf(want), saidOf(got), "%q", cell)
	if chars := short.OnlyText(cell); chars > 0 {
		require.Zero(t, want.Set, "%q", cell)
		require.Zero(t, want.Form, "%q", cell)
		require.Equal(t, utf8.RuneCount(cell), chars, "%q", cell)
	}
}

// FuzzShortWays holds the short ways to the long one.
func FuzzShortWays(f *testing.F) {
	for _, p := range append(patterns, "7f3a-00e1", "12a345", "1e5f3", "v1.20", "0042 pier 7", "3f2504e0-4f89-11d3-9a0c-0305e82c3301") {
		f.Add([]byte(p))
	}
	short, long := NewReader(nil), NewReader(nil)
	short.outlines, long.outlines = nil, nil
	f.Fuzz(func(t *testing.T, cell []byte) {
		if len(cell) > 0 {
			requireExact(t, short, long, cell)
		}
	})
}

// Codes of which no two are alike do not go the long way, wherever their letters stand.
func TestCodesAreShort(t *testing.T) {
	r := NewReader(nil)
	for _, cell := range []string{
		"3f2504e0-4f89-11d3-9a0c-0305e82c3301", "07f3a00e", "00E1B7C49A12", "AB-123", "XKQ4711Z", "12 Harbour Road, pier 3", "100x200x300",
		"1234567f", "a1234", "A9-77",
	} {
		require.True(t, onlyCode([]byte(cell), classesOf([]byte(cell))), cell)
	}
	for _, cell := range []string{
		"12a34", "1e5", "7 kg", "4 Mar 2021", "2021-W09-4", "12h30", "R12", "1000EUR", "v1.20", "O12", "lot 7 ", "12:30a", "", "12",
	} {
		require.False(t, cell != "" && onlyCode([]byte(cell), classesOf([]byte(cell))), cell)
	}
	require.Equal(t, value.NotBlank, r.Read([]byte("AB-123")).Set.Blank())
}

// The sets of short words are what the names say, for every word of up to three letters.
func TestShortWords(t *testing.T) {
	table := theNames.get()
	begins, is := map[string]bool{}, map[string]bool{}
	for _, list := range []map[string]*name{table.names, table.plain} {
		for key := range list {
			for n := range 4 {
				begins[key[:min(n, len(key))]] = true
			}
			is[key] = true
		}
	}
	letters := []byte("abcdefghijklmnopqrstuvwxyz")
	words := [][]byte{}
	for _, a := range letters {
		words = append(words, []byte{a})
		for _, b := range letters {
			words = append(words, []byte{a, b})
			for _, c := range letters {
				words = append(words, []byte{a, b, c})
			}
		}
		filler := table.names[string(a)] != nil && table.names[string(a)].roles != 0
		require.Equal(t, filler, table.fillers>>(a-'a')&1 == 1, "%c", a)
	}
	for _, w := range words {
		require.Equal(t, begins[string(w)], table.starts.has(w), "%s", w)
		require.Equal(t, is[string(w)], table.short.has(w), "%s", w)
		upper := []byte(strings.ToUpper(string(w)))
		require.Equal(t, table.short.has(w), table.short.has(upper), "%s", w)
	}
}
