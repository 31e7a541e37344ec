package e2e

import (
	"bytes"
	"compress/gzip"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/ulikunitz/xz"

	"junvo/internal/nets"
)

// Several files with one header are one table; each row keeps its file.
func TestSeveralFiles(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a-1.csv", "port,kg\nA,1\nB,x\n")
	f.file("a-2.csv", "List of May\n\nkg;port\n2;C\n3;\"two\nlines\"\nbad;D\n4;E\n5;E\n6;E\n7;E\n8;E\n9;E\n1;E\n1;E\n1;E\n1;E\n1;E\n1;E\n1;E\n1;E\n1;E\n")
	r := f.run("convert", "a-*.csv", "-o", "out.csv", "--origin", "--replace")
	require.Equal(t, 1, r.code, r.err)
	rows := f.records("out.csv")
	assert.Equal(t, []string{"port", "kg", "source_file", "source_row", "source_line"}, rows[0])
	assert.Equal(t, []string{"A", "1", "a-1.csv", "1", "2"}, rows[1])
	assert.Equal(t, []string{"C", "2", "a-2.csv", "3", "4"}, rows[3])
	assert.Equal(t, []string{"two\nlines", "3", "a-2.csv", "4", "5"}, rows[4])
	failures := f.records("out.failures.csv")
	assert.Equal(t, []string{"file", "row", "line", "column"}, failures[0][:4])
	assert.Equal(t, []string{"a-1.csv", "2", "3", "kg", "x"}, failures[1][:5])
	assert.Equal(t, []string{"a-2.csv", "5", "7", "kg", "bad"}, failures[2][:5])
	aside := f.records("out.setaside.csv")
	assert.Equal(t, []string{"a-2.csv", "", "1", "above-header", "List of May"}, aside[1])

	named := f.run("profile", "a-1.csv", "a-2.csv", "--format", "json")
	assert.Equal(t, f.run("profile", "a-*.csv", "--format", "json").out, named.out)
	fits(t, "profile.schema.json", named.out)
}

func TestHeadersThatDiffer(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "port,kg,day\nA,1,x\n")
	f.file("b.csv", "port,kilo,day,n\nA,1,x,2\n")
	r := f.run("profile", "a.csv", "b.csv")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, `b.csv has another header than a.csv: it lacks "kg" and has "kilo", "n" more`)
	r = f.run("profile", "c-*.csv")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "no file matches the pattern")
}

func compressed(t *testing.T, how string, text []byte) []byte {
	t.Helper()
	var out bytes.Buffer
	switch how {
	case "gz":
		w := gzip.NewWriter(&out)
		_, err := w.Write(text)
		require.NoError(t, err)
		require.NoError(t, w.Close())
	case "zst":
		w, err := zstd.NewWriter(&out)
		require.NoError(t, err)
		_, err = w.Write(text)
		require.NoError(t, err)
		require.NoError(t, w.Close())
	case "xz":
		w, err := xz.NewWriter(&out)
		require.NoError(t, err)
		_, err = w.Write(text)
		require.NoError(t, err)
		require.NoError(t, w.Close())
	case "bz2":
		cmd := exec.Command("bzip2", "-c")
		cmd.Stdin, cmd.Stdout = bytes.NewReader(text), &out
		if err := cmd.Run(); err != nil {
			nets.Missing(t, "bzip2")
		}
	}
	return out.Bytes()
}

// Compressed files read as the plain file does, by content and not by name.
func TestCompressedSources(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d", "--rows", "3000").code)
	text := []byte(f.read("d/landings.csv"))
	for _, how := range []string{"gz", "zst", "xz", "bz2"} {
		t.Run(how, func(t *testing.T) {
			packed := compressed(t, how, text)
			for _, name := range []string{"in.csv." + how, "in.dat"} {
				f.file(name, string(packed))
				r := f.run("convert", name, "-o", "out.csv")
				require.Equal(t, 1, r.code, r.err)
				assert.Equal(t, f.read("d/clean.csv"), f.read("out.csv"))
			}
			f.file("cut", string(packed[:len(packed)*2/3]))
			for _, args := range [][]string{{"profile", "cut"}, {"convert", "cut", "-o", "cut.csv"}} {
				r := f.run(args...)
				assert.Equal(t, 3, r.code, r.err)
				assert.Contains(t, r.err, "damaged or cut off")
			}
			assert.NotContains(t, f.names(), "cut.csv")
		})
	}
	t.Run("trailing garbage", func(t *testing.T) {
		f.file("g.gz", string(compressed(t, "gz", text))+"garbage behind the end")
		r := f.run("profile", "g.gz")
		assert.Equal(t, 3, r.code)
		assert.Contains(t, r.err, "damaged or cut off")
	})
	t.Run("two members", func(t *testing.T) {
		half := bytes.LastIndexByte(text[:len(text)/2], '\n') + 1
		f.file("two.gz", string(compressed(t, "gz", text[:half]))+string(compressed(t, "gz", text[half:])))
		assert.Equal(t, f.run("profile", "d/landings.csv", "--format", "csv").out, f.run("profile", "two.gz", "--format", "csv").out)
	})
}

// A line without end is an error in bounded time and memory.
func TestEndlessLine(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	cmd := exec.Command(junvo, "profile", "-")
	cmd.Dir = f.dir
	var errOut bytes.Buffer
	cmd.Stderr = &errOut
	in, err := cmd.StdinPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	_, err = in.Write([]byte("a,b\n1,2\n"))
	chunk := bytes.Repeat([]byte("x"), 1<<20)
	for i := 0; err == nil && i < 500; i++ {
		_, err = in.Write(chunk)
	}
	require.Error(t, err, "it reads a line without end")
	_ = cmd.Wait()
	assert.Equal(t, 3, cmd.ProcessState.ExitCode())
	assert.Contains(t, errOut.String(), "a row is longer than")
}

