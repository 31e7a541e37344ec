package e2e

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tables are small sources with what convert must make of them. Failures are given
// as row, column, reason.
var tables = []struct {
	name     string
	source   string
	args     []string
	want     string
	failures []string
	aside    []string
}{
	{
		name:   "a date without evidence stays text",
		source: "day,n\n03/04/2021,1\n05/06/2021,2\n",
		want:   "day,n\n03/04/2021,1\n05/06/2021,2\n",
	},
	{
		name:   "a number without evidence stays text",
		source: "kg;x\n1,234;a\n5,678;b\n",
		want:   "kg,x\n\"1,234\",a\n\"5,678\",b\n",
	},
	{
		name:   "the user decides",
		source: "kg;day\n1,234;03/04/2021\n5,678;05/06/2021\n",
		args:   []string{"--decimal-mark", ",", "--date-order", "mdy"},
		want:   "kg,day\n1.234,2021-03-04\n5.678,2021-05-06\n",
	},
	{
		name:   "thirty digits and leading zeros survive",
		source: "code,big,dec\n007,123456789012345678901234567890,0.100000000000000000000000000001\n010,1,2.5\n",
		args:   []string{"--as", "big=integer"},
		want:   "code,big,dec\n007,123456789012345678901234567890,0.100000000000000000000000000001\n010,1,2.5\n",
	},
	{
		name:     "a blank never becomes 0, and no text becomes a number",
		source:   "n;m\n1;a\n;b\n\"\";c\n   ;d\n\u00a0;e\n\u200b;f\nn/a;g\nA12B;h\n2;i\n3;j\n4;k\n5;l\n6;m\n7;n\n8;o\n9;p\n10;q\n11;r\n",
		want:     "n,m\n1,a\n,b\n,c\n,d\n,e\n,f\n,g\n,h\n2,i\n3,j\n4,k\n5,l\n6,m\n7,n\n8,o\n9,p\n10,q\n11,r\n",
		failures: []string{"8 n not-a-number"},
	},
	{
		name:   "NA and NO are countries",
		source: "country,n\nNA,1\nNO,2\nSE,3\nDE,4\n",
		want:   "country,n\nNA,1\nNO,2\nSE,3\nDE,4\n",
	},
	{
		name:   "None and Null are surnames",
		source: "surname,n\nNone,1\nNull,2\nSmith,NA\nJones,4\n",
		want:   "surname,n\nNone,1\nNull,2\nSmith,\nJones,4\n",
	},
	{
		name:   "percent, currency, unit, parentheses, signs",
		source: "p;c;u;b\n12,5 %;€ 3,20;1.240,5 kg;(1.234,50)\n7%;3,40 EUR;12 kg;12,5-\n0,25 %;4,-;7 kg;\u22127,1\n",
		want:   "p,c,u,b\n0.125,3.20,1240.5,-1234.50\n0.07,3.40,12,-12.5\n0.0025,,7,-7.1\n",
		args:   []string{"--as", "c=decimal"},
		failures: []string{
			"3 c not-a-number",
		},
	},
	{
		name:     "the losing side of a conflict fails",
		source:   "n;d\n1.5;25.12.2021\n2.5;24.12.2021\n3.5;23.12.2021\n4.5;22.12.2021\n5.5;21.12.2021\n6.5;20.12.2021\n7.5;19.12.2021\n8.5;18.12.2021\n9.5;17.12.2021\n9,5;12.16.2021\n",
		want:     "n,d\n1.5,2021-12-25\n2.5,2021-12-24\n3.5,2021-12-23\n4.5,2021-12-22\n5.5,2021-12-21\n6.5,2021-12-20\n7.5,2021-12-19\n8.5,2021-12-18\n9.5,2021-12-17\n,\n",
		failures: []string{"10 n mark-conflict", "10 d order-conflict"},
	},
	{
		name:   "ways to write a day",
		source: "d\n2021-03-04\n4 Mar 2021\nMarch 4th, 2021\nThu 4 Mar 2021\n4.3.21\n25.12.2021\n",
		want:   "d\n2021-03-04\n2021-03-04\n2021-03-04\n2021-03-04\n2021-03-04\n2021-12-25\n",
	},
	{
		name:   "timestamps",
		source: "a;b\n2021-03-04T06:05:07;2021-03-04 06:05:07.25Z\n4.3.2021 6:05 pm;2021-03-04T06:05:07+02:00\n25.12.2021, 12:00 am;2021-03-04 06:05-0330\n",
		want:   "a,b\n2021-03-04T06:05:07,2021-03-04T06:05:07.25Z\n2021-03-04T18:05:00,2021-03-04T06:05:07+02:00\n2021-12-25T00:00:00,2021-03-04T06:05:00-03:30\n",
	},
	{
		name:     "days that the calendar does not have",
		source:   "d\n" + strings.Repeat("13.01.2021\n", 30) + "29.02.2021\n29.02.2020\n31.04.2021\n",
		want:     "d\n" + strings.Repeat("2021-01-13\n", 30) + "\"\"\n2020-02-29\n\"\"\n",
		failures: []string{"31 d no-such-day", "33 d no-such-day"},
	},
	{
		name:   "rows that are no data",
		source: "Report\n\nport;kg;n\nNorth;;\nA;1;2\nB;2;3\n;;\nport;kg;n\nC;3;4\nD;3;4\nE;3;4\nF;3;4\nTotal;15;\nA;1;2;3\nA;1;2;;\n",
		want:   "port,kg,n\nA,1,2\nB,2,3\nC,3,4\nD,3,4\nE,3,4\nF,3,4\nA,1,2\n",
		aside:  []string{"above-header", "above-header", "section-heading", "blank-row", "repeated-heading", "total-row", "long-row"},
	},
	{
		name:   "a sparse table has no section headings",
		source: "a,b,c\nx,,\n,y,\nz,,\n,,w\n",
		want:   "a,b,c\nx,,\n,y,\nz,,\n,,w\n",
	},
	{
		name:   "quotes, line breaks and a quote that never closes",
		source: "a,b\n\"x \"\"y\"\"\",\"two\nlines\"\n5\" pipe,z\n\"open,1\nlast,2\n",
		want:   "a,b\n\"x \"\"y\"\"\",\"two\nlines\"\n\"5\"\" pipe\",z\n\"\"\"open\",1\nlast,2\n",
	},
	{
		name:   "scientific notation and codes that look like it",
		source: "x;y\n1.5E3;1E5\n2e-2;2E7\n12;3E1\n",
		want:   "x,y\n1500,1E5\n0.02,2E7\n12,3E1\n",
	},
	{
		name:   "booleans need both words",
		source: "a,b,c\nyes,yes,ja\nno,yes,no\nYES,yes,nein\n,yes,yes\n",
		want:   "a,b,c\ntrue,yes,true\nfalse,yes,false\ntrue,yes,false\n,yes,true\n",
	},
	{
		name:   "a told type is tried even where nothing fits",
		source: "a,b\nx,1\n1,0\n0,1\n",
		args:   []string{"--as", "a=integer", "--as", "b=boolean", "--blank-word", "x"},
		want:   "a,b\n,true\n1,false\n0,true\n",
	},
	{
		name:   "an equal sign keeps its text",
		source: "a,b\n=1+1,x\n@cmd,y\n",
		want:   "a,b\n=1+1,x\n@cmd,y\n",
	},
}

