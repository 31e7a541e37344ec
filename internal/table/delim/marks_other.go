//go:build !amd64

package delim

import (
	"unsafe"

	"junvo/internal/table"
)

func find(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64) {
	all, masks := unsafe.Slice(text, 64*groups), unsafe.Slice(out, marksPerGroup*groups)
	for g := range groups {
		m := masks[marksPerGroup*g:]
		m[0], m[1], m[2] = findBytes(all[64*g:64*g+64], a, b, c)
		odd |= oddBytes(all[64*g : 64*g+64])
	}
	return odd
}

func cut(cells *table.Span, marks *uint64, groups int, from, base uint32) (n int, next uint32) {
	return cutGroups(unsafe.Slice(cells, 64*groups), unsafe.Slice(marks, marksPerGroup*groups), from, base)
}
