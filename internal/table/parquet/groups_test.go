package parquet

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// Rows stand in the file in their order, whichever group of them is ready first, and the file is the same each time.
func TestGroupsInOrder(t *testing.T) {
	was := groupBytes
	groupBytes = 20_000
	defer func() { groupBytes = was }()
	fields := []table.Field{{Name: "no", Type: value.Integer}, {Name: "text", Type: value.Text}, {Name: "kg", Type: value.Decimal}}
	const count = 20_000
	write := func() string {
		path := filepath.Join(t.TempDir(), "x.parquet")
		out, err := wholefile.Create(path)
		require.NoError(t, err)
		s, err := NewSink(out, t.TempDir(), fields)
		require.NoError(t, err)
		for from := 0; from < count; from += 1000 {
			rows := &table.Rows{Fields: fields, Count: 1000, Cells: make([]table.Values, len(fields))}
			for i := range 1000 {
				n := from + i
				rows.Cells[0].AddText([]byte(fmt.Sprint(n)))
				rows.Cells[1].AddText([]byte(strings.Repeat("x", n%97)))
				rows.Cells[2].AddText(fmt.Appendf(nil, "%d.%02d", n%11, n%100))
			}
			require.NoError(t, s.Write(nil, rows))
		}
		require.NoError(t, s.Commit())
		return path
	}
	first := write()
	a, err := os.ReadFile(first)
	require.NoError(t, err)
	for range 3 {
		b, err := os.ReadFile(write())
		require.NoError(t, err)
		require.Equal(t, len(a), len(b))
		require.True(t, string(a) == string(b), "the same rows make the same file")
	}
	f, err := os.Open(first)
	require.NoError(t, err)
	defer f.Close()
	src, err := Open(f, int64(len(a)), "x")
	require.NoError(t, err)
	n := 0
	for {
		b := &table.Block{}
		if err := src.Next(b); err != nil {
			break
		}
		src.Split(b)
		for r := range b.Rows {
			require.Equal(t, []string{fmt.Sprint(n), strings.Repeat("x", n%97), fmt.Sprintf("%d.%02d", n%11, n%100)}, b.RowCells(r))
			n++
		}
	}
	assert.Equal(t, count, n)
	require.NoError(t, src.Close())
}

// full is an output that takes no more after some bytes.
type full struct{ left int }

func (f *full) Write(p []byte) (int, error) {
	if f.left -= len(p); f.left < 0 {
		return 0, errors.New("no room")
	}
	return len(p), nil
}
func (*full) Finish() error { return nil }
func (*full) Commit() error { return nil }
func (*full) Abort()        {}

// A disk that gets full is an error, and nothing works on afterwards.
func TestGroupsOnAFullDisk(t *testing.T) {
	was := groupBytes
	groupBytes = 20_000
	defer func() { groupBytes = was }()
	fields := []table.Field{{Name: "text", Type: value.Text}}
	for _, room := range []int{0, 10, 5_000} {
		s, err := NewSink(&full{room}, t.TempDir(), fields)
		require.NoError(t, err)
		rows := &table.Rows{Fields: fields, Count: 5000, Cells: make([]table.Values, 1)}
		for i := range 5000 {
			rows.Cells[0].AddText(fmt.Appendf(nil, "some text %d", i*7919%5000))
		}
		require.NoError(t, s.Write(nil, rows))
		assert.ErrorContains(t, s.Finish(), "no room")
		s.Abort()
	}
}
