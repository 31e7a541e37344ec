package e2e

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// listing is a list as an old program prints it: numbers on the right, no delimiter.
func listing(vessels ...string) string {
	var b strings.Builder
	b.WriteString("No    Vessel                 Kg  Landed\n")
	for i, v := range vessels {
		fmt.Fprintf(&b, "%05d %-16s %8s  %s\n", i+1, v, fmt.Sprintf("%d,5", 1000+i*7), fmt.Sprintf("%02d.03.2021", 10+i))
	}
	return b.String()
}

func TestColumnsOfFixedWidth(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	text := listing("Marlies", "Alte Liebe", "Möwe II", "Grete \"K.\"", "東京 丸", "Nordlicht")
	f.file("a.txt", text)
	r := f.run("profile", "a.txt")
	require.Equal(t, 0, r.code, r.err)
	assert.Regexp(t, `alignment +columns \(the lines look like columns of fixed width: --widths 6,\d+,\d+,10 reads them so\)`, r.out)
	r = f.run("convert", "a.txt", "--widths", "6,17,10,10", "-o", "o.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "No,Vessel,Kg,Landed\n00001,Marlies,1000.5,2021-03-10\n00002,Alte Liebe,1007.5,2021-03-11\n00003,Möwe II,1014.5,2021-03-12\n"+
		"00004,\"Grete \"\"K.\"\"\",1021.5,2021-03-13\n00005,東京 丸,1028.5,2021-03-14\n00006,Nordlicht,1035.5,2021-03-15\n", f.read("o.csv"))
	assert.Contains(t, f.read("o.plan.yaml"), "source: {encoding: utf-8, header-row: 1, widths: [6, 17, 10, 10]}")
	r = f.run("convert", "a.txt", "--plan", "o.plan.yaml", "-o", "again.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, f.read("o.csv"), f.read("again.csv"))
	r = f.run("profile", "a.txt", "--widths", "6,17,10,10")
	assert.Contains(t, r.out, "widths")
	assert.NotContains(t, r.out, "delimiter")

	// The same in an encoding of one byte, with CRLF; short and long lines.
	latin := strings.ReplaceAll(strings.ReplaceAll(text, "東京 丸  ", "Tokio Maru"), "\n", "\r\n")
	f.file("b.txt", string(toLatin(latin))+"00007 Short\r\n00008 Long             1,5       01.03.2021xyz\r\n")
	r = f.run("convert", "b.txt", "--widths", "6,17,10,10", "-o", "b.csv")
	require.Equal(t, 0, r.code, r.err+r.out)
	assert.Contains(t, f.read("b.csv"), "00003,Möwe II,1014.5,2021-03-12\n")
	assert.Contains(t, f.read("b.csv"), "00007,Short,,\n")
	assert.Contains(t, f.read("b.setaside.csv"), "8,9,long-row,00008,Long,\"1,5\",01.03.2021,xyz")

	for args, say := range map[string]string{
		"--widths 0,5":               "--widths are numbers of characters",
		"--widths 5,5 --delimiter ;": "--widths goes with none of",
		"--widths x":                 "as in 6,20,10",
	} {
		r := f.run(append([]string{"profile", "a.txt"}, strings.Fields(args)...)...)
		assert.Equal(t, 2, r.code, args)
		assert.Contains(t, r.err, say)
	}
	f.file("p.yaml", "plan: 1\nsource: {widths: [6, x], delimiter: \";\"}\ncolumns: {No: {}}\n")
	r = f.run("check", "a.txt", "--plan", "p.yaml")
	assert.Equal(t, 2, r.code)
	assert.Contains(t, r.err, "a whole number from 1")
	assert.Contains(t, r.err, "widths exclude delimiter")
}

func toLatin(s string) (out []byte) {
	for _, r := range s {
		out = append(out, byte(r))
	}
	return out
}

// Text without columns is not taken for columns.
func TestProseIsNotColumns(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.txt", strings.Repeat("The harbour master wrote this\nand nobody has read it since\n", 10))
	assert.NotContains(t, f.run("profile", "a.txt").out, "--widths")
	f.file("b.txt", "a  b\nc  d\n")
	assert.NotContains(t, f.run("profile", "b.txt").out, "--widths", "too few lines to tell")
}

// Columns of one character grow twofold when they are cut, and still each line is read once.
func TestWidthsOfManyLines(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var text, want strings.Builder
	text.WriteString("abcd\n")
	want.WriteString("a,b,c,d\n")
	for i := range 200_000 {
		digits := strconv.Itoa(1000 + i%9000)
		text.WriteString(digits + "\n")
		want.WriteString(strings.Join(strings.Split(digits, ""), ",") + "\n")
	}
	f.file("a.txt", text.String())
	f.file("p.yaml", "plan: 1\nsource: {widths: [1, 1, 1, 1], header-row: 1}\ncolumns: {a: {}, b: {}, c: {}, d: {}}\n")
	f.run("convert", "a.txt", "--plan", "p.yaml", "-o", "o.csv")
	assert.True(t, want.String() == f.read("o.csv"), "a line was lost, doubled or changed")
}

// The start of a file is looked at up to some line; the longest one may stand anywhere, the last one looked at included.
func TestLongestLine(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	for at := range 450 {
		if at > 20 && at < 385 {
			continue
		}
		f.file("a.csv", "a,b\n"+strings.Repeat("1,2\n", at)+"1,22222222222\n"+strings.Repeat("1,2\n", 449-at))
		r := f.run("profile", "a.csv")
		require.Equal(t, 0, r.code, "line %d: %s", at+2, r.err)
		require.Contains(t, r.out, "a.csv: 450 rows, 2 columns")
	}
}

// The widths that are offered take the lines apart, whatever stands above them, and no row is lost by them.
func TestWidthsThatAreOffered(t *testing.T) {
	t.Parallel()
	table := "port   boat          kg\n" + "----------------------------\n" + "HAR    Anke Marie    12\nHUL    Jan            7\nBRE    Ole Olsen    199\nBRE    Ida           20\n"
	for above, rows := range map[string]int{"": 4, "Landings of March, all ports of the north\n\n": 4, "Landings\nwritten by Anke on the quay\n": 4} {
		f := newFolder(t)
		f.file("a.txt", above+table)
		r := f.run("profile", "a.txt", "--verbose")
		found := regexp.MustCompile(`--widths ([0-9,]+)`).FindStringSubmatch(r.out)
		require.NotNil(t, found, r.out)
		f.file("b.txt", above+table+"BRE    Eva        12345\n")
		f.run("convert", "b.txt", "--widths", found[1], "-o", "b.csv")
		got := f.records("b.csv")
		assert.Equal(t, []string{"port", "boat", "kg"}, got[0])
		assert.Len(t, got, rows+2, above)
		assert.Equal(t, []string{"BRE", "Eva", "12345"}, got[len(got)-1])
	}
}
