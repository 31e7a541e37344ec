package e2e

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/big"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/demo"
)

// fits holds JSON against a schema of docs/schemas.
func fits(t *testing.T, schema, doc string) {
	t.Helper()
	s, err := jsonschema.NewCompiler().Compile("../docs/schemas/" + schema)
	require.NoError(t, err)
	v, err := jsonschema.UnmarshalJSON(strings.NewReader(doc))
	require.NoError(t, err)
	require.NoError(t, s.Validate(v))
}

func TestJSONFitsItsSchema(t *testing.T) {
	t.Parallel()
	for _, tt := range tables {
		f := newFolder(t)
		f.file("in.csv", tt.source)
		fits(t, "profile.schema.json", f.run("profile", "in.csv", "--format", "json").out)
		fits(t, "ledger.schema.json", f.run("convert", "in.csv", "-o", "o.csv", "--format", "json").out)
		for _, more := range [][]string{nil, {"--grid"}, {"--steps", "--all"}, {"--keep-if", "row() > 1"}} {
			fits(t, "preview.schema.json", f.run(append([]string{"preview", "in.csv", "--format", "json"}, more...)...).out)
		}
		fits(t, "check.schema.json", f.run("check", "in.csv", "--plan", "o.plan.yaml", "--format", "json").out)
		names := f.records("o.csv")[0]
		for _, row := range []string{"1", "2", "3"} {
			for _, plan := range [][]string{nil, {"--plan", "o.plan.yaml"}} {
				if r := f.run(append([]string{"why", "in.csv", "--row", row, "--column", names[len(names)-1], "--format", "json"}, plan...)...); r.code == 0 {
					fits(t, "why.schema.json", r.out)
				}
			}
		}
		fits(t, "why.schema.json", f.run("why", "--value", "\u00a01.240,5 kg", "--as", "decimal", "--format", "json").out)
		fits(t, "totals.schema.json", f.run("totals", "in.csv", "--by", names[0], "--distinct", names[0], "--format", "json").out)
	}
	f := newFolder(t)
	f.file("a.csv", keepers)
	f.file("p.yaml", "plan: 1\ncolumns:\n  nope: {to: integer}\n")
	fits(t, "check.schema.json", f.run("check", "a.csv", "--plan", "p.yaml", "--format", "json").out)
	f.file("q.yaml", "plan: 1\nrows: {keep: place == \"Hul\"}\ncolumns:\n  Tag: {steps: [keep: digits]}\n  place: {steps: [fill: {from: above}]}\n  x: {compute: Tag + place}\n")
	for _, column := range []string{"Tag", "place", "x"} {
		for _, row := range []string{"1", "2", "3"} {
			r := f.run("why", "a.csv", "--plan", "q.yaml", "--row", row, "--column", column, "--format", "json")
			require.Zero(t, r.code, r.err)
			fits(t, "why.schema.json", r.out)
		}
	}
}

type profileDoc struct {
	Source struct {
		Rows     int
		DataRows int `json:"data_rows"`
		Findings []findingDoc
	}
	Columns []struct {
		Name           string
		Cells          int
		Reads          map[string]int
		Stored, Blanks map[string]int
		Distinct       struct {
			Count int
			Exact bool
		}
		Suggest struct {
			Type        string
			Fits, Fails int
			Mark        *string `json:"decimal_mark"`
			Order       *string `json:"date_order"`
			Unit        *string
			Currency    *string
			Patterns    []string
		}
		Smallest, Largest, Sum *string
		Findings               []findingDoc
		Odd                    []struct{ Row, Line int }
	}
}

type findingDoc struct {
	Name  string
	Count int
	Rows  []int
}

func profileOf(t *testing.T, f *folder, args ...string) profileDoc {
	t.Helper()
	r := f.run(append(append([]string{"profile"}, args...), "--format", "json")...)
	require.Equal(t, 0, r.code, r.err)
	fits(t, "profile.schema.json", r.out)
	var p profileDoc
	require.NoError(t, json.Unmarshal([]byte(r.out), &p))
	return p
}

