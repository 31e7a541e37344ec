package e2e

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"time"
)

// value is a value of the oracle: of kind n for a number, t for a text, d for a day, b for true or false, 0 for blank.
type value struct {
	kind   byte
	text   string // as it is written, of texts, days and numbers that were read
	number *big.Rat
	true   bool
	failed bool
}

func numbered(text string) value {
	n, _ := new(big.Rat).SetString(text)
	if n.Sign() == 0 { // which has no sign
		text = strings.TrimPrefix(text, "-")
	}
	return value{kind: 'n', text: text, number: n}
}

func day(y, m, d int) value { return value{kind: 'd', text: fmt.Sprintf("%04d-%02d-%02d", y, m, d)} }

func texted(text string) value {
	if text == "" {
		return value{}
	}
	return value{kind: 't', text: text}
}

func verdict(is bool) value { return value{kind: 'b', true: is} }

func counted(n *big.Rat) value { return value{kind: 'n', number: n} }

// written is the value as it stands in the output.
func (v value) written() string {
	switch {
	case v.failed || v.kind == 0:
		return ""
	case v.kind == 'b':
		return fmt.Sprint(v.true)
	case v.kind == 'n' && v.text == "":
		return shortest(v.number)
	}
	return v.text
}

// digitsKept is how many digits a quotient has at most.
const digitsKept = 34

// shortest writes a fraction without zeros at its end: exactly where it has one, else rounded to as many digits as a
// quotient has, halves to the even digit.
func shortest(n *big.Rat) string {
	if n.IsInt() {
		return n.Num().String()
	}
	if digits, exact := n.FloatPrec(); exact {
		return n.FloatString(digits)
	}
	exp, a := 0, new(big.Rat).Abs(n) // such that 10^33 <= |n| * 10^exp < 10^34
	for ; a.Cmp(power(digitsKept-1)) < 0; exp++ {
		a.Mul(a, big.NewRat(10, 1))
	}
	for ; a.Cmp(power(digitsKept)) >= 0; exp-- {
		a.Quo(a, big.NewRat(10, 1))
	}
	out := new(big.Rat).SetInt(halfEven(a))
	for ; exp > 0; exp-- {
		out.Quo(out, big.NewRat(10, 1))
	}
	for ; exp < 0; exp++ {
		out.Mul(out, big.NewRat(10, 1))
	}
	digits, _ := out.FloatPrec()
	return strings.Repeat("-", (1-n.Sign())/2) + out.FloatString(digits)
}

func power(n int) *big.Rat {
	return new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n)), nil))
}

// halfEven rounds to a whole number, halves to the even one.
func halfEven(n *big.Rat) *big.Int {
	twice := new(big.Rat).Mul(n, big.NewRat(2, 1))
	whole := floored(n)
	rest := new(big.Rat).Sub(twice, new(big.Rat).SetInt(new(big.Int).Lsh(whole, 1)))
	switch c := rest.Cmp(big.NewRat(1, 1)); {
	case c > 0, c == 0 && whole.Bit(0) == 1:
		whole.Add(whole, big.NewInt(1))
	}
	return whole
}

func floored(n *big.Rat) *big.Int { // Div rounds to the floor where the divisor is positive, as denominators are
	return new(big.Int).Div(n.Num(), n.Denom())
}

// expr is an expression and what it makes of the columns of a row.
type expr struct {
	text string
	kind byte
	of   func(cells map[string]value) value
}

// over makes an expression of others: failed where one of them is, else blank where one of them is.
func over(kind byte, format string, of func(v []value) value, args ...*expr) *expr {
	texts := make([]any, len(args))
	for i, a := range args {
		texts[i] = a.text
	}
	return &expr{fmt.Sprintf(format, texts...), kind, func(cells map[string]value) value {
		v, blank := make([]value, len(args)), false
		for i, a := range args {
			v[i] = a.of(cells)
			if v[i].failed {
				return v[i]
			}
			blank = blank || v[i].kind == 0
		}
		if blank {
			return value{}
		}
		return of(v)
	}}
}

// column is a column of the row: blank where its cell has failed.
func columnNamed(name string, kind byte) *expr {
	return &expr{name, kind, func(cells map[string]value) value {
		if v := cells[name]; !v.failed {
			return v
		}
		return value{}
	}}
}

