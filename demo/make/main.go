// Command make writes the committed samples again.
package main

import (
	"io"
	"log"
	"os"

	"junvo/demo"
)

func main() {
	write(demo.Name, func(w io.Writer) error { return demo.Generate(demo.Options{Rows: demo.Rows, Source: w}) })
	write(demo.WorkbookName, writeWorkbook)
}

func write(name string, fill func(io.Writer) error) {
	f, err := os.Create(name)
	if err == nil {
		err = fill(f)
	}
	if err == nil {
		err = f.Close()
	}
	if err != nil {
		log.Fatal(err)
	}
}
