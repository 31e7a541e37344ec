package expression

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
)

// The language knows names of letters of ASCII only, and keeps some words for itself. The columns of a table have other
// names, too. So an expression calls a column by its name where that is of letters, digits and underscores of any
// script, and by its name in backquotes otherwise; each such name gives way to one that the language knows before it
// reads the expression, and what it says of places is brought back to those of the expression as it was written.

// reserved are the words that the language keeps for itself and does not use.
var reserved = map[string]bool{
	"as": true, "break": true, "const": true, "continue": true, "else": true, "for": true, "function": true, "if": true,
	"import": true, "let": true, "loop": true, "namespace": true, "package": true, "return": true, "var": true,
	"void": true, "while": true,
}

// used are the words that the language uses.
var used = map[string]bool{"in": true, "true": true, "false": true, "null": true}

// source is an expression as the language reads it.
type source struct {
	text  string
	names map[string]string // the names that stand in for others, with those
	moved []moved
}

// moved is a place after which the text of a line stands further right than it was written.
type moved struct{ line, column, by int }

// place returns where something stood in the expression as it was written.
func (s *source) place(line, column int) (int, int) {
	by := 0
	for _, m := range s.moved {
		if m.line == line && m.column < column {
			by += m.by
		}
	}
	return line, max(1, column-by)
}

// name returns the name of a column that a name of the language stands for.
func (s *source) name(word string) string {
	if name, ok := s.names[word]; ok {
		return name
	}
	return word
}

// said puts the names of columns into a sentence of the language.
func (s *source) said(sentence string) string {
	for word, name := range s.names {
		sentence = strings.ReplaceAll(sentence, word, name)
	}
	return sentence
}

// scanner goes through an expression.
type scanner struct {
	from         []rune
	at           int
	line, column int // from 1, in what has been written so far
	lost         int // how many runes further right that is than in the expression, in this line
	out          strings.Builder
	made         *source
	byName       map[string]string
}

// scan reads the names of an expression. The error is an *Error.
func scan(text string) (*source, error) {
	s := &scanner{
		from: []rune(text), line: 1, column: 1, made: &source{names: map[string]string{}},
		byName: map[string]string{},
	}
	for s.at < len(s.from) {
		if err := s.next(); err != nil {
			return nil, err
		}
	}
	s.made.text = s.out.String()
	return s.made, nil
}

func (s *scanner) peek(by int) rune {
	if s.at+by < len(s.from) {
		return s.from[s.at+by]
	}
	return 0
}

// copy writes the next runes as they are.
func (s *scanner) copy(n int) {
	for range n {
		r := s.from[s.at]
		s.at++
		s.out.WriteRune(r)
		s.column++
		if r == '\n' {
			s.line, s.column, s.lost = s.line+1, 1, 0
		}
	}
}

// longWhole is how many digits a whole number has that may be too large for the language, which reads it with a
// fraction.
const longWhole = 19

// insert writes what does not stand in the expression.
func (s *scanner) insert(text string) {
	s.out.WriteString(text)
	s.column += len(text)
	s.lost += len(text)
	s.made.moved = append(s.made.moved, moved{s.line, s.column, len(text)})
}

func (s *scanner) wrong(say string, args ...any) error {
	return &Error{s.line, s.column - s.lost, fmt.Sprintf(say, args...)}
}

// next goes over the next word, text or sign.
func (s *scanner) next() error {
	r := s.peek(0)
	switch {
	case r == '"' || r == '\'':
		s.quoted(r)
	case r == '`':
		return s.backquoted()
	case wordStart(r):
		return s.word()
	case r >= '0' && r <= '9':
		n, plain := 1, s.at == 0 || s.from[s.at-1] != '.'
		for inWord(s.peek(n)) {
			plain = plain && s.peek(n) <= '9'
			n++
		}
		s.copy(n)
		if plain && n >= longWhole && s.peek(0) != '.' {
			s.insert(".0")
		}
	case r == '/' && s.peek(1) == '/':
		return s.wrong("// would cut the rest of the expression off: one / divides, and round(x / y, 0) gives a whole number")
	case r == '<' && s.peek(1) == '>':
		return s.wrong("write != for is not, in place of <>")
	case strings.ContainsRune("=!<>", r) && s.peek(1) == '=':
		s.copy(2)
	case r == '=':
		return s.wrong("write == to compare, in place of =")
	default:
		s.copy(1)
	}
	return nil
}

