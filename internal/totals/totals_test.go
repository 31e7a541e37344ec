package totals

import (
	"context"
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/value"
)

var fields = []table.Field{{Name: "port", Type: value.Text}, {Name: "n", Type: value.Integer}, {Name: "kg", Type: value.Decimal}, {Name: "day", Type: value.Date}}

// line is a row: "" is blank, and a text that begins with ! is a failure with that reason.
type line [4]string

// rowsOf makes rows of lines; those that begin with # are left out.
func rowsOf(lines []line) *table.Rows {
	rows := &table.Rows{Fields: fields, Count: len(lines), Cells: make([]table.Values, 4), Out: make([]bool, len(lines))}
	for i, l := range lines {
		rows.Out[i] = !strings.HasPrefix(l[0], "#")
		for c, text := range l {
			if why, failed := strings.CutPrefix(text, "!"); failed {
				text = ""
				if rows.Out[i] {
					rows.Failed = append(rows.Failed, table.FailedCell{Row: i, Column: c, Reason: why})
				}
			}
			rows.Cells[c].AddText([]byte(text))
		}
	}
	return rows
}

// counted counts lines in blocks of this size, and returns the groups, each as a line of text.
func counted(t *testing.T, o Options, lines []line, size int) (all []string) {
	t.Helper()
	o.Fields, o.Folder = fields, t.TempDir()
	s := New(o)
	defer s.Close()
	for block := range slices.Chunk(lines, size) {
		rows := rowsOf(block)
		require.NoError(t, s.Write(s.Encode(nil, rows), rows))
	}
	require.NoError(t, s.Each(context.Background(), func(g *Group) error {
		text := fmt.Sprint(g.Keys, " ", g.Rows)
		for _, c := range g.Columns {
			require.Equal(t, g.Rows, c.Used+c.Failed+c.Blank)
			text += fmt.Sprintf(" | %d %d %d", c.Used, c.Failed, c.Blank)
			for _, f := range o.Figures {
				text += " " + c.Figure(f.Kind)
			}
		}
		all = append(all, text)
		return nil
	}))
	return all
}

func TestGroupsAndFigures(t *testing.T) {
	lines := []line{
		{"NH", "1", "1.50", "2021-03-04"},
		{"QN", "2", "", "2021-03-05"},
		{"NH", "3", "2", "2021-03-01"},
		{"", "4", "!not-a-number", ""},
		{"!not-found", "5", "0.005", "2021-01-01"},
		{"NH", "", "-10", ""},
		{"#out", "9", "9", "2021-09-09"},
		{"!bad-bytes", "7", "1", ""},
	}
	figures := []Figure{{Sum, 2}, {Mean, 2}, {Smallest, 2}, {Largest, 2}, {Median, 2}, {Distinct, 2}}
	want := []string{
		"[{NH false }] 3 | 3 0 0 -6.50 -2.16666667 -10 2 1.5 3",
		"[{QN false }] 1 | 0 0 1      0",
		"[{ true }] 1 | 0 1 0      0",
		"[{ false bad-bytes}] 1 | 1 0 0 1 1 1 1 1 1",
		"[{ false not-found}] 1 | 1 0 0 0.005 0.005 0.005 0.005 0.005 1",
		"[] 7 | 5 1 1 -5.495 -1.099 -10 2 1 5",
	}
	assert.Equal(t, want, counted(t, Options{By: []int{0}, Figures: figures}, lines, 100))
	assert.Equal(t, want, counted(t, Options{By: []int{0}, Figures: figures, Groups: 1}, lines, 2))
	assert.Equal(t, []string{"[] 7 | 5 1 1 -5.495"}, counted(t, Options{Figures: []Figure{{Sum, 2}}}, lines, 3))
	assert.Equal(t, []string{"[] 7 | 4 0 3 2021-03-01 4 2021-01-01"}, counted(t, Options{Figures: []Figure{{Median, 3}, {Distinct, 3}, {Smallest, 3}}}, lines, 3))
	// Numbers that are equal are one group, however they are written; texts are not.
	assert.Equal(t, []string{"[{1 false }] 2", "[{1.5 false }] 1", "[] 3"},
		counted(t, Options{By: []int{2}}, []line{{"a", "", "1.0", ""}, {"a", "", "1", ""}, {"a", "", "1.50", ""}}, 2))
	assert.Equal(t, []string{"[] 0 | 0 0 0   "}, counted(t, Options{By: []int{0}, Figures: []Figure{{Sum, 1}, {Mean, 1}, {Smallest, 1}}}, nil, 2), "no rows")
}

