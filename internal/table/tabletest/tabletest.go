// Package tabletest has the tests that every source and every sink of package table must
// pass, as package fstest has those of file systems.
//
//	tabletest.Sinks(t, tabletest.Format{Create: ..., Open: ...})
//	tabletest.Sources(t, func() table.Source { ... }, want)
package tabletest

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Format is a format that can be written and read.
type Format struct {
	Ending string
	Create func(path string, fields []table.Field) (table.Sink, error)
	Open   func(path string) (table.Source, error)
	// Typed says that numbers and truth values come back as such, and blanks as null.
	Typed bool
	// There reports whether an output has appeared; nil for one that is a file.
	There func(path string) bool
	// Same reports whether a value came back, where the text may be another; nil for equal text.
	Same func(t value.Type, wrote, read string) bool
}

// Fields are the columns of the table that is written and read: every type, and names that
// must not be taken for anything but names.
var Fields = []table.Field{
	{Name: "Net weight", Type: value.Decimal},
	{Name: `say "x", y`, Type: value.Text},
	{Name: "select", Type: value.Integer},
	{Name: "Ä=1", Type: value.Code},
	{Name: "day", Type: value.Date},
	{Name: "at", Type: value.Time},
	{Name: "stamp", Type: value.Timestamp},
	{Name: "utc", Type: value.Timestamp, Offsets: true},
	{Name: "ok", Type: value.Boolean},
}

// values are values of each type in canonical text, the nastiest that there are. A format
// need not hold them all, but must say so.
var values = map[value.Type][]string{
	value.Decimal: {
		"0.5", "-1240.50", "0", "18240.75", "123456789012.345", "0.000001", "12345678901234567890.123456",
		"-0.1", "1000",
	},
	value.Integer: {"0", "-1", "48", "999999999999999", "9223372036854775807", "123456789012345678901234567890", "-40"},
	value.Text: {
		"plain", " spaced ", "=1+1", "+49 431", "-x", "@home", `"quoted"`, "two\nlines", "tab\there",
		"a,b;c", "ß 東京 \U0001f41f", "null", "NA", "00417", "12.5", "2021-03-04", "true", "x'00'", "_x0041_", "\u00a0nbsp",
		strings.Repeat("long ", 7000),
	},
	value.Code: {"00417", "1E5", "MAR1", "0000000000000000001", "=A1", "12-34"},
	value.Date: {"2021-03-04", "1900-03-01", "1899-12-31", "0001-01-01", "9999-12-31", "2020-02-29"},
	value.Time: {"00:00:00", "18:05:00", "23:59:59", "06:05:00.25", "06:05:00.123456", "06:05:00.123456789"},
	value.Timestamp: {
		"2021-03-04T06:05:00", "1970-01-01T00:00:00", "2021-03-04T06:05:00.5", "1650-01-01T12:00:00",
		"2021-03-04T06:05:00.123456789",
	},
	value.Boolean: {"true", "false"},
}

// stamps are the values of a column with offsets.
var stamps = []string{"2021-03-04T06:05:00Z", "2021-03-04T06:05:00+02:00", "2021-12-31T23:59:59.25-05:30"}

// rows makes that many rows; of the values that the format does not hold, none. Every fifth
// cell is blank, and never a whole row.
func rows(n int, holds func(value.Type, []byte) string) [][]string {
	at := make([]int, len(Fields))
	out := make([][]string, n)
	for r := range out {
		for c, f := range Fields {
			if (r+c)%5 == 0 && c > 0 {
				out[r] = append(out[r], "")
				continue
			}
			list := values[f.Type]
			if f.Offsets {
				list = stamps
			}
			cell := ""
			for range list { // the next one that the format holds
				at[c]++
				v := list[at[c]%len(list)]
				if holds == nil || holds(f.Type, []byte(v)) == "" {
					cell = v
					break
				}
			}
			out[r] = append(out[r], cell)
		}
	}
	return out
}

// Sinks checks a format: what is written comes back with its values, blanks and order; it
// appears whole or not at all.
func Sinks(t *testing.T, f Format) {
	t.Run("round trip", func(t *testing.T) { f.roundTrip(t) })
	t.Run("no rows", func(t *testing.T) { f.noRows(t) })
	t.Run("whole or not at all", func(t *testing.T) { f.wholeOrNot(t) })
	t.Run("what it does not hold", func(t *testing.T) { f.holds(t) })
}

func (f *Format) create(t *testing.T) (table.Sink, string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "out"+f.Ending)
	s, err := f.Create(path, Fields)
	require.NoError(t, err)
	return s, path
}

func (f *Format) there(path string) bool {
	if f.There != nil {
		return f.There(path)
	}
	_, err := os.Stat(path)
	return err == nil
}

func holdsOf(s table.Sink) func(value.Type, []byte) string {
	if h, ok := s.(table.Holder); ok {
		return h.Holds
	}
	return nil
}

// write writes rows in blocks, every seventh row left out.
func write(t *testing.T, s table.Sink, all [][]string) (kept [][]string) {
	t.Helper()
	const block = 50
	for from := 0; from < len(all); from += block {
		part := all[from:min(from+block, len(all))]
		rows := &table.Rows{Fields: Fields, Count: len(part), Cells: make([]table.Values, len(Fields))}
		for r, row := range part {
			out := (from+r)%7 != 3
			rows.Out = append(rows.Out, out)
			if out {
				kept = append(kept, row)
			}
			for c, cell := range row {
				rows.Cells[c].AddText([]byte(cell))
			}
		}
		require.NoError(t, s.Write(s.Encode(nil, rows), rows))
	}
	return kept
}

