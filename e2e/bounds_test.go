package e2e

import (
	"bytes"
	"compress/gzip"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/klauspost/compress/zstd"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/nets"
)

// within runs the program, which may take so many MB of memory and no more than five minutes, far more than it
// takes anywhere: what grows without bound does not end by itself.
func (f *folder) within(megabytes int, args ...string) result {
	f.t.Helper()
	var out, errOut bytes.Buffer
	cmd := exec.Command(junvo, replacing(args)...)
	cmd.Dir, cmd.Stdout, cmd.Stderr = f.dir, &out, &errOut
	require.NoError(f.t, cmd.Start())
	timer := time.AfterFunc(5*time.Minute, func() { _ = cmd.Process.Kill() })
	ended, most := make(chan struct{}), make(chan int)
	go func() {
		most <- memory(cmd.Process.Pid, ended)
	}()
	err := cmd.Wait()
	close(ended)
	assert.True(f.t, timer.Stop(), "%q does not end", args)
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		require.NoError(f.t, err)
	}
	r := result{out.String(), errOut.String(), cmd.ProcessState.ExitCode()}
	assert.NotContains(f.t, r.err, "goroutine", "%q", args)
	if used := <-most; used > megabytes {
		f.t.Errorf("%q takes %d MB, and not %d: %s", args, used, megabytes, r.err)
	}
	return r
}

// memory returns the most memory that a process has had until it ends, in MB, as Linux tells it while the process
// is there; 0 on other systems. What the system tells afterwards counts the process that started it, too.
func memory(process int, ended <-chan struct{}) (most int) {
	for {
		status, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", process))
		if _, rest, ok := strings.Cut(string(status), "VmHWM:"); ok {
			var kilobytes int
			if _, err := fmt.Sscan(rest, &kilobytes); err == nil {
				most = max(most, kilobytes>>10)
			}
		}
		select {
		case <-ended:
			return most
		case <-time.After(5 * time.Millisecond):
		}
	}
}

// refused says that a command ends with a message that has these words.
func (f *folder) refused(code int, want string, megabytes int, args ...string) {
	f.t.Helper()
	r := f.within(megabytes, args...)
	assert.Equal(f.t, code, r.code, "%q: %s", args, r.err)
	assert.Contains(f.t, r.err, want, "%q", args)
	assert.LessOrEqual(f.t, len(r.err), 1000, "%q", args)
	assert.Equal(f.t, 1, strings.Count(r.err, "\n"), "%q: %s", args, r.err)
}

// Whatever a plan says, it is refused, or what it makes is bounded: each cell that it would not is a failure.
func TestBoundsOfPlans(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	f.file("in.csv", "x,y\naaaaaaaaaa,7\nb,2\n")
	chain := func(first string, n int, step string) string {
		var b strings.Builder
		b.WriteString("plan: 1\ncolumns:\n  x: {to: text}\n  y: {to: integer}\n  c0: " + first + "\n")
		for i := 1; i < n; i++ {
			fmt.Fprintf(&b, "  c%d: %s\n", i, strings.ReplaceAll(step, "?", fmt.Sprint("c", i-1)))
		}
		return b.String()
	}
	for name, plan := range map[string]string{
		"join":   chain(`{join: [x, x], with: ","}`, 40, `{join: ["?", "?"], with: ","}`),
		"double": chain(`{compute: "x + x"}`, 40, `{compute: "? + ?"}`),
		"square": chain(`{compute: "y * y"}`, 60, `{compute: "? * ?"}`),
		"steps":  "plan: 1\ncolumns:\n  x: {steps: [" + strings.Repeat("{replace: {text: a, with: aaaaaaaaaa}}, ", 20) + "trim], to: text}\n",
	} {
		f.file("p.yaml", plan)
		r := f.within(120, "convert", "in.csv", "--plan", "p.yaml", "-o", "o.csv")
		assert.Equal(t, 1, r.code, "%s: %s", name, r.err)
		for _, row := range f.records("o.failures.csv")[1:] {
			assert.Contains(t, []string{"too-long", "not-computed"}, row[5], name)
		}
		info, err := os.Stat(f.path("o.csv"))
		require.NoError(t, err)
		assert.Less(t, info.Size(), int64(8<<20), name)
	}

	// Long, and not deep: it takes longer, and that is all.
	f.file("p.yaml", chain(`{compute: "y + 1"}`, 2000, `{compute: "? + 1"}`))
	assert.Zero(t, f.within(130, "convert", "in.csv", "--plan", "p.yaml", "-o", "o.csv").code)
	assert.Equal(t, "2007", f.records("o.csv")[1][2001])
	f.file("p.yaml", "plan: 1\ncolumns:\n  x: {to: text}\n  y: {to: integer}\n  a: {compute: \"b + 1\"}\n  b: {compute: \"a + 1\"}\n")
	f.refused(2, "column a is made of itself", 100, "convert", "in.csv", "--plan", "p.yaml", "-o", "o.csv")

	f.file("p.yaml", "plan: 1\ncolumns:\n  x: "+strings.Repeat("[", 100_000)+"\n")
	f.refused(2, "40 deep", 100, "check", "in.csv", "--plan", "p.yaml")
	f.file("p.yaml", "plan: 1\n#"+strings.Repeat("x", 17<<20))
	f.refused(2, "16 MB", 200, "check", "in.csv", "--plan", "p.yaml")
	f.file("p.yaml", "plan: 1\ncolumns:\n  x: {to: text}\n  c: {compute: \""+strings.Repeat("x + ", 3000)+"x\"}\n")
	f.refused(2, "recursion", 100, "check", "in.csv", "--plan", "p.yaml")

	// An expression works on so much text and no more.
	f.file("long.csv", "x\n"+strings.Repeat("l", 3<<20)+"\nshort\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  x: {to: text}\n  c: {compute: \"length(x) + length(x)\"}\n")
	r := f.within(160, "convert", "long.csv", "--plan", "p.yaml", "-o", "o.csv")
	assert.Equal(t, 1, r.code, r.err)
	assert.Contains(t, f.read("o.failures.csv"), "its texts are longer than 4 MB together")
	assert.Equal(t, "10", f.records("o.csv")[2][1])
}

