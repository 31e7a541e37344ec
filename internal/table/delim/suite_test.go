package delim_test

import (
	"bytes"
	"os"
	"strings"
	"testing"
	"unicode/utf8"

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

// Cells that look like formulas are counted, and guarded in the rows that go out; numbers
// with a sign are none.
func TestFormulasOfTheSink(t *testing.T) {
	cells := []string{"=1", "+49 431", "+49", "-5", "-x", "@a", "plain", "", "=gone", "=\"a\",b"}
	for _, guard := range []bool{false, true} {
		path := t.TempDir() + "/a.csv"
		f, err := wholefile.Create(path)
		require.NoError(t, err)
		fields := []table.Field{{Name: "t"}}
		s, err := delim.NewSink(f, ',', fields)
		require.NoError(t, err)
		if guard {
			s.Guard()
		}
		rows := &table.Rows{Fields: fields, Count: len(cells), Cells: make([]table.Values, 1)}
		for _, cell := range cells {
			rows.Out = append(rows.Out, cell != "=gone")
			v := &rows.Cells[0]
			if cell == "" {
				v.AddBlank()
				continue
			}
			v.Text = append(v.Text, cell...)
			v.AddMade(len(v.Text) - len(cell))
		}
		require.NoError(t, s.Write(s.Encode(nil, rows), rows))
		require.NoError(t, s.Commit())
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		want := "t\n=1\n+49 431\n+49\n-5\n-x\n@a\nplain\n\"\"\n\"=\"\"a\"\",b\"\n"
		if guard {
			want = "t\n'=1\n'+49 431\n+49\n-5\n'-x\n'@a\nplain\n\"\"\n\"'=\"\"a\"\",b\"\n"
		}
		require.Equal(t, want, string(text))
		require.EqualValues(t, 5, s.Formulas())
		require.Equal(t, guard, s.Guarded())
	}
}

// Comments, and tabs with backslashes: whatever stands in a text, every line that is marked comes back without its mark, and the rows
// are as many as without the way round.
func FuzzMadeLines(f *testing.F) {
	f.Add("# a\nx,y\n1,\"2\n# no\"\n#\n", "#")
	f.Add("a\tb\n\\N\tx\\ty\n1\t\\\n2\n", "")
	f.Add("no  kg\n--- ---\n1   2 x\n(2 rows)\n", "//")
	f.Fuzz(func(t *testing.T, text, comment string) {
		src, err := delim.Open(strings.NewReader(text), "t", int64(len(text)), delim.Options{Comment: comment})
		if err != nil {
			return
		}
		for {
			b := &table.Block{}
			if err := src.Next(b); err != nil {
				break
			}
			src.Split(b)
			for _, o := range b.Odd {
				cell := b.Cell(o.Row, 0)
				if comment != "" && !strings.ContainsAny(text, "\x1f\r") && utf8.ValidString(text) && utf8.ValidString(comment) {
					require.True(t, bytes.HasPrefix(cell, []byte(comment)), "%q", cell)
				}
			}
		}
	})
}
