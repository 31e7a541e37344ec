package keyed

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
	"junvo/internal/table/records"
	"junvo/internal/table/tabletest"
)

func of(text string) io.ReadCloser { return io.NopCloser(strings.NewReader(text)) }

func ExampleNewLog() {
	r, err := NewLog(of(`level=info msg="two words" kg=12,5 cached`)).Read()
	fmt.Printf("%q %q %v\n", r.Names, r.Cells[1].Text, err)
	// Output: ["level" "msg" "kg" "cached"] "two words" <nil>
}

func ExampleNewBlocks() {
	r := NewBlocks(of("Vessel: Seestern\nNote: long\n  goes on\n\nVessel: Marlies\n"))
	first, _ := r.Read()
	fmt.Printf("%q %q\n", first.Names, first.Cells[1].Text)
	second, _ := r.Read()
	fmt.Printf("%q line %d\n", second.Names, second.Line)
	// Output:
	// ["Vessel" "Note"] "long\ngoes on"
	// ["Vessel"] line 5
}

// said writes all records that a reader has.
func said(r records.Reader) (out []string, err error) {
	for {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		var parts []string
		for i, n := range rec.Names {
			parts = append(parts, n+"→"+rec.Cells[i].Text)
		}
		out = append(out, fmt.Sprintf("%d %s", rec.Line, strings.Join(parts, "|")))
	}
}

func TestLog(t *testing.T) {
	for line, want := range map[string]string{
		`a=1 b=2`:                          "1 a→1|b→2",
		`a= b="" c`:                        "1 a→|b→|c→true",
		`a="x \"y\" \\ \n\t\q" b=1`:        "1 a→x \"y\" \\ \n\t\\q|b→1",
		"\ufeffa=1\tb=2  ":                 "1 a→1|b→2",
		`a.b-c/d:e@f=x=y é=1`:              "1 a.b-c/d:e@f→x=y|é→1",
		`a=1 b="open`:                      `1 line→a=1 b="open`,
		`a=1 "b"`:                          `1 line→a=1 "b"`,
		`a="x"y`:                           `1 line→a="x"y`,
		`a=x"y`:                            `1 line→a=x"y`,
		`panic: it went wrong`:             `1 line→panic: it went wrong`,
		`=1`:                               `1 line→=1`,
		strings.Repeat("k", 300) + "=1":    "1 line→" + strings.Repeat("k", 300) + "=1",
		"\n\r\na=1\r\n":                    "3 a→1",
		`a=` + strings.Repeat("x", 90_000): "1 a→" + strings.Repeat("x", 90_000),
	} {
		got, err := said(NewLog(of(line)))
		require.NoError(t, err)
		assert.Equal(t, []string{want}, got, line)
	}
}

func TestBlocks(t *testing.T) {
	got, err := said(NewBlocks(of("\n\nA: 1\nB:2\nB:\t x: y \r\n\tmore\n---\n \n\nA:\n: no\nx;y: 1\n")))
	require.NoError(t, err)
	assert.Equal(t, []string{"3 A→1|line→B:2|B→x: y \nmore", "10 A→|line→: no|line→x;y: 1"}, got)
	got, err = said(NewBlocks(of("A: 1\n  ----\n  more\nA: 2\n")))
	require.NoError(t, err)
	assert.Equal(t, []string{"1 A→1\n----\nmore", "4 A→2"}, got, "a line that goes on with a value parts nothing")
	for between, says := range map[string]string{"--\n": "", "%%\n": "", "": "", "\n\n": "", "=== %d ===\n": "line→=== %d ===|"} {
		text := ""
		var want []string
		for i := range 4 {
			text += strings.ReplaceAll(between, "%d", fmt.Sprint(i)) + fmt.Sprintf("A: %d\nB: x\n", i)
			want = append(want, strings.ReplaceAll(says, "%d", fmt.Sprint(i))+fmt.Sprintf("A→%d|B→x", i))
		}
		got, err := said(NewBlocks(of(text)))
		require.NoError(t, err)
		for i := range got {
			_, got[i], _ = strings.Cut(got[i], " ")
		}
		assert.Equal(t, want, got, between)
	}
}

