package input

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table/sqlite"
	"junvo/internal/table/tabletest"
)

// member is a file in an archive: its name, and what it holds.
type member struct{ name, text string }

func archive(t testing.TB, members ...member) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, m := range members {
		w, err := z.Create(m.name)
		require.NoError(t, err)
		_, err = io.WriteString(w, m.text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.String()
}

// allRows opens paths as one table and returns its name and rows.
func allRows(t *testing.T, o Options, paths ...string) (string, []string) {
	t.Helper()
	s, err := OpenAll(paths, o)
	require.NoError(t, err, paths)
	got, err := rows(t, s)
	require.NoError(t, err, paths)
	name := s.Info().Name
	require.NoError(t, s.Close())
	return name, got
}

// database returns a database with a table for each name, of one cell: its name.
func database(t *testing.T, names ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "x.db")
	for _, name := range names {
		s, err := sqlite.NewSink(path, tabletest.Fields[1:2], sqlite.SinkOptions{Table: name})
		require.NoError(t, err)
		rows := tabletest.OneRow(tabletest.Fields[1:2], name)
		require.NoError(t, s.Write(s.Encode(nil, rows), rows))
		require.NoError(t, s.Finish())
		require.NoError(t, s.Commit())
	}
	return readAll(t, path)
}

func readAll(t *testing.T, path string) string {
	t.Helper()
	b, err := os.ReadFile(path)
	require.NoError(t, err)
	return string(b)
}

func TestFilesInArchives(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	inner := archive(t, member{"2021/jan.csv", "a,b\n1,2\n"}, member{"2021/feb.csv", "b;a\n4;3\n"}, member{"note.txt", "x\n7\n"})
	outer := archive(
		t, member{"inner.zip", inner}, member{"__MACOSX/._inner.zip", "junk"}, member{"folder/", ""},
		member{"records.json.gz", compressed(t, "gzip", `[{"a": 5}]`)}, member{"store.db", database(t, "one", "two")},
	)
	dir := write(t, map[string]string{"in.zip": inner, "out.zip": outer, "one.zip": archive(t, member{"a.csv", "a\n1\n"})})
	for path, want := range map[string]struct {
		name string
		rows []string
	}{
		"one.zip":                      {"one.zip#a.csv", []string{"1"}},
		"in.zip#2021/jan.csv":          {"in.zip#2021/jan.csv", []string{"1|2"}},
		"in.zip#JAN.csv":               {"in.zip#2021/jan.csv", []string{"1|2"}},
		"in.zip#2021/*":                {"in.zip#2021/jan.csv, in.zip#2021/feb.csv", []string{"1|2", "3|4"}},
		"in.zip#*.csv":                 {"in.zip#2021/jan.csv, in.zip#2021/feb.csv", []string{"1|2", "3|4"}},
		"out.zip#inner.zip#note.txt":   {"out.zip#inner.zip#note.txt", []string{"7"}},
		"out.zip#inner.zip#2021/[jf]*": {"out.zip#inner.zip#2021/jan.csv, out.zip#inner.zip#2021/feb.csv", []string{"1|2", "3|4"}},
		"out.zip#records.json.gz":      {"out.zip#records.json.gz", []string{"5"}},
		"out.zip#store.db#two":         {"out.zip#store.db#two", []string{"two"}},
		"out.zip#store.db#*":           {"out.zip#store.db#one, out.zip#store.db#two", []string{"one", "two"}},
	} {
		name, got := allRows(t, Options{}, filepath.Join(dir, path))
		assert.Equal(t, want.name, name, path)
		assert.Equal(t, want.rows, got, path)
	}
	left, err := os.ReadDir(os.TempDir())
	require.NoError(t, err)
	assert.Empty(t, left, "what was unpacked is gone")
}

func TestWhatIsInSeveralParts(t *testing.T) {
	dir := write(t, map[string]string{"store.db": database(t, "b", "a"), "a#b.csv": "x\n1\n"})
	name, got := allRows(t, Options{}, filepath.Join(dir, "store.db#*"))
	assert.Equal(t, "store.db#b, store.db#a", name, "in the order of the file")
	assert.Equal(t, []string{"b", "a"}, got)
	_, got = allRows(t, Options{}, filepath.Join(dir, "store.db#a"), filepath.Join(dir, "store.db#b"))
	assert.Equal(t, []string{"a", "b"}, got)
	_, err := Paths([]string{filepath.Join(dir, "store.db#c*")})
	assert.ErrorContains(t, err, "no part of it matches the pattern. It holds b, a.")
	_, err = Paths([]string{filepath.Join(dir, "a#b.csv#*")})
	assert.ErrorContains(t, err, "no part of it matches the pattern. It has no parts.")
	_, err = Paths([]string{"-#*"})
	assert.ErrorContains(t, err, "the parts of standard input can't be listed")
}

