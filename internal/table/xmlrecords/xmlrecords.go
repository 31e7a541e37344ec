// Package xmlrecords reads records of XML: the element that occurs again and again is a record, and what stands in it
// are its values, by the names of their elements and attributes, with dots between those within each other. Nothing is
// defined, fetched or expanded.
package xmlrecords

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"golang.org/x/net/html/charset"

	"junvo/internal/table"
	"junvo/internal/table/records"
	"junvo/internal/value"
)

// Bounds of what a file may hold.
const (
	maxDepth = 64
	maxPaths = 10_000
	maxText  = table.MaxCell
)

// ErrNoRows is XML in which no element occurs more than once beside others of its kind.
var ErrNoRows = errors.New("no element of it occurs again and again, as records do; name one after #")

// Looks reports whether the start of a file looks like XML that is no page.
func Looks(head []byte) bool {
	text := bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n")
	if bytes.HasPrefix(text, []byte("<?xml ")) {
		return true
	}
	if len(text) < 2 || text[0] != '<' {
		return false
	}
	// Without a declaration, it takes two elements within each other.
	d := xml.NewDecoder(bytes.NewReader(text))
	for started := 0; started < 2; {
		t, err := d.Token()
		if err != nil {
			return false
		}
		switch t := t.(type) {
		case xml.StartElement:
			started++
		case xml.EndElement:
			return false
		case xml.CharData:
			if len(bytes.TrimSpace(t)) > 0 {
				return false
			}
		}
	}
	return true
}

// decoder reads tokens within bounds, and counts lines.
type decoder struct {
	*xml.Decoder
	file io.ReadCloser
	in   *bounded
}

// bounded refuses a token that is too long.
type bounded struct {
	r     io.Reader
	token int64
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	if b.token += int64(n); b.token > maxText+1<<20 {
		return n, fmt.Errorf("a text or tag is longer than %d MB", maxText>>20)
	}
	return n, err
}

func newDecoder(f io.ReadCloser) *decoder {
	in := &bounded{r: f}
	d := &decoder{xml.NewDecoder(in), f, in}
	d.Strict = false
	d.CharsetReader = charset.NewReaderLabel
	return d
}

func (d *decoder) next() (xml.Token, error) {
	d.in.token = 0
	t, err := d.RawToken()
	if err != nil && !errors.Is(err, io.EOF) {
		line, _ := d.InputPos()
		var syntax *xml.SyntaxError
		if errors.As(err, &syntax) {
			err = errors.New(syntax.Msg)
		}
		return nil, fmt.Errorf("line %d: the XML is damaged: %w", line, err)
	}
	return t, err
}

// path is a place in the tree of elements: how often it occurs, and what it may be.
type path struct {
	count, inOne int64 // in all, and at most within one parent
	here         int64 // within the parent that is open
	depth        int
	parts        bool // it has elements or attributes
	order        int
}

// Element finds the element that is a record: the one that is named, by its name or by the names of all that it stands
// in with slashes between; or else the first at the smallest depth that occurs more than once within one other.
func Element(open func() (io.ReadCloser, error), name string) (chosen, why string, err error) {
	f, err := open()
	if err != nil {
		return "", "", err
	}
	defer f.Close()
	paths, err := pathsOf(newDecoder(f))
	if err != nil {
		return "", "", err
	}
	var repeated []string
	for p, at := range paths {
		if at.inOne > 1 && at.depth > 0 {
			repeated = append(repeated, p)
		}
	}
	slices.SortFunc(repeated, func(a, b string) int {
		x, y := paths[a], paths[b]
		if x.parts != y.parts && x.parts {
			return -1
		} else if x.parts != y.parts {
			return 1
		}
		if x.depth != y.depth {
			return x.depth - y.depth
		}
		if x.count != y.count {
			return int(min(max(y.count-x.count, -1), 1))
		}
		return x.order - y.order
	})
	if name == "" {
		if len(repeated) == 0 {
			return "", "", ErrNoRows
		}
		return repeated[0], fmt.Sprintf("it occurs %d times", paths[repeated[0]].count), nil
	}
	want := strings.Trim(name, "/")
	best := ""
	for p, at := range paths {
		if p != want && !strings.HasSuffix(p, "/"+want) {
			continue
		}
		if best == "" || at.depth < paths[best].depth || at.depth == paths[best].depth && at.order < paths[best].order {
			best = p
		}
	}
	if best == "" {
		if len(repeated) > 8 {
			repeated = repeated[:8]
		}
		return "", "", fmt.Errorf("there is no element %q; those that occur again and again are %s", name,
			strings.Join(repeated, ", "))
	}
	return best, "as told", nil
}

// frame is an element that is open, and the places of its elements.
type frame struct {
	at     string
	inside []*path
}

// pathsOf counts the elements by where they stand.
func pathsOf(d *decoder) (map[string]*path, error) {
	paths := map[string]*path{}
	var open []frame
	for {
		t, err := d.next()
		if errors.Is(err, io.EOF) {
			return paths, nil
		}
		if err != nil {
			return nil, err
		}
		switch t := t.(type) {
		case xml.StartElement:
			line, _ := d.InputPos()
			if len(open) == maxDepth {
				return nil, fmt.Errorf("line %d: elements stand within each other more than %d deep", line, maxDepth)
			}
			name := t.Name.Local
			if len(open) > 0 {
				name = open[len(open)-1].at + "/" + name
			}
			p := paths[name]
			if p == nil {
				if len(paths) == maxPaths {
					return nil, fmt.Errorf("line %d: there are more than %d different elements", line, maxPaths)
				}
				p = &path{depth: len(open), order: len(paths)}
				paths[name] = p
			}
			p.found(len(t.Attr) > 0)
			if len(open) > 0 {
				outer := &open[len(open)-1]
				paths[outer.at].parts = true
				if p.here == 1 {
					outer.inside = append(outer.inside, p)
				}
			}
			open = append(open, frame{at: name})
		case xml.EndElement:
			if len(open) == 0 {
				continue
			}
			for _, p := range open[len(open)-1].inside {
				p.here = 0
			}
			open = open[:len(open)-1]
		}
	}
}

