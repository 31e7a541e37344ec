// Package parquet reads and writes Parquet files. Cells come as the file stores them:
// numbers in exact decimal text, dates and times as ISO 8601 text, truth values, text and
// null. Groups within groups are columns with dotted names, and lists are JSON text.
package parquet

import (
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"math/big"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/deprecated"
	"github.com/parquet-go/parquet-go/format"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Magic is how every Parquet file begins and ends.
const Magic = "PAR1"

// Source reads a Parquet file. It implements [table.Source].
type Source struct {
	in     io.ReaderAt
	file   *parquet.File
	info   table.Info
	leaves []leaf
	groups []parquet.RowGroup
	group  int // the next group to be read
	end    int // where to end
	rows   parquet.Rows
	left   int64 // rows that the group should still have
	buffer []parquet.Row
	held   []parquet.Row // read and not in a block yet
	row    int64
}

// leaf is a column that has values of its own.
type leaf struct {
	name  string
	typ   parquet.Type
	lists []int // the levels of definition of the lists on the path to it
}

// ErrDamaged is a file that can't be read as Parquet.
var ErrDamaged = errors.New("the Parquet file is damaged")

// damaged turns a panic of the library, which trusts what a file says of itself, into an error.
func damaged(err *error) {
	if r := recover(); r != nil {
		*err = fmt.Errorf("%w: %v", ErrDamaged, r)
	}
}

// Open opens a file.
func Open(r io.ReaderAt, size int64, name string) (s *Source, err error) {
	defer damaged(&err)
	if err := checkFooter(r, size); err != nil {
		return nil, err
	}
	f, err := parquet.OpenFile(r, size, parquet.SkipPageIndex(true), parquet.SkipBloomFilters(true))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	if err := readable(f); err != nil {
		return nil, err
	}
	s = &Source{in: r, file: f, row: 1, groups: f.RowGroups(), end: len(f.RowGroups()), buffer: make([]parquet.Row, 64)}
	var names []string
	if n := len(f.Schema().Columns()); n > maxColumns {
		return nil, fmt.Errorf("it has %d columns, and at most %d are read", n, maxColumns)
	}
	for _, path := range f.Schema().Columns() {
		found, ok := f.Schema().Lookup(path...)
		if !ok {
			return nil, fmt.Errorf("%w: it has no column %s", ErrDamaged, strings.Join(path, "."))
		}
		one := leaf{name: strings.Join(path, "."), typ: found.Node.Type(), lists: listLevels(f.Schema(), path)}
		one.name = strings.TrimSuffix(strings.TrimSuffix(one.name, ".list.element"), ".list.item")
		s.leaves = append(s.leaves, one)
		names = append(names, one.name)
	}
	if len(names) == 0 {
		return nil, fmt.Errorf("%w: it has no columns", ErrDamaged)
	}
	usable, notes := table.UsableNames(names, true)
	s.info = table.Info{
		Name: name, Format: "Parquet file", Bytes: size, Typed: true, Records: true, Names: usable, Notes: notes,
		Files: []table.File{{Name: name, FirstLine: 1}},
		Decisions: []table.Decision{{
			What: "row groups", Value: strconv.Itoa(len(s.groups)),
			Why: fmt.Sprintf("of %d rows in all, as the file says", f.NumRows()),
		}},
	}
	return s, nil
}

// maxColumns is how many columns the library can number.
const maxColumns = parquet.MaxColumnIndex

// ErrCodec is a file that is compressed in a way that is not read.
var ErrCodec = errors.New("a column is compressed as LZ4_RAW, which is not read: write the file with Zstandard or Snappy")

// readable returns ErrCodec for a file with columns in LZ4_RAW: the library gives back other bytes than those of the
// page where they are compressed to more than a third.
func readable(f *parquet.File) error {
	for _, g := range f.Metadata().RowGroups {
		for _, c := range g.Columns {
			if c.MetaData.Codec == format.Lz4Raw {
				return ErrCodec
			}
		}
	}
	return nil
}

// checkFooter looks whether the footer, whose length the file says before its last four
// bytes, can be in the file: the library takes memory for as much as is said.
func checkFooter(r io.ReaderAt, size int64) error {
	var end [8]byte
	if size < 12 {
		return fmt.Errorf("%w: it is too short", ErrDamaged)
	}
	if _, err := r.ReadAt(end[:], size-8); err != nil {
		return err
	}
	if string(end[4:]) != Magic {
		return fmt.Errorf("%w: it does not end as such files do, as if it were cut off", ErrDamaged)
	}
	length := int64(binary.LittleEndian.Uint32(end[:4]))
	if length > size-12 {
		return fmt.Errorf("%w: its footer is longer than the file", ErrDamaged)
	}
	n, _, err := walkAt(r, size-8-length, length)
	if err == nil && n < 0 {
		err = fmt.Errorf("%w: its footer is cut off", ErrDamaged)
	}
	return err
}

// listLevels returns the levels of definition of the lists on the path to a column, the outermost first.
func listLevels(s *parquet.Schema, path []string) (lists []int) {
	level := 0
	var node parquet.Node = s
	for _, name := range path {
		fields := node.Fields()
		node = fields[slices.IndexFunc(fields, func(f parquet.Field) bool { return f.Name() == name })]
		if node.Optional() || node.Repeated() {
			level++
		}
		if node.Repeated() {
			lists = append(lists, level)
		}
	}
	return lists
}

// Info implements [table.Source].
func (s *Source) Info() *table.Info { return &s.info }

// Close ends the use of the file.
func (s *Source) Close() error {
	if s.rows == nil {
		return nil
	}
	return s.rows.Close()
}

// Next implements [table.Source].
func (s *Source) Next(b *table.Block) (err error) {
	defer damaged(&err)
	b.Width = len(s.leaves)
	b.Text = b.Buffer()
	start := s.row
	for !b.Full() {
		if len(s.held) == 0 {
			if err := s.read(); err != nil {
				if errors.Is(err, io.EOF) {
					break
				}
				return fmt.Errorf("%w after row %d: %w", ErrDamaged, s.row-1, err)
			}
			continue
		}
		s.add(b, s.held[0])
		s.held = s.held[1:]
		b.EndRow(uint32(s.row - start))
		s.row++
	}
	if b.Rows == 0 {
		return io.EOF
	}
	b.Filled()
	return nil
}

// read reads more rows, of the next group where one has ended.
func (s *Source) read() error {
	if s.rows == nil {
		if s.group == s.end {
			return io.EOF
		}
		if err := checkPages(s.in, s.file, s.group); err != nil {
			return err
		}
		g := s.groups[s.group]
		s.rows, s.left = g.Rows(), g.NumRows()
		s.group++
	}
	n, err := s.rows.ReadRows(s.buffer)
	s.held = s.buffer[:n]
	s.left -= int64(n)
	if errors.Is(err, io.EOF) {
		err = s.rows.Close()
		s.rows = nil
		if s.left != 0 { // then the numbers of all later rows are wrong, or there are rows that are not told
			err = errors.Join(err, fmt.Errorf("group %d of rows has not as many as the footer says", s.group))
		}
	}
	return err
}

// add adds the cells of a row, whose values come column by column.
func (s *Source) add(b *table.Block, row parquet.Row) {
	at := 0
	for i := range s.leaves {
		// A column of the logical type null has values that belong to no column.
		for at < len(row) && row[at].Column() < i {
			at++
		}
		first := at
		for at < len(row) && row[at].Column() == i {
			at++
		}
		s.cell(b, &s.leaves[i], row[first:at])
	}
}

func (s *Source) cell(b *table.Block, l *leaf, values []parquet.Value) {
	switch {
	case len(l.lists) > 0 && len(values) > 0:
		s.list(b, l, values)
	case len(values) == 0 || values[0].IsNull():
		b.AddCell("", value.StoredNull)
	default:
		text, kind := s.text(b, l.typ, values[0])
		if len(text) > table.MaxCell {
			text, kind = text[:table.MaxCell], value.StoredError
		}
		b.AddCell(text, kind)
	}
}

// list adds a list as JSON, with the lists in it.
func (s *Source) list(b *table.Block, l *leaf, values []parquet.Value) {
	items := s.items(b, l, values, 0)
	if items == nil {
		b.AddCell("", value.StoredNull)
		return
	}
	doc, err := json.Marshal(items)
	if err != nil || len(doc) > table.MaxCell {
		b.AddCell(string(doc[:min(len(doc), table.MaxCell)]), value.StoredError)
		return
	}
	b.AddCell(string(doc), value.StoredText)
}

// items returns what a list of a depth holds; nil where there is no list. A value says by its level of repetition in which
// of the lists it begins an item, and by its level of definition how much of the path to it there is (parquet-format,
// "Nested Encoding").
func (s *Source) items(b *table.Block, l *leaf, values []parquet.Value, depth int) []any {
	if len(values) == 1 && values[0].DefinitionLevel() < l.lists[depth] {
		if values[0].DefinitionLevel() < l.lists[depth]-1 {
			return nil
		}
		return []any{}
	}
	items := []any{}
	for len(values) > 0 {
		end := 1
		for end < len(values) && values[end].RepetitionLevel() > depth+1 {
			end++
		}
		if depth+1 == len(l.lists) {
			items = append(items, s.item(b, l, values[0]))
		} else if inner := s.items(b, l, values[:end], depth+1); inner != nil {
			items = append(items, inner)
		} else {
			items = append(items, nil)
		}
		values = values[end:]
	}
	return items
}

// item returns a value of a list for JSON.
func (s *Source) item(b *table.Block, l *leaf, v parquet.Value) any {
	if v.IsNull() {
		return nil
	}
	text, kind := s.text(b, l.typ, v)
	if kind == value.StoredNumber || kind == value.StoredBoolean {
		return json.RawMessage(text)
	}
	return text
}

// text returns a value in text, and how it is stored.
func (s *Source) text(b *table.Block, t parquet.Type, v parquet.Value) (string, value.Stored) {
	if l := t.LogicalType(); l != nil {
		if text, kind, ok := logical(l, t, v); ok {
			return text, kind
		}
	}
	switch v.Kind() {
	case parquet.Boolean:
		return strconv.FormatBool(v.Boolean()), value.StoredBoolean
	case parquet.Int32:
		return strconv.FormatInt(int64(v.Int32()), 10), value.StoredNumber
	case parquet.Int64:
		return strconv.FormatInt(v.Int64(), 10), value.StoredNumber
	case parquet.Int96:
		return ofInt96(v.Int96()), value.StoredDate
	case parquet.Float:
		return float(float64(v.Float()), 32)
	case parquet.Double:
		return float(v.Double(), 64)
	}
	bytes := v.ByteArray()
	if utf8.Valid(bytes) && v.Kind() == parquet.ByteArray {
		return string(bytes), value.StoredText
	}
	b.Learned.Blobs++
	if text, ok := table.BlobText(bytes); ok {
		return text, value.StoredText
	}
	return strings.ToValidUTF8(string(bytes), "\ufffd"), value.StoredError // which is longer than a cell may be, or no text of it
}

// float writes a number by the fewest digits that stand for it and no other.
func float(f float64, bits int) (string, value.Stored) {
	if math.IsNaN(f) || math.IsInf(f, 0) {
		return strconv.FormatFloat(f, 'g', -1, bits), value.StoredError
	}
	return strconv.FormatFloat(f, 'f', -1, bits), value.StoredNumber
}

// half reads a number of two bytes (IEEE 754, binary16), the least significant first.
func half(bytes []byte) float64 {
	if len(bytes) != 2 {
		return math.NaN()
	}
	bits := binary.LittleEndian.Uint16(bytes)
	const exponents = 0x1f
	exponent, fraction := int(bits>>10&exponents), float64(bits&0x3ff)/0x400
	f := math.Ldexp(1+fraction, exponent-15)
	switch {
	case exponent == 0:
		f = math.Ldexp(fraction, -14)
	case exponent == exponents && fraction == 0:
		f = math.Inf(1)
	case exponent == exponents:
		f = math.NaN()
	}
	if bits>>15 != 0 {
		f = -f
	}
	return f
}

// logical reads a value by its logical type (parquet-format, LogicalTypes.md).
func logical(l *format.LogicalType, t parquet.Type, v parquet.Value) (string, value.Stored, bool) {
	switch l := l.Value.(type) {
	case *format.DecimalType:
		return decimal(v, l.Scale), value.StoredNumber, true
	case *format.DateType:
		return time.Unix(int64(v.Int32())*86400, 0).UTC().Format(time.DateOnly), value.StoredDate, true
	case *format.TimeType:
		at := ofUnit(l.Unit, v)
		if at.Unix() < 0 || at.Unix() >= 24*60*60 { // such as 24:00:00, which is no time of that day
			return fmt.Sprintf("%v after midnight", at.Sub(time.Unix(0, 0))), value.StoredError, true
		}
		return at.Format("15:04:05.999999999"), value.StoredDate, true
	case *format.Float16Type:
		text, kind := float(half(v.ByteArray()), 32)
		return text, kind, true
	case *format.TimestampType:
		at := ofUnit(l.Unit, v)
		if l.IsAdjustedToUTC {
			return at.Format("2006-01-02T15:04:05.999999999Z"), value.StoredDate, true
		}
		return at.Format("2006-01-02T15:04:05.999999999"), value.StoredDate, true
	case *format.IntType:
		if l.IsSigned {
			return "", 0, false
		}
		if v.Kind() == parquet.Int32 {
			return strconv.FormatUint(uint64(uint32(v.Int32())), 10), value.StoredNumber, true
		}
		return strconv.FormatUint(uint64(v.Int64()), 10), value.StoredNumber, true
	case *format.UUIDType:
		h := hex.EncodeToString(v.ByteArray())
		if len(h) == 32 {
			return h[:8] + "-" + h[8:12] + "-" + h[12:16] + "-" + h[16:20] + "-" + h[20:], value.StoredText, true
		}
	}
	return "", 0, false
}

// decimal writes the unscaled number of a decimal, which is a whole number or its bytes in
// two's complement, the most significant first.
func decimal(v parquet.Value, scale int32) string {
	n := new(big.Int)
	switch v.Kind() {
	case parquet.Int32:
		n.SetInt64(int64(v.Int32()))
	case parquet.Int64:
		n.SetInt64(v.Int64())
	default:
		bytes := v.ByteArray()
		n.SetBytes(bytes)
		if len(bytes) > 0 && bytes[0]&0x80 != 0 {
			n.Sub(n, new(big.Int).Lsh(big.NewInt(1), uint(8*len(bytes))))
		}
	}
	return value.Number{Big: n, Scale: scale}.String()
}

// ofUnit reads a count of milliseconds, microseconds or nanoseconds.
func ofUnit(u format.TimeUnit, v parquet.Value) time.Time {
	n := int64(0)
	if v.Kind() == parquet.Int32 {
		n = int64(v.Int32())
	} else {
		n = v.Int64()
	}
	switch u.Value.(type) {
	case *format.MilliSeconds:
		return time.UnixMilli(n).UTC()
	case *format.MicroSeconds:
		return time.UnixMicro(n).UTC()
	}
	return time.Unix(0, n).UTC()
}

// ofInt96 reads the old form of timestamps: nanoseconds of the day and a Julian day.
func ofInt96(v deprecated.Int96) string {
	var b [12]byte
	for i, w := range v {
		binary.LittleEndian.PutUint32(b[4*i:], w)
	}
	nanos := int64(binary.LittleEndian.Uint64(b[:8]))
	const epochDay = 2440588 // the Julian day of 1970-01-01
	days := int64(binary.LittleEndian.Uint32(b[8:])) - epochDay
	return time.Unix(days*86400, nanos).UTC().Format("2006-01-02T15:04:05.999999999")
}

// Split implements [table.Source]: the cells are where they are already.
func (s *Source) Split(*table.Block) {}
