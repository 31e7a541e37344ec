package e2e

import (
	"database/sql"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/goccy/go-yaml"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"
)

const january = "No;Name;Weight;Landed\n001;Petersen, Anke;1.240,5 kg;04.01.2021\n002;Hansen, Ole;99,1;25.01.2021\n003;Jensen, Silke;see book;05.01.2021\n" +
	"004;Luehrs, Tomma;;31.01.2021\n005;Okafor, Joerg;12,5 kg;06.01.2021\n006;Petersen, Anke;13,5;07.01.2021\n007;Hansen, Ole;14,5;08.01.2021\n" +
	"008;Jensen, Silke;15,5;09.01.2021\n009;Jensen, Silke;15,5 kg;09.01.2021\n010;Jensen, Silke;16,5;10.01.2021\n011;Jensen, Silke;17,5 kg;11.01.2021\n" +
	"012;Jensen, Silke;18,5 kg;12.01.2021\n013;Jensen, Silke;19,5 kg;12.01.2021\n"

// What is drafted and run gives the same bytes as converting without a plan.
func TestDraftAndRunIsConvert(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	for _, flags := range [][]string{nil, {"--as", "Boxes=decimal", "--blank-word", "see log book"}, {"--fit", "99%"}} {
		one := f.run(append([]string{"convert", "d/landings.csv", "-o", "one.csv"}, flags...)...)
		require.Equal(t, 0, f.run(append([]string{"draft", "d/landings.csv", "-o", "p.yaml", "--keep-names"}, flags...)...).code)
		two := f.run("convert", "d/landings.csv", "-o", "two.csv", "--plan", "p.yaml")
		require.Equal(t, one.code, two.code, two.err)
		for _, name := range []string{".csv", ".failures.csv", ".setaside.csv"} {
			assert.Equal(t, f.read("one"+name), f.read("two"+name), "%s %v", name, flags)
		}
		drafted, _, ok := strings.Cut(f.read("p.yaml"), "\nseen:")
		require.True(t, ok)
		assert.True(t, strings.HasPrefix(f.read("one.plan.yaml"), drafted+"\nseen:"), "the plans are the same, but for the shapes that only a draft looks at")
		assert.Equal(t, withoutDoubts(one.out), withoutDoubts(two.out))
		assert.NotContains(t, f.names(), "two.plan.yaml")
	}
}

// withoutDoubts is a ledger without what only a profile knows, and the files.
func withoutDoubts(ledger string) string {
	ledger, _, _ = strings.Cut(ledger, "wrote:")
	before, rest, found := strings.Cut(ledger, "worth a look:\n")
	for found && strings.HasPrefix(rest, "  ") {
		_, rest, _ = strings.Cut(rest, "\n")
	}
	return before + rest
}

func TestStepsOfAPlan(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	f.file("p.yaml", `plan: 1
columns:
  no: {from: "No", to: code}
  surname: {from: Name, steps: [{take: {before: ", "}}, {case: upper}], to: text}
  first: {from: Name, steps: [{take: {after: ", "}}], to: text}
  weight:
    from: Weight
    steps: [{fill: "0"}, {drop: [spaces, kg]}]
    to: decimal
    decimal-mark: ","
    must: {between: [0, 1000]}
    on-failure: keep-text
`)
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
	require.Equal(t, 1, r.code, r.err)
	got := strings.Split(f.read("o.csv"), "\n")
	assert.Equal(t, []string{
		"no,surname,first,weight", `001,PETERSEN,Anke,"1.240,5 kg"`, "002,HANSEN,Ole,99.1", "003,JENSEN,Silke,see book",
		"004,LUEHRS,Tomma,0", "005,OKAFOR,Joerg,12.5",
	}, got[:6])
	assert.Contains(t, f.read("o.failures.csv"), `1,2,weight,"1.240,5 kg",decimal,out-of-range,1240.5`)
	assert.Contains(t, f.read("o.failures.csv"), "3,4,weight,see book,decimal,not-a-number")
	assert.Contains(t, r.out, "weight             fill 1, drop 7")
	assert.Contains(t, r.out, "surname            take 13, case 13")
}

