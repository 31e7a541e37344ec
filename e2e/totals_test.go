package e2e

import (
	"encoding/csv"
	"fmt"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const hauls = "Boat,Kg,Day,Port\nAda,\"1,50\",01.03.2021,NH\nBob,2,31.02.2021,NH\nAda,x,03.03.2021,QN\nCleo,,01.03.2021,\nAda,\"4,0\",n/a,QN\n"

const haulPlan = "plan: 1\ncolumns:\n  boat: {from: Boat}\n  kg: {from: Kg, to: decimal, decimal-mark: \",\"}\n  day: {from: Day, to: date, date-order: dmy, blank-words: [n/a]}\n  port: {from: Port}\n  secret: {from: Port, private: true}\n"

func haul(t *testing.T) *folder {
	t.Helper()
	f := newFolder(t)
	f.file("a.csv", hauls)
	f.file("p.yaml", haulPlan)
	return f
}

func TestTotalsByGroups(t *testing.T) {
	t.Parallel()
	f := haul(t)
	of := func(args ...string) string {
		t.Helper()
		r := f.run(append([]string{"totals", "a.csv", "--plan", "p.yaml", "--format", "csv"}, args...)...)
		require.Equal(t, 0, r.code, r.err)
		return r.out
	}
	assert.Equal(t, "boat,rows,sum kg,mean kg,lacking,group kind\nAda,3,5.50,2.75,kg 1 failed,values\nBob,1,2,2,,values\nCleo,1,,,kg 1 blank,values\nall,5,7.50,2.5,\"kg 1 failed, 1 blank\",all\n",
		of("--by", "boat", "--sum", "kg", "--mean", "kg"))
	assert.Equal(t, "day,rows,largest kg,lacking,group kind\n2021-03-01,2,1.50,kg 1 blank,values\n2021-03-03,1,,kg 1 failed,values\n,1,4.0,,blank\n,1,2,day failed: no-such-day,failed\nall,5,4.0,\"kg 1 failed, 1 blank\",all\n",
		of("--by", "day", "--largest", "kg"))
	assert.Equal(t, "month,port,rows,distinct boat,lacking,group kind\nMar,NH,1,1,,values\nMar,QN,1,1,,values\nMar,,1,1,,blank\n,QN,1,1,,blank\n,NH,1,1,month failed: no-such-day,failed\nall,,5,3,,all\n",
		of("--by", `month = inPattern(day, "MMM")`, "--by", "port", "--distinct", "boat"))
	assert.Equal(t, "rows,smallest day,median kg,lacking,group kind\n5,2021-03-01,2,\"day 1 failed, 1 blank; kg 1 failed, 1 blank\",all\n", of("--smallest", "day", "--median", "kg"))
	assert.Equal(t, "boat,rows,sum kg,lacking,group kind\nAda,3,5.50,kg 1 failed,values\nall,5,7.50,\"kg 1 failed, 1 blank\",all\n", of("--by", "boat", "--sum", "kg", "--order-by=-sum kg", "--top", "1"))
	r := f.run("totals", "a.csv", "--plan", "p.yaml", "--by", "boat", "--sum", "kg", "--format", "json", "--order-by", "rows", "--top", "1")
	fits(t, "totals.schema.json", r.out)
	assert.Contains(t, r.out, `"left": 2`)
	r = f.run("totals", "a.csv", "--plan", "p.yaml", "--by", "boat,port", "--sum", "kg", "--format", "markdown")
	assert.Contains(t, r.out, "| Ada | QN | 2 | 4.0 |")
	for args, want := range map[string]string{
		"--sum boat": "--sum is of numbers, and the column boat is text", "--by bota": `Did you mean "boat"?`, "--by secret": "is private",
		"--by x=kgg+1": "did you mean the column kg?", "--order-by sum": `there is no heading "sum"`, "--top -1": "--top is a number",
		"-o a.csv": "the source", "-o x.txt": "ends in none of", "--expect nosuch.csv": "can't read the control",
	} {
		r := f.run(append([]string{"totals", "a.csv", "--plan", "p.yaml"}, strings.Fields(args)...)...)
		assert.Equal(t, 2, r.code, args)
		assert.Contains(t, r.err, want, args)
	}
}

// A column may be asked for more than once, with a plan and without.
func TestSeveralFiguresOfOneColumn(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("t.csv", "a,b\n1,2\n1,4\n3,9\n")
	f.file("p.yaml", "plan: 1\ncolumns: {a: {to: integer}, b: {to: integer}}\n")
	want := "a,rows,sum b,mean b,largest a,lacking,group kind\n1,2,6,3,1,,values\n3,1,9,9,3,,values\nall,3,15,5,3,,all\n"
	for _, plan := range [][]string{nil, {"--plan", "p.yaml"}} {
		r := f.run(append([]string{"totals", "t.csv", "--by", "a,a", "--sum", "b,b", "--sum", "b", "--mean", "b", "--largest", "a", "--format", "csv"}, plan...)...)
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, want, r.out)
	}
	assert.Equal(t, "b,a\n2,1\n4,1\n9,3\n", f.run("convert", "t.csv", "-o", "-", "--only", "b,a,b").out)
}

