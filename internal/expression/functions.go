package expression

import (
	"math/big"
	"strings"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"junvo/internal/character"
	"junvo/internal/reading"
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
	args  []*cel.Type
	gives *cel.Type
	call  func(args []ref.Val) ref.Val
}

// Functions is the catalogue of functions, beyond the operators of the language. Where an
// argument is blank, so is what they give, except for blank.
var Functions = []Function{
	{"blank", "Whether a value is blank.", `blank("")`, "true", []form{{[]*cel.Type{cel.DynType}, cel.BoolType, isBlank}}},
	{"text", "The value as text, as it is written to the output.", `text(1.50) + " kg"`, "1.5 kg", ofEach(asText)},
	{
		"number", "The number that a text is, written with a point and without group marks.", `number("12.5") * 2`, "25",
		[]form{{[]*cel.Type{cel.StringType}, numberType, asNumber}},
	},
	{
		"date", "The day that a text is, written yyyy-MM-dd, or the day of a timestamp.", `date("2021-03-04")`, "2021-03-04",
		[]form{{[]*cel.Type{cel.StringType}, dateType, asDate}, {[]*cel.Type{stampType}, dateType, asDate}},
	},
	{
		"round", "The number rounded to that many digits after the point, halves to the even digit.", `round(2 / 3, 2)`,
		"0.67",
		[]form{{[]*cel.Type{numberType, numberType}, numberType, round}},
	},
	{
		"year", "The year of a date.", `year(date("2021-03-04"))`, "2021",
		[]form{{[]*cel.Type{dateType}, numberType, part(value.Day.Year)}},
	},
	{
		"month", "The month of a date, from 1.", `month(date("2021-03-04"))`, "3",
		[]form{{[]*cel.Type{dateType}, numberType, part(value.Day.Month)}},
	},
	{
		"day", "The day of the month.", `day(date("2021-03-04"))`, "4",
		[]form{{[]*cel.Type{dateType}, numberType, part(value.Day.Day)}},
	},
	{
		"plusDays", "The date that many days later.", `plusDays(date("2021-02-27"), 3)`, "2021-03-02",
		[]form{{[]*cel.Type{dateType, numberType}, dateType, plusDays}},
	},
	{
		"plusMonths", "The date that many months later; a day that the month does not have is its last.",
		`plusMonths(date("2021-01-31"), 1)`, "2021-02-28",
		[]form{{[]*cel.Type{dateType, numberType}, dateType, plusMonths}},
	},
	{
		"monthEnd", "The last day of the month.", `monthEnd(date("2021-02-03"))`, "2021-02-28",
		[]form{{[]*cel.Type{dateType}, dateType, monthEnd}},
	},
	{
		"daysBetween", "How many days the second date lies after the first.",
		`daysBetween(date("2021-03-04"), date("2021-03-01"))`, "-3",
		[]form{{[]*cel.Type{dateType, dateType}, numberType, daysBetween}},
	},
	{
		"yearsBetween", "How many whole years lie between two dates, as people count their age.",
		`yearsBetween(date("2000-03-05"), date("2021-03-04"))`, "20",
		[]form{{[]*cel.Type{dateType, dateType}, numberType, yearsBetween}},
	},
	{
		"length", "How many characters a text has.", `length("Größe")`, "5",
		[]form{{[]*cel.Type{cel.StringType}, numberType, length}},
	},
	{
		"upper", "The text in capital letters.", `upper("ab")`, "AB",
		[]form{{[]*cel.Type{cel.StringType}, cel.StringType, texts(strings.ToUpper)}},
	},
	{
		"lower", "The text in small letters.", `lower("AB")`, "ab",
		[]form{{[]*cel.Type{cel.StringType}, cel.StringType, texts(strings.ToLower)}},
	},
	{
		"trim", "The text without spaces at its ends.", `trim(" ab ")`, "ab",
		[]form{{[]*cel.Type{cel.StringType}, cel.StringType, texts(strings.TrimSpace)}},
	},
	{
		"reading", "What a text can be read as: integer, decimal, date, time, timestamp, boolean, code, text or blank.",
		`reading("1.5 kg")`, "decimal",
		[]form{{[]*cel.Type{cel.StringType}, cel.StringType, texts(readingOf)}},
	},
	{"raw", "The cell of a column of the source as it came.", `raw("Net weight")`, "the cell", nil},
}

// ofEach makes the forms of a function that gives a text of a value of any type of columns.
func ofEach(call func([]ref.Val) ref.Val) (forms []form) {
	for _, t := range []*cel.Type{numberType, cel.StringType, dateType, stampType, clockType, cel.BoolType} {
		forms = append(forms, form{[]*cel.Type{t}, cel.StringType, call})
	}
	return forms
}

