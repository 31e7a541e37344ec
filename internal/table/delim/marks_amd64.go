package delim

import (
	"golang.org/x/sys/cpu"

	"junvo/internal/table"
)

// find is findBytes for any number of groups of 64 bytes, one after the other, with the
// processor's vector instructions. It writes three numbers for each group to out, and returns
// zero where all bytes are ASCII and none is zero.
func find(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64) {
	if cpu.X86.HasAVX2 {
		return findAVX2(text, groups, out, a, b, c)
	}
	return findSSE2(text, groups, out, a, b, c)
}

// findSSE2 is find with what every amd64 processor has.
//
//go:noescape
func findSSE2(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64)

//go:noescape
func findAVX2(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64)

// cut is cutGroups for that many groups of marks.
//
//go:noescape
func cut(cells *table.Span, marks *uint64, groups int, from, base uint32) (n int, next uint32)
