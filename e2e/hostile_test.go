package e2e

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"junvo/internal/nets"
)

// hostile are texts that do something to a reader who does not take them for text: a terminal, a browser, a
// spreadsheet, a shell, a parser.
var hostile = []string{
	"\x1b[2J\x1b[31mred", "\x1b]0;title\x07", "\x1b]8;;http://harbour.example\x1b\\link", "\u009b31mred", "a\x7fb", "\b\b\bgone",
	"\u202eevil\u202c", "\u2066x\u2069y", "\u200fx", "x\u061cy", "x\ufeffy", "a\u2028b", "a\u2029b", "a\u0085b",
	"=cmd|' /C calc'!A0", "+1+1", "-2+3", "@SUM(A1)", "\t=1+1", "\r=1+1", "\n=1+1", " =1+1", "\uff1d1+1", "=\x1b[31m1",
	"<script>alert(1)</script>", "![x](http://harbour.example/x.png)", "[a](javascript:alert(1))", "https://harbour.example", "www.harbour.example",
	"a | b", "`code`", "<!-- -->", "&lt;b&gt;", "]]>", "<![CDATA[x]]>", "*a* _b_ ~~c~~ # d", "a\\", "a\\|b", "$x$",
	"a\x00b", "\x01\x0b\x0cx", "x\ufffey", "x\uffffy", "_x001B_", "\u00adx", "x\u200dy", "\U000e0041x",
	"'; DROP TABLE lots; --", `a" b`, "line\nbreak", "cr\rlf\r\nboth", "%s %d %n", "${HOME} $(id)", "{{.}}", "- a: &b *b", "# c", "...", "key: [", "'", `''"`,
}

// quiet says that printed text does nothing to a terminal: line breaks, and characters that show.
func quiet(t *testing.T, what, text string) {
	t.Helper()
	for i, r := range text {
		bad := r < ' ' && r != '\n' || r >= 0x7f && r < 0xa0 || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 || r == 0x200e || r == 0x200f ||
			r == 0x61c || r == 0xfeff || r == 0x2028 || r == 0x2029 || r == 0xfffe || r == 0xffff || r >= 0xe0000 && r <= 0xe007f || r == 0xad
		if r == utf8.RuneError {
			_, size := utf8.DecodeRuneInString(text[i:])
			bad = size == 1
		}
		if bad {
			t.Errorf("%s: %q prints %U: %q", what, text[max(0, i-40):i], r, text[i:min(len(text), i+40)])
			return
		}
	}
}

// markup is what Markdown takes for more than text where no backslash stands before it.
var markup = regexp.MustCompile("(?:^|[^\\\\])(?:\\\\\\\\)*[`*\\[\\]<>~$]|://|www\\.h|&lt;b")

// unmarked says that a table of Markdown has no markup of a cell's.
func unmarked(t *testing.T, what, text string) {
	t.Helper()
	for _, line := range strings.Split(text, "\n") {
		if found := markup.FindString(line); found != "" {
			t.Errorf("%s: has markup %q: %q", what, found, line)
		}
	}
}

// signed is a number, or a sign alone, which no spreadsheet runs.
var signed = regexp.MustCompile(`^[-+]?[0-9.,]*$`)

// guarded says that no cell of a CSV begins as a formula, whatever stands before it.
func guarded(t *testing.T, what, text string) {
	t.Helper()
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	require.NoError(t, err, what)
	for _, row := range rows {
		for _, cell := range row {
			if bare := strings.TrimLeft(cell, "\t\r\n"); bare != "" && strings.ContainsAny(bare[:1], "=@+-") && !signed.MatchString(bare) {
				t.Errorf("%s: runs as a formula: %q", what, cell)
			}
		}
	}
}

// forms are how everything can be printed.
var forms = []string{"table", "json", "csv", "markdown"}

// harmless runs a command in every form and says that what it prints does nothing to a reader.
func (f *folder) harmless(args ...string) {
	f.t.Helper()
	for _, form := range forms {
		r := f.run(append(args, "--format", form)...)
		what := fmt.Sprintf("%.80q as %s", args, form)
		quiet(f.t, what, r.out)
		quiet(f.t, what+", standard error", r.err)
		if r.code > 1 && strings.Contains(r.err, "can't be named so") { // by this format
			continue
		}
		if r.code == 2 || r.code == 3 {
			assert.NotEmpty(f.t, r.err, what)
			continue
		}
		assert.LessOrEqual(f.t, r.code, 1, what+r.err)
		switch {
		case form == "json":
			assert.True(f.t, json.Valid([]byte(r.out)), "%s: %s", what, r.out)
		case form == "csv":
			guarded(f.t, what, r.out)
		case form == "markdown":
			unmarked(f.t, what, r.out)
		}
	}
}

