package cli

import (
	"cmp"
	"context"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/order"
	"junvo/internal/plan"
	"junvo/internal/report"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/postgres"
	"junvo/internal/table/wholefile"
	"junvo/internal/table/workbook"
	"junvo/internal/value"
)

// output is the files that a conversion writes. They appear together.
type output struct {
	wholefile.Set
	path      string // as it was given
	turned    bool   // whether columns of the source have become rows
	stem      string // of the names of the files beside it
	plan      string // the file for the plan, where one was drafted
	planText  []byte
	described []string // the files that describe the output
	groups    *groups  // of equal failures, where they are to be listed once
	sink      *watchedSink
	server    *postgres.Sink                         // where the output is a table of one
	holds     func(t value.Type, text []byte) string // nil where the format holds all
	text      *delim.Sink                            // where the output is delimited text: it counts what looks like formulas
	book      *workbook.Sink                         // where the output is one: it lists failures and the ledger, too
	failures  *list
	aside     *list
	manyFiles bool                     // the lists name the file of each row
	undone    func(error)              // told what could not be taken back; nil until the output is there
	place     func(column int) int     // of a column of the plan in the output
	private   func(column string) bool // the columns of the output whose values are not shown
	streamed  bool                     // it goes to standard output
	report    string                   // the file for the report; "" for none
	page      *report.Source           // what the report tells; nil for none
	answers   *answers                 // those that the list of failures keeps, which it was read from; nil for none
	err       error                    // the first error of writing
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

func newOutput(ctx context.Context, c *conversion, r *runnable, fixes *answers) (*output, error) {
	path, part := c.target()
	p := r.plan
	o := &output{
		path: c.output, stem: c.stem(), manyFiles: r.files > 1, private: p.HidesOutput, place: p.Place,
		failures: newList(c.failuresPath(), c.failuresTable), aside: newList(c.asidePath(),
			c.asideTable), page: c.report.begin(r.files > 1), report: c.report.path, streamed: c.streamed,
	}
	if r.drafted != nil {
		o.plan, o.planText = c.planPath(), r.drafted
	}
	o.failures.header, o.aside.header = failureHeader, asideHeader
	if o.turned = p.Turn != nil; o.turned {
		o.failures.header = withFrom(failureHeader)
	}
	if o.manyFiles {
		o.failures.header, o.aside.header = withFile(o.failures.header), withFile(asideHeader)
	}
	if c.grouped {
		o.groups = newGroups()
		o.failures.header = groupHeader
	}
	if c.keepsAnswers() {
		o.answers = fixes
		o.failures.header = append(slices.Clip(o.failures.header), usedHeader)
	}
	fields := p.Fields()
	if c.origin {
		fields = append(fields, convert.OriginFields...)
	}
	sink, err := o.newSink(path, part, fields, c)
	if err != nil {
		return nil, err
	}
	if len(p.OrderBy) > 0 {
		keys := make([]order.Key, len(p.OrderBy))
		for i, k := range p.OrderBy {
			c := &p.Columns[k.At]
			keys[i] = order.Key{Column: p.Place(k.At), Type: c.Convention.Type, Descending: k.Descending}
			if c.Helper {
				keys[i].Column = -1 - p.HelperPlace(k.At)
			}
		}
		sink = order.NewSink(ctx, sink, keys, spillFolder(path))
	}
	o.sink = &watchedSink{sink, &o.err}
	// The table comes first: of what could not be written there is no list of failures either.
	o.Add(o.sink)
	o.Add(o.failures)
	o.Add(o.aside)
	return o, nil
}

// spillFolder is where what does not fit into memory goes meanwhile: beside an output that is a file.
func spillFolder(output string) string {
	if output == "" || postgres.Is(output) {
		return os.TempDir()
	}
	return filepath.Dir(output)
}

var (
	failureHeader = []string{"row", "line", "column", "value", "wanted", "reason", "detail", "hint", "fix"}
	asideHeader   = []string{"row", "line", "reason", "cells"}
)

// usedHeader is the last column of a list of failures that keeps the answers: whether each was used.
const usedHeader = "used"

// withFrom adds the column of the file that a cell stood in, where columns have become rows.
func withFrom(header []string) []string {
	return slices.Insert(slices.Clone(header), slices.Index(header, "value"), "from")
}

func withFile(header []string) []string { return append([]string{"file"}, header...) }

// failureHeadings are the headings that a list of failures may have.
func failureHeadings() (all [][]string) {
	for _, h := range [][]string{
		failureHeader, withFile(failureHeader), withFrom(failureHeader), withFile(withFrom(failureHeader)), groupHeader,
	} {
		all = append(all, h, append(slices.Clip(h), usedHeader))
	}
	return all
}

func (o *output) failure(f convert.Failure) error {
	if o.page != nil {
		o.page.Failures.Add(&f)
	}
	mend := f.Reason.Entry().Hint
	if place := o.place(f.Position()); o.book != nil && place >= 0 {
		o.book.Fail(workbook.Failed{
			Row: f.Row, Line: f.Line, Column: place, Name: f.Column, Value: f.Value, Wanted: f.Wanted.String(),
			Reason: f.Reason.String(),
			Detail: f.Detail, Hint: mend,
		})
	}
	if o.groups != nil {
		return o.note(o.groups.add(f))
	}
	line := o.record(o.failures.shown(f.File),
		strconv.FormatInt(f.Row, 10), cmp.Or(f.Address, strconv.FormatInt(f.Line, 10)), o.failures.shown(f.Column),
		o.failures.shown(f.Value), f.Wanted.String(),
		f.Reason.String(), o.failures.shown(f.Detail), mend, "")
	if o.turned {
		line = slices.Insert(line, slices.Index(o.failures.header, "from"), o.failures.shown(f.From))
	}
	if o.answers != nil {
		line = append(line, "")
	}
	return o.note(o.failures.write(line))
}

// record puts the file's name before the cells where the source is several files.
func (o *output) record(file string, cells ...string) []string {
	if !o.manyFiles {
		return cells
	}
	return append([]string{file}, cells...)
}

func (o *output) asideRow(r convert.AsideRow) error {
	if o.page != nil {
		o.page.Around.Add(r)
	}
	row := ""
	if r.Row > 0 {
		row = strconv.FormatInt(r.Row, 10)
	}
	record := o.record(o.aside.shown(r.File), row, strconv.FormatInt(r.Line, 10), r.Reason)
	if o.aside.indirect() {
		cells, err := json.Marshal(r.Cells) // as many columns as there are is no table
		if err != nil {
			return o.note(err)
		}
		return o.note(o.aside.write(append(record, string(cells))))
	}
	for _, cell := range r.Cells {
		record = append(record, show.Guarded(cell))
	}
	return o.note(o.aside.write(record))
}

func (o *output) note(err error) error {
	if err != nil && o.err == nil {
		o.err = err
	}
	return err
}

// Abort leaves nothing of what has not appeared.
func (o *output) Abort() {
	o.Set.Abort()
	if u, ok := o.sink.Sink.(interface{ Undone() error }); ok && o.undone != nil {
		if err := u.Undone(); err != nil {
			o.undone(err)
		}
	}
}

// describe prepares the descriptions of the output that are asked for.
func (o *output) describe(c *conversion, p *plan.Plan) error {
	if c.metadata {
		doc, err := show.Metadata(p, o.path, formatOf(o.path).delimiter)
		if err == nil {
			err = o.Write(o.path+metadataEnding, doc)
		}
		if err != nil {
			return outputError(err)
		}
		o.described = append(o.described, o.path+metadataEnding)
	}
	if c.ddl != "" {
		if err := o.Write(o.stem+ddlEnding, []byte(c.definition(p))); err != nil {
			return outputError(err)
		}
		o.described = append(o.described, o.stem+ddlEnding)
	}
	return nil
}

// keepLedger prepares the file of the ledger, if one is asked for.
func (o *output) keepLedger(path string, l *convert.Ledger, w show.Written) error {
	if path == "" {
		return nil
	}
	doc, err := show.LedgerJSON(l, w)
	if err == nil {
		err = o.Write(path, doc)
	}
	if err != nil {
		return outputError(err)
	}
	return nil
}

// keepReport prepares the file of the report, if one is asked for.
func (a *app) keepReport(o *output, c *conversion, sources ...*report.Source) error {
	if !c.report.wanted() {
		return nil
	}
	doc, err := a.reportPage(sources...)
	if err == nil {
		err = o.Write(c.report.path, doc)
	}
	if err != nil {
		return outputError(err)
	}
	return nil
}

// complete adds what is known only at the end, and writes all that is left to the disk, so that only renames
// are left to commit.
func (o *output) complete(l *convert.Ledger) error {
	if o.book != nil {
		o.book.Ledger(show.LedgerRecords(l))
	}
	if o.groups != nil {
		for _, record := range o.groups.records() {
			if o.answers != nil {
				record = append(record, "")
			}
			if err := o.failures.write(record); err != nil {
				return outputError(err)
			}
		}
	}
	if o.plan != "" {
		if err := o.Write(o.plan, o.planText); err != nil {
			return outputError(err)
		}
	}
	if err := o.keepAnswers(); err != nil {
		return outputError(err)
	}
	if err := o.Finish(); err != nil {
		return outputError(err)
	}
	for _, l := range []*list{o.failures, o.aside} {
		if err := o.makeTable(l); err != nil {
			return targetError(err)
		}
	}
	return nil
}

// makeTable makes the table that a list becomes, beside that of the rows.
func (o *output) makeTable(l *list) error {
	if l.table == "" {
		return nil
	}
	lines := io.Reader(strings.NewReader(strings.Join(l.header, ",") + "\n"))
	f, err := l.Open()
	if err != nil {
		return err
	}
	if f != nil {
		defer f.Close()
		lines = f
	}
	return o.server.AddList(l.table, l.header, slices.Index(l.header, "row"), lines)
}

// written tells what has been written, when the output is complete.
func (o *output) written() show.Written {
	path := o.path
	if o.streamed {
		path = "-" // and not the file that it is copied from
	}
	w := show.Written{
		Output: path, Plan: o.plan, Described: o.described, Failures: o.failures.Path(),
		SetAside: o.aside.Path(), Report: o.report,
	}
	if w.Formulas = o.formulas(); o.text != nil {
		w.Guarded = o.text.Guarded()
	}
	return w
}

// formulas returns how many cells that were written a spreadsheet would run as formulas.
func (o *output) formulas() int64 {
	if o.text == nil {
		return 0
	}
	return o.text.Formulas()
}
