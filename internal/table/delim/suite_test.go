package delim_test

import (
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/tabletest"
	"junvo/internal/table/wholefile"
)

func TestSuite(t *testing.T) {
	for ending, delimiter := range map[string]byte{".csv": ',', ".tsv": '\t'} {
		tabletest.Sinks(t, tabletest.Format{
			Ending: ending,
			Create: func(path string, fields []table.Field) (table.Sink, error) {
				f, err := wholefile.Create(path)
				if err != nil {
					return nil, err
				}
				return delim.NewSink(f, delimiter, fields)
			},
			Open: func(path string) (table.Source, error) {
				text, err := os.ReadFile(path)
				if err != nil {
					return nil, err
				}
				return delim.Open(bytes.NewReader(text), "a"+ending, int64(len(text)), delim.Options{})
			},
		})
	}
	text := "a;b\n1;\"x\ny\"\n2\n;\"\"\n"
	tabletest.Sources(t, func() table.Source {
		s, err := delim.Open(strings.NewReader(text), "a.csv", int64(len(text)), delim.Options{})
		require.NoError(t, err)
		return s
	}, []string{"a", "b"}, [][]string{{"1", "x\ny"}, {"2", ""}, {"", ""}})
}
