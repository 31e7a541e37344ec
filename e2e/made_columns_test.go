package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

const keepers = `Tag,Keeper,street,place,country,kg,day
lot-12a,Anke Petersen,Quay 4,Nordhaven,,"1.240,5",03/04/2021
lot-7b,Jan van Berg,,Hul,NL,"12,5",13/04/2021
,Moll,Dock 1,,DE,x,
lot-7c,Ute Moll,Dock 2,Hul,NL,"7,5",14/04/2021
`

// Steps, splits, joins and computed columns make columns in a line, in the order in which they stand, and the plan that is written
// does the same again.
func TestColumnsMadeInALine(t *testing.T) {
	t.Parallel()
	for args, want := range map[string]string{
		// A step makes a column, whose type is that of what it leaves.
		"--step|digits from Tag: keep: digits|--only|Tag,digits":                                      "Tag,digits\nlot-12a,12\nlot-7b,7\n,\nlot-7c,7\n",
		"--step|Tag: keep: digits|--step|twice from Tag: insert: {text: 0, at: end}|--only|Tag,twice": "Tag,twice\n12,120\n7,70\n,\n7,70\n",
		"--step|d from Tag: keep: digits|--step|d: pad: {width: 4, with: \"0\"}|--only|d":             "d\n0012\n0007\n\"\"\n0007\n",
		"--step|d from Tag: keep: digits|--step|e from d: pad: {width: 3, with: \"0\"}|--only|d,e":    "d,e\n12,012\n7,007\n,\n7,007\n",
		"--step|d from Tag: keep: digits|--as|d=text|--compute|x = d + \"!\"|--only|x":                "x\n12!\n7!\n\"\"\n7!\n",
		"--step|d from Tag: keep: digits|--rename|d=number|--only|number":                             "number\n12\n7\n\"\"\n7\n",
		"--step|d from Tag: keep: digits|--private|d|--only|d":                                        "d\n12\n7\n\"\"\n7\n",
		"--step|d from Tag: keep: digits|--keep-if|d > 7|--only|Tag":                                  "Tag\nlot-12a\n",
		"--step|d from Tag: keep: digits|--order-by|-d|--only|d|--keep-if|!blank(d)":                  "d\n12\n7\n7\n",
		// Pieces are columns, too; what does not fit is told, unless the split says what becomes of it.
		"--split|Keeper: {at: \" \", rest: keep, missing: blank} => first,last|--only|first,last":                                "first,last\nAnke,Petersen\nJan,van Berg\nMoll,\nUte,Moll\n",
		"--split|Keeper: {at: \" \"} => first,last|--only|first,last":                                                            "first,last\nAnke,Petersen\n,\n,\nUte,Moll\n",
		"--split|day: {at: /} => d,m,y|--step|m: insert: {text: \"0\", at: end}|--only|d,m,y":                                    "d,m,y\n03,040,2021\n13,040,2021\n,,\n14,040,2021\n",
		"--step|Keeper: case: upper|--split|Keeper: {at: \" \", nth: 1, missing: blank} => a,b|--only|a":                         "a\nANKE\nJAN\nMOLL\nUTE\n",
		"--split|Keeper: {at: \" \", rest: keep, missing: blank} => first,last|--only|last,first":                                "last,first\nPetersen,Anke\nvan Berg,Jan\n,Moll\nMoll,Ute\n",
		"--split|Keeper: {at: \" \", rest: keep, missing: blank} => first,last|--only|last,Tag,first|--keep-if|first == \"Ute\"": "last,Tag,first\nMoll,lot-7c,Ute\n",
		"--split|Keeper: {at: \" \", rest: keep, missing: blank} => first,last|--compute|x = last + \"!\"|--only|x":              "x\nPetersen!\nvan Berg!\n\"\"\nMoll!\n",
		"--split|day: {at: /} => d,m,y|--only|d,Tag,m,y|--keep-if|Tag == \"lot-7b\"":                                             "d,Tag,m,y\n13,lot-7b,04,2021\n",
		// A type and a mark go to a column under either of its names.
		"--rename|Tag=T|--as|Tag=code|--private|Tag|--only|T":                   "T\nlot-12a\nlot-7b\n\"\"\nlot-7c\n",
		"--join|j = \"/\": kg, Tag|--rename|kg=weight|--as|kg=decimal|--only|j": "j\n1240.5/lot-12a\n12.5/lot-7b\n\"\"\n7.5/lot-7c\n",
		// Joins leave blank values out.
		"--join|address = \", \": street, place, country|--only|address":                                 "address\n\"Quay 4, Nordhaven\"\n\"Hul, NL\"\n\"Dock 1, DE\"\n\"Dock 2, Hul, NL\"\n",
		"--split|Keeper: {at: \" \", rest: keep, missing: blank} => f,l|--join|n = \" \": l, f|--only|n": "n\nPetersen Anke\nvan Berg Jan\nMoll\nMoll Ute\n",
		// Computed columns take steps, types and names.
		"--compute|x = Tag + \"!\"|--step|x: case: upper|--only|x":                           "x\nLOT-12A!\nLOT-7B!\n\"\"\nLOT-7C!\n",
		"--compute|x = Tag + \"12\"|--step|x: keep: digits|--as|x=integer|--only|x":          "x\n1212\n712\n\"\"\n712\n",
		"--compute|x = Tag|--rename|x=y|--compute|z = y + \"?\"|--only|z":                    "z\nlot-12a?\nlot-7b?\n\"\"\nlot-7c?\n",
		"--rename|place=was|--compute|place = firstOf(was, \"?\")|--only|place,was":          "place,was\nNordhaven,Nordhaven\nHul,Hul\n?,\nHul,Hul\n",
		"--compute|n = steps(Tag, \"keep: digits\")|--as|n=text|--only|n":                    "n\n12\n7\n\"\"\n7\n",
		"--compute|n = blanks(street, place, country)|--keep-if|anyBlank()|--only|n":         "n\n1\n1\n1\n",
		"--compute|a = joined(\"/\", kg, day)|--only|a|--keep-if|previous(place) == \"Hul\"": "a\nx\n",
		"--compute|n = number(raw(\"kg\"), \",\") + 1|--only|n":                              "n\n1241.5\n13.5\n\"\"\n8.5\n",
		// Rows are ordered by columns that are not written, too.
		"--order-by|-day|--only|place,Tag":                                                "place,Tag\nHul,lot-7c\nHul,lot-7b\nNordhaven,lot-12a\n,\n",
		"--compute|n = length(Keeper)|--order-by|-n|--leave-out|n,c*,s*,p*,k*,day,Keeper": "Tag\nlot-12a\nlot-7b\nlot-7c\n\"\"\n",
		// Names have patterns.
		"--leave-out|kg,day,c*,Keeper":                                                     "Tag,street,place\nlot-12a,Quay 4,Nordhaven\nlot-7b,,Hul\n,Dock 1,\nlot-7c,Dock 2,Hul\n",
		"--only|street..country|--leave-out|pl*":                                           "street,country\nQuay 4,\n,NL\nDock 1,DE\nDock 2,NL\n",
		"--step|p*: case: upper|--only|pl*":                                                "place\nNORDHAVEN\nHUL\n\"\"\nHUL\n",
		"--turn|street..country => what,it|--only|Tag,what,it|--keep-if|Tag == \"lot-7b\"": "Tag,what,it\nlot-7b,street,\nlot-7b,place,Hul\nlot-7b,country,NL\n",
	} {
		f := newFolder(t)
		f.file("a.csv", keepers)
		line := strings.Split(args, "|")
		r := f.run(append([]string{"convert", "a.csv", "-o", "o.csv"}, line...)...)
		require.LessOrEqual(t, r.code, 1, "%s: %s", args, r.err)
		assert.Equal(t, want, f.read("o.csv"), args)
		r = f.run("convert", "a.csv", "--plan", "o.plan.yaml", "-o", "again.csv")
		require.LessOrEqual(t, r.code, 1, "%s: %s", args, r.err)
		assert.Equal(t, want, f.read("again.csv"), "by its plan: %s\n%s", args, f.read("o.plan.yaml"))
		for range nets.Size(0, 1) {
			r = f.run(append([]string{"convert", "a.csv", "-o", "three.csv", "--workers", "3"}, line...)...)
			require.LessOrEqual(t, r.code, 1, "%s: %s", args, r.err)
			assert.Equal(t, want, f.read("three.csv"), "with three workers: %s", args)
		}
	}
}