// A named pipe gives its text once, and that is enough for every command.
func TestNamedPipes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	fifo := f.path("in.csv")
	if err := exec.Command("mkfifo", fifo).Run(); err != nil {
		t.Skip("no named pipes here")
	}
	feed := func(text string) {
		w, err := os.OpenFile(fifo, os.O_WRONLY, 0)
		if err == nil {
			_, _ = w.WriteString(text)
			w.Close()
		}
		time.Sleep(50 * time.Millisecond)
	}
	f.file("p.yaml", "plan: 1\ncolumns: {a: {to: integer}, b: {to: integer}}\n")
	for _, args := range [][]string{
		{"convert", "in.csv", "-o", "out.csv"}, {"profile", "in.csv"}, {"preview", "in.csv"}, {"draft", "in.csv"}, {"check", "in.csv", "--plan", "p.yaml"},
	} {
		go feed("a,b\n1,2\n3,4\n")
		r := f.run(args...)
		assert.Equal(t, 0, r.code, "%v: %s", args, r.err)
	}
	assert.Equal(t, "a,b\n1,2\n3,4\n", f.read("out.csv"))
	r := f.runWith("a,b\n1,x\n", "convert", "-", "--plan", "p.yaml", "-o", "out.csv", "--origin", "--replace")
	assert.Equal(t, 1, r.code)
	assert.Contains(t, f.read("out.csv"), "1,,standard input,1,2")
	for _, args := range [][]string{{"preview", "-"}, {"preview", "-", "--plan", "p.yaml"}, {"check", "-", "--plan", "p.yaml"}} {
		r = f.runWith("a,b\n1,2\n", args...)
		assert.Equal(t, 0, r.code, r.err)
	}
	assert.Contains(t, f.runWith("", "preview", "-").err, "can't read standard input: it is empty")
}

// Damage is found with its rows, and every byte is kept.
func TestDamage(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "a,b,c\n1,2,3\n1,2\n1,2,3,4\nx\x00y,5\" z,6\n\"open,7,8\n9,\"a \"b\" c\",10\nü\xff,1,2\n"+strings.Repeat("ö,1,2\n", 20))
	p := profileOf(t, f, "in.csv")
	found := map[string][]int{}
	for _, x := range p.Source.Findings {
		found[x.Name] = x.Rows
	}
	assert.Equal(t, map[string][]int{
		"short-rows": {2}, "long-rows": {3}, "nul-bytes": {4}, "stray-quotes": {4, 6}, "open-quotes": {5}, "bad-bytes": {7}, "duplicates": {9},
	}, found)
	require.LessOrEqual(t, f.run("convert", "in.csv", "-o", "out.csv").code, 1)
	out := f.read("out.csv") + f.read("out.setaside.csv") + f.read("out.failures.csv")
	for _, piece := range []string{"x\x00y", "5\"\" z", "\"\"open", "a \"\"b\"\" c", "ü⟨FF⟩", "1,2,3,4"} {
		assert.Contains(t, out, piece)
	}
}

// A quote that opens and never closes does not swallow the rest of a large file.
func TestOpenQuoteInALargeFile(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("id,text,n\n")
	for i := range 60000 {
		text := "some words"
		if i == 17 {
			text = `"never closed`
		}
		b.WriteString(strings.Join([]string{"k" + strconv.Itoa(i), text, "5"}, ",") + "\n")
	}
	f.file("in.csv", b.String())
	for _, w := range []string{"1", "2"} {
		p := profileOf(t, f, "in.csv", "--workers", w)
		assert.Equal(t, 60000, p.Source.Rows)
		assert.Equal(t, []findingDoc{{"open-quotes", 1, []int{18}}}, p.Source.Findings)
	}
}

func TestLinesAroundTheHeader(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "Harbour list;;;\n;;;\nport;weight;landed;boxes\nname;net kilos;on day;count\n(text);(kg);(date);(pieces)\nA;1,5;2021-03-04;3\nB;1,5;2021-03-05;3\nC;2,5;2021-03-06;4\n(3 rows affected)\n\x1a")
	require.Equal(t, 0, f.run("convert", "in.csv", "-o", "out.csv").code)
	assert.Equal(t, "port,weight,landed,boxes\nA,1.5,2021-03-04,3\nB,1.5,2021-03-05,3\nC,2.5,2021-03-06,4\n", f.read("out.csv"))
	var reasons []string
	for _, rec := range f.records("out.setaside.csv")[1:] {
		reasons = append(reasons, rec[0]+" "+rec[1]+" "+rec[2])
	}
	assert.Equal(t, []string{" 1 above-header", " 2 above-header", " 4 second-heading", " 5 units", "4 9 footer", "5 10 blank-row"}, reasons)
}

func TestReadingFlags(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.txt", "x^y\n'a^b'^1\n'c'^2\n")
	p := profileOf(t, f, "in.txt", "--delimiter", "^", "--quote", "'")
	assert.Equal(t, 2, p.Source.Rows)
	assert.Equal(t, "integer", p.Columns[1].Suggest.Type)
	assert.Len(t, profileOf(t, f, "in.txt", "--delimiter", "^", "--quote", "none").Columns, 2)
	assert.Equal(t, "column 1", profileOf(t, f, "in.txt", "--delimiter", "^", "--no-header").Columns[0].Name)
	for _, bad := range [][]string{{"--delimiter", "ab"}, {"--quote", "ab"}, {"--escape", "slash"}, {"--header-row", "-1"}, {"--no-header", "--header-row", "1"}} {
		assert.Equal(t, 2, f.run(append([]string{"profile", "in.txt"}, bad...)...).code, bad)
	}
}
