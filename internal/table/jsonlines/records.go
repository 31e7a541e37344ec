package jsonlines

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"

	"junvo/internal/table"
	"junvo/internal/table/records"
	"junvo/internal/value"
)

// reader reads records one by one, of JSON lines or of an array. It implements [records.Reader].
type reader struct {
	io.Closer
	d     *jsontext.Decoder
	lines *lineCounter
	begun bool
	array bool
	paths map[string]map[string]string // the names of columns by what they stand in, and their key
	list  string                       // the list of records within the one record that there is
	// header has the names of the columns of rows that are arrays, whose first has them.
	header []string
	rows   bool // the records are arrays, or bare values
	bare   bool
	some   bool  // there was a record
	read   int64 // records that have begun to be read
	// namesOnly says that nobody asks for the values of records other than the first.
	namesOnly bool
	rec       records.Record // that is read
}

// newDecoder reads JSON in which names may stand twice and texts may have half a character, which is a matter of its cell.
func newDecoder(r io.Reader) *jsontext.Decoder {
	return jsontext.NewDecoder(r, jsontext.AllowDuplicateNames(true), jsontext.AllowInvalidUTF8(true))
}

// errBytes are bytes that are no text at all: then the file is in another encoding.
var errBytes = errors.New("there are bytes that are no UTF-8, which JSON is (RFC 8259): name the encoding with --encoding")

var errKey = errors.New("a key has half a character, so that its column has no name")

// textOf returns a text. Half a character, as in "\ud83d", is a byte that is no text, so that the cell fails.
func textOf(quoted jsontext.Value) (string, error) {
	text, err := jsontext.AppendUnquote(nil, quoted)
	switch {
	case err == nil:
	case utf8.Valid(quoted):
		text = bytes.ReplaceAll(text, []byte("\ufffd"), []byte{0xff})
	default:
		return "", errBytes
	}
	return string(text), nil
}

func newRecords(f io.ReadCloser, list string, header []string) *reader {
	l := &lineCounter{r: f, line: 1}
	d := newDecoder(l)
	return &reader{Closer: f, d: d, lines: l, paths: map[string]map[string]string{}, list: list, header: header}
}

// shape says in what form the records stand, and how that is known.
func (r *reader) shape(list string) (how, why string) {
	switch {
	case list != "":
		if r.rows {
			return "JSON array", fmt.Sprintf("it is one record, which holds the list of rows %q", list)
		}
		return "JSON array", fmt.Sprintf("it is one record, which holds the list of records %q", list)
	case r.bare:
		return "JSON array", "it is an array of bare values: one column"
	case r.rows && r.header != nil:
		return "JSON array", "it is an array of arrays, the first of which has the names"
	case r.rows:
		return "JSON array", "it is an array of arrays, none of which has names"
	case r.array:
		return "JSON array", "it begins with an array of records"
	}
	return "JSON lines", "it begins with a record"
}

// Read reads the next record. The error is io.EOF after the last.
func (r *reader) Read() (*records.Record, error) {
	if !r.begun {
		if err := r.begin(); err != nil {
			return nil, err
		}
	}
	switch kind := r.d.PeekKind(); {
	case kind == 0:
		_, err := r.d.ReadToken()
		if errors.Is(err, io.EOF) && !r.array {
			return nil, io.EOF
		}
		return nil, r.wrong(err)
	case r.array && kind == ']':
		return nil, r.end()
	case r.array && kind != '{':
		return r.row(kind)
	}
	t, err := r.d.ReadToken()
	if err != nil {
		return nil, r.wrong(err)
	}
	rec := r.record(r.lines.at(r.d.InputOffset() - 1))
	r.some = true
	if t.Kind() != '{' || r.rows {
		return nil, fmt.Errorf("line %d: a record is written { … }", rec.Line)
	}
	if err := r.values(rec, "", 0); err != nil {
		return nil, err
	}
	return rec, nil
}

// begin steps to the first record.
func (r *reader) begin() error {
	r.begun = true
	r.array = r.lines.array()
	if r.list != "" {
		r.array = true
		return r.find("", 0)
	}
	if r.array {
		if _, err := r.d.ReadToken(); err != nil {
			return r.wrong(err)
		}
	}
	return nil
}

