package workbook

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"unicode/utf8"
)

// The part of a sheet is nearly all of a workbook, and nearly all of it is plain: short tags with attributes that are letters and digits,
// and texts without a character that stands for another. Such tokens are taken where they stand, without a copy; every other one
// is handed to the library (encoding/xml) by itself, so that it means what it means there.

// sort is what a token is.
type sort uint8

const (
	other     sort = iota // a comment and the like
	startTag              // <c r="A1">
	endTag                // </c>
	plainText             // between tags
)

// scan reads the tokens of a part.
type scan struct {
	in      io.Reader
	buf     []byte
	at, end int  // of what has not been taken, in the buffer
	eof     bool // nothing follows what is in the buffer

	name    []byte            // of the tag, without its prefix
	attrs   []byte            // what stands in the tag after its name, where it is plain
	element *xml.StartElement // the tag, where it is not
	text    []byte
	closing bool // the tag that was read last ends itself, which is the next token
}

const scanSize = 64 << 10

func newScan(in io.Reader) *scan { return &scan{in: in, buf: make([]byte, scanSize)} }

// more reads more into the buffer, and reports false where there is no more.
func (s *scan) more() (bool, error) {
	if s.eof {
		return false, nil
	}
	if s.at > 0 {
		copy(s.buf, s.buf[s.at:s.end])
		s.end -= s.at
		s.at = 0
	}
	if s.end == len(s.buf) {
		if len(s.buf) > maxToken {
			return false, ErrTooLarge
		}
		s.buf = append(s.buf, make([]byte, len(s.buf))...)
	}
	n, err := s.in.Read(s.buf[s.end:])
	s.end += n
	switch {
	case errors.Is(err, io.EOF):
		s.eof = true
	case err != nil:
		return false, err
	}
	return n > 0 || !s.eof, nil
}

// find returns how many bytes there are up to the end of what is looked for, from the next one on; -1 where it does not come.
func (s *scan) find(what string, from int) (int, error) {
	for {
		if i := bytes.Index(s.buf[s.at+min(from, s.end-s.at):s.end], []byte(what)); i >= 0 {
			return min(from, s.end-s.at) + i + len(what), nil
		}
		from = max(from, s.end-s.at-len(what)+1)
		if ok, err := s.more(); !ok || err != nil {
			return -1, err
		}
	}
}

// findByte is find for one byte.
func (s *scan) findByte(what byte, from int) (int, error) {
	for {
		from = min(from, s.end-s.at)
		if i := bytes.IndexByte(s.buf[s.at+from:s.end], what); i >= 0 {
			return from + i + 1, nil
		}
		from = s.end - s.at
		if ok, err := s.more(); !ok || err != nil {
			return -1, err
		}
	}
}

// next reads a token, and returns io.EOF after the last.
func (s *scan) next() (sort, error) {
	if s.closing {
		s.closing = false
		return endTag, nil
	}
	for s.at == s.end {
		if ok, err := s.more(); !ok || err != nil {
			if err == nil {
				err = io.EOF
			}
			return other, err
		}
	}
	if s.buf[s.at] != '<' {
		return s.between()
	}
	for s.end-s.at < 2 && !s.eof {
		if _, err := s.more(); err != nil {
			return other, err
		}
	}
	if s.end-s.at > 1 {
		switch s.buf[s.at+1] {
		case '!':
			return s.special()
		case '?':
			n, err := s.find("?>", 2)
			return s.library(n, err)
		}
	}
	return s.tag()
}

// between reads the text up to the next tag.
func (s *scan) between() (sort, error) {
	n, err := s.findByte('<', 0)
	if err != nil {
		return other, err
	}
	length := n - 1
	if n < 0 {
		length = s.end - s.at
	}
	text := s.buf[s.at : s.at+length]
	if isPlain(text) {
		s.at += length
		s.text = text
		return plainText, nil
	}
	return s.library(n, nil) // with the tag's first byte, at which the text ends, however it does
}

// special are the bytes of a text that make it more than it seems, by which it is not plain.
var special = func() (t [256]bool) {
	for b := range byte(' ') {
		t[b] = b != '\t' && b != '\n'
	}
	t['&'], t[']'], t[0x7f] = true, true, false
	for b := 0x80; b < 0x100; b++ {
		t[b] = true
	}
	return t
}()

// isPlain reports whether a text stands for itself.
func isPlain(text []byte) bool {
	wide := false
	for _, b := range text {
		if special[b] {
			if b < utf8.RuneSelf {
				return false
			}
			wide = true
		}
	}
	return !wide || utf8.Valid(text) && !bytes.Contains(text, []byte("\uffff")) && !bytes.Contains(text, []byte("\ufffe"))
}

// errDocumentType is a part that defines what its tags are, which a workbook does not (ECMA-376-2, 8.1.4).
var errDocumentType = errors.New("it has a document type, which a workbook may not have")

// special reads a comment, or a text in a section of its own.
func (s *scan) special() (sort, error) {
	for _, form := range []struct{ begin, end string }{{"<!--", "-->"}, {"<![CDATA[", "]]>"}} {
		for s.end-s.at < len(form.begin) && !s.eof && bytes.HasPrefix([]byte(form.begin), s.buf[s.at:s.end]) {
			if _, err := s.more(); err != nil {
				return other, err
			}
		}
		if bytes.HasPrefix(s.buf[s.at:s.end], []byte(form.begin)) {
			n, err := s.find(form.end, len(form.begin))
			return s.library(n, err)
		}
	}
	return other, errDocumentType
}

