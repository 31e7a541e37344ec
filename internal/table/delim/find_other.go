//go:build !amd64

package delim

import "unsafe"

func find(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64) {
	all, masks := unsafe.Slice(text, 64*groups), unsafe.Slice(out, marksPerGroup*groups)
	for g := range groups {
		m := masks[marksPerGroup*g:]
		m[0], m[1], m[2] = findBytes(all[64*g:64*g+64], a, b, c)
		odd |= oddBytes(all[64*g : 64*g+64])
	}
	return odd
}