func (f *Format) roundTrip(t *testing.T) {
	s, path := f.create(t)
	want := write(t, s, rows(333, holdsOf(s)))
	require.NoError(t, s.Finish())
	require.NoError(t, s.Commit())
	src, err := f.Open(path)
	require.NoError(t, err)
	got, kinds := read(t, src)
	require.Len(t, got, len(want))
	for i, name := range src.Info().Names {
		assert.Equal(t, Fields[i].Name, name)
	}
	for r := range want {
		require.Len(t, got[r], len(Fields))
		for c, field := range Fields {
			f.compare(t, field, want[r][c], got[r][c], kinds[r][c], fmt.Sprintf("row %d, column %s", r+1, field.Name))
		}
	}
}

func (f *Format) compare(t *testing.T, field table.Field, wrote, read string, kind value.Stored, where string) {
	t.Helper()
	same := wrote == read
	if !same && field.Type.Numeric() {
		x, err1 := value.ParseNumber(wrote)
		y, err2 := value.ParseNumber(read)
		same = err1 == nil && err2 == nil && x.Compare(y) == 0
	}
	if !same && f.Same != nil {
		same = f.Same(field.Type, wrote, read)
	}
	assert.True(t, same, "%s: wrote %q, read %q", where, wrote, read)
	if !f.Typed {
		return
	}
	switch {
	case wrote == "":
		assert.Equal(t, value.StoredNull, kind, where)
	case field.Type.Numeric():
		assert.Equal(t, value.StoredNumber, kind, where)
	case field.Type.Textual():
		assert.Equal(t, value.StoredText, kind, where)
	}
}

func (f *Format) noRows(t *testing.T) {
	s, path := f.create(t)
	require.NoError(t, s.Commit())
	assert.True(t, f.there(path))
	src, err := f.Open(path)
	if err != nil {
		return // a file without rows may be no table to its own source
	}
	got, _ := read(t, src)
	assert.Empty(t, got)
}

func (f *Format) wholeOrNot(t *testing.T) {
	s, path := f.create(t)
	all := rows(60, holdsOf(s))
	write(t, s, all)
	assert.False(t, f.there(path), "before it is committed")
	s.Abort()
	assert.False(t, f.there(path), "an aborted output leaves nothing")
	left, err := os.ReadDir(filepath.Dir(path))
	require.NoError(t, err)
	assert.Empty(t, left, "an aborted output leaves nothing")
	s.Abort()

	s, path = f.create(t)
	write(t, s, all)
	require.NoError(t, s.Finish())
	assert.False(t, f.there(path), "before it is committed")
	require.NoError(t, s.Commit())
	s.Abort()
	assert.True(t, f.there(path), "after a commit, an abort does nothing")
	left, err = os.ReadDir(filepath.Dir(path))
	require.NoError(t, err)
	if f.There == nil {
		assert.Len(t, left, 1)
	}
	_, err = f.Create(filepath.Join(t.TempDir(), "no", "such", "out"+f.Ending), Fields)
	assert.Error(t, err)
}

// holds checks that a format that does not hold a value says so in a sentence.
func (f *Format) holds(t *testing.T) {
	s, _ := f.create(t)
	defer s.Abort()
	holds := holdsOf(s)
	if holds == nil {
		return
	}
	refused := 0
	for typ, list := range values {
		for _, v := range list {
			if say := holds(typ, []byte(v)); say != "" {
				refused++
				assert.Greater(t, len(say), 10, "%s %s", typ, v)
			}
		}
	}
	assert.Positive(t, refused, "a format that says what it does not hold has something")
}

// read reads a source to its end, and checks it on the way.
func read(t *testing.T, src table.Source) (cells [][]string, kinds [][]value.Stored) {
	t.Helper()
	b := &table.Block{}
	width := len(src.Info().Names)
	for seq := 0; ; seq++ {
		b.Reset()
		err := src.Next(b)
		if errors.Is(err, io.EOF) {
			break
		}
		require.NoError(t, err)
		src.Split(b)
		require.Equal(t, width, b.Width)
		require.Len(t, b.Spans, b.Rows*b.Width, "a span for each cell")
		require.True(t, b.Kinds == nil || len(b.Kinds) == len(b.Spans), "a stored kind for each cell, or for none")
		last := int64(-1)
		for r := range b.Rows {
			require.Greater(t, b.Line(r), last, "rows stand below each other")
			last = b.Line(r)
			var row []string
			var stored []value.Stored
			for c := range b.Width {
				row = append(row, string(b.Cell(r, c)))
				kind := value.StoredText
				if b.Kinds != nil {
					kind = b.Kinds[r*b.Width+c]
				}
				if kind == value.StoredNull {
					require.Empty(t, row[c], "a null has no text")
				}
				stored = append(stored, kind)
			}
			cells, kinds = append(cells, row), append(kinds, stored)
		}
	}
	b.Reset()
	require.ErrorIs(t, src.Next(b), io.EOF, "after the end there is nothing more")
	if c, ok := src.(io.Closer); ok {
		require.NoError(t, c.Close())
	}
	return cells, kinds
}

// Sources checks a source: its names and cells are as wanted, and the same when it is read
// again; what it says of itself is complete.
func Sources(t *testing.T, open func() table.Source, names []string, want [][]string) {
	t.Helper()
	for range 2 {
		src := open()
		info := src.Info()
		assert.Equal(t, names, info.Names)
		assert.NotEmpty(t, info.Format)
		require.NotEmpty(t, info.Files)
		assert.Positive(t, info.Files[0].FirstLine)
		for _, d := range info.Decisions {
			assert.NotEmpty(t, d.What)
			assert.NotEmpty(t, d.Why, d.What)
		}
		got, _ := read(t, src)
		assert.Equal(t, want, got)
	}
}
