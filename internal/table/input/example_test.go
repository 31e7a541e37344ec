package input_test

import (
	"fmt"
	"strings"

	"junvo/internal/table/input"
)

// What a source is shows in its content, not in its name.
func ExampleOpenAll() {
	src, err := input.OpenAll([]string{"-"}, input.Options{Stdin: strings.NewReader("{\"lot\": \"0042\", \"kg\": 7.25}\n{\"lot\": \"0117\"}\n")})
	if err != nil {
		panic(err)
	}
	defer src.Close()
	info := src.Info()
	fmt.Println(info.Format, info.Names, info.Typed)
	// Output: JSON lines [lot kg] true
}
