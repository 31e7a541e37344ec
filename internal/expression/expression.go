// Package expression computes with the typed values of a row, in the Common Expression
// Language (CEL), an open specification:
//
//	e, err := expression.Compile("price * net_weight", variables)
//	out, err := e.Eval(row) // of which it asks the value of e.Uses[i], in canonical text
//
// All numbers are exact decimals, literals too. Types are checked when an expression is
// compiled: a text compared with a number is an error with its position. Blank in, blank
// out: where a value that the expression needs is blank, so is the result.
package expression

import (
	"errors"
	"fmt"
	"strings"
	"sync"

	"cel.dev/cel-go/cel"
	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"junvo/internal/pattern"
	"junvo/internal/step"
	"junvo/internal/value"
)

// Variable is a column that an expression may use.
type Variable struct {
	Name string
	Type value.Type
	Made bool // of other columns, or another name of one
}

// Means are what an expression may use beside columns.
type Means struct {
	Lists map[string]map[string]string // texts can be looked up in them
	// ParseSteps reads the steps that a text may be taken through; nil where there are none.
	ParseSteps func(text string) (step.Chain, error)
}

// Expression is compiled. It may be used on many goroutines at once.
type Expression struct {
	Text string
	Type value.Type // of the result; Text for texts, Decimal for numbers
	Uses []string   // the columns of the output that it uses
	Raw  []string   // the columns of the source whose cells it uses as they came
	// Earlier is what it asks of the rows before.
	Earlier []Earlier

	program  cel.Program
	short    *short     // nil where the library computes every row
	vars     []Variable // those of Uses, by the names that the language knows
	times    []int      // how often each of them stands in the expression
	rawTimes []int      // and each of Raw
	asks     asks
	chains   []step.Chain // of the calls of steps
}

// Earlier is what an expression asks of the rows before a row.
type Earlier struct {
	Use int  // the column's place in Uses
	Sum bool // the sum of its values up to this row; else its value in the row before
}

// Function is the name of the function that asks for it.
func (a Earlier) Function() string {
	if a.Sum {
		return sumSoFar
	}
	return previous
}

// UsesValue reports whether the expression uses the value in the row itself of the column Uses[i].
func (e *Expression) UsesValue(i int) bool { return e.times[i] > 0 }

// asks is what an expression asks of a row beside the values of columns.
type asks struct {
	stored bool // how the source stores a cell of Raw
	failed bool // whether a cell of Uses has failed
	number bool // which row it is
	list   bool // and of a list what stands in the place of a text
}

// AsksFailed reports whether the expression asks which cells have failed.
func (e *Expression) AsksFailed() bool { return e.asks.failed }

// AsksNumber reports whether the expression asks for the numbers of rows.
func (e *Expression) AsksNumber() bool { return e.asks.number }

