package e2e

import (
	"bytes"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// endless is a query that computes for ever before its first row.
const endless = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT max(i) AS i FROM n"

// Whatever a run waits for, an interrupt ends it: text that never comes, a query that never answers.
func TestInterruptOfWhatWaits(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "lot,kg\nA,1\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "a.db").code)
	require.NoError(t, os.Mkdir(f.path("tmp"), 0o755))
	f.file("tmp/keep", "")
	before := f.names()
	for _, command := range []string{
		"profile -", "convert - -o o.csv", "preview -", "draft -",
		"profile a.db --query " + endless, "convert a.db -o o.csv --query " + endless,
	} {
		for _, signal := range []os.Signal{os.Interrupt, syscall.SIGTERM}[:nets.Size(1, 2)] {
			args := strings.Fields(command)
			if told, query, ok := strings.Cut(command, "--query "); ok {
				args = append(strings.Fields(told), "--query", query)
			}
			cmd := exec.Command(junvo, replacing(args)...)
			cmd.Dir, cmd.Env = f.dir, append(os.Environ(), "TMPDIR="+f.path("tmp"))
			in, err := cmd.StdinPipe()
			require.NoError(t, err)
			var said bytes.Buffer
			cmd.Stderr = &said
			require.NoError(t, cmd.Start())
			_, err = in.Write([]byte("lot,kg\nA,1\n"))
			require.NoError(t, err, command)
			time.Sleep(700 * time.Millisecond)
			require.NoError(t, cmd.Process.Signal(signal), command)
			ended := make(chan error, 1)
			go func() { ended <- cmd.Wait() }()
			select {
			case <-ended:
			case <-time.After(20 * time.Second):
				_ = cmd.Process.Kill()
				t.Fatal("goes on after a signal: " + command)
			}
			assert.Equal(t, 130, cmd.ProcessState.ExitCode(), "%s: %s", command, said.String())
			assert.Contains(t, said.String(), "interrupted", command)
			assert.Equal(t, before, f.names(), command)
			left, err := filepath.Glob(f.path("tmp/*"))
			require.NoError(t, err)
			assert.Equal(t, []string{f.path("tmp/keep")}, left, command)
		}
	}
}

// A run that is killed leaves the old output or the new one, and what it left is gone after the next.
func TestKill(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d", "--rows", fmt.Sprint(nets.Size(2000, 6000))).code)
	require.Equal(t, 0, f.run("draft", "d/landings.csv", "-o", "p.yaml").code)
	for _, output := range []string{"o.csv", "o.jsonl", "o.xlsx", "o.parquet", "o.db"} {
		args := []string{"convert", "d/landings.csv", "--plan", "p.yaml", "-o", output}
		if output == "o.db" {
			args = append(args, "--replace-table")
		}
		r := f.run(args...)
		require.Equal(t, 1, r.code, r.err)
		before, rows := f.names(), f.run("profile", output, "--format", "csv").out
		start := time.Now()
		f.run(args...)
		whole := time.Since(start)
		for moment := 0; moment < 20; moment += nets.Size(4, 1) {
			cmd := exec.Command(junvo, replacing(args)...)
			cmd.Dir = f.dir
			require.NoError(t, cmd.Start())
			// The moments are spread over a run, with some after it and just after its start.
			time.Sleep(whole * time.Duration(moment%10+1) * 11 / 100)
			interrupted := moment >= 14
			if interrupted {
				_ = cmd.Process.Signal(os.Interrupt)
			} else {
				_ = cmd.Process.Kill()
			}
			_ = cmd.Wait()
			if interrupted && cmd.ProcessState.ExitCode() == 130 {
				assert.Equal(t, before, visible(f.names()), "left by a run that was interrupted")
			}
			assert.Equal(t, rows, f.run("profile", output, "--format", "csv").out, output)
			if output == "o.db" {
				sound(t, f.path(output))
			}
		}
		require.Equal(t, 1, f.run(args...).code, output)
		assert.Equal(t, rows, f.run("profile", output, "--format", "csv").out, output)
		assert.Equal(t, before, f.names(), "left by a run that was killed")
	}
}

// visible leaves out what runs that were killed have left, which the next run clears up.
func visible(names []string) []string {
	return slices.DeleteFunc(names, func(name string) bool { return strings.HasPrefix(name, ".") || strings.HasSuffix(name, "-journal") })
}

// sound says that SQLite itself finds nothing wrong with a database.
func sound(t *testing.T, path string) {
	t.Helper()
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	defer db.Close()
	var says string
	require.NoError(t, db.QueryRow("PRAGMA integrity_check").Scan(&says))
	assert.Equal(t, "ok", says)
}

// A query reads and does nothing else.
func TestQueriesOnlyRead(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "lot,kg\nA,1\nB,2\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "a.db").code)
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "b.db").code)
	one, two, names := f.read("a.db"), f.read("b.db"), f.names()
	for _, query := range []string{
		"DELETE FROM a", "DROP TABLE a", "UPDATE a SET kg = 0", "INSERT INTO a VALUES ('C', 3)", "CREATE TABLE c (x)",
		"SELECT * FROM a; DROP TABLE a", "SELECT * FROM a); DROP TABLE a; SELECT * FROM (SELECT 1",
		"SELECT * FROM a); ATTACH 'b.db' AS b; DROP TABLE b.b; SELECT * FROM (SELECT 1", "ATTACH 'b.db' AS b", "ATTACH 'c.db' AS c",
		"PRAGMA user_version = 7", "PRAGMA journal_mode = wal", "PRAGMA writable_schema = 1", "PRAGMA query_only = 0",
		"SELECT load_extension('x')", "VACUUM", "VACUUM INTO 'c.db'", "BEGIN IMMEDIATE", "DETACH main", "REINDEX", "ANALYZE", ";", "--",
		"WITH gone AS (SELECT 1) DELETE FROM a", "SELECT * FROM a /*", "EXPLAIN DELETE FROM a; DELETE FROM a",
	} {
		for _, args := range [][]string{{"profile", "a.db"}, {"convert", "a.db", "-o", "o.csv"}} {
			r := f.run(append(args, "--query", query)...)
			if query != "SELECT * FROM a /*" { // a remark that ends with the query
				assert.Contains(t, []int{2, 3, 4}, r.code, "%s %s: %s", args[0], query, r.out)
			}
			assert.True(t, one == f.read("a.db") && two == f.read("b.db"), query)
			for _, made := range []string{"o.csv", "o.plan.yaml"} {
				_ = os.Remove(f.path(made))
			}
			assert.Equal(t, names, f.names(), query)
		}
	}
}

