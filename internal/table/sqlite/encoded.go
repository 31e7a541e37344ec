package sqlite

import (
	"encoding/binary"
	"math"
	"strconv"

	"junvo/internal/table"
	"junvo/internal/value"
)

// The workers turn text into values of the database, many at a time, so that only the library's own work is left for
// the one that writes: each value is encoded as its kind and what it is.
const (
	nullValue byte = iota
	integerValue
	realValue
	textValue
)

// Encode implements [table.Sink].
func (*Sink) Encode(dst []byte, rows *table.Rows) []byte {
	for row := range rows.Count {
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		for i, f := range rows.Fields {
			dst = appendValue(dst, f.Type, rows.Cells[i].At(row))
		}
	}
	return dst
}

// appendValue appends a value as the database stores it. Text that is no value of the type, as a failed cell may be that
// keeps its text, stays text.
func appendValue(dst []byte, t value.Type, text []byte) []byte {
	if len(text) == 0 {
		return append(dst, nullValue)
	}
	switch t {
	case value.Integer:
		if n, err := strconv.ParseInt(string(text), 10, 64); err == nil {
			return binary.LittleEndian.AppendUint64(append(dst, integerValue), uint64(n))
		}
	case value.Decimal:
		if value.IsNumber(text) {
			if f, err := strconv.ParseFloat(string(text), 64); err == nil {
				return binary.LittleEndian.AppendUint64(append(dst, realValue), math.Float64bits(f))
			}
		}
	case value.Boolean:
		switch string(text) {
		case "true":
			return binary.LittleEndian.AppendUint64(append(dst, integerValue), 1)
		case "false":
			return binary.LittleEndian.AppendUint64(append(dst, integerValue), 0)
		}
	}
	dst = binary.LittleEndian.AppendUint32(append(dst, textValue), uint32(len(text)))
	return append(dst, text...)
}

// take returns the value at the start of what was encoded, and the rest. text is the same bytes.
func take(encoded []byte, text string) (v any, rest []byte, restText string) {
	n := 1
	switch encoded[0] {
	case integerValue:
		v, n = int64(binary.LittleEndian.Uint64(encoded[1:])), 9
	case realValue:
		v, n = math.Float64frombits(binary.LittleEndian.Uint64(encoded[1:])), 9
	case textValue:
		n = 5 + int(binary.LittleEndian.Uint32(encoded[1:]))
		v = text[5:n]
	}
	return v, encoded[n:], text[n:]
}
