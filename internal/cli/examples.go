package cli

import (
	"context"
	"path/filepath"
	"strconv"
	"strings"

	"junvo/internal/profile"
	"junvo/internal/teach"
)

// cutArrow takes an example apart: what stands before the last arrow, and the result after it.
func cutArrow(flag, text string) (before, result string, err error) {
	at := strings.LastIndex(text, "=>")
	if at < 0 {
		return "", "", usage("--%s takes a text, an arrow and the result, as in 'lot 88 / crate 51 => 8851', not %q", flag,
			text)
	}
	return strings.TrimSuffix(text[:at], " "), strings.TrimSpace(text[at+2:]), nil
}

// readExamples reads all examples: of texts, of files and of rows.
func (a *app) readExamples(ctx context.Context, l *dialogue, t *teachFlags) error {
	var cells [][]string
	var results []string
	add := func(flag, text, result string) error {
		row := []string{text}
		if len(l.columns) > 1 {
			row = strings.Split(text, " | ")
		}
		if len(row) != len(l.columns) {
			return usage("--%s %q has %s, and there are %d columns: separate them by ' | '", flag, text,
				profile.Counted(int64(len(row)), "text", "texts"), len(l.columns))
		}
		cells, results = append(cells, row), append(results, result)
		return nil
	}
	for _, e := range t.examples {
		text, result, err := cutArrow("example", e)
		if err != nil {
			return err
		}
		if err := add("example", text, result); err != nil {
			return err
		}
	}
	for _, text := range t.not {
		if err := add("not", text, ""); err != nil {
			return err
		}
	}
	if t.file != "" {
		records, err := readRecords(t.file, "the examples")
		if err != nil {
			return err
		}
		for n, r := range records[1:] {
			if len(r) != len(l.columns)+1 {
				return usage("%s: line %d has %d cells, and is to have %d: the texts, and the result last", filepath.Base(t.file),
					n+2, len(r), len(l.columns)+1)
			}
			cells, results = append(cells, r[:len(r)-1]), append(results, strings.TrimSpace(r[len(r)-1]))
		}
	}
	texts, err := teach.Texts(ctx, l.task.Sources, l.columns, l.as, cells)
	if err != nil {
		return err
	}
	for i := range texts {
		l.task.Examples = append(l.task.Examples, teach.Example{Texts: texts[i], Result: results[i]})
	}
	return a.readRows(ctx, l, t.rows)
}

// readRows reads the examples that are given by the numbers of their rows.
func (a *app) readRows(ctx context.Context, l *dialogue, rows []string) error {
	if len(rows) == 0 {
		return nil
	}
	results := map[int64]string{}
	var order []int64
	for _, text := range rows {
		number, result, err := cutArrow("row", text)
		if err != nil {
			return err
		}
		row, err := strconv.ParseInt(strings.TrimSpace(number), 10, 64)
		if err != nil || row < 1 {
			return usage("--row takes the number of a row, from 1, an arrow and the result, as in '17 => 8851', not %q", text)
		}
		if was, twice := results[row]; twice && was != result {
			return usage("--row says of row %d that %q and that %q comes out", row, was, result)
		}
		results[row] = result
		order = append(order, row)
	}
	picked := &teach.Picked{Sources: l.task.Sources, Texts: map[int64][]string{}}
	for _, row := range order {
		picked.Texts[row] = nil
	}
	if err := l.run(a)(ctx, picked); err != nil {
		return err
	}
	for _, row := range order {
		texts := picked.Texts[row]
		if texts == nil {
			return usage("there is no row %d that is data; --row takes the number of one, counted from 1 below the header", row)
		}
		l.task.Examples = append(l.task.Examples, teach.Example{Texts: texts, Result: results[row]})
	}
	return nil
}
