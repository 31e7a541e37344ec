package e2e

import (
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every command has help with examples, and the flags in its examples are its own.
func TestHelpOfEveryCommand(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := f.run("--help")
	require.Equal(t, 0, r.code)
	commands := regexp.MustCompile(`(?m)^  (\w+) {2,}\w`).FindAllStringSubmatch(r.out[strings.Index(r.out, "\nCommands:"):strings.Index(r.out, "\nHelp on:")], -1)
	require.GreaterOrEqual(t, len(commands), 8)
	flags := regexp.MustCompile(` (--[a-z-]+)`)
	for _, c := range commands {
		if c[1] == "help" {
			continue
		}
		r := f.run(c[1], "--help")
		require.Equal(t, 0, r.code, c[1])
		_, rest, found := strings.Cut(r.out, "Examples:\n")
		require.True(t, found, "%s has no examples", c[1])
		examples, listed, found := strings.Cut(rest, "\nFlags:\n")
		require.True(t, found, c[1])
		assert.Contains(t, examples, "junvo "+c[1])
		for _, line := range strings.Split(examples, "\n") {
			if !strings.Contains(line, "junvo "+c[1]) {
				continue
			}
			for _, flag := range flags.FindAllStringSubmatch(line, -1) {
				assert.Contains(t, listed, flag[1], "%s: %s", c[1], line)
			}
		}
	}
}

// What the command line gets wrong is answered with one sentence and exit code 2.
func TestWrongCommandLines(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a,b\n1,2\n")
	for _, tt := range []struct{ args, want string }{
		{"profle a.csv", `Did you mean "profile"?`},
		{"profile", "which source?"},
		{"profile a.csv --colour never", "unknown flag: --colour"},
		{"profile a.csv --color red", "--color is auto, always or never"},
		{"profile a.csv --format xml", `there is no format "xml"`},
		{"profile a.csv --workers 0", "--workers must be at least 1"},
		{"profile a.csv --header-row -1", "--header-row is the number of a line"},
		{"profile a.csv --header-row 1 --no-header", "exclude each other"},
		{"profile a.csv --fit 200%", "--fit is a share"},
		{"profile a.csv --decimal-mark ;", "--decimal-mark is"},
		{"profile a.csv --date-order ddd", "--date-order is"},
		{"profile a.csv --as a", "--as takes NAME=TYPE"},
		{"profile a.csv --as a=number", "the types are"},
		{"profile a.csv --as c=integer", `there is no column "c"`},
		{"profile a.csv --encoding utf-9", "unknown encoding"},
		{"profile a.csv --delimiter ab", "must be one ASCII character"},
		{"profile a.csv --quote ab", "the quote must be"},
		{"profile a.csv --escape x", "the escape must be"},
		{"profile - a.csv", "standard input can't be read together"},
		{"convert a.csv", "where to?"},
		{"convert a.csv -o a.csv", "is the source"},
		{"convert a.csv -o o.csv --fail-over x", "--fail-over is a share"},
		{"convert a.csv -o o.csv --fixes none.csv", "can't read the fixes"},
		{"check a.csv", "which plan?"},
		{"nosuch --help", "there is no command \"nosuch\""},
		{"preview a.csv --rows 0", "--rows must be at least 1"},
		{"profile a.csv --format xml", "there is no format"},
		{"draft a.csv --format json", "unknown flag: --format"},
		{"profile a.db --query=", "it is empty; say what to ask"},
	} {
		r := f.run(strings.Fields(tt.args)...)
		assert.Equal(t, 2, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
		assert.True(t, strings.HasPrefix(r.err, "junvo: "), tt.args)
		assert.Equal(t, 1, strings.Count(r.err, "\n"), tt.args)
		assert.Empty(t, r.out, tt.args)
	}
	assert.Equal(t, []string{"a.csv"}, f.names())
}

// An output that can't be written leaves nothing, and says so with exit code 4.
func TestOutputsThatCannotBeWritten(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "a,b\n1,2\nx,3\n")
	for _, args := range []string{
		"convert a.csv -o none/o.csv", "draft a.csv -o none/p.yaml", "convert a.csv -o o.csv --ledger none/l.json",
	} {
		r := f.run(strings.Fields(args)...)
		assert.Equal(t, 4, r.code, args)
		assert.Contains(t, r.err, "can't write", args)
		assert.Equal(t, []string{"a.csv"}, f.names(), args)
	}
}

// Colours are for people: they are asked for, they are in tables only, and the environment can't take away what was
// asked.
func TestColours(t *testing.T) {
	f := newFolder(t)
	f.file("a.csv", "a,b\n1,2\nx,3\n")
	t.Setenv("NO_COLOR", "1")
	for _, tt := range []struct {
		args     string
		coloured bool
	}{
		{"profile a.csv", false},
		{"profile a.csv --color never", false},
		{"profile a.csv --color always", true},
		{"preview a.csv --color always --column a", true},
		{"profile a.csv --color always --format csv", false},
		{"profile a.csv --color always --format markdown", false},
		{"profile a.csv --color always --format json", false},
	} {
		r := f.run(strings.Fields(tt.args)...)
		require.Equal(t, 0, r.code, r.err)
		assert.Equal(t, tt.coloured, strings.Contains(r.out, "\x1b["), tt.args)
	}
}

// What people call a thing by another word is found where that word stands: in what an entry says, in a command or a flag.
func TestHelpFindsWhatMentionsAWord(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for words, want := range map[string]string{
		"running": "sumSoFar(Boxes)", "previous": "previous(Meter)", "html": "junvo report --output", "picture": "junvo profile --picture",
		"across": "junvo totals --across", "colleague": "junvo report", "drift": "junvo check", "UTS": "inPattern",
	} {
		r := f.run("help", words)
		require.Equal(t, 0, r.code, "%s: %s", words, r.err)
		assert.Contains(t, r.out, want, words)
	}
	for _, none := range []string{"xyzzy", "zq", "unpivoted"} {
		assert.Equal(t, 2, f.run("help", none).code, none)
	}
}

// argumentsOf takes a command line apart as a shell does: at spaces outside quotes of both kinds.
func argumentsOf(line string) (args []string) {
	arg, quote, has := "", rune(0), false
	for _, r := range line + " " {
		switch {
		case quote == 0 && r == ' ':
			if has {
				args = append(args, arg)
			}
			arg, has = "", false
		case quote == 0 && (r == '"' || r == '\''):
			quote, has = r, true
		case r == quote:
			quote = 0
		default:
			arg, has = arg+string(r), true
		}
	}
	return args
}

// The examples of --help run on the files of the demo, as far as they are of those.
func TestExamplesOfHelpRun(t *testing.T) {
	t.Parallel()
	file := regexp.MustCompile(`[\w*-]+\.(csv|yaml|json|jsonl|xlsx|db|profile|txt|gz|parquet|html)`)
	ran := 0
	demo := newFolder(t)
	require.Equal(t, 0, demo.run("demo", ".").code)
	there := demo.names()
	for _, command := range []string{"profile", "why", "draft", "preview", "convert", "totals", "teach", "check", "report"} {
		f := newFolder(t)
		_, rest, _ := strings.Cut(f.run(command, "--help").out, "Examples:\n")
		examples, _, _ := strings.Cut(rest, "\n\n")
		for line := range strings.Lines(examples) {
			line, ok := strings.CutPrefix(strings.TrimSpace(line), "junvo ")
			f := newFolder(t)
			args := argumentsOf(line)
			for i, name := range args {
				output := i > 0 && (args[i-1] == "-o" || args[i-1] == "--report" || args[i-1] == "--save")
				if file.FindString(name) != "" && !output && !slices.Contains(there, strings.Split(name, "#")[0]) {
					ok = false
				}
			}
			if !ok || strings.ContainsAny(line, "|<") || strings.Contains(line, "postgres:") {
				continue
			}
			require.NoError(t, os.CopyFS(f.dir, os.DirFS(demo.dir)))
			if at := slices.Index(args, "-o"); at >= 0 && slices.Contains(there, args[at+1]) {
				require.NoError(t, os.Remove(f.path(args[at+1]))) // what the demo has made with it
			}
			r := f.run(args...)
			assert.LessOrEqual(t, r.code, 1, "junvo %s: %s", line, r.err)
			ran++
		}
	}
	assert.Greater(t, ran, 30)
}
