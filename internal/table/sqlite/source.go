// Package sqlite reads a table of an SQLite database. Cells come by their storage class,
// which each cell of SQLite has for itself, whatever the column was declared as: a column
// that says INTEGER may hold words.
//
//	src, err := sqlite.Open("store.db", size, "landings", "")
package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"net/url"
	"path/filepath"
	"strconv"
	"strings"

	"modernc.org/sqlite" // the driver
	sqlite3 "modernc.org/sqlite/lib"

	"junvo/internal/table"
	"junvo/internal/value"
)

// Magic is how every SQLite database begins.
const Magic = "SQLite format 3\x00"

// Source reads a table. It implements [table.Source].
type Source struct {
	info   table.Info
	db     *sql.DB
	rows   *sql.Rows
	cells  []any
	truths []bool // the columns that are declared to be of truth values
	row    int64  // the number of the next row
}

// ErrNoTable is a database without a table.
var ErrNoTable = errors.New("the database has no table")

// Open opens a table or view of a database, for reading only, or what a query gives. The
// name may be left out where there is one table only.
func Open(path string, size int64, name, query string) (*Source, error) {
	if err := oneQuery(query); err != nil {
		return nil, err
	}
	db, err := openFor(path)
	if err != nil {
		return nil, err
	}
	s := &Source{db: db, row: 1}
	if err := s.open(path, size, name, query); err != nil {
		return nil, errors.Join(plainError(err), db.Close())
	}
	return s, nil
}

// Tables returns the names of the tables and views of a database.
func Tables(path string) ([]string, error) {
	db, err := openFor(path)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	names, err := (&Source{db: db}).tables()
	if err != nil {
		return nil, plainError(err)
	}
	return names, nil
}

// openFor opens a database for reading only.
func openFor(path string) (*sql.DB, error) {
	if err := heal(path); err != nil {
		return nil, err
	}
	file := url.URL{Path: filepath.ToSlash(path)}
	db, err := sql.Open("sqlite", fmt.Sprintf("file:%s?mode=ro&_pragma=query_only(1)&_pragma=trusted_schema(0)&_pragma=hard_heap_limit(%d)", file.EscapedPath(), maxHeap))
	if err != nil {
		return nil, err
	}
	if err := boundCells(db); err != nil {
		return nil, errors.Join(plainError(err), db.Close())
	}
	return db, nil
}

// maxValue is the longest text or blob in bytes that the database hands out: a view can make one of any
// length of nothing. A text may have [table.MaxCell], and a blob half of that.
const maxValue = 256 << 20

// tooBig is what the library says of a longer one.
const tooBig = "string or blob too big"

// boundCells bounds the values of the one connection that there is.
func boundCells(db *sql.DB) error {
	db.SetMaxOpenConns(1)
	c, err := db.Conn(context.Background())
	if err != nil {
		return err
	}
	defer c.Close()
	_, err = sqlite.Limit(c, sqlite3.SQLITE_LIMIT_LENGTH, maxValue)
	return err
}

// plainError leaves out the codes that the driver adds.
func plainError(err error) error {
	text := strings.TrimPrefix(err.Error(), "SQL logic error: ")
	if i := strings.LastIndex(text, " ("); i > 0 && strings.HasSuffix(text, ")") {
		text = text[:i]
	}
	if text == tooBig {
		text = fmt.Sprintf("a cell has more than %d MB", maxValue>>20)
	}
	return errors.New(text)
}

func (s *Source) open(path string, size int64, name, query string) error {
	chosen, why, what := query, "as told", "query"
	from := "(\n" + strings.TrimRight(query, "; \t\r\n") + "\n)" // a comment may end it
	if query == "" {
		names, err := s.tables()
		if err != nil {
			return err
		}
		if len(names) == 0 {
			return ErrNoTable
		}
		parts := table.Parts{What: "table", Example: "store.db", Names: names}
		var i int
		if i, why, err = parts.Choose(name); err != nil {
			return err
		}
		chosen = names[i]
		what, from = "table", quote(chosen)
	}
	columns, truths, err := s.columns(from)
	if err != nil {
		return err
	}
	usable, notes := table.UsableNames(columns, true)
	s.info = table.Info{
		Name: filepath.Base(path), Format: "SQLite database", Bytes: size, Typed: true, Records: true, Names: usable,
		Notes:     notes,
		Files:     []table.File{{Name: filepath.Base(path), FirstLine: 1}},
		Decisions: []table.Decision{{What: what, Value: chosen, Why: why}},
	}
	// A plus before the name makes an expression of it, whose value the driver gives as it
	// is stored, and not as the declaration says that it should be.
	quoted := make([]string, len(columns))
	for i, c := range columns {
		quoted[i] = "+" + quote(c)
	}
	s.rows, err = s.db.Query("SELECT " + strings.Join(quoted, ", ") + " FROM " + from)
	s.cells, s.truths = make([]any, len(columns)), truths
	return err
}

func quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

func (s *Source) tables() ([]string, error) {
	return s.strings("SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' " +
		"ESCAPE '\\' ORDER BY rowid")
}

// columns returns the names of the columns of a table or query, and which of them are declared to be of truth values: the
// database has no such values, and keeps 0 and 1.
func (s *Source) columns(from string) (names []string, truths []bool, err error) {
	rows, err := s.db.Query("SELECT * FROM " + from + " LIMIT 0")
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	types, err := rows.ColumnTypes()
	if err != nil {
		return nil, nil, err
	}
	for _, t := range types {
		names = append(names, t.Name())
		truths = append(truths, strings.HasPrefix(strings.ToUpper(t.DatabaseTypeName()), "BOOL"))
	}
	return names, truths, nil
}

func (s *Source) strings(query string, args ...any) (out []string, err error) {
	rows, err := s.db.QueryContext(context.Background(), query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var text string
		if err := rows.Scan(&text); err != nil {
			return nil, err
		}
		out = append(out, text)
	}
	return out, rows.Err()
}

// choose picks a table by its name, or the only one.
// Info implements [table.Source].
func (s *Source) Info() *table.Info { return &s.info }

// Close ends the use of the database.
func (s *Source) Close() error {
	if s.rows != nil {
		s.rows.Close()
	}
	return s.db.Close()
}

// Next implements [table.Source].
func (s *Source) Next(b *table.Block) error {
	b.Width = len(s.info.Names)
	b.Text = b.Buffer()
	pointers := make([]any, len(s.cells))
	for i := range s.cells {
		pointers[i] = &s.cells[i]
	}
	start := s.row
	for !b.Full() && s.rows.Next() {
		if err := s.rows.Scan(pointers...); err != nil {
			return plainError(err)
		}
		for i, c := range s.cells {
			if n, ok := c.(int64); ok && s.truths[i] && (n == 0 || n == 1) {
				b.AddCell(strconv.FormatBool(n == 1), value.StoredBoolean)
				continue
			}
			if err := s.add(b, c); err != nil {
				return err
			}
		}
		b.EndRow(uint32(s.row - start))
		s.row++
	}
	if err := s.rows.Err(); err != nil {
		if strings.Contains(err.Error(), tooBig) {
			return fmt.Errorf("row %d: %w", s.row, plainError(err))
		}
		return fmt.Errorf("the database is damaged after row %d: %w", s.row-1, plainError(err))
	}
	if b.Rows == 0 {
		return io.EOF
	}
	b.Filled()
	return nil
}

// add adds a cell by its storage class.
func (s *Source) add(b *table.Block, c any) error {
	switch c := c.(type) {
	case nil:
		b.AddCell("", value.StoredNull)
	case int64:
		b.AddCell(strconv.FormatInt(c, 10), value.StoredNumber)
	case float64:
		b.AddCell(strconv.FormatFloat(c, 'f', -1, 64), value.StoredNumber)
	case string:
		if len(c) > table.MaxCell {
			return fmt.Errorf("row %d has a cell of more than %d MB", s.row, table.MaxCell>>20)
		}
		b.AddCell(c, value.StoredText)
	case []byte:
		text, ok := table.BlobText(c)
		if !ok {
			return fmt.Errorf("row %d has a cell of %d MB of bytes that are not text, and %d are the most", s.row, len(c)>>20, table.MaxCell>>21)
		}
		b.Learned.Blobs++
		b.AddCell(text, value.StoredText)
	default:
		return fmt.Errorf("row %d has a value of the unknown kind %T", s.row, c)
	}
	return nil
}

// Split implements [table.Source]: the cells are where they are already.
func (s *Source) Split(*table.Block) {}