// expression makes an expression of a kind over columns of such kinds.
func expression(r *rand.Rand, columns map[string]byte, kind byte, depth int) *expr {
	sub := func(kind byte) *expr { return expression(r, columns, kind, depth-1) }
	if depth <= 0 || kind == 'd' || r.IntN(5) == 0 {
		var names []string
		for name, k := range columns {
			if k == kind {
				names = append(names, name)
			}
		}
		slices.Sort(names)
		if len(names) > 0 && (depth <= 0 || kind == 'd' || r.IntN(3) > 0) {
			return columnNamed(names[r.IntN(len(names))], kind)
		}
		return constant(r, kind)
	}
	if r.IntN(6) == 0 && kind != 'b' {
		return either(sub('b'), sub(kind), sub(kind))
	}
	switch kind {
	case 'n':
		return ofNumbers(r, sub)
	case 't':
		return ofTexts(r, sub)
	}
	return ofTruths(r, sub)
}

func constant(r *rand.Rand, kind byte) *expr {
	var v value
	var text string
	switch kind {
	case 'n':
		text = pick(r, "0.5", "3", "100", "2.25", "7")
		n, _ := new(big.Rat).SetString(text)
		v = counted(n)
	case 't':
		word := pick(r, oracleWords...)
		text, v = quoted(word), texted(word)
	default:
		is := r.IntN(2) == 0
		text, v = fmt.Sprint(is), verdict(is)
	}
	return &expr{text, kind, func(map[string]value) value { return v }}
}

func either(c, x, y *expr) *expr {
	return &expr{fmt.Sprintf("(%s ? %s : %s)", c.text, x.text, y.text), x.kind, func(cells map[string]value) value {
		v := c.of(cells)
		switch {
		case v.failed || v.kind == 0:
			return v
		case v.true:
			return x.of(cells)
		}
		return y.of(cells)
	}}
}

func ofNumbers(r *rand.Rand, sub func(byte) *expr) *expr {
	two := func(format string, of func(x, y *big.Rat) *big.Rat) *expr {
		return over('n', format, func(v []value) value { return counted(of(v[0].number, v[1].number)) }, sub('n'), sub('n'))
	}
	switch r.IntN(9) {
	case 0:
		return two("(%s + %s)", func(x, y *big.Rat) *big.Rat { return new(big.Rat).Add(x, y) })
	case 1:
		return two("(%s - %s)", func(x, y *big.Rat) *big.Rat { return new(big.Rat).Sub(x, y) })
	case 2:
		return two("(%s * %s)", func(x, y *big.Rat) *big.Rat { return new(big.Rat).Mul(x, y) })
	case 3:
		return over('n', "(%s / %s)", func(v []value) value {
			if v[1].number.Sign() == 0 {
				return value{failed: true}
			}
			return counted(new(big.Rat).Quo(v[0].number, v[1].number))
		}, sub('n'), columnNamed(pick(r, "n", "m"), 'n')) // a constant that can't be worked out is a mistake
	case 4:
		digits := r.IntN(3)
		return over('n', fmt.Sprintf("round(%%s, %d)", digits), func(v []value) value {
			p := power(digits)
			return counted(new(big.Rat).Quo(new(big.Rat).SetInt(halfEven(new(big.Rat).Mul(v[0].number, p))), p))
		}, sub('n'))
	case 5:
		return over('n', "floor(%s)", func(v []value) value { return counted(new(big.Rat).SetInt(floored(v[0].number))) }, sub('n'))
	case 6:
		x, y := sub('n'), sub('n')
		return &expr{fmt.Sprintf("sum(%s, %s)", x.text, y.text), 'n', func(cells map[string]value) value {
			out := value{}
			for _, v := range []value{x.of(cells), y.of(cells)} {
				switch {
				case v.failed:
					return v
				case v.kind != 0 && out.kind == 0:
					out = counted(v.number)
				case v.kind != 0:
					out = counted(new(big.Rat).Add(out.number, v.number))
				}
			}
			return out
		}}
	case 7:
		return over('n', "length(%s)", func(v []value) value { return counted(big.NewRat(int64(len(characters(v[0].text))), 1)) }, sub('t'))
	}
	return over('n', "(year(%s) + weekday(%[1]s))", func(v []value) value {
		at, _ := time.Parse(time.DateOnly, v[0].text)
		return counted(big.NewRat(int64(at.Year()+(int(at.Weekday())+6)%7+1), 1))
	}, sub('d'))
}

