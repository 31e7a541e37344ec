package e2e

import (
	"bytes"
	"compress/gzip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const records = `{"no": 1, "kg": 12, "at": {"port": "HAR"}, "day": "2021-03-04"}
{"no": 2, "kg": "12,5 kg", "at": {"port": ""}, "day": null}
{"no": 3, "kg": "n/a", "at": {}, "day": "2021-03-06", "big": 123456789012345678901234567890.50}
{"no": 4, "kg": "x", "at": null, "day": "2021-03-07"}
` + `{"no": 5, "kg": 1.50}
{"no": 6, "kg": "2,5"}
{"no": 7, "kg": 7}
{"no": 8, "kg": 8}
{"no": 9, "kg": 9}
{"no": 10, "kg": 9}
{"no": 11, "kg": 9}
{"no": 12, "kg": 9}
{"no": 13, "kg": 9}
`

// JSON keeps what it stores: numbers, texts, null and what is missing.
func TestRecordsOfJSON(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.jsonl", records)
	p := profileOf(t, f, "a.jsonl")
	require.Len(t, p.Columns, 6)
	kg := p.Columns[1]
	assert.Equal(t, map[string]int{"text": 4, "number": 9, "date": 0, "boolean": 0, "null": 0, "error": 0, "several": 0}, kg.Stored)
	assert.Equal(t, "decimal", kg.Suggest.Type)
	port := p.Columns[2]
	assert.Equal(t, "at.port", port.Name)
	assert.Equal(t, 1, port.Blanks["empty"])
	assert.Equal(t, 11, port.Blanks["missing"])
	assert.Equal(t, 1, p.Columns[3].Blanks["null"])

	r := f.run("convert", "a.jsonl", "-o", "o.csv")
	require.Equal(t, 1, r.code, r.err)
	assert.Contains(t, f.read("o.csv"), "1,12,HAR,2021-03-04,,\n2,12.5,,,,\n3,,,2021-03-06,123456789012345678901234567890.50,\n")
	assert.Contains(t, f.read("o.failures.csv"), "4,4,kg,x,decimal,not-a-number")
	whole := f.read("o.csv")

	var z bytes.Buffer
	w := gzip.NewWriter(&z)
	_, err := w.Write([]byte(records))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	f.file("b.json.gz", z.String())
	require.Equal(t, 1, f.run("convert", "b.json.gz", "-o", "o.csv").code)
	assert.Equal(t, whole, f.read("o.csv"))
	piped := f.runWith(records, "profile", "-", "--format", "json")
	require.Equal(t, 0, piped.code, piped.err)
	assert.Contains(t, piped.out, `"at.port"`)
	require.Equal(t, 1, f.runWith(records, "convert", "-", "-o", "o.csv").code)
	assert.Equal(t, whole, f.read("o.csv"))

	// What is written as JSON lines reads back as it was written.
	require.Equal(t, 1, f.run("convert", "a.jsonl", "-o", "o.jsonl").code)
	require.Equal(t, 0, f.run("convert", "o.jsonl", "-o", "again.jsonl").code)
	assert.Equal(t, f.read("o.jsonl"), f.read("again.jsonl"))
	assert.Contains(t, f.run("why", "a.jsonl", "--row", "5", "--column", "kg").out, "stored as          number")

	f.file("bad.jsonl", "{\"a\":1}\n{\"a\":")
	r = f.run("profile", "bad.jsonl")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "bad.jsonl: line 2: the JSON is cut off")
}