// New files are as the umask wants them, and a link is written where it points to.
func TestModesAndLinks(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("no umask")
	}
	f := newFolder(t)
	f.file("a.csv", "lot,kg\nA,1\nB,x\nC,3\nD,4\n")
	cmd := exec.Command("sh", "-c", `umask 077; "$0" convert a.csv -o o.csv --as kg=integer`, junvo)
	cmd.Dir = f.dir
	_ = cmd.Run()
	for _, name := range []string{"o.csv", "o.plan.yaml", "o.failures.csv"} {
		info, err := os.Stat(f.path(name))
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), name)
	}
	f.file("real.csv", "old")
	require.NoError(t, os.Symlink("real.csv", f.path("link.csv")))
	f.run("convert", "a.csv", "-o", "link.csv")
	assert.NotEqual(t, "old", f.read("real.csv"))
	info, err := os.Lstat(f.path("link.csv"))
	require.NoError(t, err)
	assert.NotZero(t, info.Mode()&os.ModeSymlink)
}

// A file that may not grow any longer leaves what was there, says so, and leaves nothing behind.
func TestLimitOfFiles(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("no limit for the size of files")
	}
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d", "--rows", "3000").code)
	require.Equal(t, 0, f.run("draft", "d/landings.csv", "-o", "p.yaml").code)
	for _, output := range []string{"o.csv", "o.db", "o.xlsx", "o.jsonl", "o.parquet"}[:nets.Size(3, 5)] {
		args := []string{"convert", "d/landings.csv", "--plan", "p.yaml", "-o", output}
		require.Equal(t, 1, f.run(args...).code)
		if output == "o.db" {
			args = append(args, "--replace-table")
		}
		names, before, failures := f.names(), f.read(output), f.read(strings.TrimSuffix(output, ".csv")+".failures.csv")
		for _, blocks := range []int{1, 8, 40, 120} {
			cmd := exec.Command("sh", append([]string{"-c", fmt.Sprintf(`ulimit -f %d; exec "$0" "$@"`, blocks), junvo}, args...)...)
			cmd.Dir = f.dir
			out, err := cmd.CombinedOutput()
			require.Error(t, err)
			assert.Equal(t, 4, cmd.ProcessState.ExitCode(), "%s within %d blocks: %s", output, blocks, out)
			assert.Contains(t, string(out), "can't write: ", output)
			assert.NotContains(t, strings.ReplaceAll(string(out), "junvo-rows", ""), ".o.", output)
			assert.Equal(t, names, f.names(), "%s within %d blocks: %s", output, blocks, out)
			assert.True(t, before == f.read(output), output)
			assert.Equal(t, failures, f.read(strings.TrimSuffix(output, ".csv")+".failures.csv"))
		}
	}
	for _, args := range [][]string{{"draft", "d/landings.csv", "-o", "new.yaml"}, {"profile", "d/landings.csv", "--save", "new.profile"}, {"convert", "d/landings.csv", "-o", "new.csv"}} {
		names := f.names()
		cmd := exec.Command("sh", append([]string{"-c", `ulimit -f 1; exec "$0" "$@"`, junvo}, args...)...)
		cmd.Dir = f.dir
		out, _ := cmd.CombinedOutput()
		assert.Equal(t, 4, cmd.ProcessState.ExitCode(), "%q: %s", args, out)
		assert.Equal(t, names, f.names(), args)
	}
}