// Row is what an expression computes with.
type Row interface {
	Cell(i int) string   // the value of the column Uses[i] in canonical text, "" for blank
	Failed(i int) bool   // whether that cell has failed
	Raw(i int) string    // the cell of the column Raw[i] of the source as it came
	Stored(i int) string // how the source stores it
	Number() int64       // of the row in the source, from 1
	// Earlier gives what Earlier[i] asks for in canonical text, "" for blank, and why there is none.
	Earlier(i int) (text, why string)
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

// The names of variables that stand for what an expression asks of a row beside the values of columns.
const (
	rawPrefix    = "raw_cell_"    // with a number: the cell of the source as it came
	storedPrefix = "stored_cell_" // with a number: how the source stores it
	failedPrefix = "failed_cell_" // with a number: whether the cell of the output has failed
	rowNumber    = "row_number"

	previous      = "previous"
	before        = "before" // its older name
	sumSoFar      = "sumSoFar"
	earlierPrefix = "earlier_cell_" // with a number: what Earlier of that number asks for
)

// Compile compiles an expression over columns. The error is an *Error.
func Compile(text string, columns []Variable, means Means) (*Expression, error) {
	e := &Expression{Text: text}
	src, err := scan(text)
	if err != nil {
		return nil, err
	}
	base, err := theLanguage()
	if err != nil {
		return nil, &Error{1, 1, err.Error()}
	}
	m := &mistakes{source: src, columns: columns, Means: means}
	parsed, issues := base.Parse(src.text)
	if issues.Err() != nil {
		return nil, m.first(issues)
	}
	if err := e.rewrite(parsed.NativeRep(), m); err != nil {
		return nil, err
	}
	// Only the columns that it uses are declared, so that a plan of many expressions takes no longer
	// for each of them.
	var used []cel.EnvOption
	for _, c := range e.vars {
		used = append(used, cel.Variable(c.Name, celTypes[c.Type]))
	}
	for i, a := range e.Earlier {
		used = append(used, cel.Variable(fmt.Sprint(earlierPrefix, i), celTypes[e.vars[a.Use].Type]))
	}
	if e.asks.list {
		used = append(used, lookup(means.Lists))
	}
	if e.chains != nil {
		used = append(used, stepsOf(e.chains))
	}
	env, err := base.Extend(used...)
	if err != nil {
		return nil, &Error{1, 1, err.Error()}
	}
	checked, issues := env.Check(parsed)
	if issues.Err() != nil {
		return nil, m.first(issues)
	}
	if e.Type, err = resultType(checked.OutputType()); err != nil {
		return nil, err
	}
	if err := m.itemsOf(checked.NativeRep()); err != nil {
		return nil, err
	}
	if err := constants(env, checked, m); err != nil {
		return nil, err
	}
	e.program, err = env.Program(checked, cel.EvalOptions(cel.OptOptimize), cel.OptimizeRegex(foundOnce))
	if err != nil {
		return nil, &Error{1, 1, pattern.Explained(err.Error())}
	}
	e.short = e.shorten(checked)
	return e, nil
}

// Names lists the names that an expression uses, those of columns among them, and says whether it asks something of all columns of
// the source without naming them; none where it can't be read.
func Names(text string) (names []string, all bool) {
	base, err := theLanguage()
	if err != nil {
		return nil, false
	}
	src, err := scan(text)
	if err != nil {
		return nil, false
	}
	parsed, issues := base.Parse(src.text)
	if issues.Err() != nil {
		return nil, false
	}
	celast.PostOrderVisit(parsed.NativeRep().Expr(), celast.NewExprVisitor(func(x celast.Expr) {
		switch x.Kind() {
		case celast.IdentKind:
			names = append(names, src.name(x.AsIdent()))
		case celast.CallKind:
			call := x.AsCall()
			all = all || len(call.Args()) == 0 && !call.IsMemberFunction() && ofAllColumns[call.FunctionName()]
		}
	}))
	return names, all
}

// ofAllColumns are the functions that ask all columns of the source where they are given none.
var ofAllColumns = map[string]bool{"blanks": true, "anyBlank": true}

// theLanguage is the language of expressions before there are columns.
var theLanguage = sync.OnceValues(newLanguage)

func newLanguage() (*cel.Env, error) {
	o := append(options(), cel.ClearMacros(), cel.Function("decimal_literal",
		cel.Overload("decimal_literal_text", []*cel.Type{cel.StringType}, numberType,
			cel.UnaryBinding(func(v ref.Val) ref.Val { return asNumber([]ref.Val{v}) }))),
		cel.Function(blankOf, cel.Overload("blank_of_any", []*cel.Type{cel.TypeParamType("T")}, cel.TypeParamType("T"),
			cel.OverloadIsNonStrict(), cel.UnaryBinding(func(ref.Val) ref.Val { return types.NullValue }))),
		cel.Function(orBlank, cel.Overload("or_blank_any", []*cel.Type{cel.TypeParamType("T")}, cel.TypeParamType("T"),
			cel.OverloadIsNonStrict(), cel.UnaryBinding(func(v ref.Val) ref.Val {
				if err, ok := v.(*types.Err); ok && isOfBlank(err) {
					return types.NullValue
				}
				return v
			}))),
		cel.Function(exactNumber, exactFrom("int", cel.IntType), exactFrom("uint", cel.UintType),
			exactFrom("double", cel.DoubleType)))
	for i := range maxAsked {
		o = append(o, cel.Variable(fmt.Sprint(rawPrefix, i), cel.StringType),
			cel.Variable(fmt.Sprint(storedPrefix, i), cel.StringType), cel.Variable(fmt.Sprint(failedPrefix, i), cel.BoolType))
	}
	o = append(o, cel.Variable(rowNumber, numberType))
	return cel.NewEnv(o...)
}

func exactFrom(id string, t *cel.Type) cel.FunctionOpt {
	return cel.Overload(exactNumber+"_"+id, []*cel.Type{t}, numberType, cel.UnaryBinding(exactOf))
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
	return 0, &Error{1, 1, fmt.Sprintf("the expression gives a %s, and a column holds numbers, texts, dates, times, "+
		"timestamps, or true and false: say what it is, as in text(x) or number(x)", what)}
}

// maxTexts bounds the bytes of all texts that an expression works on for a row. As it can't repeat
// anything, that bounds its time and its memory, too.
const maxTexts = 4 << 20

// ErrNoValue says why an expression has no value for a row.
var ErrNoValue = errors.New("no value")

// Eval computes the expression for a row. The result is in canonical text, "" for blank.
func (e *Expression) Eval(row Row) (string, error) {
	if e.short != nil {
		if out, ok := e.short.eval(len(e.vars), row); ok {
			return out, nil
		}
	}
	vars := make(map[string]any, len(e.vars)+len(e.Raw))
	texts := 0
	for i, v := range e.vars {
		if e.UsesValue(i) {
			text := row.Cell(i)
			texts += len(text) * e.times[i]
			val := valueOf(v.Type, text)
			vars[v.Name] = val
		}
		if e.asks.failed && i < maxAsked {
			vars[fmt.Sprint(failedPrefix, i)] = types.Bool(row.Failed(i))
		}
	}
	for i, a := range e.Earlier {
		text, why := row.Earlier(i)
		if why != "" {
			return "", fmt.Errorf("%w: %s", ErrNoValue, why)
		}
		texts += len(text)
		val := valueOf(e.vars[a.Use].Type, text)
		vars[fmt.Sprint(earlierPrefix, i)] = val
	}
	for i := range e.Raw {
		text := row.Raw(i)
		texts += len(text) * e.rawTimes[i]
		vars[fmt.Sprint(rawPrefix, i)] = types.String(text)
		if e.asks.stored {
			vars[fmt.Sprint(storedPrefix, i)] = types.String(row.Stored(i))
		}
	}
	if e.asks.number {
		vars[rowNumber] = ofInt(int(row.Number()))
	}
	if texts > maxTexts {
		return "", fmt.Errorf("%w: its texts are longer than %d MB together", ErrNoValue, maxTexts>>20)
	}
	out, _, err := e.program.Eval(vars)
	switch {
	case err != nil && isOfBlank(err), err == nil && out == types.NullValue:
		return "", nil
	case err != nil:
		return "", fmt.Errorf("%w: %s", ErrNoValue, err)
	}
	return textOf(out), nil
}

// isOfBlank reports whether an error is that of an operator with a value of a type that it does not have: all types
// have been checked, so that it is blank.
func isOfBlank(err error) bool { return strings.Contains(err.Error(), "no such overload") }

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
