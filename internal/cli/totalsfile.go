package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"

	"junvo/internal/plan"
	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// writeTotals writes the totals to a file.
func (a *app) writeTotals(
	ctx context.Context, t *totalsFlags, fields []table.Field, lines int, record func(i int) []string,
) error {
	c := &conversion{output: t.output, guard: t.guard}
	o := &output{path: t.output}
	if t.guard && formatOf(t.output).delimiter == 0 {
		return errGuard
	}
	file, part := c.target()
	sink, err := o.newSink(file, part, fields, c)
	if err != nil {
		return targetError(err)
	}
	if exact := exactFields(sink, fields, lines, record); exact != nil {
		sink.Abort()
		if sink, err = o.newSink(file, part, exact, c); err != nil {
			return targetError(err)
		}
		fields = exact
	}
	defer sink.Abort()
	const most = 1000
	for from := 0; from < lines; from += most {
		rows := &table.Rows{Fields: fields, Count: min(most, lines-from), Cells: make([]table.Values, len(fields))}
		for line := range rows.Count {
			for i, text := range record(from + line) {
				rows.Cells[i].AddText([]byte(text))
			}
		}
		if err := sink.Write(sink.Encode(nil, rows), rows); err != nil {
			return outputError(err)
		}
	}
	if err := sink.Finish(); err != nil {
		return outputError(err)
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err := wholefile.Committing(sink.Commit); err != nil {
		return outputError(err)
	}
	if n := o.formulas(); n > 0 && !t.guard {
		fmt.Fprintf(a.err, "%s of %s would be run as formulas by a spreadsheet: --guard-formulas puts an apostrophe before "+
			"them\n", show.Plural(n, "cell"), show.Visible(t.output))
	}
	return nil
}

// exactFields returns the columns with text in place of a type of which the format can't hold a value exactly, nil
// where it can hold all: a sum is never rounded.
func exactFields(sink table.Sink, fields []table.Field, lines int, record func(i int) []string) (exact []table.Field) {
	h, ok := sink.(table.Holder)
	for line := range lines {
		if !ok {
			break
		}
		for i, text := range record(line) {
			if text == "" || fields[i].Type == value.Text || h.Holds(fields[i].Type, []byte(text)) == "" {
				continue
			}
			if exact == nil {
				exact = slices.Clone(fields)
			}
			exact[i] = table.Field{Name: fields[i].Name, Type: value.Text}
		}
	}
	return exact
}

// readRecords reads a CSV file that somebody gave, what says of what.
func readRecords(path, what string) ([][]string, error) {
	text, err := readText(path)
	if err != nil {
		return nil, usage("can't read %s: %w", what, err)
	}
	records, err := plan.Records(text)
	if err != nil {
		return nil, usage("%s: %w", filepath.Base(path), err)
	}
	return records, nil
}
