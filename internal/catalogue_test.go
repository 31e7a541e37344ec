package internal_test

import (
	"go/ast"
	"go/token"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/profile"
	"junvo/internal/rowkind"
)

// Every finding that the code makes is in the catalogue, and the code makes every finding of the catalogue.
func TestTheCatalogueHasEveryFinding(t *testing.T) {
	known, made := map[string]bool{}, map[string]bool{}
	for _, e := range profile.Catalogue {
		known[e.Name] = true
	}
	for _, e := range rowkind.Catalogue {
		made[e.Plural] = e.Finding
	}
	literal := func(x ast.Expr) string {
		if l, ok := x.(*ast.BasicLit); ok && l.Kind == token.STRING {
			s, _ := strconv.Unquote(l.Value)
			return s
		}
		return ""
	}
	note := func(pkg string, x ast.Expr) {
		if name := literal(x); name != "" {
			assert.True(t, known[name], "%s makes a finding %q, which is not in the catalogue", pkg, name)
			made[name] = true
		}
	}
	texts := map[string]bool{}
	eachFile(t, func(pkg string, f *ast.File) {
		if pkg != "internal/profile" && !strings.HasPrefix(pkg, "internal/table") {
			return
		}
		ast.Inspect(f, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.CallExpr:
				if s, ok := n.Fun.(*ast.SelectorExpr); ok && s.Sel.Name == "add" && len(n.Args) > 2 && pkg == "internal/profile" {
					note(pkg, n.Args[0])
				}
			case *ast.CompositeLit:
				switch x := n.Type.(type) {
				case *ast.Ident:
					if x.Name == "Note" || x.Name == "Finding" {
						noteOf(n, func(x ast.Expr) { note(pkg, x) })
					}
				case *ast.SelectorExpr:
					if x.Sel.Name == "Note" || x.Sel.Name == "Finding" {
						noteOf(n, func(x ast.Expr) { note(pkg, x) })
					}
				case *ast.ArrayType:
					if e, ok := x.Elt.(*ast.Ident); ok && e.Name == "FindingEntry" {
						return false // the catalogue itself
					}
				}
			case *ast.BasicLit:
				texts[literal(n)] = true
			}
			return true
		})
	})
	for name := range known {
		assert.True(t, made[name] || texts[name], "nothing makes the finding %q", name)
	}
	assert.Greater(t, len(made), 40)
}

// noteOf calls f with the name that a literal of a finding has.
func noteOf(n *ast.CompositeLit, f func(ast.Expr)) {
	for i, e := range n.Elts {
		if kv, ok := e.(*ast.KeyValueExpr); ok {
			if key, ok := kv.Key.(*ast.Ident); ok && key.Name == "Name" {
				f(kv.Value)
			}
		} else if i == 0 {
			f(e)
		}
	}
}
