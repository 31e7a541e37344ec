package wholefile

import (
	"bytes"
	"errors"
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

// breaking is an output that can't be finished, or does not appear.
type breaking struct {
	Output
	finish, commit error
}

func (b breaking) Finish() error {
	if b.finish != nil {
		return b.finish
	}
	return b.Output.Finish()
}

func (b breaking) Commit() error {
	if b.commit != nil {
		return b.commit
	}
	return b.Output.Commit()
}

func TestASetAppearsTogether(t *testing.T) {
	broken := errors.New("disk full")
	for _, tt := range []struct {
		name           string
		finish, commit error
		there          []string
	}{
		{"all", nil, nil, []string{"first", "last", "second"}},
		{"none where one can't be finished", broken, nil, nil},
		{"none after one that does not appear", nil, broken, []string{"first"}},
	} {
		t.Run(tt.name, func(t *testing.T) {
			dir := t.TempDir()
			var set, inner Set
			file := func(name string) *File {
				f, err := Create(filepath.Join(dir, name))
				require.NoError(t, err)
				_, err = f.Write([]byte(name))
				require.NoError(t, err)
				return f
			}
			set.Add(file("first"))
			inner.Add(breaking{file("second"), tt.finish, tt.commit}) // a set in a set
			set.Add(&inner)
			require.NoError(t, set.Write(filepath.Join(dir, "last"), []byte("last")))
			err := set.Commit()
			if tt.finish == nil && tt.commit == nil {
				require.NoError(t, err)
			} else {
				require.ErrorIs(t, err, broken)
			}
			set.Abort()
			assert.Equal(t, tt.there, names(t, dir))
			for _, name := range tt.there {
				text, err := os.ReadFile(filepath.Join(dir, name))
				require.NoError(t, err)
				assert.Equal(t, name, string(text))
			}
		})
	}
}

// A file that is optional is there if something was written, and gone if nothing was.
func TestOptional(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "failures.csv")
	for _, text := range []string{"", "some", "", "more"} {
		o := NewOptional(path)
		if text != "" {
			_, err := o.Write([]byte(text))
			require.NoError(t, err)
			assert.Equal(t, path, o.Path())
		} else {
			assert.Empty(t, o.Path())
		}
		require.NoError(t, o.Finish())
		require.NoError(t, o.Commit())
		o.Abort()
		have, err := os.ReadFile(path)
		if text == "" {
			require.ErrorIs(t, err, os.ErrNotExist)
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, text, string(have))
	}
	o := NewOptional(path)
	_, err := o.Write([]byte("not this"))
	require.NoError(t, err)
	o.Abort()
	NewOptional(path).Abort()
	assert.Equal(t, []string{"failures.csv"}, names(t, dir))
	have, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, "more", string(have), "an older one stays when the run is given up")
}

// A file that appears meanwhile stays; one that was there is replaced; and nothing is put in the place of a pipe or a folder.
func TestPlaces(t *testing.T) {
	folder := t.TempDir()
	path := filepath.Join(folder, "a.csv")
	f, err := Create(path)
	require.NoError(t, err)
	_, err = f.Write([]byte("ours"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(path, []byte("theirs"), 0o600))
	assert.ErrorIs(t, f.Commit(), ErrAppeared)
	f.Abort()
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, "theirs", string(text))
	f, err = Create(path)
	require.NoError(t, err)
	require.NoError(t, f.Commit())
	_, err = Create(folder)
	assert.ErrorIs(t, err, ErrFolder)
	require.NoError(t, os.Symlink(os.DevNull, filepath.Join(folder, "null.csv")))
	_, err = Create(filepath.Join(folder, "null.csv"))
	assert.ErrorIs(t, err, ErrSpecial)
	left, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.Len(t, left, 2)
}
