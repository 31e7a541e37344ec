package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const monthly = "Vessel,Port,Jan,Feb,Mar\nMarlies,Nordhaven,\"12,5\",\"30,0\",\nSeestern,Ostkai,\"7,0\",x,\"9,25\"\nVessel,Port,Jan,Feb,Mar\n" +
	"Wiking,Westkai,\"1,0\",\"2,0\",\"3,0\"\nTotal,,\"20,5\",\"32,0\",\"12,25\"\n"

// Columns become rows: each row makes one for each of them, failures and origins have the row of the file, rows that are no
// data stay one with all their cells, and the ledger balances.
func TestTurn(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", monthly)
	r := f.run("convert", "a.csv", "--turn", "Jan, Feb,Mar => month,amount", "--as", "amount=decimal", "-o", "o.csv", "--origin")
	require.Equal(t, 1, r.code, r.err)
	assert.Contains(t, r.out, "rows: 5 in, turned into 11 = 9 out + 2 set aside (1 repeated-heading, 1 total-row)")
	assert.Equal(t, "Vessel,Port,month,amount,source_file,source_row,source_line\n"+
		"Marlies,Nordhaven,Jan,12.5,a.csv,1,2\nMarlies,Nordhaven,Feb,30.0,a.csv,1,2\nMarlies,Nordhaven,Mar,,a.csv,1,2\n"+
		"Seestern,Ostkai,Jan,7.0,a.csv,2,3\nSeestern,Ostkai,Feb,,a.csv,2,3\nSeestern,Ostkai,Mar,9.25,a.csv,2,3\n"+
		"Wiking,Westkai,Jan,1.0,a.csv,4,5\nWiking,Westkai,Feb,2.0,a.csv,4,5\nWiking,Westkai,Mar,3.0,a.csv,4,5\n", f.read("o.csv"))
	assert.Contains(t, f.read("o.failures.csv"), "\n2,3,amount,Feb,x,decimal,not-a-number,")
	assert.Contains(t, f.read("o.setaside.csv"), "3,4,repeated-heading,Vessel,Port,Jan,Feb,Mar\n5,6,total-row,Total,,\"20,5\",\"32,0\",\"12,25\"\n")
	plan := f.read("o.plan.yaml")
	assert.Contains(t, plan, "  turn: [Jan, Feb, Mar]\n  into: [month, amount]\n")

	again := f.run("convert", "a.csv", "--plan", "o.plan.yaml", "-o", "o2.csv", "--format", "json")
	require.Equal(t, 1, again.code, again.err)
	fits(t, "ledger.schema.json", again.out)
	var ledger struct {
		Rows struct{ In, Turned, Out, SetAside int64 }
	}
	require.NoError(t, json.Unmarshal([]byte(again.out), &ledger))
	assert.EqualValues(t, 5, ledger.Rows.In)
	assert.EqualValues(t, 11, ledger.Rows.Turned)
	check := f.run("check", "a.csv", "--plan", "o.plan.yaml")
	assert.Contains(t, check.out, "drift in 0 points")
	assert.Contains(t, f.run("preview", "a.csv", "--plan", "o.plan.yaml", "--rows", "2", "--failures").out, "not-a-number")
	assert.Contains(t, f.run("why", "a.csv", "--plan", "o.plan.yaml", "--row", "4", "--column", "Jan").out, "1.0")
	assert.Contains(t, f.run("totals", "a.csv", "--plan", "o.plan.yaml", "--by", "month", "--sum", "amount").out, "20.5")
	prof := f.run("profile", "a.csv", "--turn", "Jan,Feb,Mar => month,amount", "--format", "json")
	require.Equal(t, 0, prof.code, prof.err)
	fits(t, "profile.schema.json", prof.out)
	text := f.run("profile", "a.csv", "--turn", "Jan,Feb,Mar => month,amount")
	assert.Regexp(t, `amount +text +text +ddddddddddx· .*nearly-typed 1`, text.out)
}

