package e2e

import (
	"encoding/json"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var tallies = "Boat;Kg;Boxes\nNorth;;\nAda;1.240,5 kg;12\nBob;80 kg;7\n" + strings.Repeat("Eva;1 kg;1\n", 18) + "Total;1.338,5 kg;37\n" +
	"South;;\nCleo;3;x\nDora;4,25;5\n" + strings.Repeat("Finn;1;1\n", 18) + "Total;25,26;23\nTotal;1.363,75 kg;60\n"

// Total rows of a source are held against the rows that they add up, wherever somebody looks; and the ledger says what the
// cells added up to as they came, and now.
func TestTotalRowsAreHeld(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", tallies)
	said := "total rows: 2 of 3 agree with the rows that they add up\n  Kg                 line 45 says 25.26, the rows above add up to 25.25\n"
	r := f.run("convert", "a.csv", "-o", "o.csv", "--as", "Kg=decimal", "--as", "Boxes=integer")
	require.Equal(t, 1, r.code, r.err)
	assert.Contains(t, r.out, said)
	assert.Contains(t, r.out, "sums of the cells that are plain numbers as they came, and now:\n  Kg                 21, now 1363.75\n  Boxes              180, now 60\n")
	assert.Contains(t, f.run("check", "a.csv", "--plan", "o.plan.yaml").out, said)
	assert.Contains(t, f.run("totals", "a.csv", "--plan", "o.plan.yaml", "--sum", "Kg").out, said)
	for _, args := range [][]string{{"profile", "a.csv"}, {"profile", "a.csv", "--verbose"}} {
		assert.Contains(t, f.run(args...).out, said, args)
	}
	r = f.run("convert", "a.csv", "-o", "o.csv", "--plan", "o.plan.yaml", "--format", "json")
	fits(t, "ledger.schema.json", r.out)
	var l struct {
		Totals struct {
			Rows, Agree int64
			Differ      []struct {
				Line   int64
				Column string
				Says   string
				AddsUp string `json:"adds_up"`
			}
		} `json:"total_rows"`
		Columns []struct {
			Name string
			Sum  *struct{ Before, After *string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(r.out), &l))
	assert.EqualValues(t, 3, l.Totals.Rows)
	assert.Equal(t, "25.25", l.Totals.Differ[0].AddsUp)
	assert.Nil(t, l.Columns[0].Sum)
	assert.Equal(t, []string{"21", "1363.75"}, []string{*l.Columns[1].Sum.Before, *l.Columns[1].Sum.After})
	r = f.run("totals", "a.csv", "--plan", "o.plan.yaml", "--sum", "Kg", "--format", "json")
	fits(t, "totals.schema.json", r.out)
	assert.Contains(t, r.out, `"agree": 2`)
	// In the page, too; and of several sources together.
	require.Equal(t, 0, f.run("report", "a.csv", "--plan", "o.plan.yaml", "-o", "a.html").code)
	p := f.page("a.html")
	assert.Equal(t, [][]string{{"column", "as it came", "now"}, {"Kg", "21", "1363.75"}, {"Boxes", "180", "60"}}, p.table("s0sums"))
	assert.Contains(t, textOf(p.root), "Total rows of the source: 2 of 3 agree")
	f.file("b.csv", tallies)
	r = f.run("convert", "a.csv", "b.csv", "-o", "out/", "--plan", "o.plan.yaml")
	assert.Contains(t, r.out, "total rows: 4 of 6 agree")
	assert.Contains(t, r.out, "Kg                 42, now 2727.50\n")
	r = f.run("convert", "a.csv", "b.csv", "-o", "both.csv", "--plan", "o.plan.yaml")
	assert.Contains(t, r.out, "line 45 of b.csv says 25.26", "each file begins anew")
	// What can be read once only is profiled all the same.
	pipe := exec.Command("sh", "-c", `mkfifo p && (cat a.csv > p & exec "$0" profile p)`, junvo)
	pipe.Dir = f.dir
	out, err := pipe.CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "full-totals")
	assert.NotContains(t, string(out), "agree")
	// Where the cells of a total's rows have failed, that is told.
	f.file("c.csv", "Boat;Kg;n\nAda;1,5;a\nBob;heavy;b\nCleo;2;c\n"+strings.Repeat("Eva;1;e\n", 20)+"Total;29,5;\n")
	r = f.run("totals", "c.csv", "--as", "Kg=decimal", "--sum", "Kg")
	assert.Contains(t, r.out, "line 25 says 29.5, the rows above add up to 23.5 without 1 cell that failed")
}
