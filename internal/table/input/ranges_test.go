package input

import (
	"context"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	parquetgo "github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/profile"
	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/parquet"
)

// rangesOf cuts a file and returns its ranges, nil for one piece.
func rangesOf(t *testing.T, path string, o Options, each int64) []Range {
	c, err := NewCut(path, o, each)
	require.NoError(t, err)
	if c == nil {
		return nil
	}
	defer c.Close()
	walks := make([][]delim.Walk, c.Pieces)
	for i := range walks {
		walks[i], err = c.Walk(i)
		require.NoError(t, err)
	}
	ranges, rows, err := c.Ranges(walks)
	require.NoError(t, err)
	all, _ := cellsOf(t, path, o)
	require.EqualValues(t, len(slices.DeleteFunc(all, isExtra)), rows)
	return ranges
}

// cellsOf reads all rows, each with its line.
func cellsOf(t *testing.T, path string, o Options) (rows []string, last bool) {
	src, err := Open(path, o)
	require.NoError(t, err)
	defer src.Close()
	var lines table.Lines
	for b := (&table.Block{}); ; {
		b.Reset()
		err := src.Next(b)
		if err == io.EOF {
			return rows, last
		}
		require.NoError(t, err)
		src.Split(b)
		last = b.Last
		first := lines.Start(src.Info(), b)
		for r := range b.Rows {
			cells := []string{fmt.Sprint(first + b.Line(r))}
			for c := range b.Width {
				cells = append(cells, string(b.Cell(r, c)), fmt.Sprint(b.Spans[r*b.Width+c].N&table.Missing))
			}
			rows = append(rows, strings.Join(cells, "|"))
		}
		for _, e := range b.Extra {
			rows = append(rows, fmt.Sprint("extra ", len(rows)-b.Rows+e.Row, len(e.Spans)))
		}
	}
}

// nasty makes delimited text with all that makes it hard to tell where rows begin.
func nasty(r *rand.Rand, rows int) string {
	var b strings.Builder
	end := []string{"\n", "\r\n"}[r.IntN(2)]
	if r.IntN(4) == 0 {
		b.WriteString("\ufeff")
	}
	if r.IntN(4) == 0 {
		b.WriteString("Port of Nordhaven" + end + end)
	}
	b.WriteString("a,b,c" + end)
	pieces := []string{"x", "17", "\"", "\"\"", ",", "\n", "\r\n", " ", "über", "\"q\"", "a\nb", "'", ";", "\r", "text of some length"}
	stray := r.IntN(3) == 0
	for range rows {
		for c := range 3 + r.IntN(12)/11 {
			if c > 0 {
				b.WriteByte(',')
			}
			var cell strings.Builder
			for range r.IntN(4) {
				cell.WriteString(pieces[r.IntN(len(pieces))])
			}
			text := cell.String()
			switch {
			case stray && r.IntN(20) == 0:
				b.WriteString(strings.ReplaceAll(text, "\n", " "))
			case r.IntN(30) == 0 && stray:
				b.WriteString(`"` + text + `"`)
			case strings.ContainsAny(text, ",\"\n\r") || r.IntN(4) == 0:
				b.WriteString(`"` + strings.ReplaceAll(text, `"`, `""`) + `"`)
			default:
				b.WriteString(text)
			}
		}
		b.WriteString(end)
	}
	text := b.String()
	if r.IntN(3) == 0 {
		text = strings.TrimRight(text, "\r\n")
	}
	return text
}

// The rows of the ranges, one after the other, are those of the file, with their lines, whatever stands in it.
func TestRangesAreTheFile(t *testing.T) {
	dir := t.TempDir()
	cut := 0
	for seed := range uint64(nets.Size(80, 250)) {
		r := rand.New(rand.NewPCG(seed, 22))
		path := filepath.Join(dir, "in.csv")
		text := nasty(r, 1+r.IntN(200))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
		want, _ := cellsOf(t, path, Options{})
		ranges := rangesOf(t, path, Options{}, int64(30+r.IntN(len(text))))
		if ranges == nil {
			continue
		}
		cut += len(ranges)
		var got []string
		for i, one := range ranges {
			require.EqualValues(t, len(got), one.Row(), "seed %d", seed)
			rows, last := cellsOf(t, path, Options{Range: &one})
			require.Equal(t, i == len(ranges)-1, last && one.Text.To == int64(len(text)), "seed %d, range %d", seed, i)
			got = append(got, slices.DeleteFunc(rows, isExtra)...)
		}
		require.Equal(t, slices.DeleteFunc(want, isExtra), got, "seed %d", seed)
	}
	require.Greater(t, cut, nets.Size(160, 500))
}

