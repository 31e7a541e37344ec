// Package expression computes with the typed values of a row, in the Common Expression
// Language (CEL), an open specification:
//
//	e, err := expression.Compile("price * net_weight", variables)
//	out, err := e.Eval(func(i int) string { return "12.50" }, nil) // the value of e.Uses[i], in canonical text
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
	"strconv"
	"strings"
	"sync"

	"cel.dev/cel-go/cel"
	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
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

	program  cel.Program
	short    *short     // nil where the library computes every row
	vars     []Variable // those of Uses
	times    []int      // how often each of them stands in the expression
	rawTimes []int      // and each of Raw
}

// Error is what is wrong with an expression, and where, both from 1.
type Error struct {
	Line, Column int
	Say          string
}

func (e *Error) Error() string { return e.Say }

// celTypes are the types of values by those of columns.
var celTypes = map[value.Type]*cel.Type{
	value.Text: cel.StringType, value.Code: cel.StringType, value.Integer: numberType, value.Decimal: numberType,
	value.Date:      dateType,
	value.Timestamp: stampType, value.Time: clockType, value.Boolean: cel.BoolType,
}

// rawPrefix begins the names of the variables that stand for cells as they came.
const rawPrefix = "raw_cell_"

// Compile compiles an expression over columns. The error is an *Error.
func Compile(text string, columns []Variable) (*Expression, error) {
	e := &Expression{Text: text}
	if err := noComment(text); err != nil {
		return nil, err
	}
	base, err := language()
	if err != nil {
		return nil, &Error{1, 1, err.Error()}
	}
	parsed, issues := base.Parse(text)
	if issues.Err() != nil {
		return nil, firstIssue(issues)
	}
	if err := e.rewrite(parsed.NativeRep(), columns); err != nil {
		return nil, err
	}
	// Only the columns that it uses are declared, so that a plan of many expressions takes no longer
	// for each of them.
	var used []cel.EnvOption
	for _, c := range e.vars {
		if name.MatchString(c.Name) {
			used = append(used, cel.Variable(c.Name, celTypes[c.Type]))
		}
	}
	env, err := base.Extend(used...)
	if err != nil {
		return nil, &Error{1, 1, err.Error()}
	}
	checked, issues := env.Check(parsed)
	if issues.Err() != nil {
		return nil, firstIssue(issues)
	}
	if e.Type, err = resultType(checked.OutputType()); err != nil {
		return nil, err
	}
	e.program, err = env.Program(checked, cel.EvalOptions(cel.OptOptimize))
	if err != nil {
		return nil, &Error{1, 1, err.Error()}
	}
	e.short = e.shorten(checked)
	return e, nil
}

// Names lists the names that an expression uses, those of columns among them; none where it can't be read.
func Names(text string) (names []string) {
	base, err := language()
	if err != nil {
		return nil
	}
	parsed, issues := base.Parse(text)
	if issues.Err() != nil {
		return nil
	}
	celast.PostOrderVisit(parsed.NativeRep().Expr(), celast.NewExprVisitor(func(x celast.Expr) {
		if x.Kind() == celast.IdentKind {
			names = append(names, x.AsIdent())
		}
	}))
	return names
}

// language is the language of expressions before there are columns.
var language = sync.OnceValues(func() (*cel.Env, error) {
	o := append(options(), cel.ClearMacros(), cel.Function("decimal_literal",
		cel.Overload("decimal_literal_text", []*cel.Type{cel.StringType}, numberType,
			cel.UnaryBinding(func(v ref.Val) ref.Val { return asNumber([]ref.Val{v}) }))),
		cel.Function(exactNumber, exactFrom("int", cel.IntType), exactFrom("uint", cel.UintType),
			exactFrom("double", cel.DoubleType)))
	for i := range maxRaw {
		o = append(o, cel.Variable(fmt.Sprint(rawPrefix, i), cel.StringType))
	}
	return cel.NewEnv(o...)
})

func exactFrom(id string, t *cel.Type) cel.FunctionOpt {
	return cel.Overload(exactNumber+"_"+id, []*cel.Type{t}, numberType, cel.UnaryBinding(exactOf))
}

// name is what an expression can call a column.
var name = regexp.MustCompile(`^[_a-zA-Z][_a-zA-Z0-9]*$`)

