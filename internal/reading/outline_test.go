package reading

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// saidOf is all that a reader says of a cell.
func saidOf(x *Reads) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%x %x %q %v", x.Set, x.Form, x.Affix(), x.reader.high)
	if x.Set.Any(numbers) {
		for m := Point; m < numMarks; m++ {
			if x.Set.Any(m.number()) {
				n := x.Number(m)
				fmt.Fprintf(&b, " %s %s %v %d", n, x.appendNumber(nil, m), x.Negative, n.Scale)
			}
		}
	}
	if x.Set.Any(dates | DateCompact | DateOrdinal) {
		for _, o := range x.Set.Slots() {
			fmt.Fprintf(&b, " %v", x.Days[o])
		}
	}
	if x.Set.Any(HasTime | ClockOnly) {
		fmt.Fprintf(&b, " %v", x.Moment)
	}
	return b.String()
}

// patterns are cells in which 9 stands for any digit, with all the marks, signs, units and fields that people use, and
// with some that only look like them.
var patterns = []string{
	"9.999,99", "9,999.99", "99999,999.99", "9999,99", "999.99", "-9.999,9", "(9,999.99)", "9 999,99", "9\u00a0999,99 €", "€ 999,99", "$9,999.99", "9'999.99",
	"99.99 kg", "99,9 kg", "9 kg", "9kg", "99 %", "99,9 %", "9 ‰", "+999", "+99999999999", "99.99", " 99.99", "99999999", " 99999999 ", "9", " 9 ", "99", " 99", "999999999999999999", "9999999999999999999",
	"99/99/9999", "9/9/9999", "9/99/9999", "99/99/99", "9/9/99", "99-99-9999", "99-99-99", "99.99.9999", "9.9.9999", "99.99.99", "9999/99/99", "9999.99.99", "9999-9-9", "9999-99-99", "99 99 9999",
	"9999-99-99T99:99:99Z", "9999-99-99 99:99", "9999-99-99 99:99:99", "9999-99-99 99:99:99.999", "9999-99-99T99:99:99.999999Z", "9999-99-99T99:99:99+99:99", "99.99.9999 99:99", "99/99/9999 9:99", "99/99/9999 99:99 pm",
	"99:99", "9:99", "99:99:99", "99:99:99.99", "99:99Z", "99.99 Uhr", "99h99", "9999-999", "9999-W99-9", "9999W999",
	"Lot 99 / crate 9", "A-99", "99-A", "R99", "99K", "9E9", "9.99E+99", "9e99", "l9,9", "9O9", "99,99,99", "9.9.9", "9,9,9", "v9.9", "#99", "&#99;", "99<br>", "=9+9", "'99", "'99/99/9999", "99 Mär 9999", "Mar 99, 9999",
	"99\u200b", "\u00a0999 ", "99\t", "9_999", "99\u066b9", "\u06699", "９９9", "99 EUR", "EUR 99", "US$ 9.99", "99.9°C", "9 m²", "9 x 9", "9/9", "99/999", "9:9", "99 999 999,99", "9,99,999.99", "99.999.999", "9,999", "9.999", "0,9", ".9", ",99", "9.", "9-", "-9", "-9-",
	"99 \xff", "Ã¼99", "№ 99", "99 pcs", "99 boxes", "99.99.9999 ", "9999-99-99 ", "99/99/9999T99:99", "9999-99-99T9:99", "99:99:99,9", "99 h", "99 so'm", "tel 999 999", "n/a 9",
	"9 Mar 9999", "99 Mar 99", "Mar 9, 9999", "9999 Mar 9", "9. März 9999", "Thu 9 Mar 9999", "9 Mar 9999 9:99 pm", "Mar 9, 9999 99:99:99", "99-Mar-99", "99MAR9999", "9 lipca 9999", "9 srpnja 9999",
	"9/9/9999 9:99 PM", "99/99/9999 99:99:99 am", "9:99 pm", "99:99 AM", "99:99:99 Uhr", "pm 9:99", "9:99 nachm.", "9999-99-99T99:99:99-99:99", "9999-99-99 99:99+9999", "9999-99-99T99:99:99.999+99:99", "9999-99-99T99:99+99",
	"9999-99-99T99:99:99.999999999Z", "9999-99-99T99:99:99.99999999", "99/99/9999 Fri", "99:99 99.99.9999", "99:99 9 Mar 9999", "9999-99-99T99:99:99+09:00", "9999-99-99T99:99:99+00:00", "9999年9月9日", "99h99 99/99/9999",
	"a note, with comma 999", "text 9a9b", "Box 99.99.9999", "pier 9/99/9999 at 99:99", "quay 9 (99:99 pm)", "Ab12-9.9", "today 99", "May 99", "at 99:99", "h 99", "vom 99.99.9999", "T99:99", "lot 9.9.9", "lO 9", "S9", "9.9.99", "99.99.99 99:99", "9E-99", "99.9e+9", "-9,999E9 kg", "9.99999999E+99", "9e999", "9E99E9", "99.99.9", "9999-99-99 99:99:99.999999999+99:99", "9999-99-99T99:99:99-00:00", "9999-99-99T99:99:99.999Z", "€ 9.99e+9", "O9", "A9", "lI9", "Z9", "E9E9", "x 9E9",
}

