package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// Columns that went wrong in silence once: the type that a column has, its output, its failures
// and what is found in it. Each is a class of its own.

// times repeats a cell, each time with another number in place of %d.
func times(n, from int, format string) (cells []string) {
	for i := range n {
		cells = append(cells, fmt.Sprintf(format, from+i))
	}
	return cells
}

var silent = []struct {
	name    string
	cells   []string
	odd     string // the last cell, if not among the cells
	args    []string
	typ     string
	out     string // of the odd cell, or all cells with bars where there is none
	failed  string // reasons of failures
	finding string // that must be there
}{
	{name: "codes and one decimal", cells: times(60, 1000, "00%d"), odd: "12,5", typ: "code", out: "12,5", finding: "leading-zeros"},
	{name: "codes and one with a unit", cells: times(60, 1000, "00%d"), odd: "5 kg", typ: "code", out: "5 kg", finding: "leading-zeros"},
	{name: "codes and one percentage", cells: times(60, 1000, "00%d"), odd: "7%", typ: "code", out: "7%", finding: "leading-zeros"},
	{name: "codes and one with a group", cells: times(60, 1000, "00%d"), odd: "1'234", typ: "code", out: "1'234", finding: "leading-zeros"},
	{name: "postcodes of one length", cells: times(60, 10115, "%d"), odd: "02134", typ: "code", out: "02134", finding: "leading-zeros"},
	{name: "one number with zeros before it", cells: times(60, 80, "%d"), odd: "007", typ: "integer", failed: "leading-zero", finding: "leading-zeros"},
	{name: "decimals with zeros before them", cells: []string{"005.13", "112.18", "000.37", "004.99"}, typ: "code", out: "005.13|112.18|000.37|004.99", finding: "leading-zeros"},
	{name: "hours and minutes with zeros", cells: []string{"01.18", "00.30", "17.45"}, typ: "time", out: "01:18:00|00:30:00|17:45:00"},
	{name: "hours and minutes beside times", cells: []string{"11.18", "10:30", "17.45"}, typ: "time", out: "11:18:00|10:30:00|17:45:00"},
	{name: "hours and minutes, or decimals", cells: []string{"18.05", "17.30", "12.15", "20.45"}, typ: "text", out: "18.05|17.30|12.15|20.45", finding: "times-undecided"},
	{name: "the same, as told", cells: []string{"18.05", "17.30", "12.15"}, args: []string{"--decimal-mark", "."}, typ: "decimal", out: "18.05|17.30|12.15"},
	{name: "prices are no times", cells: []string{"18.05", "17.99", "12.15"}, typ: "decimal", out: "18.05|17.99|12.15"},
	{name: "the word for o'clock is no unit", cells: []string{"8.15 Uhr", "17.30 Uhr"}, typ: "time", out: "08:15:00|17:30:00"},
	{name: "versions", cells: []string{"1.9", "1.10", "2.1.3", "2.2"}, typ: "code", out: "1.9|1.10|2.1.3|2.2"},
	{name: "one slip among decimals", cells: times(60, 10, "1.%d"), odd: "2.1.3", typ: "decimal", out: "", failed: "group-misplaced"},
	{name: "a shortened identifier", cells: times(60, 10, "40063812345%d"), odd: "4.00638E+12", typ: "integer", out: "", failed: "scientific-notation", finding: "digits-lost"},
	{name: "a shortened long identifier", cells: times(60, 10, "40063812345678%d"), odd: "4.00638E+15", typ: "code", out: "", failed: "scientific-notation", finding: "digits-lost"},
	{name: "many shortened identifiers", cells: append(times(4, 10, "40063812345%d"), "4.00638E+12", "4.00639E+12", "4.00641E+12"), typ: "integer", out: "4006381234510|4006381234511|4006381234512|4006381234513|||", failed: "scientific-notation, scientific-notation, scientific-notation", finding: "digits-lost"},
	{name: "one in scientific notation", cells: times(60, 100, "%d"), odd: "1e3", typ: "integer", out: "", failed: "scientific-notation"},
	{name: "real scientific notation", cells: []string{"1.5E-3", "2.25E+4", "3.5E-7"}, typ: "decimal", out: "0.0015|22500|0.00000035"},
	{name: "dates or times", cells: []string{"08.10.21", "09.11.21"}, typ: "text", out: "08.10.21|09.11.21", finding: "order-undecided"},
	{name: "times that are no dates", cells: []string{"08.40.21", "09.51.21"}, typ: "time", out: "08:40:21|09:51:21"},
	{name: "codes with letters of months", cells: []string{"M03-19-40", "S-21-3-2006", "v1.21.14"}, typ: "text", out: "M03-19-40|S-21-3-2006|v1.21.14"},
	{name: "a day of a week that there is not", cells: times(60, 10, "2021-W%d-3")[:40], odd: "2021-W09-8", typ: "date", out: "", failed: "no-such-day"},
	{name: "a letter in a date", cells: times(15, 10, "%d.06.2022"), odd: "2O.06.2022", typ: "date", out: "", failed: "not-a-date", finding: "look-alikes"},
	{name: "a letter at the end of a date", cells: times(15, 10, "2022-06-%d"), odd: "2022-06-2l", typ: "date", out: "", failed: "not-a-date", finding: "look-alikes"},
	{name: "about a day", cells: times(18, 10, "%d.06.2022"), odd: "about 15.06.2022", typ: "date", out: "", failed: "not-a-date"},
	{name: "an offset is no time", cells: times(15, 10, "2022-06-%d 05:00"), odd: "2022-06-17 -2:00", typ: "timestamp", out: "", failed: "not-a-date"},
	{name: "a cash book", cells: append(times(20, 10, "%d.04.21"), "31.04.21"), typ: "text", out: "", finding: "order-undecided"},
	{name: "a cash book as told", cells: times(20, 10, "%d.04.21"), odd: "31.04.21", args: []string{"--date-order", "dmy"}, typ: "date", out: "", failed: "no-such-day"},
	{name: "day and month are the same", cells: []string{"03/03/2021", "04/04/2021"}, typ: "date", out: "2021-03-03|2021-04-04"},
	{name: "an impossible day decides nothing", cells: append(times(18, 11, "%d.01.2021"), "01.02.2021"), odd: "31.02.2021", typ: "date", out: "", failed: "no-such-day"},
	{name: "an impossible month decides nothing", cells: append(times(18, 11, "%d.01.2021"), "01.02.2021"), odd: "13.13.2021", typ: "date", out: "", failed: "no-such-day"},
	{name: "every number in brackets", cells: []string{"(1990)", "(1991)", "(2004)"}, typ: "text", out: "(1990)|(1991)|(2004)", finding: "brackets-undecided"},
	{name: "some numbers in brackets", cells: []string{"(1990)", "1991", "(2004)"}, typ: "integer", out: "-1990|1991|-2004"},
	{name: "lists", cells: []string{"1,3", "2,3", "1,2,3"}, typ: "text", out: "1,3|2,3|1,2,3", finding: "lists-undecided"},
	{name: "months in Croatian", cells: []string{"31 lis 2021", "4 srpnja 2021", "6 lip 2021", "7 listopada 2021"}, typ: "date", out: "2021-10-31|2021-07-04|2021-06-06|2021-10-07"},
	{name: "months in Polish", cells: []string{"30 listopada 2021", "4 stycznia 2021", "31 lipca 2021", "5 lut 2021"}, typ: "date", out: "2021-11-30|2021-01-04|2021-07-31|2021-02-05"},
	{name: "one currency written in two ways", cells: []string{"$5", "USD 6", "7 US$"}, typ: "integer", out: "5|6|7"},
	{name: "yen written in three ways", cells: []string{"¥5", "JPY 6", "7円"}, typ: "integer", out: "5|6|7"},
	{name: "kroner written in two ways", cells: []string{"kr 5", "NOK 6", "7 kr."}, typ: "integer", out: "5|6|7"},
	{name: "two currencies behind one sign", cells: []string{"$5", "USD 6", "CAD 7", "CAD 8"}, typ: "text", out: "$5|USD 6|CAD 7|CAD 8", finding: "currencies"},
	{name: "one currency, as told", cells: []string{"$5", "USD 6.50", "$7"}, args: []string{"--as", "c=decimal"}, typ: "decimal", out: "5|6.50|7"},
	{name: "rand", cells: []string{"R 12.50", "R 1 234.50", "R 100", "R99.90"}, typ: "decimal", out: "12.50|1234.50|100|99.90"},
	{name: "rooms", cells: []string{"R 12", "R 14", "R 15"}, typ: "text", out: "R 12|R 14|R 15"},
	{name: "no currency", cells: []string{"¤ 12", "¤ 13"}, typ: "integer", out: "12|13"},
	{name: "a database's null", cells: append(times(20, 1, "%d"), `\N`), typ: "integer", out: ""},
	{name: "just no numbers", cells: append(times(16, 100, "%d"), "x", "y", "z"), typ: "text", out: "", finding: "nearly-typed"},
	{name: "numbers over two lines", cells: append(times(30, 100, "%d"), "1\n200"), typ: "integer", out: "", failed: "several-numbers"},
	{name: "timestamps written in other ways", cells: []string{"2021-03-04T05:06:07,25Z", "2021-03-04t05:06:07z", "2021-03-04T05:06:07+01", "2021-03-04T05:06:07 +01:00"}, typ: "timestamp", out: "2021-03-04T05:06:07.25Z|2021-03-04T05:06:07Z|2021-03-04T05:06:07+01:00|2021-03-04T05:06:07+01:00"},
	{name: "times with a comma", cells: []string{"09:05:07,5", "10:05:07"}, typ: "time", out: "09:05:07.5|10:05:07"},
	{name: "a byte that is not text", cells: append(times(20, 1, "Möwe %d"), "caf\xe9"), typ: "text", out: "", failed: "bad-bytes"},
}