// What can't be read at any place on standard input is kept in a file meanwhile.
func TestContainersOnStandardInput(t *testing.T) {
	db := database(t, "one", "two")
	for name, text := range map[string]string{
		"-#two": db, "-#store.db#two": archive(t, member{"store.db", db}), "-#a#two": archive(t, member{"a", compressed(t, "xz", db)}),
	} {
		_, got := allRows(t, Options{Stdin: strings.NewReader(text)}, name)
		assert.Equal(t, []string{"two"}, got, name)
	}
	_, got := allRows(t, Options{Stdin: strings.NewReader(compressed(t, "zstd", `{"a": 1}`))}, "-")
	assert.Equal(t, []string{"1"}, got)
}

func TestArchivesThatCannotBeRead(t *testing.T) {
	four := member{"a.zip", archive(t, member{"a.zip", archive(t, member{"a.zip", archive(t, member{"a.csv", "a\n"})})})}
	two := archive(t, member{"long/jan.csv", "a\n1\n"}, member{"feb.csv", strings.Repeat("some text\n", 9000)})
	locked := strings.ReplaceAll(two, "PK\x01\x02\x14\x00\x14\x00\x08", "PK\x01\x02\x14\x00\x14\x00\x09")
	unknown := strings.ReplaceAll(two, "PK\x01\x02\x14\x00\x14\x00\x08\x00\x08", "PK\x01\x02\x14\x00\x14\x00\x08\x00\x09")
	require.NotEqual(t, two, locked)
	require.NotEqual(t, two, unknown)
	at := strings.Index(two, "feb.csv") + len("feb.csv")
	damaged := two[:at] + "\xff\xff\xff" + two[at+3:]
	dir := write(t, map[string]string{
		"four.zip": archive(t, four), "two.zip": two, "locked.zip": locked, "unknown.zip": unknown,
		"cut.zip": two[:len(two)-30], "none.zip": archive(t, member{"folder/", ""}), "damaged.zip": damaged,
		"ods.zip": archive(t, member{"ppt/x", ""}),
	})
	for path, want := range map[string]string{
		"two.zip":                "it has 2 files: name one after #, as in two.zip#long/jan.csv, or all with #*; there are long/jan.csv, feb.csv",
		"two.zip#jam.csv":        `there is no file "jam.csv". Did you mean "long/jan.csv"?`,
		"two.zip#x":              `there is no file "x"; there are long/jan.csv, feb.csv`,
		"two.zip#feb.csv#x":      `it has no part "x"`,
		"locked.zip#feb.csv":     "feb.csv: it is encrypted. Unpack the archive with its password first.",
		"unknown.zip#feb.csv":    "it is compressed by method 9 of the ZIP format, which is not read. Unpack it first.",
		"cut.zip":                "it is no whole ZIP archive",
		"none.zip":               "it is an archive (ZIP) with no file in it",
		"four.zip#a.zip#a.zip":   "it is in 4 archives. Unpack them first.",
		"ods.zip":                "it is a text document or a presentation",
		"two.zip#*/jan.csv":      "",
		"none.zip#*":             "no part of it matches the pattern. It has no parts.",
		"four.zip#a.zip#b.zip#*": "no part of it matches the pattern. It holds a.zip.",
	} {
		s, err := OpenAll([]string{filepath.Join(dir, path)}, Options{})
		if want == "" {
			require.NoError(t, err, path)
			require.NoError(t, s.Close())
			continue
		}
		var e *Error
		if assert.ErrorAs(t, err, &e, path) {
			assert.Contains(t, err.Error(), want, path)
		}
	}
	s, err := Open(filepath.Join(dir, "damaged.zip#feb.csv"), Options{})
	if err == nil {
		_, err = rows(t, s)
		require.NoError(t, s.Close())
	}
	assert.ErrorContains(t, err, "the ZIP data is damaged or cut off")
}

// An archive that unpacks to more than it may is given up before the disk is full.
func TestBombs(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	was := maxSpool
	maxSpool = 1 << 20
	defer func() { maxSpool = was }()
	text := sqlite.Magic + strings.Repeat("\x00", 8<<20)
	dir := write(t, map[string]string{"x.db.gz": compressed(t, "gzip", text), "x.zip": archive(t, member{"x.db", text})})
	for _, name := range []string{"x.db.gz", "x.zip"} {
		_, err := Open(filepath.Join(dir, name), Options{})
		assert.ErrorContains(t, err, "it unpacks to more than 1 MB", name)
	}
	left, err := os.ReadDir(os.TempDir())
	require.NoError(t, err)
	assert.Empty(t, left)
}

// Whatever an archive is, it is read, or there is an error; its texts are no longer than they may be.
func FuzzArchive(f *testing.F) {
	two := archive(f, member{"long/jan.csv", "a\n1\n"}, member{"feb.csv", strings.Repeat("some text\n", 100)})
	f.Add([]byte(two), "feb.csv")
	f.Add([]byte(two[:len(two)-9]), "")
	f.Add([]byte(archive(f, member{"a.zip", two})), "a.zip#feb.csv")
	f.Fuzz(func(t *testing.T, text []byte, part string) {
		path := filepath.Join(t.TempDir(), "x.zip")
		require.NoError(t, os.WriteFile(path, text, 0o600))
		_, _ = Paths([]string{path + "#" + part})
		s, err := Open(path+"#"+part, Options{})
		if err != nil {
			return
		}
		defer s.Close()
		_, _ = rows(t, s)
	})
}
