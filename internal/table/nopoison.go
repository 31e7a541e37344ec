//go:build !poison

package table

// Poison does nothing to a buffer whose time is over. The program that is built with the tag poison overwrites it, and
// is held against the one that people have: who keeps a piece of a buffer too long is found so.
func Poison[T any]([]T) {}
