package internal_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mayImport is the map: which packages of the project each package may import.
// Arrows point one way, and nothing but cmd/junvo imports cli.
var mayImport = map[string][]string{
	"cmd/junvo":                      {"internal/cli"},
	"internal/cli":                   {"demo", "internal/character", "internal/convert", "internal/draft", "internal/expression", "internal/finding", "internal/order", "internal/plan", "internal/profile", "internal/reading", "internal/report", "internal/rowkind", "internal/show", "internal/step", "internal/table", "internal/table/delim", "internal/table/input", "internal/table/jsonlines", "internal/table/parquet", "internal/table/postgres", "internal/table/sqlite", "internal/table/wholefile", "internal/table/workbook", "internal/teach", "internal/totals", "internal/turn", "internal/value"},
	"internal/show":                  {"internal/character", "internal/convert", "internal/draft", "internal/expression", "internal/finding", "internal/plan", "internal/profile", "internal/reading", "internal/reason", "internal/rowkind", "internal/step", "internal/table", "internal/table/postgres", "internal/table/sqlite", "internal/teach", "internal/totals", "internal/value"},
	"internal/report":                {"internal/character", "internal/convert", "internal/draft", "internal/finding", "internal/plan", "internal/profile", "internal/reading", "internal/show", "internal/table", "internal/value"},
	"internal/draft":                 {"internal/character", "internal/finding", "internal/plan", "internal/profile", "internal/reading", "internal/step", "internal/table", "internal/value"},
	"internal/convert":               {"internal/character", "internal/order", "internal/plan", "internal/reading", "internal/reason", "internal/rowkind", "internal/step", "internal/table", "internal/value"},
	"internal/profile":               {"internal/character", "internal/finding", "internal/reading", "internal/rowkind", "internal/table", "internal/value"},
	"internal/step":                  {"internal/character", "internal/pattern", "internal/reading", "internal/reason", "internal/table", "internal/value"},
	"internal/reason":                {},
	"internal/finding":               {},
	"internal/expression":            {"internal/character", "internal/pattern", "internal/reading", "internal/step", "internal/table", "internal/value"},
	"internal/plan":                  {"internal/character", "internal/expression", "internal/pattern", "internal/reading", "internal/reason", "internal/rowkind", "internal/step", "internal/table", "internal/value"},
	"internal/reading":               {"internal/character", "internal/reason", "internal/value"},
	"internal/rowkind":               {"internal/finding", "internal/reading", "internal/table", "internal/value"},
	"internal/nets":                  {},
	"internal/teach":                 {"internal/character", "internal/convert", "internal/expression", "internal/plan", "internal/reading", "internal/reason", "internal/step", "internal/table", "internal/value"},
	"internal/turn":                  {"internal/rowkind", "internal/table", "internal/value"},
	"internal/totals":                {"internal/order", "internal/table", "internal/value"},
	"internal/pattern":               {},
	"internal/reading/gen":           {"internal/reading"},
	"internal/value":                 {},
	"internal/character":             {},
	"internal/order":                 {"internal/table", "internal/table/wholefile", "internal/value"},
	"internal/table":                 {"internal/finding", "internal/value"},
	"internal/table/delim":           {"internal/finding", "internal/table", "internal/table/copytext", "internal/value"},
	"internal/table/jsonlines":       {"internal/table", "internal/table/records", "internal/value"},
	"internal/table/records":         {"internal/finding", "internal/table", "internal/value"},
	"internal/table/keyed":           {"internal/table", "internal/table/records"},
	"internal/table/xmlrecords":      {"internal/table", "internal/table/records", "internal/value"},
	"internal/table/page":            {"internal/finding", "internal/table", "internal/table/delim"},
	"internal/table/sqlite":          {"internal/table", "internal/table/wholefile", "internal/value"},
	"internal/table/postgres":        {"internal/table", "internal/table/copytext", "internal/value"},
	"internal/table/copytext":        {},
	"internal/table/dump":            {"internal/finding", "internal/table", "internal/table/copytext", "internal/table/records", "internal/value"},
	"internal/table/postgres/pgtest": {"internal/nets"},
	"internal/table/tabletest":       {"internal/table", "internal/value"},
	"internal/table/parquet":         {"internal/table", "internal/table/wholefile", "internal/value"},
	"internal/table/workbook":        {"internal/finding", "internal/table", "internal/value"},
	"internal/table/input":           {"internal/table", "internal/table/delim", "internal/table/dump", "internal/table/jsonlines", "internal/table/keyed", "internal/table/page", "internal/table/parquet", "internal/table/postgres", "internal/table/records", "internal/table/sqlite", "internal/table/wholefile", "internal/table/workbook", "internal/table/xmlrecords"},
	"internal/table/wholefile":       {},
	"scripts/dist":                   {"internal/cli"},
	"beam":                           {"beam/spread"},
	"beam/spread":                    {"internal/cli", "internal/profile", "internal/table", "internal/table/delim", "internal/table/input", "internal/table/postgres", "internal/table/wholefile"},
	"demo":                           {},
	"demo/make":                      {"demo"},
}

