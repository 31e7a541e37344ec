package wholefile

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// Files is the whole set of files that a run reads and writes, so that it can be refused before
// anything is read where one of them is in both, or is written twice:
//
//	var files wholefile.Files
//	files.Reads("landings.csv", "the source")
//	files.Writes("clean.csv", "the output")
//	err := files.Check()
//
// Names are compared as files, not as texts: links are followed, two names of one file are one,
// and outputs whose names differ only in case are the same on some systems.
type Files struct{ uses []use }

// use is a file and what the run does with it.
type use struct {
	path, what string
	writes     bool
	resolved   string
	info       os.FileInfo // nil where there is no such file yet
}

// Clash says that a run would write a file that it also reads, or write it twice.
type Clash struct {
	Path        string // of the file that would be written
	What, Other string // what the run does with it
	Twice       bool
}

func (c *Clash) Error() string {
	if c.Twice {
		return fmt.Sprintf("%s would be %s and %s at once; choose other names", c.Path, c.Other, c.What)
	}
	return fmt.Sprintf("%s is %s, so that it can't be %s too; name another file, so that it stays as it is", c.Path,
		c.Other, c.What)
}

// Reads adds a file that is read; what says as what, as in "the source".
func (f *Files) Reads(path, what string) { f.add(path, what, false) }

// Writes adds a file that is written, or may be.
func (f *Files) Writes(path, what string) { f.add(path, what, true) }

func (f *Files) add(path, what string, writes bool) {
	if path == "" || path == "-" {
		return
	}
	u := use{path: path, what: what, writes: writes, resolved: resolve(path)}
	u.info, _ = os.Stat(path) // one that can't be looked at can't be read or written either
	f.uses = append(f.uses, u)
}

// resolve returns the path of a file without links; of one that is not there yet, those of its folder.
func resolve(path string) string {
	if abs, err := filepath.Abs(path); err == nil {
		path = abs
	}
	if real, err := filepath.EvalSymlinks(path); err == nil {
		return real
	}
	if real, err := filepath.EvalSymlinks(filepath.Dir(path)); err == nil {
		return filepath.Join(real, filepath.Base(path))
	}
	return path
}

// Check returns a *Clash where a file that is written is read, too, or written twice; and an error where a file can't be
// written, since something else stands there.
func (f *Files) Check() error {
	for _, u := range f.uses {
		if u.writes && u.info != nil && !u.info.IsDir() && !u.info.Mode().IsRegular() {
			return fmt.Errorf("%s %w", u.path, ErrSpecial)
		}
	}
	for i := range f.uses {
		for j := range f.uses[:i] {
			a, b := &f.uses[j], &f.uses[i]
			if !a.writes && !b.writes || !a.same(b) {
				continue
			}
			if !b.writes {
				a, b = b, a
			}
			return &Clash{Path: b.path, What: b.what, Other: a.what, Twice: a.writes}
		}
	}
	return nil
}

func (u *use) same(o *use) bool {
	if u.info != nil && o.info != nil {
		return os.SameFile(u.info, o.info)
	}
	return strings.EqualFold(u.resolved, o.resolved)
}
