// Package expression computes with the typed values of a row, in the Common Expression
// Language (CEL), an open specification:
//
//	e, err := expression.Compile("price * net_weight", variables, nil)
//	out, err := e.Eval(func(i int) string { return canonical text of the ith variable })
//
// All numbers are exact decimals, literals too. Types are checked when an expression is
// compiled: a text compared with a number is an error with its position. Blank in, blank
// out: where a value that the expression needs is blank, so is the result.
package expression

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"cel.dev/cel-go/cel"
	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"junvo/internal/value"
)

// Variable is a column that an expression may use.
type Variable struct {
	Name string
	Type value.Type
}

// Expression is compiled. It may be used on many goroutines at once.
type Expression struct {
	Text string
	Type value.Type // of the result; Text for texts, Decimal for numbers
	Uses []string   // the columns of the output that it uses
	Raw  []string   // the columns of the source whose cells it uses as they came

	program cel.Program
	vars    []Variable // those of Uses
}

// Error is what is wrong with an expression, and where, both from 1.
type Error struct {
	Line, Column int
	Say          string
}

func (e *Error) Error() string { return e.Say }

// celTypes are the types of values by those of columns.
var celTypes = map[value.Type]*cel.Type{
	value.Text: cel.StringType, value.Code: cel.StringType, value.Integer: numberType, value.Decimal: numberType, value.Date: dateType,
	value.Timestamp: stampType, value.Time: clockType, value.Boolean: cel.BoolType,
}

// rawPrefix begins the names of the variables that stand for cells as they came.
const rawPrefix = "raw_cell_"

// Compile compiles an expression over columns. The error is an *Error.
func Compile(text string, columns []Variable) (*Expression, error) {
	e := &Expression{Text: text}
	o := append(options(), cel.ClearMacros(), cel.Function("decimal_literal", cel.Overload("decimal_literal_text", []*cel.Type{cel.StringType}, numberType,
		cel.UnaryBinding(func(v ref.Val) ref.Val { return asNumber([]ref.Val{v}) }))))
	for _, c := range columns {
		if name.MatchString(c.Name) {
			o = append(o, cel.Variable(c.Name, celTypes[c.Type]))
		}
	}
	for i := range maxRaw {
		o = append(o, cel.Variable(fmt.Sprint(rawPrefix, i), cel.StringType))
	}
	env, err := cel.NewEnv(o...)
	if err != nil {
		return nil, &Error{1, 1, err.Error()}
	}
	parsed, issues := env.Parse(text)
	if issues.Err() != nil {
		return nil, firstIssue(issues)
	}
	if err := e.rewrite(parsed.NativeRep(), columns); err != nil {
		return nil, err
	}
	checked, issues := env.Check(parsed)
	if issues.Err() != nil {
		return nil, firstIssue(issues)
	}
	e.Type = value.Text
	for t, c := range celTypes {
		if c == checked.OutputType() || c.IsExactType(checked.OutputType()) {
			e.Type = t
		}
	}
	switch e.Type {
	case value.Code:
		e.Type = value.Text
	case value.Integer:
		e.Type = value.Decimal
	}
	e.program, err = env.Program(checked, cel.EvalOptions(cel.OptOptimize))
	if err != nil {
		return nil, &Error{1, 1, err.Error()}
	}
	return e, nil
}

// name is what an expression can call a column.
var name = regexp.MustCompile(`^[_a-zA-Z][_a-zA-Z0-9]*$`)

// maxRaw is how many different cells of the source an expression may use as they came.
const maxRaw = 8