func TestSplitJoinAndRowsSetAside(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no,skipper,kg\n1,\"Petersen, Anke\",1.5\n2,Okafor,2\n3,\"Hansen, Ole, jr.\",3\n4,\"Luehrs, Tomma\",x\n5,,5\n")
	f.file("p.yaml", `plan: 1
columns:
  tag: {join: ["no", first], with: "-", steps: [{case: upper}]}
  skipper: {split: {at: ", "}, into: {surname: {}, first: {steps: [{case: lower}]}}}
  "no": {to: integer}
  kg: {to: decimal, decimal-mark: ".", on-failure: set-aside-row}
`)
	r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv")
	require.Equal(t, 1, r.code, r.err)
	assert.Equal(t, "tag,surname,first,no,kg\n1-ANKE,Petersen,anke,1,1.5\n2,,,2,2\n3,,,3,3\n5,,,5,5\n", f.read("o.csv"))
	assert.Equal(t, "row,line,reason,cells\n4,5,failed-row,4,\"Luehrs, Tomma\",x\n", f.read("o.setaside.csv"))
	failures := f.read("o.failures.csv")
	for _, want := range []string{
		"2,3,surname,Okafor,text,too-few-pieces", `3,4,surname,"Hansen, Ole, jr.",text,too-many-pieces`,
		"4,5,kg,x,decimal,not-a-number",
	} {
		assert.Contains(t, failures, want)
	}
	assert.Contains(t, r.out, "rows: 5 in = 4 out + 1 set aside (1 failed-row)")
	p := f.run("preview", "a.csv", "--plan", "p.yaml")
	require.Equal(t, 0, p.code, p.err)
	assert.Regexp(t, `1 +1-anke +> +1-ANKE`, p.out)
	assert.Regexp(t, `4 +x +x +not-a-number`, p.out)
	assert.Contains(t, f.run("why", "a.csv", "--plan", "p.yaml", "--row", "3", "--column", "first").out, `split: {at: ", "}  fails: too-many-pieces`)
	assert.Contains(t, f.run("why", "a.csv", "--plan", "p.yaml", "--row", "3", "--column", "tag").out, "made by            join: ")
	assert.Equal(t, 1, f.run("check", "a.csv", "--plan", "p.yaml").code)
}

func TestComputedColumnsAndConditions(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no;ratio;kg;price;landed\n1;84/96;1.240,5;2,50;04.03.2021\n2;1/0;10;x;25.03.2021\n3;7/3;;1;31.01.2021\n4;1/2;5;1;28.02.2021\n5;x;500;1;01.03.2021\n6;x;2;1;31.02.2021\n")
	f.file("p.yaml", `plan: 1
rows:
  keep: "no != 4"
  drop: kg >= 500 && kg < 600 || blank(landed)
columns:
  share: {compute: top / bottom, to: decimal}
  top: {from: ratio, steps: [{take: {number: 1}}], to: decimal}
  bottom: {from: ratio, steps: [{take: {number: 2}}], to: decimal}
  kg: {to: decimal, decimal-mark: ",", group-marks: ["."]}
  price: {to: decimal, decimal-mark: ","}
  value: {compute: kg * price, must: {between: [0, 5000]}}
  landed: {to: date, date-order: dmy}
  review: {compute: "monthEnd(plusMonths(landed, 1))", to: date}
  is_text: {compute: 'reading(raw("price")) == "text"'}
  "no": {to: integer}
`)
	r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv", "--format", "json")
	require.Equal(t, 1, r.code, r.err)
	assert.Equal(t, strings.Join([]string{
		"share,top,bottom,kg,price,value,landed,review,is_text,no",
		"0.875,84,96,1240.5,2.50,3101.25,2021-03-04,2021-04-30,false,1",
		",1,0,10,,,2021-03-25,2021-04-30,true,2",
		"2.333333333333333333333333333333333,7,3,,1,,2021-01-31,2021-02-28,false,3", "",
	}, "\n"), f.read("o.csv"))
	assert.Contains(t, f.read("o.failures.csv"), `2,3,share,"top 1, bottom 0",decimal,not-computed,division by zero`)
	assert.Equal(t, "row,line,reason,cells\n4,5,left-out-row,4,1/2,5,1,28.02.2021\n5,6,left-out-row,5,x,500,1,01.03.2021\n6,7,left-out-row,6,x,2,1,31.02.2021\n", f.read("o.setaside.csv"))
	assert.NotContains(t, f.read("o.failures.csv"), "\n5,", "a row that is left out has no failures")
	assert.Contains(t, f.read("o.failures.csv"), "\n6,7,landed,31.02.2021,date,no-such-day", "but those of cells that the condition uses")
	var ledger struct {
		Rows struct{ Reasons map[string]int }
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &ledger))
	assert.Equal(t, 3, ledger.Rows.Reasons["left-out-row"])

	for wrong, say := range map[string]string{
		`x: {compute: "no > 2"}`:               "line 4, column 20: > does not go with (text, number)",
		`x: {compute: 'raw("none")'}`:          "",
		`x: {compute: wight}`:                  `there is no column and no function "wight"`,
		`x: {compute: "length(no)"}`:           "",
		`x: {compute: "length(no)", to: text}`: "the expression gives decimal, and the column is text",
	} {
		f.file("q.yaml", "plan: 1\ncolumns:\n  \"no\": {}\n  "+wrong+"\n")
		got := f.run("check", "a.csv", "--plan", "q.yaml")
		if say == "" {
			assert.LessOrEqual(t, got.code, 1, got.err)
			assert.Equal(t, strings.Contains(wrong, "none"), strings.Contains(got.out, "none: the source has no such column"))
			continue
		}
		assert.Equal(t, 2, got.code, wrong)
		assert.Contains(t, got.err, say)
	}
}

