package parquet

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math/big"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/parquet-go/parquet-go/compress"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/format"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/tabletest"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

func create(path string, fields []table.Field) (table.Sink, error) {
	f, err := wholefile.Create(path)
	if err != nil {
		return nil, err
	}
	return NewSink(f, filepath.Dir(path), fields)
}

func TestSink(t *testing.T) {
	tabletest.Sinks(t, tabletest.Format{
		Ending: ".parquet", Create: create, Typed: true,
		Open: func(path string) (table.Source, error) { return openFile(t, path) },
		Same: func(typ value.Type, wrote, read string) bool {
			switch typ {
			case value.Time, value.Timestamp: // moments are the same; offsets are not kept, and zeros at the end
				x, err1 := value.ParseMoment(moment(typ, []byte(wrote)))
				y, err2 := value.ParseMoment(moment(typ, []byte(read)))
				return err1 == nil && err2 == nil && x.Compare(y) == 0 && x.HasOffset == y.HasOffset
			}
			return false
		},
	})
}

func openFile(t *testing.T, path string) (*Source, error) {
	t.Helper()
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	return Open(bytes.NewReader(text), int64(len(text)), "a.parquet")
}

// The library's own reader, which knows nothing of ours, gives back what was written.
func TestAnotherReaderReadsIt(t *testing.T) {
	path := filepath.Join(t.TempDir(), "a.parquet")
	fields := []table.Field{{Name: "z", Type: value.Decimal}, {Name: "a", Type: value.Integer}, {Name: "day", Type: value.Date}, {Name: "s", Type: value.Text}, {Name: "ok", Type: value.Boolean}}
	s, err := create(path, fields)
	require.NoError(t, err)
	rows := &table.Rows{Fields: fields, Count: 2, Cells: make([]table.Values, len(fields))}
	for _, row := range [][]string{{"-1240.50", "7", "2021-03-04", "ß", "true"}, {"", "", "", "", ""}} {
		for c, cell := range row {
			v := &rows.Cells[c]
			v.Text = append(v.Text, cell...)
			v.AddMade(len(v.Text) - len(cell))
		}
	}
	require.NoError(t, s.Write(nil, rows))
	require.NoError(t, s.Commit())
	type record struct {
		Z   *int32     `parquet:"z,optional,decimal(2:6)"`
		A   *int64     `parquet:"a,optional"`
		Day *time.Time `parquet:"day,optional,date"`
		S   *string    `parquet:"s,optional"`
		OK  *bool      `parquet:"ok,optional"`
	}
	got, err := parquet.ReadFile[record](path)
	require.NoError(t, err)
	require.Len(t, got, 2)
	assert.EqualValues(t, -124050, *got[0].Z)
	assert.EqualValues(t, 7, *got[0].A)
	assert.Equal(t, "2021-03-04", got[0].Day.UTC().Format(time.DateOnly))
	assert.Equal(t, "ß", *got[0].S)
	assert.True(t, *got[0].OK)
	assert.Equal(t, record{}, got[1])
	f, err := openFile(t, path)
	require.NoError(t, err)
	assert.Equal(t, []string{"z", "a", "day", "s", "ok"}, f.Info().Names, "in the order of the table")
}

func TestTwosComplement(t *testing.T) {
	for _, n := range []string{"0", "1", "-1", "127", "-128", "-129", "99999999999999999999999999999999999999", "-99999999999999999999999999999999999999"} {
		want, _ := new(big.Int).SetString(n, 10)
		v := parquet.FixedLenByteArrayValue(twosComplement(want, 16))
		assert.Equal(t, n, decimal(v, 0))
	}
}

