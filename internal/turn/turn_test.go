package turn

import (
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/tabletest"
	"junvo/internal/value"
)

// stored is a source whose cells have stored kinds: numbers where they are digits.
type stored struct{ *tabletest.Rows }

func (s stored) Split(b *table.Block) {
	s.Rows.Split(b)
	b.Kinds = nil
	for _, span := range b.Spans {
		kind := value.StoredText
		if cell := string(b.Text[span.Start : span.Start+span.N]); cell != "" && strings.Trim(cell, "0123456789") == "" {
			kind = value.StoredNumber
		}
		b.Kinds = append(b.Kinds, kind)
	}
}

// rowsOf reads all rows of a source: each with its cells, how many rows of the file precede it, and its line.
func rowsOf(t *testing.T, src table.Source) (rows []string) {
	t.Helper()
	before := 0
	var b table.Block
	for {
		b.Reset()
		err := src.Next(&b)
		if err == io.EOF {
			return rows
		}
		require.NoError(t, err)
		src.Split(&b)
		for row := range b.Rows {
			text := fmt.Sprintf("%d@%d:", before+int(b.From[row]), b.Line(row))
			for c := range b.Width {
				span := b.Spans[row*b.Width+c]
				if span.N&table.Missing != 0 {
					text += " ∅"
					continue
				}
				text += " " + string(b.Text[span.Start:span.Start+span.N])
				if b.Kinds != nil && b.Kinds[row*b.Width+c] == value.StoredNumber {
					text += "#"
				}
			}
			for _, span := range b.ExtraOf(row) {
				text += " +" + string(b.Text[span.Start:span.Start+span.N])
			}
			rows = append(rows, text)
		}
		before += b.FileRows
	}
}

func TestRowsAndColumns(t *testing.T) {
	rows := tabletest.NewLines(2, "no|Jan|port|Feb", "1|10|HAR|20", "2|x|HUL|", "3|5|BRE|6")
	s, err := New(rows, Turn{Columns: []string{"Feb", "Jan"}, Into: [2]string{"month", "kg"}})
	require.NoError(t, err)
	assert.Equal(t, []string{"no", "port", "month", "kg"}, s.Info().Names)
	assert.False(t, s.Info().Contiguous)
	assert.Equal(t, []string{
		"0@0: 1 HAR Feb 20", "0@0: 1 HAR Jan 10", "1@1: 2 HUL Feb ", "1@1: 2 HUL Jan x", "2@0: 3 BRE Feb 6", "2@0: 3 BRE Jan 5",
	}, rowsOf(t, s))
}

// Whatever the rows and columns, the new rows are those that two loops make, with the stored kinds of their cells.
func TestTurnedAsByHand(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 1))
		names := []string{"a", "b", "c", "d", "e"}[:2+r.IntN(4)]
		columns := slices.Clone(names)
		r.Shuffle(len(columns), func(i, j int) { columns[i], columns[j] = columns[j], columns[i] })
		columns = columns[:1+r.IntN(len(columns))]
		perBlock := 1 + r.IntN(4)
		lines := [][]string{names}
		var want []string
		for row := range r.IntN(12) {
			cells := make([]string, len(names))
			for c := range cells {
				cells[c] = []string{"7", "x", "12", "no way"}[r.IntN(4)]
			}
			lines = append(lines, cells)
			show := func(c int) string {
				if strings.Trim(cells[c], "0123456789") == "" {
					return " " + cells[c] + "#"
				}
				return " " + cells[c]
			}
			for _, column := range columns {
				text := fmt.Sprintf("%d@%d:", row, row%perBlock)
				for c, name := range names {
					if !slices.Contains(columns, name) {
						text += show(c)
					}
				}
				want = append(want, text+" "+column+show(slices.Index(names, column)))
			}
		}
		s, err := New(stored{tabletest.NewRows(perBlock, lines...)}, Turn{Columns: columns, Into: [2]string{"name", "cell"}})
		require.NoError(t, err)
		require.Equal(t, want, rowsOf(t, s), "seed %d: %v of %v", seed, columns, names)
	}
}

func TestWhatCannotBeTurned(t *testing.T) {
	for want, turn := range map[string]Turn{
		`the column "Fbe" is to be turned into rows, and the source has no such column; it has "Feb"`: {Columns: []string{"Fbe"}, Into: [2]string{"m", "kg"}},
		`the rows are to be turned into a column "no", and the source has one of that name already`:   {Columns: []string{"Feb"}, Into: [2]string{"no", "kg"}},
		`the rows are to be turned into a column "kg", and the source has one of that name already`:   {Columns: []string{"Feb"}, Into: [2]string{"kg", "kg"}},
	} {
		_, err := New(tabletest.NewLines(2, "no|Jan|Feb", "1|2|3"), turn)
		var e *Error
		require.ErrorAs(t, err, &e)
		assert.Equal(t, want, err.Error())
	}
}
