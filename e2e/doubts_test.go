package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// plainNumbers are lines of a file with whole numbers, each with an end.
func plainNumbers(n int, end string) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "%d%s\n", i+1, end)
	}
	return b.String()
}

// doubtful has a file for each finding that changes what values mean.
var doubtful = map[string]string{
	"order-undecided":       "d;x\n03/04/2021;a\n05/06/2021;b\n",
	"marks-undecided":       "n;x\n1.234;a\n5.678;b\n",
	"nearly-typed":          "n;x\n" + plainNumbers(8, ";a") + "see list;a\nask Jan;a\n",
	"times-undecided":       "n;x\n18.05;a\n17.30;b\n12.15;c\n20.45;d\n",
	"lists-undecided":       "n;x\n1,3;a\n1,2,3;b\n2,5;c\n3,7;d\n4,8;e\n",
	"brackets-undecided":    "n;x\n(1990);a\n(1991);b\n(1995);c\n",
	"truth-undecided":       "t;x\nN;a\nS;b\nN;c\n",
	"sides-undecided":       "n;x\n100 CR;a\n20 DR;b\n",
	"by-witness":            "n;kg\n1.234;1,5\n5.678;22,75\n",
	"two-styles":            "n;x\n1,234.50;a\n1.234,50;b\n",
	"versions-or-decimals":  "n;x\n1.1;a\n1.10;b\n2.5;c\n",
	"leading-zeros":         "n;x\n" + plainNumbers(40, ";a") + "007;b\n",
	"may-be-code":           "Kontonummer;x\n12345;a\n23456;b\n34567;c\n",
	"digits-lost":           "ean;x\n4006381333931;a\n4.00638E+12;b\n4006381333948;c\n4006381333955;d\n",
	"two-digit-years":       "d;x\n14 Mar 21;a\n25 Mar 21;b\n",
	"far-years":             "d;x\n1021-05-14;a\n" + strings.Repeat("2021-05-14;a\n2021-05-15;b\n", 20),
	"rare-signs":            "n;x\n" + plainNumbers(150, ";a") + "(7);b\n",
	"day-numbers":           "d;x\n" + strings.Repeat("2021-05-14;a\n2021-05-15;b\n", 20) + "44331;c\n",
	"one-column-or-several": "Name\nOkafor, Anke\nPetersen, Jan\nHansen, Ole\n",
	"total-not-right":       "port;n;x\nA;10;a\nB;20;b\nC;23;c\nTotal;54;\n",
	"may-be-total":          "port;n;m;x\nA;10;100;\nB;20;200;\nC;23;300;\nGanz Nord;53;601;\n",
	"carried-forward":       "port;x;n\nA;a;10\nB;b;20\nÜbertrag;;30\nC;c;23\n",
	"second-table":          "port;boat;kg\nHAR;Anke;12\nHUL;Jan;13\nBRE;Ole;14\n\nday;weather;wind\n2021-03-04;fair;3\n2021-03-05;rain;4\n",
	"unread-statements":     "CREATE TABLE t (port text, kg int);\nINSERT INTO t VALUES ('HAR', 1), ('HUL', 2), ('BRE', 3);\nUPDATE t SET kg = 7 WHERE port = 'HUL';\n",
	"names-shifted":         "port,kg\n1,HAR,12\n2,HUL,13\n3,HAR,14\n",
	"names-short":           "port;kg\nHAR;a;12\nHUL;b;13\nHAR;c;14\n",
}

// Numbers such as 9.45 are times or decimals where the rest of the file has commas, and decimals elsewhere.
func TestTimesAmongCommas(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	for i := range 60 {
		fmt.Fprintf(&b, "%d.%02d;%d,5\n", i*7%24, i*11%60, i)
	}
	f.file("a.csv", "at;kg\n"+b.String())
	f.run("convert", "a.csv", "-o", "a.out.csv")
	assert.Regexp(t, `(?s)times-undecided.*\n    to: text\n    undecided: true`, f.read("a.out.plan.yaml"))
	f.run("convert", "a.csv", "--each-column-alone", "-o", "b.csv")
	assert.Contains(t, f.read("b.plan.yaml"), "to: decimal\n    decimal-mark: \".\"")
	f.run("convert", "a.csv", "--as", "at=time", "-o", "c.csv")
	assert.Equal(t, []string{"07:11:00", "1.5"}, f.records("c.csv")[2])
}

// What a profile finds that changes what values mean is in the ledger, in the drafted plan, on the page, and in a check.
func TestDoubtsAreToldEverywhere(t *testing.T) {
	t.Parallel()
	source, err := os.ReadFile("../internal/finding/finding.go")
	require.NoError(t, err)
	_, list, _ := strings.Cut(string(source), "var weighty = ")
	list, _, _ = strings.Cut(list, "\n}\n")
	assert.Len(t, regexp.MustCompile(`\w+: true`).FindAllString(list, -1), len(doubtful), "each has a file")
	for name, text := range doubtful {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			f := newFolder(t)
			f.file("a.csv", text)
			r := f.run("convert", "a.csv", "-o", "o.csv", "--report", "o.html", "--ledger", "o.json")
			require.LessOrEqual(t, r.code, 1, r.err)
			assert.Contains(t, r.out, name+": ", "the ledger")
			var ledger struct{ Doubts []struct{ Name, Say string } }
			require.NoError(t, json.Unmarshal([]byte(f.read("o.json")), &ledger))
			found := false
			for _, d := range ledger.Doubts {
				found = found || d.Name == name && d.Say != ""
			}
			assert.True(t, found, "the ledger in JSON")
			assert.Contains(t, f.read("o.plan.yaml"), "# "+name+": ", "the plan")
			assert.Contains(t, textOf(f.page("o.html").root), name, "the page")
			if name != "by-witness" && name != "one-column-or-several" { // which the plan has decided
				assert.Contains(t, f.run("check", "a.csv", "--plan", "o.plan.yaml").out, name+": ", "a check")
			}
		})
	}
}

// Of an undecided column the ledger says which flag would decide, and what that would make of its cells.
func TestFlagsThatDecide(t *testing.T) {
	t.Parallel()
	for name, want := range map[string][]string{
		"marks-undecided": {"--decimal-mark . makes 2 decimals", "--decimal-mark , makes 2 integers"},
		"order-undecided": {"--date-order dmy makes 2 dates", "--date-order mdy makes 2 dates"},
		"times-undecided": {"--decimal-mark . makes 4 decimals", `--as "n=time" makes 4 times`},
		"truth-undecided": {`--as "t=boolean" makes 3 booleans`},
	} {
		f := newFolder(t)
		f.file("a.csv", doubtful[name])
		out := f.run("convert", "a.csv", "-o", "-", "--format", "json").err
		for _, w := range want {
			text, err := json.Marshal(w)
			require.NoError(t, err)
			assert.Contains(t, out, strings.Trim(string(text), `"`), name)
		}
	}
}
