package show

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/table/delim"
	"junvo/internal/value"
)

const landings = "kg;day\n1.240,5\u00a0kg;04.03.2021\n99,1;25.03.2021\nheavy\x1b[31m;05.03.2021\n-;\n5,5;31.02.2021\n7 kg;06.03.2021\n8 kg;07.03.2021\n" +
	"9 kg;08.03.2021\n10 kg;09.03.2021\n11 kg;10.03.2021\n12 kg;11.03.2021\n13 kg;12.03.2021\n"

func profileOf(t *testing.T, text string) *profile.Profile {
	t.Helper()
	src, err := delim.Open(strings.NewReader(text), "a.csv", int64(len(text)), delim.Options{})
	require.NoError(t, err)
	p, err := profile.Run(context.Background(), src, profile.Options{Workers: 1, Open: func(string) bool { return true }})
	require.NoError(t, err)
	return p
}

func TestOpenedColumn(t *testing.T) {
	p := profileOf(t, landings)
	out := Opened(p, []*profile.ColumnProfile{p.Columns[0]}, Table, Page{Width: 100})
	for _, want := range []string{
		`kg (column 1 of 2): decimal (decimal mark ",", group mark ".", unit kg)`,
		"  cells              12: 10 fit, 1 fail, 1 blank", "  blanks             word 1", "  blank words        «-»",
		"  from … to          5.5 … 1240.5", "  sum                1415.1", "  mean               141.51", "  quartiles          8, 10, 13",
		"U+00A0  NO-BREAK SPACE  inside", "heavy⟨U+001B⟩[31m", "99 aa",
	} {
		assert.Contains(t, out, want)
	}
	assert.NotContains(t, out, "\x1b")
	for _, line := range strings.Split(out, "\n") {
		assert.LessOrEqual(t, len([]rune(line)), 100, line)
	}
	day := Opened(p, []*profile.ColumnProfile{p.Columns[1]}, Table, Page{Width: 100})
	assert.Contains(t, day, "  pattern            dd.MM.yyyy")
	assert.Contains(t, day, "2021-03-04 … ")
	assert.NotContains(t, day, "mean")
}

// The bars of a histogram are as long as the counts say, and none is left out.
func TestBars(t *testing.T) {
	var b strings.Builder
	b.WriteString("n\n")
	for i := range 100 {
		for range 1 + i/10 {
			fmt.Fprintf(&b, "%d\n", i)
		}
	}
	p := profileOf(t, b.String())
	bars := 0
	for _, line := range strings.Split(Opened(p, []*profile.ColumnProfile{p.Columns[0]}, Table, Page{Width: 120}), "\n") {
		if blocks := strings.Count(line, "█"); strings.Contains(line, " … ") && blocks > 0 {
			bars++
			assert.Equal(t, 4*bars, blocks, line)
		}
	}
	assert.Equal(t, 10, bars)
}

func TestPreviewShowsOrdinaryRowsThenShapesThenFailures(t *testing.T) {
	p, err := plan.Load([]byte("plan: 1\ncolumns: {w: {from: kg, to: decimal, decimal-mark: \",\", unit: kg, blank-words: [\"-\"]}, day: {to: date, date-order: dmy}}"))
	require.NoError(t, err)
	src, err := delim.Open(strings.NewReader(landings), "a.csv", -1, delim.Options{})
	require.NoError(t, err)
	bound, err := p.Bind(src.Info().Names)
	require.NoError(t, err)
	v := NewPreview(p, PreviewOptions{Cells: 6})
	n, err := convert.Try(src, bound, convert.TryOptions{}, func(c convert.Tried) error { v.Add(c); return nil })
	require.NoError(t, err)
	out := v.Text(Table, Page{Width: 100}, n, false)
	w, day, found := strings.Cut(out, "\nday to date")
	require.True(t, found)
	order := []string{"1.240,5⟨U+00A0⟩kg", "99,1", "  4  -", "5,5", "7 kg", "heavy⟨U+001B⟩[31m"}
	at := 0
	for _, want := range order {
		i := strings.Index(w[at:], want)
		require.GreaterOrEqual(t, i, 0, "%s in %s", want, w)
		at += i
	}
	assert.Contains(t, w, `w from "kg" to decimal (decimal mark ",", unit kg): `)
	assert.Contains(t, day, "no-such-day")
	assert.Contains(t, out, "preview of the 12 rows")
	assert.Contains(t, v.Text(Table, Page{Width: 100}, n, true), "preview of the first 12 rows")

	doc, err := v.JSON(n)
	require.NoError(t, err)
	var back struct {
		Columns []struct {
			Fail  int
			Cells []struct{ Before, After string }
		}
	}
	require.NoError(t, json.Unmarshal(doc, &back))
	assert.Equal(t, 1, back.Columns[0].Fail)
	assert.Equal(t, "1240.5", back.Columns[0].Cells[0].After)
	none := NewPreview(p, PreviewOptions{Cells: 6, Failures: true})
	assert.Contains(t, none.Text(Table, Page{Width: 100}, n, false), "nothing fails")
}

