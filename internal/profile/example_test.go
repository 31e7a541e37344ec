package profile_test

import (
	"context"
	"fmt"
	"strings"

	"junvo/internal/profile"
	"junvo/internal/table/delim"
)

func Example() {
	const landings = "buyer,kg\n0042,\"1.240,5\"\n0117,\"99,1\"\n0042,-\n0311,\"7,25\"\n"
	src, err := delim.Open(strings.NewReader(landings), "landings.csv", -1, delim.Options{})
	if err != nil {
		panic(err)
	}
	p, err := profile.Run(context.Background(), src, profile.Options{Workers: 2})
	if err != nil {
		panic(err)
	}
	for _, c := range p.Columns {
		conv := c.Conclusion.Convention
		fmt.Printf("%s: %s (%s)\n", c.Name, conv.Type, conv.Say(c.Counts))
		for _, f := range c.Findings {
			fmt.Println("  ", f.Kind, f.Count, f.Rows)
		}
	}
	// Output:
	// buyer: code ()
	//    leading-zeros 4 [1 2 3 4]
	// kg: decimal (decimal mark ",", group mark ".")
	//    numbers-as-text 3 [1 2 4]
	//    blanks-as-text 1 [3]
}