// A cell of many pieces is taken apart once, and patterns take time in proportion to the text.
func TestBoundsOfSteps(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	const n = 8000
	var pieces, into []string
	for i := range n {
		pieces, into = append(pieces, fmt.Sprint(i)), append(into, fmt.Sprintf("p%d: {to: integer}", i))
	}
	f.file("in.csv", "x\n"+strings.Repeat(strings.Join(pieces, ";")+"\n", 20)+"1;2\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  parts: {from: x, split: {at: \";\"}, into: {"+strings.Join(into, ", ")+"}}\n")
	r := f.within(300, "convert", "in.csv", "--delimiter", ",", "--plan", "p.yaml", "-o", "o.csv")
	assert.Equal(t, 1, r.code, r.err)
	rows := f.records("o.csv")
	assert.Equal(t, pieces, rows[20])
	assert.Len(t, f.records("o.failures.csv"), 1+1)

	f.file("in.csv", "x\n"+strings.Repeat(strings.Repeat("a", 30_000)+"\n", 4))
	for _, pattern := range []string{"(a*)*(a*)*(a*)*b", "((a{1,9}){1,9})b", "(a|aa)+$"} {
		f.file("p.yaml", "plan: 1\ncolumns:\n  x: {steps: [{replace: {pattern: '"+pattern+"', with: \"\"}}], to: text}\n")
		assert.LessOrEqual(t, f.within(80, "convert", "in.csv", "--plan", "p.yaml", "-o", "o.csv").code, 1, pattern)
	}
	f.file("p.yaml", "plan: 1\ncolumns:\n  x: {steps: [{replace: {pattern: '((a{1,30}){1,30}){1,30}', with: \"\"}}], to: text}\n")
	f.refused(2, "invalid repeat count", 100, "convert", "in.csv", "--plan", "p.yaml", "-o", "o.csv")
}

