package e2e

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// taught is what teach prints as JSON.
type taught struct {
	Examples, Cells, More int64
	Rules                 []struct {
		Name, Say, Plan        string
		Steps                  []string
		Answers, Leaves, Fails int64
	}
	Questions []struct {
		Row         int64
		Text, Shape string
		Cells       int64
		Answers     []struct {
			Result string
			Cells  int64
			Rules  []string
		}
	}
}

// teach runs teach and returns what it prints, which fits the schema and adds up.
func (f *folder) teach(code int, args ...string) (doc taught) {
	f.t.Helper()
	r := f.run(append([]string{"teach", "--format", "json"}, args...)...)
	require.Equal(f.t, code, r.code, "%v: %s", args, r.err)
	fits(f.t, "teach.schema.json", r.out)
	require.NoError(f.t, json.Unmarshal([]byte(r.out), &doc))
	for _, rule := range doc.Rules {
		assert.Equal(f.t, doc.Cells, rule.Answers+rule.Leaves+rule.Fails, "%v: %s", args, rule.Say)
	}
	assert.Equal(f.t, code == 0, len(doc.Questions) == 0)
	for _, q := range doc.Questions {
		named := 0
		for _, a := range q.Answers {
			named += len(a.Rules)
		}
		assert.Equal(f.t, len(doc.Rules), named, "every rule gives one of the answers")
	}
	return doc
}

const lotTexts = "Id,Lot text,Landed\n" +
	"1,lot 88 / crate 51,04.03.2021\n2,lot 9 / crate 120,05.03.2021\n3,,06.03.2021\n4,lot 7 / crate 51 (box 3),17.04.2021\n5,fresh,18.04.2021\n6,lot 12 / crate 4,19.04.2021\n"

// One example leaves questions open, which are told with exit code 1; their answers, row by row, leave one rule.
func TestTeachAsks(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", lotTexts)
	doc := f.teach(1, "a.csv", "Lot text", "--example", "lot 88 / crate 51 => 8851")
	require.Greater(t, len(doc.Rules), 1)
	assert.EqualValues(t, 6, doc.Cells)
	rows := map[int64][]string{}
	for _, q := range doc.Questions {
		for _, a := range q.Answers {
			rows[q.Row] = append(rows[q.Row], a.Result)
		}
	}
	assert.Subset(t, rows[4], []string{"7513", "73"}, "all digits, or the first and the last run")
	assert.Contains(t, rows, int64(5), "a cell for which no rule has an answer is a question, too")

	text := f.run("teach", "a.csv", "Lot text", "--row", "1 => 8851")
	assert.Equal(t, 1, text.code)
	assert.Contains(t, text.out, "keep: digits")
	assert.Contains(t, text.out, "lot 7 / crate 51 (box 3)")
	assert.Contains(t, text.out, `junvo teach a.csv 'Lot text' --row '1 => 8851' --row '`)
	for _, format := range []string{"csv", "markdown"} {
		r := f.run("teach", "a.csv", "Lot text", "--row", "1 => 8851", "--format", format)
		assert.Equal(t, 1, r.code)
		assert.Contains(t, r.out, "keep: digits")
	}

	done := f.teach(0, "a.csv", "Lot text", "--row", "1 => 8851", "--row", "4 => 7513", "--row", "5 =>", "--row", "6=>124")
	require.Len(t, done.Rules, 1)
	assert.Equal(t, []string{"keep: digits"}, done.Rules[0].Steps)
	assert.EqualValues(t, 4, done.Rules[0].Answers)
	assert.EqualValues(t, 2, done.Rules[0].Leaves)
}

// Examples may come from a file, by rows, as texts, and as texts without a result; all count alike.
func TestTeachReadsExamples(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", lotTexts)
	f.file("shown.csv", "text,result\nlot 12 / crate 4,4\nlot 7 / crate 51 (box 3),51\nfresh,\n")
	byFile := f.teach(0, "a.csv", "Lot text", "--examples", "shown.csv")
	mixed := f.teach(0, "a.csv", "lot TEXT", "--example", "lot 12 / crate 4 => 4", "--row", "4 => 51", "--not", "fresh")
	assert.Equal(t, byFile, mixed)
	assert.EqualValues(t, 4, mixed.Rules[0].Answers)
	assert.EqualValues(t, 2, mixed.Rules[0].Leaves)
	assert.Zero(t, mixed.Rules[0].Fails, "what has no result does not fail, since an example shows it")
	r := f.runWith(lotTexts, "teach", "-", "Lot text", "--examples", "shown.csv", "--format", "json")
	assert.Equal(t, 0, r.code, r.err)
}

