package plan

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"

	"junvo/internal/step"
)

// List is a list of texts, and of what stands in the place of each, that steps and expressions know by its name.
type List struct {
	Name string
	File string // of which it was read; "" where the plan has the texts
	step.List
}

// readLists reads the lists of a plan, which come first, wherever they stand.
func (l *loader) readLists(root *node) (lists []List) {
	l.lists = map[string]step.List{}
	for i, k := range root.keys {
		if k.text != "lists" {
			continue
		}
		n := root.items[i]
		if n.kind != mapping {
			l.fail(n, "lists is a map of names and lists, as in {ports: {NH: Nordhaven}}")
			return nil
		}
		for j, name := range n.keys {
			list := l.list(name.text, n.items[j])
			l.lists[list.Name] = list.List
			lists = append(lists, list)
		}
	}
	return lists
}

// list reads a list: a map of texts, or the name of a CSV file.
func (l *loader) list(name string, n *node) List {
	list := List{Name: name, List: step.List{}}
	switch n.kind {
	case mapping:
		for i, k := range n.keys {
			if n.items[i].kind != empty {
				list.List[k.text] = l.text(n.items[i])
			} else {
				list.List[k.text] = ""
			}
		}
	case scalar:
		list.File = n.text
		var err error
		if list.List, err = l.listFile(n.text); err != nil {
			l.fail(n, "list %s: %v", name, err)
		}
	default:
		l.fail(n, "a list is a map of texts and what stands in their place, or the name of a CSV file")
	}
	return list
}

// listFile reads a list of a CSV file with a heading: its first column has the texts, its second what stands in their
// place.
func (l *loader) listFile(name string) (step.List, error) {
	if l.read == nil {
		return nil, errors.New("a list of a file can't be read here")
	}
	text, err := l.read(name)
	if err != nil {
		return nil, err
	}
	r := records(text)
	if _, err := r.Read(); err != nil {
		return nil, fmt.Errorf("%s has no line of headings", name)
	}
	list := step.List{}
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			return list, nil
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		line, _ := r.FieldPos(0)
		if len(record) < 2 {
			return nil, fmt.Errorf("%s, line %d: a line has a text and what stands in its place", name, line)
		}
		if other, twice := list[record[0]]; twice && other != record[1] {
			return nil, fmt.Errorf("%s, line %d: %q stands there twice", name, line, record[0])
		}
		list[record[0]] = record[1]
	}
}

// records reads a small file of delimited text with a heading, which a person has made: its delimiter is that of the
// heading.
func records(text []byte) *csv.Reader {
	text = bytes.TrimPrefix(text, []byte("\ufeff"))
	r := csv.NewReader(bytes.NewReader(text))
	heading, _, _ := strings.Cut(string(text), "\n")
	for _, d := range []rune{',', ';', '\t'} {
		if strings.ContainsRune(heading, d) {
			r.Comma = d
			break
		}
	}
	r.FieldsPerRecord = -1
	return r
}

// Records reads a small file of delimited text, the heading first.
func Records(text []byte) ([][]string, error) {
	all, err := records(text).ReadAll()
	if err == nil && len(all) == 0 {
		err = errors.New("the file is empty")
	}
	return all, err
}

// withList puts the list of a substitution in place of its name.
func (l *loader) withList(name string, args step.Args) step.Args {
	m, ok := args.(map[string]step.Args)
	if name != "substitute" || !ok {
		return args
	}
	if list, ok := m["list"].(string); ok && l.lists[list] != nil {
		m["list"] = l.lists[list]
	}
	return m
}

// lists writes the lists.
func (w *writer) lists(lists []List) {
	if len(lists) > 0 {
		w.line(0, "lists:")
	}
	for _, list := range lists {
		if list.File != "" {
			w.line(1, "%s: %s", w.text(list.Name), w.text(list.File))
			continue
		}
		w.line(1, "%s:", w.text(list.Name))
		for _, from := range keysOf(list.List) {
			w.line(2, "%s: %s", w.text(from), w.text(list.List[from]))
		}
	}
}
