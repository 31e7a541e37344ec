package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const lots = "Lot,Net weight,Landed on,Note: by hand\n" +
	"lot 88 / crate 51,\"1.240,5\",04.03.2021,fresh\n" +
	"lot 7 / crate 3,\"2,5\",05.03.2021,\n" +
	"lot 12 / crate 9,\"3,0\",25.03.2021,iced 2 h\n" +
	"lot 5 / crate 1,,26.04.2021,\"said \"\"no\"\"\"\n" +
	"lot 3 / crate 2,\"7,75\",26.04.2021,fresh\n"

// What is tried in one line is kept in the plan, which does the same again, byte for byte.
func TestEditsAreKeptInThePlan(t *testing.T) {
	t.Parallel()
	for name, edits := range map[string][]string{
		"a step":        {"--step", "Lot: take: {number: 1}"},
		"a list":        {"--step", "lot: [{take: {after: /}}, keep: digits]"},
		"several":       {"--step", "Lot: take: {before: /}", "--step", "Lot: keep: digits", "--step", "Note: by hand: case: upper"},
		"a computation": {"--compute", "twice = net_weight * 2", "--compute", "month = month(landed_on)", "--compute", "note = lower(text(twice))"},
		"conditions":    {"--keep-if", "net_weight < 1000", "--drop-if", `landed_on == date("2021-03-05")`},
		"names":         {"--rename", "Net weight=kg", "--only", "kg,Lot", "--keep-if", "kg > 2.5"},
		"an order":      {"--order-by", "-Net weight", "--only", "lot,Net weight"},
		"everything": {
			"--step", "Lot: take: {number: 1}", "--rename", "Lot=lot", "--compute", "value = round(lot * net_weight, 1)", "--drop-if", "value > 100",
			"--only", "value,lot,Net weight", "--order-by", "-lot,value",
		},
	} {
		f := newFolder(t)
		f.file("a.csv", lots)
		one := f.run(append([]string{"convert", "a.csv", "-o", "one.csv"}, edits...)...)
		require.LessOrEqual(t, one.code, 1, "%s: %s", name, one.err)
		two := f.run("convert", "a.csv", "-o", "two.csv", "--plan", "one.plan.yaml")
		assert.Equal(t, one.code, two.code, name)
		assert.Equal(t, f.read("one.csv"), f.read("two.csv"), name)
		if one.code == 1 {
			assert.Equal(t, f.read("one.failures.csv"), f.read("two.failures.csv"), name)
		}
		// The draft says the same in its own names, and a source that it was made from fits it.
		draft := f.run(append([]string{"draft", "a.csv", "--keep-names"}, edits...)...)
		require.Equal(t, 0, draft.code, "%s: %s", name, draft.err)
		drafted, _, _ := strings.Cut(draft.out, "\nseen:")
		assert.True(t, strings.HasPrefix(f.read("one.plan.yaml"), drafted), name)
		check := f.run("check", "a.csv", "--plan", "one.plan.yaml")
		assert.Contains(t, check.out, "drift in 0 points", name)
		preview := f.run(append([]string{"preview", "a.csv"}, edits...)...)
		require.Equal(t, 0, preview.code, "%s: %s", name, preview.err)
	}
}

// What a condition uses is worked out, and what that is made of, too, though none of it is among the columns that are named.
func TestOnlySomeColumnsWithConditionsOnOthers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a,b,c\n1,2,x\n3,4,y\n")
	r := f.run("convert", "a.csv", "-o", "-", "--compute", "v = w * 2", "--compute", "w = a * b", "--keep-if", "v > 5", "--only", "c")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "c\ny\n", r.out)
	r = f.run("convert", "a.csv", "-o", "-", "--compute", "v = w * 2", "--compute", "w = a * b", "--only", "v")
	assert.Equal(t, "v\n4\n24\n", r.out)
}

