//go:build !amd64

package delim

import "unsafe"

func find(block *byte, a, b, c uint64) (as, bs, cs uint64) {
	return findBytes(unsafe.Slice(block, 64), a, b, c)
}
