package cli

import (
	"path/filepath"
	"slices"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/jsonlines"
	"junvo/internal/table/parquet"
	"junvo/internal/table/postgres"
	"junvo/internal/table/sqlite"
	"junvo/internal/table/wholefile"
	"junvo/internal/table/workbook"
)

// outputFormat is a format that outputs are written in.
type outputFormat struct {
	endings   []string // of the names of files
	delimiter byte     // of delimited text
	inPart    bool     // a name after # says which part of the file
	server    bool     // it is a table of a server, and no file
	sheet     string   // what stands behind the name of a file of several sheets for that of the rows
	typedOnly bool     // a column of numbers, dates or truth values can't hold other text
	open      func(f *wholefile.File, path string, fields []table.Field, d byte) (table.Sink, error)
}

// outputFormats is the catalogue of formats that outputs are written in.
var outputFormats = []outputFormat{
	{endings: []string{".csv"}, delimiter: ',', open: openDelimited},
	{endings: []string{".tsv", ".tab"}, delimiter: '\t', open: openDelimited},
	{endings: []string{".jsonl", ".ndjson"}, open: func(f *wholefile.File, _ string, fields []table.Field,
		_ byte,
	) (table.Sink, error) {
		return jsonlines.NewSink(f, fields)
	}},
	{endings: []string{".xlsx"}, sheet: "#" + workbook.RowsSheet, open: func(f *wholefile.File, _ string, fields []table.Field, _ byte) (table.Sink,
		error,
	) {
		return workbook.NewSink(f, fields)
	}},
	{endings: []string{".parquet"}, typedOnly: true, open: func(f *wholefile.File, path string, fields []table.Field,
		_ byte,
	) (table.Sink, error) {
		return parquet.NewSink(f, filepath.Dir(path), fields)
	}},
	{endings: []string{".db", ".sqlite", ".sqlite3"}, inPart: true},
}

// serverFormat is that of outputs in a database of a server.
var serverFormat = outputFormat{server: true, inPart: true, typedOnly: true}

func openDelimited(f *wholefile.File, _ string, fields []table.Field, d byte) (table.Sink, error) {
	return delim.NewSink(f, d, fields)
}

// formatOf returns the format for the name of an output, nil for none.
func formatOf(path string) *outputFormat {
	if postgres.Is(path) {
		return &serverFormat
	}
	file, _, _ := strings.Cut(path, "#")
	ending := strings.ToLower(filepath.Ext(file))
	for i := range outputFormats {
		if slices.Contains(outputFormats[i].endings, ending) {
			return &outputFormats[i]
		}
	}
	return nil
}

// outputEndings lists the endings that outputs may have.
func outputEndings() string {
	var all []string
	for _, f := range outputFormats {
		all = append(all, f.endings[0])
	}
	return table.Some(all)
}

// target returns the file of the output, and the table in it where it is a database.
func (c *conversion) target() (path, part string) {
	f := formatOf(c.output)
	switch {
	case f == nil || !f.inPart:
		return c.output, ""
	case f.server:
		return postgres.Part(c.output)
	}
	path, part, named := strings.Cut(c.output, "#")
	if !named {
		part = strings.TrimSuffix(filepath.Base(path), filepath.Ext(path))
	}
	return path, part
}

// checkTarget says what is wrong with the output's name, or with what the plan wants of it.
func (c *conversion) checkTarget(p *plan.Plan) error {
	f := formatOf(c.output)
	switch {
	case f == nil:
		return usage("the name of the output says what to write, and %q ends in none of %s", c.output, outputEndings())
	case f.delimiter == 0 && c.guard:
		return errGuard
	case f.delimiter == 0 && c.metadata:
		return usage("--metadata describes CSV and TSV, and %s is neither", c.output)
	case !f.inPart && c.replaceTable:
		return usage("--replace-table goes with an output in a database")
	case !f.server && (c.appendTo || c.failuresTable != "" || c.asideTable != ""):
		return usage("--append, --failures-table and --set-aside-table go with an output in a PostgreSQL database")
	case c.appendTo && c.replaceTable:
		return usage("--append and --replace-table exclude each other")
	case c.failuresTable != "" && (c.failures != "" || c.fixes != ""):
		return usage("--failures-table makes a table of the failures, and --failures and --fixes go with a file of them")
	case c.asideTable != "" && c.aside != "":
		return usage("--set-aside-table makes a table of the rows set aside, and --set-aside a file")
	case f.server:
		if err := postgres.Check(c.output); err != nil {
			return usage("the output can't be used: %w", err)
		}
		if _, part := c.target(); part == "" {
			return usage("%s names no table; say which after #, as in postgres://host/database#clean.landings",
				postgres.Shown(c.output))
		}
	}
	if path, part := c.target(); f.inPart && !f.server && (part == "" || filepath.Base(path) == filepath.Ext(path)) {
		return usage("%s names no table; say which after #, as in store.db#landings", c.output)
	}
	if p == nil || !f.typedOnly {
		return nil
	}
	for _, col := range p.Outputs() {
		if col.OnFailure == plan.FailKeep && !col.Convention.Type.Textual() {
			what := "table of a database"
			if !f.server {
				what = strings.TrimPrefix(f.endings[0], ".") + " file"
			}
			return usage("the plan keeps the text of failed cells of column %q, and a column of %s of a %s can't hold it; "+
				"choose on-failure: blank, or write another format", col.Name, col.Convention.Type, what)
		}
	}
	return nil
}

// newSink opens the sink for an output.
func (o *output) newSink(path, part string, fields []table.Field, c *conversion) (table.Sink, error) {
	format := formatOf(c.output)
	var sink table.Sink
	switch {
	case format.server:
		s, err := postgres.NewSink(path, fields, c.serverTable(part, o.failures, o.aside))
		if err != nil {
			return nil, err
		}
		o.server, sink = s, s
	case format.inPart:
		s, err := sqlite.NewSink(path, fields, sqlite.SinkOptions{Table: part, Replace: c.replaceTable})
		if err != nil {
			return nil, err
		}
		sink = s
	default:
		f, err := wholefile.Create(path)
		if err != nil {
			return nil, err
		}
		if sink, err = format.open(f, path, fields, format.delimiter); err != nil {
			f.Abort()
			return nil, err
		}
	}
	if h, ok := sink.(table.Holder); ok {
		o.holds = h.Holds
	}
	o.book, _ = sink.(*workbook.Sink)
	if o.text, _ = sink.(*delim.Sink); o.text != nil && c.guard {
		o.text.Guard()
	}
	return sink, nil
}

var errGuard = usage("--guard-formulas goes with CSV and TSV; other formats say of every cell that it is text")
