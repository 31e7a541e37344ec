package convert_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/input"
)

// withTotals makes a table in which total rows add up the rows since the total row before, since the heading, or all of
// them; now and then one is wrong.
func withTotals(r *rand.Rand) string {
	var b strings.Builder
	b.WriteString("name;kg;boxes;note\n")
	var since, heading, all [2]int
	for range 300 + r.IntN(500) {
		switch r.IntN(40) {
		case 0, 1, 2:
			of := [][2]int{since, heading, all}[r.IntN(3)]
			fmt.Fprintf(&b, "Total;%d,%02d;%d;\n", of[0]/100, of[0]%100+r.IntN(8)/7, of[1])
			since = [2]int{}
		case 3:
			fmt.Fprintf(&b, "Quay %d;;;\n", r.IntN(9))
			heading = [2]int{}
		case 4:
			b.WriteString("lot;see log;1;iced\n")
			for _, of := range []*[2]int{&since, &heading, &all} {
				of[1]++
			}
		default:
			kg, boxes := r.IntN(9000), r.IntN(30)
			fmt.Fprintf(&b, "lot;%d,%02d;%d;iced\n", kg/100, kg%100, boxes)
			for _, of := range []*[2]int{&since, &heading, &all} {
				of[0] += kg
				of[1] += boxes
			}
		}
	}
	return b.String()
}

// The ledgers of the ranges of a file, merged in their order, are that of the file, also in what total rows add up.
func TestLedgersOfRangesAreThatOfTheFile(t *testing.T) {
	p, err := plan.Load([]byte(`plan: 1
rows: {set-aside: [total-rows, section-headings]}
columns:
  name: {to: text}
  kg: {to: decimal, decimal-mark: ","}
  boxes: {to: integer}
  note: {to: text}
`))
	require.NoError(t, err)
	agree, differ := 0, 0
	for seed := range uint64(60) {
		text := withTotals(rand.New(rand.NewPCG(seed, 5)))
		path := filepath.Join(t.TempDir(), "in.csv")
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
		run := func(r *input.Range, before int64) *convert.Ledger {
			src, err := input.Open(path, input.Options{Range: r})
			require.NoError(t, err)
			defer src.Close()
			bound, err := p.Bind(src.Info().Names)
			require.NoError(t, err)
			l, err := convert.Run(context.Background(), src.Source, bound, convert.Options{Workers: 2, Sink: table.Discard{}, RowsBefore: before})
			require.NoError(t, err)
			return l
		}
		c, err := input.NewCut(path, input.Options{}, int64(len(text)/(2+int(seed%9))))
		require.NoError(t, err)
		walks := make([][]delim.Walk, c.Pieces)
		for i := range walks {
			walks[i], err = c.Walk(i)
			require.NoError(t, err)
		}
		ranges, _, err := c.Ranges(walks)
		require.NoError(t, err)
		require.NoError(t, c.Close())
		whole, all := run(nil, 0), &convert.Ledger{}
		for i := range ranges {
			var read convert.Totals // as it comes back from a file
			l := run(&ranges[i], ranges[i].Row())
			text, err := json.Marshal(l.Totals)
			require.NoError(t, err)
			require.NoError(t, json.Unmarshal(text, &read))
			l.Totals = read
			all.Merge(l)
		}
		require.Equal(t, said(whole.Totals.Differ), said(all.Totals.Differ), "seed %d", seed)
		require.Equal(t, whole.Totals.Rows, all.Totals.Rows, "seed %d", seed)
		require.Equal(t, whole.Totals.Agree, all.Totals.Agree, "seed %d", seed)
		require.Nil(t, all.Totals.Open)
		require.Equal(t, whole.RowsIn, all.RowsIn)
		for k := range whole.Columns {
			require.Equal(t, whole.Columns[k].Sums, all.Columns[k].Sums)
		}
		agree, differ = agree+int(whole.Totals.Agree), differ+len(whole.Totals.Differ)
	}
	require.Greater(t, agree, 500)
	require.Greater(t, differ, 100)
}

func said(list []convert.TotalDiffer) (all []string) {
	for _, d := range list {
		all = append(all, fmt.Sprintln(d.File, d.Row, d.Line, d.Column, d.Says, d.AddsUp, d.Failed))
	}
	return all
}
