package e2e

import (
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// Bad input gets a sentence and an exit code, and leaves nothing behind.
func TestBadInput(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("good.csv", "Net weight,port\n1,A\n2,B\n")
	f.file("empty.csv", "")
	noise := make([]byte, 50000)
	for i, r := 0, rand.New(rand.NewPCG(1, 2)); i < len(noise); i++ {
		noise[i] = byte(r.Uint32())
	}
	f.file("noise.csv", string(noise))
	require.NoError(t, os.Mkdir(f.path("folder"), 0o755))
	before := f.names()
	for _, tt := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"profile", "god.csv"}, 3, "there is no such file. Did you mean good.csv?"},
		{[]string{"profile", "folder"}, 3, "it is a folder"},
		{[]string{"profile", "empty.csv"}, 3, "it is empty"},
		{[]string{"profile", "noise.csv"}, 3, "not text"},
		{[]string{"convert", "noise.csv", "-o", "out.csv"}, 3, "not text"},
		{[]string{"profile"}, 2, "which source?"},
		{[]string{"profile", "good.csv", "--format", "pretty"}, 2, "there is no format"},
		{[]string{"profile", "good.csv", "--encoding", "klingon"}, 2, "unknown encoding"},
		{[]string{"profile", "good.csv", "--header-row", "99"}, 2, "line 99"},
		{[]string{"profile", "good.csv", "--fit", "zero"}, 2, "--fit"},
		{[]string{"profile", "good.csv", "--date-order", "myd"}, 2, "--date-order"},
		{[]string{"profile", "good.csv", "--nonsense"}, 2, "--nonsense"},
		{[]string{"profil", "good.csv"}, 2, `Did you mean "profile"?`},
		{[]string{"convert", "good.csv"}, 2, "-o clean.csv"},
		{[]string{"convert", "good.csv", "-o", "good.csv"}, 2, "is the source"},
		{[]string{"convert", "good.csv", "-o", "out.doc"}, 2, "none of .csv, .tsv, .jsonl, .xlsx, .parquet, .db"},
		{[]string{"convert", "good.csv", "-o", "nowhere/out.csv"}, 4, "no such file or directory"},
		{[]string{"convert", "good.csv", "-o", "out.csv", "--as", "Net wieght=decimal"}, 2, `Did you mean "Net weight"?`},
		{[]string{"convert", "good.csv", "-o", "out.csv", "--as", "port=number"}, 2, "the types are text, integer"},
	} {
		r := f.run(tt.args...)
		assert.Equal(t, tt.code, r.code, "%v: %s", tt.args, r.err)
		assert.Contains(t, r.err, tt.says, "%v", tt.args)
		assert.LessOrEqual(t, strings.Count(r.err, "\n"), 2, "%v: more than a sentence or two", tt.args)
		assert.Empty(t, r.out, "%v", tt.args)
	}
	assert.Equal(t, before, f.names())
}

func TestNoPermission(t *testing.T) {
	t.Parallel()
	if os.Geteuid() == 0 {
		t.Skip("everything is permitted to root")
	}
	f := newFolder(t)
	f.file("a.csv", "a\n1\n")
	require.NoError(t, os.Chmod(f.path("a.csv"), 0))
	r := f.run("profile", "a.csv")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "permission denied")
}

func TestSmallFiles(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for name, text := range map[string]string{
		"header only": "a,b\n", "one line": "just words", "one number": "5\n", "one column": "n\n1\n2\n", "no line end": "a,b\n1,2",
		"blank lines": "\n\n\n", "only quotes": `""""""`, "byte order mark": "\xef\xbb\xbfa,b\n1,2\n", "one row": "1;2;3\n",
	} {
		f.file("in.csv", text)
		assert.Equal(t, 0, f.run("profile", "in.csv").code, name)
		r := f.run("convert", "in.csv", "-o", "out.csv")
		assert.Equal(t, 0, r.code, "%s: %s", name, r.err)
	}
}

