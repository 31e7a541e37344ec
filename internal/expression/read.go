package expression

import (
	"sync"

	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"junvo/internal/reading"
	"junvo/internal/value"
)

// Texts that are not in canonical form are read as columns are, under a convention that the call names:
// number("1.240,5", ",") and date("3.4.2021", "dmy").

// readers are those that are not at work. A reader is used by one call at a time.
var readers = sync.Pool{New: func() any { return reading.NewReader(nil) }}

// conventionOf returns the convention of a call of number or date by its second argument, and what is wrong with that, "" for
// nothing.
func conventionOf(t value.Type, how string) (c reading.Convention, wrong string) {
	terms := reading.Terms{DecimalMark: how}
	if t == value.Date {
		terms = reading.Terms{DateOrder: map[string]string{"": how}}
		if _, ok := reading.ParseOrder(how); !ok {
			return c, `the order of a date is "dmy", "mdy" or "ymd"`
		}
	} else if _, ok := reading.ParseMark(how); !ok {
		return c, `the decimal mark is "." or ","`
	}
	c, err := terms.Convention(t)
	if err != nil {
		return c, err.Error()
	}
	return c, ""
}

// readAs makes a function that reads a text as a type under the convention that its second argument names.
func readAs(t value.Type) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val {
		c, wrong := conventionOf(t, textAt(args, 1))
		if wrong != "" {
			return types.NewErr("%s", wrong)
		}
		r := readers.Get().(*reading.Reader)
		defer readers.Put(r)
		text := []byte(textAt(args, 0))
		x := r.Read(text)
		switch kind, fits := c.Judge(x.Set, x.Form); {
		case kind == reading.AsBlank:
			return types.NullValue
		case !fits:
			if t == value.Date {
				return types.NewErr("%q is not a date in the order %s", text, textAt(args, 1))
			}
			return types.NewErr("%q is not a number with the decimal mark %s", text, textAt(args, 1))
		}
		return valueOf(t, string(c.Append(nil, text, x)))
	}
}

// itself gives the value that it is given.
func itself(args []ref.Val) ref.Val { return args[0] }

// convention finds calls of number and date whose second argument names no convention.
func (r *rewriter) convention(x celast.Expr, t value.Type) {
	call := x.AsCall()
	args := call.Args()
	if call.IsMemberFunction() {
		args = append([]celast.Expr{call.Target()}, args...)
	}
	if len(args) != 2 || args[1].Kind() != celast.LiteralKind {
		return
	}
	if how, ok := args[1].AsLiteral().(types.String); ok {
		if _, wrong := conventionOf(t, string(how)); wrong != "" {
			r.fail(args[1], "%s, not %q", wrong, string(how))
		}
	}
}