// csvOf writes rows as RFC 4180 has them, whatever they hold.
func csvOf(rows ...[]string) string {
	var b strings.Builder
	for _, row := range rows {
		for i, cell := range row {
			if i > 0 {
				b.WriteByte(',')
			}
			b.WriteString(`"` + strings.ReplaceAll(cell, `"`, `""`) + `"`)
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// Whatever the cells hold, nothing that is printed or written beside the output does anything to a reader.
func TestHostileCells(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	rows := [][]string{{"no", "text", "kg"}}
	for i, text := range hostile {
		rows = append(rows, []string{fmt.Sprint(i), text, fmt.Sprint(i)}, []string{fmt.Sprint(i), "plain", fmt.Sprint(i) + ".5"}, []string{fmt.Sprint(i), "plain", text})
		if i%3 == 0 {
			rows = append(rows, []string{"1", text, "2", text})
		}
	}
	f.file("in.csv", csvOf(rows...))
	source := []string{"in.csv", "--as", "kg=decimal", "--encoding", "utf-8"}
	for _, args := range [][]string{
		{"profile"},
		{"profile", "--column", "text", "--column", "kg"},
		{"profile", "--each"},
		{"profile", "--rows-of", "stray-characters"},
		{"profile", "--rows-of", "does-not-fit"},
		{"profile", "--rows-of", "row-length"},
		{"preview", "--rows", "200"},
		{"preview", "--failures"},
		{"why", "--row", "3", "--column", "kg"},
		{"convert", "-o", "o.csv"},
	} {
		f.harmless(append(args, source...)...)
	}
	for i, text := range hostile {
		if strings.Contains(text, "\x00") || i%nets.Size(5, 1) != 0 {
			continue // no argument can have it
		}
		r := f.run("why", "--value", text, "--as", "value=decimal")
		quiet(t, "why "+text, r.out+r.err)
		if i%15 == 0 {
			f.harmless("why", "in.csv", "--encoding", "utf-8", "--row", fmt.Sprint(4*i+1), "--column", "text")
		}
	}
	r := f.run(append([]string{"draft"}, source...)...)
	quiet(t, "draft", r.out+r.err)
	failures := f.records("o.failures.csv")
	assert.Greater(t, len(failures), len(hostile)/2)
	for _, name := range []string{"o.failures.csv", "o.setaside.csv", "o.plan.yaml"} {
		quiet(t, name, f.read(name))
		if strings.HasSuffix(name, ".csv") {
			guarded(t, name, f.read(name))
		}
	}

	// A fix is a text like any other.
	head := failures[0]
	fixed := [][]string{head}
	for i, row := range failures[1:] {
		row[len(row)-1] = hostile[i%len(hostile)]
		fixed = append(fixed, row)
	}
	require.Equal(t, "fix", head[len(head)-1])
	f.file("answers.csv", csvOf(fixed...))
	f.harmless("convert", "in.csv", "--encoding", "utf-8", "--plan", "o.plan.yaml", "--fixes", "answers.csv", "-o", "o2.csv")
	quiet(t, "failures of fixes", f.read("o2.failures.csv"))
	guarded(t, "failures of fixes", f.read("o2.failures.csv"))
}

// A name is a text as well: of a column, a file, a table, a sheet, and in a plan.
func TestHostileNames(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var head, cells []string
	for i, text := range hostile {
		head, cells = append(head, text), append(cells, fmt.Sprint(i))
	}
	f.file("in.csv", csvOf(head, cells, cells, append([]string{"x"}, cells[1:]...)))
	for _, args := range [][]string{
		{"profile"},
		{"profile", "--unfold"},
		{"preview"},
		{"convert", "-o", "o.csv"},
		{"convert", "-o", "o.db", "--ddl", "sqlite", "--replace-table"},
		{"convert", "-o", "o.jsonl", "--ddl", "postgresql"},
	} {
		f.harmless(append(args, "in.csv", "--encoding", "utf-8", "--header-row", "1")...)
	}
	r := f.run("draft", "in.csv", "--encoding", "utf-8", "--header-row", "1")
	quiet(t, "draft", r.out+r.err)
	require.Equal(t, 0, f.run("draft", "in.csv", "--encoding", "utf-8", "--header-row", "1", "--keep-names", "-o", "p.yaml").code)
	for _, output := range []string{"k.csv", "k.jsonl", "k.xlsx", "k.parquet", "k.db"} {
		f.harmless("convert", "in.csv", "--encoding", "utf-8", "--plan", "p.yaml", "-o", output, "--ddl", "sqlite", "--replace-table")
	}
	for _, name := range f.names() {
		if name != "in.csv" && name != "k.csv" && name != "o.csv" && (strings.HasSuffix(name, ".csv") || strings.HasSuffix(name, ".yaml") || strings.HasSuffix(name, ".sql")) {
			quiet(t, name, f.read(name))
		}
	}

	for i, text := range hostile {
		if strings.ContainsAny(text, "/\x00") || i%nets.Size(5, 1) != 0 {
			continue
		}
		name := text + ".csv"
		if os.WriteFile(f.path(name), []byte("lot,kg\nA,1\nB,2\nC,x\n"), 0o644) != nil {
			continue // a name that this file system does not have
		}
		if i%12 == 0 {
			f.harmless("profile", "./"+name)
			f.harmless("convert", "./"+name, "-o", "out.csv", "--origin")
			quiet(t, "plan of "+name, f.read("out.plan.yaml"))
		}
		quiet(t, name, f.run("convert", "./"+name, "-o", "./made"+name).out)
		for _, args := range [][]string{{"profile", text}, {"check", "./" + name, "--plan", "no" + text}, {"convert", "./" + name, "-o", text + "/x.csv"}, {"why", "./" + name, "--column", text, "--row", "1"}, {text}} {
			r := f.run(args...)
			quiet(t, fmt.Sprintf("%q", args), r.out+r.err)
			assert.NotZero(t, r.code, "%q", args)
		}
	}
}

// Tables of a database and sheets of a workbook have names too; a query is no name but is told of.
func TestHostileParts(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	book := excelize.NewFile()
	for i, text := range hostile {
		if strings.ContainsAny(text, ":\\/?*[]\x00'") || len(text) > 31 || strings.ContainsFunc(text, func(r rune) bool { return r < ' ' || r > 0xfffd && r < 0x10000 }) {
			continue
		}
		if _, err := book.NewSheet(text); err != nil {
			continue
		}
		require.NoError(t, book.SetSheetRow(text, "A1", &[]any{"lot", text}))
		require.NoError(t, book.SetSheetRow(text, "A2", &[]any{text, i}))
	}
	require.NoError(t, book.SaveAs(f.path("b.xlsx")))
	f.harmless("profile", "b.xlsx")
	f.harmless("profile", "b.xlsx#nosuch")
	for _, sheet := range book.GetSheetList()[1:] {
		r := f.run("profile", "b.xlsx#"+sheet)
		quiet(t, "sheet "+sheet, r.out+r.err)
		assert.Zero(t, r.code, r.err)
		assert.Contains(t, r.out, "1 row", sheet)
	}

	f.file("in.csv", "lot,kg\nA,1\n")
	require.Zero(t, f.run("draft", "in.csv", "-o", "p.yaml").code)
	for i, text := range hostile {
		if strings.Contains(text, "\x00") || strings.TrimSpace(text) == "" || i%nets.Size(5, 1) != 0 {
			continue
		}
		r := f.run("convert", "in.csv", "-o", "o.db#"+text, "--ddl", "sqlite", "--plan", "p.yaml")
		quiet(t, "table "+text, r.out+r.err)
		require.Zero(t, r.code, "%q %s", text, r.err)
		r = f.run("profile", "o.db#"+text)
		quiet(t, "table "+text, r.out+r.err)
		assert.Zero(t, r.code, "%q %s", text, r.err)
		r = f.run("profile", "o.db", "--query", text)
		quiet(t, "query "+text, r.out+r.err)
	}
	f.harmless("profile", "o.db")
	f.harmless("profile", "o.db#nosuch")
}

// What a plan says is told of as it is, and does nothing either.
func TestHostilePlans(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "lot,kg\nA,1\nB,2\nC,x\n")
	for i, text := range hostile {
		if i%nets.Size(5, 1) != 0 {
			continue
		}
		quoted, err := json.Marshal(text)
		require.NoError(t, err)
		q := string(quoted)
		for _, plan := range []string{
			text,
			"plan: 1\ncolumns:\n  a:\n    " + q + ": 1\n",
			"plan: 1\ncolumns:\n  " + q + ": {from: kg, to: integer, nil: 3}\n  b: {from: " + q + ", to: integer}\n  c: {from: kg, to: " + q + "}\n" +
				"  d: {from: kg, to: text, steps: [" + q + "]}\n  e: {compute: " + q + ", to: text}\n  f: {from: kg, to: text, unit: " + q + "}\n" +
				"  g: {from: kg, to: text, steps: [{take: {pattern: " + q + "}}]}\n  h: {from: kg, to: integer, on-failure: " + q + "}\n",
			"plan: 1\ncolumns:\n  " + q + ": {from: lot, to: text, steps: [{replace: {text: A, by: " + q + "}}], must: {one-of: [" + q + ", B]}}\n",
		} {
			f.file("h.yaml", plan)
			for _, command := range []string{"check", "preview"} {
				r := f.run(command, "in.csv", "--plan", "h.yaml")
				quiet(t, plan, r.out+r.err)
			}
		}
	}
}

// The output is what is asked for and nothing less: each format gives the texts back as they were.
func TestHostileTextsStay(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	rows := [][]string{{"no", "text"}}
	for i, text := range hostile {
		rows = append(rows, []string{fmt.Sprint(i), text})
	}
	f.file("in.csv", csvOf(rows...))
	f.file("p.yaml", "plan: 1\ncolumns:\n  no: {to: integer}\n  text: {to: text}\n")
	for _, output := range []string{"o.csv", "o.tsv", "o.jsonl", "o.xlsx", "o.parquet", "o.db"} {
		beyond := map[string]bool{} // what XML has no characters for
		for _, text := range hostile {
			beyond[text] = output == "o.xlsx" && strings.ContainsFunc(text, func(r rune) bool { return r < ' ' && r != '\n' && r != '\t' && r != '\r' || r == 0xfffe || r == 0xffff })
		}
		r := f.run("convert", "in.csv", "--encoding", "utf-8", "--plan", "p.yaml", "-o", output)
		require.LessOrEqual(t, r.code, 1, "%s: %s%s", output, r.out, r.err)
		if r.code == 1 {
			assert.Equal(t, 1, strings.Count(r.out, "failures.csv"))
			for _, row := range f.records(output + ".failures.csv")[1:] {
				assert.Equal(t, "beyond-format", row[5])
			}
		}
		r = f.run("convert", output, "--plan", "p.yaml", "-o", "back.jsonl")
		require.Zero(t, r.code, "%s: %s%s", output, r.out, r.err)
		lines := strings.Split(strings.TrimSuffix(f.read("back.jsonl"), "\n"), "\n")
		require.Len(t, lines, len(hostile), output)
		for i, line := range lines {
			var got struct{ Text *string }
			require.NoError(t, json.Unmarshal([]byte(line), &got), line)
			if beyond[hostile[i]] {
				assert.Nil(t, got.Text, "%s: %q", output, hostile[i])
				continue
			}
			require.NotNil(t, got.Text, "%s: %q", output, hostile[i])
			assert.Equal(t, hostile[i], *got.Text, output)
		}
	}
	r := f.run("convert", "in.csv", "--encoding", "utf-8", "--plan", "p.yaml", "-o", "g.csv", "--guard-formulas")
	require.Zero(t, r.code, r.err)
	guarded(t, "g.csv", f.read("g.csv"))
}

// Halves of surrogate pairs are no characters: cells of JSON that have them fail, and are not mended in silence; a key
// that has one names no column.
func TestLoneSurrogates(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("in.jsonl", `{"lot":"a\ud800b","kg":1}`+"\n"+`{"lot":"\udc00","kg":2}`+"\n"+`{"lot":"\ud83d\ude00","kg":3}`+"\n")
	r := f.run("convert", "in.jsonl", "-o", "o.csv")
	quiet(t, "convert", r.out+r.err)
	assert.Equal(t, 1, r.code)
	assert.Equal(t, "lot,kg\n,1\n,2\n😀,3\n", f.read("o.csv"))
	assert.Len(t, f.records("o.failures.csv"), 3)
	f.file("key.jsonl", `{"lot":"x","kg":1}`+"\n"+`{"l\ud800":"x","kg":4}`+"\n")
	r = f.run("profile", "key.jsonl")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "line 2: a key has half a character")
	// The sign that another program has put in place of what it could not read is a character like others.
	f.file("replaced.jsonl", `{"Gr\ufffd\ufffde":4}`+"\n")
	r = f.run("convert", "replaced.jsonl", "-o", "-")
	assert.Equal(t, "Gr\ufffd\ufffde\n4\n", r.out, r.err)
}

// What a page has for other programs prints, drift too.
func TestDriftOnThePagePrints(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "port,kg\nA,1\nB,2\n")
	require.Equal(t, 0, f.run("draft", "a.csv", "-o", "p.yaml").code)
	f.file("b.csv", "port,kg,\u202eevil\u2066\nA,1,x\nB,2,y\n")
	f.run("report", "b.csv", "--plan", "p.yaml", "-o", "b.html")
	assert.NotContains(t, f.read("b.html"), "\u202e")
	assert.NotContains(t, f.read("b.html"), "\u2066")
	assert.Contains(t, f.read("b.html"), `\u202eevil`)
}
