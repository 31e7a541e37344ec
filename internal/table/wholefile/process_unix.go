//go:build unix

package wholefile

import (
	"errors"
	"os"
	"syscall"
)

// running reports whether there is a process of that number, or it can't be told.
func running(pid int) bool {
	p, err := os.FindProcess(pid)
	if err != nil {
		return true
	}
	err = p.Signal(syscall.Signal(0))
	return !errors.Is(err, os.ErrProcessDone) && !errors.Is(err, syscall.ESRCH)
}

// newMode is what new files may be used for: all but what the mask of the process takes away. It is
// found when the program starts, since the mask can only be read by setting it.
var newMode = func() os.FileMode {
	mask := syscall.Umask(0o077)
	syscall.Umask(mask)
	return os.FileMode(0o666 &^ mask)
}()
