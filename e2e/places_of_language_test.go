package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/show"
)

// What the table of places says can be said there, can be: each is run by the program.
func TestPlacesOfTheLanguage(t *testing.T) {
	t.Parallel()
	for _, p := range show.Places {
		f := newFolder(t)
		f.file("a.csv", show.PlacesTable)
		f.file("p.yaml", "plan: 1\n"+p.Plan)
		done := func(args ...string) {
			t.Helper()
			r := f.run(args...)
			require.LessOrEqual(t, r.code, 1, "%s: %v: %s", p.Name, args, r.err)
		}
		done("convert", "a.csv", "-o", "plan.csv", "--plan", "p.yaml")
		done("preview", "a.csv", "--plan", "p.yaml")
		done("totals", "a.csv", "--plan", "p.yaml")
		done("report", "a.csv", "--plan", "p.yaml", "-o", "p.html")
		if p.Name != "columns that become rows" {
			done("teach", "a.csv", "Keeper", "--plan", "p.yaml", "--example", "Anke Petersen => Anke", "--example", "Jan Quay => Jan", "--into", "taught", "--format", "json")
		}
		done("convert", "a.csv", "-o", "taught.csv", "--plan", "p.yaml")
		assert.NotEmpty(t, p.Reason+show.CommandLine(p.Flags), p.Name)
		if p.Flags != nil {
			done(append([]string{"convert", "a.csv", "-o", "flags.csv"}, p.Flags...)...)
			done(append([]string{"preview", "a.csv"}, p.Flags...)...)
			done(append([]string{"draft", "a.csv"}, p.Flags...)...)
			done(append([]string{"report", "a.csv", "-o", "f.html"}, p.Flags...)...)
			r := f.run(append([]string{"totals", "a.csv"}, p.Flags...)...)
			assert.Equal(t, p.NotInTotals == "", r.code <= 1, "%s: %s", p.Name, r.err)
		}
		assert.NotEmpty(t, p.Expression+p.ReasonInExpression, p.Name)
		if p.Expression != "" {
			done("convert", "a.csv", "-o", "expression.csv", "--compute", "x = "+p.Expression)
		}
	}
}