// options declares the functions, and the operators for the types of values.
func options() (all []cel.EnvOption) {
	for _, f := range Functions {
		var overloads []cel.FunctionOpt
		for i, one := range f.forms {
			call := one.call
			if f.Name != "blank" {
				call = unlessBlank(call)
			}
			id := f.Name + "_" + string(rune('a'+i))
			overloads = append(overloads, cel.Overload(id, one.args, one.gives, cel.FunctionBinding(func(args ...ref.Val) ref.Val { return call(args) })))
		}
		if len(overloads) > 0 {
			all = append(all, cel.Function(f.Name, overloads...))
		}
	}
	for op, name := range map[string]string{operators.Add: "add", operators.Subtract: "subtract", operators.Multiply: "multiply", operators.Divide: "divide"} {
		all = append(all, cel.Function(op, cel.Overload(name+"_numbers", []*cel.Type{numberType, numberType}, numberType)))
	}
	all = append(all, cel.Function(operators.Negate, cel.Overload("negate_number", []*cel.Type{numberType}, numberType)))
	for op, name := range map[string]string{operators.Less: "less", operators.LessEquals: "less_equals", operators.Greater: "greater", operators.GreaterEquals: "greater_equals"} {
		for _, t := range []*cel.Type{numberType, dateType, stampType, clockType} {
			all = append(all, cel.Function(op, cel.Overload(name+"_of_column_"+t.TypeName(), []*cel.Type{t, t}, cel.BoolType)))
		}
	}
	return all
}

func unlessBlank(call func([]ref.Val) ref.Val) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val {
		for _, a := range args {
			if a == types.NullValue {
				return types.NullValue
			}
		}
		return call(args)
	}
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

func round(args []ref.Val) ref.Val {
	digits, ok := whole(args[1])
	if !ok || digits < 0 || digits > 100 {
		return types.NewErr("digits are a whole number from 0 to 100")
	}
	n, err := value.ParseNumber(value.RoundHalfEven(args[0].(number).r, digits))
	if err != nil {
		return types.NewErr("%v", err)
	}
	return number{r: n.Rat()}
}

// whole returns a number as an int, false where it has a fraction or is too large.
func whole(v ref.Val) (int, bool) {
	r := v.(number).r
	if !r.IsInt() || !r.Num().IsInt64() || r.Num().Int64() > 1<<30 || r.Num().Int64() < -(1<<30) {
		return 0, false
	}
	return int(r.Num().Int64()), true
}

func ofInt(n int) ref.Val { return number{r: new(big.Rat).SetInt64(int64(n))} }

func part(of func(value.Day) int) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val { return ofInt(of(args[0].(moment).day())) }
}

func plusDays(args []ref.Val) ref.Val {
	n, ok := whole(args[1])
	days := args[0].(moment).day().Days() + n
	if first, last := minDay.Days(), maxDay.Days(); !ok || days < first || days > last {
		return types.NewErr("the day lies outside the years 1 to 9999, or the number of days is not whole")
	}
	return dateOf(value.DayOf(days))
}

var (
	minDay, _ = value.NewDay(1, 1, 1)
	maxDay, _ = value.NewDay(9999, 12, 31)
)

func plusMonths(args []ref.Val) ref.Val {
	n, ok := whole(args[1])
	d := args[0].(moment).day()
	months := d.Year()*12 + d.Month() - 1 + n
	if !ok || months < 12 || months >= 10000*12 {
		return types.NewErr("the month lies outside the years 1 to 9999, or the number of months is not whole")
	}
	year, month := months/12, months%12+1
	day, _ := value.NewDay(year, month, min(d.Day(), value.DaysIn(year, month)))
	return dateOf(day)
}

func monthEnd(args []ref.Val) ref.Val {
	d := args[0].(moment).day()
	day, _ := value.NewDay(d.Year(), d.Month(), value.DaysIn(d.Year(), d.Month()))
	return dateOf(day)
}

func daysBetween(args []ref.Val) ref.Val {
	return ofInt(args[1].(moment).day().Days() - args[0].(moment).day().Days())
}

func yearsBetween(args []ref.Val) ref.Val {
	a, b := args[0].(moment).day(), args[1].(moment).day()
	years, sign := 0, 1
	if b < a {
		a, b, sign = b, a, -1
	}
	if years = b.Year() - a.Year(); b.Month() < a.Month() || b.Month() == a.Month() && b.Day() < a.Day() {
		years--
	}
	return ofInt(sign * years)
}

func length(args []ref.Val) ref.Val { return ofInt(character.Count(string(args[0].(types.String)))) }

func texts(f func(string) string) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val { return types.String(f(string(args[0].(types.String)))) }
}

// readingOf names what a text by itself reads as.
func readingOf(text string) string {
	x := reading.NewReader(nil).Read([]byte(text))
	done := reading.Conclude([]reading.Count{{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1}}, reading.Ask{})
	r, _ := done.Convention.Judge(x.Set, x.Form)
	return r.String()
}