func TestTotalsComparedWithAControl(t *testing.T) {
	t.Parallel()
	f := haul(t)
	f.file("good.csv", "\ufeffboat;sum kg;rows\nAda;5.5;3\nBob;2.0;1\nCleo;;1\nall;7.5;5\n")
	args := []string{"totals", "a.csv", "--plan", "p.yaml", "--by", "boat", "--sum", "kg", "--expect"}
	r := f.run(append(args, "good.csv")...)
	assert.Equal(t, 0, r.code, r.out+r.err)
	assert.Contains(t, r.out, "4 groups as expected\n")
	f.file("bad.csv", "sum kg,boat\n5.5,Ada\n1.75,Bob\n3,Dora\n")
	r = f.run(append(args, "bad.csv")...)
	assert.Equal(t, 1, r.code)
	assert.Equal(t, []string{"Bob sum kg 1.75 2 +0.25", "Cleo rows no such group 1", "Dora rows no such group"}, lines(r.out[strings.Index(r.out, "as expected"):]))
	r = f.run(append(args, "bad.csv", "--format", "json")...)
	assert.Equal(t, 1, r.code)
	fits(t, "totals.schema.json", r.out)
	for text, want := range map[string]string{
		"boat,sumkg\n": `Did you mean "sum kg"?`, "sum kg\n1\n": `it lacks the column "boat"`, "boat,rows\nAda,1\nAda,2\n": "line 3 stands there twice", "": "empty",
	} {
		f.file("wrong.csv", text)
		r := f.run(append(args, "wrong.csv")...)
		assert.Equal(t, 2, r.code, text)
		assert.Contains(t, r.err, want, text)
	}
}

func TestTotalsBesideThoseOfAnEarlierFile(t *testing.T) {
	t.Parallel()
	f := haul(t)
	f.file("old.csv", "Boat,Kg,Day,Port\nAda,\"1,00\",01.02.2021,NH\nDora,7,02.02.2021,NH\n")
	r := f.run("totals", "a.csv", "--plan", "p.yaml", "--by", "boat", "--sum", "kg", "--against", "old.csv")
	require.Equal(t, 0, r.code, r.err)
	_, changes, _ := strings.Cut(r.out, "\n\n")
	assert.Equal(t, []string{
		"Ada rows 1 3 +2", "Ada sum kg 1.00 5.50 +4.5", "Bob rows 1", "Bob sum kg 2", "Cleo rows 1", "Cleo sum kg", "Dora rows 1", "Dora sum kg 7",
		"all rows 2 5 +3", "all sum kg 8.00 7.50 -0.5",
	}, lines(changes))
	r = f.run("totals", "a.csv", "--plan", "p.yaml", "--by", "boat", "--sum", "kg", "--against", "old.csv", "--format", "json")
	fits(t, "totals.schema.json", r.out)
	assert.Equal(t, 3, f.run("totals", "a.csv", "--by", "Boat", "--against", "nosuch.csv").code)
}