// A file of another program: groups, lists, floats, old timestamps, bytes.
func TestSourceOfManyTypes(t *testing.T) {
	type place struct {
		Quay  string `parquet:"quay"`
		Berth *int32 `parquet:"berth,optional"`
	}
	type record struct {
		ID    int64     `parquet:"id"`
		Big   uint64    `parquet:"big"`
		F     float64   `parquet:"f"`
		G     float32   `parquet:"g"`
		Where place     `parquet:"where"`
		Lots  []int32   `parquet:"lots,list"`
		Tags  []string  `parquet:"tags"`
		At    time.Time `parquet:"at,timestamp(millisecond)"`
		Raw   []byte    `parquet:"raw"`
		Key   [16]byte  `parquet:"key,uuid"`
		Price int64     `parquet:"price,decimal(2:18)"`
	}
	var b bytes.Buffer
	w := parquet.NewGenericWriter[record](&b)
	berth := int32(4)
	at := time.Date(2021, 3, 4, 6, 5, 0, 250e6, time.UTC)
	_, err := w.Write([]record{
		{ID: 1, Big: 18446744073709551615, F: 0.1, G: 1.5, Where: place{"North", &berth}, Lots: []int32{88, 51}, Tags: []string{"a", `"b"`}, At: at, Raw: []byte("text"), Price: -5},
		{ID: 2, F: 1e21, Where: place{Quay: "South"}, At: at, Raw: []byte{0xff, 0}, Key: [16]byte{0x12, 0x34}, Price: 124050},
	})
	require.NoError(t, err)
	require.NoError(t, w.Close())
	open := func() table.Source {
		s, err := Open(bytes.NewReader(b.Bytes()), int64(b.Len()), "a.parquet")
		require.NoError(t, err)
		return s
	}
	tabletest.Sources(t, open, []string{"id", "big", "f", "g", "where.quay", "where.berth", "lots", "tags", "at", "raw", "key", "price"}, [][]string{
		{"1", "18446744073709551615", "0.1", "1.5", "North", "4", "[88,51]", `["a","\"b\""]`, "2021-03-04T06:05:00.25Z", "text", "00000000-0000-0000-0000-000000000000", "-0.05"},
		{"2", "0", "1000000000000000000000", "0", "South", "", "[]", "[]", "2021-03-04T06:05:00.25Z", "x'ff00'", "12340000-0000-0000-0000-000000000000", "1240.50"},
	})
}

// Lists in lists keep their brackets; a number of two bytes is one; a time of 24 hours is no time of the day.
func TestNestedListsAndOddTypes(t *testing.T) {
	type crate struct {
		Lots []int32 `parquet:"lots,list"`
	}
	type record struct {
		Crates []crate `parquet:"crates,list"`
		At     int64   `parquet:"at,time(microsecond)"`
	}
	var b bytes.Buffer
	w := parquet.NewGenericWriter[record](&b)
	_, err := w.Write([]record{
		{Crates: []crate{{[]int32{1, 2}}, {[]int32{3}}}, At: 24*60*60*1e6 - 1},
		{Crates: []crate{{nil}, {[]int32{4}}, {[]int32{}}}, At: 24 * 60 * 60 * 1e6},
		{At: -1},
	})
	require.NoError(t, err)
	require.NoError(t, w.Close())
	s, err := Open(bytes.NewReader(b.Bytes()), int64(b.Len()), "a.parquet")
	require.NoError(t, err)
	block := &table.Block{}
	block.Reset()
	require.NoError(t, s.Next(block))
	var got []string
	for i := range block.Spans {
		got = append(got, string(block.At(block.Spans[i]))+" "+block.Kinds[i].String())
	}
	assert.Equal(t, []string{
		"[[1,2],[3]] text", "23:59:59.999999 date", "[[],[4],[]] text", "24h0m0s after midnight error", "[] text", "-1µs after midnight error",
	}, got)
	for bits, want := range map[uint16]string{0: "0", 0x3c00: "1", 0xc000: "-2", 0x3555: "0.33325195", 1: "0.000000059604645", 0x7c00: "+Inf", 0x7e00: "NaN", 0x7bff: "65504"} {
		text, _ := float(half(binary.LittleEndian.AppendUint16(nil, bits)), 32)
		assert.Equal(t, want, text)
	}
}

// A file that is cut off or lies about itself gives an error, and nothing worse.
func TestDamagedFiles(t *testing.T) {
	type record struct{ A, B string }
	var b bytes.Buffer
	require.NoError(t, parquet.Write(&b, []record{{"x", "y"}, {"z", "w"}}))
	whole := b.Bytes()
	check := func(text []byte) {
		s, err := Open(bytes.NewReader(text), int64(len(text)), "a.parquet")
		if err != nil {
			return
		}
		block := &table.Block{}
		for err == nil {
			block.Reset()
			err = s.Next(block)
		}
	}
	for cut := range len(whole) {
		_, err := Open(bytes.NewReader(whole[:cut]), int64(cut), "a.parquet")
		assert.ErrorIs(t, err, ErrDamaged, cut)
	}
	lie := bytes.Clone(whole)
	binary.LittleEndian.PutUint32(lie[len(lie)-8:], 1<<31)
	_, err := Open(bytes.NewReader(lie), int64(len(lie)), "a.parquet")
	assert.ErrorContains(t, err, "its footer is longer than the file")
	for i := range whole {
		for _, bit := range []byte{0x01, 0x80, 0xff} {
			text := bytes.Clone(whole)
			text[i] ^= bit
			check(text)
		}
	}
}

