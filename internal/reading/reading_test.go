package reading

import (
	"bufio"
	"fmt"
	"math/rand/v2"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/value"
)

// conventionOf makes a convention of its words: the type, then a decimal mark, an
// order, a unit, z for offsets, code for days as bare digits, hr or pl for the language
// of months, or ? for undecided.
func conventionOf(t *testing.T, words string) *Convention {
	t.Helper()
	f := strings.Fields(words)
	typ, ok := value.ParseType(f[0])
	require.True(t, ok, words)
	c := &Convention{Type: typ, Known: true, Pairs: pairSet{^uint64(0), ^uint64(0)}}
	for _, w := range f[1:] {
		m, isMark := ParseMark(w)
		o, isOrder := ParseOrder(w)
		a, isAffix := theAffixes.get().all[w]
		switch {
		case isMark:
			c.Mark = m
		case isOrder:
			for i := range c.Orders {
				c.Orders[i] = o
			}
		case w == "z":
			c.Offsets = true
		case w == "code":
			c.Compact, c.Ordinals = true, true
		case w == "hr" || w == "pl":
			c.MonthsKnown, c.Croatian = true, w == "hr"
		case w == "?":
			c.Known = false
			for i := range c.Orders {
				c.Orders[i] = Undecided
			}
		case isAffix:
			c.affixIs(a.name, a.kind)
		default:
			c.affixIs(map[string]string{"EUR": "EUR"}[w]+strings.TrimPrefix(w, "EUR"), UnitWord)
		}
	}
	for _, w := range wordList {
		if w.blank {
			c.blankIs(w.id)
		}
	}
	return c
}

// what reads a cell under a convention, in the notation of testdata/cells.txt.
func what(r *Reader, c *Convention, cell string) string {
	x := r.Read([]byte(cell))
	reading, fits := c.Judge(x.Set, x.Form)
	switch {
	case reading == AsBlank && x.Set.Blank() == value.NotBlank:
		return "(word)"
	case reading == AsBlank:
		return "(" + x.Set.Blank().String() + ")"
	case !fits:
		reason, _ := c.Explain([]byte(cell), x)
		return "!" + reason.String()
	}
	return string(c.Append(nil, []byte(cell), x))
}

// cellLines calls f for every line of the file of cells, taken apart.
func cellLines(t *testing.T, f func(n int, line string, fields []string)) {
	t.Helper()
	file, err := os.Open("testdata/cells.txt")
	require.NoError(t, err)
	defer file.Close()
	lines := bufio.NewScanner(file)
	for n := 1; lines.Scan(); n++ {
		line := lines.Text()
		if line == "" || line[0] == '#' && !strings.Contains(line, " | ") {
			continue
		}
		fields := strings.SplitN(line, " | ", 3)
		require.Len(t, fields, 3, "line %d", n)
		for _, i := range []int{0, 2} {
			fields[i], err = strconv.Unquote(`"` + fields[i] + `"`)
			require.NoError(t, err, "line %d", n)
		}
		f(n, line, fields)
	}
	require.NoError(t, lines.Err())
}

// testCells are the cells of the file.
func testCells(t *testing.T) (cells []string) {
	t.Helper()
	cellLines(t, func(_ int, _ string, fields []string) {
		if fields[0] != "" {
			cells = append(cells, fields[0])
		}
	})
	return cells
}

func TestCells(t *testing.T) {
	r := NewReader(nil)
	cellLines(t, func(n int, line string, fields []string) {
		assert.Equal(t, fields[2], what(r, conventionOf(t, fields[1]), fields[0]), "line %d: %s", n, line)
	})
}

// counts reads cells and counts them as a column does.
func counts(cells []string) []Count {
	r := NewReader(nil)
	var out []Count
next:
	for _, cell := range cells {
		x := r.Read([]byte(cell))
		for i := range out {
			if out[i].Set == x.Set && out[i].Form == x.Form {
				out[i].Cells++
				if x.Set.Any(IntPoint) {
					n := len(x.digits())
					out[i].Digits = [2]int{min(out[i].Digits[0], n), max(out[i].Digits[1], n)}
				}
				continue next
			}
		}
		one := Count{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1}
		if x.Set.Any(IntPoint) {
			one.Digits = [2]int{len(x.digits()), len(x.digits())}
		}
		out = append(out, one)
	}
	return out
}