// CanName reports whether an expression can call a column by a name as it is.
func CanName(text string) bool { return name.MatchString(text) }

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
			if i := slices.Index(e.Uses, x.AsIdent()); i >= 0 {
				e.times[i]++
			} else if i := slices.IndexFunc(columns, func(v Variable) bool { return v.Name == x.AsIdent() }); i >= 0 {
				e.Uses = append(e.Uses, x.AsIdent())
				e.vars = append(e.vars, columns[i])
				e.times = append(e.times, 1)
			}
		case celast.CallKind:
			switch call := x.AsCall(); call.FunctionName() {
			case "raw":
				e.raw(fac, x, fail)
			case operators.Conditional:
				args := call.Args()
				if isNull(args[1]) && !isNull(args[2]) { // the type of the whole is that of the first
					next++
					x.SetKindCase(fac.NewCall(x.ID(), operators.Conditional, fac.NewCall(next, operators.LogicalNot, args[0]),
						args[2], args[1]))
				}
			case "size", "int", "uint", "double": // these give numbers of the language, and not exact ones
				next++
				inner := fac.NewCall(next, call.FunctionName(), call.Args()...)
				if call.IsMemberFunction() {
					inner = fac.NewMemberCall(next, call.FunctionName(), call.Target(), call.Args()...)
				}
				x.SetKindCase(fac.NewCall(x.ID(), exactNumber, inner))
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
		e.rawTimes = append(e.rawTimes, 0)
	}
	e.rawTimes[i]++
	x.SetKindCase(fac.NewIdent(x.ID(), fmt.Sprint(rawPrefix, i)))
}

func isNull(x celast.Expr) bool {
	return x.Kind() == celast.LiteralKind && x.AsLiteral() == types.NullValue
}

// exactNumber is the function that makes exact numbers of those of the language.
const exactNumber = "exact_number"

// exactOf makes an exact number of a number of the language.
func exactOf(v ref.Val) ref.Val {
	n, err := value.ParseNumber(plainNumber(v))
	if err != nil {
		return types.NewErr("%v is no number", v.Value())
	}
	return number{r: n.Rat()}
}

// plainNumber writes a number of the language in plain digits; a binary one as the shortest
// decimal that stands for it.
func plainNumber(v ref.Val) string {
	if f, ok := v.(types.Double); ok {
		return strconv.FormatFloat(float64(f), 'f', -1, 64)
	}
	return fmt.Sprint(v.Value())
}

// noComment returns an error where an expression has the start of a comment outside its texts:
// what follows would be cut off, and whoever writes it means another thing.
func noComment(text string) error {
	quote := byte(0)
	line, column := 1, 1
	for i := 0; i < len(text); i++ {
		switch b := text[i]; {
		case b == '\n':
			line, column = line+1, 0
		case quote != 0 && b == '\\':
			i++
			column++
		case quote != 0:
			if b == quote {
				quote = 0
			}
		case b == '"' || b == '\'':
			quote = b
		case b == '/' && i+1 < len(text) && text[i+1] == '/':
			return &Error{line, column, "// would cut the rest of the expression off: one / divides, and round(x / y, 0) gives a whole number"}
		}
		column++
	}
	return nil
}

// resultType returns the type of columns that an expression's result has.
func resultType(out *cel.Type) (value.Type, error) {
	for _, t := range []value.Type{value.Text, value.Decimal, value.Date, value.Timestamp, value.Time, value.Boolean} {
		if c := celTypes[t]; c == out || c.IsExactType(out) {
			return t, nil
		}
	}
	what := kinds.Replace(out.String())
	if out.Kind() == types.DynKind {
		what = "value of no one type"
	}
	return 0, &Error{1, 1, fmt.Sprintf("the expression gives a %s, and a column holds numbers, texts, dates, times, timestamps, or true and false: say what it is, as in text(x) or number(x)", what)}
}

// kinds names the types of values in sentences.
var kinds = strings.NewReplacer("string", "text", "bool", "true or false", "decimal_literal", "number", "uint",
	"number", "int", "number", "double", "number", "null_type", "null")

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

// maxTexts bounds the bytes of all texts that an expression works on for a row. As it can't repeat
// anything, that bounds its time and its memory, too.
const maxTexts = 4 << 20

// ErrNoValue says why an expression has no value for a row.
var ErrNoValue = errors.New("no value")

// Eval computes the expression for a row. cell returns the value of a column of Uses in
// canonical text, raw the cell of a column of Raw; both are "" where they are blank. The
// result is in canonical text, "" for blank.
func (e *Expression) Eval(cell, raw func(i int) string) (string, error) {
	if e.short != nil {
		if out, ok := e.short.eval(len(e.vars), cell); ok {
			return out, nil
		}
	}
	vars := make(map[string]any, len(e.vars)+len(e.Raw))
	blanks := false
	texts := 0
	for i, v := range e.vars {
		text := cell(i)
		texts += len(text) * e.times[i]
		val := valueOf(v.Type, text)
		blanks = blanks || val == types.NullValue
		vars[v.Name] = val
	}
	for i := range e.Raw {
		text := raw(i)
		texts += len(text) * e.rawTimes[i]
		vars[fmt.Sprint(rawPrefix, i)] = types.String(text)
	}
	if texts > maxTexts {
		return "", fmt.Errorf("%w: its texts are longer than %d MB together", ErrNoValue, maxTexts>>20)
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
		return number{r: n.Rat(), as: text}
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
	return plainNumber(v) // nothing else passes resultType
}