func TestNothingIsWrongInSilence(t *testing.T) {
	t.Parallel()
	for i, tt := range silent {
		if i%nets.Size(3, 1) != 0 {
			continue
		}
		f := newFolder(t)
		cells := tt.cells
		if tt.odd != "" {
			cells = append(cells[:len(cells):len(cells)], tt.odd)
		}
		var b strings.Builder
		b.WriteString("c;n\n")
		for i, c := range cells {
			fmt.Fprintf(&b, "\"%s\";%d\n", c, i)
		}
		f.file("a.csv", b.String())
		args := append([]string{"a.csv", "--encoding", "utf-8", "--delimiter", ";"}, tt.args...)
		p := profileOf(t, f, args...)
		assert.Equal(t, tt.typ, p.Columns[0].Suggest.Type, tt.name)
		if tt.finding != "" {
			var names []string
			for _, x := range p.Columns[0].Findings {
				names = append(names, x.Name)
			}
			assert.Contains(t, names, tt.finding, tt.name)
		}
		r := f.run(append([]string{"convert", "-o", "o.csv"}, args...)...)
		require.LessOrEqual(t, r.code, 1, "%s: %s", tt.name, r.err)
		records := f.records("o.csv")
		require.Len(t, records, len(cells)+1, tt.name)
		var out, reasons []string
		for _, record := range records[1:] {
			require.Len(t, record, 2, tt.name)
			out = append(out, record[0])
		}
		switch {
		case tt.odd != "":
			assert.Equal(t, tt.out, out[len(out)-1], tt.name)
		case tt.out != "":
			assert.Equal(t, tt.out, strings.Join(out, "|"), tt.name)
		}
		if r.code == 1 {
			for _, record := range f.records("o.failures.csv")[1:] {
				reasons = append(reasons, record[5])
			}
		}
		assert.Equal(t, tt.failed, strings.Join(reasons, ", "), tt.name)
	}
}

