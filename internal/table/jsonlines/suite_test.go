package jsonlines_test

import (
	"io"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/jsonlines"
	"junvo/internal/table/tabletest"
	"junvo/internal/table/wholefile"
)

func TestSuite(t *testing.T) {
	tabletest.Sinks(t, tabletest.Format{
		Ending: ".jsonl", Typed: true,
		Create: func(path string, fields []table.Field) (table.Sink, error) {
			f, err := wholefile.Create(path)
			if err != nil {
				return nil, err
			}
			return jsonlines.NewSink(f, fields)
		},
		Open: func(path string) (table.Source, error) {
			return jsonlines.Open(func() (io.ReadCloser, error) { return os.Open(path) }, "a.jsonl", "", -1)
		},
	})
	tabletest.Sources(t, func() table.Source {
		s, err := jsonlines.Open(func() (io.ReadCloser, error) {
			return io.NopCloser(strings.NewReader("{\"a\": 1.50, \"b\": {\"c\": [1, \"x\"]}}\n{\"a\": \"1.50\"}\n{\"b\": {\"c\": null}}\n")), nil
		}, "a.jsonl", "", -1)
		require.NoError(t, err)
		return s
	}, []string{"a", "b.c"}, [][]string{{"1.50", `[1,"x"]`}, {"1.50", ""}, {"", ""}})
}

// Tables that are written column by column, in two forms; and what only looks like one.
func TestColumnwise(t *testing.T) {
	open := func(text string) func() (io.ReadCloser, error) {
		return func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }
	}
	for _, text := range []string{
		`{"a": ["0042", "x"], "b": [1.50, null]}`, ` {"a":{"0":"0042","1":"x"},"b":{"0":1.50,"1":null}}` + "\n",
	} {
		tabletest.Sources(t, func() table.Source {
			s, err := jsonlines.Open(open(text), "a.json", "", -1)
			require.NoError(t, err)
			require.Equal(t, "JSON columns", s.Info().Format)
			return s
		}, []string{"a", "b"}, [][]string{{"0042", "1.50"}, {"x", ""}})
	}
	for _, text := range []string{
		`{"a": ["x"], "b": [1]}`, `{"a": ["x", "y"]}`, `{"a": ["x", "y"], "b": [1]}`, `{"a": ["x", "y"], "b": [1, [2]]}`, `{"a": ["x", "y"], "b": {"0": 1, "1": 2}}`,
		`{"a": {"0": 1, "1": 2}, "b": {"0": 1, "2": 2}}`, `{"a": {"x": 1, "y": 2}, "b": {"x": 1, "y": 2}}`, `{"a": [1, 2], "b": [3, 4]} {"a": [1, 2], "b": [3, 4]}`,
		`{"a": [1, 2], "b": 3}`, `{"a": 1, "b": [1, 2]}`,
	} {
		s, err := jsonlines.Open(open(text), "a.json", "", -1)
		require.NoError(t, err, text)
		require.NotEqual(t, "JSON columns", s.Info().Format, text)
	}
	_, err := jsonlines.Open(open(`{"a": [1, 2], "b": [3, 4]`), "a.json", "", -1)
	require.ErrorContains(t, err, "cut off")
}
