package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// month makes a table of landings; the days are of one month.
func month(n int, more string) string {
	var b strings.Builder
	b.WriteString("lot;kg;day;note\n")
	for i := range 40 {
		fmt.Fprintf(&b, "A-%03d;%d,5;%02d.%02d.2021;ok\n", i, 10+i, 1+i%28, n)
	}
	return b.String() + more
}

// A draft remembers what the source held; check says what is new in the next file, which
// fits all the same unless it is held to all drift; accepting it keeps what a person wrote.
func TestWhatWasSeenIsComparedWith(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("jan.csv", month(1, ""))
	require.Equal(t, 0, f.run("draft", "jan.csv", "-o", "p.yaml").code)
	drafted := f.read("p.yaml")
	assert.Contains(t, drafted, "\nseen: ")
	assert.Contains(t, drafted, `kg: {type: decimal, smallest: "10.5", largest: "49.5", shapes: ["99,9"]}`)
	assert.Contains(t, drafted, `lot: {type: code, shapes: [A-999]}`)

	r := f.run("check", "jan.csv", "--plan", "p.yaml", "--strict")
	assert.Equal(t, 0, r.code, r.out)

	f.file("feb.csv", month(2, "AB-1;1000,5;01.02.2021;ok\n;;;\n;7,5;02.02.2021;\n"))
	r = f.run("check", "feb.csv", "--plan", "p.yaml")
	assert.Equal(t, 0, r.code, r.out)
	assert.Regexp(t, `shapes-new +lot: AA-9`, r.out)
	assert.Regexp(t, `shapes-new +kg: 9,9, 9999,9`, r.out)
	assert.Regexp(t, `range-widened +kg: up to 49.5 before, and up to 1000.5 now`, r.out)
	assert.Regexp(t, `range-widened +kg: from 10.5 before, and from 7.5 now`, r.out)
	assert.Contains(t, r.out, "the source fits the plan")
	assert.Equal(t, 1, f.run("check", "feb.csv", "--plan", "p.yaml", "--strict").code)
	assert.Equal(t, drafted, f.read("p.yaml"), "a check changes nothing")

	// A person's comments and layout stay, before the record and after it.
	mine := "# ours\n" + strings.Replace(drafted, "    to: code\n", "    to:   code   # see the harbour master\n", 1) + "# the end\n"
	f.file("p.yaml", mine)
	assert.Equal(t, 0, f.run("check", "feb.csv", "--plan", "p.yaml", "--accept").code)
	accepted := f.read("p.yaml")
	head, _, _ := strings.Cut(mine, "\nseen:")
	assert.True(t, strings.HasPrefix(accepted, head+"\nseen:"), accepted)
	assert.True(t, strings.HasSuffix(accepted, "\n# the end\n"), accepted)
	assert.Contains(t, accepted, "rows: 82")
	assert.Contains(t, accepted, `kg: {type: decimal, smallest: "7.5", largest: "1000.5", shapes: ["9,9", "99,9", "9999,9"]}`)
	assert.Contains(t, accepted, `lot: {type: code, blanks: 1, shapes: [A-999, AA-9]}`)
	r = f.run("check", "feb.csv", "--plan", "p.yaml", "--strict")
	assert.Equal(t, 0, r.code, r.out)

	// Half of a column blank, or not fitting, is told; a source that does not fit is not accepted.
	f.file("mar.csv", strings.ReplaceAll(month(3, ""), ";11,5;", ";eleven;"))
	r = f.run("check", "mar.csv", "--plan", "p.yaml", "--accept")
	assert.Equal(t, 1, r.code, r.out)
	assert.Equal(t, accepted, f.read("p.yaml"))
	f.file("apr.csv", month(4, strings.Repeat(";;01.04.2021;ok\n", 20)))
	r = f.run("check", "apr.csv", "--plan", "p.yaml")
	assert.Regexp(t, `blanks-moved +lot: blank: 1.2 % before, and 33.3 % now`, r.out)

	// Rows that are set aside in numbers make a source unfit, whatever the cells of the others hold.
	f.file("may.csv", strings.ReplaceAll(month(5, ""), "A-01", ";A-01"))
	r = f.run("check", "may.csv", "--plan", "p.yaml")
	assert.Equal(t, 1, r.code, r.out)
	assert.Regexp(t, `rows-moved +rows set aside: 1.2 % before, and 25.0 % now`, r.out)

	// Without a record of its own line the plan is not rewritten.
	f.file("q.yaml", "{plan: 1, columns: {lot: {to: code}}}\n")
	r = f.run("check", "jan.csv", "--plan", "q.yaml", "--accept")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "give it a line of its own")
	f.file("q.yaml", "plan: 1\ncolumns: {lot: {to: code}}")
	assert.Equal(t, 0, f.run("check", "jan.csv", "--plan", "q.yaml", "--accept").code)
	assert.True(t, strings.HasPrefix(f.read("q.yaml"), "plan: 1\ncolumns: {lot: {to: code}}\nseen: "))
	f.file("q.yaml", "plan: 1\ncolumns: {lot: {to: code}}\nseen: {rows: -1, columns: [lot]}\n")
	r = f.run("check", "jan.csv", "--plan", "q.yaml")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "line 3, column 14: a whole number from 0")
	assert.Contains(t, r.err, "columns is a map from the names")
}

// What a private column held is not written into the plan.
func TestWhatWasSeenOfPrivateColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("jan.csv", month(1, ""))
	require.Equal(t, 0, f.run("draft", "jan.csv", "-o", "p.yaml", "--private", "kg").code)
	assert.Contains(t, f.read("p.yaml"), `kg: {type: decimal, shapes: ["99,9"]}`)
	assert.NotContains(t, f.read("p.yaml"), "49.5")
	f.file("feb.csv", month(2, "A-900;7,5;01.02.2021;ok\n"))
	r := f.run("check", "feb.csv", "--plan", "p.yaml")
	assert.NotContains(t, r.out, "7.5")
	assert.Regexp(t, `shapes-new +kg: 9,9`, r.out)
}

// A draft offers to take off what stands before every number, and does not do so by itself.
func TestDraftOffersPrefixes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a;b\nNr. 12;LOT-88\nNr. 1.014;LOT-9\n;LOT-7\nNr. 7,5;LX-8\n")
	out := f.run("draft", "a.csv").out
	assert.Contains(t, out, `# a number follows "Nr. " in every cell that was looked at: to choose: steps: [{take: {after: "Nr. "}}] with to: integer or decimal`)
	assert.NotContains(t, out, `"LOT-"`)
	assert.Equal(t, 2, strings.Count(out, "\n    to: text"))
}