// The rule is put into a plan, which is drafted where there is none, and nothing else in it changes.
func TestTeachWritesPlans(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", lotTexts)
	shown := []string{"teach", "a.csv", "Lot text", "--example", "lot 88 / crate 51 => 51", "--row", "4 => 51", "--row", "5 =>", "--row", "6 => 4"}
	into := func(name string) result {
		return f.run(append(shown, "--into", name, "--plan", "p.yaml", "--preview")...)
	}
	r := into("crate")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "51\n", "the preview")
	assert.Contains(t, r.err, "crate was added to p.yaml")
	plan := f.read("p.yaml")
	assert.Contains(t, plan, `- {from: "lot 88 / crate 51", gives: "51"}`)
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	var got []string
	for _, row := range f.records("o.csv")[1:] {
		got = append(got, row[len(row)-1])
	}
	assert.Equal(t, []string{"51", "120", "", "51", "", "4"}, got)
	assert.Equal(t, 0, f.run("check", "a.csv", "--plan", "p.yaml").code)

	again := into("crate")
	assert.Equal(t, 2, again.code)
	assert.Contains(t, again.err, `the plan has a column "crate" already`)
	assert.Equal(t, plan, f.read("p.yaml"))

	mine := "plan: 1\n# mine\ncolumns:\n    Id: {to: integer}   # the number\n\n    # the end of the columns\n\nblank-words: [\"-\"]\n"
	f.file("p.yaml", mine)
	require.Equal(t, 0, into("crate").code)
	edited := f.read("p.yaml")
	var kept []string
	for line := range strings.Lines(edited) {
		if strings.Contains(mine, line) {
			kept = append(kept, line)
		}
	}
	assert.Equal(t, mine, strings.Join(kept, ""), "every line of the plan is there, in its order")
	assert.Contains(t, edited, "\n    crate:\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o2.csv").code)

	f.file("p.yaml", strings.Replace(edited, "gives: \"51\"", "gives: \"52\"", 1))
	broken := f.run("check", "a.csv", "--plan", "p.yaml")
	assert.Equal(t, 1, broken.code)
	assert.Contains(t, broken.out, `example-broken`)
	assert.Contains(t, broken.out, `crate: "lot 88 / crate 51" gives "51" now, and was to give "52"`)
	f.file("p.yaml", "plan: 1\ncolumns: {Id: {to: integer}}\n")
	flow := into("crate")
	assert.Equal(t, 2, flow.code, "columns in braces can't be added to")
	assert.Contains(t, flow.err, "columns")
	assert.Equal(t, "plan: 1\ncolumns: {Id: {to: integer}}\n", f.read("p.yaml"))
}

// A result may be made of several columns, and what becomes of a blank one is asked.
func TestTeachSeveralColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "First,Last,Born\nAnke,Petersen,04.03.1961\nOle,Lührs,17.05.1970\n,Cher,18.05.1971\nJörg,Boysen,19.06.1972\n")
	doc := f.teach(1, "a.csv", "--from", "First,Last", "--example", "Anke | Petersen => Petersen, Anke", "--row", "2 => Lührs, Ole")
	require.Len(t, doc.Questions, 1)
	assert.Equal(t, " | Cher", doc.Questions[0].Text)
	r := f.run("teach", "a.csv", "name", "--from", "First,Last", "--row", "1 => Petersen, Anke", "--row", "2 => Lührs, Ole", "--row", "3 => Cher", "--into", "name", "--plan", "p.yaml")
	require.Equal(t, 0, r.code, r.err)
	assert.NotContains(t, f.read("p.yaml"), `blanks: fail`)
	assert.Contains(t, f.read("p.yaml"), `- {from: {First: "", Last: Cher}, gives: Cher}`)
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	assert.Contains(t, f.read("o.csv"), `"Petersen, Anke"`)
	assert.Contains(t, f.read("o.csv"), ",Cher\n")
	assert.Equal(t, 0, f.run("check", "a.csv", "--plan", "p.yaml").code)

	day := f.run("teach", "a.csv", "Last", "--from", "Born", "--row", "1 => PET 1961", "--row", "2 => LÜH 1970", "--row", "4 => BOY 1972", "--into", "key", "--plan", "q.yaml")
	require.Equal(t, 0, day.code, day.out+day.err)
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "q.yaml", "-o", "k.csv").code)
	assert.Contains(t, f.read("k.csv"), "CHE 1971")
}

