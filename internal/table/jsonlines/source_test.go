package jsonlines

import (
	"errors"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/value"
)

func openText(text string) (*Source, error) {
	return Open(func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil }, "a.jsonl", "", int64(len(text)))
}

// readAll reads all rows; a cell is shown as its kind and text, one that is missing as -.
func readAll(t testing.TB, s *Source) (rows []string, lines []int64) {
	var l table.Lines
	for b := (&table.Block{}); ; b.Reset() {
		if err := s.Next(b); errors.Is(err, io.EOF) {
			return rows, lines
		} else {
			require.NoError(t, err)
		}
		s.Split(b)
		first := l.Start(s.Info(), b)
		for r := range b.Rows {
			var cells []string
			for c := range b.Width {
				at := r*b.Width + c
				if b.Spans[at].N&table.Missing != 0 {
					cells = append(cells, "-")
					continue
				}
				cells = append(cells, b.Kinds[at].String()+" "+string(b.Cell(r, c)))
			}
			rows = append(rows, strings.Join(cells, "|"))
			lines = append(lines, first+b.Line(r))
		}
	}
}

func TestRecords(t *testing.T) {
	for _, tt := range []struct {
		text, names string
		rows        []string
		lines       []int64
	}{
		{
			"\ufeff{\"a\": 1.50, \"b\": \"x\\ny\"}\n\n{\"b\": null, \"c\": {\"d\": true, \"e\": {\"f\": 1e5}}}\r\n{\"a\":\"\",\"c\":[1, {\"x\": \"y\"}]}",
			"a|b|c.d|c.e.f|c",
			[]string{"number 1.50|text x\ny|-|-|-", "-|null |boolean true|number 1e5|-", `text |-|-|-|text [1,{"x":"y"}]`},
			[]int64{1, 3, 4},
		},
		{
			"[\n  {\"a\": 1,\n   \"b\": 2},\n\n  {\"b\": 123456789012345678901234567890}\n]\n", "a|b",
			[]string{"number 1|number 2", "-|number 123456789012345678901234567890"},
			[]int64{2, 5},
		},
		{`{"a":1}{"a":2} {"a":-0.0}`, "a", []string{"number 1", "number 2", "number -0.0"}, []int64{1, 1, 1}},
		{`{"a":1,"a":2}`, "a", []string{"several 1 | 2"}, []int64{1}},
		{`{"":1," ":2,"東":"é"}`, "column 1|column 2|東", []string{"number 1|number 2|text é"}, []int64{1}},
	} {
		s, err := openText(tt.text)
		require.NoError(t, err, tt.text)
		assert.Equal(t, tt.names, strings.Join(s.Info().Names, "|"))
		rows, lines := readAll(t, s)
		assert.Equal(t, tt.rows, rows, tt.text)
		assert.Equal(t, tt.lines, lines, tt.text)
	}
}

func TestBlocksKeepTheLines(t *testing.T) {
	var b strings.Builder
	for range 30000 {
		b.WriteString("{\"a\":\n1}\n\n")
	}
	s, err := openText(b.String())
	require.NoError(t, err)
	_, lines := readAll(t, s)
	require.Len(t, lines, 30000)
	for i, l := range lines {
		require.EqualValues(t, 1+3*i, l)
	}
}

func TestWrongRecords(t *testing.T) {
	for text, want := range map[string]string{
		"":                          "no record",
		"[]":                        "no record",
		"{}":                        "no record",
		"{\"a\":1}\n{\"a\":x}":      "line 2: this is no JSON",
		"{\"a\":1}\n\n{\"a\":1":     "line 3: the JSON is cut off",
		"[{\"a\":1}":                "line 1: the JSON is cut off",
		"[{\"a\":1},\n 7]":          "line 2: the elements of the array are not of one kind",
		"[7, {\"a\":1}]":            "line 1: a record is written",
		"[[1], 2]":                  "not of one kind",
		"[{\"a\":1}]\n[{\"a\":2}]":  "line 2: more follows the array",
		"{\"a\":\"caf\xe9\"}":       "bytes that are no UTF-8",
		`{"a":[{"x":1}],"b":[{}]}`:  "holds 2 lists: name one after #, as in file.json#a; there are a, b",
		"{\"a\":1}\n[1]":            "line 2: a record is written",
		strings.Repeat(`{"a":`, 20): "line 1: the JSON is cut off",
		strings.Repeat(`{"a":`, 40) + "1" + strings.Repeat("}", 40): "more than 32 deep",
	} {
		_, err := openText(text)
		assert.ErrorContains(t, err, want, text)
	}
}

// Arrays of arrays, of bare values, and lists within a record are tables, too.
func TestOtherShapesOfRecords(t *testing.T) {
	for text, want := range map[string]string{
		`[["a","b"],[1,"x"],[2]]`:                     "a b | 1 x | 2 ",
		`[[1,"x"],[2,"y",3]]`:                         "column 1 column 2 column 3 | 1 x  | 2 y 3",
		`[["1","2"],["3","4"]]`:                       "column 1 column 2 | 1 2 | 3 4",
		`[1, null, "x"]`:                              "value | 1 |  | x",
		`{"results":[{"a":1},{"a":2}],"n":2}`:         "a | 1 | 2",
		`{"m":{"x":1},"d":{"items":[{"a":1}],"k":3}}`: "a | 1",
		`{"a":[1,2]}`:                                 "a | [1,2]",
		"{\"a\":[{\"x\":1}]}\n{\"a\":[]}":             "a | [{\"x\":1}] | []",
	} {
		s, err := openText(text)
		require.NoError(t, err, text)
		got := strings.Join(s.Info().Names, " ")
		b := &table.Block{}
		require.NoError(t, s.Next(b), text)
		for r := range b.Rows {
			var row []string
			for c := range b.Width {
				row = append(row, string(b.Cell(r, c)))
			}
			got += " | " + strings.Join(row, " ")
		}
		assert.Equal(t, want, got, text)
		b.Reset()
		assert.ErrorIs(t, s.Next(b), io.EOF)
	}
	s, err := openText(`{"results":[{"a":1}],"n":2}`)
	require.NoError(t, err)
	assert.Equal(t, `it is one record, which holds the list of records "results"; what else it holds is left out: n`, s.Info().Decisions[0].Why)
}

func TestWhatLooksLikeRecords(t *testing.T) {
	for text, want := range map[string]bool{
		`{"a":1}`: true, "\ufeff [ {\"a\":1}]": true, "{}": true, "[]": true, "{a,b\n1,2": false, "[1,2]": true, "[[1,2],\n[3,4]]": true, "[1,2]\n[3,4]": false, "[1,2],x": false, "[draft] a,b": false, `["a"`: true, "a,b": false, "": false, "{": false,
		"[section]\na=1": false,
	} {
		assert.Equal(t, want, Looks([]byte(text)), text)
	}
}

// No bytes make it panic, and what it reads has the columns that it says.
func FuzzRecords(f *testing.F) {
	for _, s := range []string{`{"a":1}`, "[{\"a\":{\"b\":[1,null]}}]", "{\"a\":\"\\ud800\"}\n{\"b\":1e999}", "{\"a\":1", "[{}, {\"x\":true}]"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		s, err := openText(text)
		if err != nil {
			return
		}
		for b := (&table.Block{}); s.Next(b) == nil; b.Reset() {
			require.Len(t, b.Spans, b.Rows*b.Width)
			require.Len(t, b.Kinds, len(b.Spans))
			for i := range b.Spans {
				require.Less(t, b.Kinds[i], value.NumStored)
			}
		}
	})
}
