package parquet

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/encoding/thrift"
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

// A footer that tells other numbers of rows than there are is an error, since the numbers of rows in ranges are those.
func TestFooterThatCountsWrong(t *testing.T) {
	type lot struct{ No int64 }
	var b bytes.Buffer
	w := parquet.NewGenericWriter[lot](&b)
	for i := range 300 {
		_, err := w.Write([]lot{{int64(i)}})
		require.NoError(t, err)
		if i%100 == 99 {
			require.NoError(t, w.Flush())
		}
	}
	require.NoError(t, w.Close())
	f, err := parquet.OpenFile(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	rowsOf := func(change int64) (int, error) {
		meta := *f.Metadata()
		meta.RowGroups = slices.Clone(meta.RowGroups)
		meta.RowGroups[1].NumRows += change
		footer, err := thrift.Marshal(new(thrift.CompactProtocol), &meta)
		require.NoError(t, err)
		body := b.Bytes()[:b.Len()-8-int(binary.LittleEndian.Uint32(b.Bytes()[b.Len()-8:]))]
		text := append(slices.Clone(body), footer...)
		text = append(binary.LittleEndian.AppendUint32(text, uint32(len(footer))), Magic...)
		src, err := Open(bytes.NewReader(text), int64(len(text)), "x")
		require.NoError(t, err)
		rows := 0
		for {
			block := &table.Block{}
			if err := src.Next(block); err != nil {
				return rows, err
			}
			rows += block.Rows
		}
	}
	rows, err := rowsOf(0)
	require.Equal(t, 300, rows)
	require.ErrorIs(t, err, io.EOF)
	for _, change := range []int64{-100, -1, 1, 1 << 40} {
		_, err := rowsOf(change)
		require.ErrorIs(t, err, ErrDamaged, change)
		require.ErrorContains(t, err, "group 2 of rows has not as many as the footer says")
	}
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
