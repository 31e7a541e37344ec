package rowkind_test

import (
	"fmt"

	"junvo/internal/rowkind"
)

func Example() {
	r := rowkind.NewReader([]string{"port", "kg", "boxes"}, nil, nil)
	for _, row := range [][]string{{"North Quay", "12.5", "3"}, {"Total", "120.5", "31"}, {"port", "kg", "boxes"}, {"", "", ""}} {
		fmt.Println(r.Kind(func(column int) []byte { return []byte(row[column]) }, false))
	}
	// Output:
	// data
	// full-total
	// repeated-heading
	// blank-row
}
