package plan

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"github.com/goccy/go-yaml"

	"junvo/internal/table"
)

// syntaxError says where a text is no YAML, and what to write.
func syntaxError(err error, p piece) error {
	var e yaml.Error
	if !errors.As(err, &e) || e.GetToken() == nil {
		return Mistakes{{1, 1, "this is no YAML: " + err.Error()}}
	}
	at, say := e.GetToken().Position, e.GetMessage()
	m := Mistake{at.Line + p.shift, at.Column, "this is no YAML: " + say}
	switch {
	case strings.Contains(say, "could not find end character of"):
		m.Say = "the quote that begins here is not closed"
	case strings.Contains(say, "must be specified"):
		m.Say = "a comma or a closing } or ] is missing before this"
	case strings.HasPrefix(say, "mapping key ") && strings.Contains(say, "already defined at ["):
		name, rest, _ := strings.Cut(strings.TrimPrefix(say, "mapping key "), " already defined at [")
		first, _, _ := strings.Cut(rest, ":")
		if n, err := strconv.Atoi(first); err == nil {
			m.Say = fmt.Sprintf("the key %s is there twice, first in line %d", name, n+p.shift)
		}
	case strings.Contains(say, "unknown escape"):
		m.Say = `this is no YAML: in double quotes a backslash begins an escape: put the text into single quotes, as in '\d+'`
	case strings.Contains(say, "not allowed in this context"), strings.Contains(say,
		"could not find"), strings.Contains(say, "unexpected"):
		if line, column, wrong := indented(p.text); wrong != "" {
			m = Mistake{line + p.shift, column, wrong}
		} else if strings.Count(lineOf(p.text, at.Line), ": ") > 1 {
			m.Say += "; a text with a colon and a space in it stands in quotes"
		}
	case strings.Contains(say, "cannot start any token"), strings.Contains(say, "reserved character"):
		if line := lineOf(p.text, at.Line); strings.Contains(line, "\t") {
			m.Say = "a plan is indented by spaces, and this line has a tab"
		} else {
			m.Say += "; a text that begins with a sign stands in quotes"
		}
	}
	return Mistakes{m}
}

func lineOf(text string, n int) string {
	lines := strings.Split(text, "\n")
	if n < 1 || n > len(lines) {
		return ""
	}
	return lines[n-1]
}

// indented finds the first line of a text that is indented by a number of spaces that none above it asks for.
func indented(text string) (line, column int, wrong string) {
	open := []int{0}               // the indents of what is open
	hasValue, bare := false, false // what the line before has: a value; nothing but one behind a dash
	for number, l := range strings.Split(text, "\n") {
		body := strings.TrimLeft(l, " ")
		if body = strings.TrimRight(body, " \r"); body == "" || body[0] == '#' {
			continue
		}
		indent := len(l) - len(strings.TrimLeft(l, " "))
		last := open[len(open)-1]
		switch {
		case indent > last && hasValue:
			return number + 1, indent + 1, fmt.Sprintf("this line is indented further than the one above, which has its "+
				"value already: begin it with %d spaces, not %d", last, indent)
		case indent > last:
			open = append(open, indent)
		case bare && indent == last:
			return number + 1, indent + 1, "each entry of a list stands behind a dash of its own"
		}
		for len(open) > 1 && open[len(open)-1] > indent {
			open = open[:len(open)-1]
		}
		if top := open[len(open)-1]; top < indent {
			return number + 1, indent + 1, fmt.Sprintf("this line begins with %d spaces, and those that it could belong to "+
				"with %d or %d", indent, top, last)
		}
		bare = false
		for strings.HasPrefix(body, "- ") { // what stands behind the dash opens a place of its own
			rest := strings.TrimLeft(body[2:], " ")
			indent += len(body) - len(rest)
			body = rest
			open, bare = append(open, indent), true
		}
		key, value, _ := strings.Cut(body, ": ")
		value, _, _ = strings.Cut(value, " #")
		isKey := strings.HasSuffix(key, ":") || value != ""
		bare = bare && !isKey
		hasValue = !isKey || strings.TrimSpace(value) != "" && !strings.ContainsAny(value[:1], "[{|>\"'")
	}
	return 0, 0, ""
}

// meant are words that other programs have for the keys, types and arguments of plans.
var meant = map[string]string{
	"type": "to", "source": "from", "column": "from", "field": "from", "formula": "compute", "expression": "compute",
	"calculate": "compute", "separator": "with", "concat": "join", "concatenate": "join", "transform": "steps",
	"number": "decimal", "numeric": "decimal", "float": "decimal", "double": "decimal", "string": "text", "varchar": "text",
	"int": "integer", "bigint": "integer", "datetime": "timestamp", "bool": "boolean", "id": "code", "identifier": "code",
	"required": "not-blank", "enum": "one-of", "regex": "matches", "range": "between", "max-length": "longest",
	"thousands": "group-marks",
	"filter":    "keep", "where": "keep", "sort": "order-by", "sort-by": "order-by", "null": "blank", "empty": "blank",
	"error": "stop", "skip": "set-aside-row", "left": "take", "right": "take", "substring": "take", "extract": "take",
	"remove": "drop", "strip": "trim", "uppercase": "case", "lowercase": "case", "titlecase": "case", "default": "fill",
}

// unknown says that there is no such word, and which is meant.
func (l *loader) unknown(n *node, what, text string, known []string) {
	if near := Meant(text, known); near != "" {
		l.fail(n, "unknown %s %q; did you mean %q?", what, text, near)
		return
	}
	l.fail(n, "unknown %s %q; there are %s", what, text, strings.Join(known, ", "))
}

// Meant returns which of the words that there are is meant by one that there is not; "" for none.
func Meant(text string, known []string) string {
	if word, ok := meant[strings.ReplaceAll(strings.ToLower(text), "_", "-")]; ok {
		for _, k := range known {
			if k == word {
				return word
			}
		}
	}
	return table.Nearest(text, known)
}