var literal = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?`)

// rewrite makes exact numbers of the literals, variables of raw cells, and notes which
// columns are used.
func (e *Expression) rewrite(a *celast.AST, columns []Variable) (err error) {
	fac := celast.NewExprFactory()
	fail := func(x celast.Expr, format string, args ...any) {
		if err == nil {
			at := a.SourceInfo().GetStartLocation(x.ID())
			err = &Error{at.Line(), at.Column() + 1, fmt.Sprintf(format, args...)}
		}
	}
	next := int64(1 << 20)
	lines := strings.Split(e.Text, "\n")
	celast.PostOrderVisit(a.Expr(), celast.NewExprVisitor(func(x celast.Expr) {
		switch x.Kind() {
		case celast.LiteralKind:
			switch x.AsLiteral().(type) {
			case types.Int, types.Double:
			default:
				return
			}
			at := a.SourceInfo().GetStartLocation(x.ID())
			digits := literal.FindString(string([]rune(lines[at.Line()-1])[at.Column():]))
			if digits == "" {
				fail(x, "a number is written as in 12 or 0.5")
				return
			}
			next++
			x.SetKindCase(fac.NewCall(x.ID(), "decimal_literal", fac.NewLiteral(next, types.String(digits))))
		case celast.IdentKind:
			i := slices.IndexFunc(columns, func(v Variable) bool { return v.Name == x.AsIdent() })
			if i >= 0 && !slices.Contains(e.Uses, x.AsIdent()) {
				e.Uses = append(e.Uses, x.AsIdent())
				e.vars = append(e.vars, columns[i])
			}
		case celast.CallKind:
			if x.AsCall().FunctionName() == "raw" {
				e.raw(fac, x, fail)
			}
		}
	}))
	return err
}

func (e *Expression) raw(fac celast.ExprFactory, x celast.Expr, fail func(celast.Expr, string, ...any)) {
	args := x.AsCall().Args()
	if len(args) != 1 || args[0].Kind() != celast.LiteralKind {
		fail(x, `raw takes the name of a column of the source in quotes, as in raw("Net weight")`)
		return
	}
	column := string(args[0].AsLiteral().(types.String))
	i := slices.Index(e.Raw, column)
	if i < 0 {
		if i = len(e.Raw); i == maxRaw {
			fail(x, "an expression can use %d cells as they came, and no more", maxRaw)
			return
		}
		e.Raw = append(e.Raw, column)
	}
	x.SetKindCase(fac.NewIdent(x.ID(), fmt.Sprint(rawPrefix, i)))
}

// kinds names the types of values in sentences.
var kinds = strings.NewReplacer("string", "text", "bool", "true or false", "decimal_literal", "number", "int", "number", "null_type", "null")

var noOverload = regexp.MustCompile(`found no matching overload for '([^']*)' applied to '\(([^']*)\)'`)

// firstIssue says what is wrong in the words of the columns.
func firstIssue(issues *cel.Issues) error {
	all := issues.Errors()
	if len(all) == 0 {
		return &Error{1, 1, issues.Err().Error()}
	}
	one := all[0]
	say := one.Message
	if m := noOverload.FindStringSubmatch(say); m != nil {
		what := strings.Trim(m[1], "_")
		say = fmt.Sprintf("%s does not go with (%s)", what, kinds.Replace(m[2]))
		if strings.Contains(m[2], "string") && strings.Contains(m[2], "number") {
			say += ": convert the column to a number, or say text(x) of the number"
		}
	} else if n, ok := strings.CutPrefix(say, "undeclared reference to '"); ok {
		unknown, _, _ := strings.Cut(n, "'")
		say = fmt.Sprintf("there is no column and no function %q", unknown)
	}
	return &Error{one.Location.Line(), one.Location.Column() + 1, say}
}

// ErrNoValue says why an expression has no value for a row.
var ErrNoValue = errors.New("no value")

// Eval computes the expression for a row. cell returns the value of a column of Uses in
// canonical text, raw the cell of a column of Raw; both are "" where they are blank. The
// result is in canonical text, "" for blank.
func (e *Expression) Eval(cell, raw func(i int) string) (string, error) {
	vars := make(map[string]any, len(e.vars)+len(e.Raw))
	blanks := false
	for i, v := range e.vars {
		val := valueOf(v.Type, cell(i))
		blanks = blanks || val == types.NullValue
		vars[v.Name] = val
	}
	for i := range e.Raw {
		vars[fmt.Sprint(rawPrefix, i)] = types.String(raw(i))
	}
	out, _, err := e.program.Eval(vars)
	switch {
	case err != nil && blanks, err == nil && out == types.NullValue:
		return "", nil
	case err != nil:
		return "", fmt.Errorf("%w: %s", ErrNoValue, err)
	}
	return textOf(out), nil
}

// valueOf makes a value of canonical text, null of none, and of text that is no value of
// the type, which a column that keeps what fails may hold.
func valueOf(t value.Type, text string) ref.Val {
	if text == "" {
		return types.NullValue
	}
	switch t {
	case value.Integer, value.Decimal:
		n, err := value.ParseNumber(text)
		if err != nil {
			return types.NullValue
		}
		return number{n.Rat()}
	case value.Date:
		if _, err := value.ParseDate(text); err != nil {
			return types.NullValue
		}
		return moment{text: text, t: dateType}
	case value.Time:
		return moment{text: text, t: clockType}
	case value.Timestamp:
		at, err := value.ParseMoment(text)
		if err != nil {
			return types.NullValue
		}
		return moment{text: text, t: stampType, at: at}
	case value.Boolean:
		if text != "true" && text != "false" {
			return types.NullValue
		}
		return types.Bool(text == "true")
	}
	return types.String(text)
}

func textOf(v ref.Val) string {
	switch v := v.(type) {
	case number:
		return v.text()
	case moment:
		return v.text
	case types.Bool:
		return fmt.Sprint(bool(v))
	case types.String:
		return string(v)
	}
	return fmt.Sprint(v.Value())
}