// What a reader says of a cell does not depend on the cells that it has read before: what it remembers of outlines is
// what the long way says.
func TestOutlinesAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 2))
	patterns := append(slices.Clone(patterns), testCells(t)...)
	for _, told := range [][]string{nil, {"n/a", "-"}, {"999"}} {
		learned, fresh := NewReader(told), NewReader(told)
		fresh.outlines = nil
		n := nets.Size(200_000, 800_000)
		if told != nil {
			n = 100_000
		}
		cell := make([]byte, 0, 64)
		var few []string
		known, alike := 0, 0
		for i := range n {
			if i%3000 == 0 { // a few patterns at a time, as columns have them
				few = few[:0]
				for range 7 {
					few = append(few, patterns[r.IntN(len(patterns))])
				}
			}
			cell = append(cell[:0], few[r.IntN(len(few))]...)
			for i, b := range cell {
				if b-'0' <= 9 {
					cell[i] = '0' + byte(r.IntN(10)&r.IntN(16)%10)
				}
			}
			if r.IntN(50) == 0 {
				cell[r.IntN(len(cell))] = ".,/-: 0129TZ'%"[r.IntN(14)]
			}
			before := hits(learned)
			want, got := saidOf(fresh.Read(cell)), saidOf(learned.Read(cell))
			known += int(bit(hits(learned) > before))
			require.Equal(t, want, got, "%q", cell)
			require.Equal(t, utf8.RuneCount(cell), learned.Chars(cell), "%q", cell)
			if x := learned.alike(cell); x != nil {
				alike++
				require.Equal(t, want, saidOf(x), "%q", cell)
				require.Equal(t, utf8.RuneCount(cell), learned.Chars(cell), "%q", cell)
			}
			if cap(cell) > maxOutline { // and with no room after the cell
				require.Equal(t, want, saidOf(learned.Read(bytes.Clone(cell)[:len(cell):len(cell)])), "%q", cell)
			}
		}
		if len(told) < 1 || told[0] != "999" {
			require.Greater(t, known, n/3, "the memory was not used")
			require.Greater(t, alike, n/3, "the memory was not used")
		}
	}
}

// Cells of one outline are read the long way twice and no more.
func TestOutlinesAreLearned(t *testing.T) {
	for _, pattern := range []string{`9999,999.99`, "€ 999,99", "99/99/9999", "9999-99-99T99:99:99Z", "99,9 kg", "99:99:99", "9999-99-99 99:99", "-9.999,99", "99.99.9999 99:99", "9 Mar 9999", "Mar 9, 9999 9:99 pm", "9/9/9999 9:99 PM", "9999-99-99T99:99:99+99:99", "99 Harbour Road", "9: a note, with comma 999", "99.99.99", "9.9.99", "9.999E+9", "9999-99-99T99:99:99.999+99:99", "9999-99-99 99:99:99.999999999", "99: from pier 9 to the old cold store, iced"} {
		r := NewReader(nil)
		for i := range 40 {
			cell := []byte(strings.ReplaceAll(pattern, "9", "1"))
			cell[len(cell)-strings.Index(reverse(string(cell)), "1")-1] = byte('0' + i%9 + 1)
			r.Read(cell)
		}
		require.GreaterOrEqual(t, int(r.outlines.hit), 38, pattern)
	}
}

func hits(r *Reader) uint32 {
	if r.outlines == nil {
		return 0
	}
	return r.outlines.hit
}

