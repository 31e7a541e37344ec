//go:build unix

package e2e

import (
	"os"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every flag that writes, with what may stand in the place of its file: a folder, a pipe, a device, a link to each, a name
// that is too long, a folder that is not there. Nothing is lost, nothing hangs, nothing else is written.
func TestWhereFilesAreWritten(t *testing.T) {
	t.Parallel()
	long := strings.Repeat("x", 250)
	for _, command := range []string{
		"convert a.csv -o FILE.csv", "convert a.csv -o FILE.xlsx", "convert a.csv -o FILE.parquet", "convert a.csv -o FILE.jsonl", "convert a.csv -o FILE.db", "convert a.csv -o FILE.tsv",
		"convert a.csv -o o.csv --failures FILE.csv", "convert a.csv -o o.csv --set-aside FILE.csv", "convert a.csv -o o.csv --ledger FILE.json", "convert a.csv -o o.csv --save-plan FILE.yaml",
		"convert a.csv -o o.csv --report FILE.html", "totals a.csv --by port --sum kg -o FILE.csv", "profile a.csv --save FILE.profile", "profile a.csv --picture FILE.svg",
		"report a.csv -o FILE.html", "draft a.csv -o FILE.yaml",
	} {
		for what, make := range map[string]func(f *folder, name string){
			"folder": func(f *folder, name string) { require.NoError(f.t, os.Mkdir(f.path(name), 0o755)) },
			"pipe":   func(f *folder, name string) { require.NoError(f.t, syscall.Mkfifo(f.path(name), 0o644)) },
			"device": func(f *folder, name string) { require.NoError(f.t, os.Symlink(os.DevNull, f.path(name))) },
			"link to a pipe": func(f *folder, name string) {
				require.NoError(f.t, syscall.Mkfifo(f.path("pipe"), 0o644))
				require.NoError(f.t, os.Symlink(f.path("pipe"), f.path(name)))
			},
			"long name": nil, "no folder": nil,
		} {
			f := newFolder(t)
			f.file("a.csv", "port,kg\nA,1\n,\nB,x\nC,2\nD,3\nE,4\nF,5\nG,6\nH,7\nI,8\nJ,9\nK,10\n")
			file := "there"
			switch what {
			case "long name":
				file = long
			case "no folder":
				file = "none/there"
			}
			args := strings.Fields(strings.ReplaceAll(command, "FILE", file))
			name := args[len(args)-1]
			if make != nil {
				make(f, name)
			}
			before := f.names()
			begun := time.Now()
			r := f.runWith("", args...)
			assert.Contains(t, []int{2, 3, 4}, r.code, "%s over a %s: %s", command, what, r.out)
			assert.NotContains(t, r.err, "report this as a bug", command)
			assert.Less(t, time.Since(begun), 20*time.Second)
			assert.Equal(t, before, f.names(), "%s over a %s: %s", command, what, r.err)
			if make != nil {
				info, err := os.Stat(f.path(name))
				require.NoError(t, err)
				assert.False(t, info.Mode().IsRegular(), "%s over a %s", command, what)
			}
		}
	}
	f := newFolder(t)
	f.file("a.csv", "port,kg\nA,1\n")
	for _, args := range []string{"convert a.csv -o o.csv --plan /dev/zero", "check a.csv --plan /dev/zero", "convert a.csv -o o.csv --fixes /dev/null", "totals a.csv --sum kg --expect /dev/zero", "profile a.csv --against /dev/zero"} {
		r := f.runWith("", strings.Fields(args)...)
		assert.NotEqual(t, 0, r.code, args)
		assert.Equal(t, []string{"a.csv"}, f.names(), args)
	}
}
