// Package dump reads tables of database dumps in text: statements of SQL that insert rows, and blocks of rows below
// COPY. Of a dump of several tables one is read; what else stands in it is passed over.
//
//	names, err := dump.Tables(open)
//	src, err := dump.Open(open, "public.landings", info)
package dump

import (
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"

	"junvo/internal/finding"
	"junvo/internal/table"
	"junvo/internal/table/copytext"
	"junvo/internal/table/records"
	"junvo/internal/value"
)

// statement is how statements begin that bring rows or make tables.
var statement = regexp.MustCompile(`(?im)^\s*(INSERT\s+(OR\s+\w+\s+|IGNORE\s+)?INTO\s+\S+|REPLACE\s+INTO\s+\S+|COPY\s+\S+\s+(\(.*\)\s+)?FROM\s+stdin\b|CREATE\s+(TEMP\w*\s+)?TABLE\s+\S+)`)

// begins is how dumps begin: with a comment, or with a statement.
var begins = regexp.MustCompile(`(?i)^(--|/\*|SET\s|CREATE\s|INSERT\s|REPLACE\s+INTO\s|COPY\s|DROP\s|LOCK\s|BEGIN\b|START\s+TRANSACTION|USE\s|PRAGMA\s|ALTER\s|SELECT\s+pg_catalog|\\restrict)`)

// Looks reports whether the start of a file looks like a dump.
func Looks(head []byte) bool {
	text := strings.TrimLeft(strings.TrimPrefix(string(head), "\ufeff"), " \t\r\n")
	return begins.MatchString(text) && statement.MatchString(text)
}

// backticks are in dumps of databases that write a backslash before characters of a text, brackets in others.
var (
	backticks = regexp.MustCompile("(?i)(INTO|TABLE)\\s+(IF NOT EXISTS\\s+)?`")
	brackets  = regexp.MustCompile(`(?i)(INTO|TABLE|INSERT)\s+\[`)
)

// dialectOf returns how a dump is written, by its start.
func dialectOf(open func() (io.ReadCloser, error)) (d dialect, err error) {
	f, err := open()
	if err != nil {
		return d, err
	}
	defer f.Close()
	head, err := io.ReadAll(io.LimitReader(f, 64<<10))
	return dialect{backslash: backticks.Match(head), brackets: brackets.Match(head)}, err
}

// Bounds of what a dump may hold.
const (
	maxTables  = 10_000
	maxColumns = 10_000
)

// ErrNoRows is a dump without rows.
var ErrNoRows = errors.New("the dump has no rows: no INSERT, and no COPY from stdin")

// reader reads the rows of a dump, of one table or of all. It implements [records.Reader].
type reader struct {
	io.Closer
	s     *scanner
	want  string              // the table; "" for all
	made  map[string][]string // the columns of tables, as they were made
	table string              // of which rows are read
	names []string
	in    place
	rec   records.Record

	unread []unread // at most mostUnread
}

// unread is a statement that changes rows of a table and is not carried out.
type unread struct {
	what, table string
	line        int64
}

// place is where in a dump the reader is.
type place uint8

const (
	between place = iota // statements
	values               // of an INSERT
	lines                // of a COPY
)

func newReader(f io.ReadCloser, d dialect, want string) *reader {
	return &reader{Closer: f, s: newScanner(f, d), want: want, made: map[string][]string{}}
}

// Tables returns the names of the tables that have rows, in the order in which they occur.
func Tables(open func() (io.ReadCloser, error)) (names []string, err error) {
	d, err := dialectOf(open)
	if err != nil {
		return nil, err
	}
	names, _, err = tables(open, d)
	return names, err
}

// tables returns the names of the tables that have rows, and what is not carried out.
func tables(open func() (io.ReadCloser, error), d dialect) (names []string, left []unread, err error) {
	f, err := open()
	if err != nil {
		return nil, nil, err
	}
	r := newReader(f, d, "")
	defer r.Close()
	seen := map[string]bool{}
	for {
		if _, err := r.Read(); err != nil {
			if errors.Is(err, io.EOF) {
				return names, r.unread, nil
			}
			return nil, nil, err
		}
		if !seen[r.table] {
			if len(names) == maxTables {
				return nil, nil, r.s.wrong("there are more than %d tables", maxTables)
			}
			seen[r.table] = true
			names = append(names, r.table)
		}
	}
}

