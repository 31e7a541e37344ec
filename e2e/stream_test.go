package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What goes to standard output is what a file gets, and nothing else is written that is not named.
func TestStandardOutputHasTheBytesOfAFile(t *testing.T) {
	t.Parallel()
	for _, format := range []string{"csv", "tsv", "jsonl"} {
		f := newFolder(t)
		f.file("a.csv", lots)
		file := f.run("convert", "a.csv", "-o", "o."+format)
		stream := f.run("convert", "a.csv", "-o", "-", "--output-format", format)
		assert.Equal(t, file.code, stream.code)
		assert.Equal(t, f.read("o."+format), stream.out)
		assert.Contains(t, stream.err, "wrote: standard output (5 rows)")
	}
	f := newFolder(t)
	f.file("a.csv", catches)
	f.file("p.yaml", catchPlan)
	r := f.run("convert", "a.csv", "-o", "-", "--plan", "p.yaml")
	assert.Equal(t, 1, r.code)
	names, err := filepath.Glob(f.path("*"))
	require.NoError(t, err)
	assert.Len(t, names, 2)
	r = f.run("convert", "a.csv", "-o", "-", "--as", "Kg=decimal", "--as", "Day=date", "--failures", "f.csv", "--set-aside", "s.csv", "--save-plan", "kept.yaml")
	require.Equal(t, 1, r.code, r.err)
	assert.Contains(t, f.read("f.csv"), "31.02.2021")
	assert.Contains(t, f.read("kept.yaml"), "plan: 1")
	_, err = os.Stat(f.path("s.csv"))
	assert.Error(t, err, "there is no row that was set aside")
	// A plan that may have been edited stays.
	f.file("kept.yaml", f.read("kept.yaml")+"# mine\n")
	r = f.run("convert", "a.csv", "-o", "-", "--save-plan", "kept.yaml")
	assert.Equal(t, 2, r.code)
	assert.Empty(t, r.out)
}

func TestStandardOutputGetsNothingOfWhatFails(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", catches)
	f.file("p.yaml", strings.Replace(catchPlan, `decimal-mark: ","`, `decimal-mark: ",", on-failure: stop`, 1))
	for args, code := range map[string]int{
		"convert a.csv -o - --plan p.yaml": 1, "convert nosuch.csv -o -": 3, "convert a.csv -o - --output-format xlsx": 2,
		"convert a.csv -o o.csv --output-format tsv": 2, "convert a.csv -o - --metadata": 2, "convert a.csv -o - --failures a.csv": 2,
		"convert a.csv -o - --fail-over 1% --as Day=date": 1,
	} {
		r := f.run(strings.Fields(args)...)
		assert.Equal(t, code, r.code, args)
		assert.Empty(t, r.out, args)
	}
	assert.Equal(t, catches, f.read("a.csv"))
}
