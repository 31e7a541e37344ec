package input

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"os"

	"golang.org/x/text/transform"

	"junvo/internal/table"
	"junvo/internal/table/delim"
	"junvo/internal/table/dump"
	"junvo/internal/table/jsonlines"
	"junvo/internal/table/keyed"
	"junvo/internal/table/page"
	"junvo/internal/table/records"
	"junvo/internal/table/workbook"
	"junvo/internal/table/xmlrecords"
)

// Formats of text that are read more than once: for what there is in them, and for the rows. What can be read once only
// is kept in a temporary file meanwhile.

// markup is such a format, known by how files begin or by its name.
type markup struct {
	format string // one of Formats
	looks  func(head []byte) bool
	open   func(open reopen, f *file, o Options) (closer, error)
	parts  func(open reopen) ([]string, error)
}

// reopen opens a file anew, read through its compression.
type reopen func() (io.ReadCloser, error)

// closer is a source that is to be closed.
type closer interface {
	table.Source
	io.Closer
}

// markups is the catalogue of them, in the order in which they are thought of.
func markups() []markup {
	return []markup{
		{"json", jsonlines.Looks, openRecords, nil},
		{"html", page.Looks, openPage, partsOfPage},
		{"xml", isFlat, openFlat, func(open reopen) ([]string, error) { return workbook.FlatSheets(open) }},
		{"xml", xmlrecords.Looks, openXML, nil},
		{"dump", dump.Looks, openDump, func(open reopen) ([]string, error) { return dump.Tables(open) }},
		{"logfmt", keyed.LooksLog, keyedRecords("logfmt", "each line is made of keys and values",
			func(f io.ReadCloser) records.Reader { return keyed.NewLog(f) }), nil},
		{"key-value", keyed.LooksBlocks, keyedRecords("keys and values", "each line has a key, and blank lines stand "+
			"between records",
			func(f io.ReadCloser) records.Reader { return keyed.NewBlocks(f) }), nil},
	}
}

// markupOf returns the format that a file is by how it begins, or by what is told of it; nil for none.
func markupOf(head []byte, o *Options) (*markup, error) {
	head, err := o.decode(head)
	if err != nil {
		return nil, err
	}
	var told *markup
	for _, m := range markups() {
		if m.looks(head) && (o.Format == "" || o.Format == m.format) {
			return &m, nil
		}
		if o.Format == m.format {
			told = &m
		}
	}
	return told, nil
}

// decode returns the start of a text in UTF-8. In which encoding it is, is told, or shown where that has two bytes or more
// for each character; what else a format says of its encoding, it reads by itself.
func (o *Options) decode(head []byte) ([]byte, error) {
	name, decoder, err := delim.Decoder(o.Encoding, head)
	if err != nil || decoder == nil {
		return head, err
	}
	o.charset, o.decoder = name, func() transform.Transformer {
		_, d, _ := delim.Decoder(name, nil)
		return d
	}
	head, _, _ = transform.Bytes(decoder, head) // the last character may be cut off
	return head, nil
}

// openMarkup opens a file that has begun to be read.
func (s *Source) openMarkup(m *markup, r *stream, f *file, o Options) error {
	open, err := s.again(r, f)
	if err != nil {
		return err
	}
	src, err := m.open(m.decoded(open, &o), f, o)
	if err != nil {
		return err
	}
	s.onClose(src.Close)
	if o.decoder != nil {
		src.Info().Encoding = o.charset
	}
	s.use(src, f)
	return nil
}

// again returns what opens a file anew.
func (s *Source) again(r *stream, f *file) (reopen, error) {
	again := f
	if f.once {
		path, err := s.spool(f, r)
		if err != nil {
			return nil, err
		}
		again = &file{open: func() (io.ReadCloser, error) { return os.Open(path) }}
	}
	return func() (io.ReadCloser, error) { return again.stream(&s.read) }, nil
}

