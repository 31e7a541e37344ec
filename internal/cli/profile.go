package cli

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/finding"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/show"
	"junvo/internal/table/input"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// selection is which columns a profile shows, and how.
type selection struct {
	columns []string // to open
	only    string
	sort    string
	unfold  bool
	verbose bool
}

func (s *selection) flags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringArrayVar(&s.columns, "column", nil, "column to open (repeatable)")
	f.StringVar(&s.only, "only", "", "show only columns that have findings, are mixed, or are text: "+
		strings.Join(onlyNames, ", "))
	f.BoolVar(&s.unfold, "unfold", false, "give each column a line of its own, however many there are")
	f.BoolVar(&s.verbose, "verbose", false, "say how the file was read and why, and list the findings of all columns")
	f.StringVar(&s.sort, "sort", "position", "order of the columns: "+strings.Join(sortNames, ", "))
	into(cmd, groupRows)
}

func (a *app) profile() *cobra.Command {
	var w columnFlags
	var sel selection
	var saved, against, rowsOf string
	var page reporting
	var picture string
	var each bool
	cmd := &cobra.Command{
		Use:   "profile SOURCE...",
		Short: "Show what every column holds: its type, what does not fit, what is blank, what is odd",
		Long: `Profile reads the whole source once and prints one line for each column: how it is
stored, the type that it should have, the strip (a picture of what its cells read
as), the share of its cells that fit the type, blanks, distinct values, the range,
and the findings. SOURCE is a path, or - for standard input: delimited text, a workbook,
a web page, JSON, XML, a log, a database dump, Parquet, SQLite, a ZIP archive of any of
these; or postgres://host/database#table. A part is named after #: book.xlsx#Sheet2,
store.db#table, page.html#2, export.zip#a.csv, response.json#items; "book.xlsx#*" stands
for all of them. Several paths, or a quoted pattern, are read as one table: they must
have the same column names.

With --column it opens columns: readings, blanks, shapes, strays, the most frequent
texts, quartiles and a histogram, and the rows that are the odd ones out.`,
		Example: `  junvo profile landings.csv
  junvo profile landings.csv --column "Net weight"
  junvo profile wide.csv --only mixed --sort fails
  junvo profile landings.csv --format json | jq '.columns[].suggest.type'
  junvo profile export.txt --delimiter tab --encoding windows-1252
  junvo profile "2021-*.csv.gz"
  junvo profile landings.csv --private Skipper
  junvo profile landings.csv --step 'Remarks: keep: digits'
  junvo profile landings.csv --rows-of leading-zeros --format csv
  junvo profile --each january.csv february.csv
  junvo profile february.csv --against january.json
  junvo profile january.csv --save january.profile
  ssh harbour cat landings.csv | junvo profile -`,
		Args: someSource,
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := sel.check(); err != nil {
				return err
			}
			switch {
			case saved != "" && w.edits.turn != "":
				return usage("--save and --turn exclude each other: a saved profile is of the rows of the file")
			case each && (saved != "" || against != "" || rowsOf != ""):
				return usage("--each goes with none of --save, --against and --rows-of")
			case rowsOf != "" && (len(w.edits.list) > 0 || w.edits.turn != ""):
				return usage("--rows-of shows the source as it is, so that it goes neither with --step nor with --turn")
			case rowsOf != "" && args[0] == "-":
				return usage("--rows-of reads the source twice, so that it can't be standard input; keep it in a file first")
			}
			var files wholefile.Files
			files.Writes(saved, "the saved profile")
			files.Reads(against, "the profile to compare with")
			files.Writes(page.path, "the report")
			files.Writes(picture, "the picture")
			if err := checkPicture(picture, each, page.replace); err != nil {
				return err
			}
			if err := page.checkWith(&files, args); err != nil {
				return err
			}
			may := permissionOf(true, page.replace)
			if err := mayReplaceText(saved, "saved profile", may, begins(profileBegins)); err != nil {
				return err
			}
			if each {
				return a.profileEach(cmd.Context(), args, &w, &sel, &page)
			}
			w.open = sel.opens(show.Format(a.format) == show.JSON)
			if saved != "" || against != "" || page.wanted() || picture != "" {
				w.open = everyColumn
			}
			c, err := a.collect(cmd.Context(), args, &w)
			if err != nil {
				return err
			}
			if saved != "" {
				if err := save(c.Collected, saved); err != nil {
					return err
				}
			}
			p := c.Conclude(c.wishes)
			if err := a.reportProfiles(&page, p); err != nil {
				return err
			}
			if err := drawColumns(picture, p, &sel); err != nil {
				return err
			}
			if rowsOf != "" {
				return a.listRows(cmd.Context(), args, p, c.wishes, rowsOf, &sel)
			}
			if against != "" {
				return a.printChanges(p, against)
			}
			if err := a.printProfile(p, &sel); err != nil {
				return err
			}
			if show.Format(a.format) != show.Table || len(sel.columns) > 0 || a.spread.Once {
				return nil // which is the same for the parts of a table that are combined, and for a pipe
			}
			return a.holdTotals(cmd.Context(), args, p, &w)
		},
	}
	f := cmd.Flags()
	f.SortFlags = false
	sel.flags(cmd)
	f.StringVar(&saved, "save", "", "also write all that was counted to this `file`, for the command combine")
	f.BoolVar(&each, "each", false, "profile each of several sources by itself, with a line for each at the end")
	f.StringVar(&rowsOf, "rows-of", "", "list all rows of a `finding`, such as leading-zeros, in place of the "+
		"profile; --column narrows it to columns")
	f.StringVar(&against, "against", "", "say what has changed since the profile in this `file`, which was printed "+
		"with --format json")
	page.flags(cmd)
	f.StringVar(&picture, "picture", "", "also draw the strips of the columns, and with --column how their values are "+
		"spread, to this `file`: NAME.svg")
	into(cmd, groupLists)
	wholeOnly(cmd, "each", "rows-of")
	w.edits.stepFlags(cmd)
	w.flags(cmd)
	a.sourceFlags(cmd)
	a.formatFlag(cmd)
	return cmd
}

