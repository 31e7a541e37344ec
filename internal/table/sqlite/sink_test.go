package sqlite

import (
	"bytes"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/table"
	"junvo/internal/table/tabletest"
	"junvo/internal/value"
)

func create(path string, fields []table.Field) (table.Sink, error) {
	s, err := NewSink(path, fields, SinkOptions{Table: "t"})
	if err != nil {
		return nil, err // a nil sink would not be a nil interface
	}
	return s, nil
}

func TestSink(t *testing.T) {
	tabletest.Sinks(t, tabletest.Format{
		Ending: ".db", Create: create, Typed: true,
		Open: func(path string) (table.Source, error) { return Open(path, -1, "t", "") },
	})
}

func oneRow(cells ...string) *table.Rows {
	rows := &table.Rows{Count: 1, Fields: []table.Field{{Name: "n", Type: value.Integer}, {Name: "t", Type: value.Text}}, Cells: make([]table.Values, 2)}
	for c, cell := range cells {
		rows.Cells[c].Text = []byte(cell)
		rows.Cells[c].AddMade(0)
	}
	return rows
}

// Text that is no value of its column's type stays the text that it is, whatever the database makes of such texts.
func TestTextOfAnotherType(t *testing.T) {
	for typ, texts := range map[value.Type][]string{
		value.Decimal: {"inf", "NaN", "1e5", "0x10", "+5", "1_000", " 7", "7.", ".5", "n/a"},
		value.Integer: {"1.5", "1e5", "0x10", "n/a", "99999999999999999999"},
		value.Boolean: {"yes", "True", "1.0", "n/a"},
	} {
		for _, text := range texts {
			v, rest, _ := take(appendValue(nil, typ, []byte(text)), string(appendValue(nil, typ, []byte(text))))
			assert.Equal(t, text, v, "%v", typ)
			assert.Empty(t, rest)
		}
	}
}

// A new table of an existing database leaves the others alone, and nothing is replaced
// unless that is said.
func TestTableOfAnExistingDatabase(t *testing.T) {
	path := database(t, "CREATE TABLE old (x)", "INSERT INTO old VALUES (1)")
	rows := oneRow("7", "x")
	s, err := NewSink(path, rows.Fields, SinkOptions{Table: "new"})
	require.NoError(t, err)
	require.NoError(t, s.Write(s.Encode(nil, rows), rows))
	require.NoError(t, s.Finish())
	s.Abort()
	_, err = Open(path, -1, "new", "")
	assert.ErrorContains(t, err, `there is no table "new"`, "an aborted table is not there")

	s, err = NewSink(path, rows.Fields, SinkOptions{Table: "new"})
	require.NoError(t, err)
	require.NoError(t, s.Write(s.Encode(nil, rows), rows))
	require.NoError(t, s.Commit())
	_, err = NewSink(path, rows.Fields, SinkOptions{Table: "NEW"})
	assert.ErrorIs(t, err, ErrTable)
	s, err = NewSink(path, rows.Fields, SinkOptions{Table: "new", Replace: true})
	require.NoError(t, err)
	require.NoError(t, s.Write(s.Encode(nil, oneRow("8", "y")), oneRow("8", "y")))
	require.NoError(t, s.Commit())
	tabletest.Sources(t, func() table.Source {
		src, err := Open(path, -1, "", "SELECT n, t, (SELECT x FROM old) AS old FROM new;")
		require.NoError(t, err)
		return src
	}, []string{"n", "t", "old"}, [][]string{{"8", "y", "1"}})
	_, err = NewSink(path, []table.Field{{Name: "a"}, {Name: "A"}}, SinkOptions{Table: "two"})
	assert.ErrorContains(t, err, "have one name for SQLite")
	garbage := filepath.Join(t.TempDir(), "garbage.db")
	require.NoError(t, exec.Command("sh", "-c", "echo no database at all >"+garbage).Run())
	_, err = NewSink(garbage, rows.Fields, SinkOptions{Table: "t"})
	assert.ErrorContains(t, err, "not a database")
}

// SQLite's own shell reads what was written, by storage class.
func TestTheShellReadsIt(t *testing.T) {
	shell := nets.Program(t, "sqlite3")
	path := filepath.Join(t.TempDir(), "a.db")
	fields := tabletest.Fields
	s, err := create(path, fields)
	require.NoError(t, err)
	rows := &table.Rows{Fields: fields, Count: 1, Cells: make([]table.Values, len(fields))}
	for c, cell := range []string{"-1240.50", "two\nlines", "9223372036854775807", "00417", "2021-03-04", "06:05:00", "2021-03-04T06:05:00", "", "true"} {
		rows.Cells[c].Text = []byte(cell)
		rows.Cells[c].AddMade(0)
	}
	require.NoError(t, s.Write(s.Encode(nil, rows), rows))
	require.NoError(t, s.Commit())
	out, err := exec.Command(shell, path, `SELECT typeof("Net weight"), "Net weight", typeof("say ""x"", y"), "select", typeof("select"), "Ä=1", typeof("day"), "day", typeof(utc), ok, typeof(ok) FROM t; PRAGMA integrity_check`).Output()
	require.NoError(t, err)
	assert.Equal(t, "real|-1240.5|text|9223372036854775807|integer|00417|text|2021-03-04|null|1|integer\nok\n", string(bytes.ReplaceAll(out, []byte("\r"), nil)))
}
