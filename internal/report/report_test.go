package report

import (
	"bytes"
	"fmt"
	"html/template"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/convert"
	"junvo/internal/profile"
	"junvo/internal/reason"
	"junvo/internal/table/delim"
)

// A text is cut where it would take more room than it may once it is escaped, and never within a character.
func TestFit(t *testing.T) {
	for _, tt := range []struct {
		text string
		room int
		want string
	}{
		{"short", 40, "short"},
		{strings.Repeat("a", 40), 40, strings.Repeat("a", 40)},
		{strings.Repeat("a", 41), 40, strings.Repeat("a", 37) + "…"},
		{strings.Repeat("<", 10), 40, strings.Repeat("<", 10)},
		{strings.Repeat("<", 11), 40, strings.Repeat("<", 9) + "…"},
		{strings.Repeat("+", 8), 40, strings.Repeat("+", 8)},
		{strings.Repeat("+", 9), 40, strings.Repeat("+", 7) + "…"},
		{strings.Repeat("ü", 20), 40, strings.Repeat("ü", 20)},
		{strings.Repeat("ü", 21), 40, strings.Repeat("ü", 18) + "…"},
		{"", 40, ""},
	} {
		got := fit(tt.text, tt.room)
		assert.Equal(t, tt.want, got)
		escaped := strings.ReplaceAll(template.HTMLEscapeString(got), "+", "&#43;")
		assert.LessOrEqual(t, len(escaped), tt.room)
	}
}

func failureAt(row int64, column, value string, why reason.Reason) *convert.Failure {
	return &convert.Failure{File: "a-file-with-quite-a-long-name.csv", Row: row, Line: row + 1, Column: column, Value: value, Reason: why, Detail: strings.Repeat("detail ", 20)}
}

// Failures are listed in the order of the rows, up to the bound; each line stays within its room.
func TestFailures(t *testing.T) {
	for _, many := range []bool{false, true} {
		f := NewFailures(3, many)
		for row := range int64(5) {
			f.Add(failureAt(row+1, "kg", fmt.Sprint(strings.Repeat("<", 200), row), reason.NotANumber))
		}
		assert.EqualValues(t, 2, f.left)
		all := f.byColumn()
		require.Len(t, all, 1)
		require.Len(t, all[0].Rows, 3)
		assert.Equal(t, []string{"1", "2", "3"}, []string{all[0].Rows[0].Row, all[0].Rows[1].Row, all[0].Rows[2].Row})
		at := "2"
		if many {
			at = "a-file-with-quite-a-l…:2"
		}
		assert.Equal(t, at, all[0].Rows[0].At)
		for _, x := range all[0].Rows {
			line := "<tr><td>" + x.Row + "<td>" + x.At + "<td>" + template.HTMLEscapeString(x.Value) + "<td>" + x.Reason + "<td>" + template.HTMLEscapeString(x.Detail) + "\n"
			assert.LessOrEqual(t, len(line), 200)
		}
	}
	f := NewFailures(10, false)
	sheet := failureAt(4, "b", "x", reason.NotADate)
	sheet.Address = "C5"
	f.Add(sheet)
	f.Add(failureAt(9, "b", "y", reason.Emptied))
	f.Add(failureAt(9, "b", "z", reason.NotADate))
	assert.Equal(t, "C5", f.byColumn()[0].Rows[0].At)
}

// The rows set aside stand among two above and two below; those that are near each other together.
func TestAround(t *testing.T) {
	var b strings.Builder
	b.WriteString("no;boat\n")
	for i := 1; i <= 12; i++ {
		fmt.Fprintf(&b, "%d;Boat %d\n", i, i)
	}
	src, err := delim.Open(strings.NewReader(b.String()), "a.csv", int64(b.Len()), delim.Options{})
	require.NoError(t, err)
	a := &Around{}
	a.Add(convert.AsideRow{File: "a.csv", Line: 1, Reason: "above-header", Cells: []string{"Landings"}})
	for _, row := range []int64{1, 5, 7, 12} {
		a.Add(convert.AsideRow{File: "a.csv", Row: row, Line: row + 1, Reason: "note", Cells: []string{"x"}})
	}
	require.NoError(t, a.Read(t.Context(), src, func(column string) bool { return column == "boat" }))
	view, left := a.view(true, 60)
	assert.Zero(t, left)
	var got []string
	for _, v := range view {
		lines := []string{v.At}
		for _, l := range v.Lines {
			lines = append(lines, fmt.Sprint(l.Row, l.Aside))
		}
		got = append(got, strings.Join(lines, " "))
	}
	assert.Equal(t, []string{
		"a.csv, line 1 0above-header", "a.csv, line 2 1note 2 3", "a.csv, line 6 3 4 5note 6 7note 8 9", "a.csv, line 13 10 11 12note",
	}, got)
	assert.Equal(t, "2 │ Aaaa 9", view[1].Lines[1].Text, "a private column shows its shape")
	_, left = a.view(false, 2)
	assert.EqualValues(t, 3, left)
	for range maxAround {
		a.Add(convert.AsideRow{Row: 20})
	}
	assert.EqualValues(t, 5, a.left)
}