func TestConvertTables(t *testing.T) {
	t.Parallel()
	for _, tt := range tables {
		t.Run(tt.name, func(t *testing.T) {
			f := newFolder(t)
			f.file("in.csv", tt.source)
			r := f.run(append([]string{"convert", "in.csv", "-o", "out.csv", "--format", "json"}, tt.args...)...)
			require.LessOrEqual(t, r.code, 1, r.err)
			assert.Equal(t, tt.want, f.read("out.csv"))

			var failures []string
			if r.code == 1 {
				for _, rec := range f.records("out.failures.csv")[1:] {
					failures = append(failures, rec[0]+" "+rec[2]+" "+rec[5])
				}
			} else {
				assert.NotContains(t, f.names(), "out.failures.csv")
			}
			assert.Equal(t, tt.failures, failures)
			if tt.aside != nil {
				var aside []string
				for _, rec := range f.records("out.setaside.csv")[1:] {
					aside = append(aside, rec[2])
				}
				assert.Equal(t, tt.aside, aside)
			}
			balance(t, r.out, len(f.records("out.csv"))-1)
		})
	}
}

// balance adds up the ledger's sums by itself.
func balance(t *testing.T, ledger string, rows int) {
	t.Helper()
	var l struct {
		Rows struct {
			In, Out  int
			SetAside int `json:"set_aside"`
			Reasons  map[string]int
		}
		Columns []struct {
			Name                                         string
			Cells, Right, Converted, Blank, Kept, Failed int
		}
	}
	require.NoError(t, json.Unmarshal([]byte(ledger), &l))
	assert.Equal(t, l.Rows.In, l.Rows.Out+l.Rows.SetAside)
	assert.Equal(t, rows, l.Rows.Out)
	sum := 0
	for _, n := range l.Rows.Reasons {
		sum += n
	}
	assert.Equal(t, l.Rows.SetAside, sum)
	for _, c := range l.Columns {
		assert.Equal(t, c.Cells, c.Right+c.Converted+c.Blank+c.Kept+c.Failed, c.Name)
		assert.Equal(t, rows, c.Cells, c.Name)
	}
}