func TestOneOutputOfEachSource(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 1, f.run("convert", f.file("jan.csv", january), "-o", "alone.csv").code)
	f.file("feb.csv", strings.ReplaceAll(january, ".01.2021", ".02.2021"))
	r := f.run("convert", "jan.csv", "feb.csv", "--plan", "alone.plan.yaml", "-o", "clean/", "--ledger", "l.json")
	require.Equal(t, 1, r.code, r.err)
	assert.Equal(t, f.read("alone.csv"), f.read("clean/jan.csv"))
	assert.Contains(t, f.read("clean/feb.csv"), "2021-02-25")
	assert.Contains(t, f.read("clean/feb.failures.csv"), "see book")
	assert.Contains(t, r.out, "rows: 26 in = 26 out + 0 set aside")
	assert.Contains(t, r.out, "feb.failures.csv (2 failures)")
	assert.Contains(t, f.read("l.json"), `"in": 26`)
	// One source that can't be read, and nothing appears.
	r = f.run("convert", "jan.csv", "none.csv", "--plan", "alone.plan.yaml", "-o", "other/")
	assert.Equal(t, 3, r.code)
	assert.NotContains(t, strings.Join(f.names(), " "), "other/jan")
	assert.Equal(t, 2, f.run("convert", "jan.csv", "feb.csv", "-o", "clean/").code)
	assert.Equal(t, 2, f.run("convert", "jan.csv", "clean/jan.csv", "--plan", "alone.plan.yaml", "-o", "x/").code)
	assert.Equal(t, 2, f.run("convert", "jan.csv", "--plan", "alone.plan.yaml", "-o", ".").code)
}

func TestCountsAndOtherUnits(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "weight,seen,logged\n500 g,44260,1614902400\n\"1.5 kg\",05.03.2021,253402300800\n0.002 t,60,2021-03-05T00:00:00Z\n7 lb,2958466,1e9\n")
	f.file("p.yaml", `plan: 1
columns:
  weight: {to: decimal, decimal-mark: ".", unit: kg, factors: {g: 0.001, t: 1000}}
  seen: {steps: [day-number: 1900], to: date, date-order: dmy}
  logged: {steps: [epoch: seconds], to: timestamp, offsets: true}
`)
	require.Equal(t, 1, f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml").code)
	assert.Equal(t, "weight,seen,logged\n0.5,2021-03-05,2021-03-05T00:00:00Z\n1.5,2021-03-05,\n2,,2021-03-05T00:00:00Z\n,,\n", f.read("o.csv"))
	failures := f.read("o.failures.csv")
	assert.Contains(t, failures, "4,5,weight,7 lb,decimal,unit-unexpected,unit lb")
	assert.Contains(t, failures, "3,4,seen,60,date,not-a-date")
	assert.Contains(t, failures, "2,3,logged,253402300800,timestamp,not-a-date")
	assert.Contains(t, failures, "4,5,logged,1e9,timestamp,not-a-date")
	f.file("sides.csv", "sum,at\n100 CR,2021-03-01T10:00:00Z\n50.5 DR,2021-03-02T10:00:00\n7,\n1.5k,2021-03-03T11:00:00+02:00\n3 XX,\n")
	f.file("sides.yaml", `plan: 1
columns: {sum: {to: decimal, decimal-mark: ".", factors: {CR: 1, DR: -1}}, at: {to: timestamp, zone: "-03:30"}}
`)
	require.Equal(t, 1, f.run("convert", "sides.csv", "-o", "sides.out.csv", "--plan", "sides.yaml").code)
	assert.Equal(t, "sum,at\n100,2021-03-01T10:00:00Z\n-50.5,2021-03-02T10:00:00-03:30\n7,\n,2021-03-03T11:00:00+02:00\n,\n",
		f.read("sides.out.csv"))
	for wrong, say := range map[string]string{
		"unit: Mio": "factors says which", "unit: kg, factors: {g: x}": "a number other than 0", "factors: {g: 0}": "a number other than 0",
		"unit: kg, factors: {kg: 2}": "own unit", "unit: kg, factors: [g]": "factors is a map",
	} {
		f.file("p.yaml", "plan: 1\ncolumns: {weight: {to: decimal, "+wrong+"}}\n")
		r := f.run("check", "a.csv", "--plan", "p.yaml")
		assert.Equal(t, 2, r.code)
		assert.Contains(t, r.err, say)
	}
}

