package e2e

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Cells that stay as they are go past the reading of cells in runs. Whether they do or not,
// the same comes out: a step that changes nothing makes every cell go the long way.
func TestRunsOfCellsAreConvertedAsSingleOnes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := rand.New(rand.NewPCG(21, 22))
	var b strings.Builder
	b.WriteString("no,code,kg,price,day,ok,text\n")
	odd := map[int][]string{
		0: {"", "007", "7", "12 345", "-3", "1.5", "x"},
		1: {"", " a1 ", "\"q\"", "\u00a0", "n/a"},
		2: {"", "1e3", "0.50", "-0.0", "5 kg", "1.234", "12.5.1", "+4"},
		3: {"", "\"1,5\"", "-0", "00.5", "12345678.25"},
		4: {"", "2021-02-30", "4 Mar 2021", "20210304"},
		5: {"", "true", "NO", "maybe"},
		6: {"", " two ", "\"a, b\"", "\"say \"\"hi\"\"\"", "=1+1", "tab\there", "caf\u00e9"},
	}
	for i := range 40_000 {
		if i%9973 == 5 {
			b.WriteString("Total,,55,,,,\n")
		}
		row := []string{
			fmt.Sprint(r.IntN(1_000_000)), fmt.Sprintf("%05d", r.IntN(60_000)), fmt.Sprintf("%d.%d", r.IntN(9000), r.IntN(10)),
			fmt.Sprintf("%d.%02d", r.IntN(20), r.IntN(100)), fmt.Sprintf("2021-%02d-%02d", 1+r.IntN(12), 1+r.IntN(28)),
			[]string{"yes", "no"}[r.IntN(2)], fmt.Sprintf("lot %d", r.IntN(500)),
		}
		if r.IntN(5) == 0 {
			c := r.IntN(7)
			row[c] = odd[c][r.IntN(len(odd[c]))]
		}
		b.WriteString(strings.Join(row, ",") + "\n")
	}
	f.file("in.csv", b.String())
	const columns = `plan: 1
rows: {set-aside: [total-rows]}
columns:
  no: {to: integer STEPS}
  code: {to: code STEPS}
  kg: {to: decimal STEPS}
  price: {to: decimal, on-failure: keep-text STEPS}
  day: {to: date, date-order: ymd STEPS}
  ok: {to: boolean STEPS}
  text: {to: text STEPS}
`
	f.file("short.plan.yaml", strings.ReplaceAll(columns, " STEPS", ""))
	f.file("long.plan.yaml", strings.ReplaceAll(columns, " STEPS", `, steps: [{replace: {text: "never there", with: "x"}}]`))
	for _, name := range []string{"short", "long"} {
		got := f.run("convert", "in.csv", "--plan", name+".plan.yaml", "-o", name+".csv")
		require.Equal(t, 1, got.code, got.err)
	}
	for _, file := range []string{".csv", ".failures.csv", ".setaside.csv"} {
		assert.Equal(t, f.read("long"+file), f.read("short"+file), file)
	}
	assert.Contains(t, f.read("short.setaside.csv"), "total-row")
}
