package e2e

import (
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"junvo/internal/nets"
)

// page is a report as a browser's parser sees it.
type page struct {
	t    *testing.T
	text string
	root *html.Node
}

func (f *folder) page(name string) *page {
	f.t.Helper()
	p := &page{t: f.t, text: f.read(name)}
	var err error
	p.root, err = html.Parse(strings.NewReader(p.text))
	require.NoError(f.t, err)
	return p
}

// all returns the elements of a name.
func (p *page) all(name string) (found []*html.Node) {
	for n := range p.root.Descendants() {
		if n.Type == html.ElementNode && n.Data == name {
			found = append(found, n)
		}
	}
	return found
}

func attribute(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

// textOf is the text of an element, spaces in a row as one.
func textOf(n *html.Node) string {
	var b strings.Builder
	for d := range n.Descendants() {
		if d.Type == html.TextNode {
			b.WriteString(d.Data)
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// table returns the cells of the table whose region is named by a heading.
func (p *page) table(heading string) (rows [][]string) {
	p.t.Helper()
	for _, div := range p.all("div") {
		if attribute(div, "aria-labelledby") != heading {
			continue
		}
		for n := range div.Descendants() {
			if n.Data != "tr" {
				continue
			}
			var row []string
			for c := range n.ChildNodes() {
				if c.Data == "td" || c.Data == "th" {
					row = append(row, textOf(c))
				}
			}
			rows = append(rows, row)
		}
	}
	require.NotEmpty(p.t, rows, heading)
	return rows
}

// failures returns the failures that the page lists: column, row, line, value and reason.
func (p *page) failures() (all [][]string) {
	p.t.Helper()
	column := ""
	for _, row := range p.table("s0failures")[1:] {
		if len(row) == 1 {
			column = row[0]
			continue
		}
		all = append(all, append([]string{column}, row[:4]...))
	}
	return all
}

// pageData is what stands in a page as JSON.
type pageData struct {
	Sources []struct {
		Profile struct {
			Source  struct{ Rows int64 }
			Columns []struct{ Name string }
		}
		Ledger *struct {
			Rows    struct{ In, Out int64 }
			Columns []struct {
				Name                                                         string
				Cells, Right, Converted, Blank, Emptied, Kept, Fixed, Failed int64
			}
		}
		Drift []struct{ Name string }
	}
}

func (p *page) data() (d pageData) {
	p.t.Helper()
	for _, s := range p.all("script") {
		if attribute(s, "id") == "data" {
			require.NoError(p.t, json.Unmarshal([]byte(s.FirstChild.Data), &d))
			return d
		}
	}
	require.Fail(p.t, "there is no data")
	return d
}

// What the page says is what the ledger and the lists say.
func TestReportBalances(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Equal(t, 1, f.run("demo", "d").code|1)
	r := f.run("convert", "d/landings.csv", "-o", "clean.csv", "--report", "clean.html")
	require.Equal(t, 1, r.code, r.err)
	p := f.page("clean.html")
	d := p.data()
	require.Len(t, d.Sources, 1)
	l := d.Sources[0].Ledger
	assert.Contains(t, textOf(p.root), fmt.Sprintf("%d in = %d out + ", l.Rows.In, l.Rows.Out))
	table := p.table("s0cells")
	assert.Equal(t, []string{"column", "type", "the cells", "right", "converted", "blank", "failed", "cells"}, table[0])
	var failed int64
	for i, c := range l.Columns {
		want := []string{c.Name}
		for _, n := range []int64{c.Right, c.Converted, c.Blank, c.Failed, c.Cells} {
			want = append(want, fmt.Sprint(n))
		}
		row := table[i+1]
		assert.Equal(t, want, append(row[:1:1], row[3:]...), c.Name)
		failed += c.Failed
	}
	assert.Len(t, table, len(l.Columns)+2)
	var want [][]string
	for _, x := range f.records("clean.failures.csv")[1:] {
		want = append(want, []string{x[2], x[0], x[1], strings.Join(strings.Fields(x[3]), " "), x[5]})
	}
	slices.SortStableFunc(want, func(a, b []string) int {
		at := func(name string) int {
			return slices.IndexFunc(l.Columns, func(c struct {
				Name                                                         string
				Cells, Right, Converted, Blank, Emptied, Kept, Fixed, Failed int64
			},
			) bool {
				return c.Name == name
			})
		}
		return at(a[0]) - at(b[0])
	})
	assert.Equal(t, want, p.failures())
	assert.EqualValues(t, failed, len(want))
	// The rows set aside stand between their neighbours.
	aside := 0
	for _, li := range p.all("li") {
		if attribute(li, "class") == "aside" {
			aside++
		}
	}
	assert.Equal(t, len(f.records("clean.setaside.csv"))-1, aside)
	assert.Contains(t, p.text, "junvo convert d/landings.csv -o clean.csv --report clean.html")
	assert.NotContains(t, p.text, f.dir)
	// The plan is there, and what it makes of the shapes.
	assert.Contains(t, p.text, "<tr><td>9.999,9 aa<td>399<td>2.367,9 kg<td class=\"n\">2367.9")
	assert.Equal(t, f.read("clean.plan.yaml"), f.planIn(p))

	// Again, and with another number of workers, it is the same.
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "-o", "clean.csv", "--report", "clean.html").code)
	assert.Equal(t, p.text, f.read("clean.html"))
	require.Equal(t, 1, f.run("convert", "d/landings.csv", "-o", "clean.csv", "--report", "clean.html", "--workers", "1").code)
	assert.Equal(t, p.text, strings.Replace(f.read("clean.html"), " --workers 1", "", 1))
}

// planIn returns the plan that a page shows.
func (f *folder) planIn(p *page) string {
	for _, pre := range p.all("pre") {
		if attribute(pre, "aria-labelledby") == "s0plan" {
			return pre.FirstChild.Data
		}
	}
	return ""
}

// The page has one policy, two scripts of its own, and nothing from elsewhere.
func TestReportNeedsNothing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", hostileTable)
	for _, args := range [][]string{
		{"report", "a.csv", "-o", "a.html"},
		{"profile", "a.csv", "--report", "a.html"},
		{"convert", "a.csv", "-o", "b.csv", "--as", "n=integer", "--report", "a.html"},
		{"check", "a.csv", "--plan", "b.plan.yaml", "--report", "a.html"},
		{"profile", "--each", "a.csv", "b.csv", "--report", "a.html"},
	} {
		r := f.run(args...)
		require.LessOrEqual(t, r.code, 1, "%v %s", args, r.err)
		p := f.page("a.html")
		assert.Len(t, p.all("script"), 2, args)
		for n := range p.root.Descendants() {
			if n.Type != html.ElementNode {
				continue
			}
			assert.NotContains(t, []string{"img", "iframe", "object", "embed", "link", "form", "base", "marquee", "b2"}, n.Data, args)
			for _, a := range n.Attr {
				assert.False(t, strings.HasPrefix(a.Key, "on") || a.Key == "style" || a.Key == "src", "%v: %s of %s", args, a.Key, n.Data)
				if a.Key == "href" {
					assert.Regexp(t, "^#", a.Val, args)
				}
			}
		}
		for _, m := range p.all("meta") {
			if attribute(m, "http-equiv") != "" {
				assert.Regexp(t, `^default-src 'none'; style-src 'sha256-[^' ]+'; script-src 'sha256-[^' ]+'; base-uri 'none'; form-action 'none'$`, attribute(m, "content"))
			}
		}
		body, _, _ := strings.Cut(p.text, `<script type="application/json"`)
		for _, r := range body {
			if r < ' ' && r != '\n' || r >= 0x202a && r <= 0x202e || r == 0xfeff {
				assert.Fail(t, "a character that does not show", "%v: %U", args, r)
			}
		}
		p.data()
	}
}

// hostileTable tries what may do harm in a page.
const hostileTable = "n,\"<script>alert(1)</script>\",\"a\"\" onmouseover=\"\"x\",</title><b2>\n" +
	"1,</script><script>alert(2)</script>,<img src=x onerror=alert(3)>,\u202eevil\u202c\n" +
	"x<!--,]]>,&lt;b&gt; &amp;,\"line\nbreak\"\n" +
	"</td></table><h1>,{{.}},${7*7},a\x00b\n" +
	"javascript:alert(4),'\"`,--></script>,\ufeffx\n"

// A report is bounded, and so is each failure that it lists: 200 bytes. Here all 50 columns have all that there can be to tell
// of one, and long cells of nothing but characters that take five times their room.
func TestReportIsBounded(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	w := csv.NewWriter(&b)
	header := make([]string, 50)
	for c := range header {
		header[c] = fmt.Sprintf("Column number %d", c)
	}
	_ = w.Write(header)
	for r := range nets.Size(900, 3000) {
		row := make([]string, len(header))
		for c := range row {
			switch row[c] = fmt.Sprintf("%d,%02d", r*c, r%100); {
			case (r+c)%97 == 0:
				row[c] = strings.Repeat(`<"+'&`, 40)
			case (r+c)%31 == 0:
				row[c] = []string{"", "n/a", "\u00a0", "-"}[r%4]
			case (r+c)%7 == 0:
				row[c] = "€ " + row[c]
			}
		}
		_ = w.Write(row)
	}
	w.Flush()
	f.file("a.csv", b.String())
	r := f.run("report", "a.csv", "-o", "a.html", "--report-failures", "0")
	require.Equal(t, 0, r.code, r.err)
	none := f.read("a.html")
	assert.Less(t, len(none), 460_000)
	assert.NotContains(t, none, `<section class="failures"`)
	assert.Regexp(t, `<p>\d+ cells could not become their column's type. None are listed here`, none)
	require.Equal(t, 0, f.run("report", "a.csv", "-o", "a.html", "--report-failures", "300").code)
	p := f.page("a.html")
	failures := p.failures()
	assert.Len(t, failures, 300)
	assert.Less(t, len(p.text)-len(none), 300*200+2000)
	left := regexp.MustCompile(`(\d+) more are not listed here`).FindStringSubmatch(p.text)
	require.NotNil(t, left)
	var all int64
	for _, c := range p.data().Sources[0].Ledger.Columns {
		all += c.Failed
	}
	assert.Equal(t, fmt.Sprint(all-300), left[1])
	lines := strings.Split(p.text[strings.Index(p.text, `<section class="failures"`):], "\n")
	for _, line := range lines {
		if strings.HasPrefix(line, "<tr><td>") {
			assert.LessOrEqual(t, len(line)+1, 200, line)
		}
	}
}

// A private column shows shapes only, in the page, its plan and its data.
func TestReportHidesPrivateColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("no,skipper,share,port\n")
	for i := range 60 {
		fmt.Fprintf(&b, "%d,Zebulon%c,%d.5 Qwx,HAR\n", i, 'a'+i%20, 7000+i)
	}
	b.WriteString("61,Zebulon\u00a0x,7777.5 Qwz,HAR\nTotal,,7099.5,\n,,,\n62,,Zebulon none,HAR\n63,a,b,c,Zebulon\n")
	f.file("in.csv", b.String())
	private := []string{"--private", "skipper", "--private", "share"}
	require.Equal(t, 1, f.run(append([]string{"convert", "in.csv", "-o", "out.csv", "--as", "skipper=integer", "--report", "c.html"}, private...)...).code)
	for _, args := range [][]string{
		append([]string{"report", "in.csv", "-o", "r.html"}, private...), append([]string{"profile", "in.csv", "--report", "p.html"}, private...),
		{"check", "in.csv", "--plan", "out.plan.yaml", "--report", "k.html"},
	} {
		r := f.run(args...)
		require.LessOrEqual(t, r.code, 1, r.err)
	}
	for _, name := range []string{"c.html", "r.html", "p.html", "k.html"} {
		text := f.read(name)
		for _, s := range []string{"Zebulon", "Qwz", "7000", "7777", "7099"} {
			assert.NotContains(t, text, s, name)
		}
		assert.Contains(t, text, "The column is private", name)
	}
	assert.Contains(t, f.read("c.html"), "<td>Aaaaaaaa<td>not-a-number")
	r := f.run("convert", "in.csv", "-o", "out.csv", "--plan", "out.plan.yaml", "--reveal", "--report", "c.html")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "never shows the values of private columns")
}