// mostToHold is how many bytes a source may have for its total rows to be held against the rows that they add up, which
// takes another reading.
const mostToHold = 32 << 20

// holdTotals says below a profile whether total rows agree with the rows that they add up.
func (a *app) holdTotals(ctx context.Context, paths []string, p *profile.Profile, w *columnFlags) error {
	if p.Bytes > mostToHold || slices.ContainsFunc(paths, readOnce) || w.edits.any() ||
		!slices.ContainsFunc(p.Findings, func(f profile.Finding) bool { return show.IsOfTotals(f.Kind) }) {
		return nil
	}
	bound, _, err := drafted(p, w, false)
	if err != nil {
		return nil // what can't be drafted can't be held, and is told where it is drafted
	}
	l, err := a.tryOut(ctx, paths, bound, nil)
	if err != nil {
		return err
	}
	return a.print(show.LedgerTotals(l, a.page()))
}

// listRows lists the rows of a finding.
func (a *app) listRows(ctx context.Context, paths []string, p *profile.Profile, o profile.Options, name string,
	sel *selection,
) error {
	columns, err := sel.of(p)
	if err != nil {
		return err
	}
	var only []string
	for _, c := range columns {
		only = append(only, c.Name)
	}
	src, err := a.open(paths, nil)
	if err != nil {
		return err
	}
	defer src.Close()
	out := bufio.NewWriter(a.out)
	list := show.NewRowList(out, show.Format(a.format), len(src.Info().Files) > 1)
	var failed error
	k, _ := finding.Parse(name) // no profile has none
	err = p.RowsOf(ctx, src, k, only, o, func(r profile.FoundRow) error {
		failed = list.Add(r)
		return failed
	})
	switch {
	case errors.Is(err, profile.ErrNoFinding):
		return usage("there is no finding %q in the profile; `junvo profile` shows which there are", name)
	case errors.Is(err, profile.ErrNoRows):
		return usage("the finding %q is not of single rows", name)
	case err != nil && failed == nil:
		return readError(paths, err)
	}
	if err = errors.Join(failed, list.End(), out.Flush()); err != nil {
		return &exitError{exitOutput, fmt.Errorf("can't write to standard output: %w", err)}
	}
	return nil
}

