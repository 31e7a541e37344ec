package convert

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// meter makes a table of many blocks, of which some cells are blank, some fail, and some rows are no data; want is what each
// row that goes out is to have, worked out here row by row.
func meter(rows, failsAt int) (text string, want [][]string) {
	var b strings.Builder
	b.WriteString("pump;litres;note\n")
	pump, litres, change, sum, lost, any := "", 0, "", 0, false, false
	for i := range rows {
		if i%4000 == 17 { // a blank row, which is no row before
			b.WriteString(";;\n")
			continue
		}
		before, now := litres, i*7%1000-300
		name, cell := fmt.Sprint("P", i/11), fmt.Sprint(now)
		wantedChange := fmt.Sprint(now - before)
		switch {
		case i == 0:
			wantedChange = ""
		case i == failsAt:
			cell, lost = "broken", true
		case i%1000 == 5:
			cell = ""
		}
		if cell == "" || cell == "broken" {
			wantedChange = ""
		} else if i > 0 && change == "none" {
			wantedChange = ""
		}
		change = ""
		if litres = now; cell == "" || cell == "broken" {
			change = "none" // the next has nothing to compare with
		} else {
			sum, any = sum+now, true
		}
		wantedSum := fmt.Sprint(sum)
		if lost || !any {
			wantedSum = ""
		}
		fmt.Fprintf(&b, "%s;%s;some text that fills the block\n", name, cell)
		out := cell
		if cell == "broken" {
			out = ""
		}
		if name != pump { // the first of a pump goes out
			want = append(want, []string{name, out, wantedChange, wantedSum})
		}
		pump = name
	}
	return b.String(), want
}

const meterPlan = `plan: 1
rows: {set-aside: [blank-rows], keep: "blank(before(pump)) || before(pump) != pump"}
columns:
  pump: {}
  litres: {to: integer}
  change: {compute: "litres - before(litres)", to: integer}
  total: {compute: "sumSoFar(litres)", to: integer}
`

// What is asked of the rows before does not depend on where a block ends, on the number of workers, or on what a condition
// leaves out.
func TestRowsBefore(t *testing.T) {
	for _, failsAt := range []int{-1, 30_003} {
		text, want := meter(40_000, failsAt)
		var first *made
		for _, workers := range []int{1, 2, 5} {
			m, err := convertAll(t, text, meterPlan, Options{Workers: workers})
			require.NoError(t, err)
			require.NoError(t, m.ledger.Check())
			require.Equal(t, len(want)+1, len(m.rows))
			for i := range want {
				if !assert.Equal(t, want[i], m.rows[i+1], "row %d", i) {
					return
				}
			}
			if first == nil {
				first = m
			}
			require.Equal(t, first.failures, m.failures)
		}
		if failsAt < 0 {
			require.Empty(t, first.failures)
			continue
		}
		require.NotEmpty(t, first.failures)
		last := first.failures[len(first.failures)-1]
		assert.Equal(t, "total", last.Column)
		assert.Equal(t, "litres has failed in row 30004, and from there on the sum is not known", last.Detail)
	}
}

// Columns that ask for the rows before may be asked for in turn.
func TestRowsBeforeInTurn(t *testing.T) {
	var b strings.Builder
	b.WriteString("n;note\n")
	const rows = 12_000
	for i := range rows {
		fmt.Fprintf(&b, "%d;some text that fills the block\n", i*i)
	}
	planText := `plan: 1
columns:
  tag: {join: [second, n], with: "/", blanks: keep}
  second: {compute: "first - before(first)", to: integer}
  back: {compute: "sumSoFar(first) + n - n", to: integer}
  first: {compute: "n - before(n)", to: integer}
  n: {to: integer}
  all: {compute: "sumSoFar(back)", to: integer}
`
	for _, workers := range []int{1, 4} {
		m, err := convertAll(t, b.String(), planText, Options{Workers: workers})
		require.NoError(t, err)
		require.Equal(t, rows+1, len(m.rows))
		assert.Equal(t, []string{"/0", "", "", "", "0", ""}, m.rows[1])
		assert.Equal(t, []string{"/1", "", "1", "1", "1", "1"}, m.rows[2])
		for i, all := 2, 1; i < rows; i++ {
			all += i * i
			want := []string{fmt.Sprint("2/", i*i), "2", fmt.Sprint(i * i), fmt.Sprint(2*i - 1), fmt.Sprint(i * i), fmt.Sprint(all)}
			if !assert.Equal(t, want, m.rows[i+1]) {
				return
			}
		}
	}
}

// A failure says what the row before had.
func TestRowsBeforeInFailures(t *testing.T) {
	m, err := convertAll(t, "n;m\n0;1\n5;2\n0;3\n", `plan: 1
columns: {n: {to: integer}, m: {to: integer}, part: {compute: "m / before(n) + 0 * sumSoFar(m)"}}
`, Options{})
	require.NoError(t, err)
	require.Len(t, m.failures, 1)
	assert.Equal(t, "m 2, previous(n) 0, sumSoFar(m) 3", m.failures[0].Value)
	assert.Equal(t, [][]string{{"n", "m", "part"}, {"0", "1", ""}, {"5", "2", ""}, {"0", "3", "0.6"}}, m.rows)
}