// Nothing that a person made is written over, and nothing is written where something is wrong.
func TestReportFiles(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "n,t\n1,x\n2,y\n")
	f.file("mine.html", "<!doctype html>\n<title>mine</title>\n")
	for _, tt := range []struct{ args, want string }{
		{"report a.csv", "Name the page, as in `junvo report a.csv -o landings.html`"},
		{"report a.csv -o mine.html", "mine.html is there and is no report of an earlier run"},
		{"profile a.csv --report mine.html", "mine.html is there and is no report"},
		{"convert a.csv -o b.csv --report mine.html", "mine.html is there and is no report"},
		{"report a.csv -o a.csv", "the report"},
		{"report a.csv -o page.pdf", "ends in .html"},
		{"convert a.csv -o b.html --report b.html", "b.html"},
		{"report a.csv -o r.html --report-failures=-1", "a number from 0"},
		{"report a.csv -o r.html --plan none.yaml", "can't read the plan"},
		{"profile a.csv b.csv --each --report r.html", "b.csv"},
	} {
		r := f.runWith("", strings.Fields(tt.args)...)
		assert.Contains(t, []int{2, 3}, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
		assert.Equal(t, []string{"a.csv", "mine.html"}, f.names(), tt.args)
	}
	r := f.run("report", "a.csv", "-o", "nowhere/r.html")
	assert.Equal(t, 4, r.code, r.err)
	r = f.run("report", "a.csv", "-o", "r.html")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "0 cells would fail\nwrote: r.html\n", r.out)
	require.Equal(t, 0, f.run("report", "a.csv", "-o", "r.html").code, "one of its own may be written over")
	// Where the table goes to standard output, the page is the same each time, and names no other file.
	for _, name := range []string{"o1.html", "o2.html"} {
		require.Equal(t, 0, f.run("convert", "a.csv", "-o", "-", "--report", name, "--ledger", "l.json").code)
	}
	assert.Equal(t, f.read("o1.html"), strings.ReplaceAll(f.read("o2.html"), "o2.html", "o1.html"))
	assert.Contains(t, f.read("l.json"), `"output": "-"`)
	// With standard input, and nothing in it.
	require.Equal(t, 0, f.runWith("a;b\n1;2\n", "report", "-", "-o", "s.html").code)
	assert.Equal(t, []string{"1", "2"}, []string{f.page("s.html").table("s0columns")[1][3][:1], fmt.Sprint(len(f.page("s.html").data().Sources[0].Profile.Columns))})
	r = f.runWith("", "report", "-", "-o", "e.html")
	assert.Contains(t, []int{0, 3}, r.code, r.err)
}

