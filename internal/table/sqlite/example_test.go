package sqlite_test

import (
	"fmt"
	"os"
	"path/filepath"

	"junvo/internal/table"
	"junvo/internal/table/sqlite"
	"junvo/internal/value"
)

// A table that is written can be asked in SQL.
func Example() {
	dir, err := os.MkdirTemp("", "example")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "harbour.db")
	fields := []table.Field{{Name: "lot", Type: value.Code}, {Name: "kg", Type: value.Decimal}}
	sink, err := sqlite.NewSink(path, fields, sqlite.SinkOptions{Table: "landings"})
	if err != nil {
		panic(err)
	}
	defer sink.Abort()
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
	src, err := sqlite.Open(path, -1, "harbour.db", "SELECT lot, kg * 2 AS twice FROM landings")
	if err != nil {
		panic(err)
	}
	var b table.Block
	if err := src.Next(&b); err != nil {
		panic(err)
	}
	src.Split(&b)
	fmt.Printf("%q %q %v\n", src.Info().Names, b.RowCells(0), b.Kinds)
	// Output:
	// ["lot" "twice"] ["0042" "14.5"] [text number]
}