// A value of any number of lines takes time by its length, and a record without an end is refused.
func TestLongRecords(t *testing.T) {
	r := NewBlocks(of("A: 1\nB: 2\nC: first\n" + strings.Repeat("  more\n", 400_000) + "D: 3\n\nA: 4\n"))
	rec, err := r.Read()
	require.NoError(t, err)
	require.Equal(t, []string{"A", "B", "C", "D"}, rec.Names)
	assert.Equal(t, "first"+strings.Repeat("\nmore", 400_000), rec.Cells[2].Text)
	assert.Equal(t, "3", rec.Cells[3].Text)
	rec, err = r.Read()
	require.NoError(t, err)
	assert.Equal(t, "4", rec.Cells[0].Text)

	_, err = NewBlocks(of("A: 1\n" + strings.Repeat("B: 2\n", 2_000_000))).Read()
	assert.ErrorContains(t, err, "a record is longer than 64 MB")
}

func TestLooks(t *testing.T) {
	for text, want := range map[string]bool{
		"a=1 b=2\na=1 b=3\na=2 c=3\n": true, "a=1 b=2\na=1 b=3\na=2 c=3\npanic: x\n": true, "a=1 b=2\na=1 b=3\n": false,
		"a=1\nb=2\nc=3\n": false, "a,b\n1,2\n3,4\n": false, "x=1 flag\nx=1 flag\nx=1 flag\n": true, "one two\nthree four\nfive six\n": false,
		"a=1;b=2\na=1;b=2\na=1;b=3\n": false, "a=1 b=2\nno\nno\na=1 b=3\nno\na=2 c=3": false, "": false,
	} {
		assert.Equal(t, want, LooksLog([]byte(text)), text)
	}
	for text, want := range map[string]bool{
		"A: 1\nB: 2\n\nA: 2\nB: 3\n": true, "A: 1\nB: 2\n  more\n\n\nA: 2\n": true, "A: 1\nB: 2\n": false, "A: 1\n\nA: 2\n": false,
		"A: 1\nB: 2\n\nB: 2\nA: 3\n": false, "a,b\n1,2\n\n3,4\n": false, "12:05 x\n12:06 y\n\n12:07 z\n": false, "": false,
		"Name; x: 1\nB: 2\n\nName; x: 1\nB: 2\n": false,
	} {
		assert.Equal(t, want, LooksBlocks([]byte(text)), text)
	}
}

func TestSuite(t *testing.T) {
	var b strings.Builder
	var want [][]string
	for i := range 10_000 {
		fmt.Fprintf(&b, "no=%d text=\"some text %d\"\n", i, i%7)
		want = append(want, []string{fmt.Sprint(i), fmt.Sprintf("some text %d", i%7)})
	}
	tabletest.Sources(t, func() table.Source {
		src, err := records.Open(func() (records.Reader, error) { return NewLog(of(b.String())), nil }, table.Info{
			Name: "a.log", Format: "logfmt", Decisions: []table.Decision{{What: "format", Value: "logfmt", Why: "its lines"}},
		})
		require.NoError(t, err)
		return src
	}, []string{"no", "text"}, want)
}

// Whatever stands in the lines, each that is not blank belongs to a record, and nothing is lost of a line without keys.
func FuzzKeyed(f *testing.F) {
	f.Add("a=1 b=\"x\\\"\"\nflag c=2\npanic: x\n")
	f.Add("A: 1\n more\n\nB:\n---\n")
	f.Fuzz(func(t *testing.T, text string) {
		lines := 0
		for line := range strings.SplitSeq(strings.TrimPrefix(text, "\ufeff"), "\n") {
			if strings.TrimSpace(line) != "" && strings.Trim(line, " \t\v\f\r\u0085\u00a0") != "" {
				lines++
			}
		}
		got, err := said(NewLog(of(text)))
		require.NoError(t, err)
		assert.GreaterOrEqual(t, len(got), lines)
		_, err = said(NewBlocks(of(text)))
		require.NoError(t, err)
		LooksLog([]byte(text))
		LooksBlocks([]byte(text))
	})
}
