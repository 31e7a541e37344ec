package postgres

import (
	"bytes"
	"encoding/hex"
	"strconv"

	"junvo/internal/table"
	"junvo/internal/table/copytext"
	"junvo/internal/value"
)

// kind is how the values of a type of the server are read.
type kind uint8

const (
	asText kind = iota
	asNumber
	asFloat
	asBoolean
	asDay
	asClock
	asStamp
	asBytes
)

// kinds are the types that are not text, by their numbers (pg_type.dat). Domains come as what they are made of;
// whatever is not here is text: names, identifiers (uuid), JSON, lists, periods, money in the writing of the server.
var kinds = map[uint32]kind{
	16: asBoolean, 17: asBytes, 20: asNumber, 21: asNumber, 23: asNumber, 26: asNumber, 700: asFloat, 701: asFloat,
	1700: asNumber, 1082: asDay, 1083: asClock, 1114: asStamp, 1184: asStamp,
}

// append appends a value as it is written here to the text of the block, and says how it is stored.
func (k kind) append(b *table.Block, cell []byte) ([]byte, value.Stored) {
	dst := b.Text
	switch {
	case k == asBoolean && string(cell) == "t":
		return append(dst, "true"...), value.StoredBoolean
	case k == asBoolean && string(cell) == "f":
		return append(dst, "false"...), value.StoredBoolean
	case k == asBytes:
		b.Learned.Blobs++
		raw, _ := hex.DecodeString(string(bytes.TrimPrefix(cell, []byte(`\\x`))))
		if text, ok := table.BlobText(raw); ok {
			return append(dst, text...), value.StoredText
		}
		return append(dst, cell...), value.StoredError
	case (k == asNumber || k == asFloat) && !numeric(cell):
		return append(dst, cell...), value.StoredError // NaN, Infinity
	case k == asFloat && bytes.IndexByte(cell, 'e') >= 0:
		f, _ := strconv.ParseFloat(string(cell), 64) // the server writes the fewest digits that stand for it
		return strconv.AppendFloat(dst, f, 'f', -1, 64), value.StoredNumber
	case k == asNumber, k == asFloat:
		return append(dst, cell...), value.StoredNumber
	case k == asDay && isDay(cell), k == asClock:
		return append(dst, cell...), value.StoredDate
	case k == asStamp && isStamp(cell):
		return appendStamp(dst, cell), value.StoredDate
	}
	return copytext.Unescape(dst, cell), value.StoredText // also days before our era, and infinity
}

// numeric reports whether a value is a number, and not NaN or infinity.
func numeric(cell []byte) bool {
	return len(cell) > 0 && cell[len(cell)-1] >= '0' && cell[len(cell)-1] <= '9'
}

// isDay reports whether a value is a day of the years 0001 to 9999.
func isDay(cell []byte) bool {
	return len(cell) == 10 && cell[4] == '-' && cell[7] == '-'
}

// isStamp reports whether a value is a day of those years and a time.
func isStamp(cell []byte) bool {
	return len(cell) >= len("2021-03-04 06:05:00") && isDay(cell[:10]) && cell[10] == ' ' &&
		bytes.IndexByte(cell[11:], ' ') < 0
}

// appendStamp appends a timestamp as ISO 8601 has it: 2021-03-04 06:05:00+00 is 2021-03-04T06:05:00Z.
func appendStamp(dst, cell []byte) []byte {
	dst = append(append(dst, cell[:10]...), 'T')
	if rest, utc := bytes.CutSuffix(cell[11:], []byte("+00")); utc {
		return append(append(dst, rest...), 'Z')
	}
	return append(dst, cell[11:]...)
}
