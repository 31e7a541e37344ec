// Command mutate says whether the tests notice mistakes: it makes small changes to the code, one at a time and each
// in a copy of the module, and runs the tests. What they do not notice is a test that is missing.
//
//	go run ./internal/mutate                     30 changes in the packages that decide values
//	go run ./internal/mutate -seed 2 -n 10 internal/step
//
// A change is a bound that is off by one, a comparison or a condition that is turned round, an and for an or, a plus
// for a minus, or a case that is dropped. Changes that do not compile are left out; one that makes tests run without
// end is noticed.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"log"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
)

// change is a small change to a file: what stands in [from, to) becomes another text.
type change struct {
	file     string
	from, to int
	text     string
	say      string
}

func main() {
	log.SetFlags(0)
	n := flag.Int("n", 30, "how many changes to make")
	seed := flag.Uint64("seed", 1, "which changes: the same seed makes the same ones")
	flag.Parse()
	packages := flag.Args()
	if len(packages) == 0 {
		packages = []string{
			"internal/reading", "internal/convert", "internal/plan", "internal/table/delim",
			"internal/profile",
		}
	}
	r := rand.New(rand.NewPCG(*seed, 0))
	unnoticed := 0
	for i := 0; i < *n; i++ {
		all := changesIn(packages[i%len(packages)])
		c := all[r.IntN(len(all))]
		by, err := c.noticed()
		if errors.Is(err, errCompile) {
			i--
			continue
		}
		if err != nil {
			log.Fatal(err)
		}
		if by == "" {
			by = "NOT NOTICED"
			unnoticed++
		}
		fmt.Printf("%2d  %s: %s\n    %s\n", i+1, c.file, c.say, by)
	}
	fmt.Printf("%d of %d changes were noticed\n", *n-unnoticed, *n)
}

// changesIn lists the changes that can be made to the files of a package.
func changesIn(folder string) (all []change) {
	files, err := filepath.Glob(filepath.Join(folder, "*.go"))
	if err != nil || len(files) == 0 {
		log.Fatalf("there are no Go files in %s", folder)
	}
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") || strings.HasSuffix(file, "cldr.go") {
			continue
		}
		text, err := os.ReadFile(file)
		if err != nil {
			log.Fatal(err)
		}
		all = append(all, changesOf(file, text)...)
	}
	return all
}

// changesOf lists the changes that can be made to a file with this text.
func changesOf(file string, text []byte) (all []change) {
	set := token.NewFileSet()
	f, err := parser.ParseFile(set, file, text, 0)
	if err != nil {
		log.Fatal(err)
	}
	// add adds a change: what stands there becomes what become makes of it.
	add := func(from, to token.Pos, become func(old string) string, what string) {
		at, end := set.Position(from), set.Position(to).Offset
		changed := become(string(text[at.Offset:end]))
		all = append(all, change{file, at.Offset, end, changed, fmt.Sprintf("line %d: %s", at.Line, what)})
	}
	ast.Inspect(f, func(n ast.Node) bool {
		if g, ok := n.(*ast.GenDecl); ok && g.Tok == token.CONST {
			return false
		}
		changesAt(n, add)
		return true
	})
	return all
}

var otherOperators = map[token.Token]string{
	token.LSS: "<=", token.LEQ: "<", token.GTR: ">=", token.GEQ: ">", token.EQL: "!=", token.NEQ: "==",
	token.LAND: "||", token.LOR: "&&", token.ADD: "-", token.SUB: "+",
}

// changesAt lists the changes that can be made to a node.
func changesAt(n ast.Node, add func(from, to token.Pos, become func(old string) string, what string)) {
	always := func(text string) func(string) string { return func(string) string { return text } }
	switch n := n.(type) {
	case *ast.BinaryExpr:
		if other := otherOperators[n.Op]; other != "" {
			op := n.Op.String()
			add(n.OpPos, n.OpPos+token.Pos(len(op)), always(other), op+" becomes "+other)
		}
	case *ast.IfStmt:
		add(n.Cond.Pos(), n.Cond.End(), func(old string) string { return "!(" + old + ")" }, "the condition is turned round")
	case *ast.BasicLit:
		if v, err := strconv.Atoi(n.Value); n.Kind == token.INT && err == nil {
			add(n.Pos(), n.End(), always(strconv.Itoa(v+1)), fmt.Sprintf("%d becomes %d", v, v+1))
		}
	case *ast.CaseClause:
		if n.List != nil && len(n.Body) > 0 {
			add(n.Pos(), n.End(), always(""), "a case is dropped")
		}
	}
}

// apply changes a text.
func (c *change) apply(text []byte) []byte {
	return slices.Concat(text[:c.from], []byte(c.text), text[c.to:])
}

// noticed makes the change in a copy of the module and returns what notices it, "" for nothing.
func (c *change) noticed() (string, error) {
	dir, err := os.MkdirTemp("", "mutate-")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(dir)
	if err := os.CopyFS(dir, os.DirFS(".")); err != nil {
		return "", err
	}
	path := filepath.Join(dir, c.file)
	text, err := os.ReadFile(path)
	if err != nil {
		return "", err
	}
	if err := os.WriteFile(path, c.apply(text), 0o600); err != nil {
		return "", err
	}
	if !passes(dir, []string{"build", "./..."}) {
		return "", errCompile
	}
	own := "./" + filepath.ToSlash(filepath.Dir(c.file))
	for _, args := range [][]string{
		{"test", "-failfast", own}, {"test", "-failfast", "./internal/..."}, {"test", "-failfast", "./e2e"},
	} {
		if !passes(dir, args) {
			return "go " + strings.Join(args, " "), nil
		}
	}
	return "", nil
}

var errCompile = errors.New("the change does not compile")

// patience is how long the tests may take.
const patience = 15 * time.Minute

func passes(dir string, args []string) bool {
	ctx, cancel := context.WithTimeout(context.Background(), patience)
	defer cancel()
	cmd := exec.CommandContext(ctx, "go", args...)
	cmd.Dir = dir
	return cmd.Run() == nil
}
