package jsonlines_test

import (
	"fmt"
	"io"
	"strings"

	"junvo/internal/table"
	"junvo/internal/table/jsonlines"
)

// A record stores what its values are, and the blocks of a source keep that.
func Example() {
	const records = "{\"lot\": \"0042\", \"kg\": 7.25}\n{\"lot\": \"0117\", \"kg\": null}\n"
	open := func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(records)), nil } // it is read twice
	src, err := jsonlines.Open(open, "landings.jsonl", "", int64(len(records)))
	if err != nil {
		panic(err)
	}
	var b table.Block
	for ; err != io.EOF; err = src.Next(&b) {
		src.Split(&b)
		for row := range b.Rows {
			fmt.Printf("%q %v\n", b.RowCells(row), b.Kinds[2*row:2*row+2])
		}
		b.Reset()
	}
	// Output:
	// ["0042" "7.25"] [text number]
	// ["0117" ""] [text null]
}
