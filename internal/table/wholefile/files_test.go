package wholefile

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A file that is read is never written, by whatever name.
func TestFilesOfARun(t *testing.T) {
	dir := t.TempDir()
	path := func(name string) string { return filepath.Join(dir, name) }
	require.NoError(t, os.WriteFile(path("in.csv"), []byte("a\n1\n"), 0o644))
	require.NoError(t, os.Link(path("in.csv"), path("hard.csv")))
	require.NoError(t, os.Symlink("in.csv", path("soft.csv")))
	require.NoError(t, os.Mkdir(path("sub"), 0o755))
	require.NoError(t, os.Symlink(dir, path("sub/up")))
	for _, out := range []string{"in.csv", "hard.csv", "soft.csv", "./in.csv", "sub/../in.csv", "sub/up/in.csv"} {
		var f Files
		f.Reads(path("in.csv"), "the source")
		f.Writes(dir+"/"+out, "the output")
		var clash *Clash
		require.ErrorAs(t, f.Check(), &clash, out)
		assert.Equal(t, "the source", clash.Other)
		assert.Contains(t, clash.Error(), "is the source, so that it can't be the output too")
	}
	for _, names := range [][2]string{{"out.csv", "out.csv"}, {"out.csv", "sub/up/out.csv"}, {"Out.csv", "out.CSV"}} {
		var f Files
		f.Writes(path(names[0]), "the output")
		f.Writes(path(names[1]), "the ledger")
		assert.ErrorContains(t, f.Check(), "would be the output and the ledger at once", names)
	}
	var f Files
	f.Reads(path("in.csv"), "the source")
	f.Reads(path("hard.csv"), "the plan")
	f.Reads("-", "the source")
	f.Writes("", "the ledger")
	f.Writes(path("out.csv"), "the output")
	f.Writes(path("other.csv"), "the ledger")
	assert.NoError(t, f.Check())
}