// Sums, blanks and distinct values of the sample are counted again from the truth.
func TestProfileAgainstAnIndependentCount(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	p := profileOf(t, f, "d/landings.csv")
	want := truthOf(t, demo.Rows)
	assert.Equal(t, demo.Rows, p.Source.DataRows)
	assert.Equal(t, demo.Rows+len(want.aside), p.Source.Rows)
	failed := map[string]int{}
	for k := range want.failures {
		_, column, _ := strings.Cut(k, " ")
		failed[column]++
	}
	for i, c := range p.Columns {
		blank, values := 0, map[string]bool{}
		sum, smallest := new(big.Rat), (*big.Rat)(nil)
		for _, row := range want.rows[1:] {
			if row[i] == "" {
				blank++
				continue
			}
			values[row[i]] = true
			if n, ok := new(big.Rat).SetString(row[i]); ok {
				sum.Add(sum, n)
				if smallest == nil || n.Cmp(smallest) < 0 {
					smallest = n
				}
			}
		}
		assert.Equal(t, blank-failed[c.Name], c.Reads["blank"], c.Name)
		assert.Equal(t, failed[c.Name], c.Suggest.Fails, c.Name)
		total := 0
		for _, n := range c.Reads {
			total += n
		}
		assert.Equal(t, c.Cells, total, c.Name)
		assert.Equal(t, c.Cells-c.Reads["blank"], c.Suggest.Fits+c.Suggest.Fails, c.Name)
		if typ := c.Suggest.Type; typ == "decimal" || typ == "integer" {
			got, ok := new(big.Rat).SetString(*c.Sum)
			require.True(t, ok)
			assert.Zero(t, sum.Cmp(got), "%s: sum %s, want %s", c.Name, *c.Sum, sum.FloatString(3))
			got, _ = new(big.Rat).SetString(*c.Smallest)
			assert.Zero(t, smallest.Cmp(got), "%s: smallest %s", c.Name, *c.Smallest)
		}
		if typ := c.Suggest.Type; (typ == "text" || typ == "code") && c.Distinct.Exact {
			assert.Equal(t, len(values), c.Distinct.Count, c.Name)
		}
	}
}

// Every trouble that the sample has is found.
func TestProfileFindsWhatWasPlanted(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	p := profileOf(t, f, "d/landings.csv")
	var file []string
	for _, x := range p.Source.Findings {
		file = append(file, x.Name)
	}
	assert.ElementsMatch(t, []string{"repeated-headings", "section-headings", "total-rows", "notes", "blank-rows", "short-rows"}, file)
	found := map[string][]string{}
	blanks := map[string]int{}
	for _, c := range p.Columns {
		for _, x := range c.Findings {
			found[x.Name] = append(found[x.Name], c.Name)
			assert.NotEmpty(t, x.Rows, x.Name)
			assert.Positive(t, x.Count, x.Name)
		}
		for k, n := range c.Blanks {
			blanks[k] += n
		}
	}
	for name, column := range map[string]string{
		"mixed": "Net weight", "numbers-as-text": "Net weight", "dates-as-text": "Landed on", "booleans-as-text": "Inspected",
		"blanks-as-text": "Boxes", "text-among-numbers": "Boxes", "stray-characters": "Net weight", "leading-zeros": "Landing No.",
		"two-digit-years": "Landed on", "units": "Net weight", "currencies": "Price per kilo", "percent": "Ice share",
		"formula-like": "Remarks",
	} {
		assert.Contains(t, found[name], column, name)
	}
	for _, kind := range []string{"missing", "empty", "quoted-empty", "spaces", "invisible", "word"} {
		assert.Positive(t, blanks[kind], kind)
	}
	assert.Equal(t, "mdy", *p.Columns[12].Suggest.Order)
	assert.Equal(t, "dmy", *p.Columns[2].Suggest.Order)
	assert.Equal(t, ".", *p.Columns[11].Suggest.Mark)
	assert.Equal(t, "MM/dd/yyyy", p.Columns[12].Suggest.Patterns[0])
}

