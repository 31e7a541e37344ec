package profile

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/plan"
	"junvo/internal/table"
	"junvo/internal/value"
)

// sourceOf is a source of lines with a bar between the cells, the names first.
func sourceOf(perBlock int, lines ...string) *texts {
	rows := make([][]string, len(lines))
	for i, l := range lines {
		rows[i] = strings.Split(l, "|")
	}
	return newTexts(perBlock, rows...)
}

func profiled(t *testing.T, src table.Source, workers int, open bool) *Profile {
	t.Helper()
	o := Options{Workers: workers}
	if open {
		o.Open = func(string) bool { return true }
	}
	p, err := Run(context.Background(), src, o)
	require.NoError(t, err)
	return p
}

func lines(n int, line string) (out []string) {
	for range n {
		out = append(out, line)
	}
	return out
}

func TestDrift(t *testing.T) {
	before := append([]string{"day|kg|ok|code"}, append(lines(12, "25.02.2021|1,5 kg|ja|A-1"), lines(3, "03.02.2021|2,5 kg|nein|B-2")...)...)
	p := profiled(t, sourceOf(4, before...), 1, false).Plan(nil, false)
	assert.Empty(t, profiled(t, sourceOf(7, before...), 2, false).Drift(p))
	for _, tt := range []struct {
		old, new string
		want     string
	}{
		{"day|kg|ok|code", "day|kilo|ok|code", "column-missing kg, column-new kilo"},
		{"day|kg|ok|code", "kg|day|ok|code", "column-moved , type-changed day, type-changed kg"},
		{" kg", " lb", "convention-changed kg"},
		{",5 kg", ".5 kg", "convention-changed kg"},
		{"25.02.2021", "02.25.2021", "convention-changed day, range-widened day"},
		{"nein|B-2", "-|B-2", "type-changed ok, blanks-moved ok"},
		{"2,5 kg", "n/a", "blank-words-new kg, blanks-moved kg"},
		{"|1,5 kg", "|heavy", "type-changed kg"},
	} {
		now := strings.Split(strings.ReplaceAll(strings.Join(before, "\n"), tt.old, tt.new), "\n")
		var got []string
		for _, d := range profiled(t, sourceOf(5, now...), 1, false).Drift(p) {
			got = append(got, d.Name+" "+d.Column)
			assert.NotEmpty(t, d.Say)
		}
		assert.Equal(t, tt.want, strings.Join(got, ", "), "%s to %s", tt.old, tt.new)
	}
}

func TestDriftsAreInTheCatalogue(t *testing.T) {
	known := map[string]bool{}
	for _, d := range Drifts {
		known[d.Name] = true
		assert.NotEmpty(t, d.Say)
	}
	for _, name := range []string{"column-missing", "column-new", "column-moved", "type-changed", "convention-changed", "blank-words-new"} {
		assert.True(t, known[name], name)
	}
	assert.Len(t, Drifts, 11)
}

// The plan that is drafted says what the profile has found, and loads.
func TestDraftedPlansLoad(t *testing.T) {
	for i, list := range [][]string{
		{"a", "1,5", "2,5", "x"},
		{"a: b", "03/04/2021", "04/05/2021"},
		{"\"q\"|#c", "1.234|x\ny", "5.678|"},
		{"true|null|1", "ja|-|00417", "nein|x|00418", "ja|y|00419", "ja|y|00419", "ja|y|00419"},
	} {
		p := profiled(t, sourceOf(10, list...), 1, false)
		for _, usable := range []bool{false, true} {
			text, err := p.Plan([]string{"n. a."}, usable).Write()
			require.NoError(t, err)
			loaded, err := plan.Load(text)
			require.NoError(t, err, string(text))
			require.NoError(t, loaded.Bind(p.Info.Names), string(text))
			for c := range loaded.Columns {
				assert.Equal(t, p.Columns[c].Conclusion.Convention.Type, loaded.Columns[c].Convention.Type, "%d %s", i, text)
			}
		}
	}
	p := profiled(t, sourceOf(10, "a|A|a b|a_b", "1|2|3|4"), 1, false).Plan(nil, true)
	assert.Equal(t, []string{"a", "a_2", "a_b", "a_b_2"}, []string{p.Columns[0].Name, p.Columns[1].Name, p.Columns[2].Name, p.Columns[3].Name})
}

