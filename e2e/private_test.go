package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Values of a private column appear in nothing that is printed or written but the table itself.
func TestPrivateValuesAppearNowhere(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("no,skipper,share,port\n")
	for i := range 60 {
		fmt.Fprintf(&b, "%d,Zebulon%c,%d.5 Qwx,HAR\n", i, 'a'+i%20, 7000+i)
	}
	b.WriteString("61,Zebulon\u00a0x,7777.5 Qwz,HAR\n62,,Zebulon none,HAR\n63,a,b,c,Zebulon\n")
	f.file("in.csv", b.String())
	secret := func(text, where string) {
		t.Helper()
		for _, s := range []string{"Zebulon", "Qwz", "7000", "7777"} {
			assert.NotContains(t, text, s, where)
		}
	}
	private := []string{"--private", "skipper", "--private", "share"}
	for _, args := range [][]string{
		{"profile", "in.csv"},
		{"profile", "in.csv", "--format", "json"},
		{"profile", "in.csv", "--column", "skipper", "--column", "share"},
		{"profile", "in.csv", "--as", "share=date", "--as", "skipper=integer", "--format", "json"},
		{"profile", "in.csv", "--save", "in.profile"},
		{"draft", "in.csv", "-o", "p.yaml"},
		{"preview", "in.csv"},
		{"preview", "in.csv", "--format", "json"},
		{"why", "in.csv", "--row", "61", "--column", "skipper"},
		{"why", "in.csv", "--row", "61", "--column", "share", "--format", "json"},
		{"convert", "in.csv", "-o", "out.csv", "--as", "skipper=integer"},
	} {
		r := f.run(append(args, private...)...)
		require.LessOrEqual(t, r.code, 1, "%v %s", args, r.err)
		secret(r.out+r.err, strings.Join(args, " "))
	}
	for _, args := range [][]string{
		{"combine", "in.profile", "--format", "json"},
		{"combine", "in.profile", "--column", "share"},
		{"check", "in.csv", "--plan", "out.plan.yaml"},
		{"why", "in.csv", "--row", "61", "--column", "skipper", "--plan", "out.plan.yaml"},
		{"preview", "in.csv", "--plan", "p.yaml"},
	} {
		r := f.run(args...)
		require.LessOrEqual(t, r.code, 1, "%v %s", args, r.err)
		secret(r.out+r.err, strings.Join(args, " "))
	}
	for _, name := range f.names() {
		if name == "in.csv" || name == "out.csv" {
			continue
		}
		text, err := os.ReadFile(filepath.Join(f.dir, name))
		require.NoError(t, err)
		secret(string(text), name)
	}
	assert.Contains(t, f.read("out.failures.csv"), "skipper,Aaaaaaaa,integer,not-a-number")
	assert.Contains(t, f.run("profile", "in.csv", "--private", "skipper", "--column", "skipper").out, "Aaaaaaaa")
	r := f.run("convert", "in.csv", "-o", "out.csv", "--plan", "out.plan.yaml", "--reveal")
	require.Equal(t, 1, r.code)
	assert.Contains(t, f.read("out.failures.csv"), "skipper,Zebulona,integer,not-a-number")
	assert.Contains(t, f.read("out.setaside.csv"), "Zebulon")
	assert.Contains(t, f.run("why", "in.csv", "--row", "61", "--column", "skipper", "--private", "skipper", "--reveal").out, "Zebulon")
	assert.Equal(t, 2, f.run("profile", "in.csv", "--private", "skiper").code)
}

// The failure of a private cell shows its shape, and can be answered for its row; an answer
// for every cell of that shape would be one for cells that nobody has seen.
func TestFixesOfPrivateColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "no,card\n1,secret1\n2,bad\n3,odd\n")
	f.file("p.yaml", "plan: 1\ncolumns: {no: {to: integer}, card: {to: text, private: true, must: {matches: \"^secret\"}}}\n")
	require.Equal(t, 1, f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	failures := f.read("o.failures.csv")
	assert.NotContains(t, failures, "bad")
	assert.Equal(t, 2, strings.Count(failures, ",aaa,"))
	f.file("answers.csv", strings.Replace(failures, "\"Correct the cell, or change the pattern.\",\n", "\"Correct the cell, or change the pattern.\",secret2\n", 1))
	r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv", "--fixes", "answers.csv")
	assert.Equal(t, 1, r.code, r.err)
	assert.Equal(t, "no,card\n1,secret1\n2,secret2\n3,\n", f.read("o.csv"))
	f.file("groups.csv", "column,value,fix\ncard,aaa,secret3\n")
	r = f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o.csv", "--fixes", "groups.csv")
	assert.Contains(t, r.err, `the fix for "aaa" in column "card" matches no failure`)
	assert.Equal(t, "no,card\n1,secret1\n2,\n3,\n", f.read("o.csv"))
}

// What is found that changes what values mean tells nothing of a private column but counts.
func TestDoubtsOfPrivateColumns(t *testing.T) {
	t.Parallel()
	for text, secrets := range map[string][]string{
		"port;n;x\nA;7310;a\nB;7320;b\nC;7323;c\nTotal;21954;\n": {"21954", "21953"},
		"n;x\n71.1;a\n71.10;b\n72.5;c\n":                         {"71.1"},
		"n;kg\n71.234;1,5\n75.678;22,75\n":                       {"71.234", "71234"},
	} {
		f := newFolder(t)
		f.file("a.csv", text)
		r := f.run("convert", "a.csv", "-o", "o.csv", "--private", "n")
		require.LessOrEqual(t, r.code, 1, r.err)
		all := r.out + r.err + f.read("o.plan.yaml") + f.run("profile", "a.csv", "--private", "n").out
		for _, s := range secrets {
			assert.NotContains(t, all, s, text)
		}
	}
}
