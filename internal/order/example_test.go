package order_test

import (
	"context"
	"fmt"
	"os"

	"junvo/internal/order"
	"junvo/internal/value"
)

func Example() {
	keys := order.NewKeys([]order.Key{{Type: value.Decimal}})
	s := order.NewSorter(os.TempDir(), order.Memory)
	defer s.Close()
	for _, kg := range []string{"48", "7.25", "-1", "1240.5"} {
		key := keys.Append(nil, func(int) []byte { return []byte(kg) })
		if err := s.Add(order.AppendRecord(nil, key, []byte(kg))); err != nil {
			panic(err)
		}
	}
	err := s.Each(context.Background(), func(_, data []byte) error {
		fmt.Println(string(data))
		return nil
	})
	fmt.Println(err)
	// Output:
	// -1
	// 7.25
	// 48
	// 1240.5
	// <nil>
}
