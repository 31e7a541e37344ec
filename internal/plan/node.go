package plan

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/parser"

	"junvo/internal/step"
)

// Mistake is one thing that is wrong with a plan, and where.
type Mistake struct {
	Line, Column int // from 1
	Say          string
}

// Mistakes is all that is wrong with a plan, in the order of the file.
type Mistakes []Mistake

func (m Mistakes) Error() string {
	lines := make([]string, len(m))
	for i, one := range m {
		lines[i] = fmt.Sprintf("line %d, column %d: %s", one.Line, one.Column, one.Say)
	}
	return strings.Join(lines, "\n")
}

// node is a value of a plan's YAML, with where it stands.
type node struct {
	kind         kind
	text         string // of a scalar
	plain        bool   // a scalar without quotes
	line, column int
	keys         []*node // of a map, with their values in items
	items        []*node
	names        map[string]bool // of the keys
}

type kind uint8

const (
	empty kind = iota
	scalar
	list
	mapping
)

var kindNames = [...]string{"nothing", "a value", "a list", "a map"}

// loader collects the mistakes.
type loader struct {
	mistakes    Mistakes
	computed    []toCompute // expressions, which are compiled when all columns are known
	keep, drop  *node
	headingInto *node
	all         *node          // the columns
	aliases     map[string]int // see Plan.aliases
	orderBy     []*node
	shift       int                               // of the lines of a piece of a plan
	read        func(name string) ([]byte, error) // a file that the plan names; nil where it can name none
	lists       map[string]step.List
}

func (l *loader) fail(n *node, format string, args ...any) {
	l.mistakes = append(l.mistakes, Mistake{n.line, n.column, fmt.Sprintf(format, args...)})
}

// parse reads YAML: one document, of maps, lists and scalars.
func parse(text []byte) (*node, error) {
	text = bytes.TrimPrefix(text, []byte("\ufeff")) // the mark of some editors
	if m, ok := tooDeep(text); ok {
		return nil, Mistakes{m}
	}
	if all := pieces(string(text)); len(all) > 1 {
		if root, ok := joined(all); ok {
			return root, nil
		}
	}
	return parsePiece(piece{text: string(text)})
}

// parsePiece reads the YAML of a plan or of a piece of it.
func parsePiece(p piece) (*node, error) {
	file, err := parser.ParseBytes([]byte(p.text), 0)
	if err != nil {
		return nil, syntaxError(err, p)
	}
	l := &loader{shift: p.shift}
	root := &node{line: 1, column: 1}
	docs := 0
	for _, d := range file.Docs {
		if d.Body != nil {
			root = l.node(d.Body)
			docs++
		}
	}
	if docs > 1 {
		l.fail(root, "a plan is one document")
	}
	if len(l.mistakes) > 0 {
		return nil, l.mistakes
	}
	return root, nil
}

// Bounds of a plan, which the parser of YAML does not have: how deep its parts may stand in each
// other, and how long it may be.
const (
	maxNesting = 40
	MaxBytes   = 16 << 20 // of a plan
)

// tooDeep reports where parts of a plan stand too deep in each other: brackets and braces within
// others, lines indented further and further, dashes in a row. What stands in quotes counts, too; no
// plan that a person reads has so much of it.
func tooDeep(text []byte) (Mistake, bool) {
	if len(text) > MaxBytes {
		return Mistake{1, 1, fmt.Sprintf("the plan is longer than %d MB", MaxBytes>>20)}, true
	}
	depth, number := 0, 0
	var indents []int
	for line := range strings.Lines(string(text)) {
		number++
		body := strings.TrimLeft(line, " ")
		indent, dashes := len(line)-len(body), 0
		for strings.HasPrefix(body, "- ") || strings.HasPrefix(body, "? ") {
			body = strings.TrimLeft(body[2:], " ")
			dashes++
		}
		if trimmed := strings.TrimSpace(body); trimmed != "" && trimmed[0] != '#' && depth == 0 {
			for len(indents) > 0 && indents[len(indents)-1] >= indent {
				indents = indents[:len(indents)-1]
			}
			indents = append(indents, indent)
		}
		for i := range len(body) {
			switch body[i] {
			case '[', '{':
				depth++
			case ']', '}':
				depth = max(0, depth-1)
			}
			if depth+len(indents)+dashes > maxNesting {
				return Mistake{number, 1, fmt.Sprintf("parts of the plan stand in each other more than %d deep", maxNesting)}, true
			}
		}
	}
	return Mistake{}, false
}

