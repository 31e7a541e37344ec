package jsonlines

import (
	"errors"
	"io"
	"slices"
	"strings"

	"github.com/go-json-experiment/json/jsontext"
)

// A response of a web service is often one record with the list that is meant in it, which may be as long as it likes. So
// the first record is walked through before anything of it is kept.

// outline is what the first record of a file holds.
type outline struct {
	alone  bool                // there is nothing else in the file
	lists  []string            // of records, by the names of what they stand in, with dots between
	tables []string            // lists of lists
	widths map[string]int      // of the first row of each table
	texts  map[string][]string // short lists of nothing but texts: they may be the names of columns
	others []string            // values that are none of these
}

// Bounds of what is kept of an outline.
const (
	maxOthers = 100
	maxTexts  = 10_000
)

// outlineOf walks through the first record; nil where the file begins with none, or is damaged within it: then whoever reads
// it says so.
func outlineOf(open func() (io.ReadCloser, error)) (*outline, error) {
	f, err := open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	d := newDecoder(f)
	o := &outline{widths: map[string]int{}, texts: map[string][]string{}}
	if d.PeekKind() != '{' || !o.record(d, "", 0) {
		return nil, nil
	}
	_, err = d.ReadToken()
	o.alone = errors.Is(err, io.EOF)
	return o, nil
}

// record walks through a record, and reports whether it is whole.
func (o *outline) record(d *jsontext.Decoder, prefix string, depth int) bool {
	if _, err := d.ReadToken(); err != nil || depth > maxDepth {
		return false
	}
	for {
		key, err := d.ReadToken()
		if err != nil {
			return false
		}
		if key.Kind() == '}' {
			return true
		}
		name := prefix + key.String()
		ok := true
		switch d.PeekKind() {
		case '{':
			ok = o.record(d, name+".", depth+1)
		case '[':
			ok = o.list(d, name)
		default:
			o.other(name)
			ok = d.SkipValue() == nil
		}
		if !ok {
			return false
		}
	}
}

func (o *outline) other(name string) {
	if len(o.others) < maxOthers {
		o.others = append(o.others, name)
	}
}

// list walks through a list.
func (o *outline) list(d *jsontext.Decoder, name string) bool {
	if _, err := d.ReadToken(); err != nil {
		return false
	}
	switch d.PeekKind() {
	case '{':
		o.lists = append(o.lists, name)
	case '[':
		o.tables = append(o.tables, name)
		if _, err := d.ReadToken(); err != nil {
			return false
		}
		for d.PeekKind() != ']' {
			if d.PeekKind() == 0 || d.SkipValue() != nil {
				return false
			}
			o.widths[name]++
		}
		if _, err := d.ReadToken(); err != nil {
			return false
		}
	default:
		o.other(name)
	}
	texts, only := []string{}, true
	for d.PeekKind() != ']' {
		kind := d.PeekKind()
		if only = only && kind == '"' && len(texts) < maxTexts; only {
			t, err := d.ReadToken()
			if err != nil {
				return false
			}
			texts = append(texts, t.String())
			continue
		}
		if kind == 0 || d.SkipValue() != nil {
			return false
		}
	}
	if only && len(texts) > 0 {
		o.texts[name] = texts
	}
	_, err := d.ReadToken()
	return err == nil
}

// namesOf returns the names of the columns of a table that stand beside it, nil for none: a list of as many texts as its rows have
// cells, under a key that says so.
func (o *outline) namesOf(list string) []string {
	if !slices.Contains(o.tables, list) {
		return nil
	}
	within := list[:strings.LastIndexByte(list, '.')+1]
	for _, key := range []string{"columns", "header", "headers", "fields", "names"} {
		if names := o.texts[within+key]; len(names) > 0 && len(names) == o.widths[list] {
			return names
		}
	}
	return nil
}
