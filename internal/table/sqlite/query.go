package sqlite

import (
	"errors"
	"strings"
)

// maxHeap is how many bytes of memory a query may take: more is an error and not the end of the
// machine.
const maxHeap = 512 << 20

// ErrQuery is a query that does more than ask.
var ErrQuery = errors.New("a query is one statement that begins with SELECT, WITH or VALUES, and changes nothing")

// oneQuery returns an error unless a text is one statement that asks: what stands in brackets around
// it can't be left, and nothing follows it. The database is opened so that nothing can be written,
// attached or loaded in any case.
func oneQuery(query string) error {
	if query == "" {
		return nil
	}
	rest, depth, first, ended := query, 0, "", false
	for rest != "" {
		token, size := sqlToken(rest)
		rest = rest[size:]
		switch {
		case size == 0:
			return errors.New("a text or a comment of the query has no end")
		case token == "":
			continue // spaces, a comment
		case ended:
			return ErrQuery
		case token == ";":
			ended = true
		case token == "(":
			depth++
		case token == ")":
			if depth--; depth < 0 {
				return ErrQuery
			}
		}
		if first == "" {
			first = strings.ToUpper(token)
		}
	}
	if depth != 0 || first != "SELECT" && first != "WITH" && first != "VALUES" {
		return ErrQuery
	}
	return nil
}

// sqlToken returns the next token of a text and its size; the token is "" for spaces and comments.
// The size is 0 where a text or a comment has no end.
func sqlToken(s string) (token string, size int) {
	until := func(end string, from int) int {
		i := strings.Index(s[from:], end)
		if i < 0 {
			return 0
		}
		return from + i + len(end)
	}
	switch c := s[0]; {
	case strings.HasPrefix(s, "--"):
		if n := until("\n", 2); n > 0 {
			return "", n
		}
		return "", len(s)
	case strings.HasPrefix(s, "/*"):
		return "", until("*/", 2)
	case c <= ' ':
		return "", 1
	case c == '\'' || c == '"' || c == '`': // a doubled quote is two texts in a row
		return "text", until(string(c), 1)
	case c == '[':
		return "text", until("]", 1)
	case c == '_' || c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z' || c >= 0x80:
		n := 1
		for n < len(s) && (s[n] == '_' || s[n] >= '0' && s[n] <= '9' || s[n]|0x20 >= 'a' && s[n]|0x20 <= 'z' ||
			s[n] >= 0x80) {
			n++
		}
		return s[:n], n
	}
	return s[:1], 1
}
