package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// A list of one column stays one, whatever its texts contain: every character that may be a delimiter, in some, many or
// all of them, once or several times.
func TestListsOfOneColumn(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 1))
	words := strings.Fields("Okafor Anke Petersen Jan Quay North Marlies Wiking Alte Liebe crate lot hold ice net gear dock shift")
	pick := func() string { return words[r.IntN(len(words))] }
	makes := map[string]func(sep string) string{
		"names":   func(sep string) string { return pick() + sep + " " + pick() },
		"glued":   func(sep string) string { return pick() + sep + pick() },
		"numbers": func(sep string) string { return pick() + sep + fmt.Sprintf(" %d", r.IntN(400)) },
		"remarks": func(sep string) string {
			return strings.Join([]string{pick(), pick(), pick()}[:2+r.IntN(2)], sep+" ") + sep + " " + pick()
		},
	}
	for _, sep := range []string{",", ";", "|", ":", "#", "~", "^", "\t"} {
		for kind, text := range makes {
			for _, share := range []float64{0.2, 0.7, 1}[nets.Size(2, 0):] {
				for _, n := range []int{3, 53} {
					f := newFolder(t)
					var b strings.Builder
					b.WriteString("Entry\n")
					for range n {
						if r.Float64() < share {
							b.WriteString(text(sep) + "\n")
						} else {
							b.WriteString(pick() + " " + pick() + "\n")
						}
					}
					f.file("in.csv", b.String())
					got := f.run("convert", "in.csv", "-o", "out.jsonl", "--format", "json")
					var ledger struct {
						Rows    struct{ In, Out int }
						Columns []struct{ Name string }
					}
					require.NoError(t, json.Unmarshal([]byte(got.out), &ledger), got.err)
					say := fmt.Sprintf("%q %s %v %d: %s", sep, kind, share, n, b.String()[:min(b.Len(), 120)])
					if assert.Len(t, ledger.Columns, 1, say) {
						assert.Equal(t, n, ledger.Rows.In, say)
						assert.Equal(t, n, ledger.Rows.Out, say)
					}
				}
			}
		}
	}
}
