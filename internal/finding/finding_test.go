package finding_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/finding"
)

func Example() {
	k, ok := finding.Parse("leading-zeros")
	fmt.Println(k, ok)
	fmt.Println(k.Entry().Do)
	// Output:
	// leading-zeros true
	// Keep the column as code.
}

func TestCatalogue(t *testing.T) {
	seen := map[string]bool{"": true}
	for i, e := range finding.Catalogue[1:] {
		assert.EqualValues(t, i+1, e.Kind, e.Name)
		assert.False(t, seen[e.Name], "%s stands twice", e.Name)
		seen[e.Name] = true
		assert.Contains(t, []finding.Scope{finding.OfFile, finding.OfColumn}, e.Of, e.Name)
		assert.NotEmpty(t, e.Say, e.Name)
		assert.NotEmpty(t, e.Do, e.Name)
		k, ok := finding.Parse(e.Name)
		assert.True(t, ok)
		assert.Equal(t, e.Kind, k)
		doc, err := json.Marshal(k)
		require.NoError(t, err)
		assert.Equal(t, `"`+e.Name+`"`, string(doc))
	}
	for _, name := range []string{"", "no-such", "Mixed"} {
		k, ok := finding.Parse(name)
		assert.False(t, ok, name)
		assert.Equal(t, finding.None, k)
	}
}
