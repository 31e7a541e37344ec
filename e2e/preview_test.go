package e2e

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const catches = "Boat,Kg,Day,Note\n" +
	"Ada,\"1,5\",01.03.2021,lot 7\n" +
	"Bob,2,02.03.2021,\n" +
	"Ada,x,03.03.2021,none\n" +
	"Cleo,\"3,25\",31.02.2021,lot 12\n" +
	"Ada,\"4,0\",05.03.2021,lot 9 b\n"

const catchPlan = `plan: 1
columns:
  Boat: {}
  kg: {from: Kg, to: decimal, decimal-mark: ","}
  day: {from: Day, to: date, date-order: dmy}
  lot: {from: Note, steps: [trim, {take: {digits: 1, otherwise: blank}}, {pad: {width: 3, with: "0"}}], to: code}
  twice: {compute: kg * 2}
`

func TestPreviewCountsWhatBecomesOfAllCells(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", catches)
	f.file("p.yaml", catchPlan)
	r := f.run("preview", "a.csv", "--plan", "p.yaml")
	require.Equal(t, 0, r.code, r.err)
	for _, line := range []string{
		`kg from "Kg" to decimal (decimal mark ","): 1 the same, 3 changed, 1 fail`,
		`day from "Day" to date (day first): 4 changed, 1 fail`,
		`lot from "Note" to code: 3 changed, 1 blank, 1 emptied`,
		"  unchanged          Boat\n",
	} {
		assert.Contains(t, r.out, line)
	}
	// What fails comes first, then what changes.
	assert.Less(t, strings.Index(r.out, "\nday "), strings.Index(r.out, "\nlot "))
	r = f.run("preview", "a.csv", "--plan", "p.yaml", "--format", "json")
	var doc struct {
		Columns []struct {
			Name                                string
			Same, Changed, Blank, Emptied, Fail int
		}
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &doc))
	require.Len(t, doc.Columns, 5)
	for _, c := range doc.Columns {
		assert.Equal(t, 5, c.Same+c.Changed+c.Blank+c.Emptied+c.Fail, c.Name)
	}
}

// lines returns the lines of a table below its rule, cut at runs of spaces.
func lines(table string) (all []string) {
	_, body, _ := strings.Cut(table, "─\n")
	for line := range strings.Lines(body) {
		all = append(all, strings.Join(strings.Fields(line), " "))
	}
	return all
}

func TestPreviewChoosesRows(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", catches)
	f.file("p.yaml", catchPlan)
	of := func(args ...string) []string {
		t.Helper()
		r := f.run(append([]string{"preview", "a.csv", "--plan", "p.yaml", "--column", "lot"}, args...)...)
		require.Equal(t, 0, r.code, r.err)
		return lines(r.out)
	}
	assert.Equal(t, []string{"2 .", "4 lot 12 > 012", "5 lot 9 b > 009"}, of("--rows", "2,4-5"))
	assert.Equal(t, []string{"3 none o"}, of("--rows", "3-3"))
	assert.Equal(t, []string{"1 lot 7 > 007", "3 none o", "5 lot 9 b > 009"}, of("--where", `Boat == "Ada"`))
	assert.Equal(t, []string{"3 none o"}, of("--where", `failed(kg) && raw("Kg") == "x"`))
	assert.Equal(t, []string{"5 lot 9 b > 009"}, of("--where", "row() == 5"))
	f.refused(2, "make a column of it", 100, "preview", "a.csv", "--where", `before(Boat) == "Ada"`)
	assert.Equal(t, []string{"4 lot 12 > 012"}, of("--alike", "4"))
	assert.Equal(t, []string{"3 none o"}, of("--emptied"))
	assert.Equal(t, []string{"1 lot 7 > 007", "2 more"}, of("--rows", "1", "--where", `Boat == "Ada"`))
	for args, want := range map[string]string{
		"--rows 0":              "--rows must be at least 1",
		"--rows 5-2":            "--rows is how many rows to show",
		"--rows a,b":            "--rows is how many rows to show",
		"--alike 99":            "there is no row 99",
		"--alike -1":            "--alike is the number of a row",
		"--where kg":            "--where: a condition is true or false, and this is a decimal",
		"--where raw('x')=='y'": `the plan reads the column "x"`,
		"--failures --emptied":  "exclude each other",
		"--grid --steps":        "exclude each other",
		"--where kgg>1":         "did you mean the column kg?",
	} {
		r := f.run(append([]string{"preview", "a.csv", "--plan", "p.yaml"}, strings.Fields(args)...)...)
		assert.Equal(t, 2, r.code, args)
		assert.Contains(t, r.err, want, args)
	}
}

func TestPreviewShowsEveryStep(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", catches)
	f.file("p.yaml", catchPlan)
	r := f.run("preview", "a.csv", "--plan", "p.yaml", "--column", "lot", "--steps")
	assert.Contains(t, r.out, "row  before   trim     take: {digits: 1, otherwise: blank}  pad: {width: 3, with: \"0\"}     after\n")
	assert.Equal(t, "5 lot 9 b lot 9 b 9 009 > 009", lines(r.out)[4])
	r = f.run("preview", "a.csv", "--plan", "p.yaml", "--column", "lot", "--steps", "--format", "json", "--rows", "5-5")
	assert.Contains(t, r.out, "\"step\": \"take: {digits: 1, otherwise: blank}\",\n              \"text\": \"9\"\n")
	private := strings.Replace(catchPlan, "to: code}", "to: code, private: true}", 1)
	f.file("private.yaml", private)
	r = f.run("preview", "a.csv", "--plan", "private.yaml", "--column", "lot", "--steps", "--rows", "5-5")
	assert.NotContains(t, r.out, "lot 9 b")
	assert.NotContains(t, r.out, "009")
}

func TestPreviewShowsWholeRows(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", catches)
	f.file("p.yaml", catchPlan)
	r := f.run("preview", "a.csv", "--plan", "p.yaml", "--grid", "--rows", "1,4")
	assert.Equal(t, []string{"1 Ada 1,5 1.5 01.03.2021 2021-03-01 lot 7 007 3", "4 Cleo 3,25 3.25 31.02.2021 x no-such-day lot 12 012 6.5"},
		lines(r.out))
	r = f.run("preview", "a.csv", "--plan", "p.yaml", "--grid", "--failures", "--format", "csv")
	assert.Equal(t, "row,Boat,Kg,> kg,Day,> day,Note,> lot,> twice\n3,Ada,x,x not-a-number,03.03.2021,2021-03-03,none,o,\n"+
		"4,Cleo,\"3,25\",3.25,31.02.2021,x no-such-day,lot 12,012,6.5\n", r.out)
	r = f.run("preview", "a.csv", "--plan", "p.yaml", "--grid", "--where", "blank(lot)", "--column", "lot", "--format", "json")
	var doc struct {
		Grid []struct {
			Row   int
			Cells []struct{ Column, Before, After string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &doc))
	require.Len(t, doc.Grid, 2)
	assert.Equal(t, 2, doc.Grid[0].Row)
	assert.Equal(t, "none", doc.Grid[1].Cells[0].Before)
}
