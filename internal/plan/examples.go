package plan

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Example is what a column is to make of cells that somebody has shown. It changes nothing of a conversion; check holds
// the column to it.
type Example struct {
	From  map[string]string // the cells, by the names of the source's columns
	Gives string            // "" for no value
	named bool              // from has names although it may have but one
}

// SourcesOf returns the columns of the source that a column of the output is made of, by way of others perhaps.
func (p *Plan) SourcesOf(column string) (names []string) {
	at := map[string]int{}
	for i := range p.Columns {
		at[p.Columns[i].Name] = i
	}
	seen := map[string]bool{}
	var visit func(name string)
	visit = func(name string) {
		i, ok := at[name]
		if !ok || seen[name] {
			return
		}
		seen[name] = true
		c := &p.Columns[i]
		if !c.Made() && !slices.Contains(names, c.Source) {
			names = append(names, c.Source)
		}
		for _, input := range c.inputs() {
			visit(input)
		}
		if c.Compute != nil {
			for _, raw := range c.Compute.Raw {
				if !slices.Contains(names, raw) {
					names = append(names, raw)
				}
			}
		}
	}
	visit(column)
	return names
}

// example reads an example. From is a text where the column is made of one column of the source; which that is is found
// when all columns are known.
func (l *loader) example(n *node) (e Example) {
	e.From = map[string]string{}
	given := false
	l.each(n, "an example", map[string]func(*node){
		"from": func(n *node) {
			given = true
			if n.kind != mapping {
				e.From[""] = l.text(n)
				return
			}
			e.named = true
			for i, k := range n.keys {
				e.From[k.text] = l.text(n.items[i])
			}
		},
		"gives": func(n *node) {
			if n.kind != empty {
				e.Gives = l.text(n)
			}
		},
	})
	if n.kind == mapping && !given {
		l.fail(n, `an example has the cells that it is of, and what comes out, as in {from: "lot 88 / crate 51", gives: "8851"}`)
	}
	return e
}

func (l *loader) examples(n *node) (all []Example) {
	if n.kind != list {
		l.fail(n, `examples is a list, as in [{from: "lot 88 / crate 51", gives: "8851"}]`)
		return nil
	}
	for _, i := range n.items {
		all = append(all, l.example(i))
	}
	return all
}

// nameExamples finds the column of the source that examples are of which do not say it.
func (p *Plan) nameExamples() error {
	for i := range p.Columns {
		c := &p.Columns[i]
		if c.Examples == nil {
			continue
		}
		sources := p.SourcesOf(c.Name)
		for _, e := range c.Examples {
			text, alone := e.From[""]
			switch {
			case alone && len(sources) != 1:
				return fmt.Errorf("column %s is made of %d columns of the source, so that its examples name them, as in {from: "+
					"{First: Anke, Last: Petersen}, gives: Anke Petersen}", c.Name, len(sources))
			case alone:
				delete(e.From, "")
				e.From[sources[0]] = text
			}
			for name := range e.From {
				if !slices.Contains(sources, name) {
					return fmt.Errorf("column %s is not made of the column %q, which an example of it names", c.Name, name)
				}
			}
		}
	}
	return nil
}

// examples writes examples, each on a line of its own.
func (w *writer) examples(list []Example) {
	if len(list) > 0 {
		w.line(2, "examples:")
	}
	for _, e := range list {
		from := ""
		names := keysOf(e.From)
		for i, name := range names {
			if i > 0 {
				from += ", "
			}
			from += w.text(name) + ": " + w.text(e.From[name])
		}
		from = "{" + from + "}"
		if len(names) == 1 && !e.named {
			from = w.text(e.From[names[0]])
		}
		w.line(3, "- {from: %s, gives: %s}", from, w.text(e.Gives))
	}
}

// Lines returns columns as they stand in a plan.
func Lines(columns []Column) ([]byte, error) {
	w := &writer{}
	w.columns(columns)
	return w.b.Bytes(), w.err
}

// Insert returns the text of a plan with more columns behind those that it has; all else in it, comments and layout
// too, stays as a person has written it. Files that it names are read by a function.
func Insert(text []byte, columns []Column, read func(name string) ([]byte, error)) ([]byte, error) {
	was, err := LoadWith(text, read)
	if err != nil {
		return nil, err
	}
	more, err := Lines(columns)
	if err != nil {
		return nil, err
	}
	lines := slices.Collect(bytes.Lines(text))
	start := slices.IndexFunc(lines, func(l []byte) bool { return bytes.HasPrefix(l, []byte("columns:")) })
	end := start + 1 // behind the last line that belongs to the columns
	indent := ""
	for i := start + 1; i < len(lines) && start >= 0; i++ {
		bare := bytes.TrimLeft(lines[i], " \t")
		if len(bytes.TrimSpace(bare)) == 0 || bare[0] == '#' {
			continue
		}
		if len(bare) == len(lines[i]) {
			break
		}
		if end = i + 1; indent == "" {
			indent = string(lines[i][:len(lines[i])-len(bare)])
		}
	}
	var out bytes.Buffer
	for i, l := range lines {
		if i == end {
			out.Write(reindented(more, indent))
		}
		if out.Write(l); i == len(lines)-1 && !bytes.HasSuffix(l, []byte("\n")) {
			out.WriteByte('\n')
		}
	}
	if end == len(lines) {
		out.Write(reindented(more, indent))
	}
	p, err := LoadWith(out.Bytes(), read)
	if start >= 0 && err == nil && len(p.Columns) == len(was.Columns)+len(columns) {
		return out.Bytes(), nil
	}
	var mistakes Mistakes
	if errors.As(err, &mistakes) && start >= 0 && indent != "" {
		return nil, mistakes
	}
	return nil, errors.New("the columns can't be put into the plan; give each of its columns lines of its own, below " +
		"one that begins with \"columns\" and a colon")
}

// reindented returns lines that are indented by two spaces with another indentation.
func reindented(text []byte, indent string) []byte {
	return []byte(strings.ReplaceAll("\n"+string(text), "\n  ", "\n"+indent)[1:])
}
