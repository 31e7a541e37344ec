package dump

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"junvo/internal/table"
)

// kind is what a token is.
type kind uint8

const (
	word   kind = iota // a name or a key word, as it is written
	quoted             // a name in quotes, without them
	text               // a text in quotes, without them
	number
	bytes // of a text such as x'00ff': its digits
	sign  // one character
	end   // of the file
)

// token is a word, a text, a number or a sign.
type token struct {
	kind kind
	text string
}

// is reports whether a token is a key word or a sign, in letters of any case.
func (t token) is(s string) bool {
	return (t.kind == word || t.kind == sign) && strings.EqualFold(t.text, s)
}

// isName reports whether a token may be a name.
func (t token) isName() bool { return t.kind == word || t.kind == quoted }

// scanner takes SQL apart (ISO/IEC 9075-2, lexical elements), as databases write it into dumps.
type scanner struct {
	in   *bufio.Reader
	line int64
	dialect
	one   []byte
	ahead *token
}

// dialect is what databases write each in their own way.
type dialect struct {
	backslash bool // a backslash in a text stands before a character, and # begins a comment
	brackets  bool // names stand in [ and ]
}

func newScanner(r io.Reader, d dialect) *scanner {
	in := bufio.NewReaderSize(r, 64<<10)
	if bom, _ := in.Peek(3); string(bom) == "\ufeff" {
		_, _ = in.Discard(3) // it has been peeked at
	}
	return &scanner{in: in, line: 1, dialect: d}
}

// maxToken is the longest token in bytes.
const maxToken = table.MaxCell

func (s *scanner) get() (byte, error) {
	b, err := s.in.ReadByte()
	if b == '\n' && err == nil {
		s.line++
	}
	return b, err
}

func (s *scanner) peek() byte {
	b, err := s.in.Peek(1)
	if err != nil {
		return 0
	}
	return b[0]
}

func (s *scanner) wrong(format string, args ...any) error {
	return fmt.Errorf("line %d: %s", s.line, fmt.Sprintf(format, args...))
}

// back gives a token back, to be the next one.
func (s *scanner) back(t token) { s.ahead = &t }

// next returns the next token; comments and white space are passed over.
func (s *scanner) next() (token, error) {
	if t := s.ahead; t != nil {
		s.ahead = nil
		return *t, nil
	}
	for {
		b, err := s.get()
		switch {
		case errors.Is(err, io.EOF):
			return token{kind: end}, nil
		case err != nil:
			return token{}, err
		case b <= ' ':
			continue
		case b == '-' && s.peek() == '-', b == '#' && s.backslash:
			if err := s.skipLine(); err != nil {
				return token{}, err
			}
			continue
		case b == '/' && s.peek() == '*':
			if err := s.skipComment(); err != nil {
				return token{}, err
			}
			continue
		case b == '\'':
			t, err := s.quoted('\'', s.backslash)
			return token{text, t}, err
		case b == '"' || b == '`':
			t, err := s.quoted(b, false)
			return token{quoted, t}, err
		case b == '[' && s.brackets:
			t, err := s.quoted(']', false)
			return token{quoted, t}, err
		case b == '$' && (s.peek() == '$' || letter(s.peek())):
			return s.dollar()
		case digit(b), b == '.' && digit(s.peek()), (b == '-' || b == '+') && (digit(s.peek()) || s.peek() == '.'):
			return s.number(b)
		case letter(b):
			return s.word(b)
		}
		return token{sign, string(b)}, nil
	}
}

func digit(b byte) bool { return b >= '0' && b <= '9' }
func letter(b byte) bool {
	return b|0x20 >= 'a' && b|0x20 <= 'z' || b == '_' || b == '@' || b >= utf8.RuneSelf
}

func (s *scanner) skipLine() error {
	for {
		b, err := s.get()
		if err != nil && !errors.Is(err, io.EOF) {
			return err
		}
		if err != nil || b == '\n' {
			return nil
		}
	}
}

func (s *scanner) skipComment() error {
	begun := s.line
	star := false
	if _, err := s.get(); err != nil {
		return err
	}
	for {
		b, err := s.get()
		if err != nil {
			return fmt.Errorf("line %d: a comment has no end", begun)
		}
		if star && b == '/' {
			return nil
		}
		star = b == '*'
	}
}

