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
