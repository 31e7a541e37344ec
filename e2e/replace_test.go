package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// A file that is no output of an earlier run stays, whatever writes; the same run again takes the place of its own.
func TestFilesOfPeopleStay(t *testing.T) {
	t.Parallel()
	const source = "kg,port\n1,HAR\n2,HUL\n"
	for i, command := range []string{
		"convert a.csv -o FILE.csv", "convert a.csv -o FILE.tsv", "convert a.csv -o FILE.jsonl", "convert a.csv -o FILE.xlsx",
		"convert a.csv -o FILE.parquet", "convert a.csv -o o.csv --ledger FILE.json", "totals a.csv --by port --sum kg -o FILE.csv",
		"totals a.csv --by port --sum kg -o FILE.xlsx", "totals a.csv --by kg --across port -o FILE.csv", "profile a.csv --save FILE.profile",
		"convert a.csv --origin -o FILE.csv", "report a.csv -o FILE.html", "profile a.csv --report FILE.html", "check a.csv --plan p.yaml --report FILE.html",
		"convert a.csv -o o.csv --report FILE.html", "convert a.csv -o o.csv --as kg=date --failures FILE.csv",
	} {
		for what, text := range map[string]string{
			"text": "my notes\n", "words": "junvo profile landings.csv, and {\n  \"junvo\": 1}\n", "table": "kg,harbour\n1,HAR\n", "json": "{\"kg\": 1}\n", "bytes": "\x00\x01\xff", "empty": "",
		} {
			if what != "table" && i%nets.Size(3, 1) != 0 { // a table of other columns may look like ours
				continue
			}
			f := newFolder(t)
			f.file("a.csv", source)
			f.file("p.yaml", "plan: 1\ncolumns:\n  kg: {to: integer}\n  port: {to: text}\n")
			args := strings.Fields(strings.ReplaceAll(command, "FILE", "x"))
			name := args[len(args)-1]
			f.file(name, text)
			r := f.runWith("", args...)
			if what == "empty" {
				require.LessOrEqual(t, r.code, 1, "%s: %s", command, r.err)
			} else {
				assert.Equal(t, 2, r.code, "%s over %s", command, what)
				assert.Contains(t, r.err, name+" is there and is no ", command)
				assert.Contains(t, r.err, "--replace", command)
				assert.Equal(t, text, f.read(name), command)
				require.LessOrEqual(t, f.runWith("", append(args, "--replace")...).code, 1, command)
			}
			f.file("a.csv", source+"3,BRE\n") // of next month
			r = f.runWith("", args...)
			require.LessOrEqual(t, r.code, 1, "%s again: %s", command, r.err)
		}
	}
}
