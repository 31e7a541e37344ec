package sqlite

import (
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/finding"
	"junvo/internal/table"
)

// database makes a database by these statements.
func database(t *testing.T, statements ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "a #1%.db")
	db, err := sql.Open("sqlite", filepath.Join(filepath.Dir(path), "plain.db"))
	require.NoError(t, err)
	for _, s := range statements {
		_, err := db.Exec(s)
		require.NoError(t, err, s)
	}
	require.NoError(t, db.Close())
	require.NoError(t, os.Rename(filepath.Join(filepath.Dir(path), "plain.db"), path))
	return path
}

// all reads a table: each cell as its kind and its text.
func all(t *testing.T, path, name string) (*table.Info, []string) {
	t.Helper()
	s, err := Open(path, -1, name, "")
	require.NoError(t, err)
	defer s.Close()
	var out []string
	info := s.Info().Clone()
	b := &table.Block{}
	for {
		b.Reset()
		err := s.Next(b)
		if errors.Is(err, io.EOF) {
			return info, out
		}
		require.NoError(t, err)
		info.Learn(b)
		for r := range b.Rows {
			row := ""
			for c := range b.Width {
				row += fmt.Sprintf("%s(%s) ", b.Kinds[r*b.Width+c], b.Cell(r, c))
			}
			out = append(out, row)
		}
	}
}

// Every cell has the kind that it is stored as, whatever the column was declared as; but 0 and 1 of truth values are those.
func TestStorageClassesNotDeclarations(t *testing.T) {
	path := database(t, `CREATE TABLE l ("Net ""kg""" INTEGER, day DATE, ok BOOLEAN, x)`,
		`INSERT INTO l VALUES (12, '2021-03-04', 1, NULL), ('n/a', '04.03.2021', 'ja', ''), (9007199254740993, 44259, 0, x'00ff'), (1e300, 0.1, 'x', 'text'), (-0.5, '2021-03-04 10:00:00', NULL, '7')`)
	info, rows := all(t, path, "")
	assert.Equal(t, []string{`Net "kg"`, "day", "ok", "x"}, info.Names)
	assert.Equal(t, "number(12) text(2021-03-04) boolean(true) null() ", rows[0])
	assert.Equal(t, "text(n/a) text(04.03.2021) text(ja) text() ", rows[1])
	assert.Equal(t, "number(9007199254740993) number(44259) boolean(false) text(x'00ff') ", rows[2])
	assert.Contains(t, rows[3], "number(0.1) text(x) text(text) ")
	assert.Equal(t, "number(-0.5) text(2021-03-04 10:00:00) null() text(7) ", rows[4])
	assert.Equal(t, finding.Blobs, info.Notes[0].Kind)
	assert.True(t, info.Typed)
	assert.Equal(t, "a #1%.db", info.Name)
}

func TestTablesOfADatabase(t *testing.T) {
	path := database(t, "CREATE TABLE landings (a)", "INSERT INTO landings VALUES (1)", "CREATE TABLE buyers (b)", "CREATE VIEW v AS SELECT a, a + 1 AS next FROM landings")
	_, err := Open(path, -1, "", "")
	assert.ErrorContains(t, err, "it has 3 tables: name one after #, as in store.db#landings, or all with #*; there are landings, buyers, v")
	_, rows := all(t, path, "v")
	assert.Equal(t, []string{"number(1) number(2) "}, rows)
	info, rows := all(t, path, "BUYERS")
	assert.Empty(t, rows)
	assert.Equal(t, []string{"b"}, info.Names)
	_, err = Open(path, -1, "landing", "")
	assert.ErrorContains(t, err, `Did you mean "landings"?`)
	_, err = Open(path, -1, "x; DROP TABLE buyers", "")
	assert.ErrorContains(t, err, "there is no table")
	_, err = Open(database(t, "CREATE TABLE a (b)", "DROP TABLE a"), -1, "", "")
	assert.ErrorContains(t, err, ErrNoTable.Error())
}

func TestManyRowsComeInOrder(t *testing.T) {
	path := database(t, "CREATE TABLE n (i)", "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 10000) INSERT INTO n SELECT x FROM c")
	_, rows := all(t, path, "")
	require.Len(t, rows, 10_000)
	for i, r := range rows {
		require.Equal(t, fmt.Sprintf("number(%d) ", i+1), r)
	}
}

func TestDatabasesThatCannotBeRead(t *testing.T) {
	path := database(t, "CREATE TABLE n (i)", "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 50000) INSERT INTO n SELECT 'some text that takes room ' || x FROM c")
	whole, err := os.ReadFile(path)
	require.NoError(t, err)
	damaged := append([]byte(nil), whole...)
	for i := 3 * 4096; i < len(damaged); i++ {
		damaged[i] = 0xff
	}
	for what, bytes := range map[string][]byte{"cut": whole[:len(whole)/2], "damaged": damaged, "only the start": whole[:100]} {
		broken := filepath.Join(t.TempDir(), "b.db")
		require.NoError(t, os.WriteFile(broken, bytes, 0o644))
		s, err := Open(broken, -1, "", "")
		if err == nil {
			for err == nil {
				err = s.Next(&table.Block{})
			}
			assert.NotErrorIs(t, err, io.EOF, what)
			s.Close()
		}
		assert.Error(t, err, what)
		assert.NotContains(t, err.Error(), "\n", what)
	}
	// Reading leaves the file alone, and makes no files beside it.
	entries, err := os.ReadDir(filepath.Dir(path))
	require.NoError(t, err)
	assert.Len(t, entries, 1)
}
