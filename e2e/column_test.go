package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// columnDoc is what the tests look at of a column in JSON.
type columnDoc struct {
	Name               string
	Smallest, Largest  string
	Sum, Mean          string
	Quartiles          []string
	QuartilesEstimated bool `json:"quartiles_estimated"`
	Histogram          []struct {
		From, To string
		Cells    int
	}
	Lengths struct{ Shortest, Longest int }
	Shapes  []struct {
		Shape   string
		Count   int
		Row     int
		Example string
	}
	Frequent []struct {
		Value string
		Count int
	}
}

func columnsOf(t *testing.T, r result) map[string]columnDoc {
	t.Helper()
	var doc struct{ Columns []columnDoc }
	require.NoError(t, json.Unmarshal([]byte(r.out), &doc), r.err)
	byName := map[string]columnDoc{}
	for _, c := range doc.Columns {
		byName[c.Name] = c
	}
	return byName
}

func TestDetailsOfColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("n;d;t\n")
	for i := 1; i <= 100; i++ {
		fmt.Fprintf(&b, "%d,5;%02d.%02d.2021;%s\n", i, 1+i%28, 1+i%12, strings.Repeat("x", 1+i%3))
	}
	b.WriteString("bad;01.01.2022;\n")
	f.file("a.csv", b.String())
	r := f.run("profile", "a.csv", "--format", "json")
	fits(t, "profile.schema.json", r.out)
	c := columnsOf(t, r)
	n := c["n"]
	assert.Equal(t, []string{"25.5", "50.5", "75.5"}, n.Quartiles)
	assert.False(t, n.QuartilesEstimated)
	assert.Equal(t, "5100.0", n.Sum)
	assert.Equal(t, "51", n.Mean)
	require.Len(t, n.Histogram, 10)
	total := 0
	for _, h := range n.Histogram {
		total += h.Cells
	}
	assert.Equal(t, 100, total)
	assert.Equal(t, "99,9", n.Shapes[0].Shape)
	assert.Equal(t, 90, n.Shapes[0].Count)
	assert.Equal(t, 10, n.Shapes[0].Row)
	assert.Equal(t, 5, n.Lengths.Longest)
	assert.Equal(t, 3, n.Lengths.Shortest)
	assert.Equal(t, "xx", c["t"].Frequent[0].Value)
	assert.Equal(t, 34, c["t"].Frequent[0].Count)
	assert.Len(t, c["d"].Quartiles, 3)
	assert.Equal(t, c["d"].Smallest, c["d"].Histogram[0].From)
}

// Beyond 10,000 different texts quartiles are estimates, and say so.
func TestQuartilesOfManyNumbersAreEstimated(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("n\n")
	for i := range 30_000 {
		fmt.Fprintf(&b, "%d.25\n", i)
	}
	f.file("a.csv", b.String())
	one := f.run("profile", "a.csv", "--format", "json", "--workers", "1")
	n := columnsOf(t, one)["n"]
	assert.True(t, n.QuartilesEstimated)
	for i, want := range []float64{7500, 15000, 22500} {
		var got float64
		_, err := fmt.Sscan(n.Quartiles[i], &got)
		require.NoError(t, err)
		assert.InEpsilon(t, want, got, 0.011)
	}
	assert.Empty(t, n.Frequent)
	assert.Equal(t, one.out, f.run("profile", "a.csv", "--format", "json", "--workers", "2").out)
	assert.Contains(t, f.run("profile", "a.csv", "--column", "n").out, "(estimated, within 1 %)")
}

func TestOpenedColumn(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	r := f.run("profile", "a.csv", "--column", "weight")
	require.Equal(t, 0, r.code, r.err)
	for _, want := range []string{
		`Weight (column 3 of 4): decimal (decimal mark ",", group mark ".", unit kg)`, "cells              13: 11 fit, 1 fail, 1 blank",
		"9.999,9 aa", "1240.5", "the odd ones out", "«see book»", "histogram", "█", "quartiles",
	} {
		assert.Contains(t, r.out, want)
	}
	assert.NotContains(t, r.out, "Landed")
	r = f.run("profile", "a.csv", "--column", "wieght")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, `Did you mean "Weight"?`)
}

func TestSelectionOfColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", january)
	names := func(args ...string) (out []string) {
		r := f.run(append([]string{"profile", "a.csv", "--format", "csv"}, args...)...)
		require.Equal(t, 0, r.code, r.err)
		for _, line := range strings.Split(strings.TrimSpace(r.out), "\n")[1:] {
			name, _, _ := strings.Cut(line, ",")
			out = append(out, name)
		}
		return out
	}
	assert.Equal(t, []string{"No", "Name", "Weight", "Landed"}, names())
	assert.Equal(t, []string{"Landed", "Name", "No", "Weight"}, names("--sort", "name"))
	assert.Equal(t, "Weight", names("--sort", "fails")[0])
	assert.Equal(t, "Weight", names("--sort", "blank")[0])
	assert.Equal(t, []string{"Weight"}, names("--only", "mixed"))
	assert.Equal(t, []string{"Name"}, names("--only", "text"))
	assert.NotContains(t, names("--only", "findings"), "Name")
	assert.Equal(t, 2, f.run("profile", "a.csv", "--only", "odd").code)
	assert.Equal(t, 2, f.run("profile", "a.csv", "--sort", "size").code)
}

// Details do not depend on how many workers there were, nor on how many columns.
func TestDetailsDoNotDependOnWorkers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d", "--rows", "20000").code)
	one := f.run("profile", "d/landings.csv", "--format", "json", "--workers", "1")
	two := f.run("profile", "d/landings.csv", "--format", "json", "--workers", "2")
	assert.Equal(t, one.out, two.out)
}

// A wide table is folded: what there is nothing to tell of shares a line.
func TestWideTablesAreFolded(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var names, cells []string
	for i := range 2000 {
		names = append(names, fmt.Sprint("m", i))
		cell := fmt.Sprint(i)
		switch {
		case i%15 == 0:
			cell = "1,5 kg"
		case i%3 == 0:
			cell = "word"
		}
		cells = append(cells, cell)
	}
	f.file("wide.csv", strings.Join(names, ";")+"\n"+strings.Join(cells, ";")+"\n"+strings.Join(cells, ";")+"\n")
	r := f.run("profile", "wide.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Less(t, strings.Count(r.out, "\n"), 130)
	assert.Regexp(t, `1333 columns +integer +i+ +100 % +0 +0 +m1, m2, m4, m5, …`, r.out)
	assert.Regexp(t, `533 columns +text`, r.out)
	assert.Contains(t, r.out, "34 more columns with findings are left out: --unfold shows each")
	assert.Greater(t, strings.Count(f.run("profile", "wide.csv", "--unfold").out, "\n"), 2000)
	assert.Len(t, strings.Split(strings.TrimSpace(f.run("profile", "wide.csv", "--format", "csv").out), "\n"), 2001)
}