// Containers can say far more than they hold; what is read of them is bounded.
func TestBoundsOfContainers(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	var last strings.Builder
	for i := range 1000 {
		fmt.Fprintf(&last, `<row r="%d"><c r="XFD%d"><v>1</v></c></row>`, i+1, i+1)
	}
	f.workbook("last.xlsx", last.String())
	r := f.within(300, "profile", "last.xlsx")
	assert.Zero(t, r.code, r.err)
	assert.Contains(t, r.out, "16384 columns")

	f.bookOf("shared.xlsx", map[string]string{
		"xl/ss.xml": `<sst><si><t>` + strings.Repeat("s", 4<<20) + `</t></si></sst>`,
		"xl/s.xml":  `<worksheet><sheetData>` + strings.Repeat(`<row><c t="s"><v>0</v></c></row>`, 2000) + `</sheetData></worksheet>`,
	})
	f.refused(3, "the text of the sheet is longer than 1 GB", 250, "profile", "shared.xlsx")
	f.bookOf("sheets.xlsx", map[string]string{"xl/workbook.xml": `<workbook><sheets>` + strings.Repeat(`<sheet name="a" id="a"/>`, 200_000) + `</sheets></workbook>`})
	f.refused(3, "more than a workbook may have", 100, "profile", "sheets.xlsx")
	for _, name := range []string{"styles", "merged"} {
		part := map[string]string{"xl/t.xml": `<styleSheet><cellXfs>` + strings.Repeat(`<xf numFmtId="14"/>`, 1_000_000) + `</cellXfs></styleSheet>`}
		if name == "merged" {
			part = map[string]string{"xl/s.xml": `<worksheet><sheetData><row><c><v>1</v></c></row></sheetData><mergeCells>` + strings.Repeat(`<mergeCell ref="A1:B2"/>`, 500_000) + `</mergeCells></worksheet>`}
		}
		f.bookOf(name+".xlsx", part)
		assert.Equal(t, map[string]int{"styles": 3, "merged": 0}[name], f.within(100, "profile", name+".xlsx").code, name)
	}

	f.file("key.jsonl", `{"`+strings.Repeat("k", 40<<20)+`": 1}`)
	f.refused(3, "a key is longer than 64 KB", 300, "profile", "key.jsonl")
	f.file("deep.jsonl", strings.Repeat(`{"a":`, 100_000)+"1"+strings.Repeat("}", 100_000)+"\n")
	f.refused(3, "32 deep", 60, "profile", "deep.jsonl")

	db, err := sql.Open("sqlite", f.path("v.db"))
	require.NoError(t, err)
	_, err = db.Exec("CREATE VIEW v AS SELECT zeroblob(900000000) AS b, 1 AS n")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	f.refused(3, "a cell has more than 256 MB", 200, "profile", "v.db")
	f.refused(3, "a cell has more than 256 MB", 800, "profile", "v.db", "--query", "SELECT replace(hex(zeroblob(60000000)), '0', 'xxxx') AS t")
}

// Long cells and many failures or answers have bounds of their own.
func TestBoundsOfText(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	f.file("big.csv", "x,y\n"+strings.Repeat("v", 20<<20)+",1\nb,2\n")
	f.file("p.yaml", "plan: 1\ncolumns:\n  x: {to: text}\n  y: {to: integer}\n")
	for output, beyond := range map[string]bool{"o.csv": false, "o.jsonl": false, "o.db": false, "o.parquet": true, "o.xlsx": true} {
		r := f.within(600, "convert", "big.csv", "--plan", "p.yaml", "-o", output)
		assert.Equal(t, map[bool]int{true: 1, false: 0}[beyond], r.code, "%s: %s", output, r.err)
		assert.Equal(t, beyond, strings.Contains(r.out, "failures.csv"), output)
	}
}

// The bounds of cells, of rows, and of what is held in memory of failures, which take long to reach.
func TestBoundsFarOut(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	f.file("p.yaml", "plan: 1\ncolumns:\n  x: {to: text}\n  y: {to: integer}\n")
	f.file("longest.csv", "x,y\n"+strings.Repeat("v", 70<<20)+",1\nb,2\n")
	r := f.within(700, "profile", "longest.csv")
	assert.Contains(t, r.out, "1 row has a cell of more than 64 MB (row 1)", r.err)
	require.Zero(t, f.within(1200, "convert", "longest.csv", "--plan", "p.yaml", "-o", "same.csv").code)
	assert.True(t, f.read("longest.csv") == f.read("same.csv"), "a long cell has changed")
	f.file("row.csv", "x,y\n"+strings.Repeat("v", 130<<20)+",1\nb,2\n")
	f.refused(3, "a row is longer than 65 MB", 900, "profile", "row.csv")

	var b strings.Builder
	b.WriteString("x\n")
	for i := range 210_000 {
		fmt.Fprintf(&b, "w%d\n", i)
	}
	f.file("many.csv", b.String())
	f.file("p.yaml", "plan: 1\ncolumns:\n  x: {to: integer}\n")
	f.refused(4, "more than 200000 different failures", 400, "convert", "many.csv", "--plan", "p.yaml", "-o", "g.csv", "--group-failures")
	require.Equal(t, 1, f.within(400, "convert", "many.csv", "--plan", "p.yaml", "-o", "m.csv").code)
	failures := f.records("m.failures.csv")
	for _, row := range failures[1:] {
		row[len(row)-1] = "1"
	}
	f.file("fixes.csv", csvOf(failures...))
	f.refused(2, "more than 200000 answers", 400, "convert", "many.csv", "--plan", "p.yaml", "-o", "m2.csv", "--fixes", "fixes.csv")
}

