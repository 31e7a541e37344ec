package e2e

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
)

// wellFormed says that a text is XML.
func wellFormed(t *testing.T, what string, text []byte) {
	t.Helper()
	d := xml.NewDecoder(bytes.NewReader(text))
	for {
		_, err := d.Token()
		if errors.Is(err, io.EOF) {
			return
		}
		if err != nil {
			t.Errorf("%s is no XML: %v", what, err)
			return
		}
	}
}

// Every part of every workbook, page, picture and list that is written can be read by others, whatever texts and bytes the
// source has: as names, as values, as failures, as rows that are set aside.
func TestEverythingWrittenIsWellFormed(t *testing.T) {
	t.Parallel()
	texts := append([]string{"K\xe9", "\xff\xfe", "\xc3", "\xf0\x9f", "\xed\xa0\x80", "ok\xe9\x01\x0b", strings.Repeat("é\xe9", 20_000), strings.Repeat("x", 40_000)}, hostile...)
	for part := range 4 { // of the texts, so that some are names, too
		f := newFolder(t)
		var b strings.Builder
		name := func(i int) string { return strings.ReplaceAll(texts[(part*7+i)%len(texts)], "\"", "\"\"") }
		fmt.Fprintf(&b, "no,kg,text,\"n%s\",day\n", strings.ToValidUTF8(clip(name(0), 200), "?"))
		for i, text := range texts {
			if i%4 != part {
				continue
			}
			text = strings.ReplaceAll(text, "\"", "\"\"")
			fmt.Fprintf(&b, "%d,\"%s\",\"%s\",\"%s\",2021-03-04\n", i, text, text, text)
		}
		for i := range 40 {
			fmt.Fprintf(&b, "%d,%d.5,plain,%d,2021-03-%02d\n", 1000+i, i, i, i%28+1)
		}
		b.WriteString("Total,,,,\nSee \x01\xe9 <below>,,,,\n")
		f.file("a.csv", b.String())
		told := []string{"--encoding", "utf-8", "--as", "kg=decimal", "--delimiter", ","}
		run := func(args ...string) {
			r := f.run(append(args, told...)...)
			require.LessOrEqual(t, r.code, 1, "%v: %s", args, r.err)
		}
		run("convert", "a.csv", "-o", "o.xlsx", "--report", "o.html", "--failures", "fail.xlsx", "--set-aside", "aside.xlsx", "--ledger", "o.json")
		run("convert", "a.csv", "-o", "o.csv", "--metadata")
		run("profile", "a.csv", "--picture", "o.svg", "--report", "p.html")
		for _, book := range []string{"o.xlsx", "fail.xlsx", "aside.xlsx"} {
			z, err := zip.NewReader(strings.NewReader(f.read(book)), int64(len(f.read(book))))
			require.NoError(t, err, book)
			for _, e := range z.File {
				in, err := e.Open()
				require.NoError(t, err)
				text, err := io.ReadAll(in)
				require.NoError(t, err)
				wellFormed(t, book+" "+e.Name, text)
			}
			require.LessOrEqual(t, f.run("profile", book).code, 0, book)
		}
		wellFormed(t, "o.svg", []byte(f.read("o.svg")))
		for _, page := range []string{"o.html", "p.html"} {
			text := f.read(page)
			assert.True(t, utf8.ValidString(text), page)
			_, err := html.Parse(strings.NewReader(text))
			assert.NoError(t, err, page)
		}
		for _, doc := range []string{"o.json", "o.csv-metadata.json"} {
			if slices.Contains(f.names(), doc) {
				assert.True(t, json.Valid([]byte(f.read(doc))), doc)
			}
		}
		assert.True(t, utf8.ValidString(f.read("o.csv")))
	}
}

// clip cuts a text after so many bytes.
func clip(text string, n int) string { return text[:min(len(text), n)] }
