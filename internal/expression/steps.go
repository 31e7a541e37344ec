package expression

import (
	"fmt"

	"cel.dev/cel-go/cel"
	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/decls"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"junvo/internal/step"
)

// The function steps takes a text through steps of a plan: steps(Tag, "keep: digits"). They are read when the expression is
// compiled, so that a mistake in them is found with its place, and a row costs no more than the steps themselves.

// stepsCall is the function that stands for a call of steps, with the number of its chain.
const stepsCall = "steps_of"

// steps reads the steps of a call.
func (r *rewriter) steps(x celast.Expr) {
	call := x.AsCall()
	args := call.Args()
	if call.IsMemberFunction() {
		args = append([]celast.Expr{call.Target()}, args...)
	}
	text, ok := types.String(""), false
	if len(args) == 2 && args[1].Kind() == celast.LiteralKind {
		text, ok = args[1].AsLiteral().(types.String)
	}
	if !ok {
		r.fail(x, `steps takes a text, and steps in quotes as plans have them: steps(Tag, "keep: digits")`)
		return
	}
	if r.ParseSteps == nil {
		r.fail(x, "there are no steps here")
		return
	}
	chain, err := r.ParseSteps(string(text))
	if err != nil {
		r.fail(args[1], "%s", err)
		return
	}
	if _, at := chain.Fill(); at >= 0 {
		r.fail(args[1], "fill is for the cells of a column: use firstOf(x, y) for a value in place of blank, and previous(x) for "+
			"that of the row before")
		return
	}
	r.next++
	n := r.fac.NewLiteral(r.next, types.String(fmt.Sprint(len(r.chains))))
	r.chains = append(r.chains, chain)
	x.SetKindCase(r.fac.NewCall(x.ID(), stepsCall, args[0], n))
}

// stepsOf declares the function that runs the chains of an expression.
func stepsOf(chains []step.Chain) cel.EnvOption {
	f := of(textType, func(args []ref.Val) ref.Val {
		var n int
		_, _ = fmt.Sscan(textAt(args, 1), &n) // we wrote it
		out, _, why := chains[n].Apply(textAt(args, 0))
		if why != 0 {
			return types.NewErr("the steps fail: %s", why)
		}
		return textOrBlank(out)
	}, textType, textType)
	return cel.Function(stepsCall, cel.Overload(stepsCall+"_text", f.args, f.gives, f.options()...), decls.DisableTypeGuards(true))
}
