package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Words for blanks are words of the source: what a step, an expression or a person puts there is no blank unless it is empty.
func TestWhatIsMadeIsNoBlank(t *testing.T) {
	t.Parallel()
	const words = "Spec,n\n1-2-3,1\nhake,2\ncod,3\n-,4\n,5\nn/a,6\nwhiting,7\nsole,8\nskate,9\n"
	for column, want := range map[string]string{
		`{steps: [{drop: digits}], blank-words: ["-", "n/a"]}`:                            "--|hake|cod||||whiting|sole|skate",
		`{steps: [{take: {from: 2, length: 1}}], blank-words: ["-"]}`:                     "-|a|o|||/|h|o|k",
		`{steps: [{substitute: {list: {cod: "N.A.", "n/a": none}}}], blank-words: ["-"]}`: "1-2-3|hake|N.A.|||none|whiting|sole|skate",
		`{steps: [{label: [{contains: ak, then: "-"}]}], blank-words: ["-", "n/a"]}`:      "1-2-3|-|cod||||whiting|sole|skate",
		`{steps: [{fill: "-"}], blank-words: ["-", "n/a"]}`:                               "1-2-3|hake|cod|-|-|-|whiting|sole|skate",
		`{steps: [{replace: {text: hake, with: "  "}}]}`:                                  "1-2-3||cod|-||n/a|whiting|sole|skate",
		`{compute: "n > 7 ? '-' : 'n/a'", blank-words: ["-"]}`:                            "n/a|n/a|n/a|n/a|n/a|n/a|n/a|-|-",
	} {
		f := newFolder(t)
		f.file("a.csv", words)
		f.file("p.yaml", "plan: 1\ncolumns: {Spec: "+column+", n: {to: integer}}\n")
		r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv")
		var got []string
		if r.code < 2 {
			for _, row := range f.records("o.csv")[1:] {
				got = append(got, row[0])
			}
		}
		assert.Equal(t, want, strings.Join(got, "|"), "%s: %s", column, r.err)
	}
}
