package expression

import (
	"math/bits"
	"slices"
	"strconv"

	"cel.dev/cel-go/cel"
	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"junvo/internal/value"
)

// Most expressions multiply, add or compare a few numbers, and the library takes microseconds for each row. So an
// expression of nothing but numbers, their sums, differences, products and comparisons, and what rounds or
// joins them, is compiled to functions over small decimals, too. Where a row has a value that is not small, or a
// condition has a blank one, the library computes it; a test holds both ways equal.

// small is a decimal number of at most 18 digits: coef divided by ten to the power of scale.
type small struct {
	coef  int64
	scale int32
}

// maxShortVars is how many columns an expression may use that has a short way.
const maxShortVars = 8

// values are those of the columns of a row.
type values *[maxShortVars]small

// A numberWay computes a number, a truthWay a truth value; ok is false where it can't.
type (
	numberWay func(v values) (n small, ok bool)
	truthWay  func(v values) (is, ok bool)
)

// short is the short way of an expression. One of number and truth is not nil.
type short struct {
	number numberWay
	truth  truthWay
	same   int  // the column that the expression is, -1 for none
	fails  bool // whether a part of the expression can be one that can't be worked out
}

// shorten returns the short way of an expression, nil where there is none.
func (e *Expression) shorten(checked *cel.Ast) *short {
	if len(e.vars) == 0 || len(e.vars) > maxShortVars || len(e.Raw) > 0 || len(e.Earlier) > 0 || e.asks.failed {
		return nil
	}
	for _, v := range e.vars {
		if v.Type != value.Integer && v.Type != value.Decimal {
			return nil
		}
	}
	x := checked.NativeRep().Expr()
	s := &short{same: -1, fails: fails(x)}
	switch e.Type {
	case value.Decimal:
		s.number = e.numberWay(x)
		if x.Kind() == celast.IdentKind {
			s.same = 0 // the only one
		}
	case value.Boolean:
		s.truth = e.truthWay(x)
	}
	if s.number == nil && s.truth == nil {
		return nil
	}
	return s
}

// fails reports whether a part of an expression may be one that can't be worked out: a quotient, or a number rounded to as
// many digits as a row says.
func fails(x celast.Expr) bool {
	if x.Kind() != celast.CallKind {
		return false
	}
	call := x.AsCall()
	args := call.Args()
	return call.FunctionName() == operators.Divide || call.FunctionName() == "round" && !isDigits(args[1]) ||
		slices.ContainsFunc(args, fails)
}

// isDigits reports whether a part is a number of digits to round to.
func isDigits(x celast.Expr) bool {
	if !isCall(x, "decimal_literal") {
		return false
	}
	text, _ := x.AsCall().Args()[0].AsLiteral().(types.String)
	n, ok := parseSmall(string(text))
	return ok && n.scale == 0 && n.coef <= maxRound
}

// maxRound is how many digits a number may be rounded to.
const maxRound = 100

// numberWay returns the way to compute a part of an expression, nil for none.
func (e *Expression) numberWay(x celast.Expr) numberWay {
	switch x = bare(x); x.Kind() {
	case celast.IdentKind:
		for i, v := range e.vars {
			if v.Name == x.AsIdent() {
				return func(v values) (small, bool) { return v[i], true }
			}
		}
	case celast.CallKind:
		return e.numberCall(x.AsCall())
	}
	return nil
}

func (e *Expression) numberCall(call celast.CallExpr) numberWay {
	name, args := call.FunctionName(), call.Args()
	switch {
	case call.IsMemberFunction():
		return nil
	case name == "decimal_literal":
		text, _ := args[0].AsLiteral().(types.String)
		n, ok := parseSmall(string(text))
		if !ok {
			return nil
		}
		return func(values) (small, bool) { return n, true }
	case name == operators.Negate:
		of := e.numberWay(args[0])
		if of == nil {
			return nil
		}
		return func(v values) (small, bool) {
			n, ok := of(v)
			return small{-n.coef, n.scale}, ok
		}
	case len(args) != 2:
		return nil
	}
	if ratio := bare(args[0]); name == "round" && isCall(ratio, operators.Divide) {
		return e.ratioWay(ratio.AsCall().Args(), args[1])
	}
	a, b := e.numberWay(args[0]), e.numberWay(args[1])
	if a == nil || b == nil {
		return nil
	}
	var f func(a, b small) (small, bool)
	switch name {
	case operators.Add:
		f = plus
	case operators.Subtract:
		f = func(a, b small) (small, bool) { return plus(a, small{-b.coef, b.scale}) }
	case operators.Multiply:
		f = times
	case "round":
		f = rounded
	default:
		return nil
	}
	return func(v values) (small, bool) {
		x, ok1 := a(v)
		y, ok2 := b(v)
		if !ok1 || !ok2 {
			return small{}, false
		}
		return f(x, y)
	}
}