// Where no rule fits, it is said which is the nearest and what it misses; examples that contradict each other are named.
func TestTeachFindsNoRule(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", lotTexts)
	for _, c := range []struct {
		args []string
		says []string
	}{
		{[]string{"--row", "1 => 51", "--example", "lot 88 / crate 51 => 88"}, []string{"contradict each other", `"51"`, `"88"`}},
		{[]string{"--row", "1 => 51", "--row", "2 => 120", "--row", "6 => 99"}, []string{"no rule", "the nearest one gives", "fits 2 of 3", `of "lot 12 / crate 4" it gives "4", and the example "99"`}},
		{[]string{"--row", "1 => zebra"}, []string{"no rule was found that gives any of the results"}},
		{[]string{"--row", "1 =>"}, []string{"no example has a result"}},
		{[]string{"--row", "3 => 5"}, []string{"a cell that is blank can't give"}},
		{[]string{"--row", "77 => 5"}, []string{"there is no row 77"}},
		{[]string{"--row", "x => 5"}, []string{"--row takes the number of a row"}},
		{[]string{"--row", "1 => 5", "--row", "1 => 6"}, []string{"--row says of row 1"}},
		{[]string{"--example", "lot 88"}, []string{"--example takes a text, an arrow and the result"}},
		{[]string{"--row", "1 => 51", "--into", "x"}, []string{"--into writes to a plan"}},
		{[]string{"--row", "1 => 51", "--private", "Lot text"}, []string{"is private"}},
		{nil, []string{"show what is to come out of a cell"}},
	} {
		r := f.run(append([]string{"teach", "a.csv", "Lot text"}, c.args...)...)
		assert.Equal(t, 2, r.code, "%v", c.args)
		assert.Empty(t, r.out)
		for _, say := range c.says {
			assert.Contains(t, r.err, say, "%v", c.args)
		}
	}
	assert.Contains(t, f.run("teach", "a.csv", "Lot txt", "--row", "1 => 51").err, `Did you mean "Lot text"?`)
	assert.Contains(t, f.run("teach", "a.csv", "--row", "1 => 51").err, "which column?")
	assert.Equal(t, 3, f.run("teach", "none.csv", "Lot text", "--row", "1 => 51").code)
	f.file("empty.csv", "")
	f.file("head.csv", "Lot text\n")
	f.file("garbage.csv", "Lot text\n\x00\xff\xfe\x01\n\"\n")
	for name, code := range map[string]int{"empty.csv": 3, "head.csv": 0, "garbage.csv": 1} {
		r := f.run("teach", name, "Lot text", "--example", "lot 88 => 88")
		assert.Equal(t, code, r.code, "%s: %s%s", name, r.out, r.err)
	}
}

// With --ask, answers are read: a letter, another result, that there is none; nothing ends it with the questions open.
func TestTeachGoesOnWithAnswers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "Text\na-b\nc-d\ne-f-g\n")
	ask := func(answers string) result {
		return f.runWith(answers, "teach", "a.csv", "Text", "--example", "a-b => b", "--example", "c-d => d", "--ask", "--into", "part", "--plan", "p.yaml")
	}
	r := ask("=f-g\n")
	require.Equal(t, 0, r.code, r.out+r.err)
	assert.Contains(t, r.err, "Row 3: e-f-g")
	assert.Contains(t, r.err, "  a  ")
	assert.Contains(t, f.read("p.yaml"), `take: {after: "-"}`)
	f.file("p.yaml", "plan: 1\ncolumns:\n  Text: {}\n")
	assert.Equal(t, 1, ask("\n").code)
	assert.NotContains(t, f.read("p.yaml"), "part")
	asked := ask("zz\n")
	assert.Contains(t, asked.err, "that is none of them")
	assert.Equal(t, 1, asked.code)
	assert.Equal(t, 2, f.run("teach", "-", "Text", "--row", "1 => b", "--ask").code)
}

