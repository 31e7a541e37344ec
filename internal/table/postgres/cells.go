package postgres

import (
	"bytes"
	"encoding/hex"
	"strconv"

	"junvo/internal/table"
	"junvo/internal/value"
)

// null is how COPY writes that there is no value.
const null = `\N`

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

// kinds are the types that are not text, by their numbers (pg_type.dat). Domains come as what they are made of; whatever
// is not here is text: names, identifiers (uuid), JSON, lists, periods, money in the writing of the server.
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
		return append(dst, table.BlobText(raw)...), value.StoredText
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
	return unescape(dst, cell), value.StoredText // also days before our era, and infinity
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
	return len(cell) >= len("2021-03-04 06:05:00") && isDay(cell[:10]) && cell[10] == ' ' && bytes.IndexByte(cell[11:], ' ') < 0
}

// appendStamp appends a timestamp as ISO 8601 has it: 2021-03-04 06:05:00+00 is 2021-03-04T06:05:00Z.
func appendStamp(dst, cell []byte) []byte {
	dst = append(append(dst, cell[:10]...), 'T')
	if rest, utc := bytes.CutSuffix(cell[11:], []byte("+00")); utc {
		return append(append(dst, rest...), 'Z')
	}
	return append(dst, cell[11:]...)
}

// unescape appends a text of COPY: a backslash and what follows stand for one character.
func unescape(dst, cell []byte) []byte {
	for {
		at := bytes.IndexByte(cell, '\\')
		if at < 0 || at+1 == len(cell) {
			return append(dst, cell...)
		}
		dst = append(dst, cell[:at]...)
		c, size := escaped(cell[at+1:])
		dst = append(dst, c)
		cell = cell[at+1+size:]
	}
}

// escaped returns the character that stands for what follows a backslash, and of how many bytes that is.
func escaped(s []byte) (c byte, size int) {
	switch s[0] {
	case 'b':
		return '\b', 1
	case 'f':
		return '\f', 1
	case 'n':
		return '\n', 1
	case 'r':
		return '\r', 1
	case 't':
		return '\t', 1
	case 'v':
		return '\v', 1
	case 'x':
		n := 0
		for size = 1; size < len(s) && size < 3 && hexDigit(s[size]) >= 0; size++ {
			n = n<<4 | hexDigit(s[size])
		}
		if size > 1 {
			return byte(n), size
		}
	case '0', '1', '2', '3', '4', '5', '6', '7':
		n := 0
		for size < len(s) && size < 3 && s[size] >= '0' && s[size] <= '7' {
			n = n<<3 | int(s[size]-'0')
			size++
		}
		return byte(n), size
	}
	return s[0], 1
}

func hexDigit(c byte) int {
	switch {
	case c >= '0' && c <= '9':
		return int(c - '0')
	case c|0x20 >= 'a' && c|0x20 <= 'f':
		return int(c|0x20-'a') + 10
	}
	return -1
}

// appendEscaped appends a text as COPY writes it.
func appendEscaped(dst, cell []byte) []byte {
	for {
		at := bytes.IndexAny(cell, "\\\t\n\r")
		if at < 0 {
			return append(dst, cell...)
		}
		dst = append(dst, cell[:at]...)
		switch cell[at] {
		case '\\':
			dst = append(dst, `\\`...)
		case '\t':
			dst = append(dst, `\t`...)
		case '\n':
			dst = append(dst, `\n`...)
		default:
			dst = append(dst, `\r`...)
		}
		cell = cell[at+1:]
	}
}
