package profile

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/rowkind"
	"junvo/internal/table/tabletest"
)

// randomTable makes a table without totals whose numbers may look like some: small ones that add up by chance, running
// balances, cumulated columns, numbers each of which adds up two others.
func randomTable(r *rand.Rand) [][]string {
	labels := []string{"Anke", "Jan", "Quay North", "Ole", "Ida"}
	named := r.IntN(2) == 0 // names that begin with words for totals, in tables in which no number adds up others
	if named {
		labels = append(labels, "All Saints", "Sub station", "Sum Ting", "Totals Ltd.")
	}
	columns := 1 + r.IntN(4)
	rows := [][]string{{"label"}}
	for c := range columns {
		rows[0] = append(rows[0], fmt.Sprint("n", c))
	}
	state := make([][2]int, columns)
	kinds := make([]int, columns)
	for c := range kinds {
		kinds[c], state[c] = []int{0, 1, 4, 2, 3, 5}[r.IntN(6-3*int(bit(named)))], [2]int{r.IntN(5), 1 + r.IntN(5)}
	}
	gaps := r.IntN(3) == 0
	for range 2 + r.IntN(12) {
		row := []string{labels[r.IntN(len(labels))]}
		for c, kind := range kinds {
			s := &state[c]
			n := 0
			switch kind {
			case 0:
				n = r.IntN(4)
			case 1:
				n = r.IntN(100_000)
			case 2: // cumulated
				s[0] += r.IntN(50)
				n = s[0]
			case 3: // each adds up the two before
				s[0], s[1] = s[1], s[0]+s[1]
				n = s[0]
			case 4: // a balance
				s[0] += r.IntN(101) - 50
				n = s[0]
			case 5: // doubled: each is one more than all before it add up to
				s[1] *= 2
				n = s[1]
			}
			row = append(row, strconv.Itoa(n))
		}
		rows = append(rows, row)
		if gaps && r.IntN(4) == 0 {
			rows = append(rows, make([]string, 1+columns))
		}
	}
	return rows
}

// No row of a table without totals is set aside as one.
func TestNoTotalsAreMadeUp(t *testing.T) {
	seed := uint64(26)
	if s, err := strconv.ParseUint(os.Getenv("JUNVO_SEED"), 10, 64); err == nil {
		seed = s
	}
	r := rand.New(rand.NewPCG(20, seed))
	for range nets.Size(1_000, 12_000) {
		rows := randomTable(r)
		p, err := Run(context.Background(), tabletest.NewRows(50, rows...), Options{Workers: 1})
		require.NoError(t, err)
		for k := range p.Aside {
			if rowkind.Kind(k).IsTotal() || rowkind.Kind(k) == rowkind.Summary {
				assert.Zero(t, p.Aside[k], "%s: %q", rowkind.Kind(k), rows)
			}
		}
	}
}

// Totals without a word are known where they stand above gaps, if they come out, though another section may have none.
func TestTotalsOfSections(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 28))
	for range 300 {
		rows := [][]string{{"label", "n", "kg"}}
		want := 0
		for range 2 + r.IntN(4) {
			n, kg := 0, 0
			for range 3 + r.IntN(9) {
				a, b := 1+r.IntN(900), 1+r.IntN(90_000)
				n, kg = n+a, kg+b
				rows = append(rows, []string{"Anke", strconv.Itoa(a), strconv.Itoa(b)})
			}
			if r.IntN(4) > 0 {
				rows = append(rows, []string{[]string{"", "Quay", "Total"}[r.IntN(3)], strconv.Itoa(n), strconv.Itoa(kg)})
				want++
			}
			rows = append(rows, []string{"", "", ""})
		}
		p, err := Run(context.Background(), tabletest.NewRows(500, rows...), Options{Workers: 1})
		require.NoError(t, err)
		got := p.Aside[rowkind.BareTotal] + p.Aside[rowkind.Total] + p.Aside[rowkind.FullTotal]
		assert.EqualValues(t, want, got, "%q", rows)
	}
}

// Totals that come out are set aside, whatever words they begin with and whatever stands in their other cells.
func TestTotalsThatComeOut(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 27))
	words := []string{"Total", "Subtotal", "Overall", "Σ", "Ges.", "Summe", "Razem", "合計", "Grand total", "TOTAL 2021", "Itogo всего", "Gesamt Quay North"}
	for range 300 {
		word := words[r.IntN(len(words))]
		rows := [][]string{{"label", "note", "n", "kg"}}
		n, kg := 0, 0
		for range 2 + r.IntN(9) {
			a, b := r.IntN(900), r.IntN(90_000)
			n, kg = n+a, kg+b
			rows = append(rows, []string{"Anke", "x", strconv.Itoa(a), strconv.Itoa(b)})
		}
		note := []string{"", "all"}[r.IntN(2)]
		rows = append(rows, []string{word, note, strconv.Itoa(n), strconv.Itoa(kg)})
		p, err := Run(context.Background(), tabletest.NewRows(50, rows...), Options{Workers: 1})
		require.NoError(t, err)
		aside := int64(0)
		for k := range p.Aside {
			if rowkind.Kind(k).IsTotal() {
				aside += p.Aside[k]
			}
		}
		if word != "Itogo всего" { // no word of the table
			assert.EqualValues(t, 1, aside, "%q", rows)
		}
	}
}
