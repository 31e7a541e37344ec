package e2e

import (
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// Nets for classes of faults, not for single cells.

// everything is a plan with every step, every type and every sort of made column.
const everything = `plan: 1
rows: {drop: "n == 77"}
columns:
  n: {to: integer, must: {between: [0, null]}}
  amount: {to: decimal, decimal-mark: ",", group-marks: ["."], on-failure: keep-text}
  day: {to: date, date-order: dmy}
  at: {to: timestamp}
  clock: {to: time}
  ok: {to: boolean, words: {true: [ja], false: [nein]}}
  code: {to: code}
  title: {from: words, steps: [{case: title}]}
  upper: {from: words, steps: [trim, single-space, {case: upper}, {case: lower}, {case: sentence}]}
  cut: {from: words, steps: [{drop: [digits, "aa"]}, {keep: [letters, spaces]}, {replace: {text: "e", with: "E", nth: -1}}, {overwrite: {from: 1, with: "X"}}]}
  taken: {from: words, steps: [{take: {word: 1}}, {pad: {width: 12, with: "."}}]}
  laid: {from: code, steps: [{keep: [digits]}, {punctuate: "99-9999"}]}
  mended: {from: words, steps: [{mend: [decoding, markup, compatibility]}, {label: [{contains: "ball", then: "B"}, {otherwise: "-"}]}]}
  counted: {from: n, steps: [{day-number: 1900}], to: date, date-order: ymd}
  number: {from: n, steps: [{take: {number: 1}}], to: integer}
  since: {from: n, steps: [{epoch: seconds}], to: timestamp, offsets: true}
  quay: {steps: [{fill: {from: above}}]}
  set: {from: quay, steps: [{fill: "none"}]}
  words: {split: {at: " ", nth: 1}, into: {first: {}, rest: {steps: [{case: title}]}}}
  tag: {join: [code, title], with: "-", blanks: keep}
  twice: {compute: "n * 2 + size(title)"}
`

// manyRows makes a table of many blocks with all sorts of cells in the columns of the plan.
func manyRows(rows int) string {
	r := rand.New(rand.NewPCG(3, 4))
	word := func() string {
		b := []string{"ruby", "BALL", "cabbage", "über", "élan", "straße", "aal", "ïle"}[r.IntN(8)]
		return b + strings.Repeat(string(rune('a'+r.IntN(26))), r.IntN(4))
	}
	var b strings.Builder
	b.WriteString("n;amount;day;at;clock;ok;code;words;quay\n")
	for i := range rows {
		quay := ""
		if r.IntN(900) == 0 {
			quay = fmt.Sprint("Quay ", i)
		}
		amount := fmt.Sprintf("%d.%03d,%d", 1+r.IntN(9), r.IntN(1000), r.IntN(100))
		if r.IntN(50) == 0 {
			amount = "heavy"
		}
		fmt.Fprintf(&b, "%d;%s;%02d.%02d.2021;2021-%02d-%02dT%02d:05:07;%02d:%02d;%s;%06d;%s %s;%s\n", i, amount, 1+r.IntN(28), 1+r.IntN(12), 1+r.IntN(12), 1+r.IntN(28),
			r.IntN(24), r.IntN(24), r.IntN(60), []string{"ja", "nein"}[r.IntN(2)], r.IntN(1_000_000), word(), word(), quay)
	}
	return b.String()
}

// Whatever a plan asks for, the bytes are the same for any number of workers.
func TestWorkersChangeNothing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", manyRows(nets.Size(18_000, 30_000)))
	require.Greater(t, len(f.read("a.csv")), 1<<20)
	f.file("p.yaml", everything)
	want := map[string]string{}
	for _, workers := range []string{"1", "2", "5"}[nets.Size(1, 0):] {
		for _, out := range []string{"o.csv", "o.parquet", "o.jsonl", "o.tsv"}[:nets.Size(2, 4)] {
			r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", out, "--workers", workers, "--origin")
			if out == "o.parquet" { // a column of numbers can't keep text
				require.Equal(t, 2, r.code)
				continue
			}
			require.Equal(t, 1, r.code, r.err)
			stem := strings.TrimSuffix(out, ".csv")
			for _, name := range []string{out, stem + ".failures.csv", stem + ".setaside.csv"} {
				if want[name] == "" {
					want[name] = f.read(name)
				}
				require.Equal(t, want[name] == f.read(name), true, "%s with %s workers", name, workers)
			}
			if want[out+" ledger"] == "" {
				want[out+" ledger"] = r.out
			}
			assert.Equal(t, want[out+" ledger"], r.out)
		}
	}
	for _, row := range f.records("o.csv")[1:50] {
		for _, word := range strings.Fields(row[7]) {
			assert.Equal(t, strings.ToUpper(word[:1]) == word[:1] || word[0] >= 0x80, true, word)
		}
	}
	// The other formats make the same tables of what the first has made.
	f.file("q.yaml", strings.Replace(everything, ", on-failure: keep-text", "", 1))
	var first string
	for _, out := range []string{"r.parquet", "r.xlsx", "r.db"}[:nets.Size(1, 3)] {
		for _, workers := range []string{"1", "3"} {
			require.LessOrEqual(t, f.run("convert", "a.csv", "--plan", "q.yaml", "-o", out, "--workers", workers, "--replace-table="+fmt.Sprint(out == "r.db")).code, 1)
			back := f.run("convert", out, "-o", "back.csv", "--overwrite-plan", "--workers", workers)
			require.LessOrEqual(t, back.code, 1, back.err)
			if workers == "1" {
				first = f.read("back.csv")
			}
			require.True(t, first == f.read("back.csv"), "%s with %s workers", out, workers)
		}
	}
}

