package table

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
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
	sources []Source // those that have been opened
	orders  [][]int  // for each source, where each column of the first stands in it; nil if in place
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
	first := parts[0]
	c := &Chain{parts: parts, open: open, info: *first}
	c.info.Files, c.info.Above = nil, nil
	for i, info := range parts {
		order, err := matchNames(first, info)
		if err != nil {
			return nil, err
		}
		c.orders = append(c.orders, order)
		c.info.Contiguous = c.info.Contiguous && order == nil && info.Contiguous
		for _, l := range info.Above {
			l.File = i
			c.info.Above = append(c.info.Above, l)
		}
		c.info.Files = append(c.info.Files, info.Files...)
		if i > 0 {
			c.info.Name += ", " + info.Name
			c.info.Bytes += info.Bytes
			c.info.Notes = append(c.info.Notes, info.Notes...)
		}
	}
	return c, nil
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
		if c.at == len(c.sources) {
			s, err := c.open(c.at)
			if err != nil {
				return err
			}
			c.sources = append(c.sources, s)
		}
		b.File = c.at
		if err := c.sources[c.at].Next(b); !errors.Is(err, io.EOF) {
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
	c.sources[b.File].Split(b)
	order := c.orders[b.File]
	if order == nil {
		return
	}
	row := make([]Span, b.Width)
	for r := range b.Rows {
		spans := b.Spans[r*b.Width : (r+1)*b.Width]
		copy(row, spans)
		for i, from := range order {
			spans[i] = row[from]
		}
	}
}
