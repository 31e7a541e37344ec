package expression

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"junvo/internal/table"
	"junvo/internal/value"
)

// maxAsked is how many different cells of the source an expression may use as they came, and how many columns one may
// use that asks which cells have failed.
const maxAsked = 16

var literal = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?`)

// rewriter makes of a parsed expression what the library computes: exact numbers of literals, variables of what is
// asked of a row.
type rewriter struct {
	*Expression
	*mistakes
	fac   celast.ExprFactory
	tree  *celast.AST
	lines []string
	next  int64 // the number of the next node
	err   error
}

// rewrite makes exact numbers of the literals, variables of raw cells, and notes which columns are used.
func (e *Expression) rewrite(a *celast.AST, m *mistakes) error {
	r := &rewriter{
		Expression: e, mistakes: m, fac: celast.NewExprFactory(), tree: a, lines: strings.Split(m.text, "\n"), next: 1 << 20,
	}
	celast.PostOrderVisit(a.Expr(), celast.NewExprVisitor(func(x celast.Expr) {
		switch x.Kind() {
		case celast.LiteralKind:
			r.literal(x)
		case celast.IdentKind:
			r.use(x.AsIdent())
		case celast.CallKind:
			r.call(x)
		}
	}))
	return r.err
}

func (r *rewriter) fail(x celast.Expr, format string, args ...any) {
	if r.err != nil {
		return
	}
	at := r.tree.SourceInfo().GetStartLocation(x.ID())
	line, column := r.place(at.Line(), at.Column()+1)
	r.err = &Error{line, column, fmt.Sprintf(format, args...)}
}

func (r *rewriter) literal(x celast.Expr) {
	switch x.AsLiteral().(type) {
	case types.Int, types.Double:
	default:
		return
	}
	at := r.tree.SourceInfo().GetStartLocation(x.ID())
	digits := literal.FindString(string([]rune(r.lines[at.Line()-1])[at.Column():]))
	if digits == "" {
		r.fail(x, "a number is written as in 12 or 0.5")
		return
	}
	r.next++
	x.SetKindCase(r.fac.NewCall(x.ID(), "decimal_literal", r.fac.NewLiteral(r.next, types.String(digits))))
}

// use notes that a column is used, and returns its number, -1 where a name is of none.
func (r *rewriter) use(word string) int {
	column := r.name(word)
	i := slices.IndexFunc(r.columns, func(v Variable) bool { return v.Name == column })
	if i < 0 {
		i = slices.IndexFunc(r.columns, func(v Variable) bool { return table.SameName(v.Name) == table.SameName(column) })
	}
	if i < 0 {
		return -1
	}
	column = r.columns[i].Name
	if used := slices.Index(r.Uses, column); used >= 0 && r.vars[used].Name == word {
		r.times[used]++
		return used
	}
	r.Uses = append(r.Uses, column)
	r.vars = append(r.vars, Variable{Name: word, Type: r.columns[i].Type})
	r.times = append(r.times, 1)
	return len(r.Uses) - 1
}

func (r *rewriter) call(x celast.Expr) {
	switch call := x.AsCall(); call.FunctionName() {
	case "raw", "stored":
		r.ofSource(x)
	case "failed":
		r.failed(x)
	case previous, before, sumSoFar:
		r.earlier(x)
	case "lookup":
		r.lookup(x)
	case "steps":
		r.steps(x)
	case "number":
		r.convention(x, value.Decimal)
	case "date":
		r.convention(x, value.Date)
	case "blanks", "anyBlank":
		r.allColumns(x)
	case "row":
		if len(call.Args()) > 0 || call.IsMemberFunction() {
			r.fail(x, "row() is the number of the row, and takes nothing")
			return
		}
		r.asks.number = true
		x.SetKindCase(r.fac.NewIdent(x.ID(), rowNumber))
	case operators.Equals, operators.NotEquals:
		r.compare(x)
	case operators.Conditional:
		args := call.Args()
		switch {
		case isNull(args[1]) && !isNull(args[2]):
			x.SetKindCase(r.fac.NewCall(x.ID(), operators.Conditional, args[0], r.blankOf(args[2]), args[2]))
		case isNull(args[2]) && !isNull(args[1]):
			x.SetKindCase(r.fac.NewCall(x.ID(), operators.Conditional, args[0], args[1], r.blankOf(args[1])))
		}
	case "size", "int", "uint", "double": // these give numbers of the language, and not exact ones
		r.next++
		inner := r.fac.NewCall(r.next, call.FunctionName(), call.Args()...)
		if call.IsMemberFunction() {
			inner = r.fac.NewMemberCall(r.next, call.FunctionName(), call.Target(), call.Args()...)
		}
		x.SetKindCase(r.fac.NewCall(x.ID(), exactNumber, inner))
	}
	r.catchBlanks(x)
}

// makers are the operators that make an error of blank, in the library.
var makers = map[string]bool{
	operators.Add: true, operators.Subtract: true, operators.Multiply: true, operators.Divide: true, operators.Modulo: true,
	operators.Negate: true, operators.Less: true, operators.LessEquals: true, operators.Greater: true,
	operators.GreaterEquals: true,
	operators.Conditional:   true, operators.LogicalNot: true, operators.LogicalAnd: true, operators.LogicalOr: true,
}

// catchBlanks makes blanks of the errors that operators make of blank, wherever something else is made of them: so a blank
// is equal to no value, whatever has made it, and what can't be worked out is not taken for a blank.
func (r *rewriter) catchBlanks(x celast.Expr) {
	call := x.AsCall()
	switch call.FunctionName() {
	case operators.Conditional, operators.LogicalAnd, operators.LogicalOr, orBlank, blankOf, exactNumber:
		return // these take their operands apart by themselves
	}
	args := slices.Clone(call.Args())
	for i, a := range args {
		if a.Kind() == celast.CallKind && makers[a.AsCall().FunctionName()] {
			r.next++
			args[i] = r.fac.NewCall(r.next, orBlank, a)
		}
	}
	switch {
	case slices.Equal(args, call.Args()):
	case call.IsMemberFunction():
		x.SetKindCase(r.fac.NewMemberCall(x.ID(), call.FunctionName(), call.Target(), args...))
	default:
		x.SetKindCase(r.fac.NewCall(x.ID(), call.FunctionName(), args...))
	}
}

// blankOf makes a blank value of the type of another.
func (r *rewriter) blankOf(x celast.Expr) celast.Expr {
	r.next++
	return r.fac.NewCall(r.next, blankOf, x)
}

// blankOf is the function that gives a blank value of the type of its argument, whatever that is.
const blankOf = "blank_of"

// orBlank is the function that gives its argument, and blank where that is what an operator makes of blank.
const orBlank = "or_blank"

// compare finds comparisons with what no cell is equal to, since blank has no value.
func (r *rewriter) compare(x celast.Expr) {
	for i, side := range x.AsCall().Args() {
		if !isNull(side) && (side.Kind() != celast.LiteralKind || side.AsLiteral() != types.String("")) {
			continue
		}
		of, not := "x", ""
		if other := x.AsCall().Args()[1-i]; other.Kind() == celast.IdentKind {
			of = InWriting(r.name(other.AsIdent()))
		}
		if x.AsCall().FunctionName() == operators.NotEquals {
			not = "!"
		}
		r.fail(x, "a blank cell has no value to compare: write %sblank(%s)", not, of)
		return
	}
}

// ofSource makes a variable of a call that asks for a cell of the source.
func (r *rewriter) ofSource(x celast.Expr) {
	call := x.AsCall()
	args := call.Args()
	if call.IsMemberFunction() || len(args) != 1 || args[0].Kind() != celast.LiteralKind ||
		args[0].AsLiteral().Type() != types.StringType {
		r.fail(x, `%s takes the name of a column of the source in quotes, as in %[1]s("Net weight")`, call.FunctionName())
		return
	}
	column := string(args[0].AsLiteral().(types.String))
	i := slices.Index(r.Raw, column)
	if i < 0 {
		if i = len(r.Raw); i == maxAsked {
			r.fail(x, "an expression can use %d cells as they came, and no more", maxAsked)
			return
		}
		r.Raw = append(r.Raw, column)
		r.rawTimes = append(r.rawTimes, 0)
	}
	prefix := rawPrefix
	if call.FunctionName() == "stored" {
		prefix, r.asks.stored = storedPrefix, true
	}
	r.rawTimes[i]++
	x.SetKindCase(r.fac.NewIdent(x.ID(), fmt.Sprint(prefix, i)))
}

// asked returns the number of the column that a call asks about, the only thing it is given; -1 where it is given
// another. It does not ask for the column's value.
func (r *rewriter) asked(x celast.Expr) int {
	call := x.AsCall()
	args := call.Args()
	if call.IsMemberFunction() {
		args = append(args, call.Target())
	}
	if len(args) == 1 && args[0].Kind() == celast.IdentKind {
		if i := slices.Index(r.Uses, r.name(args[0].AsIdent())); i >= 0 {
			r.times[i]-- // that it was counted for where it stands
			return i
		}
		r.fail(x, "%s", r.unknown(r.name(args[0].AsIdent())))
		return -1
	}
	r.fail(x, "%s takes the name of a column of the output without quotes, as in %[1]s(net_weight)", call.FunctionName())
	return -1
}

// earlier makes a variable of a call that asks for what the rows before have.
func (r *rewriter) earlier(x celast.Expr) {
	i := r.asked(x)
	if i < 0 {
		return
	}
	a := Earlier{i, x.AsCall().FunctionName() == sumSoFar}
	if a.Sum && !r.vars[i].Type.Numeric() {
		r.fail(x, "sumSoFar adds up numbers, and %s is %s", InWriting(r.Uses[i]), r.vars[i].Type)
		return
	}
	n := slices.Index(r.Earlier, a)
	if n < 0 {
		n = len(r.Earlier)
		r.Earlier = append(r.Earlier, a)
	}
	x.SetKindCase(r.fac.NewIdent(x.ID(), fmt.Sprint(earlierPrefix, n)))
}

// allColumns gives a call without arguments those of the source: the number of their blanks.
func (r *rewriter) allColumns(x celast.Expr) {
	call := x.AsCall()
	if len(call.Args()) > 0 || call.IsMemberFunction() {
		return
	}
	all := r.zero()
	for i := range r.columns {
		if r.columns[i].Made {
			continue
		}
		word := r.word(r.columns[i].Name)
		if r.use(word) < 0 {
			continue
		}
		r.next += 2
		one := r.fac.NewCall(r.next, "blanks", r.fac.NewIdent(r.next-1, word))
		r.next++
		all = r.fac.NewCall(r.next, operators.Add, all, one)
	}
	if call.FunctionName() == "anyBlank" {
		x.SetKindCase(r.fac.NewCall(x.ID(), operators.Greater, all, r.zero()))
		return
	}
	x.SetKindCase(all)
}

// word returns a name that the language knows for a column.
func (r *rewriter) word(column string) string {
	if name.MatchString(column) && !reserved[column] && !used[column] {
		return column
	}
	for word, of := range r.names {
		if of == column {
			return word
		}
	}
	word := fmt.Sprintf("named_too_%d_", len(r.names))
	for strings.Contains(r.text, word) {
		word += "_"
	}
	r.names[word] = column
	return word
}

// zero is the number 0.
func (r *rewriter) zero() celast.Expr {
	r.next += 2
	return r.fac.NewCall(r.next-1, "decimal_literal", r.fac.NewLiteral(r.next, types.String("0")))
}

// failed makes a variable of a call that asks whether a cell has failed.
func (r *rewriter) failed(x celast.Expr) {
	i := r.asked(x)
	if i < 0 {
		return
	}
	if i >= maxAsked {
		r.fail(x, "an expression that asks what has failed can use %d columns, and no more", maxAsked)
		return
	}
	r.asks.failed = true
	x.SetKindCase(r.fac.NewIdent(x.ID(), fmt.Sprint(failedPrefix, i)))
}

// lookup finds calls that name no list.
func (r *rewriter) lookup(x celast.Expr) {
	r.asks.list = true
	call := x.AsCall()
	names := slices.Sorted(maps.Keys(r.Lists))
	name := types.String("")
	if args := call.Args(); len(args) == 2 && !call.IsMemberFunction() && args[0].Kind() == celast.LiteralKind {
		name, _ = args[0].AsLiteral().(types.String)
	}
	switch {
	case len(names) == 0:
		r.fail(x, "the plan has no lists to look up in: lists: {ports: {NH: Nordhaven}}")
	case r.Lists[string(name)] == nil:
		r.fail(x, `lookup takes the name of a list in quotes, and a text, as in lookup(%q, x); the lists are %s`, names[0],
			strings.Join(names, ", "))
	}
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
