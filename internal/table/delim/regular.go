package delim

import (
	"bytes"
	"encoding/binary"
	"math/bits"

	"junvo/internal/table"
)

// Most text is regular: quotes stand around whole cells, or doubled inside quotes,
// and nowhere else. In regular text whatever stands behind an odd number of quotes
// is inside quotes, which can be told for 64 bytes at once with a few operations on
// their bits, and so can whether the text is regular. Where it is not, the answer is
// thrown away and the exact way is taken.

const (
	lowBits  = 0x0101010101010101
	highBits = 0x8080808080808080
)

// matches marks the high bit of each byte of w that equals the byte repeated in pattern.
func matches(w, pattern uint64) uint64 {
	x := w ^ pattern
	return ^((x&^highBits + ^uint64(highBits)) | x) & highBits
}

// gather brings the high bits of the eight bytes of m together in the lowest byte.
func gather(m uint64) uint64 { return (m >> 7) * 0x0102040810204080 >> 56 }

// findBytes returns, as bits, which of the 64 bytes of a block equal the byte that
// is repeated in a, in b and in c.
func findBytes(block []byte, a, b, c uint64) (as, bs, cs uint64) {
	for k := 0; k < 64; k += 8 {
		w := binary.LittleEndian.Uint64(block[k:])
		as |= gather(matches(w, a)) << k
		bs |= gather(matches(w, b)) << k
		cs |= gather(matches(w, c)) << k
	}
	return as, bs, cs
}

// regular goes through text 64 bytes at a time.
type regular struct {
	delimiters, ends, quotes uint64 // each byte repeated
	inside                   uint64 // all ones where the 64 bytes begin inside quotes
	mayOpen                  uint64 // 1 where a quote may open a cell at the first byte
	closed                   uint64 // 1 where the byte before closed a cell
	eol                      byte
}

func (d *Dialect) regular() regular {
	return regular{
		delimiters: lowBits * uint64(d.Delimiter), ends: lowBits * uint64(d.EOL), quotes: lowBits * uint64(d.Quote),
		mayOpen: 1, eol: d.EOL,
	}
}

// masks are bits of 64 bytes.
type masks struct {
	cells   uint64 // delimiters and line ends outside quotes
	rows    uint64 // line ends outside quotes
	breaks  uint64 // line ends inside quotes
	doubled uint64 // quotes behind a quote, inside quotes
}

// next tells what the 64 bytes of text at i are, or as many as there are. It
// reports false where the text is not regular.
func (r *regular) next(text []byte, i int) (masks, bool) {
	var delimiters, ends, quotes uint64
	if i+64 <= len(text) {
		delimiters, ends, quotes = find(&text[i], r.delimiters, r.ends, r.quotes)
	} else {
		for k, b := range text[i:] {
			delimiters |= uint64(bit(b == byte(r.delimiters))) << k
			ends |= uint64(bit(b == byte(r.ends))) << k
			quotes |= uint64(bit(b == byte(r.quotes))) << k
		}
	}
	inside := r.inside
	if quotes != 0 {
		inside ^= prefixParity(quotes)
	}
	separators := delimiters | ends
	opening, closing := quotes&inside, quotes&^inside
	if stray := opening &^ ((separators|closing)<<1 | r.mayOpen); stray != 0 {
		return masks{}, false
	}
	behind := (closing<<1 | r.closed) &^ (separators | opening)
	for ; behind != 0; behind &= behind - 1 {
		// Only the carriage return of a line end may stand behind a closing quote, or nothing.
		p := i + bits.TrailingZeros64(behind)
		if p < len(text) && (text[p] != '\r' || p+1 == len(text) || text[p+1] != r.eol) {
			return masks{}, false
		}
	}
	m := masks{separators &^ inside, ends &^ inside, ends & inside, opening & (closing<<1 | r.closed)}
	r.inside = uint64(int64(inside) >> 63)
	r.mayOpen = (separators | closing) >> 63
	r.closed = closing >> 63
	return m, true
}

func bit(b bool) uint8 {
	if b {
		return 1
	}
	return 0
}

