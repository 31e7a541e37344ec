package jsonlines

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/value"
)

// memory is an output in memory.
type memory struct{ bytes.Buffer }

func (*memory) Finish() error { return nil }
func (*memory) Commit() error { return nil }
func (*memory) Abort()        {}

// rowsOf makes rows of these columns of values.
func rowsOf(fields []table.Field, columns ...[]string) *table.Rows {
	r := &table.Rows{Fields: fields, Count: len(columns[0])}
	for _, list := range columns {
		var v table.Values
		for _, text := range list {
			if text == "" {
				v.AddBlank()
				continue
			}
			start := len(v.Text)
			v.Text = append(v.Text, text...)
			v.AddMade(start)
		}
		r.Cells = append(r.Cells, v)
	}
	return r
}

func TestValuesAreJSON(t *testing.T) {
	fields := []table.Field{{Name: `a "b"`, Type: value.Decimal}, {Name: "t", Type: value.Text}, {Name: "ok", Type: value.Boolean}, {Name: "day", Type: value.Date}}
	out := &memory{}
	s, err := NewSink(out, fields)
	require.NoError(t, err)
	rows := rowsOf(
		fields,
		[]string{"123456789012345678901234567890.50", "-0.5", "", "1.240,5 kg", "007", "1."},
		[]string{"x", "line\nbreak \"q\" \\ <b> Größe", "", "\x1b", "7", "true"},
		[]string{"true", "false", "", "maybe", "true", "false"},
		[]string{"2021-03-04", "", "2021-03-05", "", "", ""},
	)
	rows.Out = []bool{true, true, true, true, true, false}
	require.NoError(t, s.Write(s.Encode(nil, rows), rows))
	assert.Equal(t, `{"a \"b\"":123456789012345678901234567890.50,"t":"x","ok":true,"day":"2021-03-04"}
{"a \"b\"":-0.5,"t":"line\nbreak \"q\" \\ <b> Größe","ok":false,"day":null}
{"a \"b\"":null,"t":null,"ok":null,"day":"2021-03-05"}
{"a \"b\"":"1.240,5 kg","t":"\u001b","ok":"maybe","day":null}
{"a \"b\"":"007","t":"7","ok":true,"day":null}
`, out.String())
	lines := json.NewDecoder(&out.Buffer)
	lines.UseNumber()
	for range 5 {
		var v map[string]any
		require.NoError(t, lines.Decode(&v))
		assert.Len(t, v, 4)
	}
}

func TestNumber(t *testing.T) {
	for text, want := range map[string]bool{
		"0": true, "-7": true, "12.50": true, "0.5": true, "007": false, "-": false, ".5": false, "5.": false, "1e5": false, "1,5": false, "--1": false, "NaN": false,
	} {
		assert.Equal(t, want, number([]byte(text)), text)
	}
}
