package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Parts of a table that are converted by themselves, each with the number of its first row, give what the whole gives: the same rows,
// failures and rows set aside, with the same numbers, and ledgers that make that of the whole.
func TestPartsOfATable(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	heading := "no,kg,at\n"
	rows := make([]string, 9000)
	for i := range rows {
		rows[i] = fmt.Sprintf("%05d,\"%d,%d kg\",%02d.03.2021\n", i, i, i%10, i%28+1)
		switch i % 701 {
		case 5:
			rows[i] = fmt.Sprintf("%05d,many,31.02.2021\n", i)
		case 9:
			rows[i] = ",,\n"
		}
	}
	f.file("whole.csv", heading+strings.Join(rows, ""))
	require.Equal(t, 0, f.run("draft", "whole.csv", "-o", "p.yaml").code)
	plan := strings.Replace(f.read("p.yaml"), "columns:\n", "columns:\n  n:\n    compute: row()\n    to: integer\n", 1)
	f.file("p.yaml", plan)
	r := f.run("convert", "whole.csv", "--plan", "p.yaml", "-o", "whole.out.csv", "--origin", "--ledger", "whole.json", "--format", "json")
	require.Equal(t, 1, r.code, r.err)
	var out, failures, aside []string
	args := []string{"combine"}
	from := 0
	for i, to := range []int{1, 2500, 2501, 9000} {
		part := fmt.Sprintf("part%d", i)
		f.file(part+".csv", heading+strings.Join(rows[from:to], ""))
		r := f.run("convert", part+".csv", "--plan", "p.yaml", "-o", part+".out.csv", "--origin", "--ledger", part+".json", "--first-row", fmt.Sprint(from+1))
		require.LessOrEqual(t, r.code, 1, r.err)
		for _, record := range f.records(part + ".out.csv")[1:] {
			out = append(out, strings.Join(append(record[:4:4], record[5]), "|")) // not the file and the line, which are those of the part
		}
		for name, to := range map[string]*[]string{part + ".out.failures.csv": &failures, part + ".out.setaside.csv": &aside} {
			if strings.Contains(strings.Join(f.names(), " "), name) {
				for _, record := range f.records(name)[1:] {
					*to = append(*to, record[0]+"|"+strings.Join(record[2:], "|"))
				}
			}
		}
		args = append(args, part+".json")
		from = to
	}
	var wantOut, wantFailures, wantAside []string
	for _, record := range f.records("whole.out.csv")[1:] {
		wantOut = append(wantOut, strings.Join(append(record[:4:4], record[5]), "|"))
	}
	for name, to := range map[string]*[]string{"whole.out.failures.csv": &wantFailures, "whole.out.setaside.csv": &wantAside} {
		for _, record := range f.records(name)[1:] {
			*to = append(*to, record[0]+"|"+strings.Join(record[2:], "|"))
		}
	}
	assert.Equal(t, wantOut, out)
	assert.Equal(t, wantFailures, failures)
	assert.Equal(t, wantAside, aside)

	// The ledgers are one; only the names of the files differ.
	all := f.run(append(args, "--format", "json")...)
	require.Equal(t, 1, all.code, all.err)
	f.file("all.json", all.out)
	same := func(text string) map[string]any {
		var doc map[string]any
		require.NoError(t, json.Unmarshal([]byte(text), &doc))
		delete(doc, "output")
		delete(doc, "files")
		return doc
	}
	assert.Equal(t, same(f.read("whole.json")), same(all.out))
	assert.Contains(t, f.run(args...).out, "rows: 9000 in = 8987 out + 13 set aside (13 blank-rows)")
	again := f.run("combine", "all.json", "--format", "json")
	assert.Equal(t, same(all.out), same(again.out), "a combined ledger is a ledger")

	// What is none, and what is of another plan, is refused.
	require.LessOrEqual(t, f.run("convert", "part0.csv", "-o", "x.csv", "--as", "kg=text", "--ledger", "x.json").code, 1)
	r = f.run("combine", "part1.json", "x.json")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "x.json: its column")
	for name, text := range map[string]string{
		"none.json": "{}", "cut.json": f.read("part0.json")[:100], "wrong.json": strings.Replace(f.read("part1.json"), `"out": `, `"out": 1`, 1),
		"more.json": strings.Replace(f.read("part0.json"), `"junvo": 1`, `"junvo": 1, "extra": 2`, 1),
	} {
		f.file(name, text)
		r := f.run("combine", name)
		assert.Equal(t, 3, r.code, name)
		assert.Contains(t, r.err, "it is no ledger that junvo convert --ledger has written", name)
	}
	assert.Equal(t, 2, f.run("convert", "part0.csv", "--plan", "p.yaml", "-o", "x.csv", "--first-row", "0").code)
}

// Values that stand twice are told by the rows of the whole.
func TestPartsThatMustBeUnique(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("p.yaml", "plan: 1\ncolumns:\n  no: {to: code, must: {unique: true}}\n")
	f.file("a.csv", "no\nA1\nA2\nA1\n")
	require.Equal(t, 1, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv", "--first-row", "101").code)
	failures := f.records("o.failures.csv")
	require.Len(t, failures, 2)
	assert.Equal(t, "103", failures[1][0])
	assert.Contains(t, strings.Join(failures[1], " "), "101")
}
