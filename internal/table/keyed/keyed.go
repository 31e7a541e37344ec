// Package keyed reads records that are written as keys and values in lines of text: those of logs, one record a line
// (level=info kg=12.5 note="two words"), and those of one key a line with blank lines or drawn ones between the records
// (Vessel: Seestern). Values are text.
package keyed

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf8"

	"junvo/internal/table"
	"junvo/internal/table/records"
)

// Bounds of a record.
const (
	maxLine = table.MaxCell
	maxKey  = 200 // bytes of a key
)

// lines reads lines, and keeps where they stand.
type lines struct {
	io.Closer
	in   *bufio.Reader
	line int64 // the number of the line that was read last
	rec  records.Record
	long []byte
}

func newLines(f io.ReadCloser) lines {
	in := bufio.NewReaderSize(f, 64<<10)
	if bom, _ := in.Peek(3); string(bom) == "\ufeff" {
		_, _ = in.Discard(3) // it has been peeked at
	}
	return lines{Closer: f, in: in}
}

// next returns the next line without its end. It is valid until the next call.
func (l *lines) next() ([]byte, error) {
	l.long = l.long[:0]
	for {
		part, err := l.in.ReadSlice('\n')
		if err == nil && len(l.long) == 0 {
			l.line++
			return bytes.TrimRight(part, "\r\n"), nil
		}
		if l.long = append(l.long, part...); len(l.long) > maxLine {
			return nil, fmt.Errorf("line %d is longer than %d MB", l.line+1, maxLine>>20)
		}
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case err != nil && (!errors.Is(err, io.EOF) || len(l.long) == 0):
			return nil, err
		}
		l.line++
		return bytes.TrimRight(l.long, "\r\n"), nil
	}
}

// record returns the one record that is used for all.
func (l *lines) record() *records.Record {
	l.rec = records.Record{Names: l.rec.Names[:0], Cells: l.rec.Cells[:0], Line: l.line}
	return &l.rec
}

// other is the key of a line that has none.
const other = "line"

// Log reads records of one line each. It implements [records.Reader].
type Log struct {
	lines
	names map[string]string // each is made once
}

// NewLog returns a reader of a log.
func NewLog(f io.ReadCloser) *Log { return &Log{newLines(f), map[string]string{}} }

// Read implements [records.Reader]. A line that is not made of keys and values is one value, of the key [other].
func (l *Log) Read() (*records.Record, error) {
	for {
		line, err := l.next()
		if err != nil {
			return nil, err
		}
		if len(bytes.TrimSpace(line)) == 0 {
			continue
		}
		rec := l.record()
		if !pairs(line, func(key, v []byte) {
			rec.Add(l.name(key), records.Cell{Text: string(v)})
		}) {
			rec = l.record()
			rec.Add(other, records.Cell{Text: string(line)})
		}
		return rec, nil
	}
}

func (l *Log) name(key []byte) string {
	name, known := l.names[string(key)]
	if !known && len(l.names) < 10_000 {
		name = string(key)
		l.names[name] = name
	}
	if !known {
		name = string(key)
	}
	return name
}

// pairs hands the keys and values of a line to take, and reports whether it is made of them and nothing else. A key
// without a value is a flag that is set.
func pairs(line []byte, take func(key, v []byte)) bool {
	n := 0
	for {
		line = bytes.TrimLeft(line, " \t")
		if len(line) == 0 {
			return n > 0
		}
		end := 0
		for end < len(line) && isKey(line[end], end == 0) {
			end++
		}
		if end == 0 || end > maxKey {
			return false
		}
		key := line[:end]
		if line = line[end:]; len(line) == 0 || line[0] != '=' {
			if len(line) > 0 && line[0] != ' ' && line[0] != '\t' || n == 0 {
				return false
			}
			take(key, []byte("true"))
			n++
			continue
		}
		v, rest, ok := valueOf(line[1:])
		if !ok {
			return false
		}
		take(key, v)
		line = rest
		n++
	}
}