// bare returns a part without what catches its blanks, since no value is blank here.
func bare(x celast.Expr) celast.Expr {
	if isCall(x, orBlank) {
		return x.AsCall().Args()[0]
	}
	return x
}

func isCall(x celast.Expr, name string) bool {
	return x.Kind() == celast.CallKind && !x.AsCall().IsMemberFunction() && x.AsCall().FunctionName() == name
}

// ratioWay returns the way to compute a quotient that is rounded at once; others may have no end.
func (e *Expression) ratioWay(args []celast.Expr, digits celast.Expr) numberWay {
	a, b, d := e.numberWay(args[0]), e.numberWay(args[1]), e.numberWay(digits)
	if a == nil || b == nil || d == nil {
		return nil
	}
	return func(v values) (small, bool) {
		x, ok1 := a(v)
		y, ok2 := b(v)
		n, ok3 := d(v)
		if !ok1 || !ok2 || !ok3 {
			return small{}, false
		}
		return ratio(x, y, n)
	}
}

// truthWay returns the way to compute a condition, nil for none.
func (e *Expression) truthWay(x celast.Expr) truthWay {
	x = bare(x)
	if x.Kind() != celast.CallKind || x.AsCall().IsMemberFunction() {
		return nil
	}
	name, args := x.AsCall().FunctionName(), x.AsCall().Args()
	switch name {
	case operators.LogicalNot:
		of := e.truthWay(args[0])
		if of == nil {
			return nil
		}
		return func(v values) (bool, bool) {
			is, ok := of(v)
			return !is, ok
		}
	case operators.LogicalAnd, operators.LogicalOr:
		a, b := e.truthWay(args[0]), e.truthWay(args[1])
		if a == nil || b == nil {
			return nil
		}
		decides := name == operators.LogicalOr // the first that is so
		return func(v values) (bool, bool) {
			if is, ok := a(v); !ok || is == decides {
				return is, ok
			}
			return b(v)
		}
	}
	holds := comparisons[name]
	if holds == nil {
		return nil
	}
	a, b := e.numberWay(args[0]), e.numberWay(args[1])
	if a == nil || b == nil {
		return nil
	}
	return func(v values) (bool, bool) {
		x, ok1 := a(v)
		y, ok2 := b(v)
		if !ok1 || !ok2 {
			return false, false
		}
		order, ok := compare(x, y)
		return holds(order), ok
	}
}

// comparisons tell from how two numbers compare whether one holds.
var comparisons = map[string]func(order int) bool{
	operators.Less:          func(order int) bool { return order < 0 },
	operators.LessEquals:    func(order int) bool { return order <= 0 },
	operators.Greater:       func(order int) bool { return order > 0 },
	operators.GreaterEquals: func(order int) bool { return order >= 0 },
	operators.Equals:        func(order int) bool { return order == 0 },
	operators.NotEquals:     func(order int) bool { return order != 0 },
}

// eval computes the expression; ok is false where the library has to.
func (s *short) eval(columns int, row Row) (out string, ok bool) {
	var v [maxShortVars]small
	for i := range columns {
		text := row.Cell(i)
		if text == "" {
			// Of a blank number nothing can be computed; a condition may be true all the same, and another part fail.
			return "", s.number != nil && !s.fails
		}
		if v[i], ok = parseSmall(text); !ok {
			return "", false
		}
		if i == s.same {
			return text, true
		}
	}
	if s.truth != nil {
		is, ok := s.truth(&v)
		return strconv.FormatBool(is), ok
	}
	n, ok := s.number(&v)
	return n.text(), ok
}

// parseSmall reads a number in canonical text.
func parseSmall(text string) (small, bool) {
	coef, scale, _, ok := value.ParseShort(text)
	return small{coef, scale}, ok
}

