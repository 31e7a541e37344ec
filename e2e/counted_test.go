package e2e

import (
	"encoding/csv"
	"math/big"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
)

// What a profile says of the demo is what a count says that knows nothing of Junvo: the
// standard library reads the file, and rules of one line each read its cells.
func TestDemoAgainstAnIndependentCount(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	text, err := charmap.Windows1252.NewDecoder().String(f.read("d/landings.csv"))
	require.NoError(t, err)
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = ';', -1, true
	records, err := r.ReadAll()
	require.NoError(t, err)
	number := regexp.MustCompile(`^\d{6}$`)
	var rows [][]string // those that begin with a landing number
	for _, rec := range records {
		if number.MatchString(rec[0]) {
			rows = append(rows, rec)
		}
	}
	p := profileOf(t, f, "d/landings.csv")
	require.Equal(t, 1200, len(rows))
	cell := func(row []string, c int) string {
		if c >= len(row) {
			return ""
		}
		return row[c]
	}
	for c, column := range p.Columns {
		empty, distinct := 0, map[string]bool{}
		for _, row := range rows {
			if s := cell(row, c); s == "" {
				empty++
			} else {
				distinct[s] = true
			}
		}
		assert.Equal(t, len(rows), column.Cells, column.Name)
		assert.Equal(t, empty, column.Blanks["empty"]+column.Blanks["quoted-empty"]+column.Blanks["missing"], column.Name)
		// Words that stand for blank, and spaces, are texts to this count.
		words := column.Blanks["word"] + column.Blanks["spaces"] + column.Blanks["invisible"]
		assert.LessOrEqual(t, column.Distinct.Count, len(distinct), column.Name)
		assert.GreaterOrEqual(t, column.Distinct.Count, len(distinct)-words, column.Name)
	}
	// Boxes, naively: digits and nothing else.
	digits := regexp.MustCompile(`^\d+$`)
	naive := 0
	for _, row := range rows {
		if digits.MatchString(cell(row, 6)) {
			naive++
		}
	}
	assert.Positive(t, naive)
	assert.GreaterOrEqual(t, p.Columns[6].Reads["integer"], naive)
	// Balance: commas group, parentheses are a minus.
	amount := regexp.MustCompile(`^\(?[\d,]+\.\d\d\)?$`)
	sum, least, most := new(big.Rat), (*big.Rat)(nil), (*big.Rat)(nil)
	for _, row := range rows {
		s := strings.Trim(cell(row, 11), " \u00a0\u200b\t")
		if !amount.MatchString(s) {
			continue
		}
		n, ok := new(big.Rat).SetString(strings.Trim(strings.ReplaceAll(s, ",", ""), "()"))
		require.True(t, ok, s)
		if s[0] == '(' {
			n.Neg(n)
		}
		sum.Add(sum, n)
		if least == nil || n.Cmp(least) < 0 {
			least = n
		}
		if most == nil || n.Cmp(most) > 0 {
			most = n
		}
	}
	balance := p.Columns[11]
	assert.Equal(t, []string{sum.FloatString(2), least.FloatString(2), most.FloatString(2)}, []string{*balance.Sum, *balance.Smallest, *balance.Largest})
}