// What does not fit a split is a failure, of one column for each cell, and no text is lost in silence.
func TestSplitsTellWhatDoesNotFit(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers)
	r := f.run("convert", "a.csv", "-o", "o.csv", "--split", `Keeper: {at: " "} => first, last`)
	require.Equal(t, 1, r.code, r.err)
	failures := f.read("o.failures.csv")
	assert.Contains(t, failures, "Jan van Berg")
	assert.Contains(t, failures, "Moll")
	assert.Equal(t, 3, strings.Count(failures, "\n"), failures)
	for _, command := range []string{"profile", "preview", "draft", "report", "totals"} {
		args := []string{command, "a.csv", "--split", `Keeper: {at: " ", rest: keep, missing: blank} => first, last`, "--step", "lot from Tag: keep: digits"}
		if command == "report" {
			args = append(args, "-o", "a.html")
		}
		if command == "totals" {
			args = append(args, "--sum", "lot", "--by", "last")
		}
		r := f.run(args...)
		require.Zero(t, r.code, "%s: %s", command, r.err)
		if command == "report" {
			r.out = f.read("a.html")
		}
		assert.Contains(t, r.out, "lot", command)
		assert.Contains(t, r.out, "last", command)
	}
}

// A preview counts the rows that are not in the output, and names the first ones.
func TestPreviewCountsWhatIsLeftOut(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers+",,,,,,\n")
	for _, more := range [][]string{nil, {"--grid"}} {
		r := f.run(append([]string{"preview", "a.csv", "--keep-if", `place == "Hul"`}, more...)...)
		require.Zero(t, r.code, r.err)
		assert.Contains(t, r.out, "not in the output: 1 blank-row, 2 left-out-rows (1 3)\n", more)
		r = f.run(append([]string{"preview", "a.csv", "--keep-if", `place == "Hul"`, "--format", "json"}, more...)...)
		assert.Contains(t, r.out, `"left-out-rows": 2`)
	}
	assert.NotContains(t, f.run("preview", "a.csv", "--plan", f.file("p.yaml", "plan: 1\nrows: {set-aside: []}\ncolumns: {Tag: {}}\n")).out, "not in the output")
}