func ofTexts(r *rand.Rand, sub func(byte) *expr) *expr {
	switch r.IntN(6) {
	case 0:
		return over('t', "(%s + %s)", func(v []value) value { return texted(v[0].text + v[1].text) }, sub('t'), sub('t'))
	case 1:
		return over('t', "text(%s)", func(v []value) value { return texted(v[0].written()) }, sub('n'))
	case 2:
		from, n := pick(r, 1, 2, 4, -1, -3), 1+r.IntN(4)
		return over('t', fmt.Sprintf("part(%%s, %d, %d)", from, n), func(v []value) value {
			c := characters(v[0].text)
			start := from - 1
			if from < 0 {
				start = len(c) + from
			}
			end := min(len(c), start+n)
			start = max(0, start)
			if start >= end {
				return value{}
			}
			return texted(strings.Join(c[start:end], ""))
		}, sub('t'))
	case 3:
		mark, n := pick(r, "/", "-", " "), pick(r, 1, 2, -1)
		return over('t', fmt.Sprintf("piece(%%s, %q, %d)", mark, n), func(v []value) value {
			one, _ := nthOf(strings.Split(v[0].text, mark), n)
			return texted(one)
		}, sub('t'))
	case 4:
		what, with := pick(r, oracleWords...), pick(r, "", "_", "é")
		return over('t', fmt.Sprintf("replace(%%s, %s, %s)", quoted(what), quoted(with)), func(v []value) value {
			return texted(strings.ReplaceAll(v[0].text, what, with))
		}, sub('t'))
	}
	x, y := sub('t'), sub('t')
	return &expr{fmt.Sprintf("firstOf(%s, %s)", x.text, y.text), 't', func(cells map[string]value) value {
		v, w := x.of(cells), y.of(cells)
		switch {
		case v.failed:
			return v
		case w.failed:
			return w
		case v.kind != 0:
			return v
		}
		return w
	}}
}

func ofTruths(r *rand.Rand, sub func(byte) *expr) *expr {
	switch r.IntN(6) {
	case 0:
		sign := pick(r, "<", "<=", ">", ">=")
		return over('b', "(%s "+sign+" %s)", func(v []value) value {
			c := v[0].number.Cmp(v[1].number)
			return verdict(sign == "<" && c < 0 || sign == "<=" && c <= 0 || sign == ">" && c > 0 || sign == ">=" && c >= 0)
		}, sub('n'), sub('n'))
	case 1:
		kind := pick[byte](r, 'n', 't')
		x, y := sub(kind), sub(kind)
		return &expr{fmt.Sprintf("(%s == %s)", x.text, y.text), 'b', func(cells map[string]value) value {
			v, w := x.of(cells), y.of(cells)
			switch {
			case v.failed:
				return v
			case w.failed:
				return w
			case v.kind == 0 || w.kind == 0:
				return verdict(v.kind == w.kind)
			case kind == 'n':
				return verdict(v.number.Cmp(w.number) == 0)
			}
			return verdict(v.text == w.text)
		}}
	case 2:
		x := sub(pick[byte](r, 'n', 't'))
		return &expr{"blank(" + x.text + ")", 'b', func(cells map[string]value) value {
			v := x.of(cells)
			if v.failed {
				return v
			}
			return verdict(v.kind == 0)
		}}
	case 3:
		return over('b', "!%s", func(v []value) value { return verdict(!v[0].true) }, sub('b'))
	case 4:
		word := pick(r, oracleWords...)
		return over('b', "contains(%s, "+quoted(word)+")", func(v []value) value { return verdict(strings.Contains(v[0].text, word)) }, sub('t'))
	}
	x, y, sign := sub('b'), sub('b'), pick(r, "&&", "||")
	return &expr{fmt.Sprintf("(%s %s %s)", x.text, sign, y.text), 'b', func(cells map[string]value) value {
		decides := sign == "||" // the value of one side that decides
		v, w := x.of(cells), y.of(cells)
		for _, one := range []value{v, w} {
			if one.kind == 'b' && one.true == decides {
				return verdict(decides)
			}
		}
		for _, one := range []value{v, w} {
			if one.failed || one.kind == 0 {
				return one
			}
		}
		return verdict(!decides)
	}}
}