// Of two runs that write one output at once, either's is there as a whole, and nothing else is left.
func TestTwoWriters(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var texts [2]string
	for i := range texts {
		texts[i] = "lot,kg\n" + strings.Repeat(fmt.Sprintf("A%d,%d\n", i, i), 20_000)
		f.file(fmt.Sprintf("in%d.csv", i), texts[i])
	}
	f.file("p.yaml", "plan: 1\ncolumns: {lot: {to: text}, kg: {to: integer}}\n")
	for _, output := range []string{"o.csv", "o.jsonl", "o.xlsx", "o.parquet", "o.db"} {
		whole := map[string]bool{}
		args := func(i int) []string {
			args := []string{"convert", fmt.Sprintf("in%d.csv", i), "--plan", "p.yaml", "-o", output}
			if output == "o.db" {
				args = append(args, "--replace-table")
			}
			return args
		}
		for i := range texts {
			require.Zero(t, f.run(args(i)...).code, output)
			whole[f.run("profile", output, "--column", "lot").out] = true
		}
		before := f.names()
		for range nets.Size(2, 4) {
			var runs [2]*exec.Cmd
			var said [2]bytes.Buffer
			for i := range runs {
				runs[i] = exec.Command(junvo, replacing(args(i))...)
				runs[i].Dir, runs[i].Stderr = f.dir, &said[i]
				require.NoError(t, runs[i].Start())
			}
			done := 0
			for i := range runs {
				if runs[i].Wait() == nil {
					done++
					continue
				}
				assert.Equal(t, 4, runs[i].ProcessState.ExitCode(), "%s: %s", output, said[i].String())
			}
			assert.Positive(t, done, "%s: %s%s", output, said[0].String(), said[1].String())
			assert.True(t, whole[f.run("profile", output, "--column", "lot").out], output)
			assert.Equal(t, before, f.names(), output)
		}
	}
}
