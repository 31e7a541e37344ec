package expression

import (
	"math/big"
	"strings"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"

	"junvo/internal/value"
)

var numberFunctions = []Function{
	{
		"round", "The number rounded to that many digits after the point, halves to the even digit.", "round(2 / 3, 2)",
		"0.67",
		[]form{of(numberType, round, numberType, numberType)},
	},
	{
		"roundHalfUp", "The number rounded to that many digits after the point, halves away from zero.",
		"roundHalfUp(2.345, 2)", "2.35",
		[]form{of(numberType, roundHalfUp, numberType, numberType)},
	},
	{
		"floor", "The largest whole number that is not larger.", "floor(-2.5)", "-3",
		[]form{of(numberType, floor, numberType)},
	},
	{
		"ceiling", "The smallest whole number that is not smaller.", "ceiling(-2.5)", "-2",
		[]form{of(numberType, ceiling, numberType)},
	},
	{
		"absolute", "The number without its sign.", "absolute(-2.5)", "2.5",
		[]form{of(numberType, absolute, numberType)},
	},
	{
		"remainder", "What is left of a number when the second is taken away a whole number of times. It has the sign of " +
			"the second. x % y is the same.",
		"remainder(7.5, 2)", "1.5",
		[]form{of(numberType, remainder, numberType, numberType)},
	},
	{
		"sum", "The sum of two to eight numbers, or of a list as in sum([x, y]); blank ones are skipped.", "sum(1.5, 2)",
		"3.5", ofNumbers(sum),
	},
	{
		"mean", "The mean of two to eight numbers, or of a list; blank ones are skipped and not counted.", "mean(1, 2, 6)",
		"3", ofNumbers(mean),
	},
	{
		"min", "The smallest of two to eight numbers, dates, times or timestamps; blank ones are skipped.", "min(12, 9)", "9",
		many(extreme(-1), numberType, dateType, stampType, clockType),
	},
	{
		"max", "The largest of two to eight numbers, dates, times or timestamps; blank ones are skipped.", "max(12, 9)", "12",
		many(extreme(1), numberType, dateType, stampType, clockType),
	},
	{
		"fixed", "The number as text with that many digits after the point, rounded half to even.", "fixed(12.5, 2)", "12.50",
		[]form{of(textType, fixed, numberType, numberType)},
	},
	{
		"percent", "The share as text in percent with that many digits after the point.", "percent(0.1256, 1)", "12.6 %",
		[]form{of(textType, percent, numberType, numberType)},
	},
	{
		"padded", "A whole number as text, with zeros before it up to that many digits.", "padded(42, 6)", "000042",
		[]form{of(textType, padded, numberType, numberType)},
	},
}

// ofNumbers makes the forms of a function of several numbers, which may be in a list, too.
func ofNumbers(call func([]ref.Val) ref.Val) []form {
	list := func(args []ref.Val) ref.Val {
		var each []ref.Val
		for it := args[0].(traits.Lister).Iterator(); it.HasNext() == types.True; {
			each = append(each, it.Next())
		}
		return call(each)
	}
	return append(many(call, numberType), form{[]*cel.Type{cel.ListType(numberType)}, numberType, list, true})
}

func round(args []ref.Val) ref.Val {
	digits, ok := whole(args[1])
	if !ok || digits < 0 || digits > maxRound {
		return types.NewErr("digits are a whole number from 0 to %d", maxRound)
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

// digitsOf returns a number of digits that a function is given.
func digitsOf(v ref.Val, most int) (int, ref.Val) {
	digits, ok := whole(v)
	if !ok || digits < 0 || digits > most {
		return 0, types.NewErr("digits are a whole number from 0 to %d", most)
	}
	return digits, nil
}

func fixed(args []ref.Val) ref.Val {
	digits, wrong := digitsOf(args[1], 100)
	if wrong != nil {
		return wrong
	}
	return types.String(fixedText(args[0].(number).r, digits))
}

// fixedText writes a number with all of the digits, zeros too.
func fixedText(r *big.Rat, digits int) string {
	text := value.RoundHalfEven(r, digits)
	_, fraction, point := strings.Cut(text, ".")
	if digits == 0 {
		return text
	}
	if !point {
		text += "."
	}
	return text + strings.Repeat("0", digits-len(fraction))
}

func percent(args []ref.Val) ref.Val {
	digits, wrong := digitsOf(args[1], 100)
	if wrong != nil {
		return wrong
	}
	share := new(big.Rat).Mul(args[0].(number).r, big.NewRat(100, 1))
	return types.String(fixedText(share, digits) + " %")
}

func padded(args []ref.Val) ref.Val {
	width, wrong := digitsOf(args[1], 1000)
	if wrong != nil {
		return wrong
	}
	n := args[0].(number).r
	if !n.IsInt() {
		return types.NewErr("%s is no whole number", args[0].(number).text())
	}
	digits, sign := new(big.Int).Abs(n.Num()).String(), ""
	if n.Sign() < 0 {
		sign = "-"
	}
	return types.String(sign + strings.Repeat("0", max(0, width-len(digits))) + digits)
}

func roundHalfUp(args []ref.Val) ref.Val {
	digits, wrong := digitsOf(args[1], 100)
	if wrong != nil {
		return wrong
	}
	scale := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(digits)), nil))
	n := new(big.Rat).Mul(args[0].(number).r, scale)
	half := new(big.Rat).Add(new(big.Rat).Abs(n), big.NewRat(1, 2))
	q := new(big.Rat).SetInt(floorOf(half))
	if n.Sign() < 0 {
		q.Neg(q)
	}
	return number{r: q.Quo(q, scale)}
}

// floorOf returns the largest whole number that is not larger.
func floorOf(r *big.Rat) *big.Int {
	return new(big.Int).Div(r.Num(), r.Denom()) // Euclidean, with a divisor above zero
}

func floor(args []ref.Val) ref.Val {
	return number{r: new(big.Rat).SetInt(floorOf(args[0].(number).r))}
}

func ceiling(args []ref.Val) ref.Val {
	n := floorOf(new(big.Rat).Neg(args[0].(number).r))
	return number{r: new(big.Rat).SetInt(n.Neg(n))}
}

func absolute(args []ref.Val) ref.Val { return number{r: new(big.Rat).Abs(args[0].(number).r)} }

func remainder(args []ref.Val) ref.Val { return args[0].(number).Modulo(args[1]) }

func sum(args []ref.Val) ref.Val {
	some := filled(args)
	if len(some) == 0 {
		return types.NullValue
	}
	var total ref.Val = number{r: new(big.Rat)} // so that one number is written as a sum is, too
	for _, v := range some {
		n, ok := total.(number)
		if !ok {
			return total // an error
		}
		total = n.Add(v)
	}
	return total
}

func mean(args []ref.Val) ref.Val {
	n, ok := sum(args).(number)
	if !ok {
		return sum(args)
	}
	return n.Divide(ofInt(len(filled(args))))
}

// extreme returns the largest value where the sign is 1, the smallest where it is -1.
func extreme(sign types.Int) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val {
		var best ref.Val = types.NullValue
		for _, v := range filled(args) {
			if best == types.NullValue || v.(traits.Comparer).Compare(best) == sign {
				best = v
			}
		}
		return best
	}
}