// strict are readers of each type that take nothing but its canonical form.
var strict = map[string]func(string) bool{
	"integer":   regexp.MustCompile(`^(0|-?[1-9][0-9]*)$`).MatchString,
	"decimal":   regexp.MustCompile(`^-?(0|[1-9][0-9]*)(\.[0-9]+)?$`).MatchString,
	"date":      func(s string) bool { _, err := time.Parse("2006-01-02", s); return err == nil },
	"time":      func(s string) bool { _, err := time.Parse("15:04:05.999999999", s); return err == nil && s[2] == ':' },
	"timestamp": func(s string) bool { return isStamp(s, "2006-01-02T15:04:05") },
	"boolean":   func(s string) bool { return s == "true" || s == "false" },
}

func isStamp(s, layout string) bool {
	for _, zone := range []string{"", "Z07:00"} {
		if at, err := time.Parse(layout+".999999999"+zone, s); err == nil {
			return !at.IsZero() && !strings.Contains(s, ",")
		}
	}
	return false
}

// nasty are cells in many notations, of which a column of any type makes what it can.
var nasty = strings.Split(`1|-0|+7|007|1,5|1.5|1.234|1,234|1 234|1'234|(5)|5-|1e3|1.5E+3|5%|5 ‰|€ 5|5 kg|.5|5.|,5|٣|１２|1_000|0x1F|1/2|--5|5 5|
2021-03-04|2021-3-4|4.3.2021|03/04/2021|4 Mar 2021|20210304|2021-063|2021-W09-4|'2021-03-04|2021-03-04T05:06:07,25Z|2021-03-04t05:06:07z|2021-03-04T05:06:07+01|
2021-03-04T05:06:07 +01:00|2021-03-04 05:06|2021-03-04T24:00:00|2021-03-04T05:06:60|09:05|9:05:07|09:05:07,5|09:05:07.125|9.05|09.05|6 pm|18h05|24:00|
true|TRUE|ja|nein|yes|NO|1|0|x|n/a|-|null|"quoted"|a,b|a;b|two words|Möwe|`+"\u00a05\u00a0|\u22125|5\u200b|\ufeff5|1\u202f234|\t5|a\rb|=1+1|\x00|caf\xe9", "|")