// The totals are written in any format, and read back as they were.
func TestTotalsAreWritten(t *testing.T) {
	t.Parallel()
	for _, output := range []string{"t.csv", "t.tsv", "t.jsonl", "t.xlsx", "t.parquet", "t.db#totals"} {
		f := haul(t)
		r := f.run("totals", "a.csv", "--plan", "p.yaml", "--by", "boat", "--sum", "kg", "--smallest", "day", "-o", output)
		require.Equal(t, 0, r.code, r.err)
		back := f.run("convert", output, "-o", "-", "--as", "rows=text", "--as", "sum kg=text", "--as", "smallest day=text", "--only", "boat,rows,sum kg,smallest day")
		assert.Equal(t, "boat,rows,sum kg,smallest day\nAda,3,5.5,2021-03-01\nBob,1,2,\nCleo,1,,2021-03-01\n",
			strings.NewReplacer("5.50", "5.5", "2.00", "2").Replace(back.out), output)
	}
}

// The totals of the demo are what another count of the converted table finds, and what a database says.
func TestTotalsOfTheDemoAreThoseOfADatabase(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "-o", "clean.csv").code)
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "-o", "clean.db#clean").code)
	for workers := 1; workers <= 3; workers++ {
		r := f.run("totals", "d/landings.csv", "--by", "Species", "--sum", "Net weight", "--median", "Boxes", "--workers", fmt.Sprint(workers), "--format", "csv")
		require.Equal(t, 0, r.code, r.err)
		rows, err := csv.NewReader(strings.NewReader(r.out)).ReadAll()
		require.NoError(t, err)
		sums := map[string]*big.Rat{"all": new(big.Rat)}
		clean := f.records("clean.csv")
		species, kg := index(clean[0], "Species"), index(clean[0], "Net weight")
		for _, row := range clean[1:] {
			if sums[row[species]] == nil {
				sums[row[species]] = new(big.Rat)
			}
			if n, ok := new(big.Rat).SetString(row[kg]); ok {
				sums[row[species]].Add(sums[row[species]], n)
				sums["all"].Add(sums["all"], n)
			}
		}
		require.Len(t, rows, len(sums)+1)
		for _, row := range rows[1:] {
			got, ok := new(big.Rat).SetString(row[2])
			require.True(t, ok)
			assert.Zero(t, got.Cmp(sums[row[0]]), row)
			if row[0] == "all" {
				continue
			}
			query := fmt.Sprintf(`SELECT COUNT(*) AS n, printf('%%.1f', SUM("Net weight")) AS s FROM clean WHERE Species = '%s'`, row[0])
			db := f.run("convert", "clean.db", "--query", query, "-o", "-", "--as", "n=text", "--as", "s=text")
			assert.Equal(t, "n,s\n"+row[1]+","+row[2]+"\n", db.out)
		}
	}
}

func index(names []string, name string) int {
	for i, n := range names {
		if n == name {
			return i
		}
	}
	return -1
}

