package profile

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/character"
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
	assert.Nil(t, none.list(character.MostShapes))
	assert.Equal(t, []string{}, newOutlines().list(6), "no cell, no shape")
	o := outlinesOf("A-1", "B-2", "12,5", "A-1", "Anke")
	assert.Equal(t, []string{"9", "99,9", "A-9", "Aaaa"}, outlinesOf("Anke", "7", "12,5", "C-9").list(6))
	assert.Equal(t, []string{"99,9", "A-9", "Aaaa"}, o.list(6))
	assert.Nil(t, o.list(2), "more than are asked for")
	o.merge(outlinesOf("7", "Anke"))
	assert.Equal(t, []string{"9", "99,9", "A-9", "Aaaa"}, o.list(6))

	var many []string
	for i := range character.MostShapes {
		many = append(many, strings.Repeat("-", i)+"1")
	}
	full := outlinesOf(many...)
	assert.Len(t, full.list(character.MostShapes), character.MostShapes)
	full.merge(outlinesOf("x"))
	assert.Nil(t, full.list(character.MostShapes))
	assert.False(t, full.open())
	few := outlinesOf("x")
	few.merge(full)
	assert.Nil(t, few.list(character.MostShapes), "too many in one part are too many in all")
}

// The bounds of a column shrink with the number of columns, and never to nothing.
func TestTalliesOfWideTables(t *testing.T) {
	assert.Equal(t, maxTallies, talliesFor(1))
	assert.Equal(t, maxTallies, talliesFor(128))
	assert.Equal(t, minTallies, talliesFor(5000))
	assert.Less(t, talliesFor(1000), talliesFor(500))
}