// The answer is the same for any number of workers, also where rows are set aside and a column has many thousand outlines,
// and a single odd row among them is found.
func TestTeachIsTheSameForAnyWorkers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(7, 7))
	var b strings.Builder
	b.WriteString("Id,Name\n")
	letters := "abcdefghijklmnop"
	for i := range 30_000 {
		word := make([]byte, 5)
		for j := range word {
			word[j] = letters[r.IntN(len(letters))]
		}
		fmt.Fprintf(&b, "%d,x%s %d\n", i, word, r.IntN(1000))
		if i%5000 == 4000 {
			b.WriteString("Id,Name\n")
		}
		if i == 27_123 {
			b.WriteString("odd,xabcde 5 77\n")
		}
	}
	f.file("a.csv", b.String())
	args := []string{"teach", "a.csv", "Name", "--example", "xabcde 12 => 12", "--example", "xbbb 7 => 7", "--example", "xyz 123 => 123", "--format", "json"}
	one := f.run(append(args, "--workers", "1")...)
	require.Equal(t, 1, one.code, one.err)
	assert.Contains(t, one.out, "xabcde 5 77", "one odd row among thirty thousand")
	for _, workers := range []string{"2", "5"} {
		assert.Equal(t, one.out, f.run(append(args, "--workers", workers)...).out, workers)
	}
}

// What draft offers in comments is a plan once its # is taken away, and makes columns of the parts.
func TestDraftOffersParts(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "Name,Frac,Size,Pair,Code,Desc,KV,Keys,Words\n"+
		"\"Petersen, Anke\",3/95,3 x 5 cm,Kai#Ost,AB12,Kutter (12 kg),port=Nord,a=1; b=2; c=3,hello there\n"+
		"\"von Boysen, Ole\",4/96,4 x 7 cm,Mole#West,CD345,Boot (7 t),port=Ost,a=4; b=5,good\n"+
		"\"Jensen, Jörg\",12/7,10 x 50 mm,Pier#Sud,XY1,Kahn (120 kg),port=West,b=7; c=1,a day\n")
	require.Equal(t, 0, f.run("draft", "a.csv", "-o", "p.yaml").code)
	var b strings.Builder
	for line := range strings.Lines(f.read("p.yaml")) {
		b.WriteString(strings.Replace(line, "  # ", "  ", strings.Count(line[:min(len(line), 4)], "#")))
	}
	f.file("q.yaml", b.String())
	r := f.run("convert", "a.csv", "--plan", "q.yaml", "-o", "o.csv")
	require.Equal(t, 0, r.code, r.out+r.err)
	rows := f.records("o.csv")
	got := map[string]string{}
	for i, name := range rows[0] {
		got[name] = rows[2][i]
	}
	for name, want := range map[string]string{
		"name_last": "von Boysen", "name_first": "Ole", "frac_1": "4", "frac_2": "96", "size_1": "4", "size_2": "7", "size_unit": "cm",
		"pair_1": "Mole", "pair_2": "West", "code_letters": "CD", "code_digits": "345", "desc_text": "Boot", "desc_number": "7", "desc_unit": "t",
		"kv_key": "port", "kv_value": "Ost", "keys_a": "4", "keys_b": "5", "keys_c": "",
	} {
		assert.Equal(t, want, got[name], name)
	}
	assert.NotContains(t, f.read("p.yaml"), "words_")
}

// A plan that somebody has worked on while questions were asked stays as it is, and so does one that has come meanwhile.
func TestTeachLeavesChangedPlans(t *testing.T) {
	t.Parallel()
	for _, was := range []string{"", "plan: 1\ncolumns:\n  Text: {}\n"} {
		f := newFolder(t)
		f.file("a.csv", "Text\na-b\nc-d\ne-f-g\n")
		if was != "" {
			f.file("p.yaml", was)
		}
		mine := "plan: 1\ncolumns:\n  Text: {}   # mine\n"
		cmd := exec.Command(junvo, "teach", "a.csv", "Text", "--example", "a-b => b", "--example", "c-d => d", "--ask", "--into", "part", "--plan", "p.yaml")
		cmd.Dir = f.dir
		in, err := cmd.StdinPipe()
		require.NoError(t, err)
		asks, err := cmd.StderrPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		_, err = bufio.NewReader(asks).ReadString('?') // it asks, so that it has read the plan
		require.NoError(t, err)
		f.file("p.yaml", mine)
		_, err = in.Write([]byte("=f-g\n"))
		require.NoError(t, err)
		require.NoError(t, in.Close())
		_, _ = io.Copy(io.Discard, asks)
		_ = cmd.Wait()
		assert.Equal(t, 2, cmd.ProcessState.ExitCode())
		assert.Equal(t, mine, f.read("p.yaml"))
	}
}