// find steps into the list of records.
func (r *reader) find(prefix string, depth int) error {
	if t, err := r.d.ReadToken(); err != nil || t.Kind() != '{' {
		return fmt.Errorf("it holds no list %q", r.list)
	}
	for r.d.PeekKind() == '"' && depth < maxDepth {
		key, err := r.d.ReadToken()
		if err != nil {
			return r.wrong(err)
		}
		name := r.path(prefix, key.String())
		switch kind := r.d.PeekKind(); {
		case name == r.list && kind == '[':
			_, err := r.d.ReadToken()
			return err
		case kind == '{' && strings.HasPrefix(r.list, name+"."):
			return r.find(name+".", depth+1)
		}
		if err := r.d.SkipValue(); err != nil {
			return r.wrong(err)
		}
	}
	return fmt.Errorf("it holds no list %q", r.list)
}

// end looks at what follows the array of the records: nothing does, or it is not all there is.
func (r *reader) end() error {
	if _, err := r.d.ReadToken(); err != nil {
		return r.wrong(err)
	}
	if r.list != "" {
		return io.EOF
	}
	if _, err := r.d.ReadToken(); !errors.Is(err, io.EOF) {
		return fmt.Errorf("line %d: more follows the array: one array of records is read, or a record on each line",
			r.lines.at(r.d.InputOffset()))
	}
	return io.EOF
}

// row reads an element of the array that is no record: an array, whose values are the cells of a
// row, or a bare value.
func (r *reader) row(kind jsontext.Kind) (*records.Record, error) {
	first := !r.rows
	if r.some || !first && r.bare != (kind != '[') {
		if _, err := r.d.ReadToken(); err != nil {
			return nil, r.wrong(err)
		}
		return nil, fmt.Errorf("line %d: the elements of the array are not of one kind: records, arrays or bare values",
			r.lines.at(r.d.InputOffset()-1))
	}
	r.rows, r.bare = true, kind != '['
	rec := r.record(0)
	if kind != '[' {
		if err := r.value(rec, "value", 0); err != nil {
			return nil, err
		}
		rec.Line = r.lines.at(r.d.InputOffset() - 1)
		return rec, nil
	}
	if _, err := r.d.ReadToken(); err != nil {
		return nil, r.wrong(err)
	}
	rec.Line = r.lines.at(r.d.InputOffset() - 1)
	for n := 0; r.d.PeekKind() != ']'; n++ {
		name := fmt.Sprintf("column %d", n+1)
		if n < len(r.header) {
			name = r.header[n]
		}
		if err := r.value(rec, name, 0); err != nil {
			return nil, err
		}
	}
	if _, err := r.d.ReadToken(); err != nil {
		return nil, r.wrong(err)
	}
	if first && r.header == nil && rec.Names != nil && allNames(rec) {
		for _, c := range rec.Cells {
			r.header = append(r.header, c.Text)
		}
		return r.Read()
	}
	return rec, nil
}

// allNames reports whether all cells are texts that can be names: none of them twice, none a number.
func allNames(rec *records.Record) bool {
	seen := map[string]bool{}
	for _, c := range rec.Cells {
		if c.Kind != value.StoredText || strings.Trim(c.Text, "0123456789.,- ") == "" || seen[c.Text] {
			return false
		}
		seen[c.Text] = true
	}
	return true
}

// values reads the values of a record whose brace has been read, and its other brace.
func (r *reader) values(rec *records.Record, prefix string, depth int) error {
	if depth > maxDepth {
		return fmt.Errorf("line %d: records stand within each other more than %d deep", rec.Line, maxDepth)
	}
	for {
		if r.d.PeekKind() == '}' {
			if _, err := r.d.ReadToken(); err != nil {
				return r.wrong(err)
			}
			return nil
		}
		quoted, err := r.d.ReadValue()
		if err != nil {
			return r.wrong(err)
		}
		key, err := textOf(quoted)
		switch {
		case err != nil:
			return r.wrong(err)
		case !utf8.ValidString(key):
			return r.wrong(errKey)
		case len(key) > maxKey:
			return fmt.Errorf("line %d: a key is longer than %d KB", rec.Line, maxKey>>10)
		}
		name := r.path(prefix, key)
		if r.namesOnly && r.read > 1 && r.d.PeekKind() != '{' {
			if err := r.d.SkipValue(); err != nil {
				return r.wrong(err)
			}
			rec.Add(name, records.Cell{})
			continue
		}
		if err := r.value(rec, name, depth); err != nil {
			return err
		}
	}
}

