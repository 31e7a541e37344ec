package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// references are the pages that repeat a catalogue: behind the line that begins with
// the command they hold what it prints, indented. To bring them up to date, run
//
//	UPDATE_DOCS=1 go test ./e2e -run TestReferencePages
var references = []struct{ page, topic string }{
	{"readings.md", "types"},
	{"reasons.md", "reasons"},
	{"findings.md", "findings"},
	{"plan.md", "steps"},
	{"plan-keys.md", "plan"},
}

func TestReferencePages(t *testing.T) {
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
