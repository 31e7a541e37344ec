package wholefile

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func names(t *testing.T, dir string) (names []string) {
	t.Helper()
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	for _, e := range entries {
		names = append(names, e.Name())
	}
	return names
}

func TestAppearsWholeOrNotAtAll(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "out.csv")
	f, err := Create(path)
	require.NoError(t, err)
	big := bytes.Repeat([]byte("0123456789"), 1_000_000)
	for _, p := range [][]byte{[]byte("head\n"), big, []byte("tail\n")} {
		n, err := f.Write(p)
		require.NoError(t, err)
		assert.Equal(t, len(p), n)
		_, err = os.Stat(path)
		assert.ErrorIs(t, err, os.ErrNotExist)
	}
	require.NoError(t, f.Finish())
	_, err = os.Stat(path)
	assert.ErrorIs(t, err, os.ErrNotExist)
	require.NoError(t, f.Commit())
	f.Abort()
	got, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, "head\n"+string(big)+"tail\n", string(got))
	assert.Equal(t, []string{"out.csv"}, names(t, dir))
}

func TestAbortLeavesTheOldFile(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "out.csv")
	require.NoError(t, os.WriteFile(path, []byte("old"), 0o600))
	for _, finish := range []bool{false, true} {
		f, err := Create(path)
		require.NoError(t, err)
		_, _ = f.Write([]byte("new"))
		if finish {
			require.NoError(t, f.Finish())
		}
		f.Abort()
		f.Abort()
		got, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.Equal(t, "old", string(got))
		assert.Equal(t, []string{"out.csv"}, names(t, dir))
	}
}

func TestKeepsThePermissions(t *testing.T) {
	path := filepath.Join(t.TempDir(), "out.csv")
	for _, mode := range []os.FileMode{0o644, 0o600} {
		if mode != 0o644 {
			require.NoError(t, os.Chmod(path, mode))
		}
		f, err := Create(path)
		require.NoError(t, err)
		require.NoError(t, f.Commit())
		info, err := os.Stat(path)
		require.NoError(t, err)
		assert.Equal(t, mode, info.Mode().Perm())
	}
}

func TestCannotCreate(t *testing.T) {
	dir := t.TempDir()
	_, err := Create(dir)
	assert.ErrorContains(t, err, "is a folder")
	_, err = Create(filepath.Join(dir, "missing", "out.csv"))
	assert.ErrorIs(t, err, os.ErrNotExist)
	assert.Empty(t, names(t, dir))
}
