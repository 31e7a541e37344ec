package profile

import (
	"context"
	"encoding/json"
	"fmt"
	"math/big"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"junvo/internal/reading"
	"junvo/internal/value"

	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/table/tabletest"
)

// numberCell returns a number of a kind: small, with decimals, wide, wider than 64 and 128 bits, endless, with an exponent.
func numberCell(r *rand.Rand, kind int) string {
	digits := func(n int) string {
		b := []byte{byte('1' + r.IntN(9))}
		for range n - 1 {
			b = append(b, byte('0'+r.IntN(10)))
		}
		return string(b)
	}
	sign := []string{"", "-", "+", ""}[r.IntN(4)]
	switch kind {
	case 0:
		return sign + digits(1+r.IntN(4))
	case 1:
		return sign + digits(1+r.IntN(4)) + "." + digits(1+r.IntN(3))
	case 2:
		return sign + digits(15+r.IntN(6))
	case 3:
		return sign + digits(20+r.IntN(19)) + "." + digits(1+r.IntN(6))
	case 4:
		return sign + digits(40+r.IntN(30))
	case 5:
		return sign + digits(1+r.IntN(3)) + "e" + fmt.Sprint(r.IntN(60)-30)
	}
	return fmt.Sprint(r.IntN(9))
}

// nastyCell returns what columns are filled with: numbers of all kinds and signs, days of all centuries, blanks, codes,
// texts, and what hides something.
func nastyCell(r *rand.Rand, kinds []int) string {
	kind := kinds[r.IntN(len(kinds))]
	if r.IntN(40) == 0 {
		kind = r.IntN(14)
	}
	if kind < 6 {
		return numberCell(r, kind)
	}
	switch kind {
	case 6:
		return fmt.Sprintf("%04d-%02d-%02d", 1+r.IntN(9998), 1+r.IntN(12), 1+r.IntN(28))
	case 7:
		return fmt.Sprintf("%02d:%02d", r.IntN(24), r.IntN(60))
	case 8:
		return []string{"", " ", "n/a", "-", "\u00a0"}[r.IntN(5)]
	case 9:
		return "00" + numberCell(r, 0)
	case 10:
		return "word " + fmt.Sprint(r.IntN(90))
	case 11:
		return []string{"yes", "no", "\u200b7", "(12)", "12 kg", "3,5", "€ 4"}[r.IntN(7)]
	case 12:
		return strings.Repeat("x", r.IntN(60))
	}
	return fmt.Sprint(r.IntN(9))
}

// ownLines are numbers of lines, which begin anew in each part of these tests.
var ownLines = regexp.MustCompile(`\{(\d+) \d+ t\}|"Line":\d+`)

// allFacts is all that a profile says, but for lines.
func allFacts(t *testing.T, p *Profile) string {
	text := facts(p)
	for _, c := range p.Columns {
		details, err := json.Marshal(p.Details(c))
		require.NoError(t, err)
		text += string(details) + "\n"
	}
	return ownLines.ReplaceAllString(text, "$1")
}

// Rows that are cut into parts anywhere, which are collected alone and joined as any tree of neighbours, have the profile of
// the whole.
func TestJoinedInAnyOrder(t *testing.T) {
	const block = 7
	for seed := range uint64(nets.Size(60, 400)) {
		r := rand.New(rand.NewPCG(seed, 37))
		rows := [][]string{{"a", "b", "c"}}
		kinds := [][]int{{0}, {0, 1}, {2}, {3}, {0, 1, 2, 3}, {0, 3, 4}, {5}, {6}, {7}, {9}, {10, 12}, {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13}}
		some := func() []int { return kinds[r.IntN(len(kinds))] }
		a, b := some(), some()
		few := make([]string, 1+r.IntN(30))
		for i := range few {
			few[i] = nastyCell(r, b)
		}
		for range block * (1 + r.IntN(30)) {
			rows = append(rows, []string{nastyCell(r, a), few[r.IntN(len(few))], few[r.IntN(1+r.IntN(len(few)))]})
		}
		o := Options{Workers: 1, Open: func(string) bool { return true }}
		collect := func(from, to int) *Collected {
			part := append([][]string{rows[0]}, rows[1+from:1+to]...)
			c, err := Collect(context.Background(), tabletest.NewRows(block, part...), o)
			require.NoError(t, err)
			return c
		}
		var join func(from, to int) *Collected
		join = func(from, to int) *Collected {
			if n := (to - from) / block; n > 1 && r.IntN(4) > 0 {
				middle := from + block*(1+r.IntN(n-1))
				left := join(from, middle)
				require.NoError(t, left.Append(join(middle, to)))
				return left
			}
			return collect(from, to)
		}
		want, got := collect(0, len(rows)-1).Conclude(o), join(0, len(rows)-1).Conclude(o)
		require.Equal(t, allFacts(t, want), allFacts(t, got), "seed %d", seed)
	}
}

// The smallest and the largest number and the sum are those of exact fractions, whatever widths and scales the numbers have.
func TestRangesOfNumbers(t *testing.T) {
	for seed := range uint64(nets.Size(100, 600)) {
		r := rand.New(rand.NewPCG(seed, 38))
		kinds := [][]int{{0}, {1}, {0, 1}, {2}, {3}, {0, 1, 2, 3}, {0, 3, 4}}[r.IntN(7)]
		rows := [][]string{{"n"}}
		var smallest, largest *big.Rat
		sum := new(big.Rat)
		for range 1 + r.IntN(40) {
			cell := numberCell(r, kinds[r.IntN(len(kinds))])
			rows = append(rows, []string{cell})
			n, ok := new(big.Rat).SetString(cell)
			require.True(t, ok, cell)
			if smallest == nil || n.Cmp(smallest) < 0 {
				smallest = n
			}
			if largest == nil || n.Cmp(largest) > 0 {
				largest = n
			}
			sum.Add(sum, n)
		}
		decimal, point := value.Decimal, reading.Point
		p, err := Run(context.Background(), tabletest.NewRows(5, rows...), Options{Workers: 2, Ask: func(string) reading.Ask {
			return reading.Ask{Type: &decimal, Mark: &point, Fit: reading.DefaultFit}
		}})
		require.NoError(t, err)
		for what, texts := range map[string][2]string{
			"smallest": {p.Columns[0].Range.Smallest, smallest.RatString()}, "largest": {p.Columns[0].Range.Largest, largest.RatString()},
			"sum": {p.Columns[0].Range.Sum, sum.RatString()},
		} {
			got, ok := new(big.Rat).SetString(texts[0])
			require.True(t, ok, "seed %d: %s %q of %q", seed, what, texts[0], rows[1:])
			require.Equal(t, texts[1], got.RatString(), "seed %d: the %s of %q", seed, what, rows[1:])
		}
	}
}
