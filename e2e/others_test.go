package e2e

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const boats = "No,Boat,Kg,Note\n007,Ada,\"1,5\",n/a\n008,\"Bob, Cleo\",x,\n009,,2, lot 7 \n"

func TestOtherColumnsKeepTheirPlaceAndTheirText(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", boats)
	f.file("p.yaml", "plan: 1\nothers: keep\ncolumns:\n  Kg: {to: decimal, decimal-mark: \",\"}\n")
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
	assert.Equal(t, 1, r.code, r.err)
	assert.Equal(t, "No,Boat,Kg,Note\n007,Ada,1.5,n/a\n008,\"Bob, Cleo\",,\n009,,2, lot 7 \n", f.read("o.csv"))
	// Another order of the source, and a column more: the plan is the same.
	f.file("b.csv", "New,Kg,No\nx,\"1,5\",1\n")
	r = f.run("convert", "b.csv", "-o", "-", "--plan", "p.yaml")
	assert.Equal(t, "New,Kg,No\nx,1.5,1\n", r.out)
	// Conditions, orders, expressions and joins find their columns although others stand between them.
	f.file("q.yaml", "plan: 1\nothers: keep\nrows: {keep: 'twice > 2', order-by: [{twice: descending}]}\ncolumns:\n  kg: {from: Kg, to: decimal, decimal-mark: \",\"}\n"+
		"  twice: {compute: kg * 2}\n  tag: {join: [No, kg, Boat], with: \"/\"}\n  No: {}\n")
	r = f.run("convert", "a.csv", "-o", "-", "--plan", "q.yaml")
	assert.Equal(t, "Boat,kg,twice,tag,No,Note\n,2,4,009/2,009, lot 7 \nAda,1.5,3,007/1.5/Ada,007,n/a\n", r.out)
	// One that is read by a join only is written once.
	f.file("j.yaml", "plan: 1\nothers: keep\ncolumns:\n  tag: {join: [No, Boat], with: \"/\"}\n")
	r = f.run("convert", "a.csv", "-o", "-", "--plan", "j.yaml")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "No,Boat,Kg,Note,tag\n007,Ada,\"1,5\",n/a,007/Ada\n008,\"Bob, Cleo\",x,,\"008/Bob, Cleo\"\n009,,2, lot 7 ,009\n", r.out)
	f.file("k.yaml", "plan: 1\nothers: keep\ncolumns:\n  number: {from: No}\n  tag: {join: [No, Boat], with: \"/\"}\n")
	r = f.run("convert", "a.csv", "-o", "-", "--plan", "k.yaml")
	assert.Equal(t, "number,tag,Boat,Kg,Note\n007,007/Ada,Ada,\"1,5\",n/a\n008,\"008/Bob, Cleo\",\"Bob, Cleo\",x,\n009,009,,2, lot 7 \n", r.out)
	f.file("l.yaml", "plan: 1\nothers: keep\ncolumns:\n  Kg: {}\n  tag: {join: [No, Boat], with: \"/\"}\n")
	r = f.run("convert", "a.csv", "-o", "-", "--plan", "l.yaml", "--output-format", "tsv")
	assert.Equal(t, "No\tBoat\tKg\ttag\tNote\n007\tAda\t1,5\t007/Ada\tn/a\n008\tBob, Cleo\tx\t008/Bob, Cleo\t\n009\t\t2\t009\t lot 7 \n", r.out)
	assert.NotContains(t, r.err, "helper")
	r = f.run("why", "a.csv", "--row", "3", "--column", "Note", "--plan", "p.yaml")
	assert.Contains(t, r.out, "so it becomes")
	r = f.run("preview", "a.csv", "--plan", "p.yaml", "--column", "Note")
	assert.Equal(t, 0, r.code, r.err)
	f.file("c.csv", "No,Kg,Boat\n1,\"1,5\",x\n")
	r = f.run("check", "c.csv", "--plan", "p.yaml")
	assert.Equal(t, 0, r.code, r.out+r.err)
	assert.Contains(t, r.out, "drift in 0 points")
	for plan, want := range map[string]string{
		"others: keep\ncolumns: {Boat: {from: Kg}}":          `others: keep would write the column "Boat"`,
		"others: perhaps\ncolumns: {Boat: {}}":               `unknown way to go on with the other columns "perhaps"`,
		"columns: {b: {join: [Boatt]}}":                      `it has "Boat"`,
		"columns: {b: {helper: true, must: {unique: true}}}": "a helper is not written",
		"columns: {Boat: {emptied: perhaps}}":                "unknown way to go on with an emptied cell",
	} {
		f.file("wrong.yaml", "plan: 1\n"+plan+"\n")
		r := f.run("convert", "a.csv", "-o", "-", "--plan", "wrong.yaml")
		assert.Equal(t, 2, r.code, plan)
		assert.Contains(t, r.err, want, plan)
	}
}

