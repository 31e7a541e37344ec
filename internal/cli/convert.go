package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/show"
	"junvo/internal/table/postgres"
	"junvo/internal/table/sqlite"
	"junvo/internal/table/wholefile"
)

// conversion is what convert is asked to do.
type conversion struct {
	reveal   bool
	metadata bool
	ddl      string
	wishes   columnFlags
	plan     string
	output   string
	fixes    string
	failOver string
	ledger   string
	grouped  bool
	guard    bool // cells that look like formulas
	// replaceTable replaces a table of a database.
	replaceTable bool
	// appendTo adds rows to a table of a server.
	appendTo bool
	// The tables of a server for the lists, where they are not files.
	failuresTable, asideTable string
	columns                   []*plan.Column // of the output
	// overwritePlan takes a new draft for an older plan that differs.
	overwritePlan bool
	origin        bool
	firstRow      int64 // of the source, in the table that it is a part of
	// The files of the lists and of the drafted plan, where they are named.
	failures, aside, keepPlan string
	report                    reporting
	outputFormat              string // of standard output
	streamed                  bool   // the output goes to standard output
}

func (a *app) convert() *cobra.Command {
	var c conversion
	cmd := &cobra.Command{
		Use:   "convert SOURCE... -o OUTPUT",
		Short: "Put every column into its proper type, and report every cell that would not go",
		Long: `Convert runs a plan over a source and prints the ledger: what became of every row
and cell. Without a plan it drafts one from the whole source, and writes it beside
the output. It writes

  OUTPUT               the typed table: ISO dates, decimal points, true and false, blank for blank
  NAME.failures.csv    every cell that could not become its column's type, with the reason
  NAME.setaside.csv    every row that is no data, with the reason
  NAME.plan.yaml       the plan, where none was given

The ending of OUTPUT's name says the format: CSV, TSV, JSON lines, a workbook (which also
marks and lists what has failed), Parquet, or SQLite (OUTPUT.db#table; a new table of an
existing database, too). postgres://host/database#schema.table is a table of a PostgreSQL
server. A value that a format can't hold is a failure.

Where there is an output of the same name in another format, the files beside the new one
have its whole name, as in NAME.xlsx.failures.csv. A list that a person has put answers into, and a plan that
may have been edited, are never overwritten.

With -o - the table goes to standard output, as CSV, TSV or JSON lines, and the ledger to
standard error; lists and plan are written only where they are named.

An output appears whole or not at all. Cells that fail are blank in the output, unless
the plan says otherwise. The exit code is 1 when there are failures. To answer them,
fill in the column fix of the failures file and give it back with --fixes: a value, or
(blank) for a cell that is meant to be blank. Given back from where the run writes its
own list, all answers stay in the file, with a column that says which were used.`,
		Example: `  junvo convert landings.csv -o clean.csv
  junvo convert landings.csv -o clean.csv --as "Buyer no."=code --blank-word "n. a."
  junvo convert us.csv -o clean.csv --date-order mdy --decimal-mark .
  junvo convert landings.csv -o clean.csv --plan intake.plan.yaml --fixes clean.failures.csv
  junvo convert "2021-*.csv" -o clean.jsonl --origin
  junvo convert jan.csv feb.csv mar.csv -o clean/ --plan intake.plan.yaml
  junvo convert "book.xlsx#Landings" -o clean.xlsx
  junvo convert landings.csv -o "store.db#landings"
  junvo convert "postgres://db.example/harbour#raw.landings" -o "postgres://db.example/harbour#clean.landings"
  junvo convert landings.csv -o - --step 'Remarks: take: {digits: 1, otherwise: blank}' | head
  junvo convert landings.csv -o dear.csv --keep-if 'price_per_kilo > 12' --only 'Vessel,Price per kilo' --order-by '-Price per kilo'`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			if c.output == "" {
				return usage("where to? Name the output, as in `junvo convert %s -o clean.csv`", args[0])
			}
			return a.runConvert(cmd.Context(), args, &c)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	f.StringVarP(&c.output, "output", "o", "", "the table to write: a name that ends in "+outputEndings()+
		"; a folder, for one table of each source; or - for standard output")
	f.StringVar(&c.outputFormat, "output-format", "", "format of standard output ("+strings.Join(streamFormats(), ", ")+
		"), or of the outputs in a folder ("+strings.Join(folderFormats(), ", ")+") (default: csv)")
	f.StringVar(&c.plan, "plan", "", "the plan to run, - for standard input (default: drafted from the source)")
	f.StringVar(&c.fixes, "fixes", "", "answers to failures: a failures file with the column fix filled in")
	f.StringVar(&c.failOver, "fail-over", "", "share of the non-blank cells, such as 1%; if more fail, nothing is written")
	f.BoolVar(&c.origin, "origin", false, "add the columns source_file, source_row and source_line")
	into(cmd, groupJob)
	f.StringVar(&c.failures, "failures", "", "the `file` for the list of failures, in the format that its name says: "+
		listEndings()+" (default: beside the output, in CSV; with -o -, none)")
	f.StringVar(&c.aside, "set-aside", "", "the `file` for the list of rows set aside, in the format that its name says")
	f.StringVar(&c.keepPlan, "save-plan", "", "the `file` for the drafted plan")
	f.BoolVar(&c.overwritePlan, "overwrite-plan", false, "let the drafted plan take the place of one that is there "+
		"and may have been edited")
	f.BoolVar(&c.grouped, "group-failures", false, "list equal failures once, with their number")
	f.StringVar(&c.ledger, "ledger", "", "write the ledger as JSON to this file, too")
	c.report.flags(cmd)
	f.BoolVar(&c.reveal, "reveal", false, "show the values of private columns among failures and rows set aside")
	into(cmd, groupLists)
	f.BoolVar(&c.appendTo, "append", false, "add the rows to a table of a PostgreSQL database that is there already")
	f.BoolVar(&c.replaceTable, "replace-table", false, "replace a table of a database that is there already")
	f.StringVar(&c.failuresTable, "failures-table", "", "make a `table` of the failures beside an output in "+
		"PostgreSQL, and no file")
	f.StringVar(&c.asideTable, "set-aside-table", "", "make a `table` of the rows set aside beside an output in "+
		"PostgreSQL, and no file")
	f.StringVar(&c.ddl, "ddl", "", "also write the SQL that makes a table for the output, NAME.sql: "+
		strings.Join(show.Dialects, " or "))
	into(cmd, groupDatabases)
	f.BoolVar(&c.guard, "guard-formulas", false, guardUse)
	f.BoolVar(&c.metadata, "metadata", false, "also describe a CSV output as CSV on the Web (W3C) has it, in "+
		"OUTPUT-metadata.json")
	f.Int64Var(&c.firstRow, "first-row", 1, "the `number` of the source's first row, where it is a part of a larger table")
	into(cmd, groupRarely)
	wholeOnly(cmd, "fixes", "fail-over", "failures", "set-aside", "save-plan", "report", "report-failures", "append", "replace-table",
		"failures-table", "set-aside-table", "ddl", "metadata", "first-row")
	c.wishes.edits.flags(cmd)
	c.wishes.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

const guardUse = "put an apostrophe before cells of a CSV output that a spreadsheet would run as formulas"

func (a *app) runConvert(ctx context.Context, paths []string, c *conversion) error {
	if c.ddl != "" && !slices.Contains(show.Dialects, c.ddl) {
		return usage("--ddl is %s, not %q", strings.Join(show.Dialects, " or "), c.ddl)
	}
	if err := errors.Join(checkList("failures", c.failures), checkList("set-aside", c.aside)); err != nil {
		return err
	}
	if c.firstRow < 1 {
		return usage("--first-row is the number of a row, from 1")
	}
	named := c.failures != "" || c.aside != "" || c.keepPlan != ""
	if err := c.report.check(); err != nil {
		return err
	}
	switch {
	case c.report.wanted() && c.reveal:
		return usage("a report is for others, and never shows the values of private columns: run it without --reveal")
	case c.output == "-":
		return a.convertToOutput(ctx, paths, c)
	case c.outputFormat != "" && !isFolder(c.output):
		return usage("--output-format goes with -o - and with a folder; the ending of another output's name says its format")
	case c.outputFormat != "" && !slices.Contains(folderFormats(), c.outputFormat):
		return usage("--output-format is %s, not %q", strings.Join(folderFormats(), ", "), c.outputFormat)
	case isFolder(c.output) && named:
		return usage("a conversion into a folder writes the lists beside each output, and --failures, --set-aside and " +
			"--save-plan name one file")
	case isFolder(c.output):
		return a.convertEach(ctx, paths, c)
	}
	return a.convertToFile(ctx, paths, c, func(l *convert.Ledger, w show.Written) error {
		return a.printLedger(a.out, l, w, show.WrittenList(w, l))
	})
}

// convertToFile converts the sources as one table, and hands the ledger over when all is there.
func (a *app) convertToFile(ctx context.Context, paths []string, c *conversion,
	report func(*convert.Ledger, show.Written) error,
) error {
	if err := c.checkTarget(nil); err != nil {
		return err
	}
	files, err := c.files(paths)
	if err == nil {
		err = checkFiles(files)
	}
	if err == nil {
		err = c.mayReplace()
	}
	if err != nil {
		return err
	}
	limit, err := c.limit()
	if err != nil {
		return err
	}
	paths, kept, err := a.spooled(ctx, paths, c.plan)
	if err != nil {
		return err
	}
	defer kept()
	fixes, err := readFixes(c.fixes, len(paths))
	if err != nil {
		return err
	}
	out, ledger, err := a.convertOne(ctx, paths, c, fixes)
	if out != nil {
		defer out.Abort()
	}
	if err != nil {
		return err
	}
	if err := limit.check(ledger); err != nil {
		return err
	}
	if err := out.complete(ledger); err != nil {
		return err
	}
	if err := out.keepLedger(c.ledger, ledger, out.written()); err != nil {
		return err
	}
	if out.page != nil {
		out.page.Written = out.written()
	}
	if err := a.keepReport(out, c, out.page); err != nil {
		return err
	}
	if ctx.Err() != nil { // the last moment for it
		return ctx.Err()
	}
	if err := wholefile.Committing(out.Commit); err != nil {
		return outputError(err)
	}
	a.reportUnused(fixes.of(), out.private)
	return report(ledger, out.written())
}

// mayReplace returns an error where a file beside the output is there that no run has written.
func (c *conversion) mayReplace() error {
	if err := mayReplaceText(c.ledger, "ledger", permissionOf(true, c.report.replace), begins(ledgerBegins)); err != nil {
		return err
	}
	stem := c.stem()
	may := permissionOf(c.failures != "", c.report.replace)
	if err := mayReplace(c.failuresPath(), "list of failures", may, c.keepsAnswers(), failureHeadings()...); err != nil {
		return err
	}
	may = permissionOf(c.aside != "", c.report.replace)
	if err := mayReplace(c.asidePath(), "list of rows set aside", may, false, asideHeader, withFile(asideHeader)); err != nil {
		return err
	}
	if c.ddl != "" {
		if err := mayReplaceText(stem+ddlEnding, "definition of a table", unsaid, c.isDefinition); err != nil {
			return err
		}
	}
	if c.metadata {
		path, _ := c.target()
		return mayReplaceText(path+metadataEnding, "description", unsaid, show.IsMetadata)
	}
	return nil
}

// isDefinition reports whether a text is a definition of the table that the output is.
func (c *conversion) isDefinition(text []byte) bool { return show.IsDefinition(text, c.tableName()) }

// definition is the statement that makes a table for the output.
func (c *conversion) definition(p *plan.Plan) string {
	path, _ := c.target()
	return show.Definition(p, c.tableName(), c.ddl, filepath.Base(path), formatOf(c.output).delimiter)
}

// tableName is the name of the table that is defined for the output.
func (c *conversion) tableName() string {
	path, part := c.target()
	if postgres.Is(path) {
		return part
	}
	return strings.TrimSuffix(filepath.Base(path), filepath.Ext(path))
}

// convertOne converts a source; its output, nil for none, is left to be committed or aborted.
func (a *app) convertOne(
	ctx context.Context, paths []string, c *conversion, fixes *answers,
) (*output, *convert.Ledger, error) {
	if c.report.wanted() {
		c.wishes.open = everyColumn
	}
	ready, err := a.ready(ctx, paths, c.plan, &c.wishes)
	if err != nil {
		return nil, nil, err
	}
	if err := c.checkTarget(ready.plan.Plan); err != nil {
		return nil, nil, err
	}
	if ready.drafted != nil {
		ready.drafted = plan.Drafted(ready.drafted)
		ready.text = ready.drafted
		if err := mayReplacePlan(c.planPath(), ready.drafted, c.overwritePlan, "--overwrite-plan"); err != nil {
			return nil, nil, err
		}
	}
	c.columns = ready.plan.Outputs()
	fields := ready.plan.Fields()
	if c.origin {
		fields = append(fields, convert.OriginFields...)
	}
	if c.ddl == "sqlite" {
		if err := sqlite.CheckNames(fields); err != nil {
			return nil, nil, usage("%w", err)
		}
	}
	if err := mayReplaceOutput(c.output, fields, 0, c.report.replace); err != nil {
		return nil, nil, err
	}
	out, err := newOutput(ctx, c, ready, fixes)
	if err != nil {
		return nil, nil, targetError(err)
	}
	out.undone = func(err error) {
		fmt.Fprintf(a.err, "junvo: %s could not be taken back to what it was: %v. The next run that writes to it does so\n",
			c.output, err)
	}
	ledger, err := a.convertTo(ctx, paths, ready, out, fixes.of(), c)
	if err != nil {
		return out, nil, err
	}
	if err := ledger.Check(); err != nil {
		return out, nil, &exitError{exitOutput, fmt.Errorf("%w. Nothing was written; please report this as a bug", err)}
	}
	if err := out.describe(c, ready.plan.Plan); err != nil {
		return out, nil, err
	}
	if err := a.completeReport(ctx, paths, out.page, ready, c.plan != "", ledger); err != nil {
		return out, nil, err
	}
	return out, ledger, ctx.Err()
}

// shareLimit is a share of the cells, 1 for no limit.
type shareLimit struct {
	share float64
	text  string
}

func (c *conversion) limit() (shareLimit, error) {
	if c.failOver == "" {
		return shareLimit{share: 1}, nil
	}
	f, err := parseShare("fail-over", c.failOver)
	return shareLimit{f, c.failOver}, err
}

// check returns an error if more cells failed than were expected.
func (s shareLimit) check(l *convert.Ledger) error {
	var cells int64
	for _, c := range l.Columns {
		cells += c.Cells - c.Blank
	}
	cells += l.FailedAside
	if failed := l.Failed(); s.share < 1 && float64(failed) > s.share*float64(cells) {
		return &exitError{exitFailures, fmt.Errorf("%d of %d cells failed, more than %s; nothing was written", failed, cells,
			s.text)}
	}
	return nil
}

// same reports whether two names mean one file.
func same(a, b string) bool {
	x, err1 := os.Stat(a)
	y, err2 := os.Stat(b)
	return err1 == nil && err2 == nil && os.SameFile(x, y)
}

// targetError says of an output that can't be begun what to do.
func targetError(err error) error {
	switch {
	case errors.Is(err, sqlite.ErrTable):
		return usage("%w; name another one after #, or say --replace-table", err)
	case errors.Is(err, postgres.ErrTable):
		return usage("%w; name another one after #, or say --append or --replace-table", err)
	case errors.Is(err, postgres.ErrMissing):
		return usage("%w; leave out --append, and it is made", err)
	}
	return outputError(err)
}

func outputError(err error) error {
	return &exitError{exitOutput, fmt.Errorf("can't write: %w", singleLine{err})}
}

// singleLine is several errors in one line.
type singleLine struct{ error }

func (e singleLine) Error() string { return strings.ReplaceAll(e.error.Error(), "\n", "; ") }

func (e singleLine) Unwrap() error { return e.error }

// convertTo reads the source and converts it.
func (a *app) convertTo(ctx context.Context, paths []string, r *runnable, out *output, fixes *convert.Fixes,
	c *conversion,
) (*convert.Ledger, error) {
	repeats, err := a.repeats(ctx, paths, r.plan, fixes, out.path, 0, c.firstRow-1, out.holds)
	if err != nil {
		return nil, err
	}
	src, err := a.open(paths, r.plan.Plan)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	report, end := a.progress("converting", src)
	defer end()
	ledger, err := convert.Run(ctx, src, r.plan, convert.Options{
		Workers: a.workers, Sink: out.sink, Failure: out.failure, Aside: out.asideRow, Fixes: fixes, Repeats: repeats,
		Holds:    out.holds,
		Progress: report, Origin: c.origin, Reveal: c.reveal, RowsBefore: c.firstRow - 1,
	})
	var stop *convert.StopError
	switch {
	case errors.As(err, &stop):
		return nil, &exitError{exitFailures, fmt.Errorf("%w. Nothing was written", err)}
	case err == nil && r.profile != nil && ledger.RowsIn != r.profile.FileRows:
		return nil, readError(paths, errors.New("the file changed while it was read"))
	case out.err != nil:
		return nil, outputError(out.err)
	case err == nil && r.profile != nil:
		ledger.Doubts = append(ledger.Doubts, doubts(r.profile)...)
	case err == nil:
		ledger.Doubts = append(ledger.Doubts, undecided(r.plan.Plan, ledger)...)
	}
	return ledger, readError(paths, err)
}

// doubts is what a profile has found that weighs.
func doubts(p *profile.Profile) (all []convert.Doubt) {
	for _, d := range draft.Doubts(p) {
		all = append(all, convert.Doubt(d))
	}
	return all
}

// undecided lists the columns that the plan leaves undecided. It serves runs without a profile, which would give the
// reason.
func undecided(p *plan.Plan, l *convert.Ledger) (all []convert.Doubt) {
	for i, c := range p.Columns {
		if c.Undecided && i < len(l.Columns) && l.Columns[i].Kept > 0 {
			all = append(all, convert.Doubt{
				Column: c.Name, Name: convert.Undecided, Count: l.Columns[i].Kept,
				Say: "kept as text, since the plan leaves the column undecided",
			})
		}
	}
	return all
}

func (a *app) printLedger(to io.Writer, l *convert.Ledger, w show.Written, list string) error {
	f := show.Format(a.format)
	var text string
	if f == show.JSON {
		doc, err := show.LedgerJSON(l, w)
		if err != nil {
			return err
		}
		text = string(doc)
	} else {
		text = show.LedgerText(l, f, a.page(), list)
	}
	return printVerdict(to, text, l.Troubles() > 0)
}