// Tables whose rows or names went wrong in silence once.
func TestRowsAndNamesThatWentWrong(t *testing.T) {
	t.Parallel()
	data := "r1,1,3.5\nr2,2,6.5\nr3,3,9.5\nr4,4,12.5\nr5,5,15.5\nr6,6,18.5\nr7,7,21.5\nr8,8,24.5\nr9,9,27.5\nr10,10,30.5\n"
	for _, tt := range []struct{ name, source, rows, header string }{
		{"a total that fills every column", "id,q,amount\n" + data + "Total,55,170.0\n", "11 in = 10 out + 1 set aside (1 full-total)", ""},
		{"a full total that is none", "id,q,amount\n" + data + "Total,56,171.0\n", "11 in = 11 out + 0 set aside", ""},
		{"a total without a word", "id,q,amount\n" + data + ",55,170.0\n", "11 in = 10 out + 1 set aside (1 bare-total)", ""},
		{"a last row that is no total", "id,q,amount\n" + data + ",3,171.0\n", "11 in = 11 out + 0 set aside", ""},
		{"averages and the like", "id,q,amount\n" + data + "Average,5.5,17.0\nMax,10,30.5\n", "12 in = 10 out + 2 set aside (2 summary-rows)", ""},
		{"a person called Max", "id,q,amount\n" + data + "Max,4,12.5\n", "11 in = 11 out + 0 set aside", ""},
		{"Total Wine", "id,q,amount\n" + data + "Total Wine,15,\n", "11 in = 11 out + 0 set aside", ""},
		{"a total of something", "id,q,amount\n" + data + "Total harbour,55,170.0\n", "11 in = 10 out + 1 set aside (1 named-total)", ""},
		{"footers", "id,q,amount\n" + data + "10 rows,,\nSource: harbour office,,\n# end,,\n", "13 in = 10 out + 3 set aside (3 footers)", ""},
		{"footers of two columns", "id,q\na,1\nb,2\nc,3\nd,4\ne,5\nf,6\ng,7\nh,8\ni,9\nj,10\nk,11\nSource: harbour office\n11 rows\n", "13 in = 11 out + 2 set aside (2 footers)", ""},
		{"comments among rows", "id,q,amount\n# by hand\n" + data + "# end of list\n", "12 in = 10 out + 2 set aside (2 footers)", ""},
		{"a preamble of keys and values", "device;X\nserial;12\n\ntime;temp;hum\n08:00;1,5;3\n09:00;2,5;4\n10:00;2,7;4\n", "3 in = 3 out", "time|temp|hum"},
		{"a preamble in comments", "# device;X\n# serial;12\n\ntime;temp;hum\n08:00;1,5;3\n09:00;2,5;4\n10:00;2,7;4\n", "3 in = 3 out", "time|temp|hum"},
		{"days as names", "sku,2021-01-01,2021-01-02\na,1,2\nb,3,4\n", "2 in = 2 out", "sku|2021-01-01|2021-01-02"},
		{"times as names", "sku,08:00,08:30,09:00\na,1,2,3\nb,3,4,4\n", "2 in = 2 out", "sku|08:00|08:30|09:00"},
		{"ranges as names", "age,0-10,11-20,21-30\nm,5,2,1\nf,3,4,2\n", "2 in = 2 out", "age|0-10|11-20|21-30"},
		{"counting names", "question,1,2,3\na,5,2,1\nb,3,4,4\n", "2 in = 2 out", "question|1|2|3"},
		{"numbers that count are no names", "x,1,2\ny,2,3\nz,3,4\n", "3 in = 3 out", "column 1|column 2|column 3"},
		{"no header and short rows", "1;2;3\n4\n5;6;7\n8;9;1\n", "4 in = 4 out", "column 1|column 2|column 3"},
		{"a name is missing", "name,city\n1,Anna,Bern\n2,Bo,Rom\n3,Cy,Oslo\n", "3 in = 3 out", "column 1|name|city"},
	} {
		f := newFolder(t)
		f.file("a.csv", tt.source)
		r := f.run("convert", "a.csv", "-o", "o.csv")
		require.LessOrEqual(t, r.code, 1, "%s: %s", tt.name, r.err)
		assert.Contains(t, r.out, "rows: "+tt.rows, tt.name)
		if tt.header != "" {
			assert.Equal(t, tt.header, strings.Join(f.records("o.csv")[0], "|"), tt.name)
		}
	}
	f := newFolder(t)
	f.file("a.csv", "name,city\nAnna,Bern,x\nBo,Rom,y\nCy,Oslo,z\n")
	assert.Contains(t, f.run("profile", "a.csv").out, "names-short")
	f.file("a.csv", "a,b\n1,2\n3,4\nb,a\n5,6\n")
	r := f.run("convert", "a.csv", "-o", "o.csv")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "row 3 (line 4) of a.csv has the names of the columns in another order")
	assert.Equal(t, []string{"a.csv"}, f.names())
	f.file("a.csv", "na\xefme,b\n1,2\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "--encoding", "utf-8", "-o", "o.csv").code)
	assert.Contains(t, f.run("profile", "a.csv", "--encoding", "utf-8").out, "broken-names")
	f.file("b.csv", "n\n1"+strings.Repeat("0", 400)+"\n1e308\n-1e308\n7.5\n")
	assert.Equal(t, 0, f.run("profile", "b.csv", "--as", "n=decimal", "--column", "n").code)
	assert.Equal(t, 0, f.run("profile", "b.csv", "--as", "n=decimal", "--format", "json").code)
}

