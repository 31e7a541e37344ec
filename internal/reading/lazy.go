package reading

import (
	"sync"
	"sync/atomic"
)

// lazy is a table that is made when it is first asked for, so that a start of the program that reads no cell does
// without it. Asking again costs a load, which counts for those that are asked for each cell.
type lazy[T any] struct {
	made atomic.Pointer[T]
	once sync.Once
	make func() *T
}

func (l *lazy[T]) get() *T {
	if t := l.made.Load(); t != nil {
		return t
	}
	return l.first()
}

// first makes the table.
func (l *lazy[T]) first() *T {
	l.once.Do(func() { l.made.Store(l.make()) })
	return l.made.Load()
}
