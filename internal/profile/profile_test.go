package profile

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/finding"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/table/tabletest"
	"junvo/internal/value"
)

// mixture makes rows of columns in which much is repeated and some is odd.
func mixture(rows int) [][]string {
	r := rand.New(rand.NewPCG(11, 12))
	out := [][]string{{"kg", "day", "text", "id", "unit"}}
	for i := range rows {
		kg := fmt.Sprintf("%d.%d", r.IntN(5000), r.IntN(10))
		switch r.IntN(60) {
		case 0:
			kg = []string{"n/a", "", " ", "x", "1,5", "\u00a07.5"}[r.IntN(6)]
		case 1:
			kg = "123456789012345678901234567890.5"
		}
		day := fmt.Sprintf("%02d.%02d.2021", 1+r.IntN(28), 1+r.IntN(12))
		out = append(out, []string{kg, day, fmt.Sprint("word", r.IntN(9000)), fmt.Sprintf("%06d", i), fmt.Sprint(r.IntN(99), " w", strings.Repeat("a", r.IntN(20)), string(rune('a'+r.IntN(26))), string(rune('a'+r.IntN(26))))})
	}
	return out
}

// facts is all that a profile says, in one text.
func facts(p *Profile) string {
	var b strings.Builder
	fmt.Fprintln(&b, p.Rows, p.Aside, p.SetAside, p.Findings)
	for _, c := range p.Columns {
		done := c.Conclusion
		n, exact := c.Distinct()
		fmt.Fprintln(&b, c.Name, done.Convention.Type, done.Convention.Say(c.Counts), done.Why, done.Evidence, done.Reads, done.Blanks, done.Fits, done.Fails,
			c.Range, n, exact, c.Findings, p.Strays(c), p.Odd(c, 20), c.Patterns(), c.BlankWords())
	}
	return b.String()
}

// The profile is the same for any number of workers, and however the rows are cut
// into parts.
func TestPartsMakeTheWhole(t *testing.T) {
	rows := mixture(20000)
	var want string
	for _, workers := range []int{1, 2, 5} {
		p, err := Run(context.Background(), tabletest.NewRows(700, rows...), Options{Workers: workers})
		require.NoError(t, err)
		if want == "" {
			want = facts(p)
		}
		require.Equal(t, want, facts(p), "%d workers", workers)
	}
	// Blocks of another size put the samples into other places, and nothing else.
	p, err := Run(context.Background(), tabletest.NewRows(33, rows...), Options{Workers: 3})
	require.NoError(t, err)
	assert.Equal(t, want, facts(p))
}

// What a column shows does not depend on the columns beside it, whose cells the same reader reads.
func TestColumnsDoNotMeet(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 7))
	all := []func() string{
		func() string { return fmt.Sprintf("%d:%02d", r.IntN(24), r.IntN(60)) },
		func() string { return fmt.Sprintf("%02d.%02d.%d", 1+r.IntN(28), 1+r.IntN(12), 1990+r.IntN(40)) },
		func() string { return fmt.Sprintf("%d-%02d-%02d", 1990+r.IntN(40), 1+r.IntN(12), 1+r.IntN(28)) },
		func() string {
			return fmt.Sprintf("%d-%02d-%02dT%02d:%02d:%02d+0%d:00", 1990+r.IntN(40), 1+r.IntN(12), 1+r.IntN(28), r.IntN(24), r.IntN(60),
				r.IntN(60), r.IntN(9))
		},
		func() string { return fmt.Sprintf("%d.%02d.%02d", r.IntN(24), 1+r.IntN(12), 1+r.IntN(28)) }, // times, or days
		func() string { return fmt.Sprintf("%d Mar %d", 1+r.IntN(28), 1990+r.IntN(40)) },
		func() string { return fmt.Sprintf("%d.%03d,%02d kg", r.IntN(99), r.IntN(1000), r.IntN(100)) },
		func() string { return fmt.Sprintf("-%d", r.IntN(1<<30)) },
		func() string { return []string{"yes", "no", "", "n/a", "-"}[r.IntN(5)] },
		func() string { return fmt.Sprintf("lot %d, crate %x", r.IntN(100), r.IntN(1<<30)) },
		func() string { return fmt.Sprint(20210000 + 100*(1+r.IntN(12)) + 1 + r.IntN(28)) },
	}
	var names []string
	for c := range all {
		names = append(names, fmt.Sprint("c", c))
	}
	rows := [][]string{names}
	for range 5000 {
		var row []string
		for _, cell := range all {
			row = append(row, cell())
		}
		rows = append(rows, row)
	}
	together, err := Run(context.Background(), tabletest.NewRows(500, rows...), Options{Workers: 2, Alone: true})
	require.NoError(t, err)
	for c := range all {
		var alone [][]string
		for _, row := range rows {
			alone = append(alone, []string{row[c], "x"}) // a second column, so that an empty cell is no blank row
		}
		p, err := Run(context.Background(), tabletest.NewRows(500, alone...), Options{Workers: 2, Alone: true})
		require.NoError(t, err)
		one, among := *p, *together
		one.Columns, among.Columns = p.Columns[:1], together.Columns[c:c+1]
		one.Findings, among.Findings = nil, nil // those are of the file
		assert.Equal(t, facts(&one), facts(&among))
	}
}

