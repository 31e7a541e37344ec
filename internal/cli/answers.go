package cli

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"

	"junvo/internal/character"
	"junvo/internal/convert"
	"junvo/internal/show"
)

// answers are what a person has put into the column fix of a list of failures.
type answers struct {
	fixes   *convert.Fixes
	header  []string
	records []answered
}

// answered is a line of the list with an answer in it.
type answered struct {
	record []string
	answer *convert.Answer
}

// maxAnswers is how many answers there may be: they are kept in memory.
const maxAnswers = 200_000

// of returns the fixes, nil for none.
func (a *answers) of() *convert.Fixes {
	if a == nil {
		return nil
	}
	return a.fixes
}

// readFixes reads the answers of a failures file, for a run of so many files.
func readFixes(path string, files int) (*answers, error) {
	if path == "" {
		return nil, nil
	}
	list, err := openList(path)
	if err != nil {
		return nil, usage("can't read the fixes: %w", err)
	}
	defer list.Close()
	header := list.header
	a := &answers{fixes: convert.NewFixes(show.Guarded), header: header}
	column, value, fix := slices.Index(header, "column"), slices.Index(header, "value"), slices.Index(header, "fix")
	if column < 0 || value < 0 || fix < 0 {
		return nil, usage("%s has no columns column, value and fix: is it a failures file?", path)
	}
	from, file := slices.Index(header, "from"), slices.Index(header, "file")
	if file < 0 && files > 1 && slices.Contains(header, "row") {
		return nil, usage("%s does not say of which file each answer is, and there are %d: give it with the one file that it is of",
			path, files)
	}
	row := slices.Index(header, "row") // a list of groups has none: its answers are for every equal cell
	for {
		record, err := list.next()
		if errors.Is(err, io.EOF) {
			return a, nil
		}
		if err != nil {
			return nil, usage("%s: %w", path, err)
		}
		if len(record) != len(header) {
			return nil, usage("%s: a line has %d cells, and the first has %d", path, len(record), len(header))
		}
		if record[fix] == "" {
			continue
		}
		at := convert.Place{}
		if row >= 0 {
			if at.Row, err = strconv.ParseInt(record[row], 10, 64); err != nil || at.Row < 1 {
				return nil, usage("%s: %q is no number of a row", path, record[row])
			}
		}
		if from >= 0 {
			at.From = record[from]
		}
		if file >= 0 {
			at.File = record[file]
		}
		one, err := a.fixes.Add(at, record[column], record[value], record[fix])
		if err != nil {
			return nil, usage("%s: %w", path, err)
		}
		if len(a.records) == maxAnswers {
			return nil, usage("%s has more than %d answers; give them in several runs, or make them steps of the plan", path,
				maxAnswers)
		}
		a.records = append(a.records, answered{record, one})
	}
}

// keepAnswers adds the answers to the list of failures that they were read from, with whether
// each was used: the next run is to have them, too.
func (o *output) keepAnswers() error {
	if o.answers == nil {
		return nil
	}
	for _, a := range o.answers.records {
		line := make([]string, len(o.failures.header))
		for i, name := range o.failures.header {
			if at := slices.Index(o.answers.header, name); at >= 0 {
				line[i] = a.record[at]
			}
		}
		line[len(line)-1] = a.answer.State()
		if err := o.failures.write(line); err != nil {
			return err
		}
	}
	return nil
}

// maxReported is how many fixes without a failure are named.
const maxReported = 5

// reportUnused says which answers no failure has asked for. Values of private columns, of which
// private tells by their names in the output, are not shown.
func (a *app) reportUnused(fixes *convert.Fixes, private func(string) bool) {
	if fixes == nil {
		return
	}
	if fixes.None() {
		fmt.Fprintln(a.err, "junvo: the list that --fixes names has no answer in its column fix")
	}
	unused := fixes.Unused()
	for i, u := range unused {
		if i == maxReported {
			fmt.Fprintf(a.err, "junvo: and %d more\n", len(unused)-i)
			break
		}
		where := ""
		if u.Row > 0 {
			where = fmt.Sprintf(" of row %d", u.Row)
		}
		value := u.Value
		if private != nil && private(u.Column) {
			value = character.Shape(value)
		}
		value = show.Visible(value)
		fmt.Fprintf(a.err, "junvo: the fix for %q in column %q%s matches no failure\n", value, show.Visible(u.Column), where)
	}
}
