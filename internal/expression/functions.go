package expression

import (
	"slices"
	"strconv"
	"strings"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/decls"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"

	"junvo/internal/value"
)

// Function describes one function in the catalogue of functions.
type Function struct {
	Name    string
	Say     string
	Example string // an expression
	Gives   string // what it gives
	forms   []form
}

// form is one way to call a function.
type form struct {
	args   []*cel.Type
	gives  *cel.Type
	call   func(args []ref.Val) ref.Val
	blanks bool // it is called with blank arguments, too; others give blank then
}

// Short names for the catalogue.
var (
	textType  = cel.StringType
	truthType = cel.BoolType
)

// Functions is the catalogue of functions, beyond the operators of the language. Where an argument is blank, so is what
// they give, but for those that say otherwise. A function of a value is a method of it, too: year(x) is x.year().
var Functions = slices.Concat(generalFunctions, numberFunctions, momentFunctions, textFunctions)

var generalFunctions = []Function{
	{"blank", "Whether a value is blank.", `blank("")`, "true", []form{{
		[]*cel.Type{cel.DynType},
		truthType, isBlank,
		true,
	}}},
	{
		"firstOf", "The first of two to eight values of one type that is not blank.", `firstOf(piece("a", "/", 2), "x")`, "x",
		many(firstOf, numberType, textType, dateType, stampType, clockType, truthType),
	},
	{"text", "The value as text, as it is written to the output.", `text(1.50) + " kg"`, "1.5 kg", ofEach(asText)},
	{
		"number", "The number that a text is, written with a point and without group marks; or with the decimal mark that " +
			"is named, and group marks, units and what else a column of numbers may have.",
		`number("1.240,5", ",")`, "1240.5",
		[]form{of(numberType, asNumber, textType), of(numberType, itself, numberType), of(numberType, readAs(value.Decimal), textType, textType)},
	},
	{
		"date", "The day that a text is, written yyyy-MM-dd or in the order that is named (dmy, mdy or ymd); or the day of a " +
			"timestamp.",
		`date("4.3.2021", "dmy")`, "2021-03-04",
		[]form{of(dateType, asDate, textType), of(dateType, asDate, stampType), of(dateType, itself, dateType), of(dateType, readAs(value.Date), textType, textType)},
	},
	{"raw", "The cell of a column of the source as it came.", `raw("Net weight")`, "the cell", nil},
	{
		"stored", "How the source stores that cell: text, number, date, boolean, null or error.", `stored("Net weight")`,
		"text", nil,
	},
	{"failed", "Whether the cell of a column of the output has failed.", "failed(kg)", "false", nil},
	{
		previous, "The value of a column in the row before in the source; blank in the first row. Older plans call it before.",
		"previous(kg)", "11", nil,
	},
	{
		sumSoFar, "The sum of a column's numbers from the first row of the source to this one. Blank cells are skipped; " +
			"from a cell that has failed on, there is none, unless a column of failed(x) ? 0 : x is added up.",
		"sumSoFar(kg)", "40.5", nil,
	},
	{
		"lookup", "What stands in the place of a text in one of the plan's lists; blank where the list does not have it.",
		`lookup("ports", port)`, "Nordhaven", nil,
	},
	{
		"steps", "The text that steps make of a text, written as in a plan; several stand in brackets.",
		`steps("crate A-51", "[keep: digits, trim]")`, "51", nil,
	},
	{
		"joined", "One to eight values as text, with the first text between them; blank ones are skipped.",
		`joined(", ", "Quay 4", "", "Nordhaven")`, "Quay 4, Nordhaven", ofAny(textType, joined, textType),
	},
	{
		"blanks", "How many of one to eight values are blank; without a value, how many columns that are neither computed nor joined.",
		`blanks("", "x")`, "1", ofAny(numberType, blanks),
	},
	{
		"anyBlank", "Whether one of up to eight values is blank; without a value, whether a column is that is neither computed nor joined.",
		`anyBlank("", "x")`, "true", ofAny(truthType, func(args []ref.Val) ref.Val { return types.Bool(countBlanks(args) > 0) }),
	},
	{"row", "The number of the row in the source, from 1.", "row()", "1", nil},
}

// of makes the form of a function of values of these types.
func of(gives *cel.Type, call func([]ref.Val) ref.Val, args ...*cel.Type) form {
	return form{args, gives, call, false}
}

// mostValues is how many values a function of many can be given, unless they stand in a list.
const mostValues = 8

// many makes the forms of a function of several values of each of these types that skips those that are blank.
func many(call func([]ref.Val) ref.Val, each ...*cel.Type) (forms []form) {
	for _, t := range each {
		for n := 2; n <= mostValues; n++ {
			forms = append(forms, form{slices.Repeat([]*cel.Type{t}, n), t, call, true})
		}
	}
	return forms
}

// ofAny makes the forms of a function of values of any types behind others, and of a list of them, that gets blanks, too.
func ofAny(gives *cel.Type, call func([]ref.Val) ref.Val, first ...*cel.Type) (forms []form) {
	for n := 1; n <= mostValues; n++ {
		forms = append(forms, form{append(slices.Clone(first), slices.Repeat([]*cel.Type{cel.DynType}, n)...), gives, call, true})
	}
	return forms
}

// joined writes values one after the other, as text.
func joined(args []ref.Val) ref.Val {
	between := ""
	if s, ok := args[0].(types.String); ok {
		between = string(s)
	}
	var texts []string
	for _, v := range args[1:] {
		if v != types.NullValue && textOf(v) != "" {
			texts = append(texts, textOf(v))
		}
	}
	return textOrBlank(strings.Join(texts, between))
}

func blanks(args []ref.Val) ref.Val { return ofInt(countBlanks(args)) }

