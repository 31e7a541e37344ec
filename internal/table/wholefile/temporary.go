package wholefile

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
)

// Temporary files have names from which it is seen whose they are, so that a run can clear away
// what a killed one has left: .NAME.PID-NUMBER.part, where NAME is that of the output. Those of
// this process are listed, so that an interrupt leaves none behind wherever it comes.

const tempEnding = ".part"

var temporary = struct {
	mutex   sync.Mutex
	paths   map[string]bool
	cleared map[string]bool // the outputs of which nothing old is left
	// committing is held while outputs appear: an interrupt waits for it, so that all do.
	committing sync.Mutex
	appeared   bool
}{paths: map[string]bool{}, cleared: map[string]bool{}}

// Temp creates a temporary file in a folder for an output of that name. What runs that are no more have
// left there under the name is cleared away before the first.
func Temp(folder, name string) (*os.File, error) {
	output := filepath.Join(folder, name)
	temporary.mutex.Lock()
	first := !temporary.cleared[output]
	temporary.cleared[output] = true
	temporary.mutex.Unlock()
	if first {
		clearOf(output)
	}
	f, err := os.CreateTemp(folder, fmt.Sprintf(".%s.%d-*%s", name, os.Getpid(), tempEnding))
	if err == nil {
		temporary.mutex.Lock()
		temporary.paths[f.Name()] = true
		temporary.mutex.Unlock()
	}
	return f, err
}

// Gone says that a temporary file has been removed or has got another name.
func Gone(path string) {
	temporary.mutex.Lock()
	defer temporary.mutex.Unlock()
	delete(temporary.paths, path)
}

// Remove removes a temporary file.
func Remove(path string) error {
	err := os.Remove(path)
	Gone(path)
	return err
}

// RemoveAll removes all temporary files of the process, which is to end then. Outputs that are
// appearing appear first; where any has, it reports so and removes nothing.
func RemoveAll() (appeared bool) {
	temporary.committing.Lock()
	if temporary.appeared {
		temporary.committing.Unlock()
		return true
	}
	temporary.mutex.Lock()
	for path := range temporary.paths {
		_ = os.Remove(path)
		_ = os.Remove(path + "-journal")
	}
	return false
}

// Committing calls commit, which makes outputs appear. Meanwhile the process is not ended.
func Committing(commit func() error) error {
	temporary.committing.Lock()
	defer temporary.committing.Unlock()
	temporary.appeared = true // some may have, whatever comes of the others
	return commit()
}

// clearOf removes what runs for an output have left that are no more.
func clearOf(path string) {
	prefix := "." + filepath.Base(path) + "."
	entries, err := os.ReadDir(filepath.Dir(path))
	if err != nil {
		return
	}
	for _, e := range entries {
		rest, ours := strings.CutPrefix(e.Name(), prefix)
		pid, _, ok := strings.Cut(rest, "-")
		if !ours || !ok || !strings.HasSuffix(strings.TrimSuffix(e.Name(), "-journal"), tempEnding) {
			continue
		}
		if n, err := strconv.Atoi(pid); err == nil && n > 0 && n != os.Getpid() && !running(n) {
			_ = os.Remove(filepath.Join(filepath.Dir(path), e.Name()))
		}
	}
}

// target returns the file that a path stands for: an output that is a link is written where it points.
func target(path string) string {
	if info, err := os.Lstat(path); err != nil || info.Mode()&os.ModeSymlink == 0 {
		return path
	}
	if real, err := filepath.EvalSymlinks(path); err == nil {
		return real
	}
	to, err := os.Readlink(path) // to a file that is not there yet
	if err != nil {
		return path
	}
	if !filepath.IsAbs(to) {
		to = filepath.Join(filepath.Dir(path), to)
	}
	return to
}

// Mode returns the permissions that a file at a path has or gets: those of the one that is there,
// else what the process gives to new files.
func Mode(path string) os.FileMode {
	if info, err := os.Stat(path); err == nil {
		return info.Mode().Perm()
	}
	return newMode
}
