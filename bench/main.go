// Command bench measures Junvo against bare loops over the standard library's
// encoding/csv, in turns on the same file, so that the ratios hold even where the
// machine's speed drifts:
//
//	go run ./bench                 4,000,000 rows of the clean file, about 470 MB
//	go run ./bench -rows 400000 -times 9
//	go run ./bench -files all -rows 500000
//
// The files are kept in the folder for temporary files for the next run.
package main

import (
	"bytes"
	"cmp"
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"text/tabwriter"
	"time"
)

// contestant is a command and what its runs took.
type contestant struct {
	name     string
	args     []string
	baseline string // the name of what it is measured against
	runs     []run
}

type run struct {
	wall, cpu time.Duration
	peak      int64 // bytes
}

func main() {
	log.SetFlags(0)
	rows := flag.Int("rows", 4_000_000, "rows of a file; those of long rows have fewer")
	times := flag.Int("times", 5, "counted runs of each command, after one that is not counted")
	wanted := flag.String("files", "clean", "the files to measure: all, or some of "+kinds())
	server := flag.Bool("server", false, "also write into the PostgreSQL server that psql reaches")
	flag.Parse()
	dir, err := os.MkdirTemp("", "junvo-bench-*")
	check(err)
	defer os.RemoveAll(dir)
	for _, p := range []string{"cmd/junvo", "bench/csvread", "bench/csvcopy", "bench/floor"} {
		build := exec.Command("go", "build", "-trimpath", "-o", dir+string(filepath.Separator), "junvo/"+p)
		build.Env = append(os.Environ(), "CGO_ENABLED=0")
		build.Stderr = os.Stderr
		check(build.Run())
	}
	for i := range files {
		if f := &files[i]; *wanted == "all" || slices.Contains(strings.Split(*wanted, ","), f.name) {
			f.measure(dir, *rows/f.share, *times, *server)
		}
	}
}

// kinds names the files.
func kinds() string {
	var all []string
	for _, f := range files {
		all = append(all, f.name)
	}
	return strings.Join(all, ",")
}

// measure makes the file where it is not there yet, and runs all commands on it in turn.
func (k *file) measure(dir string, rows, times int, server bool) {
	source := filepath.Join(os.TempDir(), fmt.Sprintf("junvo-bench-%s-%d.csv", k.name, rows))
	if _, err := os.Stat(source); err != nil {
		check(k.generate(source, rows))
	}
	tool := func(name string) string { return filepath.Join(dir, name) }
	all := []*contestant{
		{name: "read loop of encoding/csv", args: []string{tool("csvread"), source}},
		{name: "floor", args: []string{tool("floor"), source}, baseline: "read loop of encoding/csv"},
		{name: "junvo profile", args: []string{tool("junvo"), "profile", source}, baseline: "read loop of encoding/csv"},
		{
			name: "junvo profile, 1 worker", args: []string{tool("junvo"), "profile", source, "--workers", "1"},
			baseline: "read loop of encoding/csv",
		},
		{
			name: "junvo profile --format json", args: []string{tool("junvo"), "profile", source, "--format", "json"},
			baseline: "junvo profile",
		},
		{name: "copy by encoding/csv", args: []string{tool("csvcopy"), source, tool("copy.csv")}},
		{name: "junvo convert --plan", args: []string{
			tool("junvo"), "convert", source, "--plan", tool("p.yaml"), "-o",
			tool("clean.csv"),
		}, baseline: "copy by encoding/csv"},
		{name: "junvo convert --plan, 2 steps each", args: []string{
			tool("junvo"), "convert", source, "--plan",
			tool("steps.yaml"), "-o", tool("clean.csv"),
		}, baseline: "copy by encoding/csv"},
		{
			name: "junvo convert", args: []string{tool("junvo"), "convert", source, "-o", tool("drafted.csv")},
			baseline: "copy by encoding/csv",
		},
	}
	check(exec.Command(tool("junvo"), "draft", source, "-o", tool("p.yaml"), "--overwrite").Run())
	check(addSteps(tool("p.yaml"), tool("steps.yaml")))
	if server {
		check(exec.Command(tool("junvo"), "convert", source, "--plan", tool("p.yaml"), "-o", tool("defined.csv"), "--ddl",
			"postgresql").Run())
		more, err := onServer(tool("junvo"), source, tool("p.yaml"), tool("load.sql"), tool("defined.sql"))
		check(err)
		all = append(all, more...)
	}
	for turn := range times + 1 {
		for _, c := range all {
			r := measure(c.args)
			if turn > 0 {
				c.runs = append(c.runs, r)
			}
		}
	}
	info, err := os.Stat(source)
	check(err)
	fmt.Printf("%s: %s\n", k.name, k.say)
	report(all, info.Size(), rows, k.columns)
}

// addSteps gives every column of a plan two steps.
func addSteps(from, to string) error {
	text, err := os.ReadFile(from)
	if err != nil {
		return err
	}
	return os.WriteFile(to, bytes.ReplaceAll(text, []byte("\n    to: "),
		[]byte("\n    steps: [trim, single-space]\n    to: ")), 0o666)
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}

// measure runs a command and asks the operating system what it took.
func measure(args []string) run {
	cmd := exec.Command(args[0], args[1:]...)
	cmd.Stderr = os.Stderr
	settle()
	start := time.Now()
	err := cmd.Run()
	wall := time.Since(start)
	if cmd.ProcessState == nil || cmd.ProcessState.ExitCode() > 1 {
		check(fmt.Errorf("%s: %w", strings.Join(args, " "), err))
	}
	return run{wall: wall, cpu: cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime(), peak: peak(cmd.ProcessState)}
}

func median[T cmp.Ordered](runs []run, of func(run) T) T {
	values := make([]T, len(runs))
	for i, r := range runs {
		values[i] = of(r)
	}
	slices.Sort(values)
	return values[len(values)/2]
}

func report(all []*contestant, size int64, rows, columns int) {
	fmt.Printf("%d rows, %d columns, %d bytes; %s/%s, %d processors, %s; medians of %d runs in turn\n\n",
		rows, columns, size, runtime.GOOS, runtime.GOARCH, runtime.NumCPU(), runtime.Version(), len(all[0].runs))
	w := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintln(w, "command\twall s\tCPU s\tMB/s\tCPU ns/cell\tpeak MB\tas fast as the baseline\t")
	for _, c := range all {
		wall, cpu := median(c.runs, func(r run) time.Duration { return r.wall }), median(c.runs,
			func(r run) time.Duration { return r.cpu })
		ratio := ""
		for _, b := range all {
			if b.name == c.baseline {
				// The ratio of each pair of runs that came after each other, then the median.
				var pairs []float64
				for i := range c.runs {
					pairs = append(pairs, b.runs[i].wall.Seconds()/c.runs[i].wall.Seconds())
				}
				slices.Sort(pairs)
				ratio = fmt.Sprintf("%.2f times", pairs[len(pairs)/2])
			}
		}
		fmt.Fprintf(w, "%s\t%.2f\t%.2f\t%.0f\t%.1f\t%d\t%s\t\n", c.name, wall.Seconds(), cpu.Seconds(),
			float64(size)/1e6/wall.Seconds(), float64(cpu.Nanoseconds())/float64(rows*columns), median(c.runs,
				func(r run) int64 { return r.peak })>>20, ratio)
	}
	check(w.Flush())
	fmt.Println()
}
