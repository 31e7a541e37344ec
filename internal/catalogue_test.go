package internal_test

import (
	"go/ast"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/finding"
)

// Every finding of the catalogue is found somewhere: a kind that no source, kind of row or profile makes is no finding.
func TestEveryFindingIsMade(t *testing.T) {
	made := map[string]bool{} // the constants that are used, by name
	eachFile(t, func(pkg string, f *ast.File) {
		if pkg != "internal/profile" && pkg != "internal/rowkind" && !strings.HasPrefix(pkg, "internal/table") {
			return
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if s, ok := n.(*ast.SelectorExpr); ok {
				if x, ok := s.X.(*ast.Ident); ok && x.Name == "finding" {
					made[s.Sel.Name] = true
				}
			}
			return true
		})
	})
	for _, e := range finding.Catalogue[1:] {
		name := "" // of the constant
		for word := range strings.SplitSeq(e.Name, "-") {
			name += strings.ToUpper(word[:1]) + word[1:]
		}
		assert.True(t, made[name], "nothing makes the finding %s", name)
	}
}