// Bars and histograms say in words what they draw.
func TestPicturesSayWhatTheyDraw(t *testing.T) {
	drawn := string(bar([]part{{"a", "<", "small", 1}, {"b", "=", "large", 999}, {"c", "x", "none", 0}}, "id"))
	assert.Contains(t, drawn, `aria-label="small 1, large 999"`)
	assert.Contains(t, drawn, `<g id="idg"><rect class="a" x="0" width="9" height="18"/><rect class="b" x="9" width="351" height="18"/>`)
	assert.Contains(t, drawn, ">&lt;"+strings.Repeat("=", 39)+"</text></g></svg>")
	assert.NotContains(t, drawn, "none")
	assert.Empty(t, bar([]part{{"a", "x", "none", 0}}, ""))
	assert.Contains(t, string(again("id")), `<use href="#idg"/>`)

	drawn = string(histogram([]profile.Bin{{From: "1", To: "5", Cells: 2}, {From: "5", To: "9", Cells: 0}, {From: "9", To: "13", Cells: 4}}))
	assert.Contains(t, drawn, `viewBox="0 0 72 106"`)
	assert.Contains(t, drawn, `aria-label="values to 13, from 1: 2, from 5: 0, from 9: 4"`)
	assert.Contains(t, drawn, `d="M1 104v-44h22v44zM49 104v-88h22v88z"`)
	assert.Contains(t, drawn, `<path class="gaps" d="M36 101h0"/>`)
	assert.Contains(t, drawn, `<text x="60" y="11" text-anchor="middle">4</text>`)
	assert.Empty(t, histogram([]profile.Bin{{From: "1", To: "1", Cells: 3}}))
	assert.Empty(t, histogram([]profile.Bin{{Cells: 0}, {Cells: 0}}))
}

func profiled(t *testing.T, text string) *profile.Profile {
	t.Helper()
	src, err := delim.Open(strings.NewReader(text), "a.csv", int64(len(text)), delim.Options{})
	require.NoError(t, err)
	p, err := profile.Run(t.Context(), src, profile.Options{Workers: 1, Open: func(string) bool { return true }})
	require.NoError(t, err)
	return p
}

// A page is known for one; what its editors need is left out of it; a longer one shows less of each list.
func TestPage(t *testing.T) {
	var b bytes.Buffer
	small := &Page{Title: "a.csv", Sources: []*Source{{Profile: profiled(t, "n;t\n1;x\n2;y\n3;z\n")}}, Again: []string{"junvo profile a.csv"}}
	require.NoError(t, small.Write(&b))
	assert.True(t, IsReport(b.Bytes()))
	assert.False(t, IsReport([]byte("<!doctype html>\n<title>mine</title>")))
	assert.False(t, IsReport([]byte("– Junvo</title>")))
	assert.NotContains(t, b.String(), "\n  ")
	assert.NotContains(t, script(), "\n// ")
	assert.Equal(t, 400_000, small.mostBytes())

	header, row := make([]string, 60), make([]string, 60)
	for i := range header {
		header[i] = fmt.Sprint("column ", i)
	}
	text := strings.Join(header, ";") + "\n"
	for r := range 200 {
		for i := range row {
			switch row[i] = fmt.Sprintf("%d,%02d", r*i, r%100); {
			case (r+i)%17 == 0:
				row[i] = strings.Repeat("<&>'", 40) + fmt.Sprint(r)
			case (r+i)%11 == 0:
				row[i] = []string{"", "n/a", "\u00a0", "-"}[r%4]
			case (r+i)%7 == 0:
				row[i] = "€\u00a0" + row[i]
			}
		}
		text += strings.Join(row, ";") + "\n"
	}
	big := &Page{Title: "b.csv", Sources: []*Source{{Profile: profiled(t, text), Failures: NewFailures(5, false)}}}
	for range 7 {
		big.Sources[0].Failures.Add(&convert.Failure{})
	}
	assert.Equal(t, 60*8000+5*200, big.mostBytes())
	var full, bounded bytes.Buffer
	require.NoError(t, big.write(&full, rooms[0]))
	require.NoError(t, big.Write(&bounded))
	require.Greater(t, full.Len(), big.mostBytes(), "the table is large enough for the test")
	assert.LessOrEqual(t, bounded.Len(), big.mostBytes())
	assert.Error(t, small.Write(failing{}))
}

type failing struct{}

func (failing) Write([]byte) (int, error) { return 0, fmt.Errorf("full") }

// The reasons for which rows are set aside, and kinds of cells, have words for their letters.
func TestLetters(t *testing.T) {
	p := profiled(t, "n;t\n1;x\n2;y\nx;\n")
	v := (&viewer{&Source{Profile: p, Ledger: &convert.Ledger{RowsIn: 3, RowsOut: 3, Columns: []convert.Account{
		{Name: "n", Cells: 3, Right: 2, Failed: 1, Reasons: []convert.ReasonCount{{Reason: reason.NotANumber, Count: 1, Texts: []convert.TextCount{{Text: "x", Count: 1}}}}},
		{Name: "t", Cells: 3, Right: 2, Blank: 1},
	}}}, rooms[0]}).view(0)
	assert.Equal(t, "1", v.FailedCells)
	var terms []string
	for _, x := range v.Ledger.Terms {
		terms = append(terms, x.Letter+x.Name)
	}
	assert.Equal(t, []string{"=right", "·blank", "!failed"}, terms)
	assert.Equal(t, []int64{2, 0, 1}, v.Ledger.Columns[0].Counts)
	assert.Equal(t, []int64{4, 1, 1}, v.Ledger.All.Counts)
	assert.EqualValues(t, 6, v.Ledger.All.Cells)
	assert.Equal(t, "3 in = 3 out + 0 set aside", v.Ledger.Sentence)
	assert.Equal(t, []counted{{"x", 1}}, v.Ledger.Columns[0].Reasons[0].Texts)
	assert.Equal(t, "s0c2", v.Columns[1].ID)
	assert.Equal(t, "3 rows, 2 columns, 15 bytes", v.Facts)
	assert.NotEmpty(t, v.Words)
}
