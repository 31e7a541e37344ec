package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Saved profiles of the parts make the profile of the whole, byte for byte.
func TestCombinedPartsAreTheWhole(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 0, f.run("demo", "d").code)
	lines := strings.SplitAfter(f.read("d/landings.csv"), "\n")
	header, rows := lines[3], lines[4:]
	for i, cut := range [][2]int{{0, 300}, {300, 310}, {310, len(rows)}} {
		name := string(rune('a' + i))
		f.file(name+".csv", header+strings.Join(rows[cut[0]:cut[1]], ""))
		r := f.run("profile", name+".csv", "--save", name+".profile", "--workers", name[:0]+"2", "--column", "Boxes")
		require.Equal(t, 0, r.code, r.err)
		assert.Contains(t, r.out, "Boxes (column 7 of 15)")
	}
	for _, show := range [][]string{{"--format", "json"}, nil, {"--column", "Net weight"}, {"--as", "Boxes=text", "--fit", "99%", "--format", "csv"}} {
		whole := f.run(append([]string{"profile", "a.csv", "b.csv", "c.csv"}, show...)...)
		parts := f.run(append([]string{"combine", "a.profile", "b.profile", "c.profile"}, show...)...)
		require.Equal(t, 0, parts.code, parts.err)
		// Whether total rows are what their rows add up to, only rows can tell.
		said, rest, _ := strings.Cut(whole.out, "total rows: ")
		if rest != "" {
			assert.True(t, strings.HasPrefix(rest, "5 of 6 agree"), rest)
		}
		assert.Equal(t, said, parts.out, show)
	}
	once := f.read("a.profile")
	require.Equal(t, 0, f.run("profile", "a.csv", "--save", "a.profile", "--workers", "3").code)
	assert.Equal(t, once, f.read("a.profile"), "a saved profile does not depend on the workers")
}

func TestCombineIsAskedWrongly(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a,b\n1,2\n")
	f.file("b.csv", "a,c\n1,2\n")
	require.Equal(t, 0, f.run("profile", "a.csv", "--save", "a.profile").code)
	require.Equal(t, 0, f.run("profile", "b.csv", "--save", "b.profile", "--blank-word", "x").code)
	require.Equal(t, 0, f.run("profile", "a.csv", "--save", "x.profile", "--blank-word", "x").code)
	f.file("cut.profile", f.read("a.profile")[:200])
	f.file("old.profile", strings.Replace(f.read("a.profile"), "gVersion\x06", "gVersion\x01", 1))
	for _, tt := range []struct {
		args []string
		code int
		want string
	}{
		{nil, 2, "which saved profiles?"},
		{[]string{"a.csv"}, 3, "no saved profile"},
		{[]string{"none.profile"}, 3, "none.profile: no such file"},
		{[]string{"cut.profile"}, 3, "damaged"},
		{[]string{"old.profile"}, 3, "version 1"},
		{[]string{"a.profile", "b.profile"}, 2, `lacks "b" and has "c" more`},
		{[]string{"a.profile", "x.profile"}, 2, "other blank words"},
		{[]string{"a.profile", "--column", "z"}, 2, `no column "z"`},
	} {
		r := f.run(append([]string{"combine"}, tt.args...)...)
		assert.Equal(t, tt.code, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
	}
	assert.Equal(t, 4, f.run("profile", "a.csv", "--save", "none/a.profile").code)
}
