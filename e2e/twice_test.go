package e2e

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// A flag that is given twice says so, whichever it is of whichever command, unless its help says that it is repeatable or takes
// a list.
func TestEveryFlagTwice(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	list := regexp.MustCompile(`(?m)^\s+(?:-\w, )?--([a-z-]+)(?: ([A-Z,]+))?\s{2,}(.*)$`)
	tried := 0
	for _, command := range []string{"profile", "combine", "why", "draft", "preview", "convert", "totals", "teach", "check", "report", "demo"} {
		help := regexp.MustCompile(`\n {12,}`).ReplaceAllString(f.run(command, "--help").out, " ")
		flags := list.FindAllStringSubmatch(help, -1)
		require.NotEmpty(t, flags, command)
		for i, flag := range flags {
			name, kind := flag[1], flag[2]
			if name == "help" || i%nets.Size(3, 1) != 0 {
				continue
			}
			once := "--" + name + "=1"
			if kind == "" {
				once = "--" + name
			}
			r := f.run(command, "in.csv", once, once)
			repeats := strings.Contains(flag[3], "repeatable") || strings.Contains(kind, ",")
			said := strings.Contains(r.err, "it is given twice, and can't be repeated")
			assert.Equal(t, !repeats, said, "%s --%s (%s): %s", command, name, kind, r.err)
			tried++
		}
	}
	assert.Greater(t, tried, nets.Size(60, 200))
}

// Conditions that are given twice are all asked: rows meet all of --keep-if, and none of --drop-if.
func TestConditionsGivenTwice(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "n,port\n1,HAR\n2,HUL\n3,HAR\n4,BRE\n5,HAR\n")
	for args, want := range map[string]string{
		"--keep-if n>1 --keep-if n<5||n==9":                          "2,HUL\n3,HAR\n4,BRE\n",
		"--drop-if n<2 --drop-if port==\"BRE\"":                      "2,HUL\n3,HAR\n5,HAR\n",
		"--keep-if n>1 --keep-if port==\"HAR\" --drop-if n==3||n==9": "5,HAR\n",
	} {
		r := f.run(append([]string{"convert", "a.csv", "-o", "o.csv"}, strings.Fields(args)...)...)
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, "n,port\n"+want, f.read("o.csv"), args)
		require.Equal(t, 0, f.run("convert", "a.csv", "--plan", "o.plan.yaml", "-o", "p.csv").code)
		assert.Equal(t, f.read("o.csv"), f.read("p.csv"), "the plan keeps them")
	}
	r := f.run("preview", "a.csv", "--where", "n>1", "--where", "n<3", "--column", "n")
	assert.Regexp(t, `(?m)^  2  2 `, r.out)
	assert.NotRegexp(t, `(?m)^  [345]  [345] `, r.out)
}