func TestCollectedAgainstAPlainCount(t *testing.T) {
	rows := mixture(6000)
	p, err := Run(context.Background(), tabletest.NewRows(500, rows...), Options{Workers: 2})
	require.NoError(t, err)
	ids := p.Columns[3]
	assert.Equal(t, value.Code, ids.Conclusion.Convention.Type)
	n, exact := ids.Distinct()
	assert.False(t, exact)
	assert.InEpsilon(t, 6000, n, 0.02)
	words := map[string]bool{}
	blank := 0
	for _, row := range rows[1:] {
		words[row[2]] = true
		if s := strings.TrimSpace(row[0]); s == "" || s == "n/a" {
			blank++
		}
	}
	n, exact = p.Columns[2].Distinct()
	assert.Equal(t, len(words) <= maxExact, exact)
	assert.InEpsilon(t, len(words), n, 0.02)
	assert.EqualValues(t, blank, p.Columns[0].Conclusion.Reads[reading.AsBlank])
	assert.EqualValues(t, 6000, p.Columns[0].Column.Cells)
}

// Units may come in any number of forms; beyond a bound they are counted together.
func TestCrowdedColumnsStayBounded(t *testing.T) {
	rows := [][]string{{"n", "x"}}
	for i := range 5000 {
		rows = append(rows, []string{fmt.Sprintf("%d unit%s", i%7, string([]rune{rune('a' + i%26), rune('a' + i/26%26), rune('a' + i/676)})), "y"})
	}
	for _, workers := range []int{1, 4} {
		p, err := Run(context.Background(), tabletest.NewRows(50, rows...), Options{Workers: workers})
		require.NoError(t, err)
		assert.LessOrEqual(t, len(p.Columns[0].Column.Tallies), maxTallies+8)
		assert.Equal(t, value.Text, p.Columns[0].Conclusion.Convention.Type)
	}
}

// The cell with which a column is crowded counts as what it is, though the texts that are remembered are read again.
func TestTheCellThatCrowds(t *testing.T) {
	for cells := 100; cells < 700; cells += 7 {
		rows, words := [][]string{{"n", "code"}}, 0
		for i := range cells {
			code := "17.5" // it is remembered, and a number
			if i > 60 && i%2 == 0 {
				words++
				code = strings.Repeat("a", 1+words%20) + strings.Repeat("9", 1+words/20)
			}
			rows = append(rows, []string{fmt.Sprint(i), code})
		}
		p, err := Run(context.Background(), tabletest.NewRows(50, rows...), Options{Workers: 1})
		require.NoError(t, err)
		c := p.Columns[1].Column
		texts := int64(0)
		for _, n := range c.lengths.cells {
			texts += n
		}
		require.EqualValues(t, words, texts, "%d rows", cells)
		var all numberStats
		for i := range c.Tallies {
			if n := c.Tallies[i].Numbers[reading.Point]; n != nil {
				all.merge(n)
			}
		}
		numbers, _ := all.total()
		want, _ := value.ParseNumber(fmt.Sprintf("%d.%d", (cells-words)*175/10, (cells-words)*175%10))
		require.Zero(t, want.Compare(numbers.sum.Number()), "%d rows: %s", cells, numbers.sum.Number())
	}
}