func countBlanks(args []ref.Val) (n int) {
	for _, v := range args {
		if v == types.NullValue || v == types.String("") {
			n++
		}
	}
	return n
}

// filled returns the values that are not blank.
func filled(args []ref.Val) []ref.Val {
	return slices.DeleteFunc(slices.Clone(args), func(v ref.Val) bool { return v == types.NullValue })
}

func firstOf(args []ref.Val) ref.Val {
	if some := filled(args); len(some) > 0 {
		return some[0]
	}
	return types.NullValue
}

// ofEach makes the forms of a function that gives a text of a value of any type of columns.
func ofEach(call func([]ref.Val) ref.Val) (forms []form) {
	for _, t := range []*cel.Type{numberType, textType, dateType, stampType, clockType, truthType} {
		forms = append(forms, of(textType, call, t))
	}
	return forms
}

// options declares the functions, and the operators for the types of values.
func options() (all []cel.EnvOption) {
	for _, f := range Functions {
		var overloads []cel.FunctionOpt
		for i, one := range f.forms {
			id := f.Name + "_" + strconv.Itoa(i)
			of := one.options()
			overloads = append(overloads, cel.Overload(id, one.args, one.gives, of...))
			if !standardMethods[f.Name] {
				overloads = append(overloads, cel.MemberOverload(id+"_of", one.args, one.gives, of...))
			}
		}
		if len(overloads) > 0 {
			all = append(all, cel.Function(f.Name, append(overloads, decls.DisableTypeGuards(true))...)) // see options
		}
	}
	for op, name := range map[string]string{
		operators.Add: "add", operators.Subtract: "subtract",
		operators.Multiply: "multiply", operators.Divide: "divide", operators.Modulo: "modulo",
	} {
		all = append(all, cel.Function(op, cel.Overload(name+"_numbers", []*cel.Type{numberType, numberType}, numberType)))
	}
	all = append(all, cel.Function(operators.Negate, cel.Overload("negate_number", []*cel.Type{numberType}, numberType)))
	for op, name := range map[string]string{
		operators.Less: "less", operators.LessEquals: "less_equals",
		operators.Greater: "greater", operators.GreaterEquals: "greater_equals",
	} {
		for _, t := range []*cel.Type{numberType, dateType, stampType, clockType} {
			all = append(all, cel.Function(op, cel.Overload(name+"_of_column_"+t.TypeName(), []*cel.Type{t, t}, cel.BoolType)))
		}
	}
	return all
}

// lookup declares the function that looks texts up in lists.
func lookup(lists map[string]map[string]string) cel.EnvOption {
	f := of(textType, func(args []ref.Val) ref.Val {
		return textOrBlank(lists[string(args[0].(types.String))][string(args[1].(types.String))])
	}, textType, textType)
	return cel.Function("lookup", cel.Overload("lookup_text", f.args, f.gives, f.options()...),
		decls.DisableTypeGuards(true))
}

// standardMethods are functions that are methods of texts in the language itself.
var standardMethods = map[string]bool{"contains": true, "matches": true}

// options binds the form to what it calls. The library would take a blank argument for one of a wrong type, and what an
// operator makes of blank is an error in it; so the form looks at its arguments itself.
func (f form) options() []cel.OverloadOpt {
	if f.blanks {
		return []cel.OverloadOpt{cel.OverloadIsNonStrict(), cel.FunctionBinding(f.withBlanks)}
	}
	return []cel.OverloadOpt{cel.FunctionBinding(f.unlessBlank)}
}

// isOf reports whether a value is of a type. A list is of the type of its items that are not blank; the library looks
// at the first one only.
func isOf(t *cel.Type, v ref.Val) bool {
	list, ok := v.(traits.Lister)
	if !ok || t.Kind() != types.ListKind {
		return t.IsAssignableRuntimeType(v)
	}
	for it := list.Iterator(); it.HasNext() == types.True; {
		if item := it.Next(); item != types.NullValue && !t.Parameters()[0].IsAssignableRuntimeType(item) {
			return false
		}
	}
	return true
}

func (f form) unlessBlank(args ...ref.Val) ref.Val {
	for i, a := range args {
		if a == types.NullValue {
			return types.NullValue
		}
		if !isOf(f.args[i], a) {
			return types.NewErr("a %s is no %s", a.Type().TypeName(), f.args[i].TypeName())
		}
	}
	return f.call(args)
}

func (f form) withBlanks(args ...ref.Val) ref.Val {
	args = slices.Clone(args)
	for i, a := range args {
		if err, ok := a.(*types.Err); ok {
			if !isOfBlank(err) {
				return err
			}
			args[i] = types.NullValue
		} else if a != types.NullValue && !isOf(f.args[i], a) {
			return types.NewErr("a %s is no %s", a.Type().TypeName(), f.args[i].TypeName())
		}
	}
	return f.call(args)
}

func isBlank(args []ref.Val) ref.Val {
	return types.Bool(args[0] == types.NullValue || args[0] == types.String(""))
}

func asText(args []ref.Val) ref.Val { return types.String(textOf(args[0])) }

func asNumber(args []ref.Val) ref.Val {
	s := string(args[0].(types.String))
	n, err := value.ParseNumber(s)
	if err != nil {
		return types.NewErr("%q is no number", s)
	}
	return number{r: n.Rat()}
}

func asDate(args []ref.Val) ref.Val {
	text := textOf(args[0])
	if m, ok := args[0].(moment); ok {
		text = m.text[:10]
	}
	d, err := value.ParseDate(text)
	if err != nil {
		return types.NewErr("%q is no day written yyyy-MM-dd", text)
	}
	return dateOf(d)
}
