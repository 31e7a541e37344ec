package wholefile

import (
	"os"

	"golang.org/x/sys/unix"
)

// ahead asks the system to begin writing a part of the file to the disk, and does not wait
// for it: there is less to wait for at the end.
func ahead(f *os.File, from, n int64) {
	conn, err := f.SyscallConn()
	if err != nil {
		return
	}
	_ = conn.Control(func(fd uintptr) {
		_ = unix.SyncFileRange(int(fd), from, n, unix.SYNC_FILE_RANGE_WRITE) // Sync tells what fails
	})
}