// A page of several sources has a line for each, and all of each below.
func TestReportOfSeveral(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("jan.csv", "n;d\n1;04.03.2021\nx;05.03.2021\n3;06.03.2021\n")
	f.file("feb.csv", "n;d\n4;04.04.2021\n5;none\n6;06.04.2021\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  n: {to: integer}\n  d: {to: date, date-order: dmy}\n")
	require.Equal(t, 0, f.run("profile", "--each", "jan.csv", "feb.csv", "--report", "each.html").code)
	p := f.page("each.html")
	assert.Len(t, p.table("sources"), 3)
	assert.Len(t, p.data().Sources, 2)
	require.Equal(t, 1, f.run("convert", "jan.csv", "feb.csv", "-o", "clean/", "--plan", "p.yaml", "--report", "all.html").code)
	p = f.page("all.html")
	rows := p.table("sources")
	assert.Equal(t, []string{"jan.csv", "1"}, []string{rows[1][0], rows[1][3]})
	assert.Equal(t, []string{"feb.csv", "1"}, []string{rows[2][0], rows[2][3]})
	assert.Equal(t, [][]string{{"n", "2", "3", "x", "not-a-number"}}, p.failures())
	assert.Contains(t, textOf(p.root), "The source does not fit the plan. Cells that failed: 1.")
	ids := map[string]bool{}
	for n := range p.root.Descendants() {
		if id := attribute(n, "id"); id != "" {
			assert.False(t, ids[id], "two elements have the id %s", id)
			ids[id] = true
		}
	}
	for _, a := range p.all("a") {
		assert.True(t, ids[strings.TrimPrefix(attribute(a, "href"), "#")], attribute(a, "href"))
	}
	// As one table, each failure names its file.
	require.Equal(t, 0, f.run("report", "jan.csv", "feb.csv", "--plan", "p.yaml", "-o", "one.html").code)
	assert.Equal(t, [][]string{{"n", "2", "jan.csv:3", "x", "not-a-number"}, {"d", "5", "feb.csv:3", "none", "not-a-date"}}, f.page("one.html").failures())
	// A plan that can't run: what is missing is told.
	f.file("q.yaml", "plan: 1\ncolumns:\n  kg: {to: integer}\n")
	require.Equal(t, 1, f.run("check", "jan.csv", "--plan", "q.yaml", "--report", "k.html").code)
	p = f.page("k.html")
	assert.Equal(t, []string{"column-missing", "kg"}, p.table("s0drift")[1][:2])
	assert.NotContains(t, p.text, `id="s0balance"`)
}