// Open opens a table, the only one that has rows for "".
func Open(open func() (io.ReadCloser, error), name string, info table.Info) (*records.Source, error) {
	d, err := dialectOf(open)
	if err != nil {
		return nil, err
	}
	names, left, err := tables(open, d)
	if err != nil {
		return nil, err
	}
	if len(names) == 0 {
		return nil, ErrNoRows
	}
	parts := table.Parts{What: "table", Example: "dump.sql", Names: names, Short: unqualified}
	i, why, err := parts.Choose(name)
	if err != nil {
		return nil, err
	}
	chosen := names[i]
	info.Decisions = append(info.Decisions, table.Decision{What: "table", Value: chosen, Why: why})
	if d.backslash {
		info.Decisions = append(info.Decisions, table.Decision{
			What: "escape", Value: "backslash", Why: "names stand in backticks: databases that write so escape with it",
		})
	}
	info.Notes = append(info.Notes, notCarriedOut(left, chosen)...)
	return records.Open(func() (records.Reader, error) {
		f, err := open()
		if err != nil {
			return nil, err
		}
		return newReader(f, d, chosen), nil
	}, info)
}

// notCarriedOut says which statements change rows of a table and are not carried out.
func notCarriedOut(left []unread, name string) []table.Note {
	var what []string
	var n, line int64
	for _, u := range left {
		if !strings.EqualFold(unqualified(u.table), unqualified(name)) {
			continue
		}
		if n++; n == 1 {
			line = u.line
		}
		if !slices.Contains(what, u.what) {
			what = append(what, u.what)
		}
	}
	says := "%d statements change rows of the table and are not carried out: %s (the first in line %d)"
	switch n {
	case 0:
		return nil
	case 1:
		says = "%d statement changes rows of the table and is not carried out: %s (in line %d)"
	}
	return []table.Note{{Kind: finding.UnreadStatements, Count: n, Say: fmt.Sprintf(says, n, strings.Join(what, ", "), line)}}
}

// unqualified returns a name without that of its schema.
func unqualified(name string) string { return name[strings.LastIndexByte(name, '.')+1:] }

// Read implements [records.Reader].
func (r *reader) Read() (*records.Record, error) {
	for {
		var ok bool
		var err error
		switch r.in {
		case values:
			ok, err = r.tuple()
		case lines:
			ok, err = r.copied()
		default:
			err = r.statement()
		}
		if err != nil {
			return nil, err
		}
		if ok && (r.want == "" || r.table == r.want) {
			return &r.rec, nil
		}
	}
}

