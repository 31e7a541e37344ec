package e2e

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const weighed = "\xef\xbb\xbfid;weight;landed\n1;1.240,5\u00a0kg;04.03.2021\n2;99,1;25.03.2021\n3;l2,5;05.03.2021\n4;;\n5;99,1;31.12.2020\n" +
	"6;12,5 kg;01.02.2021\n7;13,5 kg;01.02.2021\n8;14,5 kg;01.02.2021\n9;7 kg;01.02.2021\n10;7 kg;01.02.2021\n11;8 kg;01.02.2021\n"

func TestWhy(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", weighed)
	for _, tt := range []struct {
		args []string
		want []string
	}{
		{
			[]string{"--row", "1", "--column", "weight"},
			[]string{"a.csv, row 1 (line 2)", "«1.240,5⟨U+00A0⟩kg»", "8: U+00A0 NO-BREAK SPACE", `decimal 1240.5, with decimal mark ",", unit kg`, "so it becomes      1240.5"},
		},
		{
			[]string{"--line", "4", "--column", "Weight"},
			[]string{"row 3 (line 4)", "letters that look like digits", "so it fails        not-a-number", "what to do"},
		},
		{[]string{"--row", "2", "--column", "weight"}, []string{"1 other cell with the same text, 1 other cell of the same shape"}},
		{[]string{"--row", "4", "--column", "weight"}, []string{"blank: empty", "so it becomes      blank"}},
		{[]string{"--row", "1", "--column", "landed"}, []string{"2021-03-04, with day first", "2021-04-03, with month first", "day first, with '.'", "so it becomes      2021-03-04"}},
	} {
		r := f.run(append([]string{"why", "a.csv"}, tt.args...)...)
		require.Equal(t, 0, r.code, r.err)
		for _, w := range tt.want {
			assert.Contains(t, r.out, w, tt.args)
		}
	}
}

func TestWhyOfATextByItself(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := f.run("why", "--value", "1.240,5 kg", "--as", "decimal", "--format", "json")
	require.Equal(t, 0, r.code, r.err)
	var a struct {
		Readings []struct{ Reading, Value, Needs string }
		Result   *string
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &a))
	require.Len(t, a.Readings, 1)
	assert.Equal(t, "1240.5", a.Readings[0].Value)
	assert.Equal(t, "1240.5", *a.Result)
	assert.Contains(t, f.run("why", "--value", "1.234").out, "the decimal mark is undecided")
	assert.Contains(t, f.run("why", "--value", "29.02.2021", "--as", "date").out, "no-such-day")
	assert.Contains(t, f.run("why", "--value", "\x1b[31mred").out, "⟨U+001B⟩[31mred")
}

func TestWhyFollowsThePlan(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", weighed)
	f.file("p.yaml", `plan: 1
columns:
  kilo: {from: weight, steps: [{drop: [spaces]}, {take: {before: "k"}}], to: decimal, decimal-mark: ",", group-marks: ["."], must: {between: [0, 100]}}
`)
	r := f.run("why", "a.csv", "--row", "1", "--column", "kilo", "--plan", "p.yaml")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "drop: [spaces]  makes  «1.240,5kg»")
	assert.Contains(t, r.out, `take: {before: k}  makes  «1.240,5»`)
	assert.Contains(t, r.out, "so it fails        out-of-range")
	r = f.run("why", "a.csv", "--row", "2", "--column", "weight", "--plan", "p.yaml")
	assert.Contains(t, r.out, "take: {before: k}  fails: not-found")
	r = f.run("why", "--value", "12,50 kg", "--column", "kilo", "--plan", "p.yaml", "--format", "json")
	var a struct {
		Steps   []struct{ Step, Text string }
		Reading string
		Result  string
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &a))
	assert.Equal(t, "12,50", a.Steps[1].Text)
	assert.Equal(t, []string{"decimal", "12.50"}, []string{a.Reading, a.Result})
	assert.Contains(t, f.run("why", "a.csv", "--row", "4", "--column", "kilo", "--plan", "p.yaml").out, "so it becomes      blank")
	assert.Contains(t, f.run("why", "a.csv", "--row", "4", "--column", "kila", "--plan", "p.yaml").err, `Did you mean "kilo"?`)
	assert.Contains(t, f.run("why", "--value", "x", "--plan", "p.yaml").err, "name the column of the plan")
}

// What the steps make of a text is said before what it is, and a cell that is kept as text is said to be.
func TestWhySaysTheStepsFirst(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	out := f.run("why", "--value", "lot 88 / crate 51", "--step", "take: {digits: -1}").out
	assert.Regexp(t, `(?s)«lot 88 / crate 51».*makes  «51»\n  can be +integer 51\n  by itself it is +integer`, out)
	out = f.run("why", "--value", "lot", "--step", "take: {digits: 1}").out
	assert.Contains(t, out, "fails: not-found\n  so it fails")
	out = f.run("why", "--value", "lot", "--step", "drop: letters").out
	assert.NotContains(t, out, "can be")
	assert.Contains(t, out, "so it becomes      blank")
	f.file("a.csv", "id,kg\na,\"1,300\"\nb,\"2,500\"\nc,-\n")
	require.LessOrEqual(t, f.run("convert", "a.csv", "-o", "o.csv").code, 1)
	out = f.run("why", "a.csv", "--plan", "o.plan.yaml", "--row", "1", "--column", "kg").out
	assert.Contains(t, out, "1,300, kept as text: the plan leaves the column undecided")
	assert.NotContains(t, f.run("why", "a.csv", "--plan", "o.plan.yaml", "--row", "1", "--column", "id").out, "kept")
	assert.Contains(t, f.run("why", "a.csv", "--plan", "o.plan.yaml", "--row", "1", "--column", "kg", "--format", "json").out,
		`"kept": true`)
}

func TestWhyIsAskedWrongly(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", weighed)
	for _, tt := range []struct {
		args []string
		want string
	}{
		{[]string{"why"}, "which cell"},
		{[]string{"why", "a.csv"}, "--row"},
		{[]string{"why", "a.csv", "--row", "1"}, "--column"},
		{[]string{"why", "a.csv", "--row", "1", "--line", "2", "--column", "weight"}, "--row or its --line"},
		{[]string{"why", "a.csv", "--row", "99", "--column", "weight"}, "the source has 11"},
		{[]string{"why", "a.csv", "--row", "1", "--column", "wieght"}, `Did you mean "weight"?`},
		{[]string{"why", "a.csv", "--value", "x"}, "takes the place"},
		{[]string{"why", "--value", "x", "--as", "number"}, "takes a type"},
	} {
		r := f.run(tt.args...)
		assert.Equal(t, 2, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
	}
}
