// Package e2e runs the built program on files in temporary folders, as a person would.
package e2e

import (
	"bytes"
	"encoding/csv"
	"errors"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"github.com/stretchr/testify/require"
)

var junvo string

func TestMain(m *testing.M) {
	// Tests wait for programs more than they work, so more of them run side by side than there are processors.
	flag.Parse()
	if f := flag.Lookup("test.parallel"); f.Value.String() == f.DefValue {
		_ = flag.Set("test.parallel", strconv.Itoa(2*runtime.GOMAXPROCS(0))) // a number is a good one
	}
	dir, err := os.MkdirTemp("", "junvo-e2e-*")
	if err != nil {
		panic(err)
	}
	junvo = filepath.Join(dir, "junvo")
	build := exec.Command("go", "build", "-o", junvo, "junvo/cmd/junvo")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "%s", out)
		panic(err)
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

// result is what one run of the program printed and returned.
type result struct {
	out, err string
	code     int
}

// folder is a temporary folder in which the program runs.
type folder struct {
	t       *testing.T
	dir     string
	temp    string // its folder for temporary files, in which nothing may be left
	program string // that is run
}

func newFolder(t *testing.T) *folder {
	f := &folder{t: t, dir: t.TempDir(), temp: t.TempDir(), program: junvo}
	t.Cleanup(func() {
		left, err := os.ReadDir(f.temp)
		assert.NoError(t, err)
		assert.Empty(t, left, "a run has left temporary files")
	})
	return f
}

func (f *folder) path(name string) string { return filepath.Join(f.dir, name) }

// file writes a file; \r and the like stand in the text as Go writes them.
func (f *folder) file(name, text string) string {
	f.t.Helper()
	require.NoError(f.t, os.WriteFile(f.path(name), []byte(text), 0o644))
	return name
}

func (f *folder) read(name string) string {
	f.t.Helper()
	b, err := os.ReadFile(f.path(name))
	require.NoError(f.t, err)
	return string(b)
}

// names lists the files in the folder.
func (f *folder) names() []string {
	f.t.Helper()
	entries, err := os.ReadDir(f.dir)
	require.NoError(f.t, err)
	var names []string
	for _, e := range entries {
		names = append(names, e.Name())
	}
	return names
}

// replacing adds --replace: tests write outputs of other columns under one name. What may not be replaced is tried without it.
func replacing(args []string) []string {
	if len(args) > 0 && (args[0] == "convert" || args[0] == "totals") && slices.Contains(args, "-o") && !slices.Contains(args, "--replace") {
		return append(slices.Clone(args), "--replace")
	}
	return args
}

func (f *folder) run(args ...string) result { return f.runWith("", replacing(args)...) }

func (f *folder) runWith(stdin string, args ...string) result {
	f.t.Helper()
	var out, errOut bytes.Buffer
	cmd := exec.Command(f.program, args...)
	cmd.Dir, cmd.Stdout, cmd.Stderr, cmd.Stdin = f.dir, &out, &errOut, strings.NewReader(stdin)
	cmd.Env = append(os.Environ(), "TMPDIR="+f.temp)
	err := cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		require.NoError(f.t, err)
	}
	r := result{out.String(), errOut.String(), cmd.ProcessState.ExitCode()}
	require.NotContains(f.t, r.err, "goroutine", "a stack trace was shown")
	return r
}

// records reads a CSV file of the folder by way of the standard library.
func (f *folder) records(name string) [][]string {
	f.t.Helper()
	r := csv.NewReader(strings.NewReader(f.read(name)))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	require.NoError(f.t, err)
	return rows
}
