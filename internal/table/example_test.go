package table_test

import (
	"context"
	"fmt"
	"strings"

	"junvo/internal/table"
	"junvo/internal/table/delim"
)

// Workers share the blocks of a source, and what they made of them comes back in order.
func ExampleEach() {
	src, err := delim.Open(strings.NewReader("species,boxes\nhake,3\n\"eel, smoked\",12\n"), "landings.csv", -1, delim.Options{})
	if err != nil {
		panic(err)
	}
	work := func(_ int, b *table.Block) {
		var cells []string
		for row := range b.Rows {
			cells = append(cells, string(b.Cell(row, 0)))
		}
		b.Result = cells
	}
	err = table.Each(context.Background(), src, 2, work, func(b *table.Block) error {
		fmt.Println(b.Seq, b.Rows, b.Result)
		return nil
	})
	fmt.Println(err)
	// Output:
	// 0 2 [hake eel, smoked]
	// <nil>
}

func ExampleNearest() {
	fmt.Println(table.Nearest("net_wieght", []string{"Boxes", "Net weight", "Price"}))
	// Output: Net weight
}
