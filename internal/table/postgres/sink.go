package postgres

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"

	"github.com/jackc/pgx/v5/pgconn"

	"junvo/internal/table"
	"junvo/internal/table/copytext"
	"junvo/internal/value"
)

// Types are the types of columns. Integers can be of any length.
var Types = [value.NumTypes]string{
	value.Text: "text", value.Code: "text", value.Integer: "numeric", value.Decimal: "numeric", value.Date: "date",
	value.Time: "time", value.Timestamp: "timestamp", value.Boolean: "boolean",
}

// zoned is the type of timestamps with an offset from UTC.
const zoned = "timestamp with time zone"

// TypeOf returns the type of a column.
func TypeOf(t value.Type, offsets bool) string {
	if t == value.Timestamp && offsets {
		return zoned
	}
	return Types[t]
}

// SinkOptions say what to write into.
type SinkOptions struct {
	Table   string // with its schema or without
	Replace bool   // a table of that name, if there is one
	Append  bool   // to a table of that name, which there must be
	// Lists are the tables that AddList is to make: their names, and those of their columns.
	Lists []List
	// NotNull and Unique are the places of columns that a new table holds to that.
	NotNull, Unique []int
	// Hides says that values are private, so that no message has one in it.
	Hides bool
	// Bigint are the places of columns of integers that are known to have 64 bits.
	Bigint []int
}

// List is a table beside that of the rows.
type List struct {
	Table string
	Names []string
}

// Sink writes into a table, in one transaction. It implements [table.Sink].
type Sink struct {
	conn   *pgconn.PgConn
	ctx    context.Context
	cancel context.CancelFunc
	o      SinkOptions
	keeps  []limit // what the columns of a table that is there keep of values; nil for all
	// Of a table that is there: what has been sent to it, and what it is called.
	tally       *tally
	into        *named
	fields      []table.Field
	names       []string
	types       []string // of the columns
	quotedNames []string
	refuse      atomic.Pointer[error]
	in          *io.PipeWriter
	copied      chan struct{} // closed when the statement that takes rows has ended
	taken       error         // of that statement
	rows        int64         // that it has taken
	ended       bool
	err         error // of Finish
}

// Errors of tables that can't be written into.
var (
	ErrTable   = errors.New("the database has a table of that name already")
	ErrMissing = errors.New("the database has no table of that name")
)

// NewSink begins to write rows of these fields.
func NewSink(address string, fields []table.Field, o SinkOptions) (*Sink, error) {
	s := &Sink{o: o}
	s.ctx, s.cancel = context.WithCancel(context.Background())
	c, err := connect(s.ctx, address, "BEGIN")
	if err != nil {
		s.cancel()
		return nil, err
	}
	s.conn = c
	if err := s.begin(fields); err != nil {
		s.Abort()
		return nil, err
	}
	return s, nil
}

func (s *Sink) begin(fields []table.Field) error {
	into, there, err := s.find(s.o.Table)
	if err != nil {
		return err
	}
	if err := s.checkLists(into); err != nil {
		return err
	}
	names := Names(fields)
	switch {
	case !there && s.o.Append:
		return fmt.Errorf("%w: %s", ErrMissing, into)
	case there && !s.o.Append && !s.o.Replace:
		return fmt.Errorf("%w: %s", ErrTable, into)
	case s.o.Append:
		if err = s.holdAgainst(into, fields, names); err == nil {
			s.into, s.fields, s.names = into, fields, names
			err = s.prepare(into, s.types)
		}
	default:
		err = s.create(into, fields, names, there)
	}
	if err == nil {
		s.copyInto(into, names, "")
	}
	return err
}

// checkLists returns an error unless the tables of lists are others than that of the rows and than each other, and are
// not there, or are lists of an earlier run that nobody has put answers into.
func (s *Sink) checkLists(into *named) error {
	taken := map[string]bool{into.String(): true}
	for _, list := range s.o.Lists {
		t, there, err := s.find(list.Table)
		switch {
		case err != nil:
			return err
		case taken[t.String()]:
			return fmt.Errorf("%w as another of this run: %s", ErrTable, t)
		case there && !s.o.Replace && !s.o.Append:
			return fmt.Errorf("%w: %s", ErrTable, t)
		case there:
			if err := s.isList(t, list.Names); err != nil {
				return err
			}
		}
		taken[t.String()] = true
	}
	return nil
}