func someSource(cmd *cobra.Command, args []string) error {
	if len(args) == 0 {
		return usage("which source? Name a file, as in `%s landings.csv`", cmd.CommandPath())
	}
	for _, a := range args {
		if a == "-" && len(args) > 1 {
			return usage("standard input can't be read together with files")
		}
	}
	return nil
}

// profileOf profiles a source with the user's wishes.
func (a *app) profileOf(ctx context.Context, paths []string, w *columnFlags) (*profile.Profile, error) {
	c, err := a.collect(ctx, paths, w)
	if err != nil {
		return nil, err
	}
	return c.Conclude(c.wishes), nil
}

// collected is what was counted of a source, with the wishes for concluding.
type collected struct {
	*profile.Collected
	wishes profile.Options
}

// asideOfFile finds which kinds of rows are no data in a source whose columns become rows: only the columns as they
// stand tell what total rows add up. It is nil where none do.
func (a *app) asideOfFile(ctx context.Context, paths []string, w *columnFlags) (*[rowkind.NumKinds]bool, error) {
	if w.edits.turn == "" {
		return nil, nil
	}
	p, err := a.profileOf(ctx, paths, &columnFlags{
		decimalMark: w.decimalMark, dateOrder: w.dateOrder, fit: w.fit, blankWords: w.blankWords, alone: w.alone,
	})
	if err != nil {
		return nil, err
	}
	return &p.SetAside, nil
}

func (a *app) collect(ctx context.Context, paths []string, w *columnFlags) (*collected, error) {
	src, err := a.open(paths, nil)
	if err != nil {
		return nil, err
	}
	defer src.Close()
	aside, err := a.asideOfFile(ctx, paths, w)
	if err != nil {
		return nil, err
	}
	if src, err = w.edits.turnedSource(src, w.blankWords, aside); err != nil {
		return nil, err
	}
	stepped, err := w.edits.stepped(src)
	if err != nil {
		return nil, err
	}
	names := stepped.Info().Names
	ask, err := w.asker(w.edits.derived, names)
	if err != nil {
		return nil, err
	}
	private, err := w.hides(w.edits.derived, names)
	if err != nil {
		return nil, err
	}
	report, end := a.progress("reading", src)
	defer end()
	o := profile.Options{
		Private: private, Workers: a.workers, BlankWords: w.blankWords, Ask: ask, Open: w.open,
		Progress: report, Skip: w.skip, Alone: w.alone, SetAside: aside,
	}
	if w.shapes {
		o.Shapes = func(string) bool { return true }
	}
	if a.spread.Have != nil {
		return &collected{a.spread.Have, o}, nil
	}
	c, err := profile.Collect(ctx, stepped, o)
	if err == nil && a.spread.Collected != nil {
		return nil, stopped(a.spread.Collected(c))
	}
	return &collected{c, o}, readError(paths, err)
}

// readError says of an error while reading which source it was.
func readError(paths []string, err error) error {
	var e *input.Error
	if err == nil || errors.As(err, &e) || errors.Is(err, context.Canceled) {
		return err
	}
	return &input.Error{Name: strings.Join(paths, ", "), Err: err}
}

func (a *app) printProfile(p *profile.Profile, sel *selection) error {
	f := show.Format(a.format)
	columns, err := sel.of(p)
	if err != nil {
		return err
	}
	if f == show.JSON {
		doc, err := show.ProfileJSON(p, columns)
		if err != nil {
			return err
		}
		return a.print(string(doc))
	}
	if len(sel.columns) > 0 {
		return a.print(show.Opened(p, columns, f, a.page()))
	}
	if f == show.Table && !sel.verbose {
		return a.print(show.Glance(p, columns, !sel.unfold, a.page()))
	}
	text := show.ProfileTable(columns, !sel.unfold, f, a.page())
	if f == show.Table {
		text = show.ProfileHead(p, a.page()) + "\n" + text + "\n" + show.StripKey(a.page()) + more(show.ColumnFindings(p,
			a.page()))
	}
	return a.print(text)
}