func TestEditsGiveWhatTheySay(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", lots)
	f.run("convert", "a.csv", "-o", "o.csv", "--step", "Lot: take: {number: 1}", "--rename", "Lot=lot", "--compute", "value = lot * net_weight",
		"--drop-if", "value > 100000", "--only", "value,lot", "--order-by", "-lot", "--only", "Net weight")
	assert.Equal(t, "value,lot,Net weight\n36,12,3.0\n17.5,7,2.5\n,5,\n23.25,3,7.75\n", f.read("o.csv"))
	// A profile after the steps tells what they leave.
	r := f.run("profile", "a.csv", "--step", "Lot: take: {number: 1}", "--format", "csv")
	assert.Contains(t, r.out, "Lot,text,integer,")
	assert.Contains(t, f.run("profile", "a.csv", "--format", "csv").out, "Lot,text,text,")
	assert.Equal(t, lots, f.read("a.csv"))
}

// A wrong edit names itself, and nothing is written.
func TestWrongEdits(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", lots)
	f.file("p.yaml", "plan: 1\ncolumns: {Lot: {to: text}}\n")
	for _, tt := range []struct{ args, want string }{
		{"--step|Lott: trim", `there is no column "Lott". Did you mean "Lot"?`},
		{"--step|Lot trim", `--step takes COLUMN: STEP, as in 'Remark: keep: digits', not "Lot trim"`},
		{"--step|Lot: tirm", `--step "Lot: tirm": unknown step "tirm"; did you mean "trim"?`},
		{"--step|Lot: [trim", `--step "Lot: [trim": this is no YAML`},
		{"--step|Lot: pad: 3", `--step "Lot: pad: 3": step pad`},
		{"--step|Lot:", `--step "Lot:": `},
		{"--compute|x", `--compute takes NAME = EXPRESSION, as in 'value = net_weight * price', not "x"`},
		{"--compute|x == 3", `--compute takes NAME = EXPRESSION`},
		{"--compute|Lot = 3", `--compute "Lot = 3": the output has a column "Lot" already`},
		{"--compute|x = nope * 2", `there is no column and no function "nope"`},
		{"--compute|x = Lot * 2", "* does not go with (text, number): say that the column is a number with --as NAME=decimal"},
		{"--compute|x = y|--compute|y = x", "column x is made of itself"},
		{"--keep-if|net_weight", "a condition is true or false, and this is a decimal"},
		{"--drop-if|net_weight >", "the expression ends before it is complete"},
		{"--rename|Lot", "--rename takes OLD=NEW"},
		{"--rename|Lot=Net weight", `--rename "Lot=Net weight": the output has a column "Net weight" already`},
		{"--only|Lot,Nope", `there is no column "Nope"`},
		{"--order-by|-Nope", `there is no column "Nope"`},
		{"--plan|p.yaml|--only|Lot", "--plan can't be used together with flags that change what is drafted: --only. Change the plan"},
	} {
		r := f.run(append([]string{"convert", "a.csv", "-o", "o.csv"}, strings.Split(tt.args, "|")...)...)
		require.Equal(t, 2, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
		assert.Equal(t, 1, strings.Count(r.err, "\n"), "one line: %s", r.err)
		assert.Equal(t, []string{"a.csv", "p.yaml"}, f.names(), tt.args)
	}
	assert.Equal(t, 2, f.run("profile", "a.csv", "--step", "Lot: trim", "--rows-of", "mixed").code)
}

// Steps are taken by cells of any source: of records, which store what they are, too.
func TestStepsOfOtherSources(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.jsonl", `{"lot": "lot 88", "n": 7}`+"\n"+`{"lot": null, "n": "8 kg"}`+"\n"+`{"lot": "", "n": 9.5}`+"\n")
	r := f.run("convert", "a.jsonl", "-o", "o.csv", "--step", "lot: keep: digits", "--step", "n: keep: [digits, .]")
	require.Equal(t, 0, r.code, r.err+r.out)
	assert.Equal(t, "lot,n\n88,7\n,8\n,9.5\n", f.read("o.csv"))
	f.file("q.csv", "a;b\n\"say \"\"x\"\"; 1\";\"two\nlines\"\n 2 ;\n")
	r = f.run("convert", "q.csv", "-o", "q.out.csv", "--step", `a: drop: ['"', ";"]`, "--step", "b: case: upper")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "a,b\nsay x 1,\"TWO\nLINES\"\n 2 ,\n", f.read("q.out.csv"))
}
