package e2e

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// zipped returns an archive of files: a name and a text in turn.
func zipped(t *testing.T, files ...string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		require.NoError(t, err)
		_, err = io.WriteString(w, files[i+1])
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.String()
}

func gzipped(t *testing.T, text string) string {
	t.Helper()
	var b bytes.Buffer
	w := gzip.NewWriter(&b)
	_, err := io.WriteString(w, text)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return b.String()
}

// odsOf is a workbook in the OpenDocument format with one sheet of text cells.
func odsOf(t *testing.T, rows [][]string) string {
	t.Helper()
	var b strings.Builder
	for _, r := range rows {
		b.WriteString("<table:table-row>")
		for _, c := range r {
			fmt.Fprintf(&b, `<table:table-cell office:value-type="string"><text:p>%s</text:p></table:table-cell>`, c)
		}
		b.WriteString("</table:table-row>")
	}
	return zipped(
		t, "mimetype", "application/vnd.oasis.opendocument.spreadsheet", "content.xml",
		`<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x"><office:body><office:spreadsheet><table:table table:name="S">`+
			b.String()+`</table:table></office:spreadsheet></office:body></office:document-content>`,
	)
}

// doors are one table in every form in which people get it.
func doors(t *testing.T) map[string]string {
	t.Helper()
	rows := [][]string{{"no", "kg", "at"}, {"0042", "1.240,5 kg", "28.03.2021"}, {"0043", "12,5 kg", "01.04.2021"}, {"0044", "7,0 kg", "30.03.2021"}}
	var csv, html, xml, log, blocks, json, flat, inserts, copied strings.Builder
	for i, r := range rows {
		fmt.Fprintf(&csv, "%s;%s;%s\n", r[0], r[1], r[2])
		fmt.Fprintf(&html, "<tr><td>%s<td>%s<td><b>%s</b>", r[0], r[1], r[2])
		fmt.Fprintf(&flat, "<Row><Cell><Data ss:Type=\"String\">%s</Data></Cell><Cell><Data ss:Type=\"String\">%s</Data></Cell><Cell><Data ss:Type=\"String\">%s</Data></Cell></Row>", r[0], r[1], r[2])
		if i == 0 {
			continue
		}
		fmt.Fprintf(&inserts, "INSERT INTO t VALUES ('%s', '%s', '%s');\n", r[0], r[1], r[2])
		fmt.Fprintf(&copied, "%s\t%s\t%s\n", r[0], r[1], r[2])
		fmt.Fprintf(&xml, "<row no=%q><kg>%s</kg><at>%s</at></row>", r[0], r[1], r[2])
		fmt.Fprintf(&log, "no=%s kg=%q at=%s\n", r[0], r[1], r[2])
		fmt.Fprintf(&blocks, "no: %s\nkg: %s\nat: %s\n\n", r[0], r[1], r[2])
		fmt.Fprintf(&json, ",{\"no\": %q, \"kg\": %q, \"at\": %q}", r[0], r[1], r[2])
	}
	page := "<!doctype html><table><tr><td>menu</table><table>" + html.String() + "</table>"
	ods := odsOf(t, rows)
	return map[string]string{
		"a.csv": csv.String(), "a.html": page, "old.xls": page, "a.xml": "<?xml version=\"1.0\"?><all>" + xml.String() + "</all>",
		"a.log": log.String(), "a.txt": blocks.String(), "a.json#data.rows": `{"data": {"rows": [` + json.String()[1:] + `], "n": 3}}`,
		"columns.json": `{"no": ["0042", "0043", "0044"], "kg": ["1.240,5 kg", "12,5 kg", "7,0 kg"], "at": ["28.03.2021", "01.04.2021", "30.03.2021"]}`,
		"flat.xls": `<?xml version="1.0"?><Workbook xmlns="urn:schemas-microsoft-com:office:spreadsheet" xmlns:ss="urn:schemas-microsoft-com:office:spreadsheet"><Worksheet ss:Name="S"><Table>` +
			flat.String() + `</Table></Worksheet></Workbook>`,
		"inserts.sql": "CREATE TABLE t (no text, kg text, at text);\n" + inserts.String(), "copied.sql#t": "INSERT INTO u VALUES (1);\nCOPY t (no, kg, at) FROM stdin;\n" + copied.String() + "\\.\n",
		"a.ods": ods, "one.zip": zipped(t, "x/a.csv", csv.String()), "book.zip#a.ods#S": zipped(t, "a.ods", ods, "note.txt", "x"),
		"a.html.gz": gzipped(t, page), "a.ods.gz": gzipped(t, ods), "log.zip#2021/a.log.gz": zipped(t, "2021/a.log.gz", gzipped(t, log.String()), "b", ""),
	}
}

