package wholefile

import (
	"errors"
	"io/fs"

	"golang.org/x/sys/unix"
)

// renameNew gives a file a name that no other has.
func renameNew(from, to string) error {
	err := unix.Renameat2(unix.AT_FDCWD, from, unix.AT_FDCWD, to, unix.RENAME_NOREPLACE)
	switch {
	case err == nil:
		return nil
	case errors.Is(err, unix.EEXIST):
		return fs.ErrExist
	case errors.Is(err, unix.ENOSYS), errors.Is(err, unix.EINVAL), errors.Is(err, unix.EPERM): // not on this kind of disk
		return linkNew(from, to)
	}
	return err
}
