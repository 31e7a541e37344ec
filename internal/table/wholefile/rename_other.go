//go:build !linux

package wholefile

// renameNew gives a file a name that no other has.
func renameNew(from, to string) error { return linkNew(from, to) }
