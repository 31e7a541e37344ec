package e2e

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// sorts are sorts of cells, in which 9 stands for any digit, a and A for any letter, x for a digit in the notation of
// 16, and [one|or|another] for one of several texts. Columns are made of one of them, with some of a few others.
var sorts = []string{
	"9", "99", "9999", "99999999", "-99", "999999999999999999", "9999999999999999999999", "099", "000999", "9.9", "99.99", "-9.999", "9,9",
	"9.999,99", "99,999.99", "9 999,9", "9'999.99", "9.99E+9", "9e9", "9E-99", "-9.9999999E+05", "0.99999999999999999", "99.999999999999",
	"(9,999.99)", "9.999,99-", "€ 999,99", "$9,999.99", "99 [kg|t|KG|g]", "99,9 %", "9 [crates|boxes|pcs]", "9kg", "+999 999 99", "99 €",
	"9999-99-99", "99/99/9999", "9/9/9999", "99.99.99", "99.99.9999", "9.9.99", "99-99-99", "20219999", "9999-999", "9999-W99-9",
	"2021-09-09T09:09:09Z", "2021-09-09 19:09:09", "2021-09-09T09:09:09.999+09:00", "2021-09-09T09:09:09[+00:00|-00:00|+01:00]",
	"2021-09-09 09:09:09.999999999", "09/09/2021 9:09 [AM|PM]", "09.09.2021 09:09", "09-[Jan|Mar|Dec]-2021", "[Mar|May] 9, 2021",
	"9. [März|April|Mai] 2021", "[Mon|Tue], 9 [Mar|Oct] 2021", "2021年9月9日", "99:99", "9:99 [am|pm|Uhr]", "99.99", "99h99", "09:09:09.99",
	"[yes|no]", "[TRUE|FALSE]", "[1|0]", "[ja|nein|]", "[n/a|NA|-|null| |.|?]", "[#REF!|#N/A|#DIV/0!]",
	"xxxxxxxx", "xxxxxxxx-xxxx-xxxx-xxxx-xxxxxxxxxxxx", "xxxx", "AA-999", "A99", "A9", "AAA9999A", "9A9A9", "99-A", "v9.99.9", "DE99 9999 9999 9999",
	"9x9", "9/9", "9-9", "9.9.9.9", "lot 99, crate 9", "9 Aaaaaa Road, pier 9", "99999 Aaaaaaa", "Aaaaa aaaa", "Aaaaa, Aaaa", "aaa@example.org",
	"https://example.org/aaaa/9?a=aa", "Müaaaa 9", "Müaaa, Aaaa", "MÃ¼aaa 99", "привет мир 99", "東京都9番99号", "１２９９", "٩٩٫٩", "99\u00a0999,9",
	" 99", "99 ", "\u00a099", "99\t", "O9", "l9.9", "9S9", "<b>9</b>", "9&nbsp;kg", "=9+9", "'99", "\u200b9", "\xff9", "-", "\"9\"", "{\"a\":9}",
	"aaaa aaa aaaaa aa aaaa 99 aaa aaaaaa", "99 a", "9 p", "a 99", "12a34", "e9", "9e", "1e5f3", "May 9", "Mai", "Dydd Sul, 9 Ionawr 2021",
}

// cellOf makes a cell of a sort.
func cellOf(r *rand.Rand, sort string) string {
	var b strings.Builder
	for i := 0; i < len(sort); i++ {
		switch c := sort[i]; {
		case c == '[':
			end := i + strings.IndexByte(sort[i:], ']')
			list := strings.Split(sort[i+1:end], "|")
			b.WriteString(list[r.IntN(len(list))])
			i = end
		case c == '9':
			b.WriteByte('0' + byte(r.IntN(10)))
		case c == 'x':
			fmt.Fprintf(&b, "%x", r.IntN(16))
		case c == 'a' && r.IntN(8) > 0:
			b.WriteByte("etaoinshrdlu"[r.IntN(12)])
		case c == 'A' && r.IntN(8) > 0:
			b.WriteByte('A' + byte(r.IntN(26)))
		default:
			b.WriteByte(c)
		}
	}
	cell := b.String()
	if r.IntN(400) == 0 && cell != "" { // a neighbour of it
		at := r.IntN(len(cell))
		cell = cell[:at] + string(".,/-: 019TZ'%eE"[r.IntN(15)]) + cell[at+r.IntN(2):]
	}
	return cell
}

// oddTable makes a table whose columns are each of a sort, or of several.
func oddTable(seed uint64, rows, columns int) string {
	r := rand.New(rand.NewPCG(seed, 16))
	var b strings.Builder
	made := make([][]string, columns)
	for c := range made {
		for n := []int{1, 1, 1, 2, 5}[r.IntN(5)]; n > 0; n-- {
			made[c] = append(made[c], sorts[r.IntN(len(sorts))])
		}
		fmt.Fprintf(&b, ",c%d", c)
	}
	text := strings.TrimPrefix(b.String(), ",") + "\n"
	b.Reset()
	b.WriteString(text)
	for range rows {
		for c, list := range made {
			if c > 0 {
				b.WriteByte(',')
			}
			sort := list[0]
			if r.IntN(4) == 0 {
				sort = list[r.IntN(len(list))]
			}
			switch cell := cellOf(r, sort); {
			case strings.ContainsAny(cell, ",\"\n\r"):
				b.WriteString(`"` + strings.ReplaceAll(cell, `"`, `""`) + `"`)
			default:
				b.WriteString(cell)
			}
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// Whole profiles and whole outputs are the same, to the byte, with all short ways and with none: of a million cells of
// all sorts, each with odd neighbours.
func TestShortWaysOfTheWholeProgram(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	long := built(t, "longway")
	for seed := range uint64(6) {
		f := newFolder(t)
		f.file("in.csv", oddTable(seed, 2500, 40))
		for _, args := range [][]string{
			{"profile", "in.csv", "--format", "json"},
			{"profile", "in.csv", "--workers", "1"},
			{"convert", "in.csv", "-o", "out.csv", "--format", "json"},
			{"convert", "in.csv", "--plan", "out.plan.yaml", "-o", "out.csv"},
		} {
			f.program = junvo
			short, files := f.run(args...), f.contents()
			f.program = long
			got := f.run(args...)
			require.Less(t, short.code, 2, "%d %v: %s", seed, args, short.err)
			require.Equal(t, short, got, "%d %v", seed, args)
			require.Equal(t, files, f.contents(), "%d %v", seed, args)
		}
	}
}

// contents returns what stands in the files of the folder.
func (f *folder) contents() map[string]string {
	all := map[string]string{}
	for _, name := range f.names() {
		all[name] = f.read(name)
	}
	return all
}