func TestConclude(t *testing.T) {
	ten := func(s ...string) (all []string) {
		for range 10 {
			all = append(all, s...)
		}
		return all
	}
	for _, tt := range []struct {
		cells []string
		want  string // type, convention in words, fails, undecided
	}{
		{[]string{"1", "2", ""}, "integer  0 false"},
		{[]string{"1", "2.5"}, `decimal decimal mark "." 0 false`},
		{[]string{"1.234", "99,10"}, `decimal decimal mark ",", group mark "." 0 false`},
		{[]string{"1,234", "5"}, "text  0 true"},
		{append(ten("7"), "1,234"), "integer  1 true"},
		{append(ten("1.5", "2.5"), "1,5"), `decimal decimal mark "." 1 false`},
		{[]string{"1.5", "1,5"}, "decimal marks: each 0 false"},
		{[]string{"1.5", "1,5", "1.234"}, "text  0 true"},
		{[]string{"1,234,567", "1,234"}, `integer decimal mark ".", group mark "," 0 false`},
		{[]string{"03/04/2021", "05/06/2021"}, "text  0 true"},
		{[]string{"03/04/2021", "25/06/2021"}, "date day first 0 false"},
		{[]string{"03/04/2021", "06/25/2021"}, "date month first 0 false"},
		{[]string{"25/06/2021", "06/25/2021"}, "text  0 true"},
		{[]string{"03/04/2021", "25.06.2021"}, "date day first 0 false"},
		{[]string{"06/25/2021", "25.06.2021", "03/04/2021"}, "date  0 false"},
		{[]string{"2021-03-04", "04.03.2021", "14.03.2021"}, "date day first 0 false"},
		{[]string{"007", "12"}, "code  0 false"},
		{append(ten("5", "6", "12", "48", "7", "9", "11", "13", "8", "4"), "007"), "integer  1 false"},
		{[]string{"05.50", "5.5", "112.5"}, `decimal decimal mark ".", zeros dropped 0 false`},
		{[]string{"1234567890123456", "1234567890123457"}, "code  0 false"},
		{[]string{"1234567890123456.5", "1"}, `decimal decimal mark "." 0 false`},
		{[]string{"AB-1", "CD-2", "EF-3"}, "code  0 false"},
		{[]string{"0", "1", "1"}, "integer  0 false"},
		{[]string{"yes", "no"}, "boolean true: yes, false: no 0 false"},
		{[]string{"yes", "no", "n/a"}, "boolean true: yes, false: no 0 false"},
		{[]string{"yes", "no", "maybe"}, "text  0 false"},
		{append(ten("yes", "no"), "maybe"), "boolean true: yes, false: no 1 false"},
		{[]string{"ja", "nein", "yes", "no"}, "boolean true: ja yes, false: nein no 0 false"},
		{[]string{"N", "S"}, "text  0 false"},
		{[]string{"+", "-", "-"}, "text  0 false"},
		{[]string{"x", "", "x"}, "boolean true: x 0 false"},
		{[]string{"x", "y", ""}, "text  0 false"},
		{[]string{"NO", "SE", "NA"}, "text  0 false"},
		{[]string{"NO", "NO"}, "text  0 false"},
		{[]string{"None", "None"}, "text  0 false"},
		{[]string{"", " "}, "text  0 false"},
		{[]string{"5 kg", "6 kg", "7"}, "integer unit kg 0 false"},
		{append(ten("5 kg"), "6 t"), "integer unit kg 1 false"},
		{[]string{"5 apples", "6 pears"}, "text  0 false"},
		{append(ten("5", "6"), "7 apples"), "integer  1 false"},
		{[]string{"€ 5", "$ 6"}, "text  0 false"},
		{[]string{"5 %", "6%"}, "decimal sign % 0 false"},
		{[]string{"1E5", "2E7"}, "text  0 false"},
		{[]string{"May", "March"}, "text  0 false"},
		{[]string{"2021-03-04T05:06", "2021-03-05T05:06Z"}, "text  0 false"},
		{[]string{"6:05", "18:30"}, "time  0 false"},
	} {
		c := counts(tt.cells)
		done := Conclude(c, Ask{})
		conv := &done.Convention
		got := fmt.Sprintf("%s %s %d %t", conv.Type, conv.Say(c), done.Fails, done.MarksUndecided+done.OrderUndecided > 0)
		assert.Equal(t, tt.want, got, "%q", tt.cells)
		var sum int64
		for _, n := range done.Reads {
			sum += n
		}
		assert.EqualValues(t, len(tt.cells), sum, "every cell has one reading: %q", tt.cells)
		assert.Equal(t, sum-done.Reads[AsBlank], done.Fits+done.Fails, "%q", tt.cells)
	}
}

// The conclusion does not depend on the order of the cells.
func TestConcludeIsBlindToOrder(t *testing.T) {
	cells := []string{"1.234", "1,5", "n/a", "", "12 kg", "€ 5", "03/04/2021", "x", "yes", "no", "007", "5 %", "1E5", "6:05"}
	r := rand.New(rand.NewPCG(3, 4))
	for range 200 {
		n := 1 + r.IntN(12)
		column := make([]string, n)
		for i := range column {
			column[i] = cells[r.IntN(len(cells))]
		}
		want := Conclude(counts(column), Ask{})
		r.Shuffle(n, func(i, j int) { column[i], column[j] = column[j], column[i] })
		require.Equal(t, want, Conclude(counts(column), Ask{}), "%q", column)
	}
}

