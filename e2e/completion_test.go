package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// completed is what the program offers a shell for the last word of a line.
func (f *folder) completed(words ...string) []string {
	f.t.Helper()
	r := f.run(append([]string{"__complete"}, words...)...)
	require.Zero(f.t, r.code, r.err)
	lines := strings.Split(strings.TrimSuffix(r.out, "\n"), "\n")
	return lines[:len(lines)-1] // the last one says how to go on
}

func TestCompletionOfValues(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("n.csv", "Net weight;Tag;Größe\n1;2;3\n")
	for line, want := range map[string]string{
		"convert|n.csv|--only|": "Net weight|Tag|Größe", "convert|n.csv|--only|Ta": "Tag", "convert|n.csv|--only|Tag,": "Tag,Net weight|Tag,Größe",
		"convert|n.csv|--leave-out|net": "Net weight", "convert|n.csv|--as|T": "Tag=", "convert|n.csv|--as|Tag=d": "Tag=decimal|Tag=date",
		"preview|n.csv|--step|Tag: ke": "Tag: keep", "draft|n.csv|--split|T": `Tag: {at: " "} =>`, "totals|n.csv|--sum|N": "Net weight",
		"totals|n.csv|--by|G": "Größe", "profile|n.csv|--format|": "table|json|csv|markdown", "profile|n.csv|--column|": "Net weight|Tag|Größe",
		"profile|n.csv|--source-format|x": "xml", "profile|n.csv|--date-order|": "dmy|mdy|ymd", "profile|nosuch.csv|--column|": "", "profile|--column|": "",
		"profile|n.csv|--delimiter|,|--column|": "Net weight;Tag;Größe", "convert|n.csv|--ddl|s": "sqlite", "profile|n.csv|--only|fin": "findings", "help|kee": "keep", "help|fin": "findings",
	} {
		assert.Equal(t, want, strings.Join(f.completed(strings.Split(line, "|")...), "|"), line)
	}
	if exec.Command("mkfifo", f.path("pipe")).Run() == nil { // it is not read from, which would wait
		assert.Equal(t, []string{""}, append(f.completed("profile", "pipe", "--column", ""), "")[:1])
		require.NoError(t, os.Remove(f.path("pipe")))
	}
	assert.Equal(t, []string{"n.csv"}, f.names())
}

// The shells themselves complete what they are told.
func TestCompletionInShells(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("n.csv", "Weight;Tag\n1;2\n")
	for shell, script := range map[string]string{
		"bash": `. /usr/share/bash-completion/bash_completion; . <(junvo completion bash)
COMP_LINE="junvo profile n.csv --column W"; COMP_POINT=${#COMP_LINE}; COMP_WORDS=(junvo profile n.csv --column W); COMP_CWORD=4; __start_junvo; echo "${COMPREPLY[@]}"`,
		"fish": `junvo completion fish | source; complete -C "junvo profile n.csv --column W"`,
		"zsh": `autoload -U compinit; compinit -u -d zcompdump; source <(junvo completion zsh)
_describe() { print -rl -- $completions }; words=(junvo profile n.csv --column W); CURRENT=5; _junvo`,
	} {
		path := nets.Program(t, shell)
		if _, err := os.Stat("/usr/share/bash-completion/bash_completion"); err != nil && shell == "bash" {
			nets.Missing(t, "bash-completion")
		}
		cmd := exec.Command(path, "-c", script)
		cmd.Dir = f.dir
		cmd.Env = append(os.Environ(), "PATH="+filepath.Dir(junvo)+":"+os.Getenv("PATH"), "TMPDIR="+f.temp, "HOME="+f.dir)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s: %s", shell, out)
		assert.Contains(t, string(out), "Weight", shell)
		assert.NotContains(t, string(out), "Tag", shell)
	}
}
