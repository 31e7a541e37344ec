package delim

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"

	"junvo/internal/table"
)

// Lines that are told to be comments stay lines of the text, and rows of one cell, so that all is counted as in the
// file: each is handed on in quotes and with a character before it that no text has, by which it is known when rows are
// split.

// commentMark stands before a line that is a comment (ISO/IEC 6429: information separator one).
const commentMark = unitSeparator

// commenter marks the lines that begin with a text, where they begin no cell in quotes that goes on. It implements
// [io.Reader].
type commenter struct {
	in     *bufio.Reader
	begin  []byte
	quote  byte // 0 for none
	inside bool // a cell in quotes goes on
	line   []byte
	out    []byte // that has not been read yet
	err    error
}

func newCommenter(in io.Reader, begin string, quote byte) *commenter {
	return &commenter{in: bufio.NewReaderSize(in, 64<<10), begin: []byte(begin), quote: quote}
}

// Read implements [io.Reader].
func (c *commenter) Read(p []byte) (int, error) {
	for len(c.out) == 0 {
		if c.err != nil {
			return 0, c.err
		}
		c.err = c.next()
	}
	n := copy(p, c.out)
	c.out = c.out[n:]
	return n, nil
}

func (c *commenter) next() error {
	c.line = c.line[:0]
	for {
		part, err := c.in.ReadSlice('\n')
		c.line = append(c.line, part...)
		if len(c.line) > maxBlock {
			return fmt.Errorf("a line is longer than %d MB", maxBlock>>20)
		}
		if errors.Is(err, bufio.ErrBufferFull) {
			continue
		}
		c.mark()
		return err
	}
}

// mark makes the line what is handed on.
func (c *commenter) mark() {
	if c.inside || !bytes.HasPrefix(c.line, c.begin) {
		if c.quote != 0 && bytes.Count(c.line, []byte{c.quote})%2 == 1 {
			c.inside = !c.inside
		}
		c.out = c.line
		return
	}
	text := bytes.TrimRight(c.line, "\r\n")
	end := c.line[len(text):]
	if c.quote == 0 {
		c.out = append(append([]byte{commentMark}, text...), end...)
		return
	}
	q := []byte{c.quote}
	out := append([]byte{c.quote, commentMark}, bytes.ReplaceAll(text, q, []byte{c.quote, c.quote})...)
	c.out = append(append(out, c.quote), end...)
}

// isComment reports whether a cell is a marked line.
func isComment(cell []byte) bool { return len(cell) > 0 && cell[0] == commentMark }

// takeComments takes the marks off the rows of a block that are comments, and says which they are. They are neither too
// short nor too long.
func takeComments(b *table.Block) {
	for r := range b.Rows {
		row := b.Row(r)
		s := row[0]
		if s.Len() == 0 || b.Text[s.Start] != commentMark {
			continue
		}
		end := s.Start + uint32(s.Len())
		for _, other := range append(slices.Clone(row[1:]), b.ExtraOf(r)...) { // what has no quotes was cut
			if other.N&table.Missing == 0 {
				end = max(end, other.Start+uint32(other.Len()))
			}
		}
		if n := len(row); n > 1 && row[n-1].N&table.Missing != 0 {
			b.Trouble.Short.Remove(r)
		}
		if extra := b.ExtraOf(r); slices.ContainsFunc(extra, func(s table.Span) bool { return len(bytes.TrimSpace(b.At(s))) > 0 }) {
			b.Trouble.Long.Remove(r)
		}
		row[0] = table.Span{Start: s.Start + 1, N: end - s.Start - 1 | s.N&(table.Quoted|table.Escaped)}
		for c := 1; c < len(row); c++ {
			row[c] = table.Span{Start: s.Start, N: table.Missing}
		}
		b.Extra = slices.DeleteFunc(b.Extra, func(e table.Extra) bool { return e.Row == r })
		b.Odd = append(b.Odd, table.OddRow{Row: r, Kind: table.CommentRow})
	}
}

// commentsAbove returns the lines of what stands above the rows that are marked.
func commentsAbove(text []byte, eol byte) (lines []table.Line) {
	for n := int64(1); len(text) > 0; n++ {
		end := bytes.IndexByte(text, eol)
		if end < 0 {
			end = len(text)
		}
		line := bytes.TrimRight(text[:end], "\r")
		if len(line) > 2 && isComment(line[1:]) {
			line = bytes.ReplaceAll(line[2:len(line)-1], []byte{line[0], line[0]}, line[:1])
			lines = append(lines, table.Line{Number: n, Text: string(line), Reason: "above-header"})
		} else if isComment(line) {
			lines = append(lines, table.Line{Number: n, Text: string(line[1:]), Reason: "above-header"})
		}
		text = text[min(end+1, len(text)):]
	}
	return lines
}

// commentsSeen counts the lines of a sample that look like comments though none was told: those that begin with a
// number sign and a space, beside two at least that do not.
func commentsSeen(sample []byte) (n int) {
	others := 0
	for line := range bytes.Lines(sample) {
		switch {
		case bytes.HasPrefix(line, []byte("# ")), bytes.HasPrefix(line, []byte("## ")):
			n++
		case len(bytes.TrimSpace(line)) > 0:
			others++
		}
	}
	if others < 2 {
		return 0
	}
	return n
}

// quoteOfComments is the quote of which a cell may go on over lines; 0 for none.
func (o *Options) quoteOfComments() byte {
	switch {
	case o.Widths != nil && o.Quote == "", o.Quote == "":
		return '"'
	case len(o.Quote) == 1:
		return o.Quote[0]
	}
	return 0
}
