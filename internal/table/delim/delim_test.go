package delim

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/unicode"

	"junvo/internal/table"
)

// read reads a whole source: the header and the rows.
func read(t require.TestingT, text string, o Options) (*table.Info, [][]string) {
	src, err := Open(strings.NewReader(text), "test", int64(len(text)), o)
	require.NoError(t, err)
	var rows [][]string
	info := src.Info().Clone()
	for b := (&table.Block{}); ; b.Seq++ {
		b.Reset()
		err := src.Next(b)
		if err == io.EOF {
			return info, rows
		}
		require.NoError(t, err)
		src.Split(b)
		info.Learn(b)
		for r := range b.Rows {
			rows = append(rows, b.RowCells(r))
		}
	}
}

func TestDetect(t *testing.T) {
	latin := func(s string) string {
		out, err := charmap.Windows1252.NewEncoder().String(s)
		require.NoError(t, err)
		return out
	}
	utf16 := func(e unicode.Endianness, b unicode.BOMPolicy, s string) string {
		out, err := unicode.UTF16(e, b).NewEncoder().String(s)
		require.NoError(t, err)
		return out
	}
	jis, err := japanese.ShiftJIS.NewEncoder().String("名前,町\n太郎,東京\n")
	require.NoError(t, err)
	for _, tt := range []struct {
		name, text string
		o          Options
		want       string // encoding, delimiter, header line, names; then the rows
	}{
		{"comma", "a,b\n1,2\n", Options{}, "utf-8 , 1 [a b] [[1 2]]"},
		{"semicolon with decimal commas", "a;b;c\n1,5;2,5;3,5\n4,5;5,5;6,5\n", Options{}, "utf-8 ; 1 [a b c] [[1,5 2,5 3,5] [4,5 5,5 6,5]]"},
		{"tab", "a\tb\n1\t2\n", Options{}, "utf-8 tab 1 [a b] [[1 2]]"},
		{"pipe", "a|b\n1|2\n", Options{}, "utf-8 | 1 [a b] [[1 2]]"},
		{"tilde", "a~b~c\n1~2~3\n4~5~6\n", Options{}, "utf-8 ~ 1 [a b c] [[1 2 3] [4 5 6]]"},
		{"one column of decimal commas", "n\n1,5\n2,5\n", Options{}, "utf-8 none 1 [n] [[1,5] [2,5]]"},
		{"no header", "1,2\n3,4\n", Options{}, "utf-8 , 0 [column 1 column 2] [[1 2] [3 4]]"},
		{"names with numbers", "c1,c20,Q3 2021\nx,1,2\n", Options{}, "utf-8 , 1 [c1 c20 Q3 2021] [[x 1 2]]"},
		{"titles", "Report\nof 2021\n\na,b\n1,2\n3,4\n5,6\n7,8\n", Options{}, "utf-8 , 4 [a b] [[1 2] [3 4] [5 6] [7 8]]"},
		{"years as names", "port,2019,2020\nA,1,2\n", Options{}, "utf-8 , 1 [port 2019 2020] [[A 1 2]]"},
		{"declared", "sep=;\na;b\n1;2\n", Options{}, "utf-8 ; 2 [a b] [[1 2]]"},
		{"told header", "x,y\na,b\n1,2\n", Options{HeaderRow: 2}, "utf-8 , 2 [a b] [[1 2]]"},
		{"told no header", "x,y\na,b\n", Options{HeaderRow: -1}, "utf-8 , 0 [column 1 column 2] [[x y] [a b]]"},
		{"told delimiter", "a;b,c\n1;2,3\n", Options{Delimiter: ","}, "utf-8 , 1 [a;b c] [[1;2 3]]"},
		{"names", "a,,a\n1,2,3\n", Options{}, "utf-8 , 1 [a column 2 a (2)] [[1 2 3]]"},
		{"header with a line break", "\"a\nb\",c\n1,2\n", Options{}, "utf-8 , 1 [a\nb c] [[1 2]]"},
		{"carriage returns", "a,b\r1,2\r3,4\r", Options{}, "utf-8 , 1 [a b] [[1 2] [3 4]]"},
		{"crlf", "a,b\r\n1,2\r\n", Options{}, "utf-8 , 1 [a b] [[1 2]]"},
		{"mark", "\xef\xbb\xbfa,b\n1,2\n", Options{}, "utf-8 , 1 [a b] [[1 2]]"},
		{"windows", latin("größe;straße\nüber;äußerst\n"), Options{}, "windows-1252 ; 1 [größe straße] [[über äußerst]]"},
		{"one bad byte", "größe;b\n" + strings.Repeat("über;ä\n", 20) + "x\xff;y\n", Options{}, "utf-8 ; 1 [größe b] [" + strings.Repeat("[über ä] ", 20) + "[x\xff y]]"},
		{"utf-16 little", utf16(unicode.LittleEndian, unicode.UseBOM, "ä,b\n1,2\n"), Options{}, "utf-16le , 1 [ä b] [[1 2]]"},
		{"utf-16 big", utf16(unicode.BigEndian, unicode.UseBOM, "ä,b\n1,2\n"), Options{}, "utf-16be , 1 [ä b] [[1 2]]"},
		{"told shift jis", jis, Options{Encoding: "shift_jis"}, "shift_jis , 1 [名前 町] [[太郎 東京]]"},
		{"backslash", "a,b\n\"x \\\"y\\\"\",2\n\"z\",3\n", Options{}, `utf-8 , 1 [a b] [[x "y" 2] [z 3]]`},
		{"single quotes", "a,b\n'x, y',2\n'it''s',3\n'z',4\n", Options{}, `utf-8 , 1 [a b] [[x, y 2] [it's 3] [z 4]]`},
		{
			"backslash beside empty cells in quotes", "a,b,c\n\"x \\\"y\\\"\",\"\",1\n\"\",\"\",2\n\"p\\\\q\",\"\",3\n",
			Options{},
			`utf-8 , 1 [a b c] [[x "y"  1] [  2] [p\q  3]]`,
		},
		{"told single quotes and backslash", `a,b` + "\n" + `'x \'y\', z',2` + "\n", Options{Quote: "'", Escape: "backslash"}, `utf-8 , 1 [a b] [[x 'y', z 2]]`},
		{"apostrophes are no quotes", "a,b\n'1,2\n'2,3\nit's,'4\n", Options{}, `utf-8 , 1 [a b] [['1 2] ['2 3] [it's '4]]`},
		{"carriage returns and one line feed", "a,b\r1,2\r3,4\r5,6\r7,\"x\ny\"\r8,9\r", Options{}, "utf-8 , 1 [a b] [[1 2] [3 4] [5 6] [7 x\ny] [8 9]]"},
		{"space before a quote", "a, \"b, c\", d\nx, \"1, 2\" , 3\n", Options{}, "utf-8 , 1 [a b, c d] [[x 1, 2  3]]"},
	} {
		info, rows := read(t, tt.text, tt.o)
		got := fmt.Sprint(info.Encoding, " ", info.Delimiter, " ", info.HeaderRow, " ", info.Names, " ", rows)
		assert.Equal(t, tt.want, got, tt.name)
	}
}

