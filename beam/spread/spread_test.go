package spread_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/require"
)

// The tests run the built programs: junvo over the whole table, and junvo-beam over its parts, which must come to the
// same.
var programs struct{ whole, parts string }

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "junvo-beam-*")
	if err != nil {
		panic(err)
	}
	programs.whole, programs.parts = filepath.Join(dir, "junvo"), filepath.Join(dir, "junvo-beam")
	for path, of := range map[string]string{programs.whole: "junvo/cmd/junvo", programs.parts: "junvo/beam"} {
		if out, err := exec.Command("go", "build", "-o", path, of).CombinedOutput(); err != nil {
			panic(string(out))
		}
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

// folder is a temporary folder in which the programs run.
type folder struct {
	t   *testing.T
	dir string
}

type result struct {
	out, err string
	code     int
}

func newFolder(t *testing.T) *folder { return &folder{t, t.TempDir()} }

func (f *folder) run(program string, args ...string) result {
	f.t.Helper()
	var out, said bytes.Buffer
	cmd := exec.Command(program, args...)
	// What the parts leave while they are worked on stands in here, too, so that it is seen whether anything is left.
	cmd.Env = append(os.Environ(), "TMPDIR="+f.dir)
	cmd.Dir, cmd.Stdout, cmd.Stderr = f.dir, &out, &said
	_ = cmd.Run()
	return result{out.String(), said.String(), cmd.ProcessState.ExitCode()}
}

func (f *folder) read(name string) string {
	f.t.Helper()
	text, err := os.ReadFile(filepath.Join(f.dir, name))
	require.NoError(f.t, err)
	return string(text)
}

func (f *folder) write(name, text string) {
	f.t.Helper()
	require.NoError(f.t, os.WriteFile(filepath.Join(f.dir, name), []byte(text), 0o644))
}

// rows returns the rows of the files that match, without their headings.
func (f *folder) rows(pattern string) (all [][]string) {
	f.t.Helper()
	paths, err := filepath.Glob(filepath.Join(f.dir, pattern)) // in order
	require.NoError(f.t, err)
	for _, path := range paths {
		in, err := os.Open(path)
		require.NoError(f.t, err)
		r := csv.NewReader(in)
		r.FieldsPerRecord = -1 // rows that were set aside are as long as they are
		rows, err := r.ReadAll()
		require.NoError(f.t, errorsOf(err, in.Close()))
		all = append(all, rows[min(1, len(rows)):]...)
	}
	return all
}

func errorsOf(all ...error) error {
	for _, err := range all {
		if err != nil {
			return err
		}
	}
	return nil
}

// left returns what stands in the folder of the jobs.
func (f *folder) left() []string {
	paths, err := filepath.Glob(filepath.Join(f.dir, "junvo-*"))
	require.NoError(f.t, err)
	return paths
}

// each is how large the ranges of the tests are.
const each = 100_000

// landings makes the table of the tests: amounts, days and texts, some of which don't fit, total rows and headings; and
// in quotes line breaks across every boundary of a range, with what looks like rows in them.
func landings(rows int) string {
	r := rand.New(rand.NewPCG(22, 7))
	var b strings.Builder
	b.WriteString("No;Vessel;Landed;Net weight;Remarks\n")
	since, sum := 0, 0
	for i := range rows {
		amount := r.IntN(90_000)
		weight := fmt.Sprintf("%d,%02d kg", amount/100, amount%100)
		if since += amount; r.IntN(300) == 0 {
			since, weight = since-amount, []string{"n/a", "two tons", "12.5.1", ""}[r.IntN(4)]
		}
		remark := []string{"iced", "\"gut; geeist\"", "", "\"3\"\" net\"", "fröhlich"}[r.IntN(5)]
		if to := each - b.Len()%each; to < 300 {
			remark = "\"over the boundary" + strings.Repeat("\n7;Marlies;01.02.2021;1,00 kg;iced", 12+to/30) + "\""
		}
		fmt.Fprintf(&b, "%06d;%s;%02d.%02d.2021;%s;%s\n", i, []string{"Marlies", "Seestern", "Möwe II"}[r.IntN(3)],
			1+r.IntN(28), 1+r.IntN(12), weight, remark)
		if sum += since; i%700 == 699 {
			fmt.Fprintf(&b, "Total;;;%d,%02d kg;\n", since/100, since%100)
			since = 0
		}
		if i%1900 == 1899 {
			b.WriteString("Quay North;;;;\n")
		}
	}
	return b.String()
}

// groups writes the rows of a table as a Parquet file of groups of that many rows.
func (f *folder) groups(name string, rows [][]string, each int) {
	f.t.Helper()
	type lot struct {
		No, Vessel, Landed string
		Weight             *string `parquet:"Net weight,optional"`
		Remarks            []byte
	}
	out, err := os.Create(filepath.Join(f.dir, name))
	require.NoError(f.t, err)
	w := parquet.NewGenericWriter[lot](out, parquet.MaxRowsPerRowGroup(int64(each)))
	for _, row := range rows {
		one := lot{row[0], row[1], row[2], &row[3], []byte(row[4])}
		if row[3] == "" {
			one.Weight = nil
		}
		_, err := w.Write([]lot{one})
		require.NoError(f.t, err)
	}
	require.NoError(f.t, errorsOf(w.Close(), out.Close()))
}

func rowsWanted() int {
	if n, err := strconv.Atoi(os.Getenv("JUNVO_BEAM_ROWS")); err == nil {
		return n
	}
	return 30_000
}

func TestProfileIsThatOfTheWhole(t *testing.T) {
	f := newFolder(t)
	text := landings(rowsWanted())
	f.write("whole.csv", text)
	body := strings.SplitAfter(text, "\n")
	head, lines := body[0], body[1:]
	var names []string
	for i, at := 0, 0; at < len(lines); i++ {
		end := min(at+len(lines)/16+1, len(lines))
		for end < len(lines) && !strings.HasPrefix(lines[end], "0") { // at a row, not within quotes
			end++
		}
		names = append(names, fmt.Sprintf("part-%02d.csv", i))
		f.write(names[i], head+strings.Join(lines[at:end], ""))
		at = end
	}
	for _, c := range []struct {
		name string
		args []string
	}{
		{"one file in ranges", []string{"whole.csv", "--format", "json"}},
		{"a column that is opened", []string{"whole.csv", "--column", "Net weight", "--private", "Vessel"}},
		{"16 files", append([]string{"--format", "json"}, names...)},
		{"a pattern, in ranges", []string{"--format", "json", "part-0*.csv", "--blank-word", "two tons"}},
		{"steps", []string{"whole.csv", "--step", "Net weight: drop: letters", "--format", "csv"}},
	} {
		want := f.run(programs.whole, append([]string{"profile"}, c.args...)...)
		require.Zero(t, want.code, want.err)
		got := f.run(programs.parts, append([]string{"profile", "--range_size", fmt.Sprint(each)}, c.args...)...)
		require.Equal(t, want.code, got.code, "%s: %s", c.name, got.err)
		require.Equal(t, want.out, got.out, c.name)
		require.Empty(t, f.left(), c.name)
	}
}

func TestConversionIsThatOfTheWhole(t *testing.T) {
	f := newFolder(t)
	f.write("whole.csv", landings(rowsWanted()))
	want := f.run(programs.whole, "convert", "whole.csv", "-o", "whole/whole.csv", "--origin", "--ledger", "ledger.json")
	require.Equal(t, 4, want.code, "there is no such folder")
	require.NoError(t, os.Mkdir(filepath.Join(f.dir, "whole"), 0o755))
	want = f.run(programs.whole, "convert", "whole.csv", "-o", "whole/whole.csv", "--origin", "--ledger", "ledger.json")
	require.Equal(t, 1, want.code, want.err)
	for name, args := range map[string][]string{
		"drafted": {"--origin"},
		"planned": {"--origin", "--plan", "whole/whole.plan.yaml"},
	} {
		got := f.run(programs.parts, append([]string{"convert", "whole.csv", "-o", name, "--range_size", fmt.Sprint(each)}, args...)...)
		require.Equal(t, 1, got.code, got.err)
		require.Equal(t, f.rows("whole/whole.csv"), f.rows(name+"/part-?????.csv"), name)
		require.Equal(t, f.rows("whole/whole.failures.csv"), f.rows(name+"/part-*.failures.csv"), name)
		require.Equal(t, f.rows("whole/whole.setaside.csv"), f.rows(name+"/part-*.setaside.csv"), name)
		require.Equal(t, tellsNoNames(f.read("ledger.json")), tellsNoNames(f.read(name+"/ledger.json")), name)
		require.Empty(t, f.left(), name)
		require.Contains(t, got.out, "wrote: "+name+" (")
	}
	// Columns that steps and expressions make are made in parts, too.
	made := []string{"--step", "made from Net weight: take: {number: 1, otherwise: blank}", "--compute", "more = joined('-', made, row())", "--leave-out", "No"}
	require.Equal(t, 1, f.run(programs.whole, append([]string{"convert", "whole.csv", "-o", "whole/made.csv"}, made...)...).code)
	got := f.run(programs.parts, append([]string{"convert", "whole.csv", "-o", "made", "--range_size", fmt.Sprint(each)}, made...)...)
	require.Equal(t, 1, got.code, got.err)
	require.Equal(t, f.rows("whole/made.csv"), f.rows("made/part-?????.csv"))
	require.Equal(t, f.read("whole/made.plan.yaml"), f.read("made/plan.yaml"))
	require.Equal(t, f.read("whole/whole.plan.yaml"), f.read("drafted/plan.yaml"))
	require.NoFileExists(t, filepath.Join(f.dir, "planned/plan.yaml"))
	require.Greater(t, len(f.rows("planned/part-?????.csv")), 29_000)
}

// The groups of rows of a Parquet file are parts, too, of one file and of several.
func TestGroupsOfRows(t *testing.T) {
	f := newFolder(t)
	var rows [][]string
	for i := range 5000 {
		row := []string{fmt.Sprintf("%06d", i), "Marlies", fmt.Sprintf("%02d.%02d.2021", 1+i%28, 1+i%12), fmt.Sprintf("%d,%02d kg", i*7%900, i%100), "iced"}
		if i%90 == 7 {
			row[3] = []string{"", "two tons"}[i/90%2]
		}
		rows = append(rows, row)
	}
	f.groups("whole.parquet", rows, 300)
	f.groups("other.parquet", rows[:77], 300)
	for _, sources := range [][]string{{"whole.parquet"}, {"other.parquet", "whole.parquet", "other.parquet"}} {
		want := f.run(programs.whole, append([]string{"profile", "--format", "json"}, sources...)...)
		require.Zero(t, want.code, want.err)
		got := f.run(programs.parts, append([]string{"profile", "--format", "json", "--range_size", "4000"}, sources...)...)
		require.Equal(t, want.out, got.out, got.err)
		want = f.run(programs.whole, append([]string{"convert", "--origin", "-o", "clean.csv", "--ledger", "ledger.json"}, sources...)...)
		require.Equal(t, 1, want.code, want.err)
		got = f.run(programs.parts, append([]string{"convert", "--origin", "-o", "out", "--range_size", "4000"}, sources...)...)
		require.Equal(t, 1, got.code, got.err)
		parts, err := filepath.Glob(filepath.Join(f.dir, "out/part-?????.csv"))
		require.NoError(t, err)
		require.Greater(t, len(parts), 5, "there are as many parts")
		for _, list := range []string{"", ".failures"} {
			require.NotEmpty(t, f.rows("clean"+list+".csv"))
			require.Equal(t, f.rows("clean"+list+".csv"), f.rows("out/part-?????"+list+".csv"))
		}
		require.Equal(t, tellsNoNames(f.read("ledger.json")), tellsNoNames(f.read("out/ledger.json")))
		require.NoError(t, os.RemoveAll(filepath.Join(f.dir, "out")))
		require.NoError(t, errorsOf(os.Remove(filepath.Join(f.dir, "clean.csv")), os.Remove(filepath.Join(f.dir, "clean.plan.yaml"))))
	}
}

// tellsNoNames leaves out of a ledger where the outputs are.
func tellsNoNames(ledger string) string {
	var kept []string
	for _, line := range strings.Split(ledger, "\n") {
		if !strings.Contains(line, `"output":`) && !strings.Contains(line, `"failures": "`) && !strings.Contains(line, `"set_aside": "`) &&
			!strings.Contains(line, `"plan": "`) && !strings.Contains(line, `"failures": null`) && !strings.Contains(line, `"set_aside": null`) && !strings.Contains(line, `"plan": null`) {
			kept = append(kept, line)
		}
	}
	return strings.Join(kept, "\n")
}

func TestWhatIsRefused(t *testing.T) {
	f := newFolder(t)
	f.write("in.csv", "n,w\n1,2\n2,x\n")
	require.NoError(t, os.Mkdir(filepath.Join(f.dir, "full"), 0o755))
	f.write("full/there.txt", "")
	for _, c := range []struct {
		code int
		want string
		args []string
	}{
		{2, "preview is not spread", []string{"preview", "in.csv"}},
		{2, "standard input is not spread", []string{"profile", "-"}},
		{3, "there is no such file", []string{"profile", "none.csv"}},
		{2, "unknown flag: --colour", []string{"profile", "in.csv", "--colour"}},
		{2, "--each is not spread", []string{"profile", "in.csv", "--each"}},
		{2, "where to?", []string{"convert", "in.csv"}},
		{2, "something in the folder full", []string{"convert", "in.csv", "-o", "full"}},
		{2, "--fixes is not spread", []string{"convert", "in.csv", "-o", "out", "--fixes", "a.csv"}},
		{2, "--order-by is not spread", []string{"convert", "in.csv", "-o", "out", "--order-by", "n"}},
		{2, "--query is not spread", []string{"profile", "in.csv", "--query", "SELECT 1"}},
		{2, "in.csv", []string{"convert", "in.csv", "-o", "out", "--ledger", "in.csv"}},
		{2, "fill.yaml", []string{"convert", "in.csv", "-o", "out", "--plan", "fill.yaml", "--ledger", "fill.yaml"}},
		{4, "can't make a folder", []string{"convert", "in.csv", "-o", "nowhere/out"}},
		{2, "can't read the plan", []string{"convert", "in.csv", "-o", "out", "--plan", "none.yaml"}},
		{2, "rows: order-by needs rows of more than one part", []string{"convert", "in.csv", "-o", "out", "--plan", "order.yaml"}},
		{2, "must: unique needs rows", []string{"convert", "in.csv", "-o", "out", "--plan", "unique.yaml"}},
		{2, "fill: from above needs rows", []string{"convert", "in.csv", "-o", "out", "--plan", "fill.yaml"}},
		{2, "previous(x) or sumSoFar(x) in an expression needs rows", []string{"convert", "in.csv", "-o", "out", "--plan", "before.yaml"}},
		{2, "the plan that is drafted: previous(x) or sumSoFar(x)", []string{"convert", "in.csv", "-o", "out", "--compute", "m = sumSoFar(n)"}},
		{2, "needs rows of more than one part", []string{"convert", "in.csv", "-o", "out", "--step", "w: {fill: {from: above}}"}},
		{2, "wants a value", []string{"profile", "in.csv", "--range_size"}},
	} {
		for name, plan := range map[string]string{
			"order": "rows: {order-by: n}\ncolumns: {n: {to: integer}}", "unique": "columns: {n: {to: integer, must: {unique: true}}}",
			"fill": "columns: {n: {to: text, steps: [{fill: {from: above}}]}}", "before": "columns: {n: {to: integer}, m: {compute: n - before(n)}}",
		} {
			f.write(name+".yaml", "plan: 1\n"+plan+"\n")
		}
		got := f.run(programs.parts, c.args...)
		require.Equal(t, c.code, got.code, "%v: %s", c.args, got.err)
		require.Contains(t, got.err, c.want, "%v", c.args)
		require.NoDirExists(t, filepath.Join(f.dir, "out"))
		require.Empty(t, f.left())
		require.Equal(t, 1, strings.Count(strings.TrimSpace(got.err), "\n")+1, got.err)
		require.Equal(t, "n,w\n1,2\n2,x\n", f.read("in.csv"))
	}
}

// An output appears from a staging folder on another device, too, into an empty folder that is there already.
func TestStagingElsewhere(t *testing.T) {
	staging, err := os.MkdirTemp("/dev/shm", "junvo-staging-*")
	if err != nil {
		t.Skip("there is no other device here")
	}
	defer os.RemoveAll(staging)
	f := newFolder(t)
	f.write("in.csv", landings(3000))
	require.NoError(t, os.Mkdir(filepath.Join(f.dir, "out"), 0o755))
	require.Equal(t, 1, f.run(programs.whole, "convert", "in.csv", "-o", "whole.csv").code)
	got := f.run(programs.parts, "convert", "in.csv", "-o", "out/", "--staging", staging, "--range_size", "40000", "--ledger", "l.json")
	require.Equal(t, 1, got.code, got.err)
	require.Equal(t, f.rows("whole.csv"), f.rows("out/part-?????.csv"))
	require.Equal(t, f.read("out/ledger.json"), f.read("l.json"))
	require.FileExists(t, filepath.Join(f.dir, "out", "plan.yaml"))
	left, err := os.ReadDir(staging)
	require.NoError(t, err)
	require.Empty(t, left)
	require.Empty(t, f.left())
}
