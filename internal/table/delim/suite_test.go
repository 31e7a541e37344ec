package delim_test

import (
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"

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

// Cutting at widths loses nothing but spaces, and keeps the lines.
func FuzzWidths(f *testing.F) {
	f.Add("00001 Marlies  12,5\n00002 Möwe II 7\r\n\n x\x1fy \"z\"", 6, 9)
	f.Add("\xff\xfe a", 1, 1)
	f.Fuzz(func(t *testing.T, text string, a, b int) {
		if a < 1 || b < 1 || a > 100 || b > 100 || strings.ContainsAny(text, "\r\x00") {
			return
		}
		s, err := delim.Open(strings.NewReader(text), "a.txt", -1, delim.Options{Widths: []int{a, b}, Encoding: "windows-1252", HeaderRow: -1})
		if err != nil {
			return
		}
		var got strings.Builder
		for _, l := range s.Info().Above {
			got.WriteString(strings.ReplaceAll(l.Text, " ", ""))
		}
		block := &table.Block{}
		for s.Next(block) == nil {
			s.Split(block)
			for r := range block.Rows {
				for _, cell := range block.RowCells(r) {
					got.WriteString(strings.ReplaceAll(cell, " ", ""))
				}
			}
			block.Reset()
		}
		decoded, err := charmap.Windows1252.NewDecoder().String(text)
		require.NoError(t, err)
		want := strings.NewReplacer(" ", "", "\n", "").Replace(decoded)
		require.Equal(t, len([]rune(want)), len([]rune(got.String())), "%q became %q", text, got.String())
	})
}
