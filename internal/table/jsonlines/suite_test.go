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

// What one record holds is found without keeping it: the list of records, a table with its names beside it.
func TestListsWithinARecord(t *testing.T) {
	open := func(text string) func() (io.ReadCloser, error) {
		return func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }
	}
	for _, tt := range []struct{ text, list, names, first, why string }{
		{`{"columns":["no","kg"],"index":[0,1],"data":[["0042",7.5],["0043",null]]}`, "", "no kg", "0042 7.5", `the list of rows "data", whose names stand beside it; what else it holds is left out: columns, index`},
		{`{"a":{"header":["no","kg"],"rows":[["x","y"]]}}`, "a.rows", "no kg", "x y", "whose names stand beside it"},
		{`{"columns":["no"],"data":[["0042",7.5]]}`, "", "column 1 column 2", "0042 7.5", `the list of rows "data"; what`},
		{`{"n":2,"d":{"x":[{"a":1},{"b":2}]}}`, "", "a b", "1 ", `the list of records "d.x"; what else it holds is left out: n`},
		{`{"n":2,"t":[[1,2]],"x":[{"a":1},{"a":2}]}`, "", "a", "1", "what else it holds is left out: t, n"},
		{`{"x":[{"a":1}]} {"x":[{"a":2}]}`, "", "x", `[{"a":1}]`, "it begins with a record"},
		{`{"x":[]}`, "", "x", "[]", "it begins with a record"},
	} {
		s, err := jsonlines.Open(open(tt.text), "a.json", tt.list, -1)
		require.NoError(t, err, tt.text)
		require.Equal(t, tt.names, strings.Join(s.Info().Names, " "), tt.text)
		require.Contains(t, s.Info().Decisions[0].Why, tt.why, tt.text)
		b := &table.Block{}
		require.NoError(t, s.Next(b))
		require.Equal(t, tt.first, strings.Join(cellsOf(b), " "), tt.text)
	}
	for text, want := range map[string]string{
		`{"a":[{"x":1}],"b":{"c":[{"x":2}]}}`: "it is one record that holds 2 lists: name one after #, as in file.json#a; there are a, b.c",
		`{"a":[[1]],"b":[[2]]}`:               "it holds 2 lists",
		`{"a":[{"x":1},`:                      "cut off",
	} {
		_, err := jsonlines.Open(open(text), "a.json", "", -1)
		require.ErrorContains(t, err, strings.Replace(want, "it holds 2", "that holds 2", 1), text)
	}
}

func cellsOf(b *table.Block) (cells []string) {
	for c := range b.Width {
		cells = append(cells, string(b.Cell(0, c)))
	}
	return cells
}