func TestRowsThatAreNoData(t *testing.T) {
	section := []string{"Quay North", "", ""}
	data := []string{"A", "1", "2"}
	rows := [][]string{{"port", "kg", "n"}, section, data, data, {"", " ", ""}, data, {"port", "kg", "n"}, data, data, {"Total", "5", ""}, data, data, data, data}
	p, err := Run(context.Background(), tabletest.NewRows(4, rows...), Options{Workers: 2})
	require.NoError(t, err)
	assert.EqualValues(t, 13, p.Rows)
	want := [rowkind.NumKinds]int64{}
	want[rowkind.SectionHeading], want[rowkind.Blank], want[rowkind.RepeatedHeading], want[rowkind.Total] = 1, 1, 1, 1
	assert.Equal(t, want, p.Aside)
	assert.EqualValues(t, 9, p.Columns[0].Column.Cells)

	// Where there are many, they are data.
	p, err = Run(context.Background(), tabletest.NewRows(4, [][]string{{"port", "kg", "n"}, section, data, section, section, data}...), Options{Workers: 2})
	require.NoError(t, err)
	assert.Zero(t, p.Aside[rowkind.SectionHeading])
	assert.False(t, p.SetAside[rowkind.SectionHeading])
	assert.EqualValues(t, 5, p.Columns[0].Column.Cells)
	assert.EqualValues(t, 3, p.Columns[1].Conclusion.Blanks[value.Empty])
}

func TestPlacesBecomeRowsAndLines(t *testing.T) {
	var rows [][]string
	rows = append(rows, []string{"n", "x"})
	for i := range 100 {
		cell := fmt.Sprint(i)
		if i == 57 {
			cell = "odd"
		}
		rows = append(rows, []string{cell, "y"})
	}
	p, err := Run(context.Background(), tabletest.NewRows(9, rows...), Options{Workers: 3})
	require.NoError(t, err)
	odd := p.Odd(p.Columns[0], 10)
	require.Len(t, odd, 1)
	assert.Equal(t, OddCell{Where{58, 59, "t"}, "odd", reading.AsText}, odd[0])
	assert.Equal(t, "0", p.Columns[0].Range.Smallest)
	assert.Equal(t, "99", p.Columns[0].Range.Largest)
	assert.Equal(t, fmt.Sprint(99*100/2-57), p.Columns[0].Range.Sum)
}

func TestStraysHaveTheirPlace(t *testing.T) {
	for cell, want := range map[string]string{
		" a":              "[{  leading}]",
		"a\u00a0":         "[{\u00a0 trailing}]",
		"1\u00a02\u00a03": "[{\u00a0 inside}]",
		"\u200b \u200b":   "[{\u200b leading} {  leading}]",
		"a b":             "[]",
		" 1\u00ad2 ":      "[{  leading} {\u00ad inside} {  trailing}]",
	} {
		got := []string{}
		eachStray([]byte(cell), func(k strayKey) { got = append(got, fmt.Sprintf("{%c %s}", k.Rune, k.Place)) })
		assert.Equal(t, want, fmt.Sprint(got), "%q", cell)
	}
}

func TestFindingsStandInTheOrderOfTheCatalogue(t *testing.T) {
	f := []Finding{{Kind: finding.Units}, {Kind: finding.Mixed}, {Kind: finding.StrayCharacters}}
	sortFindings(f)
	assert.Equal(t, []Finding{{Kind: finding.Mixed}, {Kind: finding.StrayCharacters}, {Kind: finding.Units}}, f)
}

// Nothing that the workers of a profile share has state: run with the race detector, this fails
// where anything has.
func TestWorkersOfAProfileShareNothing(t *testing.T) {
	rows := mixture(4000)
	var want string
	for _, workers := range []int{1, 4} {
		p, err := Run(context.Background(), tabletest.NewRows(100, rows...), Options{Workers: workers, Open: func(string) bool { return true }, Shapes: func(string) bool { return true }})
		require.NoError(t, err)
		if want == "" {
			want = facts(p)
		}
		require.Equal(t, want, facts(p))
	}
}