// product returns the product of two numbers, where it has less than 63 bits.
func product(a, b int64) (int64, bool) {
	x, y := uint64(max(a, -a)), uint64(max(b, -b))
	hi, lo := bits.Mul64(x, y)
	if hi != 0 || lo >= 1<<62 {
		return 0, false
	}
	if (a < 0) != (b < 0) {
		return -int64(lo), true
	}
	return int64(lo), true
}

// at returns the coefficient at a larger scale.
func (n small) at(scale int32) (int64, bool) {
	by := scale - n.scale
	if by >= int32(len(value.Tens)) {
		return 0, n.coef == 0
	}
	return product(n.coef, value.Tens[by])
}

func plus(a, b small) (small, bool) {
	scale := max(a.scale, b.scale)
	x, ok1 := a.at(scale)
	y, ok2 := b.at(scale)
	return small{x + y, scale}, ok1 && ok2
}

func times(a, b small) (small, bool) {
	coef, ok := product(a.coef, b.coef)
	return small{coef, a.scale + b.scale}, ok
}

func compare(a, b small) (order int, ok bool) {
	d, ok := plus(a, small{-b.coef, b.scale})
	switch {
	case d.coef < 0:
		return -1, ok
	case d.coef > 0:
		return 1, ok
	}
	return 0, ok
}

// rounded rounds a number to that many digits after the point, halves to the even digit.
func rounded(n, digits small) (small, bool) {
	if digits.scale != 0 || digits.coef < 0 || digits.coef > maxRound {
		return small{}, false // the library says why
	}
	by := n.scale - int32(digits.coef)
	if by <= 0 {
		return n, true
	}
	if by >= int32(len(value.Tens)) {
		return small{}, false
	}
	unit := value.Tens[by]
	q, rest := n.coef/unit, n.coef%unit
	step := int64(1)
	if n.coef < 0 {
		rest, step = -rest, -1
	}
	if twice := 2 * (rest - unit/2); twice > 0 || twice == 0 && q%2 != 0 {
		q += step
	}
	return small{q, int32(digits.coef)}, true
}

// ratio divides two numbers and rounds the quotient to that many digits after the point, halves to the even digit.
func ratio(a, b, digits small) (small, bool) {
	by := digits.coef + int64(b.scale) - int64(a.scale) // the power of ten that makes whole numbers of both
	if b.coef == 0 || digits.scale != 0 || digits.coef < 0 || digits.coef > 18 || by > 18 || by < -18 {
		return small{}, false
	}
	x, y := uint64(max(a.coef, -a.coef)), uint64(max(b.coef, -b.coef))
	hi, lo := uint64(0), x
	if by >= 0 {
		hi, lo = bits.Mul64(x, uint64(value.Tens[by]))
	} else {
		over, denominator := bits.Mul64(y, uint64(value.Tens[-by]))
		if over != 0 {
			return small{}, false
		}
		y = denominator
	}
	if hi >= y || y > 1<<62 {
		return small{}, false
	}
	q, rest := bits.Div64(hi, lo, y)
	if twice := 2 * rest; twice > y || twice == y && q%2 != 0 {
		q++
	}
	if q >= 1<<62 {
		return small{}, false
	}
	if (a.coef < 0) != (b.coef < 0) {
		return small{-int64(q), int32(digits.coef)}, true
	}
	return small{int64(q), int32(digits.coef)}, true
}

// text writes the number in canonical text, without zeros at the end of its fraction.
func (n small) text() string {
	for n.scale > 0 && n.coef%10 == 0 {
		n.coef /= 10
		n.scale--
	}
	if n.scale == 0 {
		return strconv.FormatInt(n.coef, 10)
	}
	var buf [48]byte
	digits := strconv.AppendInt(buf[:0], max(n.coef, -n.coef), 10)
	out := make([]byte, 0, len(digits)+int(n.scale)+3)
	if n.coef < 0 {
		out = append(out, '-')
	}
	for pad := int(n.scale) + 1 - len(digits); pad > 0; pad-- {
		out = append(out, '0')
		if pad == int(n.scale)+1-len(digits) {
			out = append(out, '.')
		}
	}
	if at := len(digits) - int(n.scale); at > 0 {
		out = append(append(append(out, digits[:at]...), '.'), digits[at:]...)
	} else {
		out = append(out, digits...)
	}
	return string(out)
}
