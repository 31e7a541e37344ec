package plan_test

import (
	"fmt"

	"junvo/internal/plan"
)

func Example() {
	p, err := plan.Load([]byte("plan: 1\ncolumns:\n  kg: {from: Net weight, to: decimal, decimal-mark: \",\"}\n  half: {compute: kg / 2}\n"))
	if err != nil {
		panic(err)
	}
	fmt.Println(p.Columns[1].Convention.Type, p.Reads())
	_, err = p.Bind([]string{"Lot", "Net wieght"})
	fmt.Println(err)
	// Output:
	// decimal [Net weight]
	// the plan reads the column "Net weight", and the source has no such column; it has "Net wieght"
}
