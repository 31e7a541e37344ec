package input

import (
	"bytes"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/ulikunitz/xz"

	"junvo/internal/table"
)

// write writes files into a temporary folder and returns it.
func write(t *testing.T, files map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, text := range files {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	return dir
}

// rows reads all rows of a source, the cells joined.
func rows(t *testing.T, s *Source) (out []string, err error) {
	t.Helper()
	for {
		b := &table.Block{}
		err := s.Next(b)
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		s.Split(b)
		for r := range b.Rows {
			var cells []string
			for c := range b.Width {
				cells = append(cells, string(b.Cell(r, c)))
			}
			out = append(out, strings.Join(cells, "|"))
		}
	}
}

func compressed(t *testing.T, how, text string) string {
	t.Helper()
	var b bytes.Buffer
	var w io.WriteCloser
	var err error
	switch how {
	case "gzip":
		w = gzip.NewWriter(&b)
	case "zstd":
		w, err = zstd.NewWriter(&b)
	case "xz":
		w, err = xz.NewWriter(&b)
	}
	require.NoError(t, err)
	_, err = io.WriteString(w, text)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return b.String()
}

func TestCompressionIsReadThrough(t *testing.T) {
	text := "a,b\n1,2\n3,4\n"
	for _, how := range []string{"gzip", "zstd", "xz"} {
		dir := write(t, map[string]string{"x.bin": compressed(t, how, text), "two.gz": compressed(t, how, text) + compressed(t, how, "5,6\n")})
		s, err := Open(filepath.Join(dir, "x.bin"), Options{})
		require.NoError(t, err, how)
		got, err := rows(t, s)
		require.NoError(t, err)
		assert.Equal(t, []string{"1|2", "3|4"}, got, how)
		assert.Equal(t, "compression", s.Info().Decisions[0].What)
		assert.Equal(t, s.Size, s.Read())
		require.NoError(t, s.Close())
		s, err = Open(filepath.Join(dir, "two.gz"), Options{})
		require.NoError(t, err, how)
		got, err = rows(t, s)
		require.NoError(t, err)
		assert.Equal(t, []string{"1|2", "3|4", "5|6"}, got, how)
	}
}

func TestDamagedCompression(t *testing.T) {
	text := "a,b\n" + strings.Repeat("some text,that is long\n", 100_000)
	for _, how := range []string{"gzip", "zstd", "xz"} {
		whole := compressed(t, how, text)
		dir := write(t, map[string]string{"cut": whole[:len(whole)-20]})
		s, err := Open(filepath.Join(dir, "cut"), Options{})
		if err == nil {
			_, err = rows(t, s)
		}
		assert.ErrorContains(t, err, "the "+how+" data is damaged or cut off", how)
	}
}

func TestSeveralPaths(t *testing.T) {
	dir := write(t, map[string]string{"a1.csv": "x,y\n1,2\n", "a2.csv": "y;x\n4;3\n", "b.csv": "x,z\n5,6\n", "[c].csv": "x,y\n7,8\n"})
	at := func(names ...string) (out []string) {
		for _, n := range names {
			out = append(out, filepath.Join(dir, n))
		}
		return out
	}
	s, err := OpenAll(at("a*.csv"), Options{})
	require.NoError(t, err)
	got, err := rows(t, s)
	require.NoError(t, err)
	assert.Equal(t, []string{"1|2", "3|4"}, got)
	assert.Len(t, s.Info().Files, 2)
	require.NoError(t, s.Close())
	s, err = OpenAll(at("[c].csv"), Options{})
	require.NoError(t, err, "a name that looks like a pattern stands for itself")
	require.NoError(t, s.Close())
	_, err = OpenAll(at("a1.csv", "b.csv"), Options{})
	assert.ErrorContains(t, err, `it lacks "y" and has "z" more`)
	_, err = OpenAll(at("q*.csv"), Options{})
	assert.ErrorContains(t, err, "no file matches the pattern")
}

func TestWhatCannotBeOpened(t *testing.T) {
	dir := write(t, map[string]string{"landings.csv": "a\n1\n", "empty.csv": "", "garbage": string(bytes.Repeat([]byte{1, 2, 3, 0, 0xff}, 9000))})
	for name, want := range map[string]string{
		"landing.csv":      "there is no such file. Did you mean " + filepath.Join(dir, "landings.csv") + "?",
		"nothing-like-it":  "there is no such file. Check the name.",
		".":                "it is a folder. Name a file in it.",
		"empty.csv":        "it is empty. There is no header and no row in it.",
		"garbage":          "it is not text",
		"landings.csv#May": `it is no workbook, database, archive, page or JSON, so that it has no part "May"`,
		"none.csv#May":     "there is no such file",
	} {
		_, err := Open(filepath.Join(dir, name), Options{})
		var e *Error
		if assert.ErrorAs(t, err, &e, name) {
			assert.Contains(t, err.Error(), want, name)
		}
	}
}

func TestStandardInput(t *testing.T) {
	s, err := Open("-", Options{Stdin: strings.NewReader("a;b\n1;2\n")})
	require.NoError(t, err)
	got, err := rows(t, s)
	require.NoError(t, err)
	assert.Equal(t, []string{"1|2"}, got)
	assert.Equal(t, "standard input", s.Info().Name)
	assert.EqualValues(t, -1, s.Size)
	require.NoError(t, s.Close())
}

func TestPartsOfContainers(t *testing.T) {
	dir := write(t, map[string]string{"a#b.csv": "x\n1\n"})
	for path, want := range map[string][2]string{
		"book.xlsx#Sheet 2":             {"book.xlsx", "Sheet 2"},
		"book.xlsx":                     {"book.xlsx", ""},
		"#x":                            {"#x", ""},
		"-":                             {"-", ""},
		filepath.Join(dir, "a#b.csv"):   {filepath.Join(dir, "a#b.csv"), ""},
		filepath.Join(dir, "a#b.csv#c"): {filepath.Join(dir, "a#b.csv"), "c"},
	} {
		file, name := Part(path)
		assert.Equal(t, want, [2]string{file, name}, path)
	}
}