// value reads one value and adds it under a name.
func (r *reader) value(rec *records.Record, name string, depth int) error {
	if r.d.PeekKind() == '[' {
		v, err := r.d.ReadValue()
		if err == nil {
			err = v.Compact()
		}
		if err != nil {
			return r.wrong(err)
		}
		rec.Add(name, records.Cell{Text: string(v)})
		return nil
	}
	if r.d.PeekKind() == '"' {
		v, err := r.d.ReadValue()
		if err != nil {
			return r.wrong(err)
		}
		text, err := textOf(v)
		if err != nil {
			return r.wrong(err)
		}
		rec.Add(name, records.Cell{Text: text})
	} else {
		t, err := r.d.ReadToken()
		if err != nil {
			return r.wrong(err)
		}
		if t.Kind() != '{' {
			rec.Add(name, cellOf(t))
		} else if err := r.values(rec, name+".", depth+1); err != nil {
			return err
		}
	}
	if n := len(rec.Cells); n > 0 && len(rec.Cells[n-1].Text) > table.MaxCell {
		return fmt.Errorf("line %d: a value is longer than %d MB", rec.Line, table.MaxCell>>20)
	}
	return nil
}

// record returns the one record that is used for all.
func (r *reader) record(line int64) *records.Record {
	r.read++
	r.rec = records.Record{Names: r.rec.Names[:0], Cells: r.rec.Cells[:0], Line: line}
	return &r.rec
}

// path returns the name of a column; each is made once.
func (r *reader) path(prefix, key string) string {
	if prefix == "" {
		return key
	}
	keys := r.paths[prefix]
	if keys == nil {
		keys = map[string]string{}
		r.paths[prefix] = keys
	}
	name, known := keys[key]
	if !known {
		name = prefix + key
		keys[key] = name
	}
	return name
}

// wrong says where JSON is wrong.
func (r *reader) wrong(err error) error {
	var syntax *jsontext.SyntacticError
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return fmt.Errorf("line %d: the JSON is cut off", r.lines.at(r.lines.seen))
	}
	if errors.As(err, &syntax) {
		if strings.Contains(syntax.Err.Error(), "UTF-8") {
			return fmt.Errorf("line %d: %w", r.lines.at(syntax.ByteOffset), errBytes)
		}
		return fmt.Errorf("line %d: this is no JSON: %w", r.lines.at(syntax.ByteOffset), syntax.Err)
	}
	return fmt.Errorf("line %d: %w", r.lines.at(r.d.InputOffset()), err)
}

// lineCounter keeps where lines end that have been read and not yet asked for.
type lineCounter struct {
	r    io.Reader
	head []byte // what was read to see what it is
	seen int64
	ends []int64
	line int64
}

func (l *lineCounter) Read(p []byte) (n int, err error) {
	if len(l.head) > 0 {
		n = copy(p, l.head)
		l.head = l.head[n:]
	} else {
		n, err = l.r.Read(p)
	}
	for i, b := range p[:n] {
		if b == '\n' {
			l.ends = append(l.ends, l.seen+int64(i))
		}
	}
	l.seen += int64(n)
	return n, err
}

// array reports whether the text begins with an array. It takes off a byte order mark.
func (l *lineCounter) array() bool {
	buf := make([]byte, 4096)
	n, _ := io.ReadFull(l.r, buf) // an error comes again
	l.head = bytes.TrimPrefix(buf[:n], []byte("\ufeff"))
	rest := bytes.TrimLeft(l.head, " \t\r\n")
	return len(rest) > 0 && rest[0] == '['
}

// at returns the line of an offset. Offsets are asked for in order.
func (l *lineCounter) at(offset int64) int64 {
	k := 0
	for k < len(l.ends) && l.ends[k] < offset {
		k++
	}
	l.line += int64(k)
	l.ends = l.ends[:copy(l.ends, l.ends[k:])]
	return l.line
}
