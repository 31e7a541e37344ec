// Package copytext has the text format in which the statement COPY of PostgreSQL sends and takes rows, and which its
// dumps have: a line a row, tabs between values, \N for none, and a backslash before what would be taken for something
// else ("File Formats" of COPY).
package copytext

import "bytes"

// Null is how it is written that there is no value.
const Null = `\N`

// Cut returns the first value of a line as it is written, the rest, and whether there is one.
func Cut(line []byte) (cell, rest []byte, more bool) { return bytes.Cut(line, []byte{'\t'}) }

// Unescape appends a text of COPY: a backslash and what follows stand for one character.
func Unescape(dst, cell []byte) []byte {
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

// AppendEscaped appends a text as COPY writes it.
func AppendEscaped(dst, cell []byte) []byte {
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
