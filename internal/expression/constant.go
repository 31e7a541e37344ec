package expression

import (
	"cel.dev/cel-go/cel"
	celast "cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/types"
)

// A constant that can't be worked out, such as date("01.06.2025") or 1 / 0, is a mistake of whoever wrote it: it is
// found before any row is read, and not as a failure of every row.

// constants works out the parts of a checked expression that use no column, and returns the first that has no value.
func constants(env *cel.Env, checked *cel.Ast, m *mistakes) error {
	tree := checked.NativeRep()
	fixed := map[int64]bool{}
	var whole []celast.Expr // the largest of them
	celast.PostOrderVisit(tree.Expr(), celast.NewExprVisitor(func(x celast.Expr) {
		parts, ok := partsOf(x)
		for _, p := range parts {
			ok = ok && fixed[p.ID()]
		}
		if fixed[x.ID()] = ok; ok {
			return
		}
		for _, p := range parts {
			if fixed[p.ID()] && p.Kind() == celast.CallKind {
				whole = append(whole, p)
			}
		}
	}))
	if fixed[tree.Expr().ID()] {
		whole = append(whole, tree.Expr())
	}
	for _, x := range whole {
		if err := m.constant(env, tree, x); err != nil {
			return err
		}
	}
	return nil
}

// itemsOf returns a mistake where a list of numbers has an item of another type: the library takes a list of several
// types for one of any.
func (m *mistakes) itemsOf(tree *celast.AST) (err error) {
	celast.PostOrderVisit(tree.Expr(), celast.NewExprVisitor(func(x celast.Expr) {
		if x.Kind() != celast.CallKind || err != nil {
			return
		}
		call := x.AsCall()
		args := call.Args()
		if call.IsMemberFunction() {
			args = append([]celast.Expr{call.Target()}, args...)
		}
		if name := call.FunctionName(); len(args) != 1 || name != "sum" && name != "mean" || args[0].Kind() != celast.ListKind {
			return
		}
		for _, item := range args[0].AsList().Elements() {
			if t := tree.GetType(item.ID()); !t.IsExactType(numberType) && t.Kind() != types.NullTypeKind && err == nil {
				at := tree.SourceInfo().GetStartLocation(item.ID())
				line, column := m.place(at.Line(), at.Column()+1)
				err = &Error{line, column, mismatch(call.FunctionName(), "a list with a "+kinds.Replace(t.String()))}
			}
		}
	}))
	return err
}

// partsOf returns the parts of an expression, and whether it is worked out of them alone.
func partsOf(x celast.Expr) (parts []celast.Expr, ok bool) {
	switch x.Kind() {
	case celast.LiteralKind:
		return nil, true
	case celast.ListKind:
		return x.AsList().Elements(), true
	case celast.CallKind:
		call := x.AsCall()
		if call.IsMemberFunction() {
			parts = append(parts, call.Target())
		}
		return append(parts, call.Args()...), call.FunctionName() != blankOf
	}
	return nil, false
}

// constant works out an expression without columns, and says why it has no value, if it has none.
func (m *mistakes) constant(env *cel.Env, tree *celast.AST, x celast.Expr) error {
	part := celast.NewCheckedAST(celast.NewAST(x, tree.SourceInfo()), tree.TypeMap(), tree.ReferenceMap())
	program, err := env.PlanProgram(part)
	if err != nil {
		return nil // the whole will say so
	}
	if _, _, err = program.Eval(map[string]any{}); err == nil || isOfBlank(err) {
		return nil
	}
	at := tree.SourceInfo().GetStartLocation(x.ID())
	line, column := m.place(at.Line(), at.Column()+1)
	return &Error{line, column, "this has no value: " + err.Error()}
}
