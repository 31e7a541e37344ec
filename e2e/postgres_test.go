//go:build unix

package e2e

import (
	"fmt"
	"math/rand/v2"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
	"junvo/internal/table/postgres/pgtest"
)

// Sums of numbers of 38 digits are those of PostgreSQL.
func TestTotalsAreThoseOfPostgreSQL(t *testing.T) {
	nets.Program(t, "psql")
	pgtest.Start(t, 0)
	f := newFolder(t)
	random := rand.New(rand.NewPCG(1, 2))
	var b strings.Builder
	b.WriteString("g,n\n")
	for range 3000 {
		n := ""
		if random.IntN(9) > 0 {
			n = fmt.Sprintf("%d%018d.%010d", random.Int64N(9e17)-4e17, random.Int64N(1e18), random.Int64N(1e10))
		}
		fmt.Fprintf(&b, "g%d,%s\n", random.IntN(40), n)
	}
	f.file("a.csv", b.String())
	cmd := exec.Command("psql", "-Atq", "-F", ",", "-v", "ON_ERROR_STOP=1")
	cmd.Stdin = strings.NewReader("CREATE TEMP TABLE t(g text, n numeric);\nCOPY t FROM STDIN (FORMAT csv, HEADER);\n" + b.String() +
		"\\.\nSELECT g, count(*), sum(n), min(n), max(n), count(DISTINCT n) FROM t GROUP BY g ORDER BY g COLLATE \"C\";\n")
	want, err := cmd.CombinedOutput()
	require.NoError(t, err, string(want))
	require.Equal(t, 0, f.run("totals", "a.csv", "--as", "n=decimal", "--by", "g", "--sum", "n", "--smallest", "n", "--largest", "n", "--distinct", "n", "-o", "o.csv").code)
	var got strings.Builder
	for _, x := range f.records("o.csv")[1:] {
		got.WriteString(strings.Join(x[:6], ",") + "\n")
	}
	assert.Equal(t, string(want), got.String())
}
