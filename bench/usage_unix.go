//go:build unix

package main

import (
	"os"
	"syscall"
)

// settle lets the system write what the command before has left for the disk, which is none of the next one's.
func settle() { syscall.Sync() }

// peak returns the most memory that an ended process has had, in bytes.
func peak(p *os.ProcessState) int64 {
	u, _ := p.SysUsage().(*syscall.Rusage)
	if u == nil {
		return 0
	}
	return int64(u.Maxrss) << 10
}
