package workbook

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tokensOf writes the tokens of a text as the library has them.
func tokensOf(text string) (out []string, err error) {
	d := xml.NewDecoder(strings.NewReader(text))
	d.Strict = false
	for {
		t, err := d.RawToken()
		if err != nil {
			return out, err
		}
		switch t := t.(type) {
		case xml.StartElement:
			said := "<" + t.Name.Local
			for _, name := range []string{"r", "t", "s", "hidden"} {
				said += "|" + attr(&t, name)
			}
			out = append(out, said)
		case xml.EndElement:
			out = append(out, "/"+t.Name.Local)
		case xml.CharData:
			out = append(out, "="+string(t))
		}
	}
}

// scanned writes the tokens of a text as the scan has them.
func scanned(in io.Reader) (out []string, err error) {
	s := newScan(in)
	for {
		t, err := s.next()
		if err != nil {
			return out, err
		}
		switch t {
		case startTag:
			said := "<" + string(s.name)
			for _, name := range []string{"r", "t", "s", "hidden"} {
				said += "|" + string(s.attr(name))
			}
			out = append(out, said)
		case endTag:
			out = append(out, "/"+string(s.name))
		case plainText:
			out = append(out, "="+string(s.text))
		}
	}
}

// sameTokens holds the scan against the library.
func sameTokens(t *testing.T, text string) {
	t.Helper()
	want, wantErr := tokensOf(text)
	for name, in := range map[string]io.Reader{"whole": strings.NewReader(text), "byte by byte": iotest.OneByteReader(strings.NewReader(text))} {
		got, err := scanned(in)
		if errors.Is(err, errDocumentType) {
			return
		}
		require.Equal(t, errors.Is(wantErr, io.EOF), errors.Is(err, io.EOF), "%s %q: the library says %v, the scan %v", name, text, wantErr, err)
		if errors.Is(wantErr, io.EOF) {
			assert.Equal(t, want, got, "%s %q", name, text)
		}
	}
}

// What a token means is what the library says of it, however plain it is.
func TestScanIsTheLibrary(t *testing.T) {
	for _, text := range []string{
		`<c r="A1" t="s"><v>12</v></c>`, `<x:c x:r='A1'/>`, `<row r="1" hidden = "1"><c/></row>`, "a\r\nb\rc", "a&amp;b&lt;&#65;&#x42;&none;&#0;", "]]", "a]]>b",
		`<c r="a>b" t="&quot;">x</c>`, "<!-- a --><c/><!-- b -- c -->", "<![CDATA[<c>&]]>", "<?xml version=\"1.0\" encoding=\"UTF-8\"?><c/>", "<c", "<c r", "<c r=", "</c", "</ c>", "</c >",
		"< c>", "<c/ >", "<1c/>", "<é>ö</é>", "<a:b:c/>", "<:c/>", "<c:/>", "<c r=1/>", "<c hidden/>", "<c r='1'r='2'/>", "<c\nr='1'\t/>", "<c r='\n'/>", "<c r='<'/>",
		"\x00", "\x7f", "\xff", "\uffff", "\ufffe", "é\ufffd", "<c r='\xff'/>", "", "<", "<!", "<!-", "<!--", "<![", "<![CDATA[x", "<?", "<?a", "<>", "</>", "<c/><", "x<", "<c></c></c>",
		"<a r='1' r='2'>", "<c r=\"'\" t='\"'/>", strings.Repeat("long text ", 20_000), "<c r='" + strings.Repeat("x", 200_000) + "'/>", "<-c/>", "<.c/>", "<_c/>", "<c -r='1'/>", "&", "&a", "&#", "&#x;", "a&lt",
	} {
		sameTokens(t, text)
	}
	_, err := scanned(strings.NewReader("<!DOCTYPE x [<!ENTITY a 'b'>]><c/>"))
	assert.ErrorIs(t, err, errDocumentType)
}

func FuzzScan(f *testing.F) {
	f.Add(`<row r="1"><c r="A1" t="inlineStr"><is><t xml:space="preserve"> a&amp;b </t></is></c></row>`)
	f.Add("<!-- x --><c r='a>b'/><![CDATA[x]]>")
	f.Fuzz(func(t *testing.T, text string) { sameTokens(t, text) })
}

func BenchmarkScan(b *testing.B) {
	var text strings.Builder
	for i := range 1000 {
		fmt.Fprintf(&text, `<row r="%d"><c r="A%d" t="s"><v>%d</v></c><c r="B%d" s="1"><v>12.5</v></c></row>`, i, i, i, i)
	}
	b.SetBytes(int64(text.Len()))
	for b.Loop() {
		s := newScan(strings.NewReader(text.String()))
		for {
			if _, err := s.next(); err != nil {
				break
			}
		}
	}
}