// What is collected of ranges, saved and joined, concludes the same as what is collected of the file.
func TestProfilesOfRangesAreThatOfTheFile(t *testing.T) {
	for seed := range uint64(30) {
		r := rand.New(rand.NewPCG(seed, 23))
		path := filepath.Join(t.TempDir(), "in.csv")
		text := nasty(r, 400)
		if seed%3 == 0 { // the encoding shows late
			text = strings.ReplaceAll(text, "über", "ueber") + "x,ä,1\ny,é\xff,2\n"
		}
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
		collect := func(o Options) *profile.Collected {
			src, err := Open(path, o)
			require.NoError(t, err)
			defer src.Close()
			c, err := profile.Collect(context.Background(), src.Source, profile.Options{Workers: 2})
			require.NoError(t, err)
			return c
		}
		ranges := rangesOf(t, path, Options{}, int64(len(text)/7))
		require.NotEmpty(t, ranges)
		var all *profile.Collected
		for _, one := range ranges {
			c := collect(Options{Range: &one})
			var saved strings.Builder
			require.NoError(t, c.Save(&saved))
			loaded, err := profile.Load(strings.NewReader(saved.String()))
			require.NoError(t, err)
			if all == nil {
				all = loaded
				continue
			}
			require.NoError(t, all.Append(loaded))
		}
		whole := collect(Options{})
		var a, b strings.Builder
		require.NoError(t, whole.Save(&a))
		require.NoError(t, all.Save(&b))
		p, q := whole.Conclude(profile.Options{}), all.Conclude(profile.Options{})
		require.Equal(t, p.Info, q.Info, "seed %d", seed)
		require.Equal(t, p.Rows, q.Rows)
		require.Equal(t, p.Findings, q.Findings, "seed %d", seed)
		for i := range p.Columns {
			require.Equal(t, p.Columns[i].Conclusion, q.Columns[i].Conclusion, "seed %d", seed)
			require.Equal(t, p.Columns[i].Findings, q.Columns[i].Findings, "seed %d", seed)
			require.Equal(t, p.Columns[i].Range, q.Columns[i].Range, "seed %d", seed)
		}
	}
}

// FuzzRanges holds the rows of ranges to those of the file, for any bytes and any size of the ranges.
func FuzzRanges(f *testing.F) {
	for seed := range uint64(20) {
		f.Add([]byte(nasty(rand.New(rand.NewPCG(seed, 24)), 12)), uint16(40))
	}
	f.Add([]byte("a,b\n\"1\n2,3\n\",4\n5,\"6\"\"\n\"\"7\"\n8,9"), uint16(9))
	f.Fuzz(func(t *testing.T, text []byte, each uint16) {
		path := filepath.Join(t.TempDir(), "in.csv")
		require.NoError(t, os.WriteFile(path, text, 0o644))
		c, err := NewCut(path, Options{Format: "text"}, int64(max(1, each)))
		if err != nil || c == nil {
			return
		}
		defer c.Close()
		walks := make([][]delim.Walk, c.Pieces)
		for i := range walks {
			if walks[i], err = c.Walk(i); err != nil {
				return
			}
		}
		ranges, rows, err := c.Ranges(walks)
		require.NoError(t, err)
		want, _ := cellsOf(t, path, Options{Format: "text"})
		want = slices.DeleteFunc(want, isExtra)
		require.EqualValues(t, len(want), rows)
		var got []string
		for i := range ranges {
			part, _ := cellsOf(t, path, Options{Format: "text", Range: &ranges[i]})
			got = append(got, slices.DeleteFunc(part, isExtra)...)
		}
		if ranges != nil {
			require.Equal(t, want, got)
		}
	})
}

func isExtra(row string) bool { return strings.HasPrefix(row, "extra") }

// groupsOf writes a Parquet file of one column, with groups of so many rows, whose numbers go on.
func groupsOf(t *testing.T, path string, groups ...int) {
	t.Helper()
	type lot struct {
		No   int64
		Note string
	}
	out, err := os.Create(path)
	require.NoError(t, err)
	w := parquetgo.NewGenericWriter[lot](out)
	no := int64(0)
	for _, rows := range groups {
		for range rows {
			no++
			_, err := w.Write([]lot{{no, strings.Repeat("x", int(no)%30)}})
			require.NoError(t, err)
		}
		require.NoError(t, w.Flush())
	}
	require.NoError(t, w.Close())
	require.NoError(t, out.Close())
}

// The groups of rows of a Parquet file are ranges, whole and in order, however they are put together.
func TestRangesOfGroups(t *testing.T) {
	path := filepath.Join(t.TempDir(), "in.parquet")
	groupsOf(t, path, 100, 1, 700, 30, 30, 30, 2)
	want, _ := cellsOf(t, path, Options{})
	require.Len(t, want, 893)
	counts := map[int]bool{}
	for _, each := range []int64{1, 600, 3000, 9000, 1 << 20, math.MaxInt64} {
		ranges := rangesOf(t, path, Options{}, each)
		var got []string
		for i := range ranges {
			require.EqualValues(t, len(got), ranges[i].Row())
			rows, _ := cellsOf(t, path, Options{Range: &ranges[i]})
			got = append(got, rows...)
		}
		require.Equal(t, want, got)
		counts[len(ranges)] = true
	}
	require.True(t, counts[7] && counts[1] && len(counts) > 3, counts)
	// A range of another file, or of text, is no range of this one.
	_, err := Open(path, Options{Range: &Range{Groups: &parquet.Range{From: 3, To: 9}}})
	require.ErrorContains(t, err, "7 groups of rows")
	_, err = Open(path, Options{Range: &Range{Text: &delim.Range{To: 9}}})
	require.ErrorIs(t, err, delim.ErrNoRanges)
}

// What is not in the bytes of the file itself is not cut: a file in an archive, a compressed one.
func TestWhatIsNotCut(t *testing.T) {
	text := "a,b\n" + strings.Repeat("1,some text\n", 1000)
	dir := write(t, map[string]string{"in.zip": archive(t, member{"a.csv", text}), "in.csv.gz": compressed(t, "gzip", text), "in.csv": text})
	for name, cut := range map[string]bool{"in.zip": false, "in.csv.gz": false, "in.csv": true} {
		c, err := NewCut(filepath.Join(dir, name), Options{}, 1000)
		require.NoError(t, err)
		require.Equal(t, cut, c != nil, name)
		if cut {
			require.NoError(t, c.Close())
			continue
		}
		_, err = Open(filepath.Join(dir, name), Options{Range: &Range{Text: &delim.Range{To: 100}}})
		require.ErrorIs(t, err, delim.ErrNoRanges, name)
	}
}
