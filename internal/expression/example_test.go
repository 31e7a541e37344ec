package expression_test

import (
	"fmt"

	"junvo/internal/expression"
	"junvo/internal/value"
)

// cells is a row of columns that have a value each, and are asked for nothing else.
type cells []string

func (c cells) Cell(i int) string          { return c[i] }
func (cells) Failed(int) bool              { return false }
func (cells) Raw(int) string               { return "" }
func (cells) Stored(int) string            { return "text" }
func (cells) Number() int64                { return 1 }
func (cells) Earlier(int) (string, string) { return "", "" }

func Example() {
	columns := []expression.Variable{{Name: "price", Type: value.Decimal}, {Name: "Net weight", Type: value.Decimal}}
	e, err := expression.Compile("price * `Net weight`", columns, expression.Means{})
	if err != nil {
		panic(err)
	}
	fmt.Println(e.Uses)
	fmt.Println(e.Eval(cells{"0.1", "12.50"}))
	// Output:
	// [price Net weight]
	// 1.25 <nil>
}
