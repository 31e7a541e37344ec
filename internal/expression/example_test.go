package expression_test

import (
	"fmt"

	"junvo/internal/expression"
	"junvo/internal/value"
)

func Example() {
	e, err := expression.Compile("price * net_weight", []expression.Variable{{Name: "price", Type: value.Decimal}, {Name: "net_weight", Type: value.Decimal}})
	if err != nil {
		panic(err)
	}
	row := map[string]string{"price": "0.1", "net_weight": "12.50"}
	fmt.Println(e.Eval(func(i int) string { return row[e.Uses[i]] }, nil))
	// Output: 1.25 <nil>
}
