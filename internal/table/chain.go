package table

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"junvo/internal/value"
)

// Lines counts the lines of files as their blocks come by, in order.
type Lines struct {
	file  int
	lines int64
	begun bool
}

// Start returns the line of its file in which a block begins. It is called once for
// every block, in order.
func (l *Lines) Start(info *Info, b *Block) int64 {
	if !l.begun || b.File != l.file {
		l.begun, l.file, l.lines = true, b.File, info.Files[b.File].FirstLine
	}
	start := l.lines
	l.lines += int64(b.LineCount)
	return start
}

// Chain is several sources with one header, read as one table in the order given.
// It implements [Source].
type Chain struct {
	parts   []*Info
	open    func(part int) (Source, error)
	current Source  // that is read; a block knows its own
	opened  int     // how many have been
	orders  [][]int // for each source, where each column of the first stands in it; nil if in place
	info    Info
	at      int
}

// HeaderError says how the header of a file differs from that of the first.
type HeaderError struct {
	File, First    string
	Missing, Extra []string
}

func (e *HeaderError) Error() string {
	var parts []string
	if len(e.Missing) > 0 {
		parts = append(parts, "lacks "+quoted(e.Missing))
	}
	if len(e.Extra) > 0 {
		parts = append(parts, "has "+quoted(e.Extra)+" more")
	}
	return fmt.Sprintf("%s has another header than %s: it %s", e.File, e.First, strings.Join(parts, " and "))
}

func quoted(names []string) string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = fmt.Sprintf("%q", n)
	}
	return strings.Join(out, ", ")
}

// NewChain joins the sources that parts describe and that open opens, one after the
// other. All must have the names of the first, in any order.
func NewChain(parts []*Info, open func(part int) (Source, error)) (*Chain, error) {
	c := &Chain{parts: parts, open: open, info: *parts[0], orders: [][]int{nil}}
	for _, info := range parts[1:] {
		order, err := matchNames(parts[0], info)
		if err != nil {
			return nil, err
		}
		c.orders = append(c.orders, order)
		joined := join(&c.info, info)
		joined.Contiguous = joined.Contiguous && order == nil
		c.info = *joined
	}
	return c, nil
}

// Join describes the table that b makes with a before it. Both must have the same names
// in the same order.
func Join(a, b *Info) (*Info, error) {
	order, err := matchNames(a, b)
	if err == nil && order != nil {
		err = fmt.Errorf("%s has the columns of %s in another order", b.Name, a.Name)
	}
	if err != nil {
		return nil, err
	}
	return join(a, b), nil
}

func join(a, b *Info) *Info {
	all := *a
	if all.More = b.More; b.Continues {
		all.Contiguous = a.Contiguous && b.Contiguous
		return &all
	}
	all.Above = slices.Clone(a.Above)
	for _, l := range b.Above {
		l.File += len(a.Files)
		all.Above = append(all.Above, l)
	}
	all.Files = slices.Concat(a.Files, b.Files)
	all.Name += ", " + b.Name
	if all.Bytes += b.Bytes; a.Bytes < 0 || b.Bytes < 0 {
		all.Bytes = -1
	}
	all.Notes = slices.Clip(a.Notes)
	for _, n := range b.Notes { // what is so of a whole workbook is said once
		if !slices.ContainsFunc(a.Notes, func(have Note) bool { return have.Kind == n.Kind && have.Say == n.Say }) {
			all.Notes = append(all.Notes, n)
		}
	}
	all.Typed = a.Typed || b.Typed
	if b.Encoding != a.Encoding && len(b.Files) == 1 {
		all.Decisions = append(slices.Clone(a.Decisions), otherEncoding(b.Name, b.Encoding, "as the file shows"))
	}
	all.Contiguous = a.Contiguous && b.Contiguous
	return &all
}

// matchNames returns where each name of first stands in info, nil if all are in place.
func matchNames(first, info *Info) ([]int, error) {
	if slices.Equal(first.Names, info.Names) {
		return nil, nil
	}
	e := &HeaderError{File: info.Name, First: first.Name}
	order := make([]int, len(first.Names))
	for i, n := range first.Names {
		if order[i] = slices.Index(info.Names, n); order[i] < 0 {
			e.Missing = append(e.Missing, n)
		}
	}
	for _, n := range info.Names {
		if !slices.Contains(first.Names, n) {
			e.Extra = append(e.Extra, n)
		}
	}
	if len(e.Missing)+len(e.Extra) > 0 {
		return nil, e
	}
	return order, nil
}

// Info implements [Source].
func (c *Chain) Info() *Info { return &c.info }

// Next implements [Source].
func (c *Chain) Next(b *Block) error {
	for ; c.at < len(c.parts); c.at++ {
		if c.at == c.opened {
			s, err := c.open(c.at)
			if err != nil {
				return err
			}
			c.current = s
			c.opened++
		}
		b.File, b.source = c.at, c.current
		if err := c.current.Next(b); !errors.Is(err, io.EOF) {
			if err != nil {
				return fmt.Errorf("%s: %w", c.parts[c.at].Name, err)
			}
			return nil
		}
	}
	return io.EOF
}

// Split implements [Source].
func (c *Chain) Split(b *Block) {
	b.source.Split(b) // its own, which may have ended: the next one is read meanwhile
	order := c.orders[b.File]
	if order == nil {
		return
	}
	row := make([]Span, b.Width)
	kinds := make([]value.Stored, b.Width)
	for r := range b.Rows {
		spans := b.Row(r)
		copy(row, spans)
		for i, from := range order {
			spans[i] = row[from]
		}
		if b.Kinds == nil {
			continue
		}
		stored := b.Kinds[r*b.Width : (r+1)*b.Width]
		copy(kinds, stored)
		for i, from := range order {
			stored[i] = kinds[from]
		}
	}
}