func TestEachOfSeveralSourcesKeepsItsOwnOthers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "Kg,A\n1,x\n")
	f.file("b.csv", "B,Kg\ny,2\n")
	f.file("p.yaml", "plan: 1\nothers: keep\ncolumns: {Kg: {to: integer}}\n")
	r := f.run("convert", "a.csv", "b.csv", "-o", "out/", "--plan", "p.yaml", "--format", "csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "Kg,A\n1,x\n", f.read("out/a.csv"))
	assert.Equal(t, "B,Kg\ny,2\n", f.read("out/b.csv"))
	for _, want := range []string{"Kg,integer,,2,2,", "A,text,,1,1,", "B,text,,1,1,"} {
		assert.Contains(t, r.out, want)
	}
}

func TestHelpersAreWorkedOutAndNotWritten(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "Sold;No\n84/96;1\n10/0;2\nx;3\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  Sold:\n    split: {at: /}\n    into:\n      sold: {to: integer, helper: true}\n      of: {to: integer, helper: true}\n"+
		"  share: {compute: \"round(sold / of, 2)\"}\n  whole: {from: share, steps: [{take: {before: \".\", otherwise: keep}}], to: integer}\n  No: {to: integer}\n")
	for _, output := range []string{"o.csv", "o.jsonl", "o.xlsx", "o.parquet", "o.db#t"} {
		r := f.run("convert", "a.csv", "-o", output, "--plan", "p.yaml", "--origin", "--format", "json")
		require.Equal(t, 1, r.code, r.err)
		var ledger struct {
			Columns []struct {
				Name   string
				Helper bool
				Failed int
			}
		}
		require.NoError(t, json.Unmarshal([]byte(r.out), &ledger))
		assert.True(t, ledger.Columns[0].Helper)
		assert.Equal(t, 1, ledger.Columns[0].Failed)
		assert.False(t, ledger.Columns[2].Helper)
		r = f.run("convert", output, "-o", "-", "--as", "No=text", "--as", "share=text", "--as", "whole=text", "--as", "source_row=text", "--only", "share,whole,No,source_row")
		assert.Equal(t, "share,whole,No,source_row\n0.88,0,1,1\n,,2,2\n,,3,3\n", r.out, output)
	}
	assert.Contains(t, f.read("o.failures.csv"), "3,4,sold,x,integer,too-few-pieces,\"split: {at: \"\"/\"\"}\",")
	ddl := f.run("convert", "a.csv", "-o", "d.csv", "--plan", "p.yaml", "--ddl", "sqlite", "--metadata")
	require.Equal(t, 1, ddl.code, ddl.err)
	assert.NotContains(t, f.read("d.sql"), "sold")
	assert.NotContains(t, f.read("d.csv-metadata.json"), "sold")
}

