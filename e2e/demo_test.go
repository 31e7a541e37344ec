package e2e

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/demo"
	"junvo/internal/nets"
)

// truth is what the generator says the sample must come to.
type truth struct {
	rows     [][]string
	failures map[string]string // row and column to value and reason
	aside    map[int]string
}

func truthOf(t *testing.T, rows int) truth {
	t.Helper()
	var table bytes.Buffer
	tr := truth{failures: map[string]string{}, aside: map[int]string{}}
	require.NoError(t, demo.Generate(demo.Options{
		Rows: rows, Truth: &table,
		Failed: func(row int, column, value, reason string) {
			tr.failures[fmt.Sprint(row, " ", column)] = value + " " + reason
		},
		Aside: func(row int, reason string) { tr.aside[row] = reason },
	}))
	var err error
	tr.rows, err = csv.NewReader(&table).ReadAll()
	require.NoError(t, err)
	return tr
}

func TestTheSampleIsWhatTheGeneratorMakes(t *testing.T) {
	t.Parallel()
	var made bytes.Buffer
	require.NoError(t, demo.Generate(demo.Options{Rows: demo.Rows, Source: &made}))
	assert.True(t, bytes.Equal(committed(t), made.Bytes()), "demo/landings.csv is stale: run go generate ./demo")
}

// The converted sample is held against the truth, cell by cell, and the failures
// and the rows set aside against what was planted.
func TestDemoComesOutAsPlanted(t *testing.T) {
	t.Parallel()
	for _, rows := range []int{1, 17, demo.Rows, 20000} {
		t.Run(strconv.Itoa(rows), func(t *testing.T) {
			f := newFolder(t)
			r := f.run("demo", "d", "--rows", strconv.Itoa(rows))
			require.Equal(t, 0, r.code, r.err)
			if rows < 1000 {
				return // too few rows for the evidence of every column
			}
			want := truthOf(t, rows)
			got := f.records("d/clean.csv")
			require.Equal(t, len(want.rows), len(got))
			for i := range want.rows {
				require.Equal(t, want.rows[i], got[i], "record %d", i)
			}
			failures := map[string]string{}
			for _, rec := range f.records("d/clean.failures.csv")[1:] {
				value := strings.ReplaceAll(strings.ReplaceAll(rec[3], "⟨", ""), "⟩", "")
				failures[rec[0]+" "+rec[2]] = value + " " + rec[5]
				assert.NotEmpty(t, rec[1], "line")
				assert.NotEmpty(t, rec[4], "wanted")
				assert.NotEmpty(t, rec[7], "hint")
			}
			assert.Equal(t, want.failures, failures)
			aside := map[int]string{}
			for _, rec := range f.records("d/clean.setaside.csv")[1:] {
				if rec[2] != "above-header" {
					row, err := strconv.Atoi(rec[0])
					require.NoError(t, err)
					aside[row] = rec[2]
				}
			}
			assert.Equal(t, want.aside, aside)
		})
	}
}

// Lines in the failures file are lines of the source.
func TestFailuresHaveTheirLine(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	lines := strings.Split(string(committed(t)), "\n")
	for _, rec := range f.records("d/clean.failures.csv")[1:] {
		n, err := strconv.Atoi(rec[1])
		require.NoError(t, err)
		if plain := !strings.ContainsAny(rec[3], "⟨€°"); plain {
			assert.Contains(t, lines[n-1], rec[3], "line %d", n)
		}
	}
}

func TestDemoShowsTheJob(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := f.run("demo")
	require.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "$ junvo profile junvo-demo/landings.csv")
	assert.Contains(t, r.out, "$ junvo convert junvo-demo/landings.csv --plan junvo-demo/intake.plan.yaml -o junvo-demo/clean.csv")
	assert.Contains(t, r.out, "wrote: junvo-demo/clean.csv (1200 rows)")

	again := f.run("demo")
	assert.Equal(t, 2, again.code)
	assert.Contains(t, again.err, "is not empty")
}

// The bytes are the same for any number of workers.
func TestWorkersDoNotMatter(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d", "--rows", fmt.Sprint(nets.Size(8000, 30000))).code)
	type outcome struct{ profile, ledger, table, failures, aside string }
	var first outcome
	for i, n := range []string{"1", "2", "7"} {
		o := outcome{
			profile: f.run("profile", "d/landings.csv", "--format", "json", "--workers", n).out,
			ledger:  f.run("convert", "d/landings.csv", "-o", "out.csv", "--origin", "--workers", n).out,
			table:   f.read("out.csv"), failures: f.read("out.failures.csv"), aside: f.read("out.setaside.csv"),
		}
		if i == 0 {
			first = o
		}
		require.True(t, first == o, "with %s workers", n)
	}
	assert.Contains(t, first.table, "landings.csv,2,6\n")
}

// committed is the sample that is committed.
func committed(t *testing.T) []byte {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("..", "demo", demo.Name))
	require.NoError(t, err)
	return b
}
