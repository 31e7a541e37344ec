package step_test

import (
	"fmt"

	"junvo/internal/step"
)

func Example() {
	take, err := step.New("take", map[string]step.Args{"after": "crate "})
	if err != nil {
		panic(err)
	}
	pad, err := step.New("pad", map[string]step.Args{"width": 4, "with": "0"})
	if err != nil {
		panic(err)
	}
	chain := step.Chain{{Name: "take", Step: take}, {Name: "pad", Step: pad}}
	for _, cell := range []string{"lot 25 / crate 7", "lot 26"} {
		out, changed, why := chain.Apply(cell)
		fmt.Printf("%q %b %q\n", out, changed, why)
	}
	// Output:
	// "0007" 11 ""
	// "lot 26" 0 "not-found"
}