// Every value of a typed column parses by a strict reader of its type, and every row of the output
// has all its fields, whatever came in.
func TestOutputsAreCanonical(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("a;b;c\n")
	for i, cell := range nasty {
		fmt.Fprintf(&b, "\"%s\";%d;\"%s\"\n", strings.ReplaceAll(strings.Trim(cell, "\n"), `"`, `""`), i, strings.ReplaceAll(nasty[(i*7)%len(nasty)], `"`, `""`))
	}
	f.file("a.csv", b.String())
	for typ, reads := range strict {
		for _, terms := range map[string][]string{
			"integer": {"", ", decimal-mark: \".\"", ", decimal-mark: \",\", unit: kg"}, "decimal": {"", ", decimal-mark: \".\"", ", decimal-mark: \",\", currency: EUR", ", sign: \"%\""},
			"date": {"", ", date-order: dmy", ", date-order: mdy, days-as-digits: true"}, "timestamp": {"", ", offsets: true", ", date-order: dmy"},
			"time": {""}, "boolean": {"", ", words: {true: [ja], false: [nein]}", ", words: {true: [\"yes\"], false: [\"no\"]}"},
		}[typ] {
			f.file("p.yaml", fmt.Sprintf("plan: 1\nsource: {encoding: utf-8, delimiter: \";\"}\ncolumns:\n  a: {to: %s%s}\n  b: {to: integer}\n  c: {to: %s%s}\n", typ, terms, typ, terms))
			for _, out := range []string{"o.csv", "o.tsv"} {
				r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", out)
				require.LessOrEqual(t, r.code, 1, r.err)
				read := csv.NewReader(strings.NewReader(f.read(out)))
				if out == "o.tsv" {
					read.Comma = '\t'
				}
				rows, err := read.ReadAll() // all rows have as many fields as the first
				require.NoError(t, err, "%s %s", typ, terms)
				require.Len(t, rows, len(nasty)+1)
				for _, row := range rows[1:] {
					for _, c := range []int{0, 2} {
						if row[c] != "" {
							assert.True(t, reads(row[c]), "%s%s: %q", typ, terms, row[c])
						}
					}
				}
			}
		}
	}
}

// One odd cell among good ones fails or stays what it is, and the others are untouched by it.
func TestOneOddCellAmongGoodOnes(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(5, 6))
	good := map[string]func(int) (cell, value string){
		"integer": func(i int) (string, string) { return fmt.Sprint(100 + i), fmt.Sprint(100 + i) },
		"decimal": func(i int) (string, string) {
			return fmt.Sprintf("%d,%02d", i, i%100), fmt.Sprintf("%d.%02d", i, i%100)
		},
		"date": func(i int) (string, string) {
			return fmt.Sprintf("%02d.%02d.2021", 1+i%28, 1+i%12), fmt.Sprintf("2021-%02d-%02d", 1+i%12, 1+i%28)
		},
		"timestamp": func(i int) (string, string) {
			return fmt.Sprintf("2021-%02d-%02d %02d:05", 1+i%12, 1+i%28, i%24), fmt.Sprintf("2021-%02d-%02dT%02d:05:00", 1+i%12, 1+i%28, i%24)
		},
		"time": func(i int) (string, string) {
			return fmt.Sprintf("%d:%02d", i%24, i%60), fmt.Sprintf("%02d:%02d:00", i%24, i%60)
		},
		"boolean": func(i int) (string, string) { return []string{"ja", "nein"}[i%2], []string{"true", "false"}[i%2] },
		"code":    func(i int) (string, string) { return fmt.Sprintf("%05d", i*7), fmt.Sprintf("%05d", i*7) },
	}
	odd := []string{
		"x", "<5", "~7", "12 (4)", "1.2.3", "10-12", "84/96", "1e", "#REF!", "32.01.2021", "2021-13-01", "25:00", "maybe", "caf\xe9", "O5", "see log", "12 lb", "1,2,3.4",
		"5 apples and pears", "Lot 88", "==", "??!", "1 2345", "0,,5",
	}
	f := newFolder(t)
	for typ, make := range good {
		for range 12 {
			bad := odd[r.IntN(len(odd))]
			n := 60 + r.IntN(200)
			at := r.IntN(n)
			if typ == "boolean" {
				continue // a pair of words stands alone: TestNothingIsWrongInSilence
			}
			var b strings.Builder
			b.WriteString("c;n\n")
			var want []string
			for i := range n {
				cell, value := make(i)
				if i == at {
					cell, value = bad, ""
				}
				want = append(want, value)
				fmt.Fprintf(&b, "\"%s\";%d\n", cell, i)
			}
			f.file("a.csv", b.String())
			rn := f.run("convert", "a.csv", "-o", "o.csv", "--encoding", "utf-8", "--delimiter", ";", "--overwrite-plan")
			require.LessOrEqual(t, rn.code, 1, rn.err)
			rows := f.records("o.csv")[1:]
			require.Len(t, rows, n)
			for i, row := range rows {
				if i != at {
					require.Equal(t, want[i], row[0], "%s with %q in row %d", typ, bad, at+1)
				}
			}
			if typ != "code" && bad != "==" && bad != "??!" {
				assert.Equal(t, "", rows[at][0], "%s with %q", typ, bad)
				assert.Equal(t, 1, rn.code, "%s with %q", typ, bad)
			}
		}
	}
}

