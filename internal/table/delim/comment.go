package delim

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"junvo/internal/table"
)

// Lines that are told to be comments stay lines of the text, and rows of one cell, so that all is counted as in the
// file: each is handed on in quotes and with a character before it that no text has, by which it is known when rows are
// split.

// commentMark stands before a line that is a comment (ISO/IEC 6429: information separator one).
const commentMark = unitSeparator

// commenter marks the lines that begin with a text, where they begin no cell in quotes that goes on. It implements
// [maker].
type commenter struct {
	begin      []byte
	quote      byte   // 0 for none
	delimiters string // what may stand between cells
	inside     bool   // a cell in quotes goes on
}

func newCommenter(o *Options) *commenter {
	c := &commenter{begin: []byte(o.Comment), quote: o.quoteOfComments(), delimiters: ",;\t|"}
	if o.Delimiter == "tab" {
		c.delimiters = "\t"
	} else if o.Delimiter != "" {
		c.delimiters = o.Delimiter
	}
	return c
}

func (*commenter) goesOn([]byte) bool { return false }

func (c *commenter) made(dst, line []byte) []byte {
	if c.inside || !bytes.HasPrefix(line, c.begin) {
		c.follow(line)
		return append(dst, line...)
	}
	if c.quote == 0 {
		return append(append(dst, commentMark), line...)
	}
	q := []byte{c.quote}
	dst = append(dst, c.quote, commentMark)
	dst = append(dst, bytes.ReplaceAll(line, q, []byte{c.quote, c.quote})...)
	return append(dst, c.quote)
}

// follow finds out whether a cell in quotes goes on after a line: a quote opens one where a cell begins, and closes it
// where one ends; others stand for themselves.
func (c *commenter) follow(line []byte) {
	if c.quote == 0 {
		return
	}
	ends := func(i int) bool { return i < 0 || i == len(line) || strings.IndexByte(c.delimiters, line[i]) >= 0 }
	for i := 0; i < len(line); i++ {
		switch {
		case line[i] != c.quote:
		case c.inside && i+1 < len(line) && line[i+1] == c.quote:
			i++
		case c.inside && ends(i+1), !c.inside && ends(i-1):
			c.inside = !c.inside
		}
	}
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

// commentsSeen counts the rows of a sample that look like comments though none was told: those that begin with a number
// sign and a space, beside two at least that do not. It is 0 if one of them below the first row has the cells of a row:
// to take it for a comment would lose it.
func commentsSeen(rows []sampleRow) (n int) {
	others, width := 0, usualWidth(rows)
	for _, r := range rows {
		switch {
		case r.blank():
		case !strings.HasPrefix(r.cells[0], "# ") && !strings.HasPrefix(r.cells[0], "## "):
			others++
		case others > 0 && width > 1 && len(r.cells) >= width:
			return 0
		default:
			n++
		}
	}
	if others < 2 {
		return 0
	}
	return n
}

// namesInComment takes the last of the comments above a table without names for the line of them, if it has as many
// cells as the table and no value among them, and returns the other comments.
func (l *layout) namesInComment(comments []table.Line, o Options, width int) []table.Line {
	if len(comments) == 0 || width < 2 {
		return comments
	}
	last := comments[len(comments)-1]
	if o.HeaderRow > 0 && last.Number != int64(o.HeaderRow) {
		return comments
	}
	rows := l.dialect.sample([]byte(strings.TrimLeft(strings.TrimPrefix(last.Text, o.Comment), " ")), 1)
	if len(rows) != 1 || len(rows[0].cells) != width || typedCells(rows[0]) > 0 || rows[0].filled() < width {
		return comments
	}
	usable, notes := table.UsableNames(rows[0].cells, true)
	l.names, l.notes, l.headerRow = usable, append(l.notes, notes...), last.Number
	l.decide("header", fmt.Sprintf("line %d", last.Number), "the last comment above the table has its columns")
	return comments[:len(comments)-1]
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
