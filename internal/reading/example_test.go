package reading_test

import (
	"fmt"

	"junvo/internal/reading"
)

// A cell is read under every convention; the column decides which holds.
func Example() {
	r := reading.NewReader(nil)
	var counts []reading.Count
	for _, cell := range []string{"1.234 kg", "5.678,5 kg", "12 kg"} {
		x := r.Read([]byte(cell))
		counts = append(counts, reading.Count{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1})
	}
	done := reading.Conclude(counts, reading.Ask{})
	fmt.Println(done.Convention.Type, done.Convention.Say(counts))
	fmt.Println(string(done.Convention.Append(nil, []byte("1.234 kg"), r.Read([]byte("1.234 kg")))))
	// Output:
	// decimal decimal mark ",", group mark ".", unit kg
	// 1234
}