// What is private is not told of broken examples, and the report judges as check does.
func TestBrokenExamplesOfPrivateColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "Name,Lot\nx,lot 9\ny,lot 8\n")
	plan := "plan: 1\ncolumns:\n  Name: {}\n  Lot:\n    steps: [keep: digits]\n    private: %v\n    examples: [{from: {Lot: secret 77}, gives: \"78\"}]\n"
	for _, private := range []bool{false, true} {
		f.file("p.yaml", fmt.Sprintf(plan, private))
		r := f.run("check", "a.csv", "--plan", "p.yaml")
		assert.Equal(t, 1, r.code)
		assert.Contains(t, r.out, "example-broken")
		assert.Equal(t, private, !strings.Contains(r.out, "secret 77"))
		require.Equal(t, 0, f.run("report", "a.csv", "--plan", "p.yaml", "-o", "r.html").code)
		assert.Contains(t, f.read("r.html"), "example-broken")
	}
}

// Which rows are data is what the whole table says, also where only one column is looked at.
func TestTeachKnowsTotals(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("Code,Kg\n")
	for i := range 20 {
		fmt.Fprintf(&b, "AB-%d,%d\n", i, i+1)
	}
	b.WriteString("Total of Nordhaven,210\n")
	f.file("a.csv", b.String())
	require.Equal(t, 0, f.run("draft", "a.csv", "-o", "p.yaml", "--keep-names").code)
	args := []string{"a.csv", "Code", "--example", "AB-3 => 3", "--example", "AB-12 => 12"}
	alone := f.teach(0, args...)
	assert.EqualValues(t, 20, alone.Cells)
	assert.Equal(t, f.teach(0, append(args, "--plan", "p.yaml")...), alone)
}

// A preview of a table whose columns have become rows shows its cells.
func TestTeachTurned(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "V,Jan,Feb\nx,1 kg,2 kg\ny,3 kg,14 kg\n")
	f.file("p.yaml", "plan: 1\nrows: {turn: [Jan, Feb], into: [month, amount]}\ncolumns:\n  V: {}\n")
	r := f.run("teach", "a.csv", "amount", "--plan", "p.yaml", "--example", "14 kg => 14", "--example", "3 kg => 3", "--preview", "--into", "kg")
	require.Equal(t, 0, r.code, r.out+r.err)
	assert.Regexp(t, `14 kg +> +14`, r.out)
	require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	assert.Equal(t, "V,kg\nx,1\nx,2\ny,3\ny,14\n", f.read("o.csv"))
}

// A taught column has the type that its results show, or the one that --as says, and its examples hold.
func TestTaughtColumnsAreTyped(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "d,lot,at\n20210305,lot 8,1430\n20210406,lot 12,0915\n20221231,crate 007,2359\n20220110,lot 99,0001\n")
	teach := func(column, into string, more ...string) {
		r := f.run(append([]string{"teach", "a.csv", column, "--into", into, "--plan", "p.yaml"}, more...)...)
		require.Equal(t, 0, r.code, r.out+r.err)
	}
	teach("d", "day", "--example", "20210305 => 05.03.2021", "--row", "3 => 31.12.2022")
	teach("at", "time", "--example", "1430 => 14:30")
	teach("lot", "number", "--example", "lot 8 => 8", "--row", "3 => 007")
	teach("lot", "count", "--example", "lot 8 => 8", "--row", "3 => 007", "--as", "count=integer")
	plan := f.read("p.yaml")
	assert.Regexp(t, `(?s)day:\n.*to: date\n    date-order: dmy.*gives: "?2021-03-05`, plan)
	assert.Regexp(t, `(?s)  time:\n.*to: time`, plan)
	assert.Regexp(t, `(?s)  number:\n.*to: code`, plan)
	assert.Regexp(t, `(?s)  count:\n.*to: integer`, plan)
	r := f.run("check", "a.csv", "--plan", "p.yaml")
	assert.NotContains(t, r.out, "example-broken     day")
	assert.NotContains(t, r.out, "example-broken     time")
	r = f.run("teach", "a.csv", "lot", "--example", "lot 8 => zebra", "--example", "lot 12 => 5")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "no rule was found that gives any of the results")
	r = f.run("teach", "a.csv", "lot", "--into", "n", "--plan", "p.yaml", "--as", "n=number", "--example", "lot 8 => 8")
	assert.Contains(t, r.err, `there is no type "number"`)
}
