package convert

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What depends on other rows than the cell's own must not depend on where a block ends, nor
// on the number of workers.

// gaps makes a table of many blocks with runs of blank cells, some longer than a block.
func gaps(rows int) (text string, want []string) {
	var b strings.Builder
	b.WriteString("quay;kg;note\n")
	last := ""
	for i := range rows {
		quay := ""
		if i < 40_000 && i%13 == 4 || i > 90_000 && i%7 == 0 {
			quay = fmt.Sprintf("Quay %d", i)
			last = quay
		} else if i%5 == 0 {
			quay = "n/a"
		}
		fmt.Fprintf(&b, "%s;%d;some text that fills the block\n", quay, i)
		want = append(want, last)
	}
	return b.String(), want
}

func TestFillFromAboveAcrossBlocks(t *testing.T) {
	text, want := gaps(100_000)
	planText := `plan: 1
rows: {set-aside: [blank-rows, repeated-headings], drop: "kg == 50"}
columns:
  quay: {steps: [{fill: {from: above}}, {case: upper}], blank-words: [n/a]}
  kg: {to: integer}
  tag: {join: [quay, kg], with: "-", blanks: keep}
`
	var first *made
	for _, workers := range []int{1, 2, 5} {
		m, err := convertAll(t, text, planText, Options{Workers: workers})
		require.NoError(t, err)
		require.NoError(t, m.ledger.Check())
		require.Len(t, m.rows, 100_000)
		at := 0
		for i, quay := range want {
			if i == 50 {
				continue
			}
			at++
			if !assert.Equal(t, []string{strings.ToUpper(quay), fmt.Sprint(i), strings.ToUpper(quay) + "-" + fmt.Sprint(i)}, m.rows[at]) {
				return
			}
		}
		if first == nil {
			first = m
		}
		assert.Equal(t, first.ledger, m.ledger)
		a := m.ledger.Columns[0]
		assert.Equal(t, a.Steps[0].Changed, a.Converted-a.Steps[1].Changed, "filled cells are counted as the fill's, the others as the case's")
	}
}

func TestFillFromAboveNeverSpreadsAFailure(t *testing.T) {
	text := "n;x\n;a\n7;a\n;a\nbad;a\n;a\n n;x\n8;a\n-;a\n"
	m, err := convertAll(t, text, "plan: 1\ncolumns: {n: {to: integer, steps: [{fill: {from: above}}, trim], blank-words: [\"-\"]}, x: {}}", Options{})
	require.NoError(t, err)
	var got []string
	for _, r := range m.rows[1:] {
		got = append(got, r[0])
	}
	assert.Equal(t, []string{"", "7", "7", "", "", "", "8", "8"}, got)
	assert.Len(t, m.failures, 2)

	f := NewFixes(func(s string) string { return s })
	addFix(t, f, 4, "n", "bad", "77")
	m, err = convertAll(t, text, "plan: 1\ncolumns: {n: {to: integer, steps: [{fill: {from: above}}]}}", Options{Fixes: f})
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"77"}, {"77"}}, m.rows[4:6], "a person's answer fills the cells below, too")
	m, err = convertAll(t, text, "plan: 1\ncolumns: {n: {to: integer, steps: [{fill: {from: above}}], must: {not-blank: true}}}", Options{})
	require.NoError(t, err)
	var reasons []string
	for _, f := range m.failures {
		reasons = append(reasons, fmt.Sprint(f.Row, " ", f.Reason))
	}
	assert.Equal(t, []string{"1 blank-not-allowed", "4 not-a-number", "5 blank-not-allowed", "6 not-a-number", "8 not-a-number"}, reasons)
}

