package e2e

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// references are the pages that repeat a catalogue: after the line that begins with
// the command they hold what it prints, indented. To bring them up to date, run
//
//	UPDATE_DOCS=1 go test ./e2e -run TestReferencePages
var references = []struct{ page, topic string }{
	{"readings.md", "types"},
	{"reasons.md", "reasons"},
	{"findings.md", "findings"},
	{"plan.md", "steps"},
	{"plan-keys.md", "plan"},
	{"functions.md", "functions"},
	{"places.md", "places"},
	{"tasks.md", "tasks"},
	{"words.md", "words"},
}

func TestReferencePages(t *testing.T) {
	t.Parallel()
	for _, ref := range references {
		path := filepath.Join("..", "docs", ref.page)
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		marker := "`junvo help " + ref.topic + "` prints:\n\n"
		before, have, found := strings.Cut(string(text), marker)
		require.True(t, found, "%s has no line %q", ref.page, marker)
		got := newFolder(t).run("help", ref.topic)
		require.Equal(t, 0, got.code)
		var want strings.Builder
		for line := range strings.Lines(got.out) {
			if strings.TrimSpace(line) != "" {
				want.WriteString("    ")
			}
			want.WriteString(line)
		}
		if os.Getenv("UPDATE_DOCS") != "" {
			require.NoError(t, os.WriteFile(path, []byte(before+marker+want.String()), 0o644))
			continue
		}
		assert.Equal(t, want.String(), have, ref.page)
	}
}

// The tests that the page of promises names are there.
func TestPromisesHaveTests(t *testing.T) {
	t.Parallel()
	page, err := os.ReadFile("../docs/reliability.md")
	require.NoError(t, err)
	var code strings.Builder
	require.NoError(t, filepath.WalkDir("..", func(path string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, "_test.go") {
			return err
		}
		text, err := os.ReadFile(path)
		code.Write(text)
		return err
	}))
	names := regexp.MustCompile("`((?:Test|Fuzz)[A-Za-z]+)`").FindAllStringSubmatch(string(page), -1)
	assert.Greater(t, len(names), 30)
	for _, name := range names {
		assert.Contains(t, code.String(), "func "+name[1]+"(", name[1])
	}
}