// One table is the same through every door: from a file, and from standard input.
func TestDoors(t *testing.T) {
	t.Parallel()
	const want = "no,kg,at\n0042,1240.5,2021-03-28\n0043,12.5,2021-04-01\n0044,7.0,2021-03-30\n"
	f := newFolder(t)
	for name, text := range doors(t) {
		file, part, _ := strings.Cut(name, "#")
		f.file(file, text)
		r := f.run("convert", name, "-o", "-")
		assert.Equal(t, 0, r.code, "%s: %s", name, r.err)
		assert.Equal(t, want, r.out, name)
		stdin := "-"
		if part != "" {
			stdin += "#" + part
		}
		r = f.runWith(text, "convert", "-o", "-", "--", stdin)
		assert.Equal(t, want, r.out, "%s on standard input: %s", name, r.err)
		r = f.runWith(text, "profile", "--format", "json", "--", stdin)
		assert.Equal(t, 0, r.code, name)
		assert.Contains(t, r.out, `"rows": 3`, name)
		require.Equal(t, 0, f.run("draft", name, "-o", "p.yaml", "--overwrite").code, name)
		for _, args := range [][]string{{"check", "--plan", "p.yaml", name}, {"preview", name}, {"why", name, "--row", "2", "--column", "kg"}, {"teach", name, "--from", "kg", "--example", "12,5 kg => 12,5", "--format", "json"}} {
			r := f.run(args...)
			assert.LessOrEqual(t, r.code, 1, "%v: %s", args, r.err)
		}
	}
	// Cut off anywhere, and damaged, there is a clear error or what stands before.
	for name, text := range doors(t) {
		file, _, _ := strings.Cut(name, "#")
		for _, at := range []int{0, len(text) / 3, 1, len(text) - 1}[:nets.Size(2, 4)] {
			f.file(file, text[:at])
			r := f.run("profile", name)
			assert.Contains(t, []int{0, 3}, r.code, "%s cut at %d: %s%s", name, at, r.out, r.err)
			assert.NotContains(t, r.err, "bug", name)
		}
		b := []byte(text)
		for i := 40; i < len(b); i += 37 {
			b[i] ^= 0x5a
		}
		f.file(file, string(b))
		r := f.run("profile", name)
		assert.Contains(t, []int{0, 2, 3}, r.code, "%s damaged: %s%s", name, r.out, r.err)
	}
}

// All parts of a container are one table, or one output each.
func TestPartsTogether(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("y.zip", zipped(t, "2021/jan.csv", "no;kg\n1;2,5\n", "2021/feb.csv", "kg;no\n3,5;2\n", "2022/jan.csv", "no;kg\n3;4,5\n"))
	r := f.run("convert", "y.zip#2021/*", "-o", "-", "--origin")
	assert.Equal(t, "no,kg,source_file,source_row,source_line\n1,2.5,y.zip#2021/jan.csv,1,2\n2,3.5,y.zip#2021/feb.csv,2,2\n", r.out, r.err)
	require.Equal(t, 0, f.run("draft", "y.zip#2021/jan.csv", "-o", "p.yaml").code)
	require.Equal(t, 0, f.run("convert", "y.zip#*", "--plan", "p.yaml", "-o", "out/").code)
	assert.Equal(t, "no,kg\n3,4.5\n", f.read("out/y-2022_jan.csv"))
	assert.Equal(t, "no,kg\n2,3.5\n", f.read("out/y-2021_feb.csv"))
	f.bookOf("b.xlsx", map[string]string{"xl/s.xml": `<worksheet><sheetData>` + row(text("no")) + row(number("1")) + `</sheetData></worksheet>`})
	r = f.run("profile", "b.xlsx#*", "--each", "--format", "csv")
	assert.Equal(t, 0, r.code, r.err)
	assert.Contains(t, r.out, "b.xlsx#", r.out)
	r = f.run("profile", "-#*")
	assert.Equal(t, 2, r.code)
	r = f.run("profile", "--", "-#*")
	assert.Equal(t, 3, r.code)
	assert.Contains(t, r.err, "the parts of standard input can't be listed")
}