func FuzzOpen(f *testing.F) {
	type record struct {
		A string
		B *int64
		C []string
	}
	var b bytes.Buffer
	require.NoError(f, parquet.Write(&b, []record{{A: "x"}}))
	f.Add(b.Bytes())
	f.Add([]byte("PAR1PAR1"))
	f.Fuzz(func(_ *testing.T, text []byte) {
		s, err := Open(bytes.NewReader(text), int64(len(text)), "a.parquet")
		for n := 0; err == nil && n < 100; n++ {
			err = s.Next(&table.Block{})
		}
	})
}

// A file that can't be finished does not appear, however often it is asked for.
func TestUnfinishedFilesNeverAppear(t *testing.T) {
	folder := t.TempDir()
	path := filepath.Join(folder, "a.parquet")
	fields := []table.Field{{Name: "n", Type: value.Decimal}}
	s, err := create(path, fields)
	require.NoError(t, err)
	rows := &table.Rows{Fields: fields, Count: 2, Cells: make([]table.Values, 1)}
	for _, cell := range []string{"12345678901234567890123456789012345678", "0.5"} { // 39 digits in all
		v := &rows.Cells[0]
		v.Text = append(v.Text, cell...)
		v.AddMade(len(v.Text) - len(cell))
	}
	require.NoError(t, s.Write(nil, rows))
	assert.ErrorContains(t, s.Finish(), "make the column text in the plan")
	assert.ErrorContains(t, s.Commit(), "make the column text in the plan")
	assert.NoFileExists(t, path)
	s.Abort()
	left, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.Empty(t, left)
}

// The precision of a column is what its numbers need, and no more.
func TestDecimalsOfEachSize(t *testing.T) {
	for _, tt := range []struct {
		cells []string
		typ   string
	}{
		{[]string{"1.5", "-12.25"}, "DECIMAL(4,2)"},
		{[]string{"123456789.5"}, "DECIMAL(10,1)"},
		{[]string{"1234567890123456789.5", "0.25"}, "DECIMAL(21,2)"},
		{[]string{""}, "DECIMAL(1,0)"},
	} {
		path := filepath.Join(t.TempDir(), "a.parquet")
		fields := []table.Field{{Name: "n", Type: value.Decimal}}
		s, err := create(path, fields)
		require.NoError(t, err)
		rows := &table.Rows{Fields: fields, Count: len(tt.cells), Cells: make([]table.Values, 1)}
		for _, cell := range tt.cells {
			v := &rows.Cells[0]
			v.Text = append(v.Text, cell...)
			v.AddMade(len(v.Text) - len(cell))
		}
		require.NoError(t, s.Write(nil, rows))
		require.NoError(t, s.Commit())
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		f, err := parquet.OpenFile(bytes.NewReader(text), int64(len(text)))
		require.NoError(t, err)
		assert.Equal(t, tt.typ, f.Schema().Fields()[0].Type().LogicalType().String())
	}
}

// nullType is text that claims the logical type null, as some writers make columns of nothing.
type nullType struct{ parquet.Type }

func (nullType) LogicalType() *format.LogicalType {
	return &format.LogicalType{Value: &format.NullType{}}
}

// A column of the logical type null does not take the values of those after it.
func TestColumnOfTheTypeNull(t *testing.T) {
	for _, required := range []bool{true, false} {
		null := parquet.Leaf(nullType{parquet.ByteArrayType})
		if !required {
			null = parquet.Optional(null)
		}
		group := parquet.Group{"a": parquet.Int(64), "b": null, "c": parquet.String(), "d": parquet.Int(64)}
		path := filepath.Join(t.TempDir(), "x.parquet")
		f, err := os.Create(path)
		require.NoError(t, err)
		w := parquet.NewWriter(f, parquet.NewSchema("t", group))
		for i := range 3 {
			b := parquet.ByteArrayValue(nil).Level(0, 0, 1)
			if !required {
				b = parquet.NullValue().Level(0, 0, 1)
			}
			_, err = w.WriteRows([]parquet.Row{{parquet.Int64Value(int64(i)).Level(0, 0, 0), b, parquet.ByteArrayValue([]byte("x")).Level(0, 0, 2), parquet.Int64Value(7).Level(0, 0, 3)}})
			require.NoError(t, err)
		}
		require.NoError(t, w.Close())
		require.NoError(t, f.Close())
		f, err = os.Open(path)
		require.NoError(t, err)
		info, err := f.Stat()
		require.NoError(t, err)
		s, err := Open(f, info.Size(), "x.parquet")
		require.NoError(t, err)
		b := &table.Block{}
		require.NoError(t, s.Next(b))
		require.Equal(t, 3, b.Rows)
		for r := range 3 {
			assert.Equal(t, fmt.Sprint(r), string(b.Cell(r, 0)))
			assert.Equal(t, "", string(b.Cell(r, 1)))
			assert.Equal(t, "x", string(b.Cell(r, 2)), "required %v", required)
			assert.Equal(t, "7", string(b.Cell(r, 3)), "required %v", required)
		}
		require.NoError(t, s.Close())
		require.NoError(t, f.Close())
	}
}