// Nothing in a cell or a name acts on the terminal.
func TestTerminalEscapesAreHarmless(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "a\x1b[31m,n\n\x1b]0;title\x07,1\nx\x1b[2J,2\ny,\x1b[5m\nz,3\nz,4\nz,5\nz,6\nz,7\nz,8\nz,9\nz,10\nz,11\n")
	for _, args := range [][]string{
		{"profile", "in.csv"},
		{"profile", "in.csv", "--format", "json"},
		{"profile", "in.csv", "--format", "csv"},
		{"profile", "in.csv", "--format", "markdown"},
		{"convert", "in.csv", "-o", "out.csv"},
		{"convert", "in.csv", "-o", "out.csv", "--as", "zz\x1b[1m=text"},
	} {
		r := f.run(args...)
		assert.NotContains(t, r.out+r.err, "\x1b", "%v", args)
		assert.NotContains(t, r.out+r.err, "\x07", "%v", args)
	}
	assert.Contains(t, f.read("out.failures.csv"), "⟨U+001B⟩[5m")
}

func TestFailuresAreSafeForSpreadsheets(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "n\n=1+1\n@x\n"+strings.Repeat("5\n", 40))
	require.Equal(t, 1, f.run("convert", "in.csv", "-o", "out.csv").code)
	rows := f.records("out.failures.csv")
	assert.Equal(t, "⟨=⟩1+1", rows[1][3])
	assert.Equal(t, "⟨@⟩x", rows[2][3])
}

// A run that is cut off leaves no output, and an older output as it was.
func TestInterrupt(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("out.csv", "old")
	cmd := exec.Command(junvo, "convert", "-", "-o", "out.csv", "--replace")
	cmd.Dir = f.dir
	cmd.Env = append(os.Environ(), "TMPDIR="+f.path("tmp"))
	require.NoError(t, os.Mkdir(f.path("tmp"), 0o755))
	var errOut bytes.Buffer
	cmd.Stderr = &errOut
	in, err := cmd.StdinPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	_, err = io.WriteString(in, "a,b\n1,2\n")
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		n, _ := filepath.Glob(f.path("tmp/*"))
		return len(n) == 1
	}, 10*time.Second, 10*time.Millisecond)
	require.NoError(t, cmd.Process.Signal(os.Interrupt))
	_ = cmd.Wait()
	assert.Equal(t, 130, cmd.ProcessState.ExitCode())
	assert.Contains(t, errOut.String(), "interrupted")
	assert.Equal(t, "old", f.read("out.csv"))
	left, err := filepath.Glob(f.path("tmp/*"))
	require.NoError(t, err)
	assert.Empty(t, left)
	assert.Equal(t, []string{"out.csv", "tmp"}, f.names())
}

func TestInterruptWhileWriting(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d", "--rows", fmt.Sprint(nets.Size(70_000, 150_000))).code)
	f.file("out.csv", "old")
	require.Equal(t, 0, f.run("draft", "d/landings.csv", "-o", "p.yaml").code)
	f.file("p.yaml", strings.Replace(strings.Replace(f.read("p.yaml"), "rows:\n", "rows:\n  order-by: [vessel, landed_on]\n", 1), "to: code\n", "to: code\n    must: {unique: true}\n", 1))
	f.file("out.xlsx", "old")
	f.file("out.parquet", "old")
	before := f.names()
	for _, args := range [][]string{
		{"-o", "out.csv", "--plan", "p.yaml"}, {"-o", "out.xlsx", "--plan", "p.yaml"}, {"-o", "out.db"}, {"-o", "out.csv"}, {"-o", "out.parquet"},
	}[:nets.Size(1, 5)] {
		interrupted := 0
		for _, wait := range []time.Duration{20, 60, 150, 300, 450, 600, 900} {
			cmd := exec.Command(junvo, replacing(append([]string{"convert", "d/landings.csv"}, args...))...)
			cmd.Dir = f.dir
			require.NoError(t, cmd.Start())
			time.Sleep(wait * time.Millisecond)
			_ = cmd.Process.Signal(os.Interrupt)
			_ = cmd.Wait()
			if cmd.ProcessState.ExitCode() < 0 {
				continue // it had not begun yet
			}
			if cmd.ProcessState.ExitCode() != 130 {
				break // the machine was done before
			}
			interrupted++
			assert.Equal(t, before, f.names(), args)
			for _, old := range []string{"out.csv", "out.xlsx", "out.parquet"} {
				assert.Equal(t, "old", f.read(old), args)
			}
		}
		assert.Positive(t, interrupted, "%v was not interrupted once", args)
		for _, name := range f.names() { // what a machine that was done before has written
			if !slices.Contains(before, name) {
				require.NoError(t, os.Remove(f.path(name)))
			}
		}
		for _, old := range []string{"out.csv", "out.xlsx", "out.parquet"} {
			f.file(old, "old")
		}
	}
}

