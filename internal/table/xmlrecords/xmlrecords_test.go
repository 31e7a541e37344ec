package xmlrecords

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/records"
	"junvo/internal/table/tabletest"
)

func from(text string) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }
}

func ExampleElement() {
	file := from(`<export><at>2021</at><landings><landing no="0042"><kg>7,5</kg></landing><landing no="0043"/></landings></export>`)
	element, why, err := Element(file, "")
	fmt.Println(element, "·", why, err)
	in, _ := file()
	rec, _ := NewReader(in, element).Read()
	fmt.Println(rec.Names, rec.Cells[1].Text)
	// Output:
	// export/landings/landing · it occurs 2 times <nil>
	// [no kg] 7,5
}

// said writes all records of an element.
func said(t *testing.T, text, element string) (out []string, err error) {
	t.Helper()
	element, _, err = Element(from(text), element)
	if err != nil {
		return nil, err
	}
	in, _ := from(text)()
	r := NewReader(in, element)
	defer r.Close()
	for {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		var parts []string
		for i, n := range rec.Names {
			parts = append(parts, n+"→"+rec.Cells[i].Text+"·"+rec.Cells[i].Kind.String())
		}
		out = append(out, strings.Join(parts, "|"))
	}
}

func TestRecords(t *testing.T) {
	for row, want := range map[string]string{
		`<r a="1"><b>x</b></r>`:                              "a→1·text|b→x·text",
		`<r><b c="1"><d>2</d></b></r>`:                       "b.c→1·text|b.d→2·text",
		`<r><b u="kg">7,5</b></r>`:                           "b.u→kg·text|b→7,5·text",
		`<r><b>1</b><b>2</b><b/></r>`:                        `b→["1","2",""]·text`,
		`<r><b> x </b><c/><d></d></r>`:                       "b→ x ·text|c→·text|d→·text",
		`<r><b xsi:nil="true"/><c xsi:nil="false">1</c></r>`: "b→·null|c→1·text",
		`<r><b><![CDATA[<x> & ]]>y</b></r>`:                  "b→<x> & y·text",
		`<r>&lt;&amp;&#8364;&none;</r>`:                      "value→<&€&none;·text",
		`<r/>`:                                               "value→·text",
		`<n:r xmlns:n="x" n:a="1" xsi:schemaLocation="y"><n:b>2</n:b></n:r>`: "a→1·text|b→2·text",
		"<r>text <b>bold</b> more</r>":                                       "b→bold·text|value→text  more·text",
		"<r><b>a\nb</b><!-- no --><?pi no?></r>":                             "b→a\nb·text",
	} {
		got, err := said(t, "<rows><r>0</r>"+row+"</rows>", "")
		require.NoError(t, err, row)
		assert.Equal(t, []string{"value→0·text", want}, got, row)
	}
}

// The element that is a record: the one within which there is something, near the root, that occurs again and again.
func TestElement(t *testing.T) {
	for text, want := range map[string]string{
		"<a><b/><b/></a>": "a/b",
		"<a><n>1</n><n>2</n><b><c>1</c></b><b><c>2</c></b></a>":       "a/b",
		"<a><x><r i='1'/><r i='2'/></x><x><r i='3'/></x></a>":         "a/x",
		"<a><p><r i='1'><t i='1'/><t i='2'/></r><r i='2'/></p></a>":   "a/p/r",
		"<a><h><k>1</k></h><b><r><v>1</v></r><r><v>2</v></r></b></a>": "a/b/r",
	} {
		got, _, err := Element(from(text), "")
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	deep := "<a><p><r i='1'><t i='1'/><t i='2'/></r><r i='2'/></p><t/></a>"
	for name, want := range map[string]string{"t": "a/t", "r/t": "a/p/r/t", "/a/p/r": "a/p/r", "p": "a/p"} {
		got, why, err := Element(from(deep), name)
		require.NoError(t, err, name)
		assert.Equal(t, want+" as told", got+" "+why)
	}
	_, _, err := Element(from(deep), "none")
	assert.EqualError(t, err, `there is no element "none"; those that occur again and again are a/p/r, a/p/r/t`)
	_, _, err = Element(from("<a><b/><c/></a>"), "")
	assert.ErrorIs(t, err, ErrNoRows)
}

func TestLooks(t *testing.T) {
	for text, want := range map[string]bool{
		"<?xml version='1.0'?><a/>": true, "\ufeff <a><b>": true, "<!-- x --><a x='1'><b": false, "<!-- x --><a x='1'><b>": true,
		"<a>,b\n<c>,d\n": false, "<a><b>,c\n": true, "<5,6\n": false, "a,<b>\n": false, "": false, "<a>text</a>": false,
	} {
		assert.Equal(t, want, Looks([]byte(text)), text)
	}
}

// What is cut off, too deep or of an endless number of names is an error in bounded time, and nothing is expanded.
func TestHostile(t *testing.T) {
	whole := "<a><b x='1'><c>1</c></b><b x='2'><c>2</c></b></a>"
	for cut := range whole[1:] {
		if _, err := said(t, whole[:cut], "b"); err == nil {
			assert.GreaterOrEqual(t, cut, strings.LastIndex(whole, "</a>"), whole[:cut])
		}
	}
	_, err := said(t, strings.Repeat("<a>", 1000), "")
	assert.ErrorContains(t, err, "more than 64 deep")
	var many strings.Builder
	for i := range maxPaths + 2 {
		fmt.Fprintf(&many, "<e%d/>", i)
	}
	_, err = said(t, "<a>"+many.String()+"</a>", "")
	assert.ErrorContains(t, err, "more than 10000 different elements")
	bomb := `<!DOCTYPE a [<!ENTITY x "yyyyyyyyyy"><!ENTITY z SYSTEM "file:///etc/hostname">]><a><b>&x;&z;</b><b>1</b></a>`
	got, err := said(t, bomb, "")
	require.NoError(t, err)
	assert.Equal(t, []string{"value→&x;&z;·text", "value→1·text"}, got)
	got, err = said(t, "<?xml version='1.0' encoding='iso-8859-1'?><a><b>M\xf6we</b><b>1</b></a>", "")
	require.NoError(t, err)
	assert.Equal(t, "value→Möwe·text", got[0])
}

func TestSuite(t *testing.T) {
	var b strings.Builder
	var want [][]string
	b.WriteString("<rows>")
	for i := range 5_000 {
		fmt.Fprintf(&b, "<row no=\"%d\">\n<text>some &lt; %d</text></row>", i, i%7)
		want = append(want, []string{fmt.Sprint(i), fmt.Sprintf("some < %d", i%7)})
	}
	b.WriteString("</rows>")
	tabletest.Sources(t, func() table.Source {
		element, why, err := Element(from(b.String()), "")
		require.NoError(t, err)
		src, err := records.Open(func() (records.Reader, error) {
			in, err := from(b.String())()
			return NewReader(in, element), err
		}, table.Info{Name: "a.xml", Format: "XML", Decisions: []table.Decision{{What: "record", Value: element, Why: why}}})
		require.NoError(t, err)
		return src
	}, []string{"no", "text"}, want)
}

func FuzzRecords(f *testing.F) {
	f.Add("<a><b x='1'><c>1</c><c>2</c></b><b/></a>", "")
	f.Add("<a><b xsi:nil='1'/><b><![CDATA[x]]></b>", "b")
	f.Fuzz(func(t *testing.T, text, element string) {
		_, _ = said(t, text, element)
		Looks([]byte(text))
	})
}
