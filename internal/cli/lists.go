package cli

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"junvo/internal/show"
	"junvo/internal/table"
	"junvo/internal/table/input"
	"junvo/internal/table/wholefile"
	"junvo/internal/value"
)

// A list of failures or of rows set aside is a CSV file, or one in another format that its name says; or it becomes a
// table of a server. It is always written as CSV first, since how long it gets is known only at the end.

// list is a file that is written only if there is a line for it, or what becomes a table of a server.
type list struct {
	*wholefile.Optional
	header []string
	csv    *csv.Writer
	none   bool          // it is not written
	table  string        // "" for a file
	path   string        // of a file in another format than CSV; "" for one in CSV
	format *outputFormat // of that file
	sink   table.Sink    // of that file, once all lines are known
}

// newList begins a list that becomes a table, or is written to a file; to none where both are empty.
func newList(path, table string) *list {
	l := &list{none: path == "" && table == "", table: table}
	if f := formatOf(path); table != "" || path != "" && f != nil && f.delimiter != ',' {
		l.path, l.format = path, f
		path = filepath.Join(os.TempDir(), "junvo-list")
	}
	l.Optional = wholefile.NewOptional(path)
	return l
}

// listEndings are the endings that the names of lists may have.
func listEndings() string {
	var all []string
	for _, f := range outputFormats {
		if f.open != nil {
			all = append(all, f.endings[0])
		}
	}
	return table.Some(all)
}

// checkList says what is wrong with the name of a list. One without an ending that is known is CSV.
func checkList(flag, path string) error {
	if path == "-" {
		return usage("--%s is the name of a file: standard output has the ledger, or the output", flag)
	}
	if f := formatOf(path); path != "" && f != nil && f.open == nil {
		return usage("--%s is a file whose name ends in %s, not a table of a database; see --%s-table", flag, listEndings(),
			flag)
	}
	return nil
}

// indirect reports whether the list is written as CSV first, and becomes something else.
func (l *list) indirect() bool { return l.table != "" || l.format != nil }

// shown returns a text as the list has it. It is the same in files of all formats, so that answers are found in each; a
// spreadsheet may open them, and would run what looks like a formula.
func (l *list) shown(text string) string {
	if l.table != "" {
		return show.Visible(text)
	}
	return show.Guarded(text)
}

func (l *list) write(record []string) error {
	if l.none {
		return nil
	}
	if l.csv == nil {
		l.csv = csv.NewWriter(l)
		if err := l.csv.Write(l.header); err != nil {
			return err
		}
	}
	return l.csv.Write(record)
}

// Finish writes all that is left to the disk.
func (l *list) Finish() error {
	if l.csv == nil {
		return nil
	}
	l.csv.Flush()
	if err := errors.Join(l.csv.Error(), l.Optional.Finish()); err != nil || l.format == nil || l.sink != nil {
		return err
	}
	return l.translate()
}

// translate writes the lines in the format of the file.
func (l *list) translate() error {
	lines, err := l.Open()
	if err != nil {
		return err
	}
	defer lines.Close()
	fields := make([]table.Field, len(l.header))
	for i, name := range l.header {
		if fields[i] = (table.Field{Name: name, Type: value.Text}); name == "row" || name == "count" {
			fields[i].Type = value.Integer
		}
	}
	out, err := wholefile.Create(l.path)
	if err != nil {
		return err
	}
	if l.sink, err = l.format.open(out, l.path, fields, l.format.delimiter); err != nil {
		out.Abort()
		return err
	}
	r := csv.NewReader(lines)
	_, err = r.Read()
	for more := err == nil; more; {
		rows := &table.Rows{Fields: fields, Cells: make([]table.Values, len(fields))}
		for rows.Count < 1000 {
			record, err := r.Read()
			if errors.Is(err, io.EOF) {
				more = false
				break
			}
			if err != nil {
				return err
			}
			for i := range fields {
				rows.Cells[i].AddText([]byte(record[i]))
			}
			rows.Count++
		}
		if err := l.sink.Write(l.sink.Encode(nil, rows), rows); err != nil {
			return err
		}
	}
	return errors.Join(err, l.sink.Finish())
}

// Commit makes the file appear, or removes an older one where there is no line for it. A table appears with that of the
// rows.
func (l *list) Commit() error {
	switch {
	case l.table != "":
		l.Optional.Abort()
		return nil
	case l.format == nil:
		return l.Optional.Commit()
	}
	l.Optional.Abort()
	if l.sink != nil {
		return l.sink.Commit()
	}
	if err := os.Remove(l.path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// Abort leaves nothing behind.
func (l *list) Abort() {
	l.Optional.Abort()
	if l.sink != nil {
		l.sink.Abort()
	}
}

// Path returns where the list appears, "" for none.
func (l *list) Path() string {
	switch {
	case l.table != "":
		return l.table
	case l.format != nil && l.csv != nil:
		return l.path
	case l.format != nil:
		return ""
	}
	return l.Optional.Path()
}

// listReader reads the records of a list that a run has written, in whatever format.
type listReader struct {
	header []string
	next   func() ([]string, error) // io.EOF after the last
	io.Closer
}

// openList opens a list. The header of one that has none is nil.
func openList(path string) (*listReader, error) {
	if f := formatOf(path); f != nil && f.delimiter != ',' {
		return openOtherList(path)
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	in := bufio.NewReaderSize(f, maxListHead)
	if mark, _ := in.Peek(3); string(mark) == "\ufeff" {
		_, _ = in.Discard(len(mark)) // it has been peeked at
	}
	r := csv.NewReader(in)
	r.FieldsPerRecord = -1
	if start, _ := in.Peek(maxListHead); len(start) > 0 { // a spreadsheet may have written it
		first, _, _ := bytes.Cut(start, []byte{'\n'})
		for _, other := range ";\t" {
			if bytes.ContainsRune(first, other) && !bytes.ContainsRune(first, ',') {
				r.Comma = other
			}
		}
	}
	header, err := r.Read()
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, errors.Join(err, f.Close())
	}
	return &listReader{header, r.Read, f}, nil
}

// maxListHead is how long the first line of a list may be, in bytes.
const maxListHead = 4096

// openOtherList opens a list that is no CSV file, as any source.
func openOtherList(path string) (*listReader, error) {
	src, err := input.Open(path, input.Options{})
	if err != nil {
		return nil, err
	}
	b, row := &table.Block{}, 0
	next := func() ([]string, error) {
		for row == b.Rows {
			b.Reset()
			if err := src.Next(b); err != nil {
				return nil, err
			}
			src.Split(b)
			row = 0
		}
		row++
		record := make([]string, b.Width)
		for c := range record {
			record[c] = string(b.Cell(row-1, c))
		}
		return record, nil
	}
	return &listReader{src.Info().Names, next, src}, nil
}
