package plan

import (
	"bytes"
	"errors"
	"slices"
	"strconv"
	"strings"

	"junvo/internal/character"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Record is what a source held when the plan was drafted or last accepted: what its next
// files are compared with. It changes nothing of a conversion.
type Record struct {
	Rows    int64 // of data
	Aside   int64 // rows that were no data
	Columns []RecordColumn
}

// RecordColumn is what a column of the source held.
type RecordColumn struct {
	Name              string
	Type              value.Type // what it looked like
	Blanks, Fails     int64      // cells that were blank, and that did not fit the type
	Smallest, Largest string     // in canonical text, "" for none
	Shapes            []string   // all there were; nil where there were too many
}

// MaxShapes is how many shapes of a column of a type a record holds: of texts fewer, since
// each next file has others.
func MaxShapes(t value.Type) int {
	if t == value.Text {
		return 6
	}
	return character.MostShapes
}

// HasShapes returns what reports whether the shapes of a column are recorded.
func (r *Record) HasShapes() func(column string) bool {
	at := r.Positions()
	return func(column string) bool {
		i, ok := at[column]
		return ok && r.Columns[i].Shapes != nil
	}
}

// Positions returns where each column of a record stands; a record may be nil.
func (r *Record) Positions() map[string]int {
	if r == nil {
		return nil
	}
	return table.Positions(r.Columns, func(c *RecordColumn) string { return c.Name })
}

// Add adds what another file held: a value, a shape is known when either file has it.
func (r *Record) Add(o *Record) {
	if o == nil {
		return
	}
	r.Rows += o.Rows
	r.Aside += o.Aside
	others := o.Positions()
	for i := range r.Columns {
		c := &r.Columns[i]
		at, ok := others[c.Name]
		if !ok {
			continue
		}
		x := &o.Columns[at]
		c.Blanks += x.Blanks
		c.Fails += x.Fails
		if c.Type == x.Type {
			c.Smallest, _ = extremes(c.Type, c.Smallest, x.Smallest)
			_, c.Largest = extremes(c.Type, c.Largest, x.Largest)
		}
		if c.Shapes != nil && x.Shapes != nil {
			c.Shapes = slices.Compact(slices.Sorted(slices.Values(append(c.Shapes, x.Shapes...))))
		}
		if len(c.Shapes) > MaxShapes(c.Type) || x.Shapes == nil {
			c.Shapes = nil
		}
	}
}

// extremes returns the smaller and the larger of two values in canonical text; "" is none.
func extremes(t value.Type, a, b string) (smallest, largest string) {
	if a == "" || b == "" {
		return a + b, a + b
	}
	if value.Before(t, b, a) {
		return b, a
	}
	return a, b
}

// record reads what was seen.
func (l *loader) record(n *node) *Record {
	r := &Record{}
	l.each(n, "seen", map[string]func(*node){
		"rows":      func(n *node) { r.Rows = l.count(n) },
		"set-aside": func(n *node) { r.Aside = l.count(n) },
		"columns": func(n *node) {
			if n.kind != mapping {
				l.fail(n, "columns is a map from the names of the source's columns to what they held")
				return
			}
			for i, k := range n.keys {
				r.Columns = append(r.Columns, l.recordColumn(k.text, n.items[i]))
			}
		},
	})
	return r
}

func (l *loader) recordColumn(name string, n *node) RecordColumn {
	c := RecordColumn{Name: name}
	l.each(n, "what a column held", map[string]func(*node){
		"type":     func(n *node) { c.Type = l.typeName(n) },
		"blanks":   func(n *node) { c.Blanks = l.count(n) },
		"fails":    func(n *node) { c.Fails = l.count(n) },
		"smallest": func(n *node) { c.Smallest = l.text(n) },
		"largest":  func(n *node) { c.Largest = l.text(n) },
		"shapes":   func(n *node) { c.Shapes = l.texts(n) },
	})
	return c
}

func (l *loader) count(n *node) int64 {
	v, err := strconv.ParseInt(n.text, 10, 64)
	if n.kind != scalar || err != nil || v < 0 {
		l.fail(n, "a whole number from 0 is wanted here")
	}
	return v
}

func (w *writer) record(r *Record) {
	if r == nil {
		return
	}
	w.line(0, "seen: # in the file that this was drafted from; `junvo check` says what is new in another")
	w.line(1, "rows: %d", r.Rows)
	if r.Aside > 0 {
		w.line(1, "set-aside: %d", r.Aside)
	}
	if len(r.Columns) > 0 {
		w.line(1, "columns:")
	}
	for _, c := range r.Columns {
		parts := []string{"type: " + c.Type.String()}
		for _, e := range []struct {
			key string
			n   int64
		}{{"blanks", c.Blanks}, {"fails", c.Fails}} {
			if e.n > 0 {
				parts = append(parts, e.key+": "+strconv.FormatInt(e.n, 10))
			}
		}
		for _, e := range []struct{ key, text string }{{"smallest", c.Smallest}, {"largest", c.Largest}} {
			if e.text != "" {
				parts = append(parts, e.key+": "+w.text(e.text))
			}
		}
		if c.Shapes != nil {
			parts = append(parts, "shapes: "+w.list(c.Shapes))
		}
		w.line(2, "%s: {%s}", w.text(c.Name), strings.Join(parts, ", "))
	}
}

// Accept returns the text of a plan with another record of what was seen; all else in it,
// comments and layout too, stays as a person has written it. Files that it names are read by a function.
func Accept(text []byte, r *Record, read func(name string) ([]byte, error)) ([]byte, error) {
	w := &writer{}
	w.record(r)
	if w.err != nil {
		return nil, w.err
	}
	var out bytes.Buffer
	inside, done := false, false
	for line := range bytes.Lines(text) {
		switch {
		case bytes.HasPrefix(line, []byte("seen:")):
			inside, done = true, true
			out.Write(w.b.Bytes())
		case inside && (line[0] == ' ' || line[0] == '\t'):
		default:
			inside = false
			out.Write(line)
		}
	}
	if !done {
		if out.Len() > 0 && out.Bytes()[out.Len()-1] != '\n' {
			out.WriteByte('\n')
		}
		out.Write(w.b.Bytes())
	}
	p, err := LoadWith(out.Bytes(), read)
	if err != nil || p.Seen == nil || p.Seen.Rows != r.Rows {
		return nil, errors.New("what was seen can't be put into the plan; give it a line of its own that begins with " +
			"\"seen\" and a colon")
	}
	return out.Bytes(), nil
}
