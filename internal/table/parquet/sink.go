package parquet

import (
	"bufio"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math/big"
	"os"
	"reflect"
	"time"

	"github.com/parquet-go/parquet-go"

	"junvo/internal/table"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// Sink writes a Parquet file. The precision and scale of a column of numbers stand in the
// file's schema, and are known only when all rows have come: until then these are kept in a
// temporary file. It implements [table.Sink].
type Sink struct {
	out      table.Output
	fields   []table.Field
	spool    *os.File
	kept     *bufio.Writer
	row      []byte
	measures []measure
	rows     int64
	finished bool
	err      error // of Finish
}

// measure is how large the numbers of a column are.
type measure struct{ whole, fraction int }

// The bounds of decimals: as many digits as programs read (decimal128).
const maxDigits = 38

// groupBytes is about how many bytes of rows make a row group; a test makes it less.
var groupBytes = 10 << 20

// NewSink begins a file for rows of these fields. Rows are kept in a folder until all have come.
func NewSink(out table.Output, folder string, fields []table.Field) (*Sink, error) {
	if len(fields) > maxColumns {
		return nil, fmt.Errorf("a Parquet file has at most %d columns here, not %d", maxColumns, len(fields))
	}
	spool, err := wholefile.Temp(folder, "junvo-rows")
	if err != nil {
		return nil, err
	}
	return &Sink{
		out: out, fields: fields, spool: spool, kept: bufio.NewWriterSize(spool, 1<<20),
		measures: make([]measure, len(fields)),
	}, nil
}

// Holds returns why a Parquet file can't hold a value, "" where it can.
func (*Sink) Holds(t value.Type, text []byte) string {
	switch t {
	case value.Integer:
		if whole, _, _ := value.Digits(text); whole > maxDigits {
			return fmt.Sprintf("Parquet keeps %d digits of a number", maxDigits)
		}
	case value.Decimal:
		// All numbers of a column have as many digits after the point, so that what one may have
		// must not depend on the others.
		if whole, fraction, _ := value.Digits(text); whole > maxDigits-maxFraction || fraction > maxFraction {
			return fmt.Sprintf("Parquet keeps %d digits before the point of a decimal and %d after it", maxDigits-maxFraction,
				maxFraction)
		}
	case value.Text, value.Code:
		if len(text) > maxText {
			return fmt.Sprintf("Parquet takes texts of up to %d MB here", maxText>>20)
		}
	case value.Time, value.Timestamp:
		if m, err := value.ParseMoment(moment(t, text)); err != nil || m.Clock.Nanos%1000 != 0 {
			return "Parquet keeps millionths of a second"
		}
	}
	return ""
}

const (
	maxFraction = 18
	maxText     = 16 << 20
)

// moment is a time of day as a moment of some day; a timestamp is one.
func moment(t value.Type, text []byte) string {
	if t == value.Time {
		return "2000-01-01T" + string(text)
	}
	return string(text)
}

// Encode implements [table.Sink]: there is nothing to do before Write.
func (s *Sink) Encode(dst []byte, _ *table.Rows) []byte { return dst }

// Write implements [table.Sink].
func (s *Sink) Write(_ []byte, rows *table.Rows) error {
	for row := range rows.Count {
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		s.row = s.row[:0]
		for i, f := range s.fields {
			cell := rows.Cells[i].At(row)
			if f.Type.Numeric() && len(cell) > 0 {
				whole, fraction, _ := value.Digits(cell)
				m := &s.measures[i]
				m.whole, m.fraction = max(m.whole, whole), max(m.fraction, fraction)
			}
			s.row = binary.AppendUvarint(s.row, uint64(len(cell)))
			s.row = append(s.row, cell...)
		}
		if _, err := s.kept.Write(s.row); err != nil {
			return err
		}
		s.rows++
	}
	return nil
}

// Finish writes the file.
func (s *Sink) Finish() error {
	if s.finished {
		return s.err
	}
	s.finished = true
	err := s.kept.Flush()
	if err == nil {
		_, err = s.spool.Seek(0, io.SeekStart)
	}
	if err == nil {
		err = s.write()
	}
	s.dropSpool()
	s.err = errors.Join(err, s.out.Finish())
	return s.err
}

func (s *Sink) dropSpool() {
	if s.spool != nil {
		_ = s.spool.Close()
		_ = wholefile.Remove(s.spool.Name())
		s.spool = nil
	}
}

// write reads the rows that were kept and writes them.
func (s *Sink) write() error {
	columns, err := s.columns()
	if err != nil {
		return err
	}
	w := parquet.NewWriter(s.out, parquet.NewSchema("rows", root{columns: columns}), parquet.Compression(&parquet.Zstd),
		parquet.CreatedBy("junvo", "1", ""))
	return s.writeGroups(w, columns)
}

// column is a column of the file.
type column struct {
	parquet.Node
	field table.Field
	scale int  // of a decimal
	size  int  // in bytes, of a decimal that is no whole number of 64 bits; else 0
	utc   bool // a timestamp with an offset
}

// Name implements [parquet.Field].
func (c *column) Name() string { return c.field.Name }

// Value implements [parquet.Field]; rows are written as they are, and never from Go values.
func (c *column) Value(reflect.Value) reflect.Value { return reflect.Value{} }

// root is the columns in their order; the group of the library sorts them by name.
type root struct {
	parquet.Group
	columns []*column
}

// Fields implements [parquet.Node].
func (r root) Fields() []parquet.Field {
	fields := make([]parquet.Field, len(r.columns))
	for i, c := range r.columns {
		fields[i] = c
	}
	return fields
}

// columns chooses the types of the columns.
func (s *Sink) columns() ([]*column, error) {
	columns := make([]*column, len(s.fields))
	for i, f := range s.fields {
		c := &column{field: f}
		var node parquet.Node
		switch f.Type {
		case value.Integer, value.Decimal:
			m := s.measures[i]
			digits := max(1, m.whole+m.fraction)
			if digits > maxDigits {
				return nil, fmt.Errorf("the numbers of column %q have up to %d digits before the point and %d after it, and "+
					"Parquet keeps %d in all; make the column text in the plan", f.Name, m.whole, m.fraction, maxDigits)
			}
			c.scale = m.fraction
			switch {
			case f.Type == value.Integer && digits <= 18:
				node = parquet.Int(64)
			case digits <= 9:
				node = parquet.Decimal(c.scale, digits, parquet.Int32Type)
			case digits <= 18:
				node = parquet.Decimal(c.scale, digits, parquet.Int64Type)
			default:
				c.size = 16
				node = parquet.Decimal(c.scale, digits, parquet.FixedLenByteArrayType(c.size))
			}
		case value.Date:
			node = parquet.Date()
		case value.Time:
			node = parquet.TimeAdjusted(parquet.Microsecond, false)
		case value.Timestamp:
			c.utc = f.Offsets
			node = parquet.TimestampAdjusted(parquet.Microsecond, f.Offsets)
		case value.Boolean:
			node = parquet.Leaf(parquet.BooleanType)
		default:
			node = parquet.String()
		}
		c.Node = parquet.Optional(node)
		columns[i] = c
	}
	return columns, nil
}

// value returns a cell as the file stores it.
func (c *column) value(text []byte, at int) (parquet.Value, error) {
	if len(text) == 0 {
		return parquet.NullValue().Level(0, 0, at), nil
	}
	v, err := c.stored(text)
	if err != nil {
		return v, fmt.Errorf("column %q: %w", c.field.Name, err)
	}
	return v.Level(0, 1, at), nil
}

func (c *column) stored(text []byte) (parquet.Value, error) {
	s := string(text)
	switch c.field.Type {
	case value.Integer, value.Decimal:
		n, err := value.ParseNumber(s)
		if err != nil {
			return parquet.Value{}, err
		}
		if c.size > 0 {
			return parquet.FixedLenByteArrayValue(twosComplement(n.Unscaled(int32(c.scale)), c.size)), nil
		}
		unscaled := n.Unscaled64(int32(c.scale)) // it has no more digits than that keeps
		if c.Type().Kind() == parquet.Int32 {
			return parquet.Int32Value(int32(unscaled)), nil
		}
		return parquet.Int64Value(unscaled), nil
	case value.Date:
		d, err := value.ParseDate(s)
		return parquet.Int32Value(int32(d.Days())), err
	case value.Time:
		m, err := value.ParseMoment(moment(value.Time, text))
		return parquet.Int64Value(m.Clock.Nanos / 1000), err
	case value.Timestamp:
		form := "2006-01-02T15:04:05"
		if c.utc {
			form = time.RFC3339
		}
		t, err := time.Parse(form, s)
		return parquet.Int64Value(t.UnixMicro()), err
	case value.Boolean:
		return parquet.BooleanValue(s == "true"), nil
	}
	return parquet.ByteArrayValue(text), nil
}

// twosComplement writes a number in n bytes, the most significant first.
func twosComplement(n *big.Int, size int) []byte {
	b := make([]byte, size)
	if n.Sign() >= 0 {
		return n.FillBytes(b)
	}
	whole := new(big.Int).Lsh(big.NewInt(1), uint(8*size))
	return whole.Add(whole, n).FillBytes(b)
}

// Commit makes the file appear.
func (s *Sink) Commit() error {
	if err := s.Finish(); err != nil {
		return err
	}
	return s.out.Commit()
}

// Abort leaves nothing behind.
func (s *Sink) Abort() {
	s.finished = true
	s.dropSpool()
	s.out.Abort()
}
