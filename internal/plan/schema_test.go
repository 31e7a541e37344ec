package plan

import (
	"encoding/json"
	"maps"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/step"
	"junvo/internal/value"
)

type schema struct {
	Properties map[string]schema
	Defs       map[string]schema `json:"$defs"`
	Items      *schema
	AnyOf      []schema
	Enum       []any
}

// The schema of plans has the keys of the catalogue, the steps and the types, and no others.
func TestSchemaHasTheCatalogue(t *testing.T) {
	text, err := os.ReadFile("../../docs/schemas/plan.schema.json")
	require.NoError(t, err)
	var s schema
	require.NoError(t, json.Unmarshal(text, &s))
	keys := func(where string) []string {
		var names []string
		for _, g := range Keys {
			if g.Where == where {
				for _, k := range g.Keys {
					names = append(names, k.Name)
				}
			}
		}
		slices.Sort(names)
		return slices.Compact(names)
	}
	column := maps.Clone(s.Defs["column"].Properties)
	maps.Copy(column, s.Defs["splitColumn"].Properties)
	assert.Equal(t, keys("At the top:"), slices.Sorted(maps.Keys(s.Properties)))
	assert.Equal(t, keys("For a column:"), slices.Sorted(maps.Keys(column)))
	assert.Equal(t, keys("In seen:"), slices.Sorted(maps.Keys(s.Properties["seen"].Properties)))
	assert.Equal(t, keys("In must:"), slices.Sorted(maps.Keys(column["must"].Properties)))
	var steps, types, failures []string
	forms := s.Defs["steps"].Items.AnyOf
	for _, e := range forms[0].Enum {
		steps = append(steps, e.(string))
	}
	steps = append(steps, slices.Collect(maps.Keys(forms[1].Properties))...)
	assert.ElementsMatch(t, step.Names(), steps)
	for _, e := range column["to"].Enum {
		types = append(types, e.(string))
	}
	assert.Equal(t, value.TypeNames(), types)
	for _, e := range column["on-failure"].Enum {
		failures = append(failures, e.(string))
	}
	assert.Equal(t, failureNames, failures)
}
