// Package delim reads and writes delimited text: rows as lines, cells between
// delimiters, quotes around cells that hold delimiters, quotes or line breaks.
// RFC 4180 describes the tame form:
//
//	Landing No.;Vessel;Remarks
//	00417;Marlies;"lot 88; crate ""B"""
//
// Real files are not tame, so the package decides by a few rules that hold for
// any bytes:
//
//   - A quote opens a quoted cell only at the start of a cell (spaces may stand
//     before it), and closes it only before a delimiter, a line end or the end.
//   - A quoted cell may hold line breaks, or quotes that stand for themselves, but
//     not both: where both occur the opening quote was never closed on its line,
//     and it stands for itself.
//   - Every other quote is a character like any other.
package delim

import (
	"bytes"

	"junvo/internal/table"
)

// Dialect is how a file writes its rows.
type Dialect struct {
	Delimiter byte
	Quote     byte // 0 where quotes are characters like any other
	Escape    byte // what stands before a quote inside quotes: another quote, or a backslash
	EOL       byte // '\n' or '\r'; a '\r' before '\n' belongs to the line end
}

// opens reports whether the quote at q opens a cell of text.
func (d *Dialect) opens(text []byte, q int) bool {
	for q > 0 && text[q-1] == ' ' && d.Delimiter != ' ' {
		q--
	}
	return q == 0 || text[q-1] == d.Delimiter || text[q-1] == d.EOL
}

type closing uint8

const (
	closed    closing = iota
	neverEnds         // the quote stands for itself
	needMore          // the text ends before the answer
)

// quoted describes a quoted cell: its content is text[open+1:end], and the cell
// ends at next, where a delimiter, a line end or the end of the text stands.
type quoted struct {
	end, next int
	eols      int  // line breaks in it
	escaped   bool // holds quotes that stand for one each
	stray     bool // holds quotes that stand for themselves
}

// close finds the end of the cell whose opening quote stands at text[open].
func (d *Dialect) close(text []byte, open int, last bool) (quoted, closing) {
	var c quoted
	i := open + 1
	for {
		q := bytes.IndexByte(text[i:], d.Quote)
		if q < 0 {
			if last || len(text)-open > table.MaxCell {
				return c, neverEnds
			}
			return c, needMore
		}
		q += i
		if d.Escape != d.Quote && d.escapes(text, open, q) {
			c.escaped = true
			i = q + 1
			continue
		}
		n := q + 1
		if n < len(text) && text[n] == d.Quote && d.Escape == d.Quote {
			c.escaped = true
			i = n + 1
			continue
		}
		for n < len(text) && text[n] == ' ' && d.Delimiter != ' ' {
			n++
		}
		switch {
		case n == len(text) && !last:
			return c, needMore
		case n == len(text), text[n] == d.Delimiter, text[n] == d.EOL, text[n] == '\r' && n+1 < len(text) &&
			text[n+1] == '\n':
			if c.stray && bytes.IndexByte(text[open:q], d.EOL) >= 0 {
				return c, neverEnds
			}
			c.end, c.next, c.eols = q, n, bytes.Count(text[open:q], []byte{d.EOL})
			return c, closed
		case text[n] == '\r' && n+1 == len(text) && !last:
			return c, needMore
		}
		c.stray = true
		i = q + 1
		// Once a stray quote and a line break have been seen there is nothing to wait for.
		if bytes.IndexByte(text[open:q], d.EOL) >= 0 {
			return c, neverEnds
		}
	}
}

// escapes reports whether the quote at q has an odd number of escapes before it.
func (d *Dialect) escapes(text []byte, open, q int) bool {
	n := 0
	for q-1-n > open && text[q-1-n] == d.Escape {
		n++
	}
	return n%2 == 1
}

// lastRowEnd returns where the last whole row of text ends, just after its line
// end, or 0 where there is none. It leaves the marks of the text in marks, or none
// where it did without.
func (d *Dialect) lastRowEnd(text []byte, marks *[]uint64) int {
	*marks = (*marks)[:0]
	if d.Quote == 0 || bytes.IndexByte(text, d.Quote) < 0 {
		return bytes.LastIndexByte(text, d.EOL) + 1
	}
	if m, ok := d.mark(*marks, text); ok {
		*marks = m
		return lastMarkedRow(m)
	}
	starts := []int{0} // where each run of text outside quotes starts, and where it ends
	var ends []int
	end := len(text)
scan:
	for at := 0; ; {
		q := bytes.IndexByte(text[at:], d.Quote)
		if q < 0 {
			break
		}
		q += at
		if !d.opens(text, q) {
			at = q + 1
			continue
		}
		c, how := d.close(text, q, false)
		switch how {
		case closed:
			at = c.next
			ends, starts = append(ends, q), append(starts, at)
		case neverEnds:
			at = q + 1
		case needMore:
			end = q
			break scan
		}
	}
	ends = append(ends, end)
	for i := len(starts) - 1; i >= 0; i-- {
		if e := bytes.LastIndexByte(text[starts[i]:ends[i]], d.EOL); e >= 0 {
			return starts[i] + e + 1
		}
	}
	return 0
}
