// Junvo-beam runs junvo profile and junvo convert over the parts of a table on Apache Beam: on its local runner, or on
// the runner that its flags name.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"log/slog"
	"os"
	"os/signal"
	"runtime/debug"
	"syscall"

	"github.com/apache/beam/sdks/v2/go/pkg/beam"
	beamlog "github.com/apache/beam/sdks/v2/go/pkg/beam/log"

	"junvo/beam/spread"
)

const help = `Junvo-beam runs "junvo profile" and "junvo convert", with their flags, over the parts of a
table on Apache Beam: whole files of any format, ranges of large files of delimited text, and
groups of rows of Parquet files.

  junvo-beam profile 'parts/*.csv' --format json
  junvo-beam convert 'parts/*.csv' --plan intake.plan.yaml -o clean/ --output-format parquet
  junvo-beam convert big.csv -o clean/ --runner=flink --endpoint=flink.example:8099

Convert makes a folder of the parts of the output, part-00000.csv and so on, each with its
failures and its rows set aside; and the ledger of the whole, ledger.json. Without a plan
it drafts one of all parts first, which it puts there, too. The folder appears when all
is done, or not at all.

  junvo-beam pool localhost:50000

starts worker processes on this machine, for a runner that asks there for them
(--environment_type=EXTERNAL --environment_config=localhost:50000).

All workers see the sources, and the folder --staging, at the same place; sources may
also be gs://bucket/parts/*.csv or s3://bucket/parts/*.csv.

Flags of its own:
  --range_size BYTES   how large the ranges are that large files are read in (default 67108864)
  --staging FOLDER     where the parts leave what they are, until all is done (default: beside
                       the output; of a profile, where temporary files are)
  and those of Beam: --runner (default: prism, in this process), --endpoint, --environment_type, …
`

func main() { os.Exit(run()) }

// memory is what the collector of garbage keeps a process below, unless it is told otherwise.
const memory = 200 << 20

func run() int {
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memory)
	}
	each := flag.Int64("range_size", 64<<20, "bytes of the ranges of large files")
	staging := flag.String("staging", "", "folder for what the parts leave")
	args, err := spread.Split(os.Args[1:], flag.CommandLine)
	if err == nil && *each < 1 {
		err = errors.New("--range_size is a number of bytes")
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "junvo-beam: "+err.Error())
		return 2
	}
	// Workers run this program, unless another one is named, for other machines than this.
	if f := flag.Lookup("worker_binary"); f.Value.String() == "" {
		if program, err := os.Executable(); err == nil {
			_ = f.Value.Set(program)
		}
	}
	_ = flag.CommandLine.Parse(nil)
	// What the runner says of its own work is for who looks after it; errors are returned.
	log.SetOutput(io.Discard)
	beamlog.LogLevel = "error"
	beam.Init() // a worker process stays in here
	slog.SetDefault(slog.New(slog.DiscardHandler))
	if len(args) == 0 || len(args) == 1 && (args[0] == "--help" || args[0] == "-h" || args[0] == "help") {
		fmt.Print(help)
		return 0
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if args[0] == "pool" {
		if len(args) != 2 {
			fmt.Fprintln(os.Stderr, "junvo-beam: at which address? As in `junvo-beam pool localhost:50000`")
			return 2
		}
		if err := spread.Pool(ctx, args[1], os.Stdout, os.Stderr); err != nil {
			fmt.Fprintln(os.Stderr, "junvo-beam: "+err.Error())
			return 4
		}
		return 0
	}
	job := &spread.Job{Each: *each, Staging: *staging, Out: os.Stdout, Err: os.Stderr}
	return job.Run(ctx, args)
}