// A key across makes columns of its values; computed keys of cells that failed are groups by the reason.
func TestTotalsAcross(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "boat,day,kg\nAda,2021-03-04,1.5\nBob,2021-04-01,2\nAda,2021-04-30,\nAda,2021-02-31,4\nBob,,5\nAda,2021-04-02,x\nBob,2021-04-09,0.25\n")
	run := func(args ...string) string {
		t.Helper()
		r := f.run(append([]string{"totals", "a.csv", "--as", "day=date", "--as", "kg=decimal"}, args...)...)
		require.Equal(t, 0, r.code, r.err)
		return r.out
	}
	month := `month = inPattern(day, "yyyy-MM")`
	assert.Equal(t, "month,rows,sum kg,lacking,group kind\n2021-03,1,1.5,,values\n2021-04,4,2.25,\"kg 1 failed, 1 blank\",values\n,1,5,,blank\n,1,4,month failed: no-such-day,failed\nall,7,12.75,\"kg 1 failed, 1 blank\",all\n",
		run("--by", month, "--sum", "kg", "--format", "csv"))
	assert.Equal(t, "boat,2021-03,2021-04,(blank),(no-such-day),lacking,group kind\nAda,1.5,,,4,\"kg 1 failed, 1 blank\",values\nBob,,2.25,5,,,values\nall,1.5,2.25,5,4,\"kg 1 failed, 1 blank\",all\n",
		run("--by", "boat", "--across", month, "--sum", "kg", "--format", "csv", "-o", "o.csv"))
	assert.Equal(t, "boat,2021-03,2021-04,(blank),(no-such-day),lacking,group kind\nAda,1.5,,,4,\"kg 1 failed, 1 blank\",values\nBob,,2.25,5,,,values\n", f.read("o.csv"))
	assert.Equal(t, "Ada,Bob,lacking,group kind\n4,3,,all\n", run("--across", "boat", "--format", "csv"))
	assert.Equal(t, "month,sum kg Ada,sum kg Bob,largest kg Ada,largest kg Bob,lacking,group kind\n", strings.SplitAfter(run("--by", month, "--across", "boat", "--sum", "kg", "--largest", "kg", "--format", "csv"), "\n")[0])
	for _, tt := range []struct{ args, want string }{
		{"--across boat --top 2", "goes with none of"}, {"--across boat --format json", "leave it out"}, {"--across nope", "nope"},
	} {
		r := f.run(append([]string{"totals", "a.csv"}, strings.Fields(tt.args)...)...)
		assert.Equal(t, 2, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
	}
	// However the key is called, it is the one that stands across; a table without rows has a line of all.
	assert.Equal(t, "day,Ada,Bob,lacking,group kind\n", strings.SplitAfter(run("--by", "boat,day", "--across", "BOAT", "--format", "csv"), "\n")[0])
	f.file("none.csv", "boat,day\n")
	r := f.run("totals", "none.csv", "--by", "boat", "--across", "day", "--format", "csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "boat,lacking,group kind\nall,,all\n", r.out)
	f.file("twice.csv", "boat,day\nAda,boat\n")
	assert.Contains(t, f.run("totals", "twice.csv", "--by", "boat", "--across", "day", "--format", "csv").out, "boat,boat_2,lacking,group kind\n")
	var b strings.Builder
	b.WriteString("n,k\n")
	for i := range 201 {
		fmt.Fprintf(&b, "c%d,1\n", i)
	}
	f.file("b.csv", b.String())
	r = f.run("totals", "b.csv", "--across", "n")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "has 201 different values, and at most 200 can stand across")
}

// Sums are exact in every format: where one would round them, they are written as text.
func TestTotalsAreExactInEveryFormat(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "p,kg\nA,90071992547409.91\nA,0.02\nB,1\nC,12345678901234567890123\nB,2.5\n")
	for _, name := range []string{"t.csv", "t.jsonl", "t.xlsx", "t.parquet", "t.db"} {
		require.Equal(t, 0, f.run("totals", "a.csv", "--by", "p", "--sum", "kg", "-o", name).code)
		require.Equal(t, 0, f.run("convert", name, "-o", "back.csv").code, name)
		var sums []string
		for _, row := range f.records("back.csv")[1:] {
			sums = append(sums, row[2])
		}
		assert.Equal(t, []string{"90071992547409.93", "3.5", "12345678901234567890123"}, sums, name)
	}
}