// Every package has a line in docs/architecture.md, and each path and each test that is named there exists.
func TestTheMapIsWrittenDown(t *testing.T) {
	doc, err := os.ReadFile("../docs/architecture.md")
	require.NoError(t, err)
	for pkg := range mayImport {
		assert.Contains(t, string(doc), "\n| `"+pkg+"` | ", "there is no line for the package")
	}
	tests := map[string]bool{}
	require.NoError(t, filepath.WalkDir("..", func(path string, d os.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, "_test.go") {
			return err
		}
		text, err := os.ReadFile(path)
		for _, name := range regexp.MustCompile(`(?m)^func ((?:Test|Fuzz)\w+)\(`).FindAllStringSubmatch(string(text), -1) {
			tests[name[1]] = true
		}
		return err
	}))
	for line := range strings.Lines(string(doc)) {
		in := "" // the folder of the files that follow
		for _, name := range regexp.MustCompile("`([^` ]+)`").FindAllStringSubmatch(line, -1) {
			name := name[1]
			switch {
			case strings.HasPrefix(name, "Test") || strings.HasPrefix(name, "Fuzz"):
				assert.True(t, tests[name], "there is no test %s: %s", name, line)
			case regexp.MustCompile(`^(internal|cmd|beam|demo|docs|scripts|bench|e2e)/`).MatchString(name):
				_, err := os.Stat("../" + name)
				assert.NoError(t, err, line)
				if in = name; filepath.Ext(name) != "" {
					in = filepath.Dir(name)
				}
			case in != "" && slices.Contains([]string{".go", ".html", ".css", ".js"}, filepath.Ext(name)):
				_, err := os.Stat("../" + in + "/" + name)
				assert.NoError(t, err, line)
			}
		}
	}
}

// interfaceOnly are the modules and names that belong to the interface: the core
// neither prints, nor reads flags or the environment, nor knows of colour.
var (
	interfaceModules = []string{"github.com/spf13/cobra", "github.com/spf13/pflag", "github.com/jedib0t/go-pretty", "golang.org/x/term", "flag", "log"}
	interfaceNames   = []string{"os.Stdout", "os.Stderr", "os.Stdin", "os.Args", "os.Getenv", "os.LookupEnv", "os.Exit", "fmt.Print", "fmt.Println", "fmt.Printf"}
	interfaces       = []string{"beam", "beam/spread", "scripts/dist", "cmd/junvo", "internal/cli", "internal/show", "demo/make", "internal/nets", "internal/reading/gen"}
)

func TestArrowsPointOneWay(t *testing.T) {
	seen := map[string]bool{}
	eachFile(t, func(pkg string, f *ast.File) {
		seen[pkg] = true
		allowed, known := mayImport[pkg]
		assert.True(t, known, "package %s is not on the map", pkg)
		for _, i := range f.Imports {
			path, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			if own, ok := strings.CutPrefix(path, "junvo/"); ok {
				assert.Contains(t, allowed, own, "%s must not import it", pkg)
			}
		}
	})
	for pkg := range mayImport {
		assert.True(t, seen[pkg], "package %s is on the map and not there", pkg)
	}
}

func TestCoreKnowsNothingOfTheInterface(t *testing.T) {
	eachFile(t, func(pkg string, f *ast.File) {
		if slices.Contains(interfaces, pkg) || strings.HasSuffix(pkg, "test") {
			return
		}
		for _, i := range f.Imports {
			for _, m := range interfaceModules {
				path := strings.Trim(i.Path.Value, `"`)
				assert.False(t, path == m || strings.HasPrefix(path, m+"/"), "%s imports %s", pkg, path)
			}
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if s, ok := n.(*ast.SelectorExpr); ok {
				if x, ok := s.X.(*ast.Ident); ok {
					assert.NotContains(t, interfaceNames, x.Name+"."+s.Sel.Name, "in %s", pkg)
				}
			}
			return true
		})
	})
}

// Every package says what it is for.
func TestPackagesAreDocumented(t *testing.T) {
	documented := map[string]bool{}
	eachFile(t, func(pkg string, f *ast.File) {
		documented[pkg] = documented[pkg] || f.Doc != nil
	})
	for pkg, ok := range documented {
		assert.True(t, ok, "package %s has no comment", pkg)
	}
}

// eachFile calls f for every file that is no test.
func eachFile(t *testing.T, f func(pkg string, file *ast.File)) {
	t.Helper()
	root := ".."
	err := filepath.WalkDir(root, func(path string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && d.Name() == "bench" {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ParseComments)
		if err != nil {
			return err
		}
		pkg, err := filepath.Rel(root, filepath.Dir(path))
		f(filepath.ToSlash(pkg), file)
		return err
	})
	require.NoError(t, err)
}