func TestFixesAnswerFailures(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	require.Equal(t, 1, f.run("convert", "a.csv", "-o", "o.csv").code)
	failures := f.read("o.failures.csv")
	require.Equal(t, 2, strings.Count(failures, "\n"))
	f.file("answers.csv", strings.TrimSuffix(failures, "\n")+"\"7,5 kg\"\n"+"9,9,Weight,no such,decimal,x,,,1\n")
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--fixes", "answers.csv")
	require.Equal(t, 0, r.code, r.err+r.out)
	assert.Contains(t, f.read("o.csv"), `003,"Jensen, Silke",7.5,2021-01-05`)
	assert.NotContains(t, f.names(), "o.failures.csv")
	assert.Contains(t, r.err, `the fix for "no such" in column "Weight" of row 9 matches no failure`)
	assert.Regexp(t, `Weight .* 1 +0\n`, r.out)

	f.file("answers.csv", strings.TrimSuffix(failures, "\n")+"still none\n")
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--fixes", "answers.csv", "--format", "json")
	require.Equal(t, 1, r.code)
	assert.Contains(t, f.read("o.failures.csv"), "the fix still none is no value of the column")
	f.file("answers.csv", "a,b\n1,2\n")
	assert.Equal(t, 2, f.run("convert", "a.csv", "-o", "o.csv", "--fixes", "answers.csv").code)
}

func TestMoreFailuresThanExpectedWriteNothing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	r := f.run("convert", "a.csv", "-o", "o.csv", "--fail-over", "1%")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.err, "1 of 51 cells failed, more than 1%; nothing was written")
	assert.Equal(t, []string{"a.csv"}, f.names())
	assert.Equal(t, 1, f.run("convert", "a.csv", "-o", "o.csv", "--fail-over", "10%", "--ledger", "l.json").code)
	assert.Equal(t, []string{"a.csv", "l.json", "o.csv", "o.failures.csv", "o.plan.yaml"}, f.names())
	var ledger struct {
		Rows struct{ In, Out int }
	}
	require.NoError(t, json.Unmarshal([]byte(f.read("l.json")), &ledger))
	assert.Equal(t, 13, ledger.Rows.Out)

	f = newFolder(t)
	f.file("a.csv", january)
	f.file("p.yaml", "plan: 1\ncolumns: {w: {from: Weight, to: decimal, decimal-mark: \",\", unit: kg, on-failure: stop}}\n")
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.err, `row 3 (line 4) of a.csv failed in column "w", where the plan says to stop: not-a-number`)
	assert.Equal(t, []string{"a.csv", "p.yaml"}, f.names())
}

func TestEqualFailuresAreListedOnce(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "n\n"+strings.Repeat("1\n2\n3\n4\n5\n6\n7\n8\n9\n10\n11\n12\nx\n", 3))
	require.Equal(t, 1, f.run("convert", "a.csv", "-o", "o.csv", "--group-failures").code)
	lines := strings.Split(f.read("o.failures.csv"), "\n")
	require.Len(t, lines, 3)
	assert.Equal(t, "column,value,wanted,reason,detail,hint,count,rows,fix", lines[0])
	assert.Regexp(t, `^n,x,integer,not-a-number,.*,3,13 26 39,$`, lines[1])
	f.file("answers.csv", lines[0]+"\n"+lines[1]+"13\n")
	assert.Equal(t, 0, f.run("convert", "a.csv", "-o", "o.csv", "--fixes", "answers.csv").code)
}

