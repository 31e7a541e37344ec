package delim

// find is findBytes with the vector instructions that every amd64 processor has.
//
//go:noescape
func find(block *byte, a, b, c uint64) (as, bs, cs uint64)
