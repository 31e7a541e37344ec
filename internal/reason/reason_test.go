package reason

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Every reason has an entry of its own number, which says what is wrong and what would mend it.
func TestCatalogue(t *testing.T) {
	names := map[string]bool{}
	for i, e := range Catalogue[1:] {
		assert.EqualValues(t, i+1, e.Reason, e.Name)
		assert.NotEmpty(t, e.Say, e.Name)
		assert.NotEmpty(t, e.Hint, e.Name)
		assert.False(t, names[e.Name], e.Name)
		names[e.Name] = true
		assert.Equal(t, e.Name, e.Reason.String())
	}
	assert.Empty(t, None.String())
}