// Adding cells that say nothing about a convention never changes it.
func TestNeutralCellsChangeNothing(t *testing.T) {
	for _, column := range [][]string{{"1,5", "2"}, {"1.234,5"}, {"25.12.2021"}} {
		want := Conclude(counts(column), Ask{}).Convention
		more := append(column, "", " ")
		if want.Type.Numeric() {
			more = append(more, "7", "8")
		}
		got := Conclude(counts(more), Ask{}).Convention
		assert.Equal(t, [...]any{want.Mark, want.Orders}, [...]any{got.Mark, got.Orders}, "%q", column)
	}
}

// A number that was read and written reads to the same again.
func FuzzRead(f *testing.F) {
	for _, s := range []string{
		"1.234,5", "-12 %", "€ 3", "04.03.2021 6:05 pm", "yes", "\u00a0", "1E-400", "\xff1", "1,23,456", "(5)", "4 de marzo de 2021", "2021年3月4日星期四 下午6:05",
		"18.05.09", "le 4 mars 2021 à 18 h 05", "4 listopada 2021", "2021-W09-4", "6:05 μ.μ. 4/3/21", "GrÃ¶ÃŸe 1O5", "2021(e)ko urtarrilaren 3(a)",
	} {
		f.Add(s)
	}
	r := NewReader(nil)
	plain := &Convention{Type: value.Decimal, Known: true}
	date := &Convention{Type: value.Date, Known: true, MonthsKnown: true, Compact: true, Ordinals: true}
	stamp := &Convention{Type: value.Timestamp, Known: true}
	clock := &Convention{Type: value.Time, Known: true}
	f.Fuzz(func(t *testing.T, cell string) {
		x := r.Read([]byte(cell))
		set, form := x.Set, x.Form
		if set.Any(affixes) || set.Blank() != value.NotBlank {
			return
		}
		for _, c := range []*Convention{plain, date, stamp, clock} {
			if _, fits := c.Judge(set, form); !fits {
				continue
			}
			out := string(c.Append(nil, []byte(cell), r.Read([]byte(cell))))
			require.Equal(t, out, what(r, c, out), "%q", cell)
		}
	})
}

func TestDigitsOfAllScripts(t *testing.T) {
	r := NewReader(nil)
	for zero := range map[rune]bool{'0': true, '٠': true, '۰': true, '०': true, '০': true, '๐': true, '０': true, '𝟎': true, '𝟘': true, '𞥐': true} {
		for d := range rune(10) {
			x := r.Read([]byte(string(zero + d)))
			assert.Equal(t, strconv.Itoa(int(d)), string(x.appendNumber(nil, Point)), "%U", zero+d)
		}
	}
}

func BenchmarkRead(b *testing.B) {
	r := NewReader(nil)
	for _, cell := range []string{"48211", "1240.5", "1.240,5 kg", "2021-03-04", "04.03.2021 06:05", "Lot 88 / crate 51", "Petersen, Anke", "yes", ""} {
		b.Run(cell, func(b *testing.B) {
			b.ReportAllocs()
			text := []byte(cell)
			for b.Loop() {
				r.Read(text)
			}
		})
	}
}

// The short way for plain cells gives what the long way gives.
func TestPlainIsTheLongWay(t *testing.T) {
	short, long := NewReader(nil), NewReader(nil)
	r := rand.New(rand.NewPCG(5, 6))
	alphabets := []string{"0123456789012345678900--..,, /:eEaT'", "lotSOLBZ0158 ,.", "abcdefghijklmnopqrstuvwxyz 1,", "eurkgSEP marYESnoNA12 .-/\"&<\tä"}
	starts := []string{"", "", "EUR ", "lot ", "mar", "Sep. ", "kg", "yes", "n/a", "Mon, ", "R$"}
	for range 300000 {
		alphabet := alphabets[r.IntN(len(alphabets))]
		cell := append(make([]byte, 0, 64), starts[r.IntN(len(starts))]...)
		for range 1 + r.IntN(1+r.IntN(40)) {
			cell = append(cell, alphabet[r.IntN(len(alphabet))])
		}
		if r.IntN(3) == 0 {
			cell = fmt.Appendf(nil, "%04d-%02d-%02d", r.IntN(3000), r.IntN(14), r.IntN(33))
		}
		x := *short.Read(cell)
		y := Reads{reader: long}
		long.long(cell, classesOf(cell), &y)
		require.Equal(t, y.Set, x.Set, "%q", cell)
		require.Equal(t, y.Form, x.Form, "%q", cell)
		for _, o := range x.Set.Slots() {
			if x.Set.Any(ClockOnly) {
				continue // there is no day
			}
			require.Equal(t, y.Days[o], x.Days[o], "%q", cell)
		}
		if x.Set.Any(numbers) {
			for _, m := range x.Set.Marks() {
				require.Equal(t, y.Number(m), x.Number(m), "%q", cell)
				require.Equal(t, y.appendNumber(nil, m), x.appendNumber(nil, m), "%q", cell)
			}
		}
	}
}