// Several sources are one table, in whatever order their columns stand and however they store them.
func TestSeveralSourcesWithColumnsInAnotherOrder(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.jsonl", "{\"kg\": \"1.203\", \"n\": 1.203, \"t\": \"x\"}\n{\"kg\": \"2.500.000\", \"n\": 2.111, \"t\": \"y\"}\n")
	f.file("b.jsonl", "{\"t\": \"z\", \"n\": 5.251, \"kg\": \"3.750\"}\n{\"t\": \"w\", \"n\": 6.125, \"kg\": \"4.100\"}\n")
	want := "kg,n,t\n1203,1.203,x\n2500000,2.111,y\n3750,5.251,z\n4100,6.125,w\n"
	f.file("p.yaml", "plan: 1\ncolumns: {kg: {to: decimal, decimal-mark: \",\"}, n: {to: decimal, decimal-mark: \",\"}, t: {}}\n")
	f.file("a.yaml", "plan: 1\ncolumns: {kg: {}, n: {to: decimal, decimal-mark: \".\"}, t: {}}\n")
	f.file("b.yaml", "plan: 1\ncolumns: {t: {}, n: {to: decimal, decimal-mark: \".\"}, kg: {}}\n")
	for _, ending := range []string{".jsonl", ".parquet", ".db", ".xlsx"} {
		if ending != ".jsonl" {
			require.Equal(t, 0, f.run("convert", "a.jsonl", "--plan", "a.yaml", "-o", "a"+ending).code)
			require.Equal(t, 0, f.run("convert", "b.jsonl", "--plan", "b.yaml", "-o", "b"+ending).code)
		}
		r := f.run("convert", "a"+ending, "b"+ending, "--plan", "p.yaml", "-o", "o.csv")
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, want, f.read("o.csv"), ending)
	}
}

// What is found late in a file is told of each of several, too: what a sheet hides, and encodings.
func TestFactsThatAreFoundLate(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	ascii := "id,name\n" + strings.Repeat("1234,abcdefgh\n", 30_000)
	f.file("a.csv", ascii)
	f.file("b.csv", ascii+"1,Gr\xf6\xdfe\n2,\xfcber\n3,sch\xf6n\n4,K\xe4se\n5,B\xe4cker\n")
	assert.Contains(t, f.run("profile", "b.csv", "--verbose").out, "encoding           windows-1252")
	r := f.run("profile", "a.csv", "b.csv")
	assert.Contains(t, r.out, "  read as            encoding of b.csv windows-1252\n")
	r = f.run("convert", "a.csv", "b.csv", "-o", "o.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, f.read("o.csv"), "1,Größe\n")
}
