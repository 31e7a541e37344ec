package plan

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/value"
)

func TestRecordsAddUp(t *testing.T) {
	a := &Record{Rows: 10, Aside: 1, Columns: []RecordColumn{
		{Name: "kg", Type: value.Decimal, Blanks: 2, Smallest: "9.5", Largest: "10.25", Shapes: []string{"9.9"}},
		{Name: "at", Type: value.Timestamp, Smallest: "2021-03-04T10:00:00+02:00", Largest: "2021-03-04T10:00:00+02:00"},
		{Name: "new", Type: value.Text, Shapes: []string{"a"}},
		{Name: "other", Type: value.Integer, Smallest: "5", Largest: "6", Shapes: []string{"9"}},
	}}
	b := &Record{Rows: 5, Aside: 2, Columns: []RecordColumn{
		{Name: "kg", Type: value.Decimal, Fails: 1, Smallest: "-1", Largest: "10.3", Shapes: []string{"-9", "9.9"}},
		{Name: "at", Type: value.Timestamp, Smallest: "2021-03-04T09:00:00Z", Largest: "2021-03-04T09:00:00Z"},
		{Name: "other", Type: value.Text, Shapes: nil},
	}}
	a.Add(b)
	assert.Equal(t, &Record{Rows: 15, Aside: 3, Columns: []RecordColumn{
		{Name: "kg", Type: value.Decimal, Blanks: 2, Fails: 1, Smallest: "-1", Largest: "10.3", Shapes: []string{"-9", "9.9"}},
		{Name: "at", Type: value.Timestamp, Smallest: "2021-03-04T10:00:00+02:00", Largest: "2021-03-04T09:00:00Z"},
		{Name: "new", Type: value.Text, Shapes: []string{"a"}},
		{Name: "other", Type: value.Integer, Smallest: "5", Largest: "6"},
	}}, a)
	a.Add(nil)
	assert.EqualValues(t, 15, a.Rows)
	many := &Record{Columns: []RecordColumn{{Name: "kg", Type: value.Decimal, Shapes: strings.Split("abcdefghijklmnopqrstuvwxyz", "")}}}
	a.Add(many)
	assert.Nil(t, a.Columns[0].Shapes, "more shapes than are remembered are none")
}

func TestAcceptLeavesAllElseAsItIs(t *testing.T) {
	r := &Record{Rows: 3, Columns: []RecordColumn{{Name: "a: b", Type: value.Code, Shapes: []string{"99", "#"}}}}
	written := "seen: # in the file that this was drafted from; `junvo check` says what is new in another\n  rows: 3\n  columns:\n    \"a: b\": {type: code, shapes: [\"99\", \"#\"]}\n"
	for text, want := range map[string]string{
		"plan: 1\ncolumns: {a: {}}\n":                                           "plan: 1\ncolumns: {a: {}}\n" + written,
		"plan: 1\ncolumns: {a: {}} # mine":                                      "plan: 1\ncolumns: {a: {}} # mine\n" + written,
		"# top\nplan: 1\nseen:\n  rows: 1\n\n# mine\ncolumns:\n  a: {} # too\n": "# top\nplan: 1\n" + written + "\n# mine\ncolumns:\n  a: {} # too\n",
		"plan: 1\r\nseen: {rows: 9}\r\ncolumns: {a: {}}\r\n":                    "plan: 1\r\n" + written + "columns: {a: {}}\r\n",
	} {
		got, err := Accept([]byte(text), r, nil)
		require.NoError(t, err, text)
		assert.Equal(t, want, string(got))
		again, err := Accept(got, r, nil)
		require.NoError(t, err)
		assert.Equal(t, string(got), string(again))
		p, err := Load(got)
		require.NoError(t, err)
		assert.Equal(t, r, p.Seen)
	}
	_, err := Accept([]byte("{plan: 1, columns: {a: {}}, seen: {rows: 1}}"), r, nil)
	assert.Error(t, err)
}

// Whatever a plan's text is, what stands outside the record stays, and the result loads.
func FuzzAccept(f *testing.F) {
	f.Add("plan: 1\ncolumns: {a: {}}\n# end")
	f.Add("seen:\n  rows: 2\nplan: 1\ncolumns: {a: {}}")
	f.Add(intake)
	f.Fuzz(func(t *testing.T, text string) {
		r := &Record{Rows: 77}
		got, err := Accept([]byte(text), r, nil)
		if err != nil {
			return
		}
		p, err := Load(got)
		require.NoError(t, err)
		require.EqualValues(t, 77, p.Seen.Rows)
		if !strings.Contains(text, "seen:") {
			require.True(t, bytes.HasPrefix(got, []byte(text)))
		}
	})
}

// Where the record has no line of its own, nothing is put into the plan.
func TestAcceptRefusesWhatItCannotKeep(t *testing.T) {
	for _, text := range []string{
		"{plan: 1, columns: {a: {}}, seen: {rows: 1}}",         // the record is in the middle of a line
		"{plan: 1, columns: {a: {}}}",                          // nothing may follow
		"plan: 1\ncolumns: {a: {}}\n\"seen\": {rows: 1}\n",     // it would stand twice
		"plan: 1\ncolumns:\n  a: {to: tex\n",                   // it is no plan
		"plan: 1\nseen: {rows: 3,\n",                           // nor this
		"plan: 1\ncolumns: {a: {}}\nseen:\n  rows: 1\nrows: x", // a mistake elsewhere
	} {
		out, err := Accept([]byte(text), &Record{Rows: 7}, nil)
		assert.ErrorContains(t, err, "can't be put into the plan", text)
		assert.Empty(t, out)
	}
}
