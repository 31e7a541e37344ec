package order

import (
	"bytes"
	"context"
	"errors"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/tabletest"
	"junvo/internal/value"
)

// memory is a sink that keeps its rows as text.
type memory struct {
	table.Discard
	rows    [][]string
	numbers []int64
	broken  error
	commits int
}

func (m *memory) Write(_ []byte, rows *table.Rows) error {
	for r := range rows.Count {
		var row []string
		for i := range rows.Fields {
			row = append(row, string(rows.Cells[i].At(r)))
		}
		m.rows = append(m.rows, row)
	}
	m.numbers = append(m.numbers, rows.Numbers...)
	return m.broken
}

func (m *memory) Commit() error { m.commits++; return nil }

// put writes rows of a number and a text, of which some are left out.
func put(t *testing.T, s table.Sink, rows [][2]string, out []bool) {
	t.Helper()
	block := &table.Rows{Fields: tabletest.Fields[:2], Count: len(rows), Out: out, Cells: make([]table.Values, 2)}
	for _, row := range rows {
		for c, cell := range row {
			v := &block.Cells[c]
			if cell == "" {
				v.AddBlank()
				continue
			}
			v.Text = append(v.Text, cell...)
			v.AddMade(len(v.Text) - len(cell))
		}
	}
	require.NoError(t, s.Write(s.Encode(nil, block), block))
}

// Rows come out in order with the numbers that they have in the source, whatever was left out.
func TestSinkOrdersRows(t *testing.T) {
	m := &memory{}
	s := NewSink(context.Background(), m, []Key{{Column: 0, Type: value.Decimal, Descending: true}, {Column: 1, Type: value.Text}}, t.TempDir())
	put(t, s, [][2]string{{"2", "b"}, {"10", "z"}, {"", "c"}}, nil)
	put(t, s, [][2]string{{"7", "gone"}, {"2.0", "a"}, {"-1", ""}}, []bool{false, true, true})
	assert.Empty(t, m.rows, "nothing comes before all is there")
	require.NoError(t, s.Commit(), "which finishes first")
	assert.Equal(t, [][]string{{"10", "z"}, {"2.0", "a"}, {"2", "b"}, {"-1", ""}, {"", "c"}}, m.rows)
	assert.Equal(t, []int64{2, 5, 1, 6, 3}, m.numbers)
	require.NoError(t, s.Finish())
	assert.Len(t, m.rows, 5, "once")
	assert.Equal(t, 1, m.commits)
}

// Without keys the rows keep their order, of more than one batch too.
func TestSinkWithoutKeysKeepsTheOrder(t *testing.T) {
	m := &memory{}
	s := NewSink(context.Background(), m, nil, t.TempDir())
	var rows [][2]string
	for i := range 2*batch + 10 {
		rows = append(rows, [2]string{"1", string(rune('a' + i%26))})
	}
	put(t, s, rows, nil)
	require.NoError(t, s.Finish())
	require.Len(t, m.rows, len(rows))
	for i, row := range m.rows {
		require.Equal(t, rows[i][1], row[1])
		require.EqualValues(t, i+1, m.numbers[i])
	}
}

func TestSinkThatCannotFinishNeverCommits(t *testing.T) {
	folder := t.TempDir()
	m := &memory{broken: errors.New("disk full")}
	s := NewSink(context.Background(), m, nil, folder)
	put(t, s, [][2]string{{"1", "a"}}, nil)
	assert.ErrorIs(t, s.Finish(), m.broken)
	assert.ErrorIs(t, s.Commit(), m.broken)
	assert.Zero(t, m.commits)

	ctx, cancel := context.WithCancel(context.Background())
	m = &memory{}
	s = NewSink(ctx, m, nil, folder)
	put(t, s, [][2]string{{"1", "a"}}, nil)
	cancel()
	assert.ErrorIs(t, s.Commit(), context.Canceled)
	assert.Zero(t, m.commits)

	s = NewSink(context.Background(), &memory{}, nil, folder)
	s.sorter.memory = 1
	put(t, s, [][2]string{{"1", "a"}}, nil)
	put(t, s, [][2]string{{"2", "b"}}, nil)
	put(t, s, [][2]string{{"3", "c"}}, nil)
	left, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.NotEmpty(t, left, "runs stand on the disk")
	s.Abort()
	left, err = os.ReadDir(folder)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestRecordsAreCutAsTheyWereMade(t *testing.T) {
	var all []byte
	want := [][2]string{{"", ""}, {"k", ""}, {"", "d"}, {string(bytes.Repeat([]byte{0}, 300)), string(bytes.Repeat([]byte{0xff}, 70000))}}
	for _, w := range want {
		all = AppendRecord(all, []byte(w[0]), []byte(w[1]))
	}
	for _, w := range want {
		var one record
		one, all = cutRecord(all)
		assert.Equal(t, w, [2]string{string(one.key), string(one.data)})
	}
	assert.Empty(t, all)
}

// Keys that begin with the same eight bytes, or are shorter than that, are in the order of
// their bytes, too.
func TestKeysWithOneStart(t *testing.T) {
	keys := []string{"", "\x00", "\x00\x00", "a", "a\x00", "a\x00b", "ab", "harbour1", "harbour1\x00", "harbour1a", "harbour2", "harbours and quays", "harbours and ships"}
	s := NewSorter(t.TempDir(), 1<<20)
	for i := range keys {
		require.NoError(t, s.Add(AppendRecord(nil, []byte(keys[(i*5+3)%len(keys)]), nil)))
	}
	var got []string
	require.NoError(t, s.Each(t.Context(), func(key, _ []byte) error {
		got = append(got, string(key))
		return nil
	}))
	s.Close()
	require.Equal(t, keys, got)
}
