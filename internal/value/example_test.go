package value_test

import (
	"fmt"

	"junvo/internal/value"
)

func Example() {
	var sum value.Sum
	for _, text := range []string{"0.1", "0.2", "123456789012345678901234567890.7"} {
		n, err := value.ParseNumber(text)
		if err != nil {
			panic(err)
		}
		sum.Add(n, 1)
	}
	fmt.Println(sum.Number())
	_, ok := value.NewDay(2021, 2, 30)
	fmt.Println(ok)
	// Output:
	// 123456789012345678901234567891.0
	// false
}