func TestUndecidedIsFound(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "day;kg\n03/04/2021;1,234\n05/06/2021;5,678\n")
	p := profileOf(t, f, "in.csv")
	assert.Equal(t, "text", p.Columns[0].Suggest.Type)
	assert.Equal(t, []findingDoc{{"order-undecided", 2, []int{1, 2}}}, p.Columns[0].Findings)
	assert.Equal(t, []findingDoc{{"marks-undecided", 2, []int{1, 2}}}, p.Columns[1].Findings)
}

// A clean table has no findings.
func TestCleanTablesAreQuiet(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "id,name,day,kg,ok,note\n1,Anna,2021-03-04,1240.5,true,\n2,Ben,2021-03-05,7.0,false,fine\n3,Zoë,2021-03-06,-1,true,\"a, b\"\n")
	p := profileOf(t, f, "in.csv")
	assert.Empty(t, p.Source.Findings)
	for _, c := range p.Columns {
		assert.Empty(t, c.Findings, c.Name)
		assert.Equal(t, 0, c.Suggest.Fails)
	}
}

func TestRowsAndColumnsThatAreTheSame(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("no;port;name;again;remark;kg\n")
	for i := range 200 {
		remark := strings.Repeat("caught near the old light ship ", 2)[:10+i%29]
		if i%5 == 0 {
			remark = (strings.Repeat("wet ", i%7) + fmt.Sprint("box ", i, " ") + strings.Repeat("was damaged by salt water", 2))[:40]
		}
		fmt.Fprintf(&b, "%d;HAR;n%d;n%d;%s;%d\n", i, i%7, i%7, remark, i%3)
	}
	b.WriteString("7;HAR;n0;n0;caught near the o;1\n")
	b.WriteString("7;HAR;n0;n0;caught near the o;1\n")
	f.file("in.csv", b.String())
	p := profileOf(t, f, "in.csv")
	assert.Equal(t, []findingDoc{{"duplicates", 2, []int{201}}}, p.Source.Findings)
	require.Len(t, p.Columns[4].Findings, 2)
	assert.Equal(t, findingDoc{"cut-off", 40, []int{1, 76, 96, 141, 161}}, p.Columns[4].Findings[1])
	out := f.run("profile", "in.csv").out
	assert.Contains(t, out, "constant           port: the same in every row")
	assert.Contains(t, out, "copies             again of name: the same in all rows")
	assert.NotContains(t, out, "may be a key")
	f.file("in.csv", strings.TrimSuffix(strings.TrimSuffix(b.String(), "7;HAR;n0;n0;caught near the o;1\n"), "7;HAR;n0;n0;caught near the o;1\n"))
	assert.Contains(t, f.run("profile", "in.csv").out, "may be a key       no: a value of its own in every row")
	assert.Contains(t, f.run("profile", "in.csv", "--column", "no").out, "200, a value of its own in every row: may be a key")

	b.Reset()
	b.WriteString("id,kg\n")
	for i := range 6000 {
		fmt.Fprintf(&b, "A%d,%d\n", i, i*7919%1_000_003)
	}
	f.file("many.csv", b.String()+"A5,1\n")
	out = f.run("profile", "many.csv").out
	assert.Contains(t, out, "nearly a key       id: about as many values as rows, by an estimate; must: {unique: true}")
	assert.NotContains(t, out, "may be a key")
	assert.NotContains(t, f.run("profile", "many.csv", "--format", "json").out, `"key": true`)
}

func TestProfileFormats(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	rows, err := csv.NewReader(strings.NewReader(f.run("profile", "d/landings.csv", "--format", "csv").out)).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 16)
	assert.Contains(t, f.run("profile", "d/landings.csv", "--format", "markdown").out, "| Net weight |")
	for _, line := range strings.Split(f.run("profile", "d/landings.csv").out, "\n")[11:] {
		assert.LessOrEqual(t, len([]rune(line)), 120, line)
	}
}
