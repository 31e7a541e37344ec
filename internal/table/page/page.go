// Package page reads the tables of web pages (HTML): one of them, with the text of its cells. Cells that span several
// rows have their text in each, so that no row lacks what belongs to it; a heading of several rows becomes one name for
// each column. The page is read as a stream, with the tokenizer of the standard's authors, so that memory does not grow
// with its rows.
//
//	list, err := page.Tables(open)
//	src, err := page.Open(open, "landings.html", size, "2", page.Options{})
package page

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html/charset"
	"golang.org/x/text/transform"

	"junvo/internal/finding"
	"junvo/internal/table"
	"junvo/internal/table/delim"
)

// Options are what the user says about a page; zero values leave it to detection.
type Options struct {
	Encoding  string
	HeaderRow int // the row of the names; 0 to detect, -1 for none
}

// Table is a table of a page.
type Table struct {
	Number        int    // from 1, in the order in which they begin
	Caption       string // what it is called, or the heading above it
	Rows, Columns int
}

// Bounds of what a page may hold.
const (
	maxTables  = 10_000
	maxColumns = 10_000
	maxCaption = 200
)

// ErrNoTable is a page without a table.
var ErrNoTable = errors.New("the page has no table")

// Looks reports whether the start of a file looks like a page.
func Looks(head []byte) bool {
	text := strings.ToLower(strings.TrimLeft(strings.TrimPrefix(string(head), "\ufeff"), " \t\r\n"))
	for strings.HasPrefix(text, "<!--") {
		_, rest, _ := strings.Cut(text, "-->")
		text = strings.TrimLeft(rest, " \t\r\n")
	}
	if strings.HasPrefix(text, "<?xml") {
		_, rest, _ := strings.Cut(text, "?>")
		if text = strings.TrimLeft(rest, " \t\r\n"); !strings.HasPrefix(text, "<!doctype html") &&
			!strings.HasPrefix(text, "<html") {
			return false
		}
	}
	for _, begin := range []string{
		"<!doctype html", "<html", "<head", "<body", "<table", "<div", "<meta ", "<style",
		"<center", "<title", "<p>", "<h1", "<h2",
	} {
		if strings.HasPrefix(text, begin) {
			return true
		}
	}
	return false
}

// decoded opens a page in UTF-8, and says what it was in.
func decoded(open func() (io.ReadCloser, error), told string) (r io.Reader, end io.Closer, encoding, why string,
	err error,
) {
	f, err := open()
	if err != nil {
		return nil, nil, "", "", err
	}
	in := bufio.NewReaderSize(f, 64<<10)
	head, _ := in.Peek(64 << 10) // what can't be read here can't be read later either
	why = "as told"
	if told == "" {
		if told, why = declared(head[:min(len(head), declaration)]), "the page says so"; told == "" {
			why = "its bytes"
		}
	}
	name, decoder, err := delim.Decoder(told, head)
	if err != nil {
		return nil, nil, "", "", errors.Join(err, f.Close())
	}
	if decoder != nil {
		return transform.NewReader(in, decoder), f, name, why, nil
	}
	return in, f, name, why, nil
}

// declaration is in how many bytes a page says in what encoding it is (HTML, "Determining the character encoding").
const declaration = 1000

// declared returns the encoding that a page declares, "" for none. The library also guesses, and does not tell which it
// did: what it answers whatever other bytes there are is declared.
func declared(head []byte) string {
	ascii := bytes.Map(func(r rune) rune {
		if r > 0x7f {
			return -1
		}
		return r
	}, head)
	_, a, _ := charset.DetermineEncoding(append(slices.Clip(head), 0xff), "")
	_, b, _ := charset.DetermineEncoding(append(ascii, "é"...), "")
	if a != b {
		return ""
	}
	return a
}

// Tables returns the tables of a page.
func Tables(open func() (io.ReadCloser, error), o Options) ([]Table, error) {
	r, end, _, _, err := decoded(open, o.Encoding)
	if err != nil {
		return nil, err
	}
	defer end.Close()
	return list(r)
}

// list finds the tables of a page.
func list(r io.Reader) (all []Table, err error) {
	s := newScanner(r)
	for {
		row, err := s.next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		for len(all) < row.table {
			all = append(all, Table{Number: len(all) + 1})
		}
		t := &all[row.table-1]
		t.Rows++
		t.Columns = max(t.Columns, len(row.cells))
	}
	for i := range all {
		if i < len(s.captions) {
			all[i].Caption = s.captions[i]
		}
	}
	return all, nil
}