// What is told of an opened column does not depend on blocks and workers, also where
// there are more texts and shapes than are kept.
func TestDetailsDoNotDependOnBlocks(t *testing.T) {
	list := []string{"n|t"}
	for i := range 13_000 {
		list = append(list, fmt.Sprintf("%d|%s%c%d", i%11_000, strings.Repeat("x.", i%91), "!#$%&*+-/"[i%9], i))
	}
	one := profiled(t, sourceOf(100_000, list...), 1, true)
	for _, workers := range []int{1, 2, 3} {
		other := profiled(t, sourceOf(777, list...), workers, true)
		for i := range one.Columns {
			a, b := one.Details(one.Columns[i]), other.Details(other.Columns[i])
			assert.Equal(t, a, b)
		}
	}
	d := one.Details(one.Columns[1])
	assert.True(t, d.ManyTexts)
	assert.True(t, d.ManyShapes)
	assert.True(t, one.Details(one.Columns[0]).Estimated)
}

func TestDetailsOfAnOpenedColumn(t *testing.T) {
	p := profiled(t, sourceOf(3, "n|d", "1|2021-01-01", "2|2021-01-11", "2|2021-01-05", "|", "x|2021-01-03", "4|2021-01-02", "5|2021-01-02",
		"6|2021-01-02", "7|2021-01-02", "8|2021-01-02", "9|2021-01-02", "10|2021-01-02"), 1, true)
	n := p.Details(p.Columns[0])
	assert.Equal(t, value.Integer, p.Columns[0].Conclusion.Convention.Type)
	assert.Equal(t, []string{"2", "5", "8"}, n.Quartiles)
	assert.Equal(t, "5.4", n.Mean)
	assert.Equal(t, Frequent{"2", 2}, n.Frequent[0])
	assert.Equal(t, ShapeCount{"9", 9, Where{1, 2, "t"}, "1"}, n.Shapes[0])
	assert.Equal(t, [2]int{1, 2}, [2]int{n.Shortest, n.Longest})
	assert.Equal(t, []int64{5}, n.Readings[1].Rows)
	d := p.Details(p.Columns[1])
	assert.Equal(t, []string{"2021-01-02", "2021-01-02", "2021-01-03"}, d.Quartiles)
	assert.Equal(t, "2021-01-01", d.Histogram[0].From)
	assert.Equal(t, "2021-01-11", d.Histogram[9].To)
	assert.Empty(t, d.Mean)
	closed := profiled(t, sourceOf(3, "n", "1"), 1, false)
	assert.Nil(t, closed.Details(closed.Columns[0]))
}

func TestFind(t *testing.T) {
	list := []string{"n|d", "1|a", "2|b", "2|c", "2|b"}
	cell, err := Find(sourceOf(2, list...), Address{Row: 4, Column: 1})
	require.NoError(t, err)
	assert.Equal(t, Where{4, 5, "t"}, cell.Where)
	assert.Equal(t, "b", cell.Text)
	require.NoError(t, cell.CountAlike(context.Background(), sourceOf(3, list...), 1, 2))
	assert.Equal(t, [2]int64{1, 3}, [2]int64{cell.Alike.Raw, cell.Alike.Shape})
	cell, err = Find(sourceOf(3, list...), Address{Line: 3})
	require.NoError(t, err)
	assert.Equal(t, "2", cell.Text)
	_, err = Find(sourceOf(3, list...), Address{Row: 5})
	assert.EqualError(t, err, "there is no row 5: the source has 4")
	_, err = Find(sourceOf(3, list...), Address{Line: 1})
	assert.EqualError(t, err, "no row starts in line 1")
}