// What can't be turned is told, by the flag and by a plan.
func TestTurnMistakes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", monthly)
	for turn, say := range map[string]string{
		"Jan,Feb":                  "--turn takes COLUMNS => NAMES,CELLS",
		"Jan => month":             "--turn takes COLUMNS => NAMES,CELLS",
		"Jan => a,a":               "--turn takes COLUMNS => NAMES,CELLS",
		"Jan,Fbe => month,amount":  `there is no column "Fbe". Did you mean "Feb"?`,
		"Jan,Feb => Vessel,amount": `the source has one of that name already`,
	} {
		r := f.run("convert", "a.csv", "--turn", turn, "-o", "o.csv")
		assert.Equal(t, 2, r.code, turn)
		assert.Contains(t, r.err, say, turn)
	}
	for rows, say := range map[string]string{
		"turn: [Jan]":                                     "turn and into go together",
		"into: [a, b]":                                    "turn and into go together",
		"turn: [Jan, Jan], into: [a, b]":                  "twice",
		"turn: [Jan], into: [a]":                          "into has the names of two columns",
		"turn: [], into: [a, b]":                          "turn is a list of columns",
		"turn: [Juni], into: [month, amount]":             `the column "Juni" is to be turned into rows, and the source has no such column`,
		"turn: [Jan, Feb, Mar], into: [Port, amount]":     "has one of that name already",
		"turn: [Jan, Feb, Mar], into: [month, something]": `the plan reads the column "amount"`,
	} {
		f.file("p.yaml", "plan: 1\nrows: {"+rows+"}\ncolumns: {Vessel: {}, amount: {}}\n")
		r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv")
		assert.Equal(t, 2, r.code, rows)
		assert.Contains(t, r.err, say, rows)
	}
	f.file("p.yaml", "plan: 1\nrows: {turn: [Jan, Feb], into: [month, amount]}\ncolumns:\n  amount:\n    steps: [fill: {from: above}]\n")
	above := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv")
	assert.Equal(t, 2, above.code)
	assert.Contains(t, above.err, "can't be filled from above")
	assert.Equal(t, 2, f.run("profile", "a.csv", "--turn", "Jan => a,b", "--save", "x.profile").code)
	assert.Equal(t, []string{"a.csv", "p.yaml"}, f.names())
	f.file("empty.csv", "")
	assert.Equal(t, 3, f.run("convert", "empty.csv", "--turn", "Jan => a,b", "-o", "e.csv").code)
	f.file("head.csv", "Vessel,Jan\n")
	r := f.run("convert", "head.csv", "--turn", "Jan => month,amount", "-o", "h.csv")
	assert.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "Vessel,month,amount\n", f.read("h.csv"))
}

// Turned, a large table is what a count by hand makes of it, for any number of workers and from any format.
func TestTurnIsTheSameEverywhere(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	rnd := rand.New(rand.NewPCG(3, 4))
	var b, want strings.Builder
	b.WriteString("Id,Note,A,B,C,D\n")
	want.WriteString("Id,Note,which,value\n")
	for i := range 20_000 {
		note := []string{"plain", "two\nlines", "a, comma", "say \"so\""}[rnd.IntN(4)]
		quoted := `"` + strings.ReplaceAll(note, `"`, `""`) + `"`
		fmt.Fprintf(&b, "%d,%s", i, quoted)
		if note == "plain" {
			quoted = note
		}
		for _, name := range []string{"A", "B", "C", "D"} {
			n := rnd.IntN(1000)
			fmt.Fprintf(&b, ",%d", n)
			fmt.Fprintf(&want, "%d,%s,%s,%d\n", i, quoted, name, n)
		}
		b.WriteByte('\n')
	}
	f.file("a.csv", b.String())
	for _, workers := range []string{"1", "2", "5"} {
		r := f.run("convert", "a.csv", "--turn", "A,B,C,D => which,value", "-o", "o"+workers+".csv", "--workers", workers)
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, want.String(), f.read("o"+workers+".csv"), workers)
	}
	for _, name := range []string{"a.jsonl", "a.parquet", "a.xlsx", "a.db"} {
		require.Equal(t, 0, f.run("convert", "a.csv", "-o", name).code)
		r := f.run("convert", name, "--turn", "A,B,C,D => which,value", "-o", name+".csv", "--set-aside", name+".aside")
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, want.String(), f.read(name+".csv"), name)
	}
}

