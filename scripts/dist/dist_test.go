package main

import (
	"archive/tar"
	"archive/zip"
	"compress/gzip"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What all platforms have: a page for each command, completions, and terms for each library; the archives have all of it, and the
// program can be run.
func TestArchives(t *testing.T) {
	t.Chdir("../..")
	work := t.TempDir()
	r := &release{version: "1.2.3", date: time.Unix(1_600_000_000, 0).UTC(), out: t.TempDir(), shared: filepath.Join(work, "shared")}
	require.NoError(t, r.share())
	for _, page := range []string{"junvo", "junvo-profile", "junvo-convert", "junvo-teach"} {
		text, err := os.ReadFile(filepath.Join(r.shared, "man", page+".1"))
		require.NoError(t, err)
		assert.Contains(t, string(text), "junvo 1.2.3", page)
		assert.Contains(t, string(text), "2020-09-13", page)
	}
	for _, file := range []string{"LICENSE", "completions/junvo.bash", "completions/_junvo", "completions/junvo.fish", "completions/junvo.ps1", "licenses/go/LICENSE", "licenses/github.com_spf13_cobra/LICENSE.txt"} {
		assert.FileExists(t, filepath.Join(r.shared, file))
	}
	program := filepath.Join(work, "junvo")
	require.NoError(t, os.WriteFile(program, []byte("a program"), 0o755))
	require.NoError(t, r.archive(program, "linux", "amd64"))
	require.NoError(t, r.archive(program, "windows", "arm64"))
	require.NoError(t, r.checksums())

	f, err := os.Open(filepath.Join(r.out, "junvo-1.2.3-linux-amd64.tar.gz"))
	require.NoError(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	modes := map[string]int64{}
	for names := tar.NewReader(z); ; {
		h, err := names.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		require.NoError(t, err)
		modes[strings.TrimPrefix(h.Name, "junvo-1.2.3-linux-amd64/")] = h.Mode
	}
	assert.EqualValues(t, 0o755, modes["junvo"])
	assert.EqualValues(t, 0o644, modes["man/junvo-convert.1"])
	w, err := zip.OpenReader(filepath.Join(r.out, "junvo-1.2.3-windows-arm64.zip"))
	require.NoError(t, err)
	defer w.Close()
	assert.Len(t, w.File, len(modes))
	sums, err := os.ReadFile(filepath.Join(r.out, "SHA256SUMS"))
	require.NoError(t, err)
	assert.Regexp(t, `(?m)^[0-9a-f]{64}  junvo-1\.2\.3-linux-amd64\.tar\.gz$`, string(sums))
}

// A library without terms stops the release.
func TestLicensesAreThere(t *testing.T) {
	from, to := t.TempDir(), t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(from, "license_test.go"), nil, 0o644))
	for name, want := range map[string]bool{"": false, "main.go": false, "LICENCE.md": true, "COPYING": true, "Notice.txt": true} {
		if name != "" {
			require.NoError(t, os.WriteFile(filepath.Join(from, name), []byte("x"), 0o644))
		}
		found, err := copyLicenses(from, to)
		require.NoError(t, err)
		assert.Equal(t, want || found && name == "", found, name)
		if name != "" {
			require.NoError(t, os.Remove(filepath.Join(from, name)))
		}
	}
}
