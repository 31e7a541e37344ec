package delim

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"junvo/internal/table"
)

// splitBy splits a text in the regular way, or in the exact one, and returns what came of it,
// false where the text is not regular.
func splitBy(d *Dialect, text string, width int, exact bool) (*table.Block, bool) {
	b := &table.Block{Text: []byte(text), Width: width, Quote: d.Quote, Escape: d.Escape}
	s := splitter{d: d, b: b, text: b.Text, width: width}
	if exact {
		s.exact()
	} else if !s.regular() {
		return nil, false
	}
	b.Spans, b.Rows, b.LineCount, b.Lines, b.Marks = s.spans, s.rows, s.line, s.lines, nil
	return b, true
}

// FuzzRegularIsExact holds the regular way of splitting equal to the exact one.
func FuzzRegularIsExact(f *testing.F) {
	f.Add("a,b\n1,2\n\"x\",\"\"\n", byte(2), byte('\n'))
	f.Add("a,b\r\n1\r\n\"x,\n\",\"y\"\"\"\r\n,,\r\n", byte(2), byte('\n'))
	f.Add(strings.Repeat("12,abc,\"d e\"\n", 400)+"short\n"+strings.Repeat("12,abc,\"d e\"\r\n", 400), byte(3), byte('\n'))
	f.Add(strings.Repeat("1,2,3\r", 900), byte(3), byte('\r'))
	f.Fuzz(func(t *testing.T, text string, width, eol byte) {
		if width == 0 || eol == ',' || eol == '"' {
			t.Skip()
		}
		regularIsExact(t, &Dialect{Delimiter: ',', Quote: '"', Escape: '"', EOL: eol}, text, int(width))
	})
}

func regularIsExact(t *testing.T, d *Dialect, text string, width int) {
	t.Helper()
	got, ok := splitBy(d, text, width, false)
	if !ok {
		return
	}
	want, _ := splitBy(d, text, width, true)
	require.Equal(t, want, got, "%q", text)
}

// Long texts have stretches that are even and others that are not.
func TestRegularIsExact(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 32))
	cells := []string{"", "1", "1240.5", "\"\"", "\"Petersen, Anke\"", "\"two\nlines\"", "\"say \"\"hi\"\"\"", strings.Repeat("long ", 40), "café", "\x00"}
	for round := range 300 {
		d := Dialect{Delimiter: ',', Quote: '"', Escape: '"', EOL: '\n'}
		width, ragged := 1+r.IntN(6), r.IntN(400)
		plain := len(cells)
		if round%2 == 0 {
			plain = 5 // neither line breaks nor doubled quotes
		}
		end := []string{"\n", "\r\n"}[r.IntN(2)]
		var b strings.Builder
		for b.Len() < 200+r.IntN(20_000) {
			n := width
			if r.IntN(400) < ragged/20 {
				n = 1 + r.IntN(2*width)
			}
			for c := range n {
				if c > 0 {
					b.WriteByte(',')
				}
				b.WriteString(cells[r.IntN(plain)])
			}
			b.WriteString(end)
		}
		text := b.String()
		if r.IntN(3) == 0 {
			text = strings.TrimSuffix(text, end)
		}
		regularIsExact(t, &d, text, width)
	}
}
