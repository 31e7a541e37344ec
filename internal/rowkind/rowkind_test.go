package rowkind

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/finding"
	"junvo/internal/table"
	"junvo/internal/value"
)

func TestKinds(t *testing.T) {
	names := []string{"port", "kg", "n", "day"}
	r := NewReader(names, nil, []string{"void"})
	for row, want := range map[string]Kind{
		"A|1|2|2021-03-04":          Data,
		"A|||":                      SectionHeading,
		"|Quay North||":             SectionHeading,
		"Quay North:|||":            SectionHeading,
		"|||":                       Blank,
		" |\u00a0|\u200b|void":      Blank,
		"port|kg|n|day":             RepeatedHeading,
		" port |kg|n|day":           RepeatedHeading,
		"Port|kg|n|day":             Data,
		"Total|5|6|":                Total,
		"TOTAL:|5|6|":               Total,
		"Total Quay North|5||":      NamedTotal,
		"Total 2021|5|6|":           Total,
		"Total Wine|15||":           NamedTotal,
		"Grand total|5|6|":          Total,
		"Average|5|6|":              Summary,
		"Max|5|6|7":                 Summary,
		"Maximum speed|5|6|":        Data,
		"Max Meier|5|6|":            Data,
		"# made|by us||":            Footer,
		"#12|a|5|6":                 Data,
		"Source: harbour office|||": Footer,
		"60 rows|||":                Footer,
		"kg|port|n|day":             SwappedHeading,
		"kg|kg|n|day":               Data,
		"Summe|1.240,5 kg||":        Total,
		"|Subtotal|5|":              Total,
		"Total|5|6|2021-03-04":      NamedTotal,
		"Total|5|6|7":               FullTotal,
		"Totals Ltd.|5|x|":          NamedTotal,
		"Total|||":                  SectionHeading,
		"Note: net of ice|||":       Note,
		"All weights are net.|||":   Note,
		"(12 rows affected)|||":     Footer,
		"(2 rows)|||":               Footer,
		"(1 row)|||":                Footer,
		"(2 kg)|||":                 Data,
		"* estimated|||":            Note,
		"-- end --|||":              Note,
		"-----|---|---:|----":       Rule,
		":---:| === |---|":          Rule,
		"----+---+---|||":           Rule,
		"\u2500\u2500\u253c\u2500|\u2500\u2500\u2500||": Rule,
		"-----|---|5|":                       Data,
		"-- |--||":                           Data,
		"--|--|--|--":                        Data,
		"::::|||":                            SectionHeading,
		"5|||":                               Data,
		"2021-03-04|||":                      Data,
		"|||12:30":                           Data,
		"|A12||":                             Data,
		"n/a|||":                             Data,
		"|31/02/2021||":                      Data,
		"#REF!|||":                           Data,
		strings.Repeat("words ", 20) + "|||": Note,
	} {
		cells := strings.Split(row, "|")
		cell := func(c int) []byte { return []byte(cells[c]) }
		got := r.Kind(cell, false)
		assert.Equal(t, want.String(), got.String(), row)
	}
}

func TestNarrowTablesHaveNoHeadings(t *testing.T) {
	one := NewReader([]string{"n"}, nil, nil)
	assert.Equal(t, Data, one.Kind(func(int) []byte { return nil }, false))
	assert.Equal(t, Data, one.Kind(func(int) []byte { return []byte("words") }, false))
	assert.Equal(t, RepeatedHeading, one.Kind(func(int) []byte { return []byte("n") }, false))
	two := NewReader([]string{"a", "b"}, nil, nil)
	for _, footer := range []string{"Source: harbour office", "60 rows", "(60 rows)", "# end"} {
		assert.Equal(t, Footer, two.Kind(func(c int) []byte { return []byte([]string{footer, ""}[c]) }, true), footer)
	}
	assert.Equal(t, Data, two.Kind(func(c int) []byte { return []byte([]string{"Source", ""}[c]) }, true))
	assert.Equal(t, BareTotal, two.Kind(func(c int) []byte { return []byte([]string{"", "5"}[c]) }, true))
	assert.Equal(t, Data, two.Kind(func(c int) []byte { return []byte([]string{"", "5"}[c]) }, false))
	assert.Equal(t, Data, two.Kind(func(c int) []byte { return []byte([]string{"words", ""}[c]) }, false))
}

func TestCatalogue(t *testing.T) {
	for i, e := range Catalogue {
		assert.EqualValues(t, i, e.Kind, e.Name)
		assert.NotEmpty(t, e.Say, e.Name)
		if e.Finding != finding.None {
			assert.Equal(t, e.Plural, e.Finding.String(), "a finding is called as the plan calls it")
		}
	}
}

// What Odd says of rows without reading them is what Kind says, whatever stands in them.
func TestOddIsWhatKindSays(t *testing.T) {
	cells := []string{
		"", "", "", "", "hake", "12", "1.240,5 kg", " ", "\u00a0", "\u200b", "-", "---", "===", "n/a", "void", "Total", "total:", "Total hake", "sum", "Average",
		"# a note", "#REF!", "(60 rows)", "60 rows", "60 rows affected", "Source: the harbour", "source:", "source", "note:", "port", "kg", "ki", "Port", " port",
		"Quay North", "Quay North.", "2021-03-04", "03:04", "─────", "+---+", "::", "Gesamt", "合計", "٤", "\"quoted\"", "column 2", "a\tb", "x:", "1,2,3 rows", "'12 rows",
		".5 records", "(a remark)", "€ 12", "№ 7", "\u3164", "–", "„zitiert“", "итого", "\u2028", "\u00e9t\u00e9", "1 row", "totals 2021", "max", "min:", "Stand: 2021",
	}
	cells = append(cells, "Landings", " Page 1", "Page 23", "2021 list", "1 list")
	above := []table.Line{
		{Text: "Landings,,Page 7", Cells: []string{"Landings", "", "Page 7"}},
		{Text: "2020 list", Cells: []string{"2020 list"}},
		{Text: ",Page 1", Cells: []string{"", "Page 1"}},
		{Text: "1,2", Cells: []string{"1", "2"}},
	}
	rng := rand.New(rand.NewPCG(4, 5))
	titles := 0
	defer func() { assert.Greater(t, titles, 100) }()
	for _, told := range [][]string{nil, {"void", "12"}} {
		for width := 1; width < 8; width++ {
			names := []string{"port", "kg", "kind", "column 4", "total", "day", "n"}[:width]
			b := &table.Block{Width: width}
			for row := range 4000 {
				for range width {
					b.AddCell(cells[rng.IntN(len(cells))], value.StoredText)
				}
				b.EndRow(uint32(row))
			}
			b.Filled()
			b.Kinds = nil
			got, last := make([]Kind, b.Rows), -1
			Odd(b, NewReader(names, above, told), func(row int, k Kind) {
				require.Greater(t, row, last, "in the order of the rows")
				got[row], last = k, row
			})
			r := NewReader(names, above, told)
			for row, k := range got {
				if k == BareTotal && endsSection(got[row+1]) {
					continue
				}
				titles += int(bit(r.titles.has(func(c int) []byte { return b.Cell(row, c) }, width, false)))
				require.Equal(t, r.Kind(func(c int) []byte { return b.Cell(row, c) }, false), k, "%q", b.RowCells(row))
			}
		}
	}
}