// isKey reports whether a character may stand in a key.
func isKey(b byte, first bool) bool {
	switch {
	case b|0x20 >= 'a' && b|0x20 <= 'z', b == '_', b >= utf8.RuneSelf:
		return true
	case b >= '0' && b <= '9', b == '.', b == '-', b == '/', b == ':', b == '@':
		return !first
	}
	return false
}

// valueOf returns the value that a text begins with, and the rest: all up to a space, or what stands in quotes.
func valueOf(s []byte) (v, rest []byte, ok bool) {
	if len(s) == 0 || s[0] != '"' {
		end := bytes.IndexAny(s, " \t")
		if end < 0 {
			end = len(s)
		}
		return s[:end], s[end:], bytes.IndexByte(s[:end], '"') < 0
	}
	for i := 1; i < len(s); i++ {
		switch s[i] {
		case '\\':
			i++
		case '"':
			rest = s[i+1:]
			return unquoted(s[1:i]), rest, len(rest) == 0 || rest[0] == ' ' || rest[0] == '\t'
		}
	}
	return nil, nil, false
}

// unquoted undoes what a backslash stands before.
func unquoted(s []byte) []byte {
	if bytes.IndexByte(s, '\\') < 0 {
		return s
	}
	var out []byte
	for i := 0; i < len(s); i++ {
		c := s[i]
		if c == '\\' && i+1 < len(s) {
			i++
			switch c = s[i]; c {
			case 'n':
				c = '\n'
			case 't':
				c = '\t'
			case 'r':
				c = '\r'
			case '"', '\\':
			default:
				out = append(out, '\\')
			}
		}
		out = append(out, c)
	}
	return out
}

// Blocks reads records of one key a line, with blank lines or drawn ones between the records. Where the first key of a
// record comes again, another record begins. It implements [records.Reader].
type Blocks struct {
	lines
	more []byte // the last value so far, if it goes on over several lines
	held []byte // the first line of the next record, which has been read
}

// NewBlocks returns a reader of such records.
func NewBlocks(f io.ReadCloser) *Blocks { return &Blocks{lines: newLines(f)} }

// cellSize is about what a cell takes beside its text, so that many short lines are held to the bound of a record, too.
const cellSize = 64

// Read implements [records.Reader]. A line that begins with a space goes on with the value before; one without a key is
// a value of the key [other].
func (b *Blocks) Read() (*records.Record, error) {
	var rec *records.Record
	size := 0
	for {
		line, err := b.held, error(nil)
		if b.held = nil; line == nil {
			line, err = b.next()
		}
		drawn := err == nil && isDrawn(line)
		blank := drawn && !bytes.ContainsFunc(line, speaks)
		switch {
		case rec != nil && (blank || errors.Is(err, io.EOF)):
			b.endValue(rec)
			return rec, nil
		case err != nil:
			return nil, err
		case blank:
			continue
		case rec == nil:
			rec = b.record()
		case drawn, again(rec, line):
			b.held = line
			b.endValue(rec)
			return rec, nil
		}
		if size += len(line) + cellSize; size > maxLine {
			return nil, fmt.Errorf("line %d: a record is longer than %d MB", b.line, maxLine>>20)
		}
		b.add(rec, line)
	}
}

// isDrawn reports whether a line stands between records: it is blank, or drawn with the same two signs at both ends, as
// -- and === 12 === are. What such a line says is a value of the record below it.
func isDrawn(line []byte) bool {
	goesOn := len(line) > 0 && (line[0] == ' ' || line[0] == '\t') // with the value before
	line = bytes.TrimSpace(line)
	n := len(line)
	return n == 0 || !goesOn && n > 1 && line[0] == line[1] && line[n-1] == line[0] && line[n-2] == line[0] &&
		strings.IndexByte("-=%*#~_+", line[0]) >= 0
}

