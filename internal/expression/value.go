package expression

import (
	"fmt"
	"math/big"
	"reflect"
	"strings"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"

	"junvo/internal/value"
)

// The types of values beyond those of the language: numbers are exact decimals, and days
// and timestamps are those of the columns.
var (
	numberType = types.NewObjectType("number", traits.AdderType, traits.SubtractorType, traits.MultiplierType,
		traits.DividerType, traits.ModderType, traits.NegatorType, traits.ComparerType)
	dateType  = types.NewObjectType("date", traits.ComparerType)
	stampType = types.NewObjectType("timestamp", traits.ComparerType)
	clockType = types.NewObjectType("time", traits.ComparerType)
)

// number is an exact number. Quotients stay exact too, until they are written.
type number struct {
	r  *big.Rat
	as string // how a column writes it, "" for what was computed
}

func (n number) ConvertToNative(reflect.Type) (any, error) { return nil, fmt.Errorf("no other form") }
func (n number) Type() ref.Type                            { return numberType }
func (n number) Value() any                                { return n.r }

func (n number) ConvertToType(t ref.Type) ref.Val {
	if t == types.TypeType {
		return numberType
	}
	return types.NewErr("a number is no %s", t.TypeName())
}

func (n number) Equal(other ref.Val) ref.Val {
	m, ok := other.(number)
	return types.Bool(ok && n.r.Cmp(m.r) == 0)
}

func (n number) Compare(other ref.Val) ref.Val {
	if m, ok := other.(number); ok {
		return types.Int(n.r.Cmp(m.r))
	}
	return types.MaybeNoSuchOverloadErr(other)
}

// with computes with another number.
func (n number) with(other ref.Val, f func(z, x, y *big.Rat) *big.Rat) ref.Val {
	m, ok := other.(number)
	if !ok {
		return types.MaybeNoSuchOverloadErr(other)
	}
	z := f(new(big.Rat), n.r, m.r)
	if z.Num().BitLen() > maxBits || z.Denom().BitLen() > maxBits {
		return types.NewErr("the result is too long")
	}
	return number{r: z}
}

// maxBits bounds the results of computations.
const maxBits = 1 << 14

func (n number) Add(o ref.Val) ref.Val      { return n.with(o, (*big.Rat).Add) }
func (n number) Subtract(o ref.Val) ref.Val { return n.with(o, (*big.Rat).Sub) }
func (n number) Multiply(o ref.Val) ref.Val { return n.with(o, (*big.Rat).Mul) }
func (n number) Negate() ref.Val            { return number{r: new(big.Rat).Neg(n.r)} }

func (n number) Divide(o ref.Val) ref.Val {
	if m, ok := o.(number); ok && m.r.Sign() == 0 {
		return types.NewErr("division by zero")
	}
	return n.with(o, (*big.Rat).Quo)
}

// Modulo returns what is left when o is taken away a whole number of times; it has the sign of o.
func (n number) Modulo(o ref.Val) ref.Val {
	m, ok := o.(number)
	if !ok {
		return types.MaybeNoSuchOverloadErr(o)
	}
	if m.r.Sign() == 0 {
		return types.NewErr("division by zero")
	}
	times := new(big.Rat).SetInt(floorOf(new(big.Rat).Quo(n.r, m.r)))
	return n.Subtract(m.Multiply(number{r: times}))
}

// significant is how many digits a quotient is written with that has no end.
const significant = 34

// text writes the number in canonical text; a quotient without an end is rounded half to
// even to 34 significant digits, as many as decimal128 has (IEEE 754).
func (n number) text() string {
	if n.as != "" {
		return n.as
	}
	if n.r.IsInt() {
		return n.r.Num().String()
	}
	digits, exact := n.r.FloatPrec()
	if exact {
		return n.r.FloatString(digits)
	}
	whole := 0 // the digits before the point, or with a minus the zeros behind it
	if q := new(big.Int).Quo(new(big.Int).Abs(n.r.Num()), n.r.Denom()); q.Sign() > 0 {
		whole = len(q.String())
	} else {
		q.Quo(n.r.Denom(), new(big.Int).Abs(n.r.Num()))
		whole = 1 - len(q.String())
	}
	text := value.RoundHalfEven(n.r, max(1, significant-whole))
	text = strings.TrimRight(text, "0")
	return strings.TrimSuffix(text, ".")
}

// moment is a date, a time or a timestamp, in canonical text, which is in the order of
// time except for offsets.
type moment struct {
	text string
	t    *types.Type
	at   value.Moment // of timestamps
}

func (m moment) ConvertToNative(reflect.Type) (any, error) { return nil, fmt.Errorf("no other form") }
func (m moment) Type() ref.Type                            { return m.t }
func (m moment) Value() any                                { return m.text }

func (m moment) ConvertToType(t ref.Type) ref.Val {
	if t == types.TypeType {
		return m.t
	}
	return types.NewErr("a %s is no %s", m.t.TypeName(), t.TypeName())
}

func (m moment) Equal(other ref.Val) ref.Val {
	o, ok := other.(moment)
	return types.Bool(ok && o.t == m.t && m.compare(o) == 0)
}

func (m moment) Compare(other ref.Val) ref.Val {
	if o, ok := other.(moment); ok && o.t == m.t {
		return types.Int(m.compare(o))
	}
	return types.MaybeNoSuchOverloadErr(other)
}

func (m moment) compare(o moment) int {
	if m.t == stampType {
		return m.at.Compare(o.at)
	}
	return strings.Compare(m.text, o.text)
}

func (m moment) day() value.Day {
	d, _ := value.ParseDate(m.text[:10])
	return d
}

func dateOf(d value.Day) ref.Val { return moment{text: string(d.Append(nil)), t: dateType} }