func TestVerdict(t *testing.T) {
	ledger := &convert.Ledger{RowsIn: 100, RowsOut: 100, Columns: []convert.Account{{Name: "a", Cells: 100, Right: 90, Blank: 5, Failed: 5}}}
	for _, tt := range []struct {
		ledger  *convert.Ledger
		drift   []draft.Kind
		allowed float64
		fits    bool
	}{
		{ledger, nil, 0, false},
		{ledger, nil, 0.05, false},
		{ledger, nil, 0.06, true},
		{ledger, []draft.Kind{draft.ColumnNew, draft.ColumnMoved}, 0.06, true},
		{ledger, []draft.Kind{draft.ShapesNew, draft.RangeWidened}, 0.06, true},
		{ledger, []draft.Kind{draft.TypeChanged}, 0.06, false},
		{nil, []draft.Kind{draft.ColumnMissing}, 1, false},
	} {
		v := &Verdict{Ledger: tt.ledger}
		for _, d := range tt.drift {
			v.Drift = append(v.Drift, draft.Difference{Kind: d, Column: "a\x1b", Say: "say"})
		}
		v.Judge(tt.allowed, true)
		assert.Equal(t, tt.fits && len(tt.drift) == 0, v.Fits, "held to all drift: %v", tt.drift)
		v.Judge(tt.allowed, false)
		assert.Equal(t, tt.fits, v.Fits, "%v %v", tt.drift, tt.allowed)
		text := VerdictText(v, Table, Page{Width: 100})
		assert.Equal(t, tt.fits, strings.Contains(text, "the source fits the plan"), text)
		assert.NotContains(t, text, "\x1b")
		doc, err := VerdictJSON(v)
		require.NoError(t, err)
		assert.True(t, json.Valid(doc))
	}
}

func TestAnswer(t *testing.T) {
	a := &Answer{File: "a.csv", Row: 3, Line: 4, Column: "kg", Value: "l2,5\u200b"}
	terms := reading.Terms{DecimalMark: ","}
	conv, err := terms.Convention(value.Decimal)
	require.NoError(t, err)
	a.Explain(reading.NewReader(nil), value.StoredText, &conv)
	out := AnswerText(a, Table, Page{Width: 100})
	for _, want := range []string{
		`a.csv, row 3 (line 4), column "kg"`, "«l2,5⟨U+200B⟩»", "5: U+200B ZERO WIDTH SPACE", "letters that look like digits", "so it fails        not-a-number",
	} {
		assert.Contains(t, out, want)
	}
	blank := &Answer{Value: " "}
	blank.Explain(reading.NewReader(nil), value.StoredText, &conv)
	assert.Contains(t, AnswerText(blank, Table, Page{Width: 100}), "blank: spaces")
	many := &Answer{Value: strings.Repeat("ä", 40)}
	many.Explain(reading.NewReader(nil), value.StoredText, &conv)
	assert.Contains(t, AnswerText(many, Table, Page{Width: 100}), "… and 28 more beyond plain ASCII")
	broken := &Answer{Value: "\xff1"}
	broken.Explain(reading.NewReader(nil), value.StoredText, &conv)
	assert.Equal(t, Character{"FF", "byte that is no UTF-8", 1}, broken.Marks[0])
	assert.Equal(t, "bad-bytes", broken.Reason)
}

func TestPagesOfReference(t *testing.T) {
	for page, want := range map[string]string{
		TypePage(): "timestamp", ReasonPage(): "not-found", FindingPage(): "look-alikes", StepPage(): "makes «Anke» of «Petersen, Anke»", PlanPage(): "date-order",
	} {
		assert.Contains(t, page, want)
		assert.NotContains(t, page, "%!")
	}
}

// On a wide page blocks stand side by side as far as there is room, each line in its place.
func TestBlocksStandSideBySide(t *testing.T) {
	blocks := []string{"ä1\nb\n", "long line\n", "c\nd\ne\n"}
	assert.Equal(t, []string{"ä1    long line    c\nb                  d\n                   e\n"}, beside(blocks, 20))
	assert.Equal(t, []string{"ä1    long line\nb\n", "c\nd\ne\n"}, beside(blocks, 19))
	assert.Equal(t, blocks, beside(blocks, 5))
}
