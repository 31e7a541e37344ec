// Package nets says how wide the tests' nets are cast. A net tries many random tables, all moments of a run, or every word
// of a language; a run of the tests on a developer's machine tries a part of them, and the checks before a change lands
// set JUNVO_WHOLE and try all:
//
//	for round := range nets.Size(40, 200) {
//
// With JUNVO_WHOLE a program that a test needs must be installed, too; without it such a test is skipped:
//
//	psql := nets.Program(t, "psql")
package nets

import (
	"os"
	"os/exec"
	"testing"
)

// whole reports whether everything is tried.
func whole() bool { return os.Getenv("JUNVO_WHOLE") != "" }

// Size is how many to try: part of them, or all.
func Size(part, all int) int {
	if whole() {
		return all
	}
	return part
}

// Missing skips a test that can't be run for want of something, and fails it where everything is tried.
func Missing(t testing.TB, what string) {
	t.Helper()
	if whole() {
		t.Fatalf("JUNVO_WHOLE is set, and this is missing: %s", what)
	}
	t.Skipf("not tested for want of this: %s", what)
}

// Program returns the path of the first of these programs that is installed. Where none is, the test is skipped or fails.
func Program(t testing.TB, names ...string) string {
	t.Helper()
	for _, name := range names {
		if path, err := exec.LookPath(name); err == nil {
			return path
		}
	}
	Missing(t, names[0])
	return ""
}

// OnlyWhole skips a test that is nothing but long unless everything is tried.
func OnlyWhole(t testing.TB) {
	t.Helper()
	if !whole() {
		t.Skip("this takes long: JUNVO_WHOLE=1 runs it")
	}
}
