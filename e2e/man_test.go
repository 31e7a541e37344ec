package e2e

import (
	"bytes"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// There is a page for each command, which says what its help says, and which the program for such pages finds no fault with.
func TestManualPages(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := f.run("man", "man1")
	require.Equal(t, 0, r.code, r.err)
	pages, err := filepath.Glob(f.path("man1/*.1"))
	require.NoError(t, err)
	assert.Contains(t, r.out, "wrote: man1 (")
	assert.Greater(t, len(pages), 12)
	_, groffErr := exec.LookPath("groff")
	if groffErr != nil {
		t.Log("groff is not here: that it finds no fault with the pages is not tested")
	}
	for _, page := range pages {
		name := strings.TrimSuffix(filepath.Base(page), ".1")
		text := f.read("man1/" + filepath.Base(page))
		args := strings.Split(name, "-")[1:]
		help := f.run(append(args, "--help")...).out
		if groffErr == nil {
			cmd := exec.Command("groff", "-man", "-Tutf8", "-Kutf8", "-ww", "-P-c", page)
			var said bytes.Buffer
			cmd.Stderr = &said
			shown, err := cmd.Output()
			require.NoError(t, err, said.String())
			assert.Empty(t, said.String(), name)
			assert.Greater(t, len(shown), 500, name)
		}
		for line := range strings.SplitSeq(help, "\n") {
			words := strings.Fields(line)
			if len(words) > 0 && strings.HasPrefix(words[0], "--") {
				assert.Contains(t, text, strings.ReplaceAll(words[0], "-", `\-`), "%s has the flag", name)
			}
		}
	}
	convert := f.read("man1/junvo-convert.1")
	assert.Contains(t, convert, ".TH JUNVO\\-CONVERT 1")
	assert.Contains(t, convert, ".TP\n\\fB\\-o, \\-\\-output\\fR \\fITEXT\\fR\n")
	assert.Contains(t, convert, ".TP\n.B 70\n")

	// Pages are replaced, and what else has such a name is not.
	assert.Equal(t, 0, f.run("man", "man1").code)
	f.file("man1/junvo-why.1", "mine")
	r = f.run("man", "man1")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "junvo-why.1 is there and is no manual page of an earlier run")
	assert.Equal(t, "mine", f.read("man1/junvo-why.1"))
	assert.Equal(t, 2, f.run("man").code)
}
