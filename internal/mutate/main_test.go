package main

import (
	"go/parser"
	"go/token"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every change of every sort is Go still, and another text than before.
func TestChangesAreGo(t *testing.T) {
	text := []byte("package p\n\nfunc f(a, b int) int {\n\tif a < b && b > 2 {\n\t\treturn a - b\n\t}\n\tswitch a {\n" +
		"\tcase 1, 7:\n\t\treturn 3\n\tdefault:\n\t\treturn b\n\t}\n}\n")
	sorts := map[string]int{}
	for _, c := range changesOf("p.go", text) {
		changed := c.apply(text)
		assert.NotEqual(t, string(text), string(changed), c.say)
		_, err := parser.ParseFile(token.NewFileSet(), "p.go", changed, 0)
		require.NoError(t, err, "%s: %s", c.say, changed)
		_, what, _ := strings.Cut(c.say, ": ")
		sorts[what]++
	}
	assert.Equal(t, map[string]int{
		"< becomes <=": 1, "&& becomes ||": 1, "> becomes >=": 1, "- becomes +": 1, "the condition is turned round": 1,
		"a case is dropped": 1, "1 becomes 2": 1, "2 becomes 3": 1, "3 becomes 4": 1, "7 becomes 8": 1,
	}, sorts)
	own, err := os.ReadFile("main.go")
	require.NoError(t, err)
	assert.Greater(t, len(changesOf("main.go", own)), 30)
}