func (l *loader) node(a ast.Node) *node {
	n := &node{line: 1, column: 1}
	if t := a.GetToken(); t != nil && t.Position != nil {
		n.line, n.column = t.Position.Line+l.shift, t.Position.Column
	}
	switch a := a.(type) {
	case *ast.NullNode:
	case *ast.StringNode:
		n.kind, n.text = scalar, a.Value
		n.plain = a.GetToken().Type.String() == "String"
	case *ast.LiteralNode:
		n.kind, n.text = scalar, a.Value.Value
	case *ast.MappingNode:
		n.kind = mapping
		for _, v := range a.Values {
			l.pair(n, v)
		}
		if len(n.keys) > 0 {
			n.line, n.column = n.keys[0].line, n.keys[0].column
		}
	case *ast.MappingValueNode:
		n.kind = mapping
		l.pair(n, a)
		n.line, n.column = n.keys[0].line, n.keys[0].column
	case *ast.AliasNode, *ast.AnchorNode, *ast.TagNode:
		l.fail(n, "anchors, aliases and tags of YAML have no place in a plan")
	case *ast.SequenceNode:
		n.kind = list
		for _, v := range a.Values {
			n.items = append(n.items, l.node(v))
		}
	case ast.ScalarNode:
		n.kind, n.text, n.plain = scalar, a.GetToken().Value, true
	default:
		l.fail(n, "anchors, aliases and tags of YAML have no place in a plan")
	}
	return n
}

func (l *loader) pair(n *node, v *ast.MappingValueNode) {
	key := l.node(v.Key)
	if key.kind != scalar {
		l.fail(key, "a key is a text")
		key = &node{kind: scalar, line: key.line, column: key.column}
	}
	if !n.add(key, l.node(v.Value)) {
		l.fail(key, "%q stands here twice", key.text)
	}
}

// add adds an entry to a map, and reports whether it has no other with that key.
func (n *node) add(key, item *node) bool {
	if n.names == nil {
		n.names = map[string]bool{}
	}
	first := !n.names[key.text]
	n.names[key.text] = true
	n.keys, n.items = append(n.keys, key), append(n.items, item)
	return first
}

// each calls the function of each key of a map; keys without one are mistakes, with
// the nearest known one.
func (l *loader) each(n *node, what string, known map[string]func(*node)) {
	if n.kind != mapping {
		if key, value, ok := strings.Cut(n.text, ":"); n.kind == scalar && ok && known[key] != nil {
			l.fail(n, "a space is missing after the colon: write %s: %s", key, value)
			return
		}
		l.fail(n, "%s is a map with keys, not %s", what, kindNames[n.kind])
		return
	}
	for i, k := range n.keys {
		if key, value, ok := strings.Cut(k.text, ":"); ok && known[key] != nil {
			l.fail(k, "a space is missing after the colon: write %s: %s", key, value)
			continue
		}
		if f, ok := known[k.text]; ok {
			f(n.items[i])
			continue
		}
		l.unknown(k, "key", k.text, keysOf(known))
	}
}

// text reads a scalar as text.
func (l *loader) text(n *node) string {
	if n.kind != scalar {
		l.fail(n, "a text is wanted here, not %s", kindNames[n.kind])
	}
	return n.text
}

func (l *loader) number(n *node) int {
	v, err := strconv.Atoi(n.text)
	if n.kind != scalar || err != nil || v < 1 {
		l.fail(n, "a whole number from 1 is wanted here")
	}
	return v
}

func (l *loader) flag(n *node) bool {
	if n.kind != scalar || n.text != "true" && n.text != "false" {
		l.fail(n, "true or false is wanted here")
	}
	return n.text == "true"
}

// texts reads a list of texts; one text is a list of it.
func (l *loader) texts(n *node) []string {
	if n.kind == scalar {
		return []string{n.text}
	}
	if n.kind != list {
		l.fail(n, "a list of texts is wanted here, not %s", kindNames[n.kind])
		return nil
	}
	out := []string{}
	for _, i := range n.items {
		out = append(out, l.text(i))
	}
	return out
}

// args returns a value as the arguments of a step.
func (n *node) args() step.Args {
	switch n.kind {
	case scalar:
		if n.plain {
			if n.text == "true" || n.text == "false" {
				return n.text == "true"
			}
			if v, err := strconv.Atoi(n.text); err == nil && strconv.Itoa(v) == n.text {
				return v
			}
		}
		return n.text
	case list:
		out := make([]step.Args, len(n.items))
		for i, v := range n.items {
			out[i] = v.args()
		}
		return out
	case mapping:
		out := map[string]step.Args{}
		for i, k := range n.keys {
			out[k.text] = n.items[i].args()
		}
		return out
	}
	return nil
}