// quoted reads up to a quote; a doubled one stands for itself.
func (s *scanner) quoted(quote byte, backslash bool) (string, error) {
	begun := s.line
	s.one = s.one[:0]
	for {
		b, err := s.get()
		if err != nil {
			return "", fmt.Errorf("line %d: a text has no end", begun)
		}
		switch {
		case b == quote && s.peek() == quote && quote != ']':
			_, _ = s.get() // it has been peeked at
		case b == quote:
			return string(s.one), nil
		case b == '\\' && backslash:
			c, err := s.get()
			if err != nil {
				return "", fmt.Errorf("line %d: a text has no end", begun)
			}
			b = unescaped(c)
		}
		if s.one = append(s.one, b); len(s.one) > maxToken {
			return "", s.wrong("a text is longer than %d MB", maxToken>>20)
		}
	}
}

// unescaped returns the character that stands for one after a backslash.
func unescaped(c byte) byte {
	switch c {
	case 'n':
		return '\n'
	case 't':
		return '\t'
	case 'r':
		return '\r'
	case '0':
		return 0
	case 'b':
		return '\b'
	case 'Z':
		return 0x1a
	}
	return c
}

// dollar reads a text between two marks such as $$ or $body$.
func (s *scanner) dollar() (token, error) {
	mark := "$"
	for {
		b, err := s.get()
		if err != nil || b != '$' && !letter(b) && !digit(b) || len(mark) > 64 {
			return token{sign, "$"}, nil
		}
		if mark += string(b); b == '$' {
			break
		}
	}
	begun := s.line
	s.one = s.one[:0]
	for {
		b, err := s.get()
		if err != nil {
			return token{}, fmt.Errorf("line %d: a text has no end", begun)
		}
		if s.one = append(s.one, b); b == '$' && strings.HasSuffix(string(s.one[max(0, len(s.one)-len(mark)):]), mark) {
			return token{text, string(s.one[:len(s.one)-len(mark)])}, nil
		}
		if len(s.one) > maxToken {
			return token{}, s.wrong("a text is longer than %d MB", maxToken>>20)
		}
	}
}

func (s *scanner) number(first byte) (token, error) {
	s.one = append(s.one[:0], first)
	for {
		b := s.peek()
		last := s.one[len(s.one)-1]
		exponent := (b == '-' || b == '+') && last|0x20 == 'e'
		if !digit(b) && b != '.' && b|0x20 != 'e' && b|0x20 != 'x' && !(b|0x20 >= 'a' && b|0x20 <= 'f') && !exponent ||
			len(s.one) > 4096 {
			break
		}
		_, _ = s.get() // it has been peeked at
		s.one = append(s.one, b)
	}
	if hex, ok := strings.CutPrefix(strings.ToLower(string(s.one)), "0x"); ok {
		return token{bytes, hex}, nil
	}
	return token{number, string(s.one)}, nil
}

// word reads a name or key word; a text that has a letter before its quotes is a text of that sort.
func (s *scanner) word(first byte) (token, error) {
	s.one = append(s.one[:0], first)
	for letter(s.peek()) || digit(s.peek()) || s.peek() == '$' {
		b, _ := s.get() // it has been peeked at
		if s.one = append(s.one, b); len(s.one) > 4096 {
			return token{}, s.wrong("a name is longer than 4096 bytes")
		}
	}
	name := string(s.one)
	if s.peek() != '\'' {
		return token{word, name}, nil
	}
	switch strings.ToLower(name) {
	case "e":
		_, _ = s.get()
		t, err := s.quoted('\'', true)
		return token{text, t}, err
	case "x":
		_, _ = s.get()
		t, err := s.quoted('\'', false)
		return token{bytes, t}, err
	case "n":
		_, _ = s.get()
		t, err := s.quoted('\'', s.backslash)
		return token{text, t}, err
	}
	return token{word, name}, nil
}

// rawLine reads the rest of a line.
func (s *scanner) rawLine() ([]byte, error) {
	s.one = s.one[:0]
	for {
		part, err := s.in.ReadSlice('\n')
		if s.one = append(s.one, part...); len(s.one) > maxToken {
			return nil, s.wrong("a line is longer than %d MB", maxToken>>20)
		}
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case err != nil && len(s.one) == 0:
			return nil, err
		}
		s.line++
		for n := len(s.one); n > 0 && (s.one[n-1] == '\n' || s.one[n-1] == '\r'); n-- {
			s.one = s.one[:n-1]
		}
		return s.one, nil
	}
}
