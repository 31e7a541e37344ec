package workbook_test

import (
	"fmt"
	"os"
	"path/filepath"

	"junvo/internal/table"
	"junvo/internal/table/wholefile"
	"junvo/internal/table/workbook"
	"junvo/internal/value"
)

// A table that is written comes back with the types that it has.
func Example() {
	dir, err := os.MkdirTemp("", "example")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "landings.xlsx")
	f, err := wholefile.Create(path)
	if err != nil {
		panic(err)
	}
	fields := []table.Field{{Name: "lot", Type: value.Code}, {Name: "kg", Type: value.Decimal}}
	sink, err := workbook.NewSink(f, fields)
	if err != nil {
		panic(err)
	}
	rows := &table.Rows{Fields: fields, Count: 1, Cells: make([]table.Values, 2)}
	for i, text := range []string{"0042", "7.25"} {
		rows.Cells[i].Text = []byte(text)
		rows.Cells[i].AddMade(0)
	}
	if err := sink.Write(sink.Encode(nil, rows), rows); err != nil {
		panic(err)
	}
	if err := sink.Commit(); err != nil {
		panic(err)
	}
	r, err := os.Open(path)
	if err != nil {
		panic(err)
	}
	defer r.Close()
	info, err := r.Stat()
	if err != nil {
		panic(err)
	}
	src, err := workbook.Open(r, info.Size(), "landings.xlsx", "", workbook.Options{})
	if err != nil {
		panic(err)
	}
	var b table.Block
	if err := src.Next(&b); err != nil {
		panic(err)
	}
	src.Split(&b)
	fmt.Printf("%s: %q %q %v\n", src.Info().Format, src.Info().Names, b.RowCells(0), b.Kinds)
	// Output:
	// workbook: ["lot" "kg"] ["0042" "7.25"] [text number]
}
