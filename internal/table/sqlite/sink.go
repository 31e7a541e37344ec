package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"junvo/internal/table"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// Types are the declared types of columns. SQLite has no dates: they are text in ISO 8601.
var Types = [value.NumTypes]string{
	value.Text: "TEXT", value.Code: "TEXT", value.Integer: "INTEGER", value.Decimal: "NUMERIC", value.Date: "TEXT",
	value.Time:      "TEXT",
	value.Timestamp: "TEXT", value.Boolean: "BOOLEAN",
}

// Sink writes a table into a database, in one transaction: a new file, or a new table of an
// existing one. It implements [table.Sink].
type Sink struct {
	path, tmp string // tmp is the new file in the making, "" for an existing one
	place     wholefile.Place
	db        *sql.DB
	tx        *sql.Tx
	insert    string // for the row
	many      *sql.Stmt
	perInsert int
	held      []any
	width     int
	finished  bool
	err       error // of Finish
	undo      error // of taking the transaction back
}

// SinkOptions say what to write into.
type SinkOptions struct {
	Table   string
	Replace bool // a table of that name, if there is one
}

// ErrTable says that the database has a table of that name already.
var ErrTable = errors.New("the database has a table of that name already")

// maxVariables is how many values one statement of SQLite takes.
const maxVariables = 32766

// NewSink begins a table for rows of these fields.
func NewSink(path string, fields []table.Field, o SinkOptions) (*Sink, error) {
	place, err := wholefile.PlaceOf(path)
	if err != nil {
		return nil, err
	}
	s := &Sink{path: path, place: place, width: len(fields)}
	file := path
	if place.Free {
		tmp, err := wholefile.Temp(filepath.Dir(path), filepath.Base(path))
		if err != nil {
			return nil, err
		}
		s.tmp, file = tmp.Name(), tmp.Name()
		if err := tmp.Close(); err != nil {
			return nil, err
		}
	}
	if err := s.begin(file, fields, o); err != nil {
		s.Abort()
		return nil, err
	}
	return s, nil
}

// CheckNames says what is wrong with the names of columns for a table of a database: it takes two for one if only the case
// of letters of ASCII differs.
func CheckNames(fields []table.Field) error {
	seen := map[string]string{}
	for _, f := range fields {
		if strings.ContainsRune(f.Name, 0) {
			return fmt.Errorf("column %q can't be named so: SQLite has no U+0000 in names; give it another name in a plan",
				f.Name)
		}
		folded := strings.Map(func(r rune) rune {
			if r >= 'A' && r <= 'Z' {
				return r + 'a' - 'A'
			}
			return r
		}, f.Name)
		if other, twice := seen[folded]; twice {
			return fmt.Errorf("the columns %q and %q have one name for SQLite: give one of them another with --rename or in a "+
				"plan", other, f.Name)
		}
		seen[folded] = f.Name
	}
	return nil
}

func (s *Sink) begin(file string, fields []table.Field, o SinkOptions) (err error) {
	address := url.URL{Path: filepath.ToSlash(file)}
	if s.db, err = sql.Open("sqlite", "file:"+address.EscapedPath()+
		"?_txlock=immediate&_pragma=busy_timeout(5000)"); err != nil {
		return err
	}
	s.db.SetMaxOpenConns(1)
	if s.tx, err = s.db.BeginTx(context.Background(), nil); err != nil {
		return plainError(err)
	}
	var there int
	if err := s.tx.QueryRow("SELECT count(*) FROM sqlite_schema WHERE lower(name) = lower(?)",
		o.Table).Scan(&there); err != nil {
		return plainError(err)
	}
	if there > 0 {
		if !o.Replace {
			return fmt.Errorf("%w: %s", ErrTable, o.Table)
		}
		if _, err := s.tx.Exec("DROP TABLE " + quote(o.Table)); err != nil {
			return plainError(err)
		}
	}
	if err := CheckNames(fields); err != nil {
		return err
	}
	columns, marks := make([]string, len(fields)), make([]string, len(fields))
	for i, f := range fields {
		columns[i], marks[i] = quote(f.Name)+" "+Types[f.Type], "?"
	}
	if _, err := s.tx.Exec("CREATE TABLE " + quote(o.Table) + " (" + strings.Join(columns, ", ") + ")"); err != nil {
		return plainError(err)
	}
	s.insert = "INSERT INTO " + quote(o.Table) + " VALUES "
	one := "(" + strings.Join(marks, ", ") + ")"
	s.perInsert = max(1, min(100, maxVariables/len(fields)))
	s.many, err = s.tx.Prepare(s.insert + strings.Repeat(one+", ", s.perInsert-1) + one)
	return err
}