// Cells of text that RFC 4180 allows are those that the standard library finds.
func FuzzAgainstTheStandardLibrary(f *testing.F) {
	for _, s := range []string{"a,b\n1,2\n", "\"a\"\"b\",\"c\nd\"\n", "a\n\n\"\"\n", "x,\"\"\n", "\r\n", "a,b\r\n\"c\r\nd\",e\r\n"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		r := csv.NewReader(strings.NewReader(text))
		r.FieldsPerRecord = -1
		want, err := r.ReadAll()
		if err != nil || strings.Contains(strings.ReplaceAll(text, "\r\n", ""), "\r") {
			t.Skip()
		}
		d := Dialect{Delimiter: ',', Quote: '"', Escape: '"', EOL: '\n'}
		b := &table.Block{Text: []byte(text)}
		d.Split(b)
		var got [][]string
		for _, e := range b.Extra {
			var row []string
			for _, s := range e.Spans {
				// The standard library turns CRLF inside quotes into LF.
				row = append(row, strings.ReplaceAll(string(b.At(s)), "\r\n", "\n"))
			}
			if blankLine := len(e.Spans) == 1 && e.Spans[0].N == 0; !blankLine {
				got = append(got, row)
			}
		}
		require.Equal(t, want, got, "%q", text)
	})
}