// Names returns the numbers of the tables that look like data.
func Names(open func() (io.ReadCloser, error)) (names []string, err error) {
	all, err := Tables(open, Options{})
	for i := range all {
		if all[i].isData() {
			names = append(names, strconv.Itoa(all[i].Number))
		}
	}
	return names, err
}

// Name is how a table is named in a list of them.
func (t *Table) Name() string {
	if t.Caption == "" {
		return strconv.Itoa(t.Number)
	}
	return fmt.Sprintf("%d (%s)", t.Number, t.Caption)
}

// isData reports whether a table looks like one of data, and not like one that lays out a page.
func (t *Table) isData() bool { return t.Rows > 1 && t.Columns > 1 }

// choose picks a table by its number or caption, or the only one that looks like data.
func choose(all []Table, part string) (chosen *Table, why string, err error) {
	var names []string
	var data []*Table
	for i := range all {
		t := &all[i]
		if t.isData() {
			data = append(data, t)
			names = append(names, fmt.Sprintf("%s of %d × %d", t.Name(), t.Rows, t.Columns))
		}
		if part != "" && (strconv.Itoa(t.Number) == part || strings.EqualFold(t.Caption, part)) && t.Rows > 0 {
			return t, "as told", nil
		}
	}
	some := table.Some(names)
	switch {
	case len(all) == 0:
		return nil, "", ErrNoTable
	case part != "":
		return nil, "", fmt.Errorf("the page has no table %q; there are %s", part, some)
	case len(data) == 1:
		return data[0], "the only one with several rows and columns", nil
	case len(data) > 1:
		return nil, "", fmt.Errorf("the page has %d tables: name one after #, as in page.html#%d, by its number or "+
			"caption; there are %s",
			len(data), data[0].Number, some)
	}
	widest := slices.MaxFunc(all, func(a, b Table) int { return a.Rows - b.Rows })
	if widest.Rows == 0 {
		return nil, "", ErrNoTable
	}
	return &all[widest.Number-1], "the one with the most rows", nil
}

// Source reads a table of a page. It implements [table.Source].
type Source struct {
	*delim.Source
	rows *lines
	end  io.Closer
	told bool // what was found out at the end
}

// Open reads all of a page to find its tables, and opens it again for the rows of one: by its number or caption, "" for
// the only one that looks like data.
func Open(open func() (io.ReadCloser, error), name string, size int64, part string, o Options) (*Source, error) {
	all, err := Tables(open, o)
	if err != nil {
		return nil, err
	}
	chosen, why, err := choose(all, part)
	if err != nil {
		return nil, err
	}
	r, end, encoding, encodingWhy, err := decoded(open, o.Encoding)
	if err != nil {
		return nil, err
	}
	rows := &lines{s: newScanner(r), table: chosen.Number}
	if err := rows.heading(); err != nil {
		return nil, errors.Join(err, end.Close())
	}
	d := delim.Options{Encoding: "utf-8", Delimiter: string(rune(unitSeparator)), HeaderRow: o.HeaderRow}
	if d.HeaderRow == 0 {
		d.HeaderRow = rows.header
	}
	src, err := delim.Open(rows, name, size, d)
	if err != nil {
		return nil, errors.Join(err, end.Close())
	}
	info := src.Info()
	info.Format, info.Delimiter, info.Quote, info.Encoding = "web page", "", "", encoding
	for i := range info.Above {
		info.Above[i].Text = strings.ReplaceAll(info.Above[i].Text, string(rune(unitSeparator)), " ")
	}
	decisions := []table.Decision{
		{What: "table", Value: chosen.Name(), Why: why}, {What: "encoding", Value: encoding, Why: encodingWhy},
	}
	for _, d := range info.Decisions {
		if d.What == "header" {
			if rows.header > 0 && o.HeaderRow == 0 {
				d.Why = "its cells are headings"
			}
			decisions = append(decisions, d)
		}
	}
	info.Decisions = decisions
	return &Source{Source: src, rows: rows, end: end}, nil
}

// Next implements [table.Source].
func (s *Source) Next(b *table.Block) error {
	err := s.Source.Next(b)
	if err == nil && !s.told && s.rows.ended {
		s.told = true
		if n := s.rows.spanning; n > 0 {
			b.Learned.Notes = append(b.Learned.Notes, table.Note{
				Kind: finding.MergedCells, Count: n,
				Say: fmt.Sprintf("%d cells span several rows or columns: each row has the text of one that spans it, and of "+
					"several columns the first", n),
			})
		}
	}
	return err
}

// Close ends the use of the page.
func (s *Source) Close() error { return s.end.Close() }