// decoded returns what opens the file in UTF-8.
func (m *markup) decoded(r reopen, o *Options) reopen {
	if o.decoder == nil && o.Encoding == "" {
		return r
	}
	return func() (io.ReadCloser, error) {
		in, err := r()
		if err != nil {
			return nil, err
		}
		out := io.Reader(in)
		if o.decoder != nil {
			out = transform.NewReader(in, o.decoder())
		}
		if m.format == "xml" {
			out = undeclared(out)
		}
		return struct {
			io.Reader
			io.Closer
		}{out, in}, nil
	}
}

// undeclared puts spaces in place of the declaration of XML, whose encoding is no longer that of the text.
func undeclared(r io.Reader) io.Reader {
	const longest = 1024
	in := bufio.NewReaderSize(r, longest)
	head, _ := in.Peek(longest) // what can't be read here can't be read later either
	start := len(head) - len(bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n"))
	end := bytes.Index(head, []byte("?>"))
	if end < 0 || !bytes.HasPrefix(head[start:], []byte("<?xml")) {
		return in
	}
	for i := start; i < end+len("?>"); i++ {
		if head[i] != '\n' {
			head[i] = ' '
		}
	}
	return in
}

func openRecords(open reopen, f *file, _ Options) (closer, error) {
	return jsonlines.Open(open, f.name, f.part, f.size)
}

func openPage(open reopen, f *file, o Options) (closer, error) {
	encoding := ""
	if o.decoder != nil || o.Encoding != "" {
		encoding = "utf-8" // by now
	}
	return page.Open(open, f.name, f.size, f.part, page.Options{Encoding: encoding, HeaderRow: o.HeaderRow})
}

func partsOfPage(open reopen) ([]string, error) { return page.Names(open) }

// openXML opens the element that occurs again and again, or the one that is named.
func openXML(open reopen, f *file, _ Options) (closer, error) {
	element, why, err := xmlrecords.Element(open, f.part)
	if err != nil {
		return nil, err
	}
	return records.Open(func() (records.Reader, error) {
		in, err := open()
		if err != nil {
			return nil, err
		}
		return xmlrecords.NewReader(in, element), nil
	}, table.Info{
		Name: f.name, Format: "XML", Bytes: f.size, Encoding: "utf-8",
		Decisions: []table.Decision{
			{What: "format", Value: "XML", Why: "it begins as XML does"},
			{What: "record", Value: element, Why: why},
		},
	})
}

// openDump opens a table of a dump of a database.
func openDump(open reopen, f *file, _ Options) (closer, error) {
	return dump.Open(open, f.part, table.Info{
		Name: f.name, Format: "database dump", Bytes: f.size, Encoding: "utf-8",
		Decisions: []table.Decision{{What: "format", Value: "database dump", Why: "it begins with statements of SQL"}},
	})
}

// keyedRecords opens records of keys and values.
func keyedRecords(format, why string, read func(io.ReadCloser) records.Reader) func(reopen, *file, Options) (closer,
	error) {
	return func(open reopen, f *file, _ Options) (closer, error) {
		if f.part != "" {
			return nil, &Error{
				f.path, fmt.Errorf("records of keys and values have no part %q", f.part),
				"Leave out what stands after #.",
			}
		}
		return records.Open(func() (records.Reader, error) {
			in, err := open()
			if err != nil {
				return nil, err
			}
			return read(in), nil
		}, table.Info{
			Name: f.name, Format: format, Bytes: f.size, Encoding: "utf-8",
			Decisions: []table.Decision{{What: "format", Value: format, Why: why}},
		})
	}
}

// isFlat reports whether a file is a workbook in one file of XML.
func isFlat(head []byte) bool {
	return bytes.HasPrefix(bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n"), []byte("<?xml")) &&
		bytes.Contains(head, []byte(workbook.FlatNamespace))
}

func openFlat(open reopen, f *file, o Options) (closer, error) {
	src, err := workbook.OpenFlat(open, f.size, f.name, f.part, workbook.Options{HeaderRow: o.HeaderRow})
	if err != nil {
		return nil, err
	}
	return struct {
		*workbook.Source
		closing
	}{src, func() error { return nil }}, nil
}

// closing is a function that closes.
type closing func() error

// Close implements [io.Closer].
func (c closing) Close() error { return c() }
