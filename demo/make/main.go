// Command make writes the committed sample again.
package main

import (
	"log"
	"os"

	"junvo/demo"
)

func main() {
	f, err := os.Create(demo.Name)
	if err != nil {
		log.Fatal(err)
	}
	if err := demo.Generate(demo.Options{Rows: demo.Rows, Source: f}); err != nil {
		log.Fatal(err)
	}
	if err := f.Close(); err != nil {
		log.Fatal(err)
	}
}