// Pictures for documents have the strips of all columns, and of those that are opened how their values are spread.
func TestPictures(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "<b>n,name & co,when\n1,x,2021-03-04\n20,y,2021-03-05\nz,,2021-09-06\n400,y,2021-03-05\n")
	run := func(args ...string) {
		t.Helper()
		r := f.run(append([]string{"profile", "a.csv"}, args...)...)
		require.Equal(t, 0, r.code, r.err)
	}
	run("--picture", "a.svg", "--as", "<b>n=integer")
	run("--picture", "b.svg", "--column", "when")
	run("--picture", "c.svg", "--column", "when", "--private", "when")
	words := func(name string) (all []string) {
		t.Helper()
		d := xml.NewDecoder(strings.NewReader(f.read(name)))
		for {
			token, err := d.Token()
			if errors.Is(err, io.EOF) {
				return all
			}
			require.NoError(t, err)
			if s, ok := token.(xml.CharData); ok && strings.TrimSpace(string(s)) != "" {
				all = append(all, string(s))
			}
		}
	}
	assert.Subset(t, words("a.svg"), []string{"a.csv", "4 rows", "<b>n", "name & co", "integer", "1 fail", "D", "·", "x"})
	assert.Subset(t, words("b.svg"), []string{"when", "2021-03-04", "2021-09-06"})
	assert.NotContains(t, strings.Join(words("b.svg"), "\n"), "name & co")
	assert.NotContains(t, strings.Join(words("c.svg"), "\n"), "2021")
	assert.Contains(t, f.read("a.svg"), `class="r2"`, "dates")

	before := f.read("a.svg")
	for _, tt := range []struct{ args, want string }{
		{"--picture a.svg", "a.svg is there already"},
		{"--picture a.gif", "NAME.svg"},
		{"--picture b.svg --each", "does not go with --each"},
		{"--picture a.csv", "NAME.svg"},
		{"--picture d.svg --column nope", "nope"},
	} {
		r := f.run(append([]string{"profile", "a.csv"}, strings.Fields(tt.args)...)...)
		assert.Equal(t, 2, r.code, tt.args)
		assert.Contains(t, r.err, tt.want, tt.args)
	}
	assert.Equal(t, before, f.read("a.svg"))
}