// Lines that are told to be comments are set aside, by the plan too; columns below a rule of dashes are read by it.
func TestCommentsAndRules(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("# made by hand\nno,kg\n")
	for i := range 30_000 {
		fmt.Fprintf(&b, "%05d,\"%d,%d kg\"\n", i, i, i%10)
		if i%1000 == 7 {
			fmt.Fprintf(&b, "# up to here, %d, \"rows\n", i)
		}
	}
	f.file("a.csv", b.String())
	assert.Contains(t, f.run("profile", "a.csv", "--verbose").out, "lines begin with # and a space: --comment # takes them for comments")
	require.Equal(t, 0, f.run("draft", "a.csv", "--comment", "#", "-o", "p.yaml").code)
	assert.Contains(t, f.read("p.yaml"), `comment: "#"`)
	first := ""
	for _, workers := range []string{"1", "2", "5"} {
		r := f.run("convert", "a.csv", "--plan", "p.yaml", "-o", "o"+workers+".csv", "--workers", workers)
		require.Equal(t, 0, r.code, r.err)
		assert.Contains(t, r.out, "rows: 30030 in = 30000 out + 30 set aside (30 footers)")
		if first == "" {
			first = f.read("o1.csv")
		}
		assert.Equal(t, first, f.read("o"+workers+".csv"))
	}
	assert.Contains(t, first, "29999,29999.9\n")
	aside := f.read("o1.setaside.csv")
	assert.Contains(t, aside, ",1,above-header,# made by hand\n")
	assert.Contains(t, aside, "9,11,footer,\"# up to here, 7, \"\"rows\"\n")
	assert.Contains(t, f.run("profile", "a.csv", "--comment", "#", "--format", "json").out, `"rows": 30030`)
	assert.Equal(t, 0, f.run("check", "--plan", "p.yaml", "a.csv").code)

	f.file("d.txt", "Landings\n\nno     vessel        kg\n------ ---------- ------\n000042 Seestern     12.5\n000043 Marlies       7.0\n\n(2 rows affected)\n")
	r := f.run("convert", "d.txt", "-o", "d.csv")
	require.Equal(t, 0, r.code, r.err)
	assert.Equal(t, "no,vessel,kg\n000042,Seestern,12.5\n000043,Marlies,7.0\n", f.read("d.csv"))
	assert.Contains(t, r.out, "rows: 5 in = 2 out + 3 set aside (1 blank-row, 1 rule-row, 1 footer)")
	assert.Contains(t, f.run("profile", "d.txt", "--verbose").out, "a rule of dashes stands below the names")
}

// What says how a source is read is refused where the source has nothing of the kind; in a plan it is passed over.
func TestFlagsThatMeanNothing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.file("a.csv", "port,kg\nA,1\nB,2\n")
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "a.xlsx").code)
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "a.jsonl").code)
	require.Equal(t, 0, f.run("convert", "a.csv", "-o", "a.db").code)
	flags := map[string]string{
		"--encoding=utf-8": "csv jsonl", "--delimiter=,": "csv", "--quote='": "csv", "--escape=double": "csv", "--comment=%": "csv", "--widths=3,4": "csv",
		"--header-row=1": "csv xlsx", "--no-header": "csv xlsx",
	}
	for flag, meaningful := range flags {
		for _, ending := range []string{"csv", "xlsx", "jsonl", "db"} {
			r := f.run("profile", "a."+ending, flag)
			if strings.Contains(meaningful, ending) {
				assert.Equal(t, 0, r.code, "%s for %s: %s", flag, ending, r.err)
				continue
			}
			assert.Equal(t, 2, r.code, "%s for %s", flag, ending)
			assert.Contains(t, r.err, strings.Split(flag, "=")[0]+" means nothing for a."+ending)
		}
	}
	require.Equal(t, 0, f.run("draft", "a.csv", "-o", "p.yaml").code)
	require.Equal(t, 0, f.run("convert", "a.xlsx", "--plan", "p.yaml", "-o", "b.csv").code, "a plan of the CSV file")
}
