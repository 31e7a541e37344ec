package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func titledPage(n int) string {
	return fmt.Sprintf("Landings of March\nPage %d\n\nport;kg\nHAR;%[1]d0\nHUL;%[1]d1\n", n)
}

func headedPage(n int) string { return fmt.Sprintf("port;boat;kg\nHAR;Anke;%d\nHUL;Jan;%d\n", n, 2*n) }

// Small tables, each with a trouble of its own: what comes out, and why what does not
// come out failed.
var troubles = []struct {
	name   string
	source string
	args   []string
	want   string // the output, a bar between the cells
	failed string // the column and reason of each failure
}{
	{
		name:   "a sum shows 0 because the numbers are text",
		source: "n\n'12\n 7\n\u00a05\u00a0\n1\u202f240\n",
		want:   "n\n12\n7\n5\n1240",
	},
	{
		name:   "decimal commas in a file with commas between the cells",
		source: "id,kg\n1,\"1.240,5\"\n2,\"99,1\"\n3,\"7\"\n",
		want:   "id|kg\n1|1240.5\n2|99.1\n3|7",
	},
	{
		name:   "both marks, each cell clear by itself",
		source: "kg\n1.234,50\n99,10\n7,5\n1.000.000,1\n",
		want:   "kg\n1234.50\n99.10\n7.5\n1000000.1",
	},
	{
		name:   "one cell with the other decimal mark is no number, and no other number either",
		source: "kg\n1,5\n2,5\n3,5\n4,5\n5,5\n6,5\n7,5\n8,5\n9,5\n10.25\n",
		want:   "kg\n1.5\n2.5\n3.5\n4.5\n5.5\n6.5\n7.5\n8.5\n9.5\n",
		failed: "kg mark-conflict",
	},
	{
		name:   "groups that may be decimals stay as they are",
		source: "kg\n1.234\n5.678\n",
		want:   "kg\n1.234\n5.678",
	},
	{
		name:   "and are read as told",
		source: "kg\n1.234\n5.678\n",
		args:   []string{"--decimal-mark", ","},
		want:   "kg\n1234\n5678",
	},
	{
		name:   "leading zeros of invoice numbers",
		source: "invoice\n00417\n00418\n12\n",
		want:   "invoice\n00417\n00418\n12",
	},
	{
		name:   "numbers of 16 digits and more",
		source: "card\n1234567890123456\n1234567890123457\n",
		want:   "card\n1234567890123456\n1234567890123457",
	},
	{
		name:   "country codes with NA and NO",
		source: "country\nNA\nNO\nSE\nDE\n",
		want:   "country\nNA\nNO\nSE\nDE",
	},
	{
		name:   "surnames Null and None",
		source: "surname\nNull\nNone\nMeier\nTrue\nMay\n",
		want:   "surname\nNull\nNone\nMeier\nTrue\nMay",
	},
	{
		name:   "NA among numbers is a blank, and 0 is not",
		source: "n\n1\nNA\n0\nn/a\n-\n5\nnone\n",
		want:   "n\n1\n\n0\n\n\n5\n",
	},
	{
		name:   "empty, quoted empty, spaces and what does not print",
		source: "i,n,t\n1,1,a\n2,,\"\"\n3,\"\",  \n4,\u200b,\u00a0\n5,2,b\n",
		want:   "i|n|t\n1|1|a\n2||\n3||\n4||\n5|2|b",
	},
	{
		name:   "days first, by one date that shows it",
		source: "day\n03/04/2021\n25/04/2021\n",
		want:   "day\n2021-04-03\n2021-04-25",
	},
	{
		name:   "months first, by one date that shows it",
		source: "day\n03/04/2021\n04/25/2021\n",
		want:   "day\n2021-03-04\n2021-04-25",
	},
	{
		name:   "no date shows the order",
		source: "day\n03/04/2021\n04/05/2021\n",
		want:   "day\n03/04/2021\n04/05/2021",
	},
	{
		name:   "dates that contradict each other",
		source: "day\n25/04/2021\n04/25/2021\n03/04/2021\n",
		want:   "day\n25/04/2021\n04/25/2021\n03/04/2021",
	},
	{
		name:   "an order for each separator",
		source: "day\n25.04.2021\n04/25/2021\n03.04.2021\n04/03/2021\n",
		want:   "day\n2021-04-25\n2021-04-25\n2021-04-03\n2021-04-03",
	},
	{
		name:   "days that there never were",
		source: "day\n28.02.2021\n29.02.2021\n29.02.2020\n31.04.2021\n01.01.2021\n02.01.2021\n03.01.2021\n04.01.2021\n05.01.2021\n06.01.2021\n" + strings.Repeat("13.01.2021\n", 12),
		want:   "day\n2021-02-28\n\n2020-02-29\n\n2021-01-01\n2021-01-02\n2021-01-03\n2021-01-04\n2021-01-05\n2021-01-06\n" + strings.TrimSuffix(strings.Repeat("2021-01-13\n", 12), "\n"),
		failed: "day no-such-day, day no-such-day",
	},
	{
		name:   "years of another calendar",
		source: "day\n13.01.2564\n14.01.2564\n" + strings.Repeat("15.01.2021\n", 20),
		want:   "day\n\n\n" + strings.TrimSuffix(strings.Repeat("2021-01-15\n", 20), "\n"),
		failed: "day other-calendar, day other-calendar",
	},
	{
		name:   "names of months in several languages",
		source: "day\n4 Mar 2021\n4. März 2021\n4 mars 2021\n4 de marzo de 2021\n2021年3月4日\n",
		want:   "day\n2021-03-04\n2021-03-04\n2021-03-04\n2021-03-04\n2021-03-04",
	},
	{
		name:   "timestamps with and without an offset do not mix",
		source: "at\n" + strings.Repeat("2021-03-04T06:05:00\n", 12) + "2021-03-04T06:05:00Z\n",
		want:   "at\n" + strings.Repeat("2021-03-04T06:05:00\n", 12),
		failed: "at zone-unexpected",
	},
	{
		name:   "half the day",
		source: "at\n12:00 am\n12:30 pm\n6:05 p.m.\n",
		want:   "at\n00:00:00\n12:30:00\n18:05:00",
	},
	{
		name:   "ja and yes are two pairs",
		source: "ok\nja\nNein\nyes\nNO\n",
		want:   "ok\ntrue\nfalse\ntrue\nfalse",
	},
	{
		name:   "a pair needs both of its words",
		source: "ok\nyes\nyes\n",
		want:   "ok\nyes\nyes",
	},
	{
		name:   "0 and 1 are numbers, unless told otherwise",
		source: "ok\n0\n1\n",
		args:   []string{"--as", "ok=boolean"},
		want:   "ok\nfalse\ntrue",
	},
	{
		name:   "percentages are fractions",
		source: "share\n12 %\n7,5%\n100 %\n",
		want:   "share\n0.12\n0.075\n1.00",
	},
	{
		name:   "accounting",
		source: "balance\n(1,240.50)\n99.10-\n\u22127.25\n$5.00\n",
		want:   "balance\n-1240.50\n-99.10\n-7.25\n5.00",
	},
	{
		name:   "several currencies are no sum",
		source: "price\n€ 3,20\n$ 4,10\n€ 5,30\n£ 6,40\n",
		want:   "price\n€ 3,20\n$ 4,10\n€ 5,30\n£ 6,40",
	},
	{
		name:   "another unit is a failure",
		source: "kg\n" + strings.Repeat("1 kg\n", 12) + "1 t\n",
		want:   "kg\n" + strings.Repeat("1\n", 12),
		failed: "kg unit-unexpected",
	},
	{
		name:   "texts with a number in them are no numbers",
		source: "n\n1\n2\n3\n4\n5\n6\n7\n8\n9\n10\n11\n12\n13\n14\n15\n16\n17\n18\n19\n20\n21\n22\n23\n24\n25\n26\n27\n28\n29\n30\n<5\n84/96\nA12B\n",
		want:   "n\n1\n2\n3\n4\n5\n6\n7\n8\n9\n10\n11\n12\n13\n14\n15\n16\n17\n18\n19\n20\n21\n22\n23\n24\n25\n26\n27\n28\n29\n30\n\n\n",
		failed: "n not-a-number, n several-numbers, n not-a-number",
	},
	{
		name:   "30 digits in, 30 digits out",
		source: "n\n123456789012345678901234567890.5\n1.5\n",
		want:   "n\n123456789012345678901234567890.5\n1.5",
	},
	{
		name:   "titles, a second heading, a repeated heading, sections and totals",
		source: "Report;;\n;;\nport;kg;day\nharbour;weight;landed\nQuay 4;;\nA;1,5;25.01.2021\nB;2,5;26.01.2021\nTotal;4,0;\nport;kg;day\nC;3,5;27.01.2021\nD;3,5;27.01.2021\nE;3,5;27.01.2021\nF;3,5;27.01.2021\nG;3,5;27.01.2021\n",
		want:   "port|kg|day\nA|1.5|2021-01-25\nB|2.5|2021-01-26\nC|3.5|2021-01-27\nD|3.5|2021-01-27\nE|3.5|2021-01-27\nF|3.5|2021-01-27\nG|3.5|2021-01-27",
	},
	{
		name:   "line breaks, quotes and delimiters inside cells",
		source: "t;n\n\"a;\"\"b\"\"\nc\";1\nd;2\n",
		want:   "t|n\na;\"b\"\nc|1\nd|2",
	},
	{
		name:   "formulas and escapes are text",
		source: "t\n=1+1\n@x\n\x1b[31mred\n",
		want:   "t\n=1+1\n@x\n\x1b[31mred",
	},
	{
		name:   "telephone numbers keep their plus sign",
		source: "phone\n+494311234567\n+494317654321\n",
		want:   "phone\n+494311234567\n+494317654321",
	},
	{
		name:   "codes that look like numbers in scientific notation",
		source: "code\n1E5\n2E7\n3E1\n",
		want:   "code\n1E5\n2E7\n3E1",
	},
	{
		name:   "days as digits",
		source: "day\n20210304\n20211231\n",
		want:   "day\n2021-03-04\n2021-12-31",
	},
	{
		name:   "eight digits that are no days",
		source: "no\n20210304\n20211331\n",
		want:   "no\n20210304\n20211331",
	},
	{
		name:   "sums without a word above gaps",
		source: "port;n;kg\nA;10;100\nB;20;200\nC;30;320\n;60;620\n\nD;40;400\nE;50;500\nF;5;7\n\nG;6;7\nH;7;8\nI;4;5\nall;17;20\n",
		want:   "port|n|kg\nA|10|100\nB|20|200\nC|30|320\nD|40|400\nE|50|500\nF|5|7\nG|6|7\nH|7|8\nI|4|5",
	},
	{
		name:   "runs of spaces between cells, and spaces at the ends of lines",
		source: "port  name kg \nHAR Anke    1,5\n  HUL   Jan 7,25  \nHAR \"Ole Bo\" 19,0\nBRE Ida 20,5 \n",
		want:   "port|name|kg\nHAR|Anke|1.5\nHUL|Jan|7.25\nHAR|Ole Bo|19.0\nBRE|Ida|20.5",
	},
	{
		name:   "words with more spaces than one are no columns",
		source: "Name\nAnke  Marie Olsen\nJan Ole  Hansen\nIda Eva  Berg \nBo  Lo Do\n",
		want:   "Name\nAnke  Marie Olsen\nJan Ole  Hansen\nIda Eva  Berg \nBo  Lo Do",
	},
	{
		name:   "a print in pages",
		source: "Landings of March\nPage 1\n\nport;kg\nHAR;10\nHUL;11\n" + titledPage(2) + titledPage(3) + titledPage(4),
		want:   "port|kg\nHAR|10\nHUL|11\nHAR|20\nHUL|21\nHAR|30\nHUL|31\nHAR|40\nHUL|41",
	},
	{
		name:   "a print in pages, with the delimiter in the titles",
		source: "Landings;;Page 1\n" + headedPage(1) + "Landings;;Page 2\n" + headedPage(2) + "Landings;;Page 3\n" + headedPage(3),
		want:   "port|boat|kg\nHAR|Anke|1\nHUL|Jan|2\nHAR|Anke|2\nHUL|Jan|4\nHAR|Anke|3\nHUL|Jan|6",
	},
	{
		name:   "lines above with another delimiter",
		source: "Harbour;North;;\nMonth;March;2021;\nport,boat,kg\nHAR,Anke,1\nHUL,Jan,2\nHUL,Jan,3\nHAR,Ole,4\n",
		want:   "port|boat|kg\nHAR|Anke|1\nHUL|Jan|2\nHUL|Jan|3\nHAR|Ole|4",
	},
	{
		name:   "names in a comment below another",
		source: "# made by hand\n# port,kg\nHAR,1\nHUL,2\n",
		want:   "port|kg\nHAR|1\nHUL|2",
	},
	{
		name:   "names in a comment, told",
		source: "#port,kg\nHAR,1\nHUL,2\n# HUL,3\nHAR,4\n",
		args:   []string{"--comment", "#"},
		want:   "port|kg\nHAR|1\nHUL|2\nHAR|4",
	},
	{
		name:   "records of keys and values with lines drawn between them",
		source: "boat: Anke\nkg: 1\n--\nboat: Jan\nkg: 2\n--\nboat: Ole\nkg: 3\n",
		want:   "boat|kg\nAnke|1\nJan|2\nOle|3",
	},
	{
		name:   "records of keys and values with nothing between them",
		source: "boat: Anke\nkg: 1\nboat: Jan\nkg: 2\nboat: Ole\nkg: 3\n",
		args:   []string{"--source-format", "key-value"},
		want:   "boat|kg\nAnke|1\nJan|2\nOle|3",
	},
}

func TestTables(t *testing.T) {
	t.Parallel()
	for _, tt := range troubles {
		f := newFolder(t)
		f.file("a.csv", tt.source)
		r := f.run(append([]string{"convert", "a.csv", "-o", "o.csv"}, tt.args...)...)
		require.LessOrEqual(t, r.code, 1, "%s: %s", tt.name, r.err)
		var rows []string
		for _, record := range f.records("o.csv") {
			rows = append(rows, strings.Join(record, "|"))
		}
		assert.Equal(t, tt.want, strings.Join(rows, "\n"), tt.name)
		var failed []string
		if r.code == 1 {
			for _, record := range f.records("o.failures.csv")[1:] {
				failed = append(failed, record[2]+" "+record[5])
			}
		}
		assert.Equal(t, tt.failed, strings.Join(failed, ", "), tt.name)
	}
}