// A cell that can't be taken apart is one failure, of the column for which that has the gravest result.
func TestOneCellThatCannotBeSplitIsOneFailure(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "P\na/b/c\nx\n1/2\n")
	plan := "plan: 1\ncolumns:\n  P:\n    split: {at: /}\n    into:\n      a: {}\n      b: {must: {not-blank: true}}\n      c: {%}\n  bad: {compute: 'failed(a) && failed(b) && failed(c)'}\n"
	f.file("p.yaml", strings.Replace(plan, "%", "", 1))
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml", "--group-failures")
	assert.Equal(t, 1, r.code, r.err)
	assert.Equal(t, "a,b,c,bad\na,b,c,false\n,,,true\n,,,true\n", f.read("o.csv"))
	assert.Equal(t, 2, strings.Count(f.read("o.failures.csv"), "too-few-pieces"))
	f.file("p.yaml", strings.Replace(plan, "%", "on-failure: set-aside-row", 1))
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml")
	assert.Equal(t, "a,b,c,bad\na,b,c,false\n", f.read("o.csv"))
	assert.Contains(t, r.out, "2 cells failed in rows set aside")
	f.file("p.yaml", strings.Replace(plan, "%", "on-failure: stop", 1))
	r = f.run("convert", "a.csv", "-o", "stopped.csv", "--plan", "p.yaml")
	assert.Contains(t, r.err, `row 2 (line 3) of a.csv failed in column "c"`)
}

// A cell of which the steps before a split leave nothing is not taken apart: it is emptied, as the steps of other columns have it.
func TestWhatIsEmptiedIsNotSplit(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "P\nx1/y2\n12\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  P:\n    steps: [{drop: digits}]\n    split: {at: /}\n    into: {a: {}, b: {}}\n")
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml", "--format", "csv")
	assert.Equal(t, 0, r.code, r.out+r.err)
	assert.Equal(t, "a,b\nx,y\n,\n", f.read("o.csv"))
	assert.Contains(t, r.out, "a,text,,2,0,1,0,1,0,0")
	r = f.run("why", "--value", "12", "--column", "b", "--plan", "p.yaml")
	assert.NotContains(t, r.out, "too-few-pieces")
}

// What is emptied is what held something before the steps and has nothing after them, counted by itself.
func TestEmptiedCellsAreCounted(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	values := []string{"lot 7", "7", "", "   ", "n/a", "none", "12 kg", "-", "x", " "}
	f.file("a.csv", "A,B\n"+strings.Join(values, ",b\n")+",b\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  A: {steps: [{keep: digits}], to: integer, blank-words: [n/a, \"-\"]}\n  B: {steps: [{drop: b}]}\n")
	r := f.run("convert", "a.csv", "-o", "o.csv", "--plan", "p.yaml", "--format", "json")
	var ledger struct {
		Columns []struct{ Cells, Right, Converted, Blank, Emptied, Failed int }
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &ledger))
	// "lot 7", "7", "12 kg" have digits; "none" and "x" have none; five are blank before any step.
	a := ledger.Columns[0]
	assert.Equal(t, [6]int{10, 1, 2, 5, 2, 0}, [6]int{a.Cells, a.Right, a.Converted, a.Blank, a.Emptied, a.Failed})
	assert.Equal(t, 10, ledger.Columns[1].Emptied)
	f.file("q.yaml", strings.Replace(f.read("p.yaml"), "blank-words", "emptied: fail, blank-words", 1))
	r = f.run("convert", "a.csv", "-o", "q.csv", "--plan", "q.yaml")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, r.out, `2 emptied: "none" 1, "x" 1`)
	assert.Contains(t, f.read("q.failures.csv"), "6,7,A,none,integer,emptied,")
}