// speaks reports whether a character of a drawn line says something.
func speaks(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// again reports whether a line has the first key of a record.
func again(rec *records.Record, line []byte) bool {
	key, _, ok := keyOf(line)
	return ok && len(rec.Names) > 0 && string(key) == rec.Names[0]
}

// add adds a line to a record.
func (b *Blocks) add(rec *records.Record, line []byte) {
	if last := len(rec.Cells) - 1; last >= 0 && (line[0] == ' ' || line[0] == '\t') {
		if len(b.more) == 0 {
			b.more = append(b.more, rec.Cells[last].Text...)
		}
		if len(b.more) > 0 {
			b.more = append(b.more, '\n')
		}
		b.more = append(b.more, bytes.TrimSpace(line)...)
		return
	}
	b.endValue(rec)
	if key, v, ok := keyOf(line); ok {
		rec.Add(string(key), records.Cell{Text: string(v)})
		return
	}
	rec.Add(other, records.Cell{Text: string(line)})
}

// endValue gives the last value of a record what it went on with.
func (b *Blocks) endValue(rec *records.Record) {
	if len(b.more) > 0 {
		rec.Cells[len(rec.Cells)-1].Text = string(b.more)
		b.more = b.more[:0]
	}
}

// keyOf takes apart a line of a key and a value: up to a colon that is followed by a space, a tab or nothing.
func keyOf(line []byte) (key, v []byte, ok bool) {
	at := bytes.IndexByte(line, ':')
	if at <= 0 || at > maxKey || at+1 < len(line) && line[at+1] != ' ' && line[at+1] != '\t' {
		return nil, nil, false
	}
	key = bytes.TrimSpace(line[:at])
	if len(key) == 0 || line[0] == ' ' || line[0] == '\t' || bytes.ContainsAny(key, ",;\"\t|") {
		return nil, nil, false
	}
	return key, bytes.TrimLeft(line[at+1:], " \t"), true
}

// sampled is how many lines or records of the start of a file are looked at.
const sampled = 100

// head returns the whole lines at the start of a file.
func head(text []byte) []string {
	all := strings.Split(strings.TrimPrefix(string(text), "\ufeff"), "\n")
	if len(all) > 1 && len(text) > 8<<10 {
		all = all[:len(all)-1] // the last one may be cut off
	}
	return all
}

// LooksLog reports whether the start of a file is a log: three lines at least are made of two keys and values or more,
// and so are three quarters of all.
func LooksLog(text []byte) bool {
	n, others := 0, 0
	for _, line := range head(text) {
		if strings.TrimSpace(line) == "" {
			continue
		}
		found, flags := 0, 0
		ok := pairs([]byte(strings.TrimRight(line, "\r")), func(_, v []byte) {
			if found++; string(v) == "true" {
				flags++
			}
		})
		if !ok || found < 2 || 2*flags > found {
			others++
			continue
		}
		if n++; n == sampled {
			break
		}
	}
	return n >= 3 && 3*others <= n
}

// LooksBlocks reports whether the start of a file is records of one key a line: two at least, which begin with the same
// key, and every line has a key, or goes on with the one before.
func LooksBlocks(text []byte) bool {
	blocks, most, inBlock := 0, 0, 0
	first := ""
	for _, line := range head(text) {
		line = strings.TrimRight(line, "\r")
		if isDrawn([]byte(line)) {
			inBlock = 0
			continue
		}
		key, _, ok := keyOf([]byte(line))
		if inBlock > 0 && (line[0] == ' ' || line[0] == '\t') {
			continue
		}
		if !ok {
			return false
		}
		if inBlock++; inBlock == 1 {
			if blocks++; blocks == 1 {
				first = string(key)
			}
			if string(key) != first {
				return false
			}
		}
		if most = max(most, inBlock); blocks == sampled {
			break
		}
	}
	return blocks >= 2 && most >= 2
}
