package delim

import "junvo/internal/table"

// find is findBytes for any number of groups of 64 bytes, one after the other, with
// the vector instructions that every amd64 processor has. It writes three numbers
// for each group to out, and returns zero where all bytes are ASCII and none is zero.
//
//go:noescape
func find(text *byte, groups int, out *uint64, a, b, c uint64) (odd uint64)

// cut is cutGroups for so many groups of marks.
//
//go:noescape
func cut(cells *table.Span, marks *uint64, groups int, from, base uint32) (n int, next uint32)