// Whatever rows a table has, it is turned into the same cells that it has without that: the same rows are set aside.
func TestTurnedTablesHaveTheSameSums(t *testing.T) {
	t.Parallel()
	sum := func(rows [][]string, column string) (n int) {
		at := slices.Index(rows[0], column)
		for _, row := range rows[1:] {
			v, err := strconv.Atoi(row[at])
			if row[at] != "" {
				require.NoError(t, err)
			}
			n += v
		}
		return n
	}
	for name, more := range map[string]string{
		"total": "Total,,160,16\n", "full total": "Total,all,160,16\n", "named total": "Total North,,160,16\n", "bare total": ",,160,16\n",
		"no word": "Everything,,160,16\n", "sum that is wrong": "Total,,161,16\n", "blank": ",,,\n", "average": "Average,,40,4\n", "heading": "port,boat,Jan,Feb\n",
		"note": "Note: all in kg.,,,\n", "section": "North,,,\n", "rule": "----,----,----,----\n", "footer": "# made by hand,,,\n", "long": "X,y,1,2,3,4\n",
		"none": "",
	} {
		f := newFolder(t)
		f.file("a.csv", "port,boat,Jan,Feb\nHAR,Anke,10,1\nHUL,Jan,50,4\nBRE,Ole,40,5\nBRE,Ida,60,6\n"+more)
		require.LessOrEqual(t, f.run("convert", "a.csv", "-o", "o.csv").code, 1)
		straight := f.records("o.csv")
		r := f.run("convert", "a.csv", "--turn", "Jan,Feb => month,kg", "-o", "t.csv")
		require.LessOrEqual(t, r.code, 1, r.err)
		turned := f.records("t.csv")
		assert.Equal(t, 2*(len(straight)-1), len(turned)-1, name)
		assert.Equal(t, sum(straight, "Jan")+sum(straight, "Feb"), sum(turned, "kg"), name)
		r = f.run("totals", "a.csv", "--turn", "Jan,Feb => month,kg", "--by", "month", "--sum", "kg", "--format", "csv")
		assert.Contains(t, r.out, fmt.Sprintf("\nJan,%d,%d,", len(straight)-1, sum(straight, "Jan")), name)
	}
}

// A cell of a turned table is known by its row and its column of the file: in failures, answers, why and preview.
func TestTurnedCellsAreKnown(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "port,Jan,Feb\nHAR,10,1\nHUL,x,x\n"+strings.Repeat("BRE,6,2\n", 12))
	require.Equal(t, 1, f.run("convert", "a.csv", "--turn", "Jan,Feb => month,kg", "-o", "o.csv").code)
	failures := f.records("o.failures.csv")
	assert.Equal(t, []string{"row", "line", "column", "from", "value"}, failures[0][:5])
	assert.Equal(t, []string{"2", "3", "kg", "Jan", "x"}, failures[1][:5])
	assert.Equal(t, []string{"2", "3", "kg", "Feb", "x"}, failures[2][:5])
	list := strings.Join(failures[0], ",") + "\n2,3,kg,Jan,x,,,,,5\n2,3,kg,Feb,x,,,,,7\n"
	f.file("answers.csv", list)
	r := f.run("convert", "a.csv", "--plan", "o.plan.yaml", "--fixes", "answers.csv", "-o", "p.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, [][]string{{"HUL", "Jan", "5"}, {"HUL", "Feb", "7"}}, f.records("p.csv")[3:5])
	r = f.run("why", "a.csv", "--plan", "o.plan.yaml", "--row", "1", "--column", "Feb")
	assert.Contains(t, r.out, "«1»")
	assert.Contains(t, r.out, "columns have become rows: this cell is of column Feb of the file")
	r = f.run("why", "a.csv", "--plan", "o.plan.yaml", "--row", "1", "--column", "kg")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "the row has a cell of kg for each of the columns Jan, Feb")
	r = f.run("preview", "a.csv", "--turn", "Jan,Feb => month,kg", "--failures")
	assert.Regexp(t, `(?m)^2 Jan  x .*\n2 Feb  x `, r.out)
	r = f.run("preview", "a.csv", "--turn", "Jan,Feb => month,kg", "--grid", "--where", "month == 'Feb'", "--rows", "2")
	assert.Regexp(t, `(?m)^1 Feb +HAR +Feb +1 +1\n2 Feb +HUL +Feb +x `, r.out)
}

