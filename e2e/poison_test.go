package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// built builds the program with a tag.
func built(t *testing.T, tag string) string {
	path := filepath.Join(t.TempDir(), tag)
	build := exec.Command("go", "build", "-tags", tag, "-o", path, "junvo/cmd/junvo")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	out, err := build.CombinedOutput()
	require.NoError(t, err, "%s", out)
	return path
}

// manyBlocks is a table of several blocks with odd cells of all sorts in each.
func manyBlocks() string {
	var b strings.Builder
	b.WriteString("no,port,kg,day,at,note,label\n")
	odd := []string{"bad", "12,5", "n/a", "007", "31.02.2021", "", "25:71", "\"a \"\"b\"\"\"", "\u00a01", "1.234.5"}
	for i := range 20_000 {
		cell := func(c int, usual string) string {
			if (i*7+c)%97 == 0 {
				return `"` + strings.ReplaceAll(odd[(i/97+c)%len(odd)], `"`, `""`) + `"`
			}
			return usual
		}
		fmt.Fprintf(&b, "%d,%s,%s,%s,%s,%s,%s\n", i, cell(1, []string{"HAR", "HUL", "BRE"}[i%3]), cell(2, fmt.Sprintf("%d.%d", i%900, i%10)),
			cell(3, fmt.Sprintf("2021-%02d-%02d", i%12+1, i%28+1)), cell(4, fmt.Sprintf("%02d:%02d", i%24, i%60)),
			cell(5, fmt.Sprintf("\"crate \"\"%d\"\", on the quay\"", i%500)), cell(6, fmt.Sprintf("A-%d", i%300)))
		if i%9000 == 8999 {
			b.WriteString("Total,,1,,,,\n,,,,,,\n")
		}
	}
	return b.String()
}

// No sink, view or command keeps a piece of a buffer longer than it may: the program says and writes the same where each
// buffer is overwritten when its time is over.
func TestBuffersAreNotKept(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	poisoned := built(t, "poison")
	text := manyBlocks()
	for _, line := range []string{
		"profile in.csv", "profile in.csv --format json", "profile in.csv --column note", "profile in.csv --save p.jp",
		"convert in.csv -o out.csv", "convert in.csv -o out.jsonl --format json", "convert in.csv -o out.db", "convert in.csv -o out.xlsx",
		"convert in.csv -o out.parquet", "convert in.csv -o out.csv --keep-if kg>5 --order-by kg",
		"preview in.csv --all --where no>15000", "preview in.csv --all --where kg>500 --format json --rows 5000", "preview in.csv --all --alike 18010 --column kg", "preview in.csv --grid --all --rows 3000",
		"preview in.csv --all --steps --where no>15000 --rows 5000", "preview in.csv --all --failures --rows 60000", "why in.csv --row 18010", "why in.csv --row 19001 --column kg",
		"check in.csv", "totals in.csv --by port --sum kg", "totals in.csv --by label --sum kg --across port -o t.csv", "report in.csv -o out.html",
		"convert in.csv --turn day,at -o out.csv", "convert in.csv --section-heading-into section -o out.csv",
	} {
		t.Run(line, func(t *testing.T) {
			t.Parallel()
			var got [2]any
			for i, program := range []string{junvo, poisoned} {
				f := newFolder(t)
				f.program = program
				f.file("in.csv", text)
				r := f.run(strings.Fields(line)...)
				require.NotContains(t, r.err, "flag", line)
				got[i] = []any{r, f.contents()}
			}
			require.True(t, reflect.DeepEqual(got[0], got[1]))
		})
	}
}
