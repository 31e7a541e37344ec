package show

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/convert"
	"junvo/internal/finding"
	"junvo/internal/reading"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/value"
)

func TestVisible(t *testing.T) {
	for raw, want := range map[string]string{
		"plain Möwe 東京": "plain Möwe 東京", "a\u00a0b": "a⟨U+00A0⟩b", "\u200b": "⟨U+200B⟩", "a\nb\tc\r": "a⟨LF⟩b⟨TAB⟩c⟨CR⟩",
		"\x1b[31m": "⟨U+001B⟩[31m", "\xff": "⟨FF⟩", "⟨x⟩": "⟨⟨⟩x⟩", "\u202egnp": "⟨U+202E⟩gnp", "\U000e0041": "⟨U+E0041⟩", "": "",
	} {
		assert.Equal(t, want, Visible(raw), "%q", raw)
	}
	for raw, want := range map[string]string{"=1+1": "⟨=⟩1+1", "-x": "⟨-⟩x", "@a": "⟨@⟩a", "+1": "⟨+⟩1", "a=1": "a=1", "": ""} {
		assert.Equal(t, want, Guarded(raw), "%q", raw)
	}
}

// Different texts stay different when they are made visible.
func FuzzVisible(f *testing.F) {
	f.Add("a", "b")
	f.Add("⟨U+00A0⟩", "\u00a0")
	f.Add("⟨FF⟩", "\xff")
	f.Fuzz(func(t *testing.T, a, b string) {
		va, vb := Visible(a), Visible(b)
		require.Equal(t, a == b, va == vb, "%q %q", a, b)
		for _, r := range va {
			require.False(t, r < ' ' || r == 0x7f || r == 0x1b, "%q", va)
		}
	})
}

// The strip has all its places, every reading that occurs has one, and more cells
// never have fewer places.
func TestStripShares(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	for range 5000 {
		var reads [reading.NumReadings]int64
		for i := range reads {
			if r.IntN(2) == 0 {
				reads[i] = r.Int64N(1 + r.Int64N(1_000_000))
			}
		}
		out := Shares(reads[:], 20)
		sum, any := 0, false
		for i, n := range out {
			sum += n
			any = any || reads[i] > 0
			assert.Equal(t, reads[i] > 0, n > 0, "%v %v", reads, out)
		}
		if any {
			require.Equal(t, 20, sum, "%v", reads)
		}
	}
	assert.Equal(t, "dddddddddddddddddx·", strip([reading.NumReadings]int64{reading.AsDecimal: 987, reading.AsText: 8, reading.AsBlank: 9}, 19, Page{}))
	assert.Empty(t, strip([reading.NumReadings]int64{}, 20, Page{}))
}

func TestShareIsNeverRoundedToAllOrNothing(t *testing.T) {
	for _, tt := range []struct {
		n, all int64
		want   string
	}{
		{0, 0, "–"}, {5, 5, "100 %"}, {0, 5, "0.0 %"}, {999_999, 1_000_000, "99.9 %"}, {1, 1_000_000, "0.1 %"}, {1, 3, "33.3 %"}, {2, 3, "66.7 %"},
	} {
		assert.Equal(t, tt.want, Share(tt.n, tt.all))
	}
}

// A table is no wider than asked, whatever stands in it.
func TestTablesFit(t *testing.T) {
	make := func() *grid {
		return &grid{
			columns: []column{{name: "column", min: 8}, {name: "spare", drop: spare}, {name: "n", right: true}, {name: "less", drop: 1}, {name: "say", min: 10, wrap: true}},
			rows: [][]string{
				{"a name that is longer than most", "spare text", "12345", "less text", strings.Repeat("words and ", 20)},
				{"東京の魚市場の長い名前", "x", "1", "y", "שלום"},
			},
			foot: []string{"all", "", "12346", "", ""},
		}
	}
	for _, width := range []int{200, 120, 80, 60, 45} {
		out := make().render(Table, Page{Width: width})
		for _, line := range strings.Split(out, "\n") {
			assert.LessOrEqual(t, text.StringWidth(line), width, "at %d: %s", width, line)
		}
		assert.Contains(t, out, "12345")
	}
	wide := make().render(Table, Page{Width: 400})
	assert.Contains(t, wide, "spare text")
	assert.NotContains(t, make().render(Table, Page{Width: 80}), "spare text")
	assert.Contains(t, make().render(CSV, Page{Width: 20}), "a name that is longer than most,spare text,12345")
	assert.Contains(t, make().render(Markdown, Page{Width: 20}), "| a name that is longer than most | spare text |")
}

// The pages of reference have every entry of their catalogues.
func TestReferencePages(t *testing.T) {
	for _, e := range value.Types {
		assert.Contains(t, TypePage(), "\n  "+e.Name+"\n")
	}
	for _, e := range reason.Catalogue[1:] {
		assert.Contains(t, ReasonPage(), "\n  "+e.Name+"\n")
	}
	for _, e := range rowkind.Catalogue[1:] {
		assert.Contains(t, ReasonPage(), "\n  "+e.Name+"\n")
	}
	for _, e := range finding.Catalogue[1:] {
		assert.Contains(t, FindingPage(), "\n  "+e.Name+" ("+string(e.Of)+")\n")
	}
}

func TestLedgerShowsItsSums(t *testing.T) {
	l := &convert.Ledger{RowsIn: 3, RowsOut: 2, Columns: []convert.Account{
		{Name: "a\x1b", Type: value.Decimal, Convention: "unit kg", Cells: 2, Right: 1, Failed: 1}, {Name: "b", Cells: 2, Blank: 2},
	}}
	l.SetAside[rowkind.Note] = 1
	out := ledgerTable(l, Table, Page{Width: 100})
	assert.Contains(t, out, "a⟨U+001B⟩")
	assert.Regexp(t, `all columns +4 +1 +0 +2 +0 +1\n`, out)
	assert.Equal(t, "rows: 3 in = 2 out + 1 set aside (1 note)\n", LedgerRows(l))
	list := WrittenList(Written{Output: "o.csv", Failures: "o.failures.csv"}, l)
	assert.Contains(t, list, "o.failures.csv (1 failure)")
	assert.NotContains(t, list, "setaside")
}
