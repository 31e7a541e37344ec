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
