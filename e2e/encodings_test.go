package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// Every format of text is read in every encoding: where that shows, and where it is told.
func TestFormatsInEncodings(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	texts := map[string]string{
		"t.csv":  "port,kg\nBrücke,1\nHäfen,2\n",
		"t.json": "[{\"port\":\"Brücke\",\"kg\":1},{\"port\":\"Häfen\",\"kg\":2}]",
		"t.html": "<html><body><table><tr><th>port</th><th>kg</th></tr><tr><td>Brücke</td><td>1</td></tr><tr><td>Häfen</td><td>2</td></tr></table></body></html>",
		"t.xml":  "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<all><row><port>Brücke</port><kg>1</kg></row><row><port>Häfen</port><kg>2</kg></row></all>",
		"t.sql":  "CREATE TABLE t (port text, kg int);\nINSERT INTO t VALUES ('Brücke', 1), ('Häfen', 2);\n",
		"t.log":  "port=Brücke kg=1\nport=Häfen kg=2\nport=\"\" kg=\"\"\n",
		"t.txt":  "port: Brücke\nkg: 1\n\nport: Häfen\nkg: 2\n",
	}
	for name, text := range texts {
		f.file(name, text)
		require.Equal(t, 0, f.run("convert", name, "-o", "want.csv").code, name)
		want := f.read("want.csv")
		assert.Contains(t, want, "Brücke", name)
		for _, e := range []struct {
			of   encoding.Encoding
			told []string
			kind string
		}{
			{unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), nil, "utf-16le"},
			{unicode.UTF16(unicode.BigEndian, unicode.UseBOM), nil, "utf-16be"},
			{unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), nil, "utf-16le"},
			{charmap.CodePage850, []string{"--encoding", "cp850"}, "cp850"},
		} {
			encoded, err := e.of.NewEncoder().String(text)
			require.NoError(t, err)
			f.file(name, encoded)
			r := f.run(append([]string{"convert", name, "-o", "got.csv"}, e.told...)...)
			require.Equal(t, 0, r.code, "%s in %s: %s", name, e.kind, r.err)
			assert.Equal(t, want, f.read("got.csv"), "%s in %s", name, e.kind)
			r = f.run(append([]string{"profile", name, "--format", "json"}, e.told...)...)
			assert.Contains(t, r.out, `"encoding": "`+e.kind+`"`, name)
		}
	}
}

// A key that a record has twice with values that differ fails, and one that has them twice does not.
func TestKeysThatStandTwice(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for name, text := range map[string]string{
		"a.jsonl": "{\"port\":\"A\",\"kg\":1,\"kg\":2}\n{\"port\":\"B\",\"kg\":3,\"kg\":3}\n{\"port\":\"C\",\"port\":\"D\",\"kg\":4}\n",
		"a.log":   "port=A kg=1 kg=2\nport=B kg=3 kg=3\nport=C port=D kg=4\n",
		"a.txt":   "no: 1\nport: A\nkg: 1\nkg: 2\n\nno: 2\nport: B\nkg: 3\nkg: 3\n\nno: 3\nport: C\nport: D\nkg: 4\n",
	} {
		f.file(name, text)
		r := f.run("convert", name, "-o", "o.csv", "--only", "port,kg", "--as", "kg=integer")
		require.Equal(t, 1, r.code, "%s: %s", name, r.err)
		assert.Equal(t, "port,kg\nA,\nB,3\n,4\n", f.read("o.csv"), name)
		var told []string
		for _, row := range f.records("o.failures.csv")[1:] {
			told = append(told, row[2]+" "+row[3]+" "+row[5])
		}
		assert.Equal(t, []string{"kg 1 | 2 several-values", "port C | D several-values"}, told, name)
	}
	f.file("c.txt", "a: 1\nb:\n  x\n  y\n\na: 5\nb: z\n")
	require.Equal(t, 0, f.run("convert", "c.txt", "-o", "o.jsonl").code)
	assert.Contains(t, f.read("o.jsonl"), `"b":"x\ny"`)
}