// A column says what kind of group a line of a file is; it and the figures have names of their own beside those of keys.
// What is counted can be computed where it is asked for, from section headings too, now and before.
func TestTotalsSayWhatIsWhat(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "rows,group kind,kg\nall,x,1\n,y,2\nb,x,4\n")
	require.Equal(t, 0, f.run("totals", "a.csv", "--by", "rows,group kind", "--sum", "kg", "-o", "o.csv").code)
	assert.Equal(t, "rows,group kind,rows_2,sum kg,lacking,group kind_2\nall,x,1,1,,values\nb,x,1,4,,values\n,y,1,2,,blank\n", f.read("o.csv"))
	f.file("c.csv", f.run("totals", "a.csv", "--by", "rows", "--sum", "kg", "--format", "csv").out)
	assert.Contains(t, f.read("c.csv"), "\nall,1,1,,values\n")
	assert.Contains(t, f.read("c.csv"), "\nall,3,7,,all\n")
	r := f.run("totals", "a.csv", "--by", "rows", "--sum", "kg", "--expect", "c.csv")
	assert.Equal(t, 0, r.code, r.out)
	assert.Contains(t, r.out, "4 groups as expected")
	f.file("b.csv", "boat,crew,kg\nNorth Quay,,\nAda,2,1\nBob,3,2\nCay,2,5\nSouth Quay,,\nAda,2,4\nCay,2,5\nDot,2,6\n")
	run := func(args ...string) string {
		r := f.run(append([]string{"totals", "b.csv", "--format", "csv"}, args...)...)
		require.Equal(t, 0, r.code, r.err)
		return r.out
	}
	assert.Equal(t, "quay,rows,sum net,sum kg,mean net,lacking,group kind\nNorth Quay,3,4.0,8,1.3333333,,values\n"+
		"South Quay,3,7.5,15,2.5,,values\nall,6,11.5,23,1.9166667,,all\n", run("--by", "quay", "--section-heading-into", "quay",
		"--sum", "net = kg * 0.5", "--sum", "kg", "--mean", "net"))
	assert.Contains(t, run("--by", "first = part(boat, 1, 1)", "--against", "b.csv"), "A,rows,2,2,0")
	r = f.run("totals", "b.csv", "--sum", "kg,net = kg * 0.5")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "NAME = EXPRESSION stands alone")
}

// One moment is one group however it is written; --top takes the largest; and columns are computed first.
func TestTotalsByMomentsAndTop(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "p,at,kg\nA,2021-03-04T10:00:00Z,1\nA,2021-03-04T12:00:00+02:00,2\nB,2021-03-04T23:30:00-05:00,4\nB,2021-03-05T04:30:00Z,5\n"+
		"C,2021-03-05T04:30:00.5Z,3\n")
	r := f.run("totals", "a.csv", "--by", "at", "--sum", "kg", "--format", "csv")
	assert.Equal(t, "at,rows,sum kg,lacking,group kind\n2021-03-04T10:00:00Z,2,3,,values\n2021-03-05T04:30:00Z,2,9,,values\n2021-03-05T04:30:00.5Z,1,3,,values\nall,5,15,,all\n", r.out)
	r = f.run("totals", "a.csv", "--by", "p", "--compute", "n = kg * 2", "--sum", "n", "--top", "1", "--format", "csv")
	assert.Equal(t, "p,rows,sum n,lacking,group kind\nB,2,18,,values\nall,5,30,,all\n", r.out)
	r = f.run("totals", "a.csv", "--by", "p", "--sum", "kg", "--order-by=-kg", "--format", "csv")
	assert.Equal(t, "p,rows,sum kg,lacking,group kind\nB,2,9,,values\nA,2,3,,values\nC,1,3,,values\nall,5,15,,all\n", r.out)
}

// What totals has written, --expect takes: with a group that is named all, blanks, failures, semicolons.
func TestTotalsAreExpectedAsWritten(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "n,kg\n1,1\n2,2\n,3\nbad,4\n12.,x\n"+strings.Repeat("3,1\n", 12))
	require.Equal(t, 0, f.run("totals", "a.csv", "--by", "n", "--as", "n=integer", "--as", "kg=integer", "--sum", "kg", "-o", "t.csv").code)
	f.file("s.csv", strings.ReplaceAll(f.read("t.csv"), ",", ";"))
	for _, name := range []string{"t.csv", "s.csv"} {
		r := f.run("totals", "a.csv", "--by", "n", "--as", "n=integer", "--as", "kg=integer", "--sum", "kg", "--expect", name)
		assert.Equal(t, 0, r.code, "%s: %s%s", name, r.out, r.err)
	}
	f.file("b.csv", "p,kg\nall,1\nB,2\nB,3\n")
	require.Equal(t, 0, f.run("totals", "b.csv", "--by", "p", "--sum", "kg", "-o", "u.csv").code)
	r := f.run("totals", "b.csv", "--by", "p", "--sum", "kg", "--expect", "u.csv")
	assert.Equal(t, 0, r.code, r.out+r.err)
	f.file("b.csv", "p,kg\nall,2\nB,2\nB,3\n")
	assert.Equal(t, 1, f.run("totals", "b.csv", "--by", "p", "--sum", "kg", "--expect", "u.csv").code)
}
