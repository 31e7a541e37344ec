package order

import (
	"bytes"
	"encoding/binary"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"

	"junvo/internal/value"
)

// Key is what rows are ordered by: values of a type, upwards or downwards.
type Key struct {
	Column     int // in the output; -1 for the first of the helpers, -2 for the second
	Type       value.Type
	Descending bool
}

// Keys makes keys whose bytes are in the order of the values. It serves one goroutine.
type Keys struct {
	keys     []Key
	collator *collate.Collator
	buffer   collate.Buffer
}

// NewKeys returns what makes keys of the values of these columns, the first one first.
func NewKeys(keys []Key) *Keys {
	return &Keys{keys: keys, collator: collate.New(language.Und)}
}

// What stands first in the part of a key: values come before texts that are none, as a
// failed cell may have been kept, and blanks come last in either direction.
const (
	isValue = iota + 1
	isNone
	isBlank
)

// Append appends the key of a row, whose cells are given in canonical text.
func (k *Keys) Append(dst []byte, cell func(column int) []byte) []byte {
	for _, key := range k.keys {
		dst = k.part(dst, key, cell(key.Column))
	}
	return dst
}

func (k *Keys) part(dst []byte, key Key, text []byte) []byte {
	if len(text) == 0 {
		return append(dst, isBlank)
	}
	start := len(dst)
	dst = append(dst, isValue)
	ok := true
	switch key.Type {
	case value.Integer, value.Decimal:
		dst, ok = appendNumber(dst, text)
	case value.Timestamp:
		dst, ok = appendMoment(dst, text)
	case value.Text:
		// By the root collation of CLDR (UTS #10); texts that it calls equal, by code point.
		dst = appendText(dst, k.collator.Key(&k.buffer, text))
		dst = appendText(dst, text)
		k.buffer.Reset()
	default: // the canonical text is in the order of the values
		dst = appendText(dst, text)
	}
	if !ok {
		dst = append(dst[:start], isNone)
		dst = appendText(dst, text)
	}
	if key.Descending {
		for i := start + 1; i < len(dst); i++ {
			dst[i] = ^dst[i]
		}
	}
	return dst
}

// appendText appends a text so that a shorter one comes before one that continues it,
// whatever follows: a zero byte is written as two bytes, and the end as two zeros.
func appendText(dst, text []byte) []byte {
	for _, c := range text {
		if dst = append(dst, c); c == 0 {
			dst = append(dst, 0xff)
		}
	}
	return append(dst, 0, 0)
}

// appendNumber appends a number: its sign, the place of its first digit and its digits,
// all turned round where it is negative.
func appendNumber(dst, text []byte) ([]byte, bool) {
	digits, negative := bytes.CutPrefix(text, []byte("-"))
	whole, fraction, _ := bytes.Cut(digits, []byte("."))
	if len(whole) == 0 || !allDigits(whole) || !allDigits(fraction) {
		return dst, false
	}
	place := len(whole)
	digits = append(append(make([]byte, 0, len(digits)), whole...), fraction...)
	for len(digits) > 0 && digits[0] == '0' {
		digits = digits[1:]
		place--
	}
	digits = bytes.TrimRight(digits, "0")
	if len(digits) == 0 {
		return append(dst, 0x80), true
	}
	dst = append(dst, 0x81)
	start := len(dst)
	dst = binary.BigEndian.AppendUint32(dst, uint32(place)+1<<31)
	dst = append(append(dst, digits...), 0)
	if negative {
		dst[start-1] = 0x7f
		for i := start; i < len(dst); i++ {
			dst[i] = ^dst[i]
		}
	}
	return dst, true
}

func allDigits(text []byte) bool {
	for _, c := range text {
		if c < '0' || c > '9' {
			return false
		}
	}
	return true
}

// appendMoment appends a moment.
func appendMoment(dst, text []byte) ([]byte, bool) {
	m, err := value.ParseMoment(string(text))
	if err != nil {
		return dst, false
	}
	dst = binary.BigEndian.AppendUint64(dst, uint64(m.Minutes())+1<<63)
	return binary.BigEndian.AppendUint64(dst, uint64(m.Clock.Nanos%60e9)), true
}
