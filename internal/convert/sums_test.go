package convert

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// landed makes a table in sections with totals, and counts by itself what the cells add up to: those that are plain numbers
// as they stand, and the values that go out. One total in five is wrong, and each line of wrong says so.
func landed(sections int) (text string, before, after *big.Rat, totals int, wrong []string) {
	r := rand.New(rand.NewPCG(3, 4))
	var b strings.Builder
	b.WriteString("boat;kg;note\n")
	before, after = new(big.Rat), new(big.Rat)
	of := func(s string) *big.Rat { n, _ := new(big.Rat).SetString(s); return n }
	line := 1
	grand := new(big.Rat)
	for s := range sections {
		section, failed := new(big.Rat), 0
		for range 1 + r.IntN(900) {
			line++
			n := fmt.Sprintf("%d.%02d", r.IntN(5000), r.IntN(100))
			cell := strings.Replace(n, ".", ",", 1)
			switch r.IntN(12) {
			case 0: // read as it stands, since there is no group mark of one digit
				n = fmt.Sprint(r.IntN(900))
				cell = n
				before.Add(before, of(n))
			case 1:
				n, cell, failed = "0", "heavy", failed+1
			case 2:
				n, cell = "0", ""
			case 3: // longer than what is read quickly
				n = fmt.Sprintf("%d.%03d", 123456789012345678+r.Int64N(1000), r.IntN(1000))
				cell = strings.Replace(n, ".", ",", 1)
			}
			section.Add(section, of(n))
			fmt.Fprintf(&b, "Boat %d;%s;some text that fills the block\n", r.IntN(9), cell)
		}
		line++
		says := new(big.Rat).Set(section)
		if s%5 == 4 {
			says.Add(says, big.NewRat(1, 100))
			say := fmt.Sprintf("%d says %s adds up to %s", line, says.FloatString(2), section.FloatString(3))
			wrong = append(wrong, say)
		}
		grand.Add(grand, section)
		totals++
		fmt.Fprintf(&b, "Total;%s;\n", strings.Replace(says.FloatString(3), ".", ",", 1))
	}
	fmt.Fprintf(&b, "Total;%s;\n", strings.Replace(grand.FloatString(3), ".", ",", 1))
	return b.String(), before, grand, totals + 1, wrong
}

const landedPlan = `plan: 1
rows: {set-aside: [total-rows, section-headings]}
columns:
  boat: {}
  kg: {to: decimal, decimal-mark: ","}
  twice: {compute: "kg * 2"}
  note: {}
`

// What columns add up to, before and after, and whether total rows agree, is what an independent count says, wherever blocks
// end and however many workers there are.
func TestSumsAndTotalRows(t *testing.T) {
	text, before, after, totals, wrong := landed(60)
	for _, workers := range []int{1, 3} {
		m, err := convertAll(t, text, landedPlan, Options{Workers: workers})
		require.NoError(t, err)
		l := m.ledger
		require.EqualValues(t, totals, l.AsideTotal())
		same := func(want *big.Rat, got string) {
			t.Helper()
			n, ok := new(big.Rat).SetString(got)
			require.True(t, ok, got)
			assert.Zero(t, want.Cmp(n), "%s is not %s", got, want.FloatString(3))
		}
		same(before, l.Columns[1].Sums.Before)
		same(after, l.Columns[1].Sums.After)
		same(new(big.Rat).Mul(after, big.NewRat(2, 1)), l.Columns[2].Sums.After)
		assert.Empty(t, l.Columns[2].Sums.Before)
		assert.Equal(t, Sums{}, l.Columns[0].Sums)
		assert.EqualValues(t, totals, l.Totals.Rows)
		assert.EqualValues(t, totals-len(wrong), l.Totals.Agree)
		require.Len(t, l.Totals.Differ, len(wrong))
		for i, d := range l.Totals.Differ {
			says, _ := new(big.Rat).SetString(d.Says)
			adds, _ := new(big.Rat).SetString(d.AddsUp)
			assert.Equal(t, wrong[i], fmt.Sprintf("%d says %s adds up to %s", d.Line, says.FloatString(2), adds.FloatString(3)))
			assert.Equal(t, "kg", d.Column)
		}
	}
}

// Rows that a condition leaves out are in the total rows of the source, and not in what goes out.
func TestSumsOfWhatIsLeftOut(t *testing.T) {
	text := "boat;kg;n\nAda;1,5;a\nBob;x;b\nCleo;3;c\nTotal;4,5;\nNorth;;\nDora;2;d\nTotal;2,01;\nTotal;6,5;\n"
	m, err := convertAll(t, text, "plan: 1\nrows: {set-aside: [total-rows, section-headings], drop: \"boat == 'Cleo'\"}\ncolumns: {boat: {}, kg: {to: decimal, decimal-mark: \",\"}}\n", Options{})
	require.NoError(t, err)
	assert.Equal(t, Sums{"5", "3.5"}, m.ledger.Columns[1].Sums)
	assert.Equal(t, []TotalDiffer{{File: "a.csv", Row: 7, Line: 8, Column: "kg", Says: "2.01", AddsUp: "2", column: 1}}, m.ledger.Totals.Differ)
	assert.EqualValues(t, 2, m.ledger.Totals.Agree)
	m, err = convertAll(t, "boat;kg;n\nAda;1,5;a\nBob;x;b\nTotal;4,5;\n", "plan: 1\ncolumns: {boat: {}, kg: {to: decimal, decimal-mark: \",\"}}\nrows: {set-aside: [total-rows]}\n", Options{})
	require.NoError(t, err)
	assert.EqualValues(t, 1, m.ledger.Totals.Differ[0].Failed)
	m, err = convertAll(t, "boat;kg;n\nAda;1,5;a\nBob;7;b\nTotal;9,5;\n", "plan: 1\ncolumns: {boat: {}, kg: {to: decimal, decimal-mark: \",\", private: true}}\nrows: {set-aside: [total-rows]}\n", Options{})
	require.NoError(t, err)
	assert.Zero(t, m.ledger.Totals.Rows, "a private column tells nothing")
	assert.Equal(t, Sums{}, m.ledger.Columns[1].Sums)
}
