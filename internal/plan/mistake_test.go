package plan

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each mistake says where it is, and what to write instead.
func TestMistakesSayTheWayOut(t *testing.T) {
	for _, tt := range []struct {
		text         string // below plan: 1 and columns:
		line, column int
		say          string
	}{
		{"  a:\n    from: x\n     to: text\n", 5, 6, "has its value already: begin it with 4 spaces, not 5"},
		{"  a:\n    to: text\n   b:\n    to: text\n", 5, 4, "this line begins with 3 spaces, and those that it could belong to with 2 or 4"},
		{"  a:\n    steps:\n      - trim\n        drop: x\n", 6, 9, "each entry of a list stands behind a dash of its own"},
		{"  a:\n    steps:\n      - take:\n        before: x\n", 6, 9, "the arguments of take stand indented further than its name, or in braces: take: {before: …}"},
		{"  a:\n    steps:\n      - drop: x\n        keep: y\n", 6, 9, "each step stands behind a dash of its own: drop and keep are two"},
		{"  a:\n    type: decimal\n", 4, 5, `unknown key "type"; did you mean "to"?`},
		{"  a: {to: number}\n", 3, 11, `unknown type "number"; did you mean "decimal"?`},
		{"  a: {steps: [{left: 3}]}\n", 3, 16, `unknown step "left"; did you mean "take"?`},
		{"  a: {split: {at: x, foo: 1}, into: {b: {}, c: {}}}\n", 3, 15, `unknown argument "foo"; there are at, `},
		{"  a: {steps: [{label: [{is: x, than: y}]}]}\n", 3, 23, `unknown argument "than"; did you mean "then"?`},
		{"  a: {steps: [{take: {befor: x}}]}\n", 3, 23, `unknown argument "befor"; did you mean "before"?`},
		{"  a: {compute: b + 1}\n  b: {compute: a + 1}\n", 3, 16, "column a is made of itself: a uses b, b uses a"},
		{"  a: {to: decimal, compute: a.before() + before(a)}\n", 3, 29, "column a is made of itself; previous takes a column that is made without this one, and what adds up from row to row is sumSoFar(x)"},
		{"  a: {join: [b]}\n  b: {join: [a]}\n", 3, 3, "column a is made of itself: a uses b, b uses a"},
		{"  a: {steps: [{take: {pattern: \"(\\d+)\"}}]}\n", 3, 35, `put the text into single quotes, as in '\d+'`},
		{"  a: {steps: [{take: {pattern: '(?<=x)y'}}]}\n", 3, 23, "RE2 does not look behind"},
		{"  a:\n    from: @x\n", 4, 11, "a text that begins with a sign stands in quotes"},
		{"  a:\n\tfrom: x\n", 4, 1, "this line has a tab"},
		{"  a:\n    from: x: y\n", 4, 11, "a text with a colon and a space in it stands in quotes"},
		{"  a: {compute: Net weight * 2}\n  Net weight: {to: decimal}\n", 3, 20, "in backquotes, as in `Net weight`"},
		{"  a: {compute: größe = 2}\n  größe: {to: decimal}\n", 3, 22, "write == to compare"},
		{"  a: {compute: x * 2}\n  größe: {to: decimal}\n", 3, 16, "the columns are größe"},
	} {
		_, err := Load([]byte("plan: 1\ncolumns:\n" + tt.text))
		var m Mistakes
		require.ErrorAs(t, err, &m, tt.text)
		assert.Contains(t, m[0].Say, tt.say, tt.text)
		assert.Equal(t, [2]int{tt.line, tt.column}, [2]int{m[0].Line, m[0].Column}, tt.text)
	}
}
