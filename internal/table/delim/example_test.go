package delim_test

import (
	"fmt"
	"io"
	"strings"

	"junvo/internal/table"
	"junvo/internal/table/delim"
)

func Example() {
	const file = "Harbour of Junvo, March\n\nspecies;kg\nhake;\"1.240,5\"\neel;\"7;\"\n"
	src, err := delim.Open(strings.NewReader(file), "landings.txt", -1, delim.Options{})
	if err != nil {
		panic(err)
	}
	info := src.Info()
	fmt.Printf("%s, delimiter %s, header in line %d\n", info.Encoding, info.Delimiter, info.HeaderRow)
	var b table.Block
	for ; err != io.EOF; err = src.Next(&b) {
		src.Split(&b)
		for row := range b.Rows {
			fmt.Printf("%q\n", b.RowCells(row))
		}
		b.Reset()
	}
	// Output:
	// utf-8, delimiter ;, header in line 3
	// ["hake" "1.240,5"]
	// ["eel" "7;"]
}