func TestListsOfThePlanAndBesideIt(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "S\nHER\nher\nXX\n\n")
	require.NoError(t, os.Mkdir(f.path("plans"), 0o777))
	f.file("plans/species.csv", "code;name;more\nHER;herring;1\n\"C;D\";cod;2\n")
	f.file("plans/p.yaml", "plan: 1\nlists: {species: species.csv, own: {XX: ten}}\ncolumns:\n  name: {from: S, steps: [{substitute: {list: species, otherwise: blank}}]}\n"+
		"  fold: {from: S, steps: [{substitute: {list: species, ignore-case: true}}]}\n  own: {compute: 'firstOf(lookup(\"own\", code), lookup(\"species\", code), \"?\")'}\n  code: {from: S}\n")
	r := f.run("convert", "a.csv", "-o", "-", "--plan", "plans/p.yaml")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "name,fold,own,code\nherring,herring,herring,HER\n,herring,?,her\n,XX,ten,XX\n", strings.TrimSuffix(r.out, ",,?,\n"))
	r = f.run("check", "a.csv", "--plan", "plans/p.yaml", "--accept")
	assert.Equal(t, 0, r.code, r.out+r.err)
	for list, want := range map[string]string{
		"nosuch.csv": "no such file", "one.csv": "line 2: a line has a text and what stands in its place", "twice.csv": `line 3: "a" stands there twice`,
		"[a]": "a list is a map of texts", "{a: [b]}": "a text is wanted here",
	} {
		f.file("plans/one.csv", "a\nb\n")
		f.file("plans/twice.csv", "a,b\na,1\na,2\n")
		f.file("plans/wrong.yaml", "plan: 1\nlists: {l: "+list+"}\ncolumns: {S: {}}\n")
		r := f.run("preview", "a.csv", "--plan", "plans/wrong.yaml")
		assert.Equal(t, 2, r.code, list)
		assert.Contains(t, r.err, want, list)
	}
}

func TestColumnsOfColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "Name,Kg\n\"Okafor, Anke\",1.5\n\"Lührs, Tomma\",20\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  person:\n    from: Name\n    split: {at: \", \"}\n    into:\n      surname: {}\n      first: {helper: true}\n"+
		"  short: {from: first, steps: [{take: {first: 1}}]}\n  Kg: {to: decimal, decimal-mark: \".\"}\n  whole: {compute: Kg * 10, steps: [{pad: {width: 4, with: \"0\"}}], to: code}\n"+
		"  both: {join: [short, whole, Name], with: \" \", steps: [{case: upper}]}\n")
	r := f.run("convert", "a.csv", "-o", "-", "--plan", "p.yaml")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "surname,short,Kg,whole,both\nOkafor,A,1.5,0015,\"A 0015 OKAFOR, ANKE\"\nLührs,T,20,0200,\"T 0200 LÜHRS, TOMMA\"\n", r.out)
}

func TestSectionHeadingsBecomeAColumn(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "Boat,Kg,No\nNorth,,\nAda,1,1\nBob,2,2\nSouth,,\nCleo,3,3\n")
	f.file("b.csv", "Boat,Kg,No\nDora,4,4\n")
	f.file("p.yaml", "plan: 1\nothers: keep\nrows: {section-heading-into: quay}\ncolumns:\n  Kg: {to: integer}\n")
	r := f.run("convert", "a.csv", "b.csv", "-o", "o.csv", "--plan", "p.yaml")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "Boat,quay,Kg,No\nAda,North,1,1\nBob,North,2,2\nCleo,South,3,3\nDora,,4,4\n", f.read("o.csv"))
	assert.Contains(t, f.read("o.setaside.csv"), "section-heading")
	r = f.run("why", "a.csv", "--row", "5", "--column", "quay", "--plan", "p.yaml")
	assert.Contains(t, r.out, "South")
	assert.Contains(t, f.run("preview", "a.csv", "--plan", "p.yaml", "--column", "quay").out, "quay of section headings, to text")
	// A heading may stand in a private column, so that it is not shown then.
	f.file("private.yaml", "plan: 1\nrows: {section-heading-into: quay}\ncolumns:\n  Boat: {private: true}\n")
	assert.NotContains(t, f.run("preview", "a.csv", "--plan", "private.yaml").out, "South")
	f.file("wrong.yaml", "plan: 1\nrows: {section-heading-into: quay}\ncolumns:\n  quay: {from: Boat}\n")
	assert.Contains(t, f.run("preview", "a.csv", "--plan", "wrong.yaml").err, "which is made of something else")
}
