package plan

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// long is a plan with many columns, one of which is written by the caller at the line 3 + 3*at.
func long(columns, at int, other string) string {
	var b strings.Builder
	b.WriteString("plan: 1\ncolumns:\n")
	for i := range columns {
		if i == at {
			b.WriteString(other)
			continue
		}
		fmt.Fprintf(&b, "  crate %d: # kg: net\n    steps: [trim, {drop: [\"a: b\"]}]\n    to: integer\n", i)
	}
	b.WriteString("seen:\n  rows: 4\n  columns:\n")
	for i := range columns {
		fmt.Fprintf(&b, "    crate %d: {type: integer, shapes: [\"9\"]}\n", i)
	}
	return b.String()
}

// A long plan is the same plan whether it is read in pieces or not, and its mistakes are where they are.
func TestPlansInPieces(t *testing.T) {
	for _, other := range []string{
		"  last one:\n    to: text\n    private: true\n",
		"  \"over two\n  lines: 'a\":\n    to: text\n",
		"\n  # a remark: about it\n  x: {to: text,\n",
		"  last one:\n    from: |\n      to: text\n",
		"  crate 1:\n    to: text\n\n",
		"  last one:\n    to: nonsense\n  \n",
		"rows:\n  set-aside: []\ncolumns:\n",
	} {
		for _, at := range []int{2*maxEntries + 7, maxEntries, maxEntries + 1, maxEntries - 1}[:nets.Size(1, 4)] {
			text := long(3*maxEntries, at, other)
			require.Greater(t, len(pieces(text)), 3)
			whole, wholeErr := parsePiece(piece{text: text})
			got, err := parse([]byte(text))
			assert.Equal(t, wholeErr, err, other)
			if err == nil {
				assert.Equal(t, flat(whole), flat(got), other)
			}
		}
	}
	p, err := Load([]byte(long(3*maxEntries, 500, "  last one:\n    to: text\n    private: true\n")))
	require.NoError(t, err)
	assert.Len(t, p.Columns, 3*maxEntries)
	_, err = Load([]byte(long(3*maxEntries, 500, "  last one:\n    to: nonsense\n    private: true\n")))
	var mistakes Mistakes
	require.True(t, errors.As(err, &mistakes))
	assert.Equal(t, 3+3*500+1, mistakes[0].Line)
}

// flat is a node as text: what it is and where it stands.
func flat(n *node) string {
	s := fmt.Sprintf("%d:%d %d %q %t", n.line, n.column, n.kind, n.text, n.plain)
	for i := range n.items {
		if i < len(n.keys) {
			s += "\n" + flat(n.keys[i])
		}
		s += "\n" + flat(n.items[i])
	}
	return s
}