// statement reads a statement up to where its rows begin, or to its end.
func (r *reader) statement() error {
	t, err := r.s.next()
	switch {
	case err != nil:
		return err
	case t.kind == end:
		return io.EOF
	case t.is("create"):
		return r.create()
	case t.is("insert"), t.is("replace"):
		return r.insert()
	case t.is("copy"):
		return r.copy()
	case t.is(`\`):
		return r.s.skipLine() // of a shell
	case t.is(";"):
		return nil
	case t.is("update"), t.is("delete"), t.is("truncate"), t.is("merge"), t.is("load"):
		return r.leave(strings.ToUpper(t.text))
	}
	return r.skip()
}

// mostUnread is how many statements that are not carried out are kept.
const mostUnread = 10_000

// leave notes a statement that changes rows, and passes over it. Its table is the first name that is no key word.
func (r *reader) leave(what string) error {
	line := r.s.line
	for {
		t, err := r.s.next()
		switch {
		case err != nil:
			return err
		case t.kind == end, t.is(";"):
			return nil
		case what == "LOAD" && !t.is("table"): // LOAD DATA … INTO TABLE name
			continue
		case what == "LOAD":
			if t, err = r.s.next(); err != nil {
				return err
			}
		case slices.ContainsFunc(beforeName, t.is):
			continue
		}
		if t.isName() {
			name, err := r.name(t)
			if err != nil {
				return err
			}
			r.note(what, name, line)
		}
		return r.skip()
	}
}

// beforeName are words between a statement and the name of its table.
var beforeName = []string{"from", "only", "table", "into", "low_priority", "ignore", "quick"}

func (r *reader) note(what, name string, line int64) {
	if len(r.unread) < mostUnread {
		r.unread = append(r.unread, unread{what, name, line})
	}
}

// skip passes over the rest of a statement.
func (r *reader) skip() error {
	for {
		t, err := r.s.next()
		if err != nil {
			return err
		}
		if t.kind == end || t.is(";") {
			return nil
		}
	}
}

// name reads the name of a table, whose first token has been read.
func (r *reader) name(t token) (string, error) {
	name := t.text
	for {
		dot, err := r.s.next()
		if err != nil {
			return "", err
		}
		if !dot.is(".") {
			r.s.back(dot)
			return name, nil
		}
		part, err := r.s.next()
		if err != nil {
			return "", err
		}
		name += "." + part.text
	}
}

// create reads the names of the columns of a table that is made.
func (r *reader) create() error {
	t, err := r.s.next()
	for err == nil && t.kind == word && !t.is("table") {
		t, err = r.s.next()
	}
	if err != nil || !t.is("table") {
		r.s.back(t)
		return errors.Join(err, r.skip())
	}
	if t, err = r.s.next(); err != nil {
		return err
	}
	for t.is("if") || t.is("not") || t.is("exists") {
		if t, err = r.s.next(); err != nil {
			return err
		}
	}
	name, err := r.name(t)
	if err != nil {
		return err
	}
	if t, err = r.s.next(); err != nil || !t.is("(") {
		r.s.back(t)
		return errors.Join(err, r.skip())
	}
	var columns []string
	depth, first := 1, true
	for depth > 0 {
		if t, err = r.s.next(); err != nil || t.kind == end {
			return err
		}
		switch {
		case t.is("("):
			depth++
		case t.is(")"):
			depth--
		case t.is(",") && depth == 1:
			first = true
			continue
		case first && t.isName() && !isConstraint(t):
			if len(columns) == maxColumns {
				return r.s.wrong("a table has more than %d columns", maxColumns)
			}
			columns = append(columns, t.text)
		}
		first = false
	}
	if len(r.made) < maxTables {
		r.made[strings.ToLower(name)] = columns
	}
	return r.skip()
}

// isConstraint reports whether what stands in the definition of a table is no column.
func isConstraint(t token) bool {
	for _, w := range []string{
		"primary", "unique", "key", "index", "constraint", "foreign", "check", "fulltext",
		"spatial", "exclude", "like",
	} {
		if t.is(w) {
			return true
		}
	}
	return false
}

// target reads the name of a table and its columns up to what follows them.
func (r *reader) target() (next token, err error) {
	t, err := r.s.next()
	for err == nil && (t.is("into") || t.is("or") || t.is("ignore") || t.is("replace") || t.is("low_priority") ||
		t.is("delayed") || t.is("only") || t.is("table")) {
		t, err = r.s.next()
	}
	if err != nil {
		return t, err
	}
	if !t.isName() {
		r.s.back(t)
		return token{kind: sign, text: ";"}, nil
	}
	if r.table, err = r.name(t); err != nil {
		return t, err
	}
	r.names = r.made[strings.ToLower(r.table)]
	if t, err = r.s.next(); err != nil || !t.is("(") {
		return t, err
	}
	r.names = nil
	for {
		if t, err = r.s.next(); err != nil {
			return t, err
		}
		switch {
		case t.is(")"):
			return r.s.next()
		case t.kind == end:
			return t, nil
		case t.isName():
			if len(r.names) == maxColumns {
				return t, r.s.wrong("a table has more than %d columns", maxColumns)
			}
			r.names = append(r.names, t.text)
		}
	}
}

// insert reads a statement up to its first row.
func (r *reader) insert() error {
	t, err := r.target()
	for err == nil && (t.is("overriding") || t.is("system") || t.is("user") || t.is("value")) && !t.is("values") {
		t, err = r.s.next()
	}
	if err != nil || t.kind == end {
		return err
	}
	if !t.is("values") {
		r.note("INSERT … "+strings.ToUpper(t.text), r.table, r.s.line)
		r.s.back(t)
		return r.skip()
	}
	r.in = values
	return nil
}

// tuple reads the values of a row in brackets. It reports false after the last.
func (r *reader) tuple() (bool, error) {
	t, err := r.s.next()
	for err == nil && t.is(",") {
		t, err = r.s.next()
	}
	if err != nil {
		return false, err
	}
	if !t.is("(") {
		r.in = between
		r.s.back(t)
		return false, r.skip()
	}
	r.begin()
	for n := 0; ; n++ {
		c, last, err := r.value()
		if err != nil {
			return false, err
		}
		r.add(n, c)
		if last {
			return true, nil
		}
		if n == maxColumns {
			return false, r.s.wrong("a row has more than %d values", maxColumns)
		}
	}
}

func (r *reader) begin() {
	r.rec = records.Record{Names: r.rec.Names[:0], Cells: r.rec.Cells[:0], Line: r.s.line}
}

// add adds the nth value, from 0.
func (r *reader) add(n int, c records.Cell) {
	name := ""
	if n < len(r.names) {
		name = r.names[n]
	} else {
		name = fmt.Sprintf("column %d", n+1)
	}
	r.rec.Add(name, c)
}

// value reads a value and what follows it; last says that it was the last of its row. What is no constant is kept as it
// is written.
func (r *reader) value() (c records.Cell, last bool, err error) {
	var parts []token
	depth := 0
	for {
		t, err := r.s.next()
		switch {
		case err != nil:
			return c, false, err
		case t.kind == end:
			return c, false, r.s.wrong("the dump is cut off within a row")
		case depth == 0 && (t.is(",") || t.is(")")):
			return constant(parts), t.is(")"), nil
		case t.is("("), t.is("["):
			depth++
		case t.is(")"), t.is("]"):
			depth--
		}
		if parts = append(parts, t); len(parts) > 10_000 {
			return c, false, r.s.wrong("a value is too long a computation")
		}
	}
}

// copy reads a statement up to its rows.
func (r *reader) copy() error {
	t, err := r.target()
	if err != nil || t.kind == end {
		return err
	}
	if !t.is("from") {
		r.s.back(t)
		return r.skip()
	}
	if t, err = r.s.next(); err == nil && !t.is("stdin") && t.kind == text {
		r.note("COPY … FROM a file", r.table, r.s.line)
	}
	if err != nil || !t.is("stdin") {
		r.s.back(t)
		return errors.Join(err, r.skip())
	}
	if err := r.skip(); err != nil {
		return err
	}
	r.in = lines
	return r.s.skipLine()
}

// copied reads a line of rows. It reports false after the last.
func (r *reader) copied() (bool, error) {
	line, err := r.s.rawLine()
	if errors.Is(err, io.EOF) {
		return false, r.s.wrong("the dump is cut off: the rows have no end, which is written \\.")
	}
	if err != nil {
		return false, err
	}
	if string(line) == `\.` {
		r.in = between
		return false, nil
	}
	r.begin()
	r.rec.Line--
	for n := 0; ; n++ {
		cell, rest, more := copytext.Cut(line)
		if string(cell) == copytext.Null {
			r.add(n, records.Cell{Kind: value.StoredNull})
		} else {
			r.add(n, records.Cell{Text: string(copytext.Unescape(nil, cell))})
		}
		if line = rest; !more {
			return true, nil
		}
		if n == maxColumns {
			return false, r.s.wrong("a row has more than %d values", maxColumns)
		}
	}
}