// library hands the next bytes, which are a token, to the library; all that there are for -1.
func (s *scan) library(n int, err error) (sort, error) {
	if err != nil {
		return other, err
	}
	if n < 0 {
		n = s.end - s.at
	}
	d := xml.NewDecoder(bytes.NewReader(s.buf[s.at : s.at+n]))
	d.CharsetReader = decodedAlready
	d.Strict = false
	t, err := d.RawToken()
	if err != nil {
		if errors.Is(err, io.EOF) {
			err = io.ErrUnexpectedEOF
		}
		return other, err
	}
	length := d.InputOffset()
	s.at += int(length)
	switch t := t.(type) {
	case xml.StartElement:
		c := t.Copy()
		s.element, s.name, s.attrs = &c, []byte(c.Name.Local), nil
		s.closing = length >= 2 && s.buf[s.at-2] == '/'
		return startTag, nil
	case xml.EndElement:
		s.name = []byte(t.Name.Local)
		return endTag, nil
	case xml.CharData:
		s.text = bytes.Clone(t)
		return plainText, nil
	}
	return other, nil
}

// nameByte are the bytes of plain names.
var nameByte = func() (t [256]bool) {
	for b := range t {
		c := byte(b)
		t[b] = c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '_' || c == '.' || c == '-'
	}
	return t
}()

// tag reads a tag.
func (s *scan) tag() (sort, error) {
	n, err := s.findByte('>', 1)
	if err != nil {
		return other, err
	}
	if n < 0 {
		return s.library(-1, nil)
	}
	t := s.buf[s.at : s.at+n]
	what, body := startTag, t[1:n-1]
	switch {
	case len(body) > 0 && body[0] == '/':
		what, body = endTag, body[1:]
	case len(body) > 0 && body[len(body)-1] == '/':
		s.closing, body = true, body[:len(body)-1]
	}
	name, rest := plainName(body)
	if name == nil || what == endTag && len(rest) > 0 || what == startTag && !plainAttributes(rest) {
		s.closing = false
		return s.wholeTag()
	}
	s.at += n
	s.name, s.attrs, s.element = name, rest, nil
	return what, nil
}

// wholeTag hands a tag to the library, up to a > that stands in no quotes.
func (s *scan) wholeTag() (sort, error) {
	quote := byte(0)
	for n := 1; ; n++ {
		for s.at+n >= s.end {
			if ok, err := s.more(); !ok || err != nil {
				return s.library(-1, err)
			}
		}
		switch b := s.buf[s.at+n]; {
		case quote != 0 && b == quote:
			quote = 0
		case quote == 0 && (b == '"' || b == '\''):
			quote = b
		case quote == 0 && b == '>':
			return s.library(n+1, nil)
		}
	}
}

// plainName returns the name that a tag begins with, without its prefix, and what follows; nil for one that is not plain.
func plainName(s []byte) (name, rest []byte) {
	start, n := 0, 0
	for n < len(s) && (nameByte[s[n]] || s[n] == ':') {
		if s[n] == ':' {
			if start > 0 || n == 0 {
				return nil, nil
			}
			start = n + 1
		}
		n++
	}
	if n == start || s[0] < 'A' || s[start] < 'A' {
		return nil, nil
	}
	return s[start:n], s[n:]
}

// plainAttributes reports whether all that is left of a tag is attributes whose values stand for themselves.
func plainAttributes(s []byte) bool {
	for {
		spaces := 0
		for spaces < len(s) && (s[spaces] == ' ' || s[spaces] == '\n' || s[spaces] == '\t') {
			spaces++
		}
		if s = s[spaces:]; len(s) == 0 {
			return true
		}
		name, rest := plainName(s)
		if spaces == 0 || name == nil || len(rest) < 3 || rest[0] != '=' || rest[1] != '"' && rest[1] != '\'' {
			return false
		}
		end := bytes.IndexByte(rest[2:], rest[1])
		if end < 0 || !isPlain(rest[2:2+end]) || bytes.IndexByte(rest[2:2+end], '<') >= 0 {
			return false
		}
		s = rest[2+end+1:]
	}
}

// attr returns the value of an attribute of the tag that was read last, nil where it has none. It is valid until the next token.
func (s *scan) attr(want string) []byte {
	if s.element != nil {
		for _, a := range s.element.Attr {
			if a.Name.Local == want {
				return []byte(a.Value)
			}
		}
		return nil
	}
	for rest := s.attrs; ; {
		for len(rest) > 0 && rest[0] <= ' ' {
			rest = rest[1:]
		}
		if len(rest) == 0 {
			return nil
		}
		name, after := plainName(rest)
		end := bytes.IndexByte(after[2:], after[1])
		if string(name) == want {
			return after[2 : 2+end]
		}
		rest = after[2+end+1:]
	}
}

// start returns the next start tag by its name, nil at the end of the part.
func (s *scan) start() ([]byte, error) {
	for {
		switch t, err := s.next(); {
		case errors.Is(err, io.EOF):
			return nil, nil
		case err != nil:
			return nil, err
		case t == startTag:
			return s.name, nil
		}
	}
}
