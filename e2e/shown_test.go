package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What the documents show a command to print is what it prints. Blocks that begin with
// "$ junvo" are run in order in a folder where the demo has been; a line that is … stands
// for any lines. A block of YAML or CSV that begins with "# name" is a file of that name.
func TestDocumentsShowWhatIsPrinted(t *testing.T) {
	t.Parallel()
	for _, name := range []string{"README.md", "docs/guide.md", "docs/plan.md"} {
		text, err := os.ReadFile(filepath.Join("..", filepath.FromSlash(name)))
		require.NoError(t, err)
		f := newFolder(t)
		require.Equal(t, 0, f.run("demo").code)
		blocks := 0
		for i, block := range strings.Split(string(text), "```") {
			if kind, text, ok := strings.Cut(block, "\n# "); ok && i%2 == 1 && (kind == "yaml" || kind == "csv") {
				file, _, _ := strings.Cut(text, "\n")
				f.file(file, text[len(file)+1:])
				continue
			}
			block = strings.TrimPrefix(block, "\n")
			line, want, _ := strings.Cut(block, "\n")
			command, ok := strings.CutPrefix(line, "$ junvo ")
			if i%2 == 0 || !ok || strings.Contains(command, "|") {
				continue
			}
			blocks++
			r := f.run(words(command)...)
			assert.LessOrEqual(t, r.code, 1, "%s: %s", command, r.err)
			if ok, why := shows(want, r.out); !ok {
				t.Errorf("%s shows of %q what is not printed:\n%s\nprinted is:\n%s", name, command, why, r.out)
			}
		}
		assert.Positive(t, blocks, name)
	}
}

// words takes a command line apart at spaces outside double quotes.
func words(line string) (out []string) {
	for i, part := range strings.Split(line, `"`) {
		if i%2 == 1 {
			out = append(out, part)
			continue
		}
		out = append(out, strings.Fields(part)...)
	}
	return out
}

// shows reports whether the lines stand in the output in this order, and next to each
// other where no … stands between them.
func shows(want, out string) (bool, string) {
	printed := strings.Split(strings.TrimRight(out, "\n"), "\n")
	at, gap := 0, false
	for _, line := range strings.Split(strings.TrimRight(want, "\n"), "\n") {
		line = strings.TrimRight(line, " ")
		if strings.TrimSpace(line) == "…" {
			gap = true
			continue
		}
		if want == "" {
			return true, ""
		}
		found := -1
		for j := at; j < len(printed) && (gap || j == at); j++ {
			if strings.TrimRight(printed[j], " ") == line {
				found = j
				break
			}
		}
		if found < 0 {
			return false, line
		}
		at, gap = found+1, false
	}
	return true, ""
}