// Records have no headings, notes and totals among them.
func TestRecordsAreRecords(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.jsonl", "{\"a\":\"x\",\"b\":1,\"c\":2}\n{\"a\":\"only\"}\n{\"a\":\"Total\",\"b\":1}\n{\"a\":\"Note: x\"}\n{\"a\":null}\n{\"a\":\"a\",\"b\":\"b\",\"c\":\"c\"}\n")
	for _, name := range []string{"a.jsonl", "r.db", "r.parquet"} {
		if name != "a.jsonl" {
			require.LessOrEqual(t, f.run("convert", "a.jsonl", "-o", name, "--as", "b=text", "--as", "c=text").code, 1)
		}
		r := f.run("convert", name, "-o", "o.csv", "--overwrite-plan")
		require.LessOrEqual(t, r.code, 1, r.err)
		assert.Contains(t, r.out, "rows: 6 in = 6 out + 0 set aside", name)
	}
}

// Files that are something else are named for what they are.
func TestFilesThatAreNoTables(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for text, want := range map[string]string{
		"%PDF-1.7\n1 0 obj": "PDF", "{\\rtf1 hello}": "RTF", "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + strings.Repeat("\x00", 600): "old binary workbook",
		"  <html><body>": "the page has no table", "<?xml version=\"1.0\"?>\n<a/>": "no element of it occurs again and again",
		"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1\x00\x00E\x00n\x00c\x00r\x00y\x00p\x00t\x00e\x00d\x00P\x00a\x00c\x00k\x00a\x00g\x00e\x00": "encrypted workbook",
	} {
		f.file("a.csv", text)
		r := f.run("profile", "a.csv")
		assert.Equal(t, 3, r.code, want)
		assert.Contains(t, r.err, want)
	}
	f.file("a.csv", "<?xml,b\n1,2\n")
	assert.Equal(t, 0, f.run("profile", "a.csv", "--source-format", "text").code)
}

