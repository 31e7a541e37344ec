package draft

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/table/tabletest"
	"junvo/internal/value"
)

func profiled(t *testing.T, perBlock, workers int, lines ...string) *profile.Profile {
	t.Helper()
	p, err := profile.Run(t.Context(), tabletest.NewLines(perBlock, lines...), profile.Options{Workers: workers})
	require.NoError(t, err)
	return p
}

func lines(n int, line string) (out []string) {
	for range n {
		out = append(out, line)
	}
	return out
}

func TestDrift(t *testing.T) {
	before := append([]string{"day|kg|ok|code"}, append(lines(12, "25.02.2021|1,5 kg|ja|A-1"), lines(3, "03.02.2021|2,5 kg|nein|B-2")...)...)
	p := Plan(profiled(t, 4, 1, before...), nil, false)
	assert.Empty(t, Drift(profiled(t, 7, 2, before...), p))
	for _, tt := range []struct {
		old, new string
		want     string
	}{
		{"day|kg|ok|code", "day|kilo|ok|code", "column-missing kg, column-new kilo"},
		{"day|kg|ok|code", "kg|day|ok|code", "column-moved , type-changed day, type-changed kg"},
		{" kg", " lb", "convention-changed kg"},
		{",5 kg", ".5 kg", "convention-changed kg"},
		{"25.02.2021", "02.25.2021", "convention-changed day, range-widened day"},
		{"nein|B-2", "-|B-2", "type-changed ok, blanks-moved ok"},
		{"2,5 kg", "n/a", "blank-words-new kg, blanks-moved kg"},
		{"|1,5 kg", "|heavy", "type-changed kg"},
	} {
		now := strings.Split(strings.ReplaceAll(strings.Join(before, "\n"), tt.old, tt.new), "\n")
		var got []string
		for _, d := range Drift(profiled(t, 5, 1, now...), p) {
			got = append(got, d.Kind.String()+" "+d.Column)
			assert.NotEmpty(t, d.Say)
		}
		assert.Equal(t, tt.want, strings.Join(got, ", "), "%s to %s", tt.old, tt.new)
	}
}

// Every kind has an entry of its own number and name.
func TestCatalogue(t *testing.T) {
	names := map[string]bool{}
	for i, e := range Catalogue[1:] {
		assert.EqualValues(t, i+1, e.Kind, e.Name)
		assert.NotEmpty(t, e.Say, e.Name)
		assert.False(t, names[e.Name], e.Name)
		names[e.Name] = true
	}
}

// What makes a source unfit: drift that matters, any where it is held to all, and too many failures.
func TestFits(t *testing.T) {
	moved, changed := []Difference{{Kind: ColumnMoved}, {Kind: RangeWidened}}, []Difference{{Kind: ColumnNew}, {Kind: TypeChanged}}
	assert.True(t, Fits(nil, 0, 100, 0, true))
	assert.True(t, Fits(moved, 0, 100, 0, false))
	assert.False(t, Fits(moved, 0, 100, 0, true))
	assert.False(t, Fits(changed, 0, 100, 0, false))
	assert.False(t, Fits(nil, 1, 100, 0, false))
	assert.True(t, Fits(nil, 5, 100, 0.05, false))
	assert.False(t, Fits(nil, 6, 100, 0.05, false))
}

// The plan that is drafted says what the profile has found, and loads.
func TestDraftedPlansLoad(t *testing.T) {
	for i, list := range [][]string{
		{"a", "1,5", "2,5", "x"},
		{"a: b", "03/04/2021", "04/05/2021"},
		{"\"q\"|#c", "1.234|x\ny", "5.678|"},
		{"true|null|1", "ja|-|00417", "nein|x|00418", "ja|y|00419", "ja|y|00419", "ja|y|00419"},
	} {
		p := profiled(t, 10, 1, list...)
		for _, usable := range []bool{false, true} {
			text, err := Plan(p, []string{"n. a."}, usable).Write()
			require.NoError(t, err)
			loaded, err := plan.Load(text)
			require.NoError(t, err, string(text))
			_, err = loaded.Bind(p.Info.Names)
			require.NoError(t, err, string(text))
			for c := range loaded.Columns {
				assert.Equal(t, p.Columns[c].Conclusion.Convention.Type, loaded.Columns[c].Convention.Type, "%d %s", i, text)
			}
		}
	}
	p := Plan(profiled(t, 10, 1, "a|A|a b|a_b", "1|2|3|4"), nil, true)
	assert.Equal(t, []string{"a", "a_2", "a_b", "a_b_2"}, []string{p.Columns[0].Name, p.Columns[1].Name, p.Columns[2].Name, p.Columns[3].Name})
}

// What a plan records does not depend on the workers, nor on how the source is cut.
func TestRecordDoesNotDependOnTheWorkers(t *testing.T) {
	lines := []string{"no|kg|code"}
	for i := range 300 {
		lines = append(lines, fmt.Sprintf("%d|%d,%d|%s", i, i%50, i%10, strings.Repeat("-", i%40)+"x"))
	}
	var first *plan.Record
	for _, tt := range []struct{ each, workers int }{{300, 1}, {7, 1}, {7, 4}, {1, 3}} {
		p, err := profile.Run(t.Context(), tabletest.NewLines(tt.each, lines...), profile.Options{Workers: tt.workers, Shapes: func(name string) bool { return name != "no" }})
		assert.NoError(t, err)
		r := Record(p)
		if first == nil {
			first = r
		}
		assert.Equal(t, first, r)
	}
	assert.EqualValues(t, 300, first.Rows)
	assert.Nil(t, first.Columns[0].Shapes, "not asked for")
	assert.Equal(t, []string{"9,9", "99,9"}, first.Columns[1].Shapes)
	assert.Nil(t, first.Columns[2].Shapes, "too many")
	assert.Equal(t, value.Decimal, first.Columns[1].Type)
	assert.Equal(t, [2]string{"0.0", "49.9"}, [2]string{first.Columns[1].Smallest, first.Columns[1].Largest})
}
