package e2e

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

func TestRowsAreOrdered(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "ship;kg;day\nzander;9,5;03.01.2021\nÄsche;;01.01.2021\nAal;10;02.01.2021\naal;x;02.01.2021\nBarsch;-3;04.01.2021\nBarsch;9,50;05.01.2021\n")
	plan := "plan: 1\nrows: {order-by: %s}\ncolumns:\n  ship: {}\n  kg: {to: decimal, decimal-mark: \",\", on-failure: keep-text}\n  day: {to: date, date-order: dmy}\n"
	for by, want := range map[string]string{
		"kg":                                   "Barsch -3, zander 9.5, Barsch 9.50, Aal 10, aal x, Äsche ",
		"[{kg: descending}]":                   "Aal 10, zander 9.5, Barsch 9.50, Barsch -3, aal x, Äsche ",
		"ship":                                 "aal x, Aal 10, Äsche , Barsch -3, Barsch 9.50, zander 9.5",
		"[{ship: descending}, kg]":             "zander 9.5, Barsch -3, Barsch 9.50, Äsche , Aal 10, aal x",
		"{day: descending}":                    "Barsch 9.50, Barsch -3, zander 9.5, Aal 10, aal x, Äsche ",
		"[day, {ship: descending}]":            "Äsche , Aal 10, aal x, zander 9.5, Barsch -3, Barsch 9.50",
		"[{kg: ascending}, {day: descending}]": "Barsch -3, Barsch 9.50, zander 9.5, Aal 10, aal x, Äsche ",
	} {
		f.file("p.yaml", fmt.Sprintf(plan, by))
		r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
		require.Equal(t, 1, r.code, r.err)
		var got []string
		for _, line := range strings.Split(strings.TrimSpace(f.read("o.csv")), "\n")[1:] {
			cells := strings.Split(line, ",")
			got = append(got, cells[0]+" "+cells[1])
		}
		assert.Equal(t, want, strings.Join(got, ", "), by)
	}
	assert.Equal(t, []string{"a.csv", "o.csv", "o.failures.csv", "p.yaml"}, f.names(), "no temporary files are left")
	for by, say := range map[string]string{
		"gk":               `line 2, column 18: unknown column of the output "gk"; did you mean "kg"?`,
		"[{kg: downward}]": `unknown order "downward"`,
		"[]":               "order-by is a column of the output, or a list of these",
		"[[kg]]":           "order-by names a column of the output",
	} {
		f.file("p.yaml", fmt.Sprintf(plan, by))
		r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
		assert.Equal(t, 2, r.code)
		assert.Contains(t, r.err, say)
	}
}

// More rows than are sorted at once, with an output of each kind and its origin: the same
// bytes for any number of workers, and the same rows as without an order.
func TestMoreRowsThanAreSortedAtOnce(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("no,text\n")
	const rows = 300_000 // more than are held
	for i := range rows {
		fmt.Fprintf(&b, "%d,%s\n", (i*7919)%1_000_003, strings.Repeat("some text ", 18))
	}
	f.file("a.csv", b.String())
	f.file("p.yaml", "plan: 1\nrows: {order-by: no}\ncolumns: {no: {to: integer}, text: {}}\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "one.csv", "--plan", "p.yaml", "--origin", "--workers", "1").code)
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "four.csv", "--plan", "p.yaml", "--origin", "--workers", "4").code)
	one := f.read("one.csv")
	assert.True(t, one == f.read("four.csv"), "the same for any number of workers")
	f.file("q.yaml", "plan: 1\ncolumns: {no: {to: integer}, text: {}}\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "plain.csv", "--plan", "q.yaml", "--origin").code)
	ordered, plain := strings.Split(one, "\n"), strings.Split(f.read("plain.csv"), "\n")
	assert.True(t, slices.IsSortedFunc(ordered[1:rows+1], func(x, y string) int { return firstNumber(t, x) - firstNumber(t, y) }))
	slices.Sort(ordered)
	slices.Sort(plain)
	assert.True(t, slices.Equal(ordered, plain), "no row is lost or changed")
}

func firstNumber(t *testing.T, line string) (n int) {
	t.Helper()
	_, err := fmt.Sscanf(line, "%d,", &n)
	require.NoError(t, err)
	return n
}

// Check and preview hold a column to being unique, too; and an answer is for its own row.
func TestUniqueColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no;kg\n001;5\n002;6\n001;7\n001;8\n")
	f.file("p.yaml", "plan: 1\ncolumns: {no: {to: code, must: {unique: true}}, kg: {to: integer}}\n")
	r := f.run("check", "a.csv", "--plan", "p.yaml")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.out, "2 cells failed")
	r = f.run("preview", "a.csv", "--plan", "p.yaml", "--column", "no")
	assert.Contains(t, r.out, "not-unique: row 1 has the same value")
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
	assert.Equal(t, 1, r.code)
	failures := f.read("o.failures.csv")
	assert.Contains(t, failures, "3,4,no,001,code,not-unique,row 1 has the same value,")
	lines := strings.Split(failures, "\n")
	f.file("answers.csv", lines[0]+"\n"+lines[1]+"003\n"+lines[2]+"002\n")
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml", "--fixes", "answers.csv")
	assert.Equal(t, 1, r.code, r.err)
	assert.Equal(t, "no,kg\n001,5\n002,6\n003,7\n,8\n", f.read("o.csv"))
	assert.Contains(t, f.read("o.failures.csv"), "4,5,no,001,code,not-unique,row 2 has the same value")
	r = f.runWith("no;kg\n1;2\n", "preview", "-", "--plan", "p.yaml")
	assert.Equal(t, 0, r.code, r.err)
	f.file("answers.csv", lines[0]+"\nx,4,no,001,code,not-unique,,,003\n")
	assert.Contains(t, f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml", "--fixes", "answers.csv").err, `"x" is no number of a row`)
}