// Answers are of the file that they were given for, and what can't be used is said.
func TestAnswersAreOfTheirFile(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("jan.csv", "kg,p\n"+strings.Repeat("1,a\n", 30)+"x,a\n")
	f.file("feb.csv", "kg,p\n"+strings.Repeat("2,b\n", 30)+"x,b\n")
	require.Equal(t, 1, f.run("convert", "jan.csv", "feb.csv", "-o", "o.csv").code)
	rows := f.records("o.failures.csv")
	require.Len(t, rows, 3)
	at := slices.Index(rows[0], "fix")
	rows[1][at], rows[2][at] = "101", "102"
	list := func(rows [][]string, comma string) string {
		var lines []string
		for _, row := range rows {
			lines = append(lines, `"`+strings.Join(row, `"`+comma+`"`)+`"`)
		}
		return strings.Join(lines, "\n") + "\n"
	}
	f.file("answers.csv", list(rows, ","))
	r := f.run("convert", "jan.csv", "feb.csv", "--plan", "o.plan.yaml", "--fixes", "answers.csv", "-o", "p.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, f.read("p.csv"), "101,a\n")
	assert.Contains(t, f.read("p.csv"), "102,b\n")
	r = f.run("convert", "feb.csv", "--plan", "o.plan.yaml", "--fixes", "answers.csv", "-o", "q.csv")
	assert.Equal(t, 1, r.code, "the answer to row 31 of January is none to row 31 of February")
	assert.Contains(t, r.err, "matches no failure")
	assert.NotContains(t, f.read("q.csv"), "101")

	var without [][]string
	for _, row := range rows {
		without = append(without, row[1:])
	}
	f.file("nofile.csv", list(without, ","))
	r = f.run("convert", "jan.csv", "feb.csv", "--plan", "o.plan.yaml", "--fixes", "nofile.csv", "-o", "r.csv")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "does not say of which file each answer is, and there are 2")
	f.file("semi.csv", "\ufeff"+list(without, ";"))
	require.Equal(t, 0, f.run("convert", "jan.csv", "--plan", "o.plan.yaml", "--fixes", "semi.csv", "-o", "s.csv").code)
	assert.Contains(t, f.read("s.csv"), "101,a\n")
	rows[1][at], rows[2][at] = "", ""
	f.file("none.csv", list(rows, ","))
	r = f.run("convert", "jan.csv", "--plan", "o.plan.yaml", "--fixes", "none.csv", "-o", "u.csv")
	assert.Contains(t, r.err, "has no answer in its column fix")

	f.file("s.yaml", "plan: 1\ncolumns: {pair: {split: {at: \"-\"}, into: {a: {}, b: {}}}}\n")
	f.file("pairs.csv", "pair\nx-y\nz\n")
	f.file("pair.csv", "row,column,value,fix\n2,a,z,z-w\n")
	r = f.run("convert", "pairs.csv", "--plan", "s.yaml", "--fixes", "pair.csv", "-o", "v.csv")
	assert.NotContains(t, f.read("v.csv"), "z-w", r.err)
}