// Whatever the bytes, the cells and what stands between them give the bytes back,
// and blocks of any size hold the same rows.
func FuzzSplitLosesNothing(f *testing.F) {
	for _, s := range []string{"a,b\n1,2\n", "\"open,1\n2,3\n", "a\"b,\"c\"d\n", "\"a\n\"x\"b\",c\n", "\" x\" ,y\n", "a, \"b\"\r\n\"", "\"\"\"", "x\n\n,,\n"} {
		f.Add(s, byte(3))
	}
	f.Fuzz(func(t *testing.T, text string, size byte) {
		d := Dialect{Delimiter: ',', Quote: '"', Escape: '"', EOL: '\n'}
		b := &table.Block{Text: []byte(text)}
		d.Split(b)
		var back bytes.Buffer
		at := 0
		for _, e := range b.Extra {
			for _, s := range e.Spans {
				start, end := int(s.Start), int(s.Start)+s.Len()
				if s.N&table.Quoted != 0 {
					start, end = start-1, end+1
				}
				between := text[at:start]
				require.Empty(t, strings.Trim(between, " \r\n,"), "%q", text)
				require.LessOrEqual(t, strings.Count(between, ",")+strings.Count(between, "\n"), 1, "%q", text)
				back.WriteString(between + text[start:end])
				at = end
			}
		}
		require.Empty(t, strings.Trim(text[at:], " \r\n"), "%q", text)

		whole := cellsOf(&d, []byte(text))
		var pieces [][]string
		for rest := []byte(text); len(rest) > 0; {
			n := min(len(rest), int(size)+1)
			end := 0
			for ; ; n = min(len(rest), 2*n) {
				if n == len(rest) {
					end = n
					break
				}
				if end = d.lastRowEnd(rest[:n], new([]uint64)); end > 0 {
					break
				}
			}
			pieces = append(pieces, cellsOf(&d, rest[:end])...)
			rest = rest[end:]
		}
		require.Equal(t, whole, pieces, "%q in blocks of %d", text, size)
	})
}

func cellsOf(d *Dialect, text []byte) (rows [][]string) {
	b := &table.Block{Text: text}
	d.Split(b)
	for _, e := range b.Extra {
		var row []string
		for _, s := range e.Spans {
			row = append(row, string(b.At(s)))
		}
		rows = append(rows, row)
	}
	return rows
}

// What is written reads back the same, also one byte at a time.
func TestRoundTrip(t *testing.T) {
	rows := [][]string{{"a", "b"}, {"", "x"}, {`"`, ","}, {"two\nlines", "\r"}, {" lead", "trail "}, {"\"\"", "'"}, {"ä", "\u00a0"}}
	var out bytes.Buffer
	sink, err := NewSink(discardCommit{&out}, ',', []table.Field{{Name: "h1"}, {Name: "h2"}})
	require.NoError(t, err)
	typed := table.Rows{Count: len(rows), Cells: make([]table.Values, 2)}
	for _, row := range rows {
		for i, c := range row {
			start := len(typed.Cells[i].Text)
			typed.Cells[i].Text = append(typed.Cells[i].Text, c...)
			typed.Cells[i].AddMade(start)
		}
	}
	require.NoError(t, sink.Write(sink.Encode(nil, &typed), &typed))
	src, err := Open(iotest.OneByteReader(bytes.NewReader(out.Bytes())), "x", -1, Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"h1", "h2"}, src.Info().Names)
	_, back := read(t, out.String(), Options{})
	assert.Equal(t, rows, back)
}