func reverse(s string) string {
	b := []byte(s)
	for i, j := 0, len(b)-1; i < j; i, j = i+1, j-1 {
		b[i], b[j] = b[j], b[i]
	}
	return string(b)
}

// Texts of which no two are alike are read as without the memory, which rests.
func TestOutlinesRest(t *testing.T) {
	r := NewReader(nil)
	rnd := rand.New(rand.NewPCG(1, 1))
	for range 40_000 {
		cell := make([]byte, 12)
		for i := range cell {
			cell[i] = byte('a' + rnd.IntN(26))
		}
		cell[0], cell[rnd.IntN(12)] = '7', '7'
		r.Read(cell)
	}
	require.Positive(t, r.outlines.rest)
	require.Len(t, r.outlines.all, mostOutlines)
	require.Equal(t, 4, NewOutlines(1<<12).most)
	require.Equal(t, mostOutlines, NewOutlines(1).most)
}

// FuzzOutlines reads cells of one outline with other digits, by a reader that knows the outline and by one that does
// not.
func FuzzOutlines(f *testing.F) {
	for i, p := range patterns {
		f.Add([]byte(p), uint64(i))
	}
	f.Fuzz(func(t *testing.T, pattern []byte, seed uint64) {
		r := rand.New(rand.NewPCG(seed, 1))
		learned, fresh := NewReader(nil), NewReader(nil)
		fresh.outlines = nil
		cell := make([]byte, len(pattern), len(pattern)+len(outlineText{}))
		for range 12 {
			copy(cell, pattern)
			for i, b := range cell {
				if b-'0' <= 9 {
					cell[i] = '0' + byte(r.IntN(10)&r.IntN(16)%10)
				}
			}
			want := saidOf(fresh.Read(cell))
			if len(cell) == 0 { // a cell that is asked about by its outline has something in it
				continue
			}
			if x := learned.alike(cell); x != nil {
				require.Equal(t, want, saidOf(x), "%q", cell)
			}
			require.Equal(t, want, saidOf(learned.Read(cell)), "%q", cell)
		}
	})
}

// Outlines that differ in one letter only, wherever it stands, find a place each.
func TestOutlinesOfManyLetters(t *testing.T) {
	for at := range 12 {
		r := NewReader(nil)
		cells := 0
		before := uint32(0)
		known := 0
		for i := range 20_000 {
			cell := []byte("0042-17-8819"[:at] + string(rune('a'+i%26)) + "0042-17-8819"[at:])
			cell[(at+1)%13] = byte('0' + i%10)
			if i < 10_000 {
				r.Read(cell)
				continue
			}
			before = r.outlines.hit
			r.Read(cell)
			if cells++; r.outlines.hit != before {
				known++
			}
		}
		assert.Greater(t, known, cells*2/3, "the letter stands at %d", at)
	}
}

// What is learned of a moment with an offset of none does not hold for other offsets, which are canonical; and a day that
// there is not, with another offset, does not make the others text.
func TestOffsetsOfNone(t *testing.T) {
	for _, cells := range []string{
		"03+00:00 03+00:00 03+00:00 03+01:00 03+00:00 03+02:00 03+02:00 03+00:00 03+03:00",
		"03+00:00 03+00:00 03+00:00 13+01:00 03+00:00 03+01:00 13+00:00 03+00:00",
	} {
		learned, fresh := NewReader(nil), NewReader(nil)
		fresh.outlines = nil
		for i, cell := range strings.Fields(cells) {
			month, offset := cell[:2], cell[2:]
			text := fmt.Appendf(make([]byte, 0, 64), "2021-%s-04T06:05:0%d%s", month, i, offset)
			want := saidOf(fresh.Read(text))
			if x := learned.alike(text); x != nil {
				require.Equal(t, want, saidOf(x), "%s", text)
			}
			require.Equal(t, want, saidOf(learned.Read(text)), "%s", text)
			require.Equal(t, offset != "+00:00" && month == "03", fresh.Read(text).Set.Any(Plain), "%s", text)
		}
	}
}

// alike reads a cell by its outline, or as plain; nil where it can't be.
func (r *Reader) alike(cell []byte) *Reads {
	e := r.Outline(cell)
	if e == nil {
		if x := r.Plain(cell); x != nil {
			return x
		}
		e = r.LookUp(cell)
	}
	if e == nil {
		return nil
	}
	return r.ReadBy(e, cell)
}