// Holds returns why the database can't hold a value, "" where it can.
func (*Sink) Holds(t value.Type, text []byte) string {
	switch t {
	case value.Integer:
		if _, err := strconv.ParseInt(string(text), 10, 64); err != nil {
			return "SQLite keeps integers of 64 bits"
		}
	case value.Decimal:
		if !value.FloatKeeps(text) {
			return fmt.Sprintf("SQLite keeps %d digits of a number", value.FloatDigits)
		}
	}
	return ""
}

// Write implements [table.Sink].
func (s *Sink) Write(encoded []byte, _ *table.Rows) error {
	text := string(encoded)
	for len(encoded) > 0 {
		var v any
		v, encoded, text = take(encoded, text)
		if s.held = append(s.held, v); len(s.held) < s.perInsert*s.width {
			continue
		}
		if _, err := s.many.Exec(s.held...); err != nil {
			return plainError(err)
		}
		s.held = s.held[:0]
	}
	return nil
}

// Finish writes the last rows. Of a new file all is on the disk then; the transaction of an
// existing one is left to Commit.
func (s *Sink) Finish() error {
	if !s.finished {
		s.finished = true
		s.err = s.finish()
	}
	return s.err
}

func (s *Sink) finish() error {
	one := "(" + strings.TrimSuffix(strings.Repeat("?, ", s.width), ", ") + ")"
	for len(s.held) > 0 {
		if _, err := s.tx.Exec(s.insert+one, s.held[:s.width]...); err != nil {
			return plainError(err)
		}
		s.held = s.held[s.width:]
	}
	if s.tmp == "" {
		return nil
	}
	if err := s.end(); err != nil {
		return err
	}
	return os.Chmod(s.tmp, wholefile.Mode(s.path))
}

// end commits the transaction and leaves the database.
func (s *Sink) end() error {
	err := errors.Join(s.many.Close(), s.tx.Commit(), s.db.Close())
	s.tx = nil
	if err != nil {
		return plainError(err)
	}
	return nil
}

// Commit makes the table appear.
func (s *Sink) Commit() error {
	if err := s.Finish(); err != nil {
		return err
	}
	if s.tmp == "" {
		return s.end()
	}
	// Another run may have made the database meanwhile: its tables are not to be lost.
	err := s.place.Take(s.tmp)
	switch {
	case err == nil:
		wholefile.Gone(s.tmp)
		s.tmp = ""
	case errors.Is(err, wholefile.ErrAppeared):
		return fmt.Errorf("%s was made by another program meanwhile; run this again to add the table to it", s.path)
	}
	return err
}

// Abort leaves nothing of the table behind.
func (s *Sink) Abort() {
	if s.tx != nil {
		if err := s.tx.Rollback(); err != nil && !errors.Is(err, sql.ErrTxDone) {
			s.undo = plainError(err)
		}
		s.tx = nil
	}
	if s.db != nil {
		_ = s.db.Close()
		s.db = nil
	}
	if s.tmp != "" {
		_ = wholefile.Remove(s.tmp)
		_ = os.Remove(s.tmp + "-journal")
		s.tmp = ""
		return
	}
	if err := heal(s.path); err != nil {
		s.undo = err
	}
}

// Undone returns what went wrong when the transaction was taken back, nil for nothing: until the
// database is opened for writing once more, it is not as it was.
func (s *Sink) Undone() error { return s.undo }

// heal takes back what a run has left half-written in a database that ended while it wrote: its
// journal says how. Where there is none, nothing is done.
func heal(path string) error {
	info, err := os.Stat(path + "-journal")
	if err != nil || info.Size() == 0 {
		return nil
	}
	file := url.URL{Path: filepath.ToSlash(path)}
	db, err := sql.Open("sqlite", "file:"+file.EscapedPath()+"?mode=rw&_pragma=busy_timeout(5000)")
	if err != nil {
		return err
	}
	var n int
	err = db.QueryRow("SELECT count(*) FROM sqlite_schema").Scan(&n)
	if err = errors.Join(err, db.Close()); err != nil {
		return fmt.Errorf("the database was left half-written, and can't be brought back to what it was: %w", plainError(err))
	}
	return nil
}