func TestUniqueFailsTheLaterRows(t *testing.T) {
	var b strings.Builder
	b.WriteString("no;kg\n")
	seen := map[int]int{}
	want := map[int64]string{}
	for i := range 80_000 {
		n := i * 7919 % 60_013
		if before, ok := seen[n]; ok {
			want[int64(i+1)] = fmt.Sprintf("row %d has the same value", before)
		} else {
			seen[n] = i + 1
		}
		fmt.Fprintf(&b, "%d;%d,0%s\n", n, n, strings.Repeat("0", i%3)) // 5.0 and 5.00 are the same
	}
	planText := `plan: 1
columns:
  no: {to: integer, must: {unique: true}}
  kg: {to: decimal, decimal-mark: ",", must: {unique: true}, on-failure: keep-text}
`
	for _, workers := range []int{1, 3} {
		m, err := convertAll(t, b.String(), planText, Options{Workers: workers})
		require.NoError(t, err)
		require.NoError(t, m.ledger.Check())
		require.Len(t, m.failures, 2*len(want))
		for _, f := range m.failures {
			assert.Equal(t, "not-unique", f.Reason.String())
			if !assert.Equal(t, want[f.Row], f.Detail) {
				return
			}
		}
		one := m.rows[m.failures[0].Row]
		assert.Equal(t, "", one[0], "blank")
		assert.Contains(t, one[1], ",0", "the text is kept")
	}
}

// A row that is set aside for repeating a value leaves the first one alone; blank cells, and
// cells that have failed, repeat nothing.
func TestUniqueSetsRepeatsAside(t *testing.T) {
	text := "no;kg\nA;1\nB;2\nA;3\n;4\n;5\nA;6\nx1;7\nx1;8\n"
	m, err := convertAll(t, text, "plan: 1\ncolumns: {no: {must: {unique: true, matches: \"^[A-Z]$\"}, on-failure: set-aside-row}, kg: {}}", Options{})
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"no", "kg"}, {"A", "1"}, {"B", "2"}, {"", "4"}, {"", "5"}}, m.rows)
	assert.EqualValues(t, 4, m.ledger.FailedAside)
	// What a condition leaves out repeats nothing.
	m, err = convertAll(t, text, "plan: 1\nrows: {keep: \"kg > 1\"}\ncolumns: {no: {must: {unique: true}}, kg: {to: integer}}", Options{})
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"no", "kg"}, {"B", "2"}, {"A", "3"}, {"", "4"}, {"", "5"}, {"", "6"}, {"x1", "7"}, {"", "8"}}, m.rows)
}

// An answer that repeats a value in its turn is no answer.
func TestFixesOfUniqueColumnsAreHeldToIt(t *testing.T) {
	f := NewFixes(func(s string) string { return s })
	addFix(t, f, 3, "no", "A", "C")
	addFix(t, f, 4, "no", "A", "B")
	addFix(t, f, 5, "no", "A", "C")
	m, err := convertAll(t, "no\nA\nB\nA\nA\nA\n", "plan: 1\ncolumns: {no: {must: {unique: true}}}", Options{Fixes: f})
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"no"}, {"A"}, {"B"}, {"C"}, {""}, {""}}, m.rows)
	require.Len(t, m.failures, 2)
	assert.Equal(t, "row 2 has the same value", m.failures[0].Detail)
	assert.Equal(t, "row 3 has the same value", m.failures[1].Detail)
	assert.EqualValues(t, 1, m.ledger.Columns[0].Fixed)
}

// The heading above a row is the same whatever block it stands in, and however many workers there are.
func TestSectionHeadingsBecomeAColumnAcrossBlocks(t *testing.T) {
	var b strings.Builder
	b.WriteString("kg;note;no\n")
	var want []string
	last := ""
	for i := range 60_000 {
		if i == 7 || i%9_001 == 9_000 || i%20_011 < 2 && i > 3 { // two in a row, and none for many blocks
			last = fmt.Sprintf("Quay %d", i)
			fmt.Fprintf(&b, "%s;;\n", last)
		}
		fmt.Fprintf(&b, "%d;some text that fills the block;%d\n", i, i)
		want = append(want, last)
	}
	planText := "plan: 1\nrows: {section-heading-into: quay}\ncolumns:\n  kg: {to: integer}\n  quay: {steps: [{drop: \"Quay \"}], to: integer}\n  tag: {join: [quay, no]}\n"
	var first *made
	for _, workers := range []int{1, 2, 5} {
		m, err := convertAll(t, b.String(), planText, Options{Workers: workers})
		require.NoError(t, err)
		require.NoError(t, m.ledger.Check())
		require.Len(t, m.rows, 60_001)
		for i, quay := range want {
			n := strings.TrimPrefix(quay, "Quay ")
			if !assert.Equal(t, []string{fmt.Sprint(i), n, n + fmt.Sprint(i)}, m.rows[i+1]) {
				return
			}
		}
		if first == nil {
			first = m
		}
		assert.Equal(t, first.ledger, m.ledger)
	}
}