// A column that is made of a private one is private.
func TestMadeOfPrivateColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers+"secret-83,Moll Moll Moll,,,,1,\n")
	made := []string{"a.csv", "--private", "Tag", "--private", "Keeper", "--step", "lot from Tag: keep: digits", "--split", `Keeper: {at: " "} => first, last`, "--as", "lot=date"}
	for _, args := range [][]string{{"profile"}, {"profile", "--column", "lot", "--column", "first"}, {"profile", "--format", "json"}, {"draft"}, {"convert", "-o", "o.csv", "--format", "json"}} {
		r := f.run(append(args, made...)...)
		require.LessOrEqual(t, r.code, 1, r.err)
		assert.NotRegexp(t, `Anke|Petersen|Moll|\b83\b`, r.out+r.err, args)
	}
	assert.NotRegexp(t, `Anke|Petersen|Moll|\b83\b`, f.read("o.failures.csv")+f.read("o.plan.yaml"))
}

func TestPrivatePatterns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers)
	for _, more := range [][]string{nil, {"--rename", "Tag=name", "--compute", "Tag = upper(name)"}} {
		r := f.run(append([]string{"convert", "a.csv", "-o", "o.csv", "--private", "T*", "--compute", "Twice = Tag + Tag", "--format", "json"}, more...)...)
		require.LessOrEqual(t, r.code, 1, r.err)
		assert.NotContains(t, r.out+f.read("o.plan.yaml"), "lot-12a")
		assert.Equal(t, 2+len(more)/4, strings.Count(f.read("o.plan.yaml"), "private: true"), f.read("o.plan.yaml"))
	}
}

func TestMistakesOfMadeColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", keepers)
	for args, want := range map[string]string{
		"--split|Keper: {at: \" \"} => a,b":               `there is no column "Keper". Did you mean "Keeper"?`,
		"--split|Keeper => a,b":                           `--split takes COLUMN: {at: " "} => NAME, NAME`,
		"--split|Keeper: {at: \" \"}":                     `--split takes COLUMN: {at: " "} => NAME, NAME`,
		"--split|Keeper: {to: \" \"} => a,b":              "it does not say where to split",
		"--split|Keeper: at => a,b":                       `it says where to split in braces`,
		"--split|Keeper: {at: \" \"} => Tag,b":            `there is a column "Tag" already`,
		"--split|Keeper: {at: \" \"} => a,a":              `there is a column "a" already`,
		"--join|x = street, place":                        `--join takes NAME = "TEXT": COLUMN, COLUMN`,
		"--join|Tag = \"-\": street, place":               `the output has a column "Tag" already`,
		"--join|x = \"-\": street, plaice":                `there is no column "plaice". Did you mean "place"?`,
		"--step|new from kg2: trim":                       `there is no column "kg2". Did you mean "kg"?`,
		"--step|d from Tag: kep: digits":                  `unknown step "kep"; did you mean "keep"?`,
		"--step|Tag from Keeper: trim":                    `there is a column "Tag" already`,
		"--step|x: trim|--compute|x = Tag":                `there is no column "x"`,
		"--compute|x = Tag|--step|y from x: keep: digits": "make the column with --compute 'y = steps(x, …)'",
		"--leave-out|*":                                   "--leave-out leaves no column to write",
		"--leave-out|nope*":                               `there is no column "nope*"`,
		"--only|country..street":                          `there is no column "country..street"`,
	} {
		r := f.run(append([]string{"convert", "a.csv", "-o", "o.csv"}, strings.Split(args, "|")...)...)
		assert.Equal(t, 2, r.code, args)
		assert.Contains(t, r.err, want, args)
		assert.Equal(t, []string{"a.csv"}, f.names(), args)
	}
}

// A column that is made of another changes nothing of the others, nor of what the rows are.
func TestMadeColumnsLeaveTheOthersAsTheyAre(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Zero(t, f.run("demo", "d", "--rows", "400").code)
	f.file("t.csv", "No,Vessel,kg,boxes\nNorth,,,\n1,Ada,12,3\n2,Bob,48,4\nTotal,,60,7\nNo,Vessel,kg,boxes\nSouth,,,\n3,Cleo,41,3\n4,Dan,9,1\nTotal,,50,4\n,,,\nSource: the harbour,,,\n")
	f.file("one.csv", "Note\nlot 1\n\nNote\nlot 2, iced\n")
	for _, source := range []string{"d/landings.csv", "t.csv", "one.csv"} {
		want := profileOf(t, f, source)
		first := want.Columns[0].Name
		for _, made := range [][]string{
			{"--step", "made from " + first + ": trim"},
			{"--step", "made from " + first + ": keep: digits", "--step", "more from made: trim"},
			{"--split", first + `: {at: "-", missing: blank, rest: keep} => made, more`},
		} {
			got := profileOf(t, f, append([]string{source}, made...)...)
			assert.Equal(t, want.Columns, got.Columns[:len(want.Columns)], "%s %v", source, made)
			assert.Equal(t, want.Source.DataRows, got.Source.DataRows, "%s %v", source, made)
			plain := f.run("convert", source, "-o", "plain.csv")
			with := f.run(append([]string{"convert", source, "-o", "with.csv"}, made...)...)
			line := func(r result) string {
				_, rest, _ := strings.Cut(r.out, "\nrows: ")
				line, _, _ := strings.Cut(rest, "\n")
				return line
			}
			assert.Equal(t, line(plain), line(with), "%s %v", source, made)
			a, b := f.records("plain.csv"), f.records("with.csv")
			require.Len(t, b, len(a))
			for i := range a {
				assert.Equal(t, a[i], b[i][:len(a[i])], "%s %v", source, made)
			}
		}
	}
}