// What says to be longer than there is ends at once.
func TestWalk(t *testing.T) {
	for _, tt := range []struct {
		text   string
		length int
		three  int64
		wrong  bool
	}{
		{"\x00", 1, -1, false},
		{"\x15\x02\x25\x90\x03\x00rest", 6, 200, false},        // fields 1 and 3
		{"\x11\x12\x00", 3, -1, false},                         // truth values
		{"\x19\x25\x02\x04\x1c\x15\x06\x00\x00", 9, -1, false}, // a list, then a structure with a field of its own
		{"\x1b\x01\x58\x02\x01x\x00", 7, -1, false},            // a map of a number to a text
		{"\x1d" + strings.Repeat("u", 16) + "\x17" + strings.Repeat("d", 8) + "\x00", 27, -1, false},
		{"", -1, 0, false},
		{"\x15", -1, 0, false},
		{"\x18\xff\xff\xff\x7fab", -1, 0, false},
		{"\x1a\xf7\xff\xff\xff\xff\x07abc\x00", -1, 0, false}, // a set of 2³¹ numbers
		{"\x1e\x00", 0, 0, true},
		{"\x10\x00", 0, 0, true},                                                 // no such types
		{"\x16\xff\xff\xff\xff\xff\xff\xff\xff\xff\xff\xff\x01\x00", 0, 0, true}, // no number is so long
		{strings.Repeat("\x1c", 100), 0, 0, true},
	} {
		length, three, err := walk([]byte(tt.text))
		assert.Equal(t, tt.wrong, err != nil, "%x", tt.text)
		assert.Equal(t, tt.length, length, "%x", tt.text)
		assert.Equal(t, tt.three, three, "%x", tt.text)
	}
}

// What each way to compress has made of bytes that can't be made shorter, and of others, comes back, in pages of all sizes; the
// one that the library reads wrongly is refused.
func TestCompressedPages(t *testing.T) {
	type record struct{ S string }
	r := rand.New(rand.NewPCG(36, 1))
	random := func(n int) string {
		b := make([]byte, n)
		for i := range b {
			b[i] = byte(' ' + r.IntN(95))
		}
		return string(b)
	}
	for _, codec := range []compress.Codec{&parquet.Uncompressed, &parquet.Snappy, &parquet.Gzip, &parquet.Brotli, &parquet.Zstd, &parquet.Lz4Raw} {
		for _, page := range []int{100, 1000, 4096, 65_536, 1 << 20} {
			var b bytes.Buffer
			w := parquet.NewGenericWriter[record](&b, parquet.Compression(codec), parquet.PageBufferSize(page))
			var want []string
			for i := range 3000 {
				want = append(want, []string{random(1 + i%60), "the same", random(i % 9)}[i%3])
				_, err := w.Write([]record{{want[i]}})
				require.NoError(t, err)
			}
			require.NoError(t, w.Close())
			src, err := Open(bytes.NewReader(b.Bytes()), int64(b.Len()), "a.parquet")
			if codec.CompressionCodec() == format.Lz4Raw {
				require.ErrorIs(t, err, ErrCodec)
				continue
			}
			require.NoError(t, err)
			var got []string
			block := &table.Block{}
			for {
				block.Reset()
				if err := src.Next(block); errors.Is(err, io.EOF) {
					break
				} else {
					require.NoError(t, err)
				}
				for row := range block.Rows {
					got = append(got, string(block.Cell(row, 0)))
				}
			}
			require.True(t, slices.Equal(want, got), "%s, pages of %d bytes", codec, page)
		}
	}
}