func TestPreview(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	r := f.run("preview", "a.csv", "--column", "Weight")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "preview of the 13 rows; nothing is written")
	assert.Regexp(t, `1  1\.240,5 kg  >  1240\.5`, r.out)
	assert.Regexp(t, `3  see book +x .*not-a-number`, r.out)
	assert.NotContains(t, r.out, "Landed")
	assert.Equal(t, []string{"a.csv"}, f.names())
	r = f.run("preview", "a.csv", "--failures", "--format", "json")
	var doc struct {
		Rows    int
		Columns []struct {
			Name  string
			Fail  int
			Cells []struct{ Before, Reason string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &doc))
	require.Len(t, doc.Columns, 1)
	assert.Equal(t, "see book", doc.Columns[0].Cells[0].Before)
	assert.Equal(t, 2, f.run("preview", "a.csv", "--column", "Wieght").code)
	f.file("p.yaml", "plan: 1\ncolumns: {w: {from: Weight, to: decimal, decimal-mark: \",\"}}\n")
	assert.Equal(t, 0, f.runWith(january, "preview", "-", "--plan", "p.yaml").code)
}

func TestCheckFindsDrift(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", strings.ReplaceAll(january, "see book", "8,5"))
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "o.csv").code)
	r := f.run("check", "a.csv", "--plan", "o.plan.yaml")
	assert.Equal(t, 0, r.code, r.out)
	assert.Contains(t, r.out, "the source fits the plan: 0 cells failed, drift in 0 points")

	february := strings.NewReplacer("Weight", "Weigth", "see book", "8,5").Replace(january)
	f.file("b.csv", february)
	r = f.run("check", "b.csv", "--plan", "o.plan.yaml", "--format", "json")
	assert.Equal(t, 1, r.code)
	var v struct {
		Fits  bool
		Drift []struct{ Name, Column, Say string }
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &v))
	assert.False(t, v.Fits)
	assert.Equal(t, "column-missing", v.Drift[0].Name)
	assert.Contains(t, v.Drift[0].Say, `"Weigth" may be its new name`)

	f.file("c.csv", strings.NewReplacer(" kg", " lb", "see book", "8,5").Replace(january))
	r = f.run("check", "c.csv", "--plan", "o.plan.yaml")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.out, `Weight: unit "kg" before, and "lb" now`)

	f.file("d.csv", strings.NewReplacer("\n", ";\n", "Landed\n", "Landed;New\n", "see book", "8,5").Replace(january))
	r = f.run("check", "d.csv", "--plan", "o.plan.yaml")
	assert.Equal(t, 0, r.code, r.out)
	assert.Contains(t, r.out, "column-new")
}

func TestPlansThatAreWrong(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	f.file("p.yaml", "plan: 1\ncolumns:\n  w: {from: Weight, steps: [dorp], to: decmal}\n")
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
	assert.Equal(t, 2, r.code)
	assert.Equal(t, `junvo: p.yaml, line 3, column 29: unknown step "dorp"; did you mean "drop"?`+"\n"+
		`junvo: p.yaml, line 3, column 40: unknown type "decmal"; did you mean "decimal"?`+"\n", r.err)
	assert.Equal(t, 2, f.run("convert", "a.csv", "-o", "o.csv", "--plan", "none.yaml").code)
	f.file("p.yaml", "plan: 1\ncolumns: {w: {from: Wieght}}\n")
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, `it has "Weight"`)
	f.file("p.yaml", "plan: 1\ncolumns: {w: {from: Weight}}\n")
	assert.Contains(t, f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml", "--as", "w=text").err, "--plan can't be used together with flags that change what is drafted: --as")
	assert.Equal(t, []string{"a.csv", "p.yaml"}, f.names())
}

// A plan of text columns without steps gives the cells back as they are.
func TestPlanOfTextChangesNothing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a,b\n 1 ,\"x \"\"y\"\"\"\n\u00a0,n/a\n-,\"l\nm\"\n")
	f.file("p.yaml", "plan: 1\ncolumns: {a: {to: text}, b: {to: text}}\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml").code)
	assert.Equal(t, "a,b\n 1 ,\"x \"\"y\"\"\"\n,n/a\n-,\"l\nm\"\n", f.read("o.csv"))
}

