//go:build unix

// Package pgtest starts PostgreSQL servers for tests: each in a temporary folder of its own, with a socket there and no
// network. Where the programs of the server are not installed, the test is skipped and says so
// (see nets.Missing).
//
//	server := pgtest.Start(t)
//	server.Do(t, "CREATE TABLE landings (no text)")
package pgtest

import (
	"context"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// Server is a server that runs until the test ends.
type Server struct {
	Folder string // where its socket is
	cmd    *exec.Cmd
}

// programs returns the folder of the server's programs, "" where there is none.
func programs() string {
	if path, err := exec.LookPath("initdb"); err == nil {
		if path, err = filepath.EvalSymlinks(path); err == nil {
			return filepath.Dir(path)
		}
	}
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb") // the pattern is a good one
	if len(found) == 0 {
		return ""
	}
	return filepath.Dir(found[len(found)-1])
}

// Start starts a server with these settings, as in max_connections=5. Limit is the size in KB that none of its files
// may exceed, as if the disk were full; 0 for none.
func Start(t testing.TB, limit int, settings ...string) *Server {
	t.Helper()
	bin := programs()
	if bin == "" {
		nets.Missing(t, "the programs of a PostgreSQL server")
	}
	folder, err := os.MkdirTemp("", "junvo-pg-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(folder) })
	s := &Server{Folder: folder}
	who := other(t, folder)
	data := filepath.Join(folder, "data")
	first := exec.Command(filepath.Join(bin, "initdb"), "-D", data, "-U", "quay", "-A", "trust", "-E", "UTF8",
		"--no-locale", "-N")
	first.SysProcAttr = &syscall.SysProcAttr{Credential: who}
	first.Dir = folder
	said, err := first.CombinedOutput()
	require.NoError(t, err, string(said))
	args := []string{"-D", data, "-k", folder, "-c", "listen_addresses=", "-c", "fsync=off"}
	for _, setting := range settings {
		args = append(args, "-c", setting)
	}
	s.cmd = exec.Command(filepath.Join(bin, "postgres"), args...)
	if limit > 0 {
		script := `ulimit -f ` + strconv.Itoa(limit) + `; exec "$@"`
		s.cmd = exec.Command("bash", append([]string{"-c", script, "server", filepath.Join(bin, "postgres")}, args...)...)
	}
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Credential: who}
	s.cmd.Dir = folder
	log, err := os.Create(filepath.Join(folder, "log"))
	require.NoError(t, err)
	s.cmd.Stdout, s.cmd.Stderr = log, log
	require.NoError(t, s.cmd.Start())
	t.Cleanup(s.Kill)
	t.Setenv("PGHOST", folder)
	t.Setenv("PGUSER", "quay")
	t.Setenv("PGDATABASE", "postgres")
	require.Eventually(t, func() bool {
		c, err := s.connect()
		if err != nil {
			return false
		}
		return c.Close(context.Background()) == nil
	}, 30*time.Second, 50*time.Millisecond, "the server does not start")
	return s
}

// other returns another user, who owns the folder then, where this one is the administrator, as whom no server runs;
// else nil.
func other(t testing.TB, folder string) *syscall.Credential {
	t.Helper()
	if os.Getuid() != 0 {
		return nil
	}
	for _, name := range []string{"postgres", "nobody"} {
		u, err := user.Lookup(name)
		if err != nil {
			continue
		}
		uid, err1 := strconv.Atoi(u.Uid)
		gid, err2 := strconv.Atoi(u.Gid)
		require.NoError(t, err1)
		require.NoError(t, err2)
		require.NoError(t, os.Chown(folder, uid, gid))
		return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
	}
	t.Skip("a PostgreSQL server does not run as the administrator, and there is no other user")
	return nil
}

func (s *Server) connect() (*pgconn.PgConn, error) {
	return pgconn.Connect(context.Background(), "host="+s.Folder+" user=quay database=postgres")
}

// Session opens a session, which ends with the test.
func (s *Server) Session(t testing.TB) *pgconn.PgConn {
	t.Helper()
	c, err := s.connect()
	require.NoError(t, err)
	t.Cleanup(func() { _ = c.Close(context.Background()) })
	return c
}

// Do runs statements and returns the rows of the last one as texts, "∅" for null.
func (s *Server) Do(t testing.TB, statements string) (rows [][]string) {
	t.Helper()
	c, err := s.connect()
	require.NoError(t, err)
	defer func() { _ = c.Close(context.Background()) }()
	results, err := c.Exec(context.Background(), statements).ReadAll()
	require.NoError(t, err, statements)
	for _, r := range results[len(results)-1].Rows {
		row := make([]string, len(r))
		for i, v := range r {
			if row[i] = string(v); v == nil {
				row[i] = "∅"
			}
		}
		rows = append(rows, row)
	}
	return rows
}

// Kill ends the server at once, as a fault of the machine would.
func (s *Server) Kill() {
	if s.cmd.Process == nil {
		return
	}
	_ = s.cmd.Process.Signal(syscall.SIGQUIT) // it ends its processes, and does not wait for anything
	_ = s.cmd.Wait()
	s.cmd.Process = nil
}
