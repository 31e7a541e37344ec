package cli

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/wholefile"
)

func (a *app) convert() *cobra.Command {
	var w wishes
	var output string
	var origin bool
	cmd := &cobra.Command{
		Use:   "convert SOURCE... -o OUTPUT",
		Short: "Put every column into its proper type, and report every cell that would not go",
		Long: `Convert finds the type of every column from the whole source, converts, and
prints the ledger: what became of every row and cell. It writes

  OUTPUT               the typed table: ISO dates, decimal points, true and false, blank for blank
  NAME.failures.csv    every cell that could not become its column's type, with the reason
  NAME.setaside.csv    every row that is no data, with the reason

An output appears whole or not at all. Cells that fail are blank in the output. The
exit code is 1 when there are failures.`,
		Example: `  junvo convert landings.csv -o clean.csv
  junvo convert landings.csv -o clean.csv --as "Buyer no."=code --blank-word "n. a."
  junvo convert us.csv -o clean.csv --date-order mdy --decimal-mark .
  junvo convert "2021-*.csv" -o clean.tsv --origin`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := a.check(); err != nil {
				return err
			}
			if output == "" {
				return usage("where to? Name the output, as in `junvo convert %s -o clean.csv`", args[0])
			}
			return a.runConvert(cmd.Context(), args, output, &w, origin)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVarP(&output, "output", "o", "", "the table to write: a name that ends in .csv or .tsv")
	w.flags(cmd)
	f.BoolVar(&origin, "origin", false, "add the columns source_file, source_row and source_line")
	a.sourceFlags(cmd)
	return cmd
}

// delimiters are the delimiters of outputs by the ending of their names.
var delimiters = map[string]byte{".csv": ',', ".tsv": '\t', ".tab": '\t'}

func (a *app) runConvert(ctx context.Context, paths []string, output string, w *wishes, origin bool) error {
	delimiter, ok := delimiters[strings.ToLower(filepath.Ext(output))]
	if !ok {
		return usage("the name of the output says what to write, and %q ends in neither .csv nor .tsv", output)
	}
	for _, p := range paths {
		if same(p, output) {
			return usage("%s is the source; name another file for the output, so that the source stays as it is", output)
		}
	}
	if paths[0] == "-" {
		spooled, err := spool(ctx, a.in)
		if err != nil {
			return err
		}
		defer os.Remove(spooled)
		paths = []string{spooled}
	}
	p, err := a.profileOf(ctx, paths, w)
	if err != nil {
		return err
	}
	out, err := newOutput(output, delimiter, p, w, origin)
	if err != nil {
		return outputError(err)
	}
	defer out.abort()
	ledger, err := a.convertTo(ctx, paths, p, out, origin)
	if err != nil {
		return err
	}
	if err := ledger.Check(); err != nil {
		return &exitError{exitOutput, fmt.Errorf("%w. Nothing was written; please report this as a bug", err)}
	}
	if err := ctx.Err(); err != nil {
		return err
	}
	written, err := out.commit()
	if err != nil {
		return outputError(err)
	}
	return a.printLedger(ledger, written)
}

// same reports whether two names mean one file.
func same(a, b string) bool {
	x, err1 := os.Stat(a)
	y, err2 := os.Stat(b)
	return err1 == nil && err2 == nil && os.SameFile(x, y)
}

// spool copies standard input to a temporary file, since it is read twice.
func spool(ctx context.Context, in io.Reader) (string, error) {
	f, err := os.CreateTemp("", "junvo-input-*")
	if err != nil {
		return "", outputError(err)
	}
	copied := make(chan error, 1)
	go func() {
		_, err := io.Copy(f, in)
		copied <- err
	}()
	select {
	case err = <-copied:
	case <-ctx.Done():
		err = ctx.Err()
	}
	if err = errors.Join(err, f.Close()); err != nil {
		os.Remove(f.Name())
		return "", outputError(fmt.Errorf("can't keep standard input for the second reading: %w", err))
	}
	return f.Name(), nil
}

func outputError(err error) error {
	return &exitError{exitOutput, fmt.Errorf("can't write: %w", err)}
}

// convertTo reads the source a second time and converts it.
func (a *app) convertTo(ctx context.Context, paths []string, p *profile.Profile, out *output, origin bool) (*convert.Ledger, error) {
	src, err := a.open(paths)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	report, end := a.progress("converting", src)
	defer end()
	ledger, err := convert.Run(ctx, src, out.plan, convert.Options{
		Workers: a.workers, Sink: out.sink, Failure: out.failure, Aside: out.asideRow, Progress: report, Origin: origin,
	})
	switch {
	case err == nil && ledger.RowsIn != p.Rows:
		return nil, readError(paths, errors.New("the file changed while it was read"))
	case out.err != nil:
		return nil, outputError(out.err)
	}
	return ledger, readError(paths, err)
}

// output is the files that a conversion writes.
type output struct {
	plan      *plan.Plan
	path      string
	sink      *watchedSink
	failures  *sideFile
	aside     *sideFile
	manyFiles bool  // the side files name the file of each row
	err       error // the first error of writing
}

// watchedSink tells errors of writing from errors of reading.
type watchedSink struct {
	table.Sink
	err *error
}

func (s *watchedSink) Write(encoded []byte, rows *table.Rows) error {
	err := s.Sink.Write(encoded, rows)
	if err != nil && *s.err == nil {
		*s.err = err
	}
	return err
}

// sideFile is a CSV file that is written only if there is a line for it.
type sideFile struct {
	path   string
	header []string
	file   *wholefile.File
	csv    *csv.Writer
}

func (s *sideFile) write(record []string) error {
	if s.file == nil {
		f, err := wholefile.Create(s.path)
		if err != nil {
			return err
		}
		s.file, s.csv = f, csv.NewWriter(f)
		if err := s.csv.Write(s.header); err != nil {
			return err
		}
	}
	return s.csv.Write(record)
}

func (s *sideFile) finish() error {
	if s.file == nil {
		return nil
	}
	s.csv.Flush()
	return errors.Join(s.csv.Error(), s.file.Finish())
}

// commit makes the file appear and returns its name; an older one, of a run that
// had lines, goes if this one has none.
func (s *sideFile) commit() (string, error) {
	if s.file != nil {
		return s.path, s.file.Commit()
	}
	if err := os.Remove(s.path); err != nil && !errors.Is(err, os.ErrNotExist) {
		return "", err
	}
	return "", nil
}

func (s *sideFile) abort() {
	if s.file != nil {
		s.file.Abort()
	}
}

func newOutput(path string, delimiter byte, from *profile.Profile, w *wishes, origin bool) (*output, error) {
	stem := strings.TrimSuffix(path, filepath.Ext(path))
	p := from.Plan(w.blankWords)
	o := &output{
		plan: p, path: path, manyFiles: len(from.Info.Files) > 1,
		failures: &sideFile{path: stem + ".failures.csv"},
		aside:    &sideFile{path: stem + ".setaside.csv"},
	}
	o.failures.header, o.aside.header = o.record("file", failureHeader...), o.record("file", "row", "line", "reason", "cells")
	f, err := wholefile.Create(path)
	if err != nil {
		return nil, err
	}
	fields := p.Fields()
	if origin {
		fields = append(fields, convert.OriginFields...)
	}
	sink, err := delim.NewSink(f, delimiter, fields)
	if err != nil {
		f.Abort()
		return nil, err
	}
	o.sink = &watchedSink{sink, &o.err}
	return o, nil
}

var failureHeader = []string{"row", "line", "column", "value", "wanted", "reason", "detail", "hint", "fix"}

func (o *output) failure(f convert.Failure) error {
	e := f.Reason.Entry()
	return o.note(o.failures.write(o.record(show.Guarded(f.File),
		strconv.FormatInt(f.Row, 10), strconv.FormatInt(f.Line, 10), show.Guarded(f.Column), show.Guarded(f.Value), f.Wanted.String(),
		e.Name, show.Guarded(f.Detail), e.Hint, "")))
}

// record puts the file's name before the cells where the source is several files.
func (o *output) record(file string, cells ...string) []string {
	if !o.manyFiles {
		return cells
	}
	return append([]string{file}, cells...)
}

func (o *output) asideRow(r convert.AsideRow) error {
	row := ""
	if r.Row > 0 {
		row = strconv.FormatInt(r.Row, 10)
	}
	record := o.record(show.Guarded(r.File), row, strconv.FormatInt(r.Line, 10), r.Reason)
	return o.note(o.aside.write(append(record, r.Cells...)))
}

func (o *output) note(err error) error {
	if err != nil && o.err == nil {
		o.err = err
	}
	return err
}

func (o *output) abort() {
	o.sink.Abort()
	o.failures.abort()
	o.aside.abort()
}

// commit makes the files appear, the table last: where it is, the others are.
func (o *output) commit() (show.Written, error) {
	w := show.Written{Output: o.path}
	err := errors.Join(o.failures.finish(), o.aside.finish(), o.sink.Finish())
	if err != nil {
		return w, err
	}
	if w.Failures, err = o.failures.commit(); err != nil {
		return w, err
	}
	if w.SetAside, err = o.aside.commit(); err != nil {
		return w, err
	}
	return w, o.sink.Commit()
}

func (a *app) printLedger(l *convert.Ledger, w show.Written) error {
	f := show.Format(a.format)
	var text string
	if f == show.JSON {
		doc, err := show.LedgerJSON(l, w)
		if err != nil {
			return err
		}
		text = string(doc)
	} else {
		text = show.LedgerTable(l, f, a.page())
		if f == show.Table {
			text += "\n" + show.LedgerRows(l) + show.WrittenList(w, l)
		}
	}
	if err := a.print(text); err != nil {
		return err
	}
	if l.Failed() > 0 {
		return errFailures
	}
	return nil
}