// prefixParity sets each bit to whether the bits up to and with it are odd in number.
func prefixParity(x uint64) uint64 {
	x ^= x << 1
	x ^= x << 2
	x ^= x << 4
	x ^= x << 8
	x ^= x << 16
	return x ^ x<<32
}

// lastRegularEnd is lastRowEnd for regular text, or reports false.
func (d *Dialect) lastRegularEnd(text []byte) (int, bool) {
	if d.Escape != d.Quote {
		return 0, false
	}
	r, end := d.regular(), 0
	for i := 0; i < len(text); i += 64 {
		m, ok := r.next(text, i)
		if !ok {
			return 0, false
		}
		if m.rows != 0 {
			end = i + 64 - bits.LeadingZeros64(m.rows)
		}
	}
	return end, true
}

// regular splits regular text, or reports false and has done nothing.
func (s *splitter) regular() bool {
	d, text := s.d, s.text
	if d.Quote == 0 || d.Escape != d.Quote {
		return false
	}
	r := d.regular()
	doubled, breaks := false, false
	for i := 0; i < len(text); i += 64 {
		m, ok := r.next(text, i)
		if !ok {
			return s.undo()
		}
		doubled = doubled || m.doubled != 0
		breaks = breaks || m.breaks != 0
		s.endCells(i, m, doubled)
	}
	if r.inside != 0 {
		return s.undo()
	}
	if s.start < len(text) || s.column > 0 {
		s.regularCell(len(text), doubled)
		s.endRow()
	}
	if breaks {
		s.countLines()
	}
	return true
}

// endCells ends the cells at the delimiters and line ends of the 64 bytes at i.
func (s *splitter) endCells(i int, m masks, doubled bool) {
	text, width, quote := s.text, s.width, s.d.Quote
	spans, start, column := s.spans, s.start, s.column
	for cells := m.cells; cells != 0; cells &= cells - 1 {
		p := i + bits.TrailingZeros64(cells)
		rowEnds := m.rows&(cells&-cells) != 0
		if !rowEnds && column < width && text[start] != quote {
			spans = append(spans, table.Span{Start: uint32(start), N: uint32(p - start)})
			column, start = column+1, p+1
			continue
		}
		s.spans, s.start, s.column = spans, start, column
		if rowEnds {
			end := p
			if end > start && text[end-1] == '\r' {
				end--
			}
			s.regularCell(end, doubled)
			s.endRow()
		} else {
			s.regularCell(p, doubled)
		}
		s.start = p + 1
		spans, start, column = s.spans, s.start, s.column
	}
	s.spans, s.start, s.column = spans, start, column
}

// regularCell adds the cell that ends at end.
func (s *splitter) regularCell(end int, doubled bool) {
	start := s.start
	if start == end || s.text[start] != s.d.Quote {
		s.cell(start, end)
		return
	}
	flags := uint32(table.Quoted)
	if doubled && bytes.IndexByte(s.text[start+1:end-1], s.d.Quote) >= 0 {
		flags |= table.Escaped
	}
	s.add(table.Span{Start: uint32(start + 1), N: uint32(end-start-2) | flags})
}

// undo forgets all rows.
func (s *splitter) undo() bool {
	s.b.Trouble, s.b.Extra = table.Trouble{}, s.b.Extra[:0]
	*s = splitter{d: s.d, b: s.b, text: s.text, spans: s.spans[:0], width: s.width}
	return false
}

// countLines notes the line of every row where some have line breaks in them.
func (s *splitter) countLines() {
	s.lines = s.b.Lines[:0]
	line, at := uint32(0), 0
	for r := range s.rows {
		var first table.Span
		if s.width > 0 {
			first = s.spans[r*s.width]
		} else {
			first = s.b.Extra[r].Spans[0]
		}
		start := int(first.Start)
		line += uint32(bytes.Count(s.text[at:start], []byte{s.d.EOL}))
		at = start
		s.lines = append(s.lines, line)
	}
	s.line = line + uint32(bytes.Count(s.text[at:], []byte{s.d.EOL}))
	if n := len(s.text); n > 0 && s.text[n-1] != s.d.EOL {
		s.line++
	}
}