// More sources than a process may have files open at once are read in turn.
func TestFewDescriptors(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	require.NoError(t, os.Mkdir(f.path("out"), 0o755))
	for i := range 200 {
		f.file(fmt.Sprintf("part%03d.csv", i), fmt.Sprintf("lot,kg\nA%d,%d\n", i, i))
	}
	for _, args := range []string{`profile "part*.csv"`, `convert "part*.csv" -o o.csv`, `convert "part*.csv" --plan o.plan.yaml -o out/`, `profile --each "part*.csv"`} {
		cmd := exec.Command("sh", "-c", `ulimit -n 64; exec "`+junvo+`" `+args)
		cmd.Dir = f.dir
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s: %s", args, out)
	}
	assert.Len(t, f.records("o.csv"), 201)
}

// Whatever is broken of a file, it is read or refused, in bounded time and memory.
func TestDamagedFiles(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	require.Zero(t, f.run("demo", "d", "--rows", "300").code)
	for _, name := range []string{"landings.parquet", "landings.jsonl", "landings.xlsx", "landings.db"} {
		require.LessOrEqual(t, f.run("convert", "d/landings.csv", "-o", name).code, 1)
	}
	require.Zero(t, f.run("profile", "d/landings.csv", "--save", "landings.profile").code)
	for name, write := range map[string]func(io.Writer) io.WriteCloser{
		"landings.csv.gz": func(w io.Writer) io.WriteCloser { return gzip.NewWriter(w) },
		"landings.csv.zst": func(w io.Writer) io.WriteCloser {
			z, err := zstd.NewWriter(w)
			require.NoError(t, err)
			return z
		},
	} {
		var b bytes.Buffer
		w := write(&b)
		_, err := io.WriteString(w, f.read("d/landings.csv"))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		f.file(name, b.String())
	}
	for i, name := range []string{"d/landings.csv", "landings.jsonl", "landings.xlsx", "landings.db", "landings.parquet", "landings.csv.gz", "landings.csv.zst", "landings.profile"} {
		whole := []byte(f.read(name))
		r := rand.New(rand.NewPCG(21, uint64(i)))
		command := "profile"
		if strings.HasSuffix(name, ".profile") {
			command = "combine"
		}
		for round := range nets.Size(20, 120) {
			text := bytes.Clone(whole)
			start, room := 0, len(text) // where it is damaged
			switch round % 4 {
			case 0: // at the start
				room = min(room, 200)
			case 1: // at the end, where most containers have their lengths
				start = max(0, len(text)-400)
				room -= start
			}
			for range 1 + r.IntN(4) {
				at := start + r.IntN(room)
				switch r.IntN(4) {
				case 0:
					text[at] ^= 1 << r.IntN(8)
				case 1:
					text[at] = 0xff
				case 2:
					for k := at; k < min(at+8, len(text)); k++ {
						text[k] = byte(r.Uint32())
					}
				case 3:
					copy(text[at:], text[r.IntN(len(text)):])
				}
			}
			if round%5 == 0 {
				text = text[:r.IntN(len(text))]
			}
			f.file("damaged"+strings.TrimPrefix(strings.TrimPrefix(name, "d/"), "landings"), string(text))
			got := f.within(120, command, "damaged"+strings.TrimPrefix(strings.TrimPrefix(name, "d/"), "landings"))
			assert.Contains(t, []int{0, 3}, got.code, "%s, round %d: %s", name, round, got.err)
			assert.Equal(t, got.code == 3, got.err != "", "%s, round %d: %s", name, round, got.err)
			quiet(t, name, got.out+got.err)
			if t.Failed() {
				return
			}
		}
	}
}

// Memory does not grow with the number of files that are one table; names that no plan can have are a mistake.
func TestBoundsOfFiles(t *testing.T) {
	nets.OnlyWhole(t)
	t.Parallel()
	f := newFolder(t)
	require.NoError(t, os.Mkdir(f.path("many"), 0o755))
	for i := range 600 {
		f.file(fmt.Sprintf("many/f%03d.csv", i), "a,b\n1,2\n")
	}
	for _, args := range [][]string{{"profile", "many/*.csv"}, {"convert", "many/*.csv", "-o", "o.csv"}} {
		require.Equal(t, 0, f.within(150, args...).code)
	}
	assert.Len(t, f.records("o.csv"), 601)
	f.file("long.csv", strings.Repeat("n", 9_000_000)+",b\n1,2\n3,4\n")
	f.refused(2, "a plan of this source would be longer than 16 MB", 500, "convert", "long.csv", "-o", "l.csv")
}
