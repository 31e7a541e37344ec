package teach_test

import (
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"junvo/internal/teach"
)

// Whatever the cells are, a search ends, and every rule that it returns gives what the examples show and says what it does.
func FuzzSearch(f *testing.F) {
	f.Add("lot 88 / crate 51", "8851", "lot 9 / crate 7", "97")
	f.Add("Petersen, Anke", "A. Petersen", "Lührs, Ole", "O. Lührs")
	f.Add("e\u0301té 12", "ÉTÉ", "👩\u200d👧 3", "3")
	f.Add("a\r\nb", "b", "c\r\nd", "d")
	f.Add("007", "7", "\u0663", "\u0663")
	f.Add("((x))", "(x)", "$1 \\d", "1")
	f.Fuzz(func(t *testing.T, a, x, b, y string) {
		if len(a)+len(b) > 200 || len(x)+len(y) > 60 || !utf8.ValidString(a+b+x+y) {
			t.Skip()
		}
		task := &teach.Task{Sources: []teach.Source{{Column: "Text"}}, Examples: []teach.Example{{Texts: []string{a}, Result: x}, {Texts: []string{b}, Result: y}}}
		for _, r := range task.Search() {
			assert.NotEmpty(t, r.Say(task.Sources))
			for _, e := range task.Examples {
				out, of := r.Apply(e.Texts)
				if e.None() {
					assert.NotEqual(t, teach.Answered, of)
				} else {
					assert.Equal(t, e.Result, out)
				}
			}
		}
	})
}
