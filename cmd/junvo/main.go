// Junvo profiles tables whose numbers, dates and blanks are stored as text, and
// converts every column to its proper type.
package main

import (
	"os"

	"junvo/internal/cli"
)

func main() {
	os.Exit(cli.Main(os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}