// isList returns an error unless a table has the columns of a list, and no answer in it.
func (s *Sink) isList(t *named, names []string) error {
	rows, err := texts(s.ctx, s.conn, `SELECT attname FROM pg_attribute
WHERE attrelid = to_regclass($1) AND attnum > 0 AND NOT attisdropped ORDER BY attnum`, t.quoted())
	if err != nil {
		return err
	}
	if !slices.EqualFunc(rows, names, func(row []string, name string) bool { return row[0] == name }) {
		return fmt.Errorf("%s is there and is no list of an earlier run: name another table", t)
	}
	if s.o.Append || !slices.Contains(names, "fix") {
		return nil
	}
	rows, err = texts(s.ctx, s.conn, "SELECT 1 FROM "+t.quoted()+` WHERE "fix" <> '' LIMIT 1`)
	if err == nil && len(rows) > 0 {
		err = fmt.Errorf("%s has answers in its column fix: name another table", t)
	}
	return err
}

// find finds the table that is named, or where it is to be made, and reports whether there is one.
func (s *Sink) find(name string) (*named, bool, error) {
	schema, base, qualified := strings.Cut(name, ".")
	if !qualified {
		base = name
		rows, err := texts(s.ctx, s.conn, "SELECT current_schema()")
		if err != nil {
			return nil, false, err
		}
		schema = rows[0][0]
	}
	if schema == "" || base == "" {
		return nil, false, fmt.Errorf("%q names no table, or the database has no schema for new ones: say one, as in "+
			"#public.landings", name)
	}
	t := &named{schema: schema, name: base}
	rows, err := texts(s.ctx, s.conn, `SELECT c.relkind FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE n.nspname = $1 AND c.relname = $2`, schema, base)
	if err != nil || len(rows) == 0 {
		return t, false, err
	}
	if kind := rows[0][0]; kind != "r" && kind != "p" {
		return nil, false, fmt.Errorf("%s is there and is no table", t)
	}
	return t, true, nil
}

// create makes a table, in the place of one that is there.
func (s *Sink) create(t *named, fields []table.Field, names []string, there bool) error {
	var b strings.Builder
	if there {
		fmt.Fprintf(&b, "DROP TABLE %s;\n", t.quoted())
	}
	fmt.Fprintf(&b, "CREATE TABLE %s (", t.quoted())
	for i, f := range fields {
		if i > 0 {
			b.WriteString(", ")
		}
		typ := TypeOf(f.Type, f.Offsets)
		if slices.Contains(s.o.Bigint, i) {
			typ = "bigint"
		}
		fmt.Fprintf(&b, "%s %s", quote(names[i]), typ)
		if slices.Contains(s.o.NotNull, i) {
			b.WriteString(" NOT NULL")
		}
		if slices.Contains(s.o.Unique, i) {
			b.WriteString(" UNIQUE")
		}
	}
	b.WriteString(");\n")
	for i, f := range fields {
		if names[i] != f.Name {
			comment, err := s.conn.EscapeString(strings.ReplaceAll(f.Name, "\x00", ""))
			if err != nil {
				return err
			}
			fmt.Fprintf(&b, "COMMENT ON COLUMN %s.%s IS '%s';\n", t.quoted(), quote(names[i]), comment)
		}
	}
	if _, err := s.conn.Exec(s.ctx, b.String()).ReadAll(); err != nil {
		return plain(err)
	}
	return nil
}

// copyInto begins a statement that takes rows for a table.
func (s *Sink) copyInto(into *named, names []string, options string) {
	quoted := make([]string, len(names))
	for i, n := range names {
		quoted[i] = quote(n)
	}
	out, in := io.Pipe()
	copied := make(chan struct{})
	s.in, s.copied, s.quotedNames = in, copied, quoted
	statement := "COPY " + into.quoted() + " (" + strings.Join(quoted, ", ") + ") FROM STDIN" + options
	go func() {
		defer close(copied)
		tag, err := s.conn.CopyFrom(s.ctx, out, statement)
		if s.rows, s.taken = tag.RowsAffected(), err; err != nil {
			s.taken = said(err, s.o.Hides)
		}
		_ = out.CloseWithError(cmp.Or(s.taken, io.ErrClosedPipe)) // whoever writes on is told
	}()
}

