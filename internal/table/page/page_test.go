package page

import (
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/tabletest"
)

func from(text string) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }
}

// The text of a cell is what a browser shows, and a heading of two rows is one name a column.
func ExampleOpen() {
	src, err := Open(from(`<table><thead><tr><th rowspan=2>Vessel<th colspan=2>Weight<tr><th>net<th>gross
		<tbody><tr><td rowspan=2>Seestern<td>12,5&nbsp;kg<td>13<tr><td>7<td><b>8</b></table>`), "a.html", -1, "", Options{})
	if err != nil {
		panic(err)
	}
	defer src.Close()
	b := &table.Block{}
	if err := src.Next(b); err != nil {
		panic(err)
	}
	src.Split(b)
	fmt.Printf("%q\n%q\n%q\n", src.Info().Names, b.RowCells(0), b.RowCells(1))
	// Output:
	// ["Vessel" "Weight net" "Weight gross"]
	// ["Seestern" "12,5\u00a0kg" "13"]
	// ["Seestern" "7" "8"]
}

// read returns the names and rows of a table, or how it can't be read.
func read(t *testing.T, text, part string, o Options) (names []string, rows [][]string, err error) {
	t.Helper()
	src, err := Open(from(text), "a.html", int64(len(text)), part, o)
	if err != nil {
		return nil, nil, err
	}
	defer src.Close()
	for {
		b := &table.Block{}
		if err = src.Next(b); err != nil {
			break
		}
		src.Split(b)
		for r := range b.Rows {
			rows = append(rows, b.RowCells(r))
		}
	}
	if err == io.EOF {
		err = nil
	}
	return src.Info().Names, rows, err
}

func TestCells(t *testing.T) {
	for cell, want := range map[string]string{
		" a \n\t b ":                       "a b",
		"a&nbsp;b&#8239;c":                 "a\u00a0b\u202fc",
		"&amp;lt; &lt;x&gt; &euro; &#x20;": "&lt; <x> €",
		"a<br>b<br/>c":                     "a\nb\nc",
		"<p>a</p><p>b</p>":                 "a\nb",
		"<ul><li>a<li>b</ul>":              "a\nb",
		"<div>a</div>":                     "a",
		"1<sup>2</sup>3<sub>4</sub>5":      "1²3₄5",
		"1234<sup><a href=x>12</a></sup>":  "1234¹²",
		"5<sup>th</sup> of 10<sup>-6":      "5th of 10-⁶",
		"a<!-- not this -->b":              "ab",
		"<script>if (a<b) {}</script>x":    "x",
		"<style>td {}</style>x":            "x",
		`<span style="DISPLAY : none">007<span>8</span></span>7`: "7",
		`<input type=hidden value=3>5`:                           "5",
		`<i hidden>x<i>y</i>z</i>w`:                              "w",
		`<img alt="x" src=y>`:                                    "",
		"<a href='x'>link</a>ed":                                 "linked",
		`"quoted", with; commas`:                                 `"quoted", with; commas`,
		"\x1f":                                                   "\x1f",
		"<table><tr><td>in<td>ner<tr><td>table</table>out":       "in ner\ntable\nout",
	} {
		_, rows, err := read(t, "<table><tr><th>a<th>b<tr><td>1<td>2<tr><td>"+cell+"<td>end</table>", "1", Options{})
		if assert.NoError(t, err, cell) && assert.Len(t, rows, 2, cell) {
			assert.Equal(t, []string{want, "end"}, rows[1], cell)
		}
	}
}

func TestSpans(t *testing.T) {
	names, rows, err := read(t, `<table><tr><th colspan=3>All of it</th></tr>
<tr><th>a<th colspan=2>b
<tr><td rowspan=0>x<td rowspan=2 colspan=2>y
<tr><td>beyond
<tr><td>1<td>2
<tr><td colspan=2>3</table>`, "", Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "b", "b (2)"}, names)
	assert.Equal(t, [][]string{{"x", "y", ""}, {"x", "y", "", "beyond"}, {"x", "1", "2"}, {"x", "3", ""}}, rows)
}