// quoted goes over a text in quotes, three at each end perhaps.
func (s *scanner) quoted(quote rune) {
	raw := s.at > 0 && (s.from[s.at-1] == 'r' || s.from[s.at-1] == 'R')
	ends := 1
	if s.peek(1) == quote && s.peek(2) == quote {
		ends = 3
	}
	s.copy(ends)
	for s.at < len(s.from) {
		closes := s.peek(0) == quote && (ends == 1 || s.peek(1) == quote && s.peek(2) == quote)
		switch {
		case closes:
			s.copy(ends)
			return
		case s.peek(0) == '\\' && !raw && s.at+1 < len(s.from):
			s.copy(2)
		default:
			s.copy(1)
		}
	}
}

// backquoted reads a name in backquotes, in which two of them stand for one.
func (s *scanner) backquoted() error {
	start := s.at
	var name strings.Builder
	for i := start + 1; i < len(s.from); i++ {
		switch {
		case s.from[i] != '`':
			name.WriteRune(s.from[i])
		case i+1 < len(s.from) && s.from[i+1] == '`':
			name.WriteByte('`')
			i++
		case name.Len() == 0:
			return s.wrong("there is no name between the backquotes")
		default:
			s.stand(name.String(), i+1-start)
			return nil
		}
	}
	return s.wrong("the backquote that ends the name is missing")
}

func wordStart(r rune) bool { return r == '_' || unicode.IsLetter(r) }

func inWord(r rune) bool { return wordStart(r) || unicode.IsDigit(r) || unicode.IsMark(r) }

// instead says what to write for words that other languages have.
var instead = map[string]string{
	"and": "write && for and", "or": "write || for or", "not": "write ! for not, as in !(x == 5)",
	"if":   "write CONDITION ? VALUE : OTHERWISE in place of if",
	"case": "write CONDITION ? VALUE : OTHERWISE in place of case",
	"then": "write CONDITION ? VALUE : OTHERWISE in place of if and then",
}

// word reads a name without quotes, a number's letters included.
func (s *scanner) word() error {
	n := 1
	for inWord(s.peek(n)) {
		n++
	}
	word := string(s.from[s.at : s.at+n])
	after := s.at + n
	for after < len(s.from) && s.from[after] == ' ' {
		after++
	}
	called := after < len(s.from) && s.from[after] == '('
	member := s.at > 0 && s.from[s.at-1] == '.'
	switch lower := strings.ToLower(word); {
	case lower == "and" && strings.Contains(strings.ToLower(string(s.from[:s.at])), " between "):
		return s.wrong("between is no operator: write x >= 1 && x <= 2")
	case instead[lower] != "" && !member && s.binds(after):
		return s.wrong("%s; a column of this name stands in backquotes", instead[lower])
	case called || member || used[word] || name.MatchString(word) && !reserved[word]:
		s.copy(n)
	default:
		s.stand(word, n)
	}
	return nil
}

// binds reports whether a word stands where a sign such as && does: with a value behind it, and no sign.
func (s *scanner) binds(after int) bool {
	if after >= len(s.from) {
		return false
	}
	r := s.from[after]
	return wordStart(r) || unicode.IsDigit(r) || strings.ContainsRune("\"'`(!", r)
}

// stand puts a name that the language knows in place of the next runes, which name a column.
func (s *scanner) stand(column string, runes int) {
	word, ok := s.byName[column]
	if !ok {
		word = fmt.Sprintf("named_%d_", len(s.byName))
		for strings.Contains(string(s.from), word) {
			word += "_"
		}
		s.byName[column], s.made.names[word] = word, column
	}
	s.out.WriteString(word)
	by := len(word) - runes
	s.made.moved = append(s.made.moved, moved{s.line, s.column, by})
	s.column += len(word)
	s.lost += by
	s.at += runes
}

// name is what an expression can call a column without any of this.
var name = regexp.MustCompile(`^[_a-zA-Z][_a-zA-Z0-9]*$`)

// InWriting returns a column's name as an expression has it: in backquotes where it must be.
func InWriting(column string) string {
	plain := column != "" && !used[column] && instead[strings.ToLower(column)] == ""
	for i, r := range column {
		plain = plain && (wordStart(r) || i > 0 && inWord(r))
	}
	if plain {
		return column
	}
	return "`" + strings.ReplaceAll(column, "`", "``") + "`"
}
