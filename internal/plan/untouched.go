package plan

import (
	"bytes"
	"fmt"

	"github.com/zeebo/xxh3"
)

// A drafted plan that goes to a file ends with a line that has a checksum of all before it. As long
// as that fits, no person has edited the plan, and a newer draft may take its place.

const draftedMark = "# as it was drafted: "

// Drafted returns the text of a drafted plan for a file, with the line that says so.
func Drafted(text []byte) []byte {
	return fmt.Appendf(bytes.Clone(text), "%s%016x\n", draftedMark, xxh3.Hash(text))
}

// Untouched reports whether the text of a plan is as it was drafted.
func Untouched(text []byte) bool {
	at := bytes.LastIndex(text, []byte(draftedMark))
	return at >= 0 && bytes.Equal(Drafted(text[:at]), text)
}