// JSON lines have the same values as CSV, with their types.
func TestJSONLines(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "-o", "o.jsonl", "--origin").code)
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "-o", "o.csv", "--origin").code)
	records := f.records("o.csv")
	lines := strings.Split(strings.TrimSpace(f.read("o.jsonl")), "\n")
	require.Len(t, lines, len(records)-1)
	for i, line := range lines {
		d := json.NewDecoder(strings.NewReader(line))
		d.UseNumber()
		var row map[string]any
		require.NoError(t, d.Decode(&row))
		for c, name := range records[0] {
			want := any(records[i+1][c])
			switch got := row[name].(type) {
			case nil:
				assert.Empty(t, want)
			case bool:
				assert.Equal(t, want, map[bool]string{true: "true", false: "false"}[got])
			case json.Number:
				assert.Equal(t, want, got.String())
			default:
				assert.Equal(t, want, got)
			}
		}
	}
}

func TestDescriptionsOfTheOutput(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	r := f.run("convert", "a.csv", "-o", "o.csv", "--metadata", "--ddl", "sqlite")
	require.Equal(t, 1, r.code, r.err)
	assert.Contains(t, r.out, "o.csv-metadata.json (describes the output)")
	var doc struct {
		URL         string
		TableSchema struct {
			Columns []struct{ Name, Titles, Datatype string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(f.read("o.csv-metadata.json")), &doc))
	assert.Equal(t, "o.csv", doc.URL)
	require.Len(t, doc.TableSchema.Columns, 4)
	assert.Equal(t, []string{"weight", "Weight", "decimal"}, []string{doc.TableSchema.Columns[2].Name, doc.TableSchema.Columns[2].Titles, doc.TableSchema.Columns[2].Datatype})
	assert.True(t, strings.HasPrefix(f.read("o.sql"), "CREATE TABLE \"o\" (\n  \"No\" TEXT,\n  \"Name\" TEXT,\n  \"Weight\" NUMERIC,\n  \"Landed\" TEXT\n);\n-- "), f.read("o.sql"))
	// The database takes the statement, and the rows with it.
	db, err := sql.Open("sqlite", f.path("o.db"))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(f.read("o.sql") + `INSERT INTO o VALUES ('001', 'x', 1240.5, '2021-01-04')`)
	require.NoError(t, err)
	assert.Equal(t, 2, f.run("convert", "a.csv", "-o", "o.csv", "--ddl", "oracle").code)
	assert.Equal(t, 2, f.run("convert", "a.csv", "-o", "o.jsonl", "--metadata").code)
	require.Equal(t, 1, f.run("convert", "a.csv", "-o", "p.csv", "--ddl", "postgresql").code)
	assert.Contains(t, f.read("p.sql"), `"Landed" date`)
}

// Plans that load fit their schema, and what it refuses does not load.
func TestPlansFitTheirSchema(t *testing.T) {
	t.Parallel()
	s, err := jsonschema.NewCompiler().Compile("../docs/schemas/plan.schema.json")
	require.NoError(t, err)
	validate := func(text string) error {
		doc, err := yaml.YAMLToJSON([]byte(text))
		require.NoError(t, err, text)
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(string(doc)))
		require.NoError(t, err)
		return s.Validate(v)
	}
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	require.Equal(t, 0, f.run("draft", "d/landings.csv", "-o", "p.yaml", "--private", "Skipper", "--blank-word", "see log book").code)
	require.NoError(t, validate(f.read("p.yaml")))
	guide, err := os.ReadFile("../docs/guide.md")
	require.NoError(t, err)
	_, plan, _ := strings.Cut(string(guide), "```yaml\n")
	plan, _, _ = strings.Cut(plan, "```")
	require.NoError(t, validate(plan))
	for _, wrong := range []string{
		"plan: 2\ncolumns: {a: {}}", "plan: 1", "plan: 1\ncolumns: {a: {to: number}}", "plan: 1\ncolumns: {a: {steps: [dorp]}}",
		"plan: 1\ncolumns: {a: {must: {length: 3}}}", "plan: 1\nrow: {}\ncolumns: {a: {}}", "plan: 1\ncolumns: {a: {split: {at: x}}}",
	} {
		assert.Error(t, validate(wrong), wrong)
		f.file("w.yaml", wrong)
		assert.Equal(t, 2, f.run("check", "d/landings.csv", "--plan", "w.yaml").code, wrong)
	}
}
