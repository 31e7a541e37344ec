package spread_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// freePort returns a port that nobody listens at.
func freePort(t *testing.T) int {
	lis, err := net.Listen("tcp", "localhost:0")
	require.NoError(t, err)
	defer lis.Close()
	return lis.Addr().(*net.TCPAddr).Port
}

// background starts a program that ends with the test, and gives each what it says, line by line.
func background(t *testing.T, each func(line string), program string, args ...string) {
	cmd := exec.Command(program, args...)
	said, err := cmd.StderrPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	go func() {
		lines := bufio.NewScanner(said)
		for lines.Scan() {
			each(lines.Text())
		}
		_, _ = io.Copy(io.Discard, said)
	}()
	t.Cleanup(func() {
		_ = cmd.Process.Signal(syscall.SIGTERM) // so that a pool ends its workers
		done := time.AfterFunc(5*time.Second, func() { _ = cmd.Process.Kill() })
		defer done.Stop()
		_ = cmd.Wait()
	})
}

func listening(port int) func() bool {
	return func() bool {
		conn, err := net.Dial("tcp", fmt.Sprintf("localhost:%d", port))
		if err == nil {
			conn.Close()
		}
		return err == nil
	}
}

// The runner is a process of its own, and so is each worker. One of them is killed while it works: either the runner
// gives its work to another, or the job ends, nothing of it is left, and the next run comes to the same.
func TestWorkerThatIsKilled(t *testing.T) {
	f := newFolder(t)
	prism := filepath.Join(f.dir, "prism")
	out, err := exec.Command("go", "build", "-o", prism, "github.com/apache/beam/sdks/v2/go/cmd/prism").CombinedOutput()
	require.NoError(t, err, "%s", out)
	f.write("whole.csv", landings(100_000))
	var mutex sync.Mutex
	var workers []int
	jobs, pool := freePort(t), freePort(t)
	background(t, func(string) {}, prism, "-job_port", fmt.Sprint(jobs), "-serve_http=false", "-log_level=error")
	isWorker := regexp.MustCompile(`^worker .* is process (\d+)$`)
	background(t, func(line string) {
		if m := isWorker.FindStringSubmatch(line); m != nil {
			pid, _ := strconv.Atoi(m[1])
			mutex.Lock()
			defer mutex.Unlock()
			workers = append(workers, pid)
		}
	}, programs.parts, "pool", fmt.Sprintf("localhost:%d", pool))
	require.Eventually(t, listening(jobs), 20*time.Second, 20*time.Millisecond)
	require.Eventually(t, listening(pool), 20*time.Second, 20*time.Millisecond)

	convert := func(output string, flags ...string) []string {
		return append([]string{"convert", "whole.csv", "--plan", "plan.yaml", "-o", output, "--range_size", fmt.Sprint(each)}, flags...)
	}
	remote := []string{
		"--runner=universal", fmt.Sprintf("--endpoint=localhost:%d", jobs), "--environment_type=EXTERNAL",
		fmt.Sprintf("--environment_config=localhost:%d", pool),
	}
	require.Zero(t, f.run(programs.whole, "draft", "whole.csv", "-o", "plan.yaml").code)
	got := f.run(programs.parts, convert("here")...)
	require.Equal(t, 1, got.code, got.err)
	got = f.run(programs.parts, convert("there", remote...)...)
	require.Equal(t, 1, got.code, got.err)
	same := func(output string) {
		for _, files := range []string{"/part-?????.csv", "/part-*.failures.csv", "/part-*.setaside.csv"} {
			require.Equal(t, f.rows("here"+files), f.rows(output+files), output)
		}
		require.Equal(t, f.read("here/ledger.json"), f.read(output+"/ledger.json"))
	}
	same("there")
	mutex.Lock()
	require.GreaterOrEqual(t, len(workers), 2, "processes of their own have worked")
	mutex.Unlock()

	done := make(chan result)
	go func() { done <- f.run(programs.parts, convert("killed", remote...)...) }()
	require.Eventually(t, func() bool {
		parts, _ := filepath.Glob(filepath.Join(f.dir, "junvo-job-*", "part-*"))
		return len(parts) > 0
	}, 60*time.Second, time.Millisecond)
	mutex.Lock()
	victim := workers[len(workers)-1]
	mutex.Unlock()
	process, err := os.FindProcess(victim)
	require.NoError(t, err)
	require.NoError(t, process.Kill())
	got = <-done
	require.Empty(t, f.left(), "of the job")
	if got.code == 4 { // the runner has ended the job
		require.Contains(t, got.err, "junvo-beam: the runner: ")
		require.NoDirExists(t, filepath.Join(f.dir, "killed"))
		got = f.run(programs.parts, convert("killed", remote...)...)
	}
	require.Equal(t, 1, got.code, got.err)
	same("killed")
}

// An interrupt ends a job with the code for that, and nothing is left.
func TestInterruptOfAJob(t *testing.T) {
	f := newFolder(t)
	f.write("whole.csv", landings(100_000))
	cmd := exec.Command(programs.parts, "convert", "whole.csv", "-o", "out", "--range_size", fmt.Sprint(each))
	cmd.Dir = f.dir
	var said strings.Builder
	cmd.Stderr = &said
	require.NoError(t, cmd.Start())
	require.Eventually(t, func() bool {
		walks, _ := filepath.Glob(filepath.Join(f.dir, "junvo-job-*", "walk-*"))
		return len(walks) > 0
	}, 60*time.Second, time.Millisecond)
	require.NoError(t, cmd.Process.Signal(os.Interrupt))
	_ = cmd.Wait()
	require.Equal(t, 130, cmd.ProcessState.ExitCode(), said.String())
	require.Equal(t, "junvo-beam: interrupted; nothing was written\n", said.String())
	require.NoDirExists(t, filepath.Join(f.dir, "out"))
	require.Empty(t, f.left())
}

// What a part says of why it failed is told, without what the runner says around it, and nothing is left.
func TestPartThatFails(t *testing.T) {
	f := newFolder(t)
	f.write("part-1.csv", "a,b\n1,2\n")
	f.write("part-2.csv", "a,c\n1,2\n")
	for name, args := range map[string][]string{
		"profile": {"profile", "part-1.csv", "part-2.csv"},
		"convert": {"convert", "part-1.csv", "part-2.csv", "-o", "out"},
	} {
		got := f.run(programs.parts, args...)
		require.Equal(t, 3, got.code, name)
		require.Contains(t, got.err, `part-2.csv has another header than part-1.csv`, name)
		require.Equal(t, 1, strings.Count(got.err, "\n"), got.err)
		require.NoDirExists(t, filepath.Join(f.dir, "out"))
		require.Empty(t, f.left())
	}
}