func TestFullDisk(t *testing.T) {
	t.Parallel()
	if runtime.GOOS != "linux" || os.Geteuid() != 0 {
		t.Skip("needs a small file system")
	}
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d", "--rows", "9000").code)
	require.NoError(t, os.Mkdir(f.path("small"), 0o755))
	if out, err := exec.Command("mount", "-t", "tmpfs", "-o", "size=200k", "tmpfs", f.path("small")).CombinedOutput(); err != nil {
		t.Skipf("can't mount: %s", out)
	}
	defer exec.Command("umount", f.path("small")).Run()
	require.Equal(t, 0, f.run("draft", "d/landings.csv", "-o", "p.yaml").code)
	f.file("p.yaml", strings.Replace(f.read("p.yaml"), "rows:\n", "rows:\n  order-by: vessel\n", 1))
	for _, args := range [][]string{{"out.csv"}, {"out.xlsx"}, {"out.parquet"}, {"out.db"}, {"out.csv", "--plan", "p.yaml"}} {
		args[0] = "small/" + args[0]
		r := f.run(append([]string{"convert", "d/landings.csv", "-o"}, args...)...)
		assert.Equal(t, 4, r.code, "%v %s", args, r.err)
		assert.Regexp(t, "no space left|disk is full|disk I/O error", r.err)
		left, err := os.ReadDir(f.path("small"))
		require.NoError(t, err)
		assert.Empty(t, left, args)
	}
}

// Who closes the pipe has seen enough: that is no error, and hides none. A standard output that is full is one.
func TestClosedPipe(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	require.Equal(t, 0, f.run("profile", "d/landings.csv", "--save", "d.profile").code)
	for line, code := range map[string]int{
		"profile d/landings.csv --format json": 0, "profile d/landings.csv --rows-of leading-zeros": 0, "profile d/landings.csv --each": 0,
		"draft d/landings.csv": 0, "preview d/landings.csv": 0, "why d/landings.csv --row 3 --column Vessel": 0, "combine d.profile": 0,
		"convert d/landings.csv -o o.csv": 1, "check d/landings.csv --plan d/intake.plan.yaml": 1, "help steps": 0, "--help": 0, "profile --help": 0, "--version": 0,
	} {
		r, w, err := os.Pipe()
		require.NoError(t, err)
		require.NoError(t, r.Close())
		var errOut bytes.Buffer
		cmd := exec.Command(junvo, replacing(strings.Fields(line))...)
		cmd.Dir, cmd.Stdout, cmd.Stderr = f.dir, w, &errOut
		_ = cmd.Run()
		assert.Equal(t, code, cmd.ProcessState.ExitCode(), line)
		assert.Empty(t, errOut.String(), line)
		require.NoError(t, w.Close())

		full, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
		if err != nil {
			continue
		}
		cmd = exec.Command(junvo, replacing(strings.Fields(line))...)
		cmd.Dir, cmd.Stdout, cmd.Stderr = f.dir, full, &errOut
		_ = cmd.Run()
		assert.Equal(t, 4, cmd.ProcessState.ExitCode(), "%s: %s", line, errOut.String())
		assert.Contains(t, errOut.String(), "can't write to standard output", line)
		require.NoError(t, full.Close())
	}
}

func TestStandardInputGivesTheSame(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	text := f.read("d/landings.csv")
	fromFile := f.run("profile", "d/landings.csv", "--format", "json").out
	fromPipe := f.runWith(text, "profile", "-", "--format", "json").out
	fromPipe = strings.Replace(fromPipe, `"standard input"`, `"landings.csv"`, 1)
	fromPipe = strings.Replace(fromPipe, `"bytes": null`, `"bytes": `+strconv.Itoa(len(text)), 1)
	assert.Equal(t, fromFile, fromPipe)

	require.Equal(t, 1, f.runWith(text, "convert", "-", "-o", "piped.csv").code)
	assert.Equal(t, f.read("d/clean.csv"), f.read("piped.csv"))
}
