package profile

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/tabletest"
	"junvo/internal/value"
)

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

// What is told of an opened column does not depend on blocks and workers, also where
// there are more texts and shapes than are kept.
func TestDetailsDoNotDependOnBlocks(t *testing.T) {
	list := []string{"n|t"}
	for i := range 13_000 {
		list = append(list, fmt.Sprintf("%d|%s%c%d", i%11_000, strings.Repeat("x.", i%91), "!#$%&*+-/"[i%9], i))
	}
	one := profiled(t, tabletest.NewLines(100_000, list...), 1, true)
	for _, workers := range []int{1, 2, 3} {
		other := profiled(t, tabletest.NewLines(777, list...), workers, true)
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

// What is noted of the outlines of a column is no other column's, though one reader reads all: texts that were remembered
// are counted when the columns end.
func TestNotesOfColumns(t *testing.T) {
	list := []string{"a|b"}
	for i := range 3000 {
		list = append(list, fmt.Sprintf("%d,%d kg|%d,%d kg", i%7, i%3, i%7, i%4))
	}
	p := profiled(t, tabletest.NewLines(500, list...), 1, true)
	for i := range 2 {
		shapes := p.Details(p.Columns[i]).Shapes
		require.Len(t, shapes, 1)
		assert.Equal(t, "9,9 aa", shapes[0].Shape)
		assert.EqualValues(t, 3000, shapes[0].Cells)
	}
}

func TestDetailsOfAnOpenedColumn(t *testing.T) {
	p := profiled(t, tabletest.NewLines(3, "n|d", "1|2021-01-01", "2|2021-01-11", "2|2021-01-05", "|", "x|2021-01-03", "4|2021-01-02", "5|2021-01-02",
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
	closed := profiled(t, tabletest.NewLines(3, "n", "1"), 1, false)
	assert.Nil(t, closed.Details(closed.Columns[0]))
}

func TestFind(t *testing.T) {
	list := []string{"n|d", "1|a", "2|b", "2|c", "2|b"}
	cell, err := Find(tabletest.NewLines(2, list...), Address{Row: 4, Column: 1})
	require.NoError(t, err)
	assert.Equal(t, Where{4, 5, "t"}, cell.Where)
	assert.Equal(t, "b", cell.Text)
	require.NoError(t, cell.CountAlike(context.Background(), tabletest.NewLines(3, list...), 1, 2))
	assert.Equal(t, [2]int64{1, 3}, [2]int64{cell.Alike.Raw, cell.Alike.Shape})
	cell, err = Find(tabletest.NewLines(3, list...), Address{Line: 3})
	require.NoError(t, err)
	assert.Equal(t, "2", cell.Text)
	_, err = Find(tabletest.NewLines(3, list...), Address{Row: 5})
	assert.EqualError(t, err, "there is no row 5: the source has 4")
	_, err = Find(tabletest.NewLines(3, list...), Address{Line: 1})
	assert.EqualError(t, err, "no row starts in line 1")
}

// The shape that runs of like characters have as one is told by the first of them, whatever stands behind.
func TestCoarseShapesAreRemembered(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	parts := []string{
		"a", "B", "7", " ", "-", "--", "{", "}", "1", "99999999", "999999999", "1234567890123", "abcdefghijk",
		"ABCDEFGHIJK", "…", "é", "e\u0301", "\xff", "\x00", "\t", "9{9}", "aaaaaaaa", "8{",
	}
	quick, slow := newDetail(1), newDetail(1)
	quick.coarsen()
	slow.coarsen()
	for range 200_000 {
		var text []byte
		for range 1 + r.IntN(12) {
			text = append(text, parts[r.IntN(len(parts))]...)
		}
		text = text[:min(len(text), maxSampleText)]
		quick.shapeOf(text).cells++
		slow.countOf(text).cells++
	}
	require.Equal(t, shapesOf(slow), shapesOf(quick))
	require.NotNil(t, quick.coarseMemo)
}