// Blocks are counted side by side, and what one worker counts is what another would.
func TestWorkersShareNothing(t *testing.T) {
	s := New(Options{Fields: fields, By: []int{0, 2}, Figures: []Figure{{Sum, 2}, {Largest, 3}, {Median, 2}}, Folder: t.TempDir()})
	defer s.Close()
	var blocks []*table.Rows
	for i := range 8 {
		var lines []line
		for j := range 300 {
			lines = append(lines, line{fmt.Sprint("Pört ", j%7), fmt.Sprint(j), fmt.Sprintf("%d.%02d", j%13, i), "2021-03-04"})
		}
		blocks = append(blocks, rowsOf(lines))
	}
	encoded := make([][]byte, len(blocks))
	var wait sync.WaitGroup
	for i, rows := range blocks {
		wait.Go(func() { encoded[i] = s.Encode(nil, rows) })
	}
	wait.Wait()
	for i, rows := range blocks {
		require.NoError(t, s.Write(encoded[i], rows))
	}
	rows := int64(0)
	require.NoError(t, s.Each(context.Background(), func(g *Group) error {
		if rows += g.Rows; len(g.Keys) == 0 {
			assert.EqualValues(t, 8*300, g.Rows)
		}
		return nil
	}))
	assert.EqualValues(t, 2*8*300, rows)
}

// What is counted is what a few lines of big numbers count, in blocks of any size and with any number of groups in memory.
func TestTotalsAreExact(t *testing.T) {
	for seed := range uint64(8) {
		r := rand.New(rand.NewPCG(seed, 20))
		var lines []line
		sums, rows := map[string]*big.Rat{}, map[string]int{}
		values := map[string][]*big.Rat{}
		for range 500 {
			number := []string{
				fmt.Sprint(r.IntN(1000)), fmt.Sprintf("-%d.%02d", r.IntN(90), r.IntN(100)), fmt.Sprintf("0.%09d", r.IntN(1e9)),
				"99999999999999999999999999999999999999", "-0.00000000000000000000000000001", "123456789012345678", "",
			}[r.IntN(7)]
			port := fmt.Sprint("P", r.IntN(30))
			lines = append(lines, line{port, "", number, ""})
			for _, key := range []string{port, ""} {
				rows[key]++
				if sums[key] == nil {
					sums[key] = new(big.Rat)
				}
				if n, ok := new(big.Rat).SetString(number); ok {
					sums[key].Add(sums[key], n)
					values[key] = append(values[key], n)
				}
			}
		}
		var first []string
		for _, o := range []Options{{}, {Groups: 1}, {Groups: 7}} {
			o.By, o.Figures = []int{0}, []Figure{{Sum, 2}, {Median, 2}, {Distinct, 2}}
			for _, size := range []int{1000, 7, 61} {
				got := counted(t, o, lines, size)
				if first == nil {
					first = got
				}
				require.Equal(t, first, got)
			}
		}
		require.Len(t, first, len(rows))
		for _, g := range first {
			key := strings.TrimSuffix(strings.TrimPrefix(strings.Fields(g)[0], "[{"), "[]")
			_, after, _ := strings.Cut(g, "| ")
			parts := strings.Fields(after)
			sum, ok := new(big.Rat).SetString(parts[3])
			require.True(t, ok, g)
			require.Zero(t, sum.Cmp(sums[key]), g)
			list := values[key]
			slices.SortFunc(list, (*big.Rat).Cmp)
			middle := new(big.Rat).Add(list[(len(list)-1)/2], list[len(list)/2])
			median, _ := new(big.Rat).SetString(parts[4])
			require.Zero(t, median.Cmp(middle.Quo(middle, big.NewRat(2, 1))), g)
			distinct := len(slices.CompactFunc(list, func(a, b *big.Rat) bool { return a.Cmp(b) == 0 }))
			require.Equal(t, fmt.Sprint(distinct), parts[5], g)
		}
	}
}
