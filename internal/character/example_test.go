package character_test

import (
	"fmt"

	"junvo/internal/character"
)

func Example() {
	fmt.Println(character.Shape("LOT 25 / crate 7"))
	fmt.Println(character.Stray('\u00a0'), character.Invisible('\u200b'))
	fmt.Println(character.Count("Gro\u0308\u00dfe"))
	// Output:
	// AAA 99 / aaaaa 9
	// true true
	// 5
}
