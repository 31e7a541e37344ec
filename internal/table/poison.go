//go:build poison

package table

// Poison overwrites all of a buffer whose time is over, so that whoever still has a piece of it gets nonsense.
func Poison[T any](buffer []T) {
	var none T
	buffer = buffer[:cap(buffer)]
	for i := range buffer {
		buffer[i] = none
	}
}
