package profile

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/plan"
	"junvo/internal/value"
)

func outlinesOf(texts ...string) *outlines {
	o := newOutlines()
	for _, t := range texts {
		if o.open() {
			o.add([]byte(t))
		}
	}
	return o
}

// A column's shapes are listed while they are few; which texts came first, and to which
// worker, makes no difference.
func TestOutlines(t *testing.T) {
	var none *outlines
	assert.False(t, none.open())
	assert.Nil(t, none.list(plan.MostShapes))
	assert.Equal(t, []string{}, newOutlines().list(6), "no cell, no shape")
	o := outlinesOf("A-1", "B-2", "12,5", "A-1", "Anke")
	assert.Equal(t, []string{"9", "99,9", "A-9", "Aaaa"}, outlinesOf("Anke", "7", "12,5", "C-9").list(6))
	assert.Equal(t, []string{"99,9", "A-9", "Aaaa"}, o.list(6))
	assert.Nil(t, o.list(2), "more than are asked for")
	o.merge(outlinesOf("7", "Anke"))
	assert.Equal(t, []string{"9", "99,9", "A-9", "Aaaa"}, o.list(6))

	var many []string
	for i := range plan.MostShapes {
		many = append(many, strings.Repeat("-", i)+"1")
	}
	full := outlinesOf(many...)
	assert.Len(t, full.list(plan.MostShapes), plan.MostShapes)
	full.merge(outlinesOf("x"))
	assert.Nil(t, full.list(plan.MostShapes))
	assert.False(t, full.open())
	few := outlinesOf("x")
	few.merge(full)
	assert.Nil(t, few.list(plan.MostShapes), "too many in one part are too many in all")
}

// What a plan records does not depend on the workers, nor on how the source is cut.
func TestRecordDoesNotDependOnTheWorkers(t *testing.T) {
	lines := []string{"no|kg|code"}
	for i := range 300 {
		lines = append(lines, fmt.Sprintf("%d|%d,%d|%s", i, i%50, i%10, strings.Repeat("-", i%40)+"x"))
	}
	var first *plan.Record
	for _, tt := range []struct{ each, workers int }{{300, 1}, {7, 1}, {7, 4}, {1, 3}} {
		src := sourceOf(tt.each, lines...)
		p, err := Run(t.Context(), src, Options{Workers: tt.workers, Shapes: func(name string) bool { return name != "no" }})
		assert.NoError(t, err)
		r := p.Record()
		if first == nil {
			first = r
		}
		assert.Equal(t, first, r)
	}
	assert.EqualValues(t, 300, first.Rows)
	assert.Nil(t, first.Columns[0].Shapes, "not asked for")
	assert.Equal(t, []string{"9,9", "99,9"}, first.Columns[1].Shapes)
	assert.Nil(t, first.Columns[2].Shapes, "too many")
	assert.Equal(t, value.Decimal, first.Columns[1].Type)
	assert.Equal(t, [2]string{"0.0", "49.9"}, [2]string{first.Columns[1].Smallest, first.Columns[1].Largest})
}

// The bounds of a column shrink with the number of columns, and never to nothing.
func TestTalliesOfWideTables(t *testing.T) {
	assert.Equal(t, maxTallies, talliesFor(1))
	assert.Equal(t, maxTallies, talliesFor(128))
	assert.Equal(t, minTallies, talliesFor(5000))
	assert.Less(t, talliesFor(1000), talliesFor(500))
}