type discardCommit struct{ io.Writer }

func (discardCommit) Finish() error { return nil }
func (discardCommit) Commit() error { return nil }
func (discardCommit) Abort()        {}

func BenchmarkSplit(b *testing.B) {
	line := "0048211,Marlies,2021-03-04,COD,1240.5,3.20,12,-1.4,yes,04417,\"Petersen, Anke\",\"lot 88, crate 51\"\n"
	text := []byte(strings.Repeat(line, 5000))
	d := Dialect{Delimiter: ',', Quote: '"', Escape: '"', EOL: '\n'}
	block := &table.Block{Text: text, Width: 12}
	b.SetBytes(int64(len(text)))
	b.ReportAllocs()
	for b.Loop() {
		d.Split(block)
	}
}

func BenchmarkDetect(b *testing.B) {
	text := []byte(strings.Repeat("0048211;Marlies;2021-03-04;COD;1240,5\n", 6000))
	for b.Loop() {
		if _, err := detect(text, false, Options{}); err != nil {
			b.Fatal(err)
		}
	}
}

func TestFindIsFindBytes(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 2000 {
		text := make([]byte, 64*r.IntN(9))
		for i := range text {
			text[i] = ",\n\"a\x00\xff"[r.IntN(4)]
		}
		if len(text) > 0 && r.IntN(2) == 0 {
			text[r.IntN(len(text))] = "\x00\xff"[r.IntN(2)]
		}
		got := make([]uint64, marksPerGroup*len(text)/64+1)
		if len(text) > 0 {
			odd := find(&text[0], len(text)/64, &got[0], lowBits*',', lowBits*'\n', lowBits*'"')
			require.Equal(t, bytes.ContainsAny(text, "\x00") || !ascii(text), odd != 0, "%q", text)
		}
		for g := 0; g < len(text)/64; g++ {
			a, b, c := findBytes(text[64*g:64*g+64], lowBits*',', lowBits*'\n', lowBits*'"')
			require.Equal(t, []uint64{a, b, c}, got[marksPerGroup*g:marksPerGroup*(g+1)], "%q", text)
		}
		require.Zero(t, got[len(got)-1], "find must not write beyond its groups")
	}
}

func TestCutIsCutGroups(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	for range 2000 {
		marks := make([]uint64, marksPerGroup*(1+r.IntN(40)))
		for g := 0; g < len(marks); g += marksPerGroup {
			marks[g] = r.Uint64() & r.Uint64() >> r.IntN(64)
			marks[g+2] = marks[g] & r.Uint64() & r.Uint64()
		}
		from, base := uint32(r.IntN(100)), uint32(100+r.IntN(1000))
		want, got := make([]table.Span, 64*len(marks)), make([]table.Span, 64*len(marks))
		n, next := cutGroups(want, marks, from, base)
		gotN, gotNext := cut(&got[0], &marks[0], len(marks)/marksPerGroup, from, base)
		require.Equal(t, n, gotN)
		require.Equal(t, next, gotNext)
		require.Equal(t, want, got, "cut must not write beyond its cells")
	}
}

func ascii(text []byte) bool { return notASCII(text) < 0 }

func BenchmarkFind(b *testing.B) {
	block := bytes.Repeat([]byte("a,b\n\"c\","), 8)
	var masks [marksPerGroup]uint64
	b.Run("find", func(b *testing.B) {
		for b.Loop() {
			find(&block[0], 1, &masks[0], lowBits*',', lowBits*'\n', lowBits*'"')
		}
	})
	b.Run("findBytes", func(b *testing.B) {
		for b.Loop() {
			findBytes(block, lowBits*',', lowBits*'\n', lowBits*'"')
		}
	})
}