// more sets a part of a page off from what stands before it.
func more(text string) string {
	if text == "" {
		return ""
	}
	return "\n" + text
}

// columnFlags are what the user says about the columns.
type columnFlags struct {
	as          []string
	blankWords  []string
	decimalMark string
	dateOrder   string
	fit         string
	alone       bool // each column is decided by its own cells only
	private     []string
	open        func(column string) bool // the columns to open
	skip        func(column string) bool // the columns not to look at
	shapes      bool                     // whether a plan is to remember the shapes
	edits       edits
}

// defaultFit is reading.DefaultFit as people write it.
const defaultFit = "90%"

func (w *columnFlags) flags(cmd *cobra.Command) {
	w.typeFlags(cmd)
	cmd.Flags().StringArrayVar(&w.blankWords, "blank-word", nil, "word that stands for blank in every column (repeatable)")
	cmd.Flags().StringArrayVar(&w.private, "private", nil, "column whose values are to appear in no report (repeatable)")
	into(cmd, groupTypes)
}

// typeFlags are the wishes about what was counted already.
func (w *columnFlags) typeFlags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringArrayVar(&w.as, "as", nil, "type of a column, as in \"Net weight\"=decimal (repeatable)")
	f.StringVar(&w.decimalMark, "decimal-mark", "", "decimal mark of all numbers: . or , (default: by evidence)")
	f.StringVar(&w.dateOrder, "date-order", "", "order of all dates: dmy, mdy or ymd (default: by evidence)")
	f.StringVar(&w.fit, "fit", defaultFit, "share of the non-blank cells that must fit a type for the column to get it")
	f.BoolVar(&w.alone, "each-column-alone", false, "decide each column by its own cells only, not by what the others show")
	into(cmd, groupTypes)
}

// hides says which columns of a profile are private: those that are named, and those that are made of them.
func (w *columnFlags) hides(d *derived, names []string) (func(string) bool, error) {
	hidden := map[int]bool{}
	for _, want := range w.private {
		found := among(want, d.called())
		if found == nil {
			return nil, unknownColumn(want, d.called())
		}
		for _, name := range found {
			hidden[d.at[name]] = true
			hidden[slices.Index(d.source, name)] = true // also where another column has taken its name
		}
	}
	for i, m := range d.made {
		hidden[len(names)-len(d.made)+i] = hidden[len(names)-len(d.made)+i] || hidden[m.From]
	}
	return func(name string) bool { return hidden[slices.Index(names, name)] && slices.Contains(names, name) }, nil
}

// asker checks the wishes against the columns and returns them for each column.
func (w *columnFlags) asker(d *derived, names []string) (func(string) reading.Ask, error) {
	var all reading.Ask
	if w.decimalMark != "" {
		m, ok := reading.ParseMark(w.decimalMark)
		if !ok {
			return nil, usage("--decimal-mark is . or , (or the Arabic ٫), not %q", w.decimalMark)
		}
		all.Mark = &m
	}
	if w.dateOrder != "" {
		o, ok := reading.ParseOrder(w.dateOrder)
		if !ok {
			return nil, usage("--date-order is dmy, mdy or ymd, not %q", w.dateOrder)
		}
		all.Order = &o
	}
	fit, err := parseShare("fit", w.fit)
	if err != nil {
		return nil, err
	}
	all.Fit = fit
	named, err := parseTypes(w.as, d.called())
	if err != nil {
		return nil, err
	}
	types := map[string]value.Type{}
	for name, t := range named {
		if of, ok := d.profiled(name, names); ok {
			types[of] = t
		}
	}
	return func(name string) reading.Ask {
		ask := all
		if t, ok := types[name]; ok {
			ask.Type = &t
		}
		return ask
	}, nil
}
