package cli

import (
	"context"
	"errors"
	"io"
	"os"
	"slices"
	"strings"
	"syscall"

	"junvo/internal/convert"
	"junvo/internal/show"
	"junvo/internal/table/wholefile"
)

// A conversion to standard output is one to a temporary file, which is copied when all has gone well: whoever reads it
// gets the whole table or nothing.

// streamFormats are the formats that standard output can have: those of text.
func streamFormats() (names []string) {
	for _, f := range outputFormats {
		if ending := f.endings[0]; f.delimiter != 0 || ending == ".jsonl" {
			names = append(names, ending[1:])
		}
	}
	return names
}

// convertToOutput converts to standard output; the ledger goes to standard error.
func (a *app) convertToOutput(ctx context.Context, paths []string, c *conversion) error {
	format := c.outputFormat
	if format == "" {
		format = streamFormats()[0]
	}
	switch {
	case !slices.Contains(streamFormats(), format):
		return usage("--output-format is %s, not %q", strings.Join(streamFormats(), ", "), format)
	case c.metadata || c.ddl != "":
		return usage("--metadata and --ddl describe a file, and the output is standard output")
	}
	held, err := wholefile.Temp(os.TempDir(), "junvo-output")
	if err != nil {
		return outputError(err)
	}
	defer func() { _ = wholefile.Remove(held.Name()) }()
	if err := held.Close(); err != nil {
		return outputError(err)
	}
	one := *c
	one.output, one.streamed = held.Name()+"."+format, true
	defer os.Remove(one.output)
	return a.convertToFile(ctx, paths, &one, func(l *convert.Ledger, w show.Written) error {
		if err := a.copyOut(one.output); err != nil && !errors.Is(err, syscall.EPIPE) {
			return err
		}
		return a.printLedger(a.err, l, w, show.WrittenList(w, l))
	})
}

func (a *app) copyOut(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return outputError(err)
	}
	defer f.Close()
	if _, err := io.Copy(a.out, f); err != nil {
		return outputError(err)
	}
	return nil
}