// found counts one.
func (p *path) found(parts bool) {
	p.count++
	p.here++
	p.inOne = max(p.inOne, p.here)
	p.parts = p.parts || parts
}

// Reader reads the records. It implements [records.Reader].
type Reader struct {
	d    *decoder
	path []string // of the element that is a record
	open int      // how many elements of it are open, in order
	in   int      // how many others are open
	rec  records.Record
	at   map[string]int // where the value of a name stands in the record
	many map[int][]string
	left int // bytes that the record may still have
}

// NewReader returns a reader of the element that [Element] has chosen.
func NewReader(f io.ReadCloser, element string) *Reader {
	return &Reader{d: newDecoder(f), path: strings.Split(element, "/"), at: map[string]int{}}
}

// Close implements [io.Closer].
func (r *Reader) Close() error { return r.d.file.Close() }

// Read implements [records.Reader].
func (r *Reader) Read() (*records.Record, error) {
	for {
		t, err := r.d.next()
		if err != nil {
			if errors.Is(err, io.EOF) && r.open+r.in > 0 {
				line, _ := r.d.InputPos()
				return nil, fmt.Errorf("line %d: the XML is cut off", line)
			}
			return nil, err
		}
		switch t := t.(type) {
		case xml.StartElement:
			if r.in > 0 || t.Name.Local != r.path[r.open] {
				r.in++
				continue
			}
			if r.open < len(r.path)-1 {
				r.open++
				continue
			}
			return r.record(&t)
		case xml.EndElement:
			if r.in > 0 {
				r.in--
			} else if r.open > 0 {
				r.open--
			}
		}
	}
}

func (r *Reader) record(start *xml.StartElement) (*records.Record, error) {
	line, _ := r.d.InputPos()
	r.rec = records.Record{Names: r.rec.Names[:0], Cells: r.rec.Cells[:0], Line: int64(line)}
	clear(r.at)
	r.many, r.left = nil, maxText
	if err := r.element(start, "", 0); err != nil {
		return nil, err
	}
	for i, texts := range r.many {
		list, err := json.Marshal(texts)
		if err != nil {
			return nil, err
		}
		r.rec.Cells[i].Text = string(list)
	}
	if len(r.rec.Names) == 0 {
		r.rec.Add("value", records.Cell{Kind: value.StoredNull})
	}
	return &r.rec, nil
}

// element reads an element that has begun, up to its end, under a name.
func (r *Reader) element(start *xml.StartElement, name string, depth int) error {
	if depth > maxDepth {
		return fmt.Errorf("elements stand within each other more than %d deep", maxDepth)
	}
	null, parts := false, false
	for _, a := range start.Attr {
		switch {
		case a.Name.Space == "xmlns" || a.Name.Local == "xmlns":
		case a.Name.Local == "nil" && a.Name.Space != "":
			null = a.Value == "true" || a.Value == "1"
		case a.Name.Space != "" && (a.Name.Local == "schemaLocation" || a.Name.Local == "type"):
		default:
			r.add(under(name, a.Name.Local), records.Cell{Text: a.Value})
			parts = true
		}
	}
	var text strings.Builder
	for {
		t, err := r.d.next()
		if err != nil {
			if errors.Is(err, io.EOF) {
				line, _ := r.d.InputPos()
				err = fmt.Errorf("line %d: the XML is cut off", line)
			}
			return err
		}
		switch t := t.(type) {
		case xml.StartElement:
			parts = true
			if err := r.element(&t, under(name, t.Name.Local), depth+1); err != nil {
				return err
			}
		case xml.CharData:
			if r.left -= len(t); r.left < 0 {
				line, _ := r.d.InputPos()
				return fmt.Errorf("line %d: a record is longer than %d MB", line, maxText>>20)
			}
			text.Write(t)
		case xml.EndElement:
			said := text.String()
			if name == "" {
				name = "value"
			}
			switch {
			case null:
				r.add(name, records.Cell{Kind: value.StoredNull})
			case !parts || strings.TrimSpace(said) != "":
				if parts {
					said = strings.TrimSpace(said)
				}
				r.add(name, records.Cell{Text: said})
			}
			return nil
		}
	}
}

func under(name, part string) string {
	if name == "" {
		return part
	}
	return name + "." + part
}

// add adds a value. Several of one name are a list.
func (r *Reader) add(name string, c records.Cell) {
	i, known := r.at[name]
	if !known {
		r.at[name] = len(r.rec.Names)
		r.rec.Add(name, c)
		return
	}
	if r.many == nil {
		r.many = map[int][]string{}
	}
	if r.many[i] == nil {
		r.many[i] = []string{r.rec.Cells[i].Text}
	}
	r.many[i] = append(r.many[i], c.Text)
	r.rec.Cells[i].Kind = value.StoredText
}
