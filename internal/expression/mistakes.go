package expression

import (
	"fmt"
	"regexp"
	"strings"

	"cel.dev/cel-go/cel"

	"junvo/internal/pattern"
	"junvo/internal/table"
)

// mistakes says what is wrong with an expression in the words of whoever wrote it, and what to write in its place.
type mistakes struct {
	*source
	columns []Variable
	Means
}

// kinds names the types of values in sentences.
var kinds = strings.NewReplacer("string", "text", "bool", "true or false", "decimal_literal", "number", "uint",
	"number", "int", "number", "double", "number", "null_type", "null")

var noOverload = regexp.MustCompile(`found no matching overload for '([^']*)' applied to '(?:[^'(]*\.)?\(([^']*)\)'`)

// first says what is wrong with an expression that the library does not take.
func (m *mistakes) first(issues *cel.Issues) error {
	all := issues.Errors()
	if len(all) == 0 {
		return &Error{1, 1, issues.Err().Error()}
	}
	one := all[0]
	say := one.Message
	switch found := noOverload.FindStringSubmatch(say); {
	case found != nil:
		say = mismatch(strings.Trim(found[1], "_"), kinds.Replace(found[2]))
		if hint := m.quotedNumberIn(); hint != "" && strings.Contains(say, "text") && strings.Contains(say, "number") {
			say, _, _ = strings.Cut(say, ": ")
			say += hint
		}
	case strings.HasPrefix(say, "undeclared reference to '"):
		unknown, _, _ := strings.Cut(strings.TrimPrefix(say, "undeclared reference to '"), "'")
		say = m.unknown(m.name(unknown))
	case strings.Contains(say, "Syntax error"):
		say = m.syntax(say)
	case strings.HasPrefix(say, "expected type 'bool' but found '"):
		say = "&&, || and ! are for conditions, and this is a " + kinds.Replace(strings.Trim(strings.TrimPrefix(say, "expected type 'bool' but found "), "'")) +
			`: write x == 1 or blank(x) for a condition, and + or joined("", x, y) to put texts together`
	default:
		say = pattern.Explained(m.said(say))
	}
	line, column := m.place(one.Location.Line(), one.Location.Column()+1)
	return &Error{line, column, say}
}

// mismatch says that a function or an operator does not go with types.
func mismatch(what, args string) string {
	if what == stepsCall {
		return "steps takes a text: say text(x) of another value"
	}
	say := fmt.Sprintf("%s does not go with (%s)", what, args)
	if oneForAll[what] && !strings.Contains(args, ",") {
		return say + ": it takes several values of one row; over all rows, `junvo totals` has it"
	}
	for _, f := range Functions {
		if f.Name == what {
			return say + ": it is used as in " + f.Example
		}
	}
	if what == "?_:" {
		if condition, _, _ := strings.Cut(args, ", "); condition != "true or false" {
			return "what stands before ? is true or false, as in x > 40 ? 1 : 2, and this is a " + condition
		}
		return "the two values of ? : are of one type, and these are not: (" + args[len("true or false, "):] + ")"
	}
	has := func(t string) bool { return strings.Contains(args, t) }
	switch {
	case has("text") && has("number"):
		return say + ": convert the column to a number, or say text(x) of the number"
	case has("text") && has("date"):
		return say + `: convert the column to a date, or write a day as date("2021-03-04")`
	case has("text") && has("timestamp"):
		return say + `: a timestamp is written moment("2021-03-04T06:05:00"), and its day is date(x)`
	case has("date") && has("timestamp"):
		return say + ": the day of a timestamp is date(x)"
	case has("date") && has("number"):
		return say + ": days later are plusDays(x, 3), days between two dates daysBetween(x, y)"
	case what == "-" && args == "date, date":
		return say + ": days between two dates are daysBetween(x, y)"
	case what == "-" && args == "timestamp, timestamp":
		return say + ": hours between two timestamps are hoursBetween(x, y)"
	}
	return say
}

// oneForAll are functions of several values that people give one column.
var oneForAll = map[string]bool{"sum": true, "mean": true, "min": true, "max": true}

// unknown says that there is no such name, and which is near.
func (m *mistakes) unknown(word string) string {
	var names []string
	for _, c := range m.columns {
		names = append(names, c.Name)
	}
	say := fmt.Sprintf("there is no column and no function %q", word)
	if near := table.Typo(word, names); near != "" {
		return say + "; did you mean the column " + InWriting(near) + "?"
	}
	if advice := insteadOf(word); advice != "" {
		return say + advice
	}
	if near := table.Nearest(word, names); near != "" {
		return say + "; did you mean the column " + InWriting(near) + "?"
	}
	var functions []string
	for _, f := range Functions {
		functions = append(functions, f.Name)
	}
	if near := table.Nearest(word, functions); near != "" {
		return say + "; did you mean the function " + near + "?"
	}
	if m.calls(word) {
		return say + "; `junvo help functions` lists the functions"
	}
	say += fmt.Sprintf("; a text stands in quotes, as in %q", word)
	if len(names) == 0 || len(names) > 12 {
		return say
	}
	for i, n := range names {
		names[i] = InWriting(n)
	}
	return say + "; the columns are " + strings.Join(names, ", ")
}

// calls reports whether the expression calls a function of a name.
func (m *mistakes) calls(word string) bool {
	return regexp.MustCompile(`\b` + regexp.QuoteMeta(word) + `\s*\(`).MatchString(m.text)
}

var unexpected = regexp.MustCompile(`(?:mismatched|extraneous) input '(.*?)' expecting`)

// syntax says what is wrong where the language can't read on.
func (m *mistakes) syntax(say string) string {
	found := unexpected.FindStringSubmatch(say)
	at := ""
	if found != nil {
		at = m.said(found[1])
	}
	if instead := m.misread(say, at); instead != "" {
		return instead
	}
	switch {
	case strings.Contains(say, "expecting ':'") || strings.Contains(say, "'?'") && strings.Contains(say, "extraneous"):
		return "the : is missing that goes with ?, as in CONDITION ? VALUE : OTHERWISE; null gives a blank"
	case strings.Contains(m.text, `\`) && (strings.Contains(say, "token recognition error at: '\"") ||
		strings.Contains(say, "token recognition error at: ''")):
		return `a backslash begins an escape in a text: write r"\d+" or "\\d+" for \d+`
	case strings.Contains(say, "token recognition error at: '\"") || strings.Contains(say, "token recognition error "+
		"at: ''"):
		return "the quote that ends a text is missing"
	case strings.Contains(say, "missing ')'"):
		return "a closing ) is missing"
	case strings.Contains(say, "'<EOF>'"):
		return "the expression ends before it is complete"
	case found != nil:
		what := m.said(found[1])
		for _, c := range m.columns {
			if strings.Contains(c.Name, " ") && strings.Contains(m.said(m.text), c.Name) {
				return fmt.Sprintf("%q can't stand here: a name with spaces or signs stands in backquotes, as in %s", what,
					InWriting(c.Name))
			}
		}
		return fmt.Sprintf("%q can't stand here: an operator such as + or && is missing before it", what)
	}
	return m.said(say)
}