// Holds returns why the database can't hold a value, "" where it can.
func (*Sink) Holds(t value.Type, text []byte) string {
	switch t {
	case value.Text, value.Code:
		if bytes.IndexByte(text, 0) >= 0 {
			return "PostgreSQL has no U+0000 in texts"
		}
	case value.Time, value.Timestamp:
		if n := len(text); n > maxOffset && (text[n-6] == '+' || text[n-6] == '-') && string(text[n-5:n-3]) > "15" {
			return "PostgreSQL keeps offsets of less than 16 hours"
		}
		if at := bytes.IndexByte(text, '.'); at >= 0 {
			digits := 0
			for at++; at < len(text) && text[at] >= '0' && text[at] <= '9'; at++ {
				digits++
			}
			if digits > maxFraction {
				return "PostgreSQL keeps microseconds"
			}
		}
	case value.Integer, value.Decimal:
		whole, fraction, _ := bytes.Cut(text, []byte{'.'})
		if len(whole) > maxWhole || len(fraction) > maxScale {
			return "PostgreSQL keeps " + strconv.Itoa(maxWhole) + " digits before and " + strconv.Itoa(maxScale) +
				" after the decimal mark"
		}
	}
	return ""
}

// maxOffset is how long a date is, behind which an offset such as +01:00 may stand.
const maxOffset = len("2021-03-04T06:05")

// How many digits numbers have (PostgreSQL, "Numeric Types"), and fractions of seconds.
const (
	maxWhole    = 131072
	maxScale    = 16383
	maxFraction = 6
)

// Encode implements [table.Sink]: rows in the text format of COPY.
func (s *Sink) Encode(dst []byte, rows *table.Rows) []byte {
	if s.tally != nil {
		s.tally.add(rows)
	}
	for row := range rows.Count {
		if rows.Out != nil && !rows.Out[row] {
			continue
		}
		for c := range rows.Fields {
			if c > 0 {
				dst = append(dst, '\t')
			}
			v := &rows.Cells[c]
			cell := v.At(row)
			if s.keeps != nil {
				s.check(c, cell, &rows.Fields[c])
			}
			switch {
			case len(cell) == 0:
				dst = append(dst, copytext.Null...)
			case v.Plain:
				dst = append(dst, cell...)
			default:
				dst = copytext.AppendEscaped(dst, cell)
			}
		}
		dst = append(dst, '\n')
	}
	return dst
}

// Write implements [table.Sink].
func (s *Sink) Write(encoded []byte, _ *table.Rows) error {
	if refused := s.refuse.Load(); refused != nil && s.err == nil {
		s.err = *refused
	}
	if len(encoded) == 0 || s.err != nil {
		return s.err
	}
	if _, err := s.in.Write(encoded); err != nil && s.err == nil {
		s.err = err // what the server says of rows that it does not take
	}
	return s.err
}

// Finish sends the last rows, and waits until the server has taken all.
func (s *Sink) Finish() error {
	if s.ended || s.err != nil {
		return s.err
	}
	s.ended = true
	_ = s.in.Close() // a pipe of this program
	<-s.copied
	if s.err = s.taken; s.err == nil && s.tally != nil {
		s.err = s.compare(s.rows)
	}
	return s.err
}

// AddList makes another table of a list in CSV, whose first record has the names, in the same transaction, or adds to
// one. All rows have to be finished. One column, -1 for none, is of whole numbers; all others are of text.
func (s *Sink) AddList(name string, names []string, number int, list io.Reader) error {
	into, there, err := s.find(name)
	if err != nil {
		return err
	}
	s.o.NotNull, s.o.Unique, s.o.Bigint = nil, nil, nil
	fields := make([]table.Field, len(names))
	for i, n := range names {
		fields[i] = table.Field{Name: n, Type: value.Text}
		if i == number {
			fields[i].Type = value.Integer
		}
	}
	if there && s.o.Append {
		err = s.holdAgainst(into, fields, names)
	} else {
		err = s.create(into, fields, names, there)
	}
	if err != nil {
		return err
	}
	s.copyInto(into, names, " (FORMAT csv, HEADER)")
	_, err = io.Copy(s.in, list)
	_ = s.in.Close()
	<-s.copied
	return cmp.Or(s.taken, err)
}

// Commit makes the rows appear.
func (s *Sink) Commit() error {
	if err := s.Finish(); err != nil {
		return err
	}
	_, err := s.conn.Exec(s.ctx, "COMMIT").ReadAll()
	closeNow(s.conn)
	s.cancel()
	s.conn = nil
	if err != nil {
		return said(err, s.o.Hides)
	}
	return nil
}

// Abort leaves nothing of the rows in the database.
func (s *Sink) Abort() {
	if s.conn == nil {
		return
	}
	if s.in != nil {
		_ = s.in.CloseWithError(errStopped) // the server is told, and says that it has taken nothing
		soon(s.copied)
	}
	s.cancel()
	if s.copied == nil || soon(s.copied) {
		closeNow(s.conn)
	}
	s.conn = nil
}
