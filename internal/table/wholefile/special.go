package wholefile

import (
	"errors"
	"io/fs"
	"os"
)

// Errors of what stands where a file is to appear.
var (
	ErrFolder  = errors.New("is a folder")
	ErrSpecial = errors.New("is a device or a pipe, in whose place no file can be put: name a file, or - for standard " +
		"output")
	// ErrAppeared is a file that was not there when its place was looked at.
	ErrAppeared = errors.New("has appeared since the run began, and is not replaced")
)

// replaceable returns an error where something stands at a path that is no file, and whether nothing stands there.
func replaceable(path string) (free bool, err error) {
	info, err := os.Stat(path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return true, nil
	case err != nil:
		return false, nil // what comes next says what is wrong
	case info.IsDir():
		return false, &os.PathError{Op: "write", Path: path, Err: ErrFolder}
	case !info.Mode().IsRegular():
		return false, &os.PathError{Op: "write", Path: path, Err: ErrSpecial}
	}
	return false, nil
}

// Place is where a file is to appear.
type Place struct {
	Path string // where links lead
	Free bool   // nothing stood there
}

// PlaceOf looks at where a file is to appear. What stands there must be a file, if anything does.
func PlaceOf(path string) (Place, error) {
	free, err := replaceable(path)
	return Place{target(path), free}, err
}

// Take makes a finished file appear at the place. Where nothing stood, it takes the place of nothing that has appeared
// meanwhile.
func (p Place) Take(tmp string) error {
	if !p.Free {
		return os.Rename(tmp, p.Path)
	}
	err := renameNew(tmp, p.Path)
	if errors.Is(err, fs.ErrExist) {
		return &os.PathError{Op: "write", Path: p.Path, Err: ErrAppeared}
	}
	return err
}

// linkNew makes a file appear under a name that is new, where the system has no call for that.
func linkNew(from, to string) error {
	err := os.Link(from, to)
	switch {
	case err == nil:
		return os.Remove(from)
	case errors.Is(err, fs.ErrExist):
		return err
	}
	if _, err := os.Lstat(to); err == nil { // no links here: the best that is left
		return fs.ErrExist
	}
	return os.Rename(from, to)
}
