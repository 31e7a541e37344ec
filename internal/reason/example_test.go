package reason_test

import (
	"fmt"

	"junvo/internal/reason"
)

func Example() {
	why := reason.NotWhole
	fmt.Println(why)
	fmt.Println(why.Entry().Say)
	// Output:
	// not-whole
	// The number has a fraction, and the column is integer.
}