// Quotes, escapes and encodings that were taken for something else.
func TestTextThatWasTakenForSomethingElse(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.tsv", "size\tname\n5\" pipe\tx\n\"Bob\" Smith\ty\n\"6 inch\tz\n7\"\tw\n")
	assert.Contains(t, f.run("convert", "a.tsv", "-o", "t.csv").out, "rows: 4 in = 4 out")
	assert.Equal(t, "\"6 inch", f.records("t.csv")[3][0])
	f.file("b.csv", "a,b\n\"C:\\temp\\\",1\n\"x\",2\n\"say \"\"hi\"\"\",3\n")
	require.Equal(t, 0, f.run("convert", "b.csv", "-o", "o.csv").code)
	assert.Equal(t, [][]string{{"a", "b"}, {`C:\temp\`, "1"}, {"x", "2"}, {`say "hi"`, "3"}}, f.records("o.csv"))
	f.file("c.csv", "a,b\n"+strings.Repeat("\x1b[31mred\x1b[0m,1\n", 9))
	assert.Equal(t, 0, f.run("profile", "c.csv").code)
	require.NoError(t, os.WriteFile(f.path("d.csv"), []byte("preis;name\n12 \xa4;caf\xe9\n13 \xa4;na\xefve\n"), 0o644))
	require.Equal(t, 0, f.run("convert", "d.csv", "-o", "d2.csv").code)
	assert.Equal(t, []string{"12", "café"}, f.records("d2.csv")[1])
	require.NoError(t, os.WriteFile(f.path("e.csv"), []byte("name;ort\nM\x94we;Gr\x94\xe1e\nK\x84se;S\x81\xe1\n"), 0o644))
	require.Equal(t, 0, f.run("convert", "e.csv", "--encoding", "cp437", "-o", "e2.csv").code)
	assert.Equal(t, []string{"Möwe", "Größe"}, f.records("e2.csv")[1])
	f.file("f.json", "{\"a\":\"caf\xe9\"}\n")
	assert.Contains(t, f.run("profile", "f.json").err, "no UTF-8")
	require.Equal(t, 0, f.run("convert", "f.json", "--encoding", "iso-8859-1", "-o", "f.csv").code)
	assert.Equal(t, "café", f.records("f.csv")[1][0])
}