// A table of a page is found by number and by caption; of several that hold data one must be named.
func TestTables(t *testing.T) {
	page := `<!doctype html><table><tr><td>menu<td>x</table><h3>Catch of <i>March</i></h3><p>text</p>
<table><tr><td>a<td>b<tr><td>1<td>2</table>
<table><caption> Quays
 all </caption><tr><th>c<th>d<tr><td>3<td>4`
	all, err := Tables(from(page), Options{})
	require.NoError(t, err)
	assert.Equal(t, []Table{{1, "", 1, 2}, {2, "Catch of March", 2, 2}, {3, "Quays all", 2, 2}}, all)
	for part, want := range map[string]string{"2": "1 2", "catch of march": "1 2", "3": "3 4", "Quays all": "3 4"} {
		_, rows, err := read(t, page, part, Options{})
		require.NoError(t, err, part)
		assert.Equal(t, [][]string{strings.Fields(want)}, rows, part)
	}
	_, _, err = read(t, page, "", Options{})
	assert.EqualError(t, err, "the page has 2 tables: name one after #, as in page.html#2, by its number or caption; "+
		"there are 2 (Catch of March) of 2 × 2, 3 (Quays all) of 2 × 2")
	_, _, err = read(t, page, "4", Options{})
	assert.ErrorContains(t, err, `the page has no table "4"; there are 2 (Catch of March) of 2 × 2, `)
	_, _, err = read(t, "<p>none</p>", "", Options{})
	assert.ErrorIs(t, err, ErrNoTable)
	_, _, err = read(t, "<table></table>", "", Options{})
	assert.ErrorIs(t, err, ErrNoTable)
	names, rows, err := read(t, "<table>"+strings.Repeat("<tr><th>x<th>y", 3000)+"</table>", "", Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"x", "y"}, names)
	assert.Len(t, rows, 2999, "where all cells are headings, the first row is")
	names, rows, err = read(t, page, "2", Options{HeaderRow: -1})
	require.NoError(t, err)
	assert.Equal(t, []string{"column 1", "column 2"}, names)
	assert.Len(t, rows, 2)
}

func TestEncodings(t *testing.T) {
	table := "<table><tr><th>a<th>b<tr><td>M\xf6we<td>\x80</table>"
	for _, page := range []string{`<meta charset="iso-8859-1">` + table, `<meta http-equiv="Content-Type" content="text/html; charset=windows-1252">` + table} {
		_, rows, err := read(t, page, "", Options{})
		require.NoError(t, err)
		assert.Equal(t, [][]string{{"Möwe", "€"}}, rows)
	}
	_, rows, err := read(t, strings.ReplaceAll(table, "\x80", "x"), "", Options{Encoding: "windows-1252"})
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"Möwe", "x"}}, rows)
	_, rows, err = read(t, "\ufeff<table><tr><th>a<th>b<tr><td>Möwe<td>€</table>", "", Options{})
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"Möwe", "€"}}, rows)
}

func TestLooks(t *testing.T) {
	for text, want := range map[string]bool{
		"<!DOCTYPE html>": true, " \n<HTML>": true, "\ufeff<table border=1>": true, "<!-- saved --><html>": true, "<?xml version='1.0'?><html>": true,
		"<?xml version='1.0'?><rows>": false, "a,b\n<b>,c": false, "<a>,b": false, "": false,
	} {
		assert.Equal(t, want, Looks([]byte(text)), text)
	}
}

// A table of many rows takes no more room than one of few, and the shared suite holds for it.
func TestSuite(t *testing.T) {
	var b strings.Builder
	b.WriteString("<table><tr><th>no<th>text</tr>")
	var want [][]string
	for i := range 20_000 {
		fmt.Fprintf(&b, "<tr><td>%d</td><td>some <b>text</b> &amp; %d</td></tr>\n", i, i%7)
		want = append(want, []string{fmt.Sprint(i), fmt.Sprintf("some text & %d", i%7)})
	}
	tabletest.Sources(t, func() table.Source {
		src, err := Open(from(b.String()), "a.html", -1, "", Options{})
		require.NoError(t, err)
		return src
	}, []string{"no", "text"}, want)
}

// Tags beyond bounds are errors, and take no more than they are long.
func TestBounds(t *testing.T) {
	for name, text := range map[string]string{
		"tables within tables": strings.Repeat("<table><tr><td>", 60),
		"tables":               strings.Repeat("<table></table>", maxTables+1),
		"cells":                "<table><tr>" + strings.Repeat("<td>", maxColumns+1),
	} {
		_, _, err := read(t, text, "", Options{})
		assert.ErrorContains(t, err, "more than", name)
	}
	_, rows, err := read(t, "<table><tr><th>a<th>b"+strings.Repeat("<tr><td colspan=1000 rowspan=65534>x", 50), "", Options{})
	require.NoError(t, err)
	assert.LessOrEqual(t, len(rows[len(rows)-1]), maxColumns)
}

func FuzzOpen(f *testing.F) {
	f.Add("<table><thead><tr><th rowspan=2>a<th colspan=2>b<tr><th>c<th>d<tbody><tr><td>1<td>2<td>3</table>", "")
	f.Add("<table><caption>x</caption><tr><td><table><tr><td hidden>1</table><td rowspan=0>2", "1")
	f.Add("<table><tr><td>\"\x1f\r\n<br></td></tr></table>", "1")
	f.Fuzz(func(t *testing.T, text, part string) {
		_, rows, err := read(t, text, part, Options{})
		if err == nil {
			for _, r := range rows {
				assert.LessOrEqual(t, len(r), maxColumns)
			}
		}
	})
}
