package delim

import (
	"bytes"
	"encoding/binary"
	"math/bits"
	"slices"

	"junvo/internal/table"
)

// Most text is regular: quotes stand around whole cells, or doubled inside quotes,
// and nowhere else. In regular text whatever stands behind an odd number of quotes
// is inside quotes, which can be told for 64 bytes at once with a few operations on
// their bits, and so can whether the text is regular. Where it is not, the exact way is
// taken.

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
	quoted  uint64 // delimiters and line ends right behind quoted cells
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
	afterQuotes := closing<<1 | r.closed
	if stray := opening &^ ((separators|closing)<<1 | r.mayOpen); stray != 0 {
		return masks{}, false
	}
	behind := afterQuotes &^ (separators | opening)
	for ; behind != 0; behind &= behind - 1 {
		// Only the carriage return of a line end may stand behind a closing quote, or nothing.
		p := i + bits.TrailingZeros64(behind)
		if p < len(text) && (text[p] != '\r' || p+1 == len(text) || text[p+1] != r.eol) {
			return masks{}, false
		}
	}
	m := masks{separators &^ inside, ends &^ inside, ends & inside, opening & afterQuotes, separators & afterQuotes}
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

// Marks of a text are three numbers for each 64 bytes, masks.cells, rows and quoted,
// and then these about the whole text.
const (
	marksPerGroup = 3

	hasDoubled = 1 << iota // somewhere a quote stands for itself
	hasBreaks              // somewhere a line end stands inside quotes
	endsInside             // the last quote is not closed
)

// mark appends the marks of a text, or reports false where the text is not regular.
func (d *Dialect) mark(marks []uint64, text []byte) ([]uint64, bool) {
	if d.Quote == 0 || d.Escape != d.Quote {
		return marks, false
	}
	marks = slices.Grow(marks, (len(text)/64+1)*marksPerGroup+1)
	r := d.regular()
	var doubled, breaks, flags uint64
	for i := 0; i < len(text); i += 64 {
		m, ok := r.next(text, i)
		if !ok {
			return marks[:0], false
		}
		doubled |= m.doubled
		breaks |= m.breaks
		marks = append(marks, m.cells, m.rows, m.quoted)
	}
	if doubled != 0 {
		flags |= hasDoubled
	}
	if breaks != 0 {
		flags |= hasBreaks
	}
	if r.inside != 0 {
		flags |= endsInside
	}
	return append(marks, flags), true
}

// lastMarkedRow returns where the last row of a marked text ends, just behind its
// line end, or 0 where none does.
func lastMarkedRow(marks []uint64) int {
	for g := len(marks)/marksPerGroup - 1; g >= 0; g-- {
		if rows := marks[g*marksPerGroup+1]; rows != 0 {
			return g*64 + 64 - bits.LeadingZeros64(rows)
		}
	}
	return 0
}

// regular splits regular text, or reports false and has done nothing.
func (s *splitter) regular() bool {
	marks, text := s.b.Marks, s.text
	if len(marks) == 0 {
		var ok bool
		if marks, ok = s.d.mark(marks, text); !ok || marks[len(marks)-1]&endsInside != 0 {
			return false
		}
		s.b.Marks = marks
	}
	flags := marks[len(marks)-1]
	doubled := flags&hasDoubled != 0
	for i := 0; i < len(text); i += 64 {
		m := marks[:marksPerGroup]
		cells := m[0]
		if rest := len(text) - i; rest < 64 { // what stands there belongs to the next block
			cells &= 1<<rest - 1
		}
		s.endCells(i, cells, m[1], m[2], doubled)
		marks = marks[marksPerGroup:]
	}
	if s.start < len(text) || s.column > 0 {
		s.add(s.regularSpan(s.start, len(text), doubled))
		s.endRow()
	}
	if flags&hasBreaks != 0 {
		s.countLines()
	}
	return true
}

// endCells ends the cells at the delimiters and line ends of the 64 bytes at i, those
// of a row at a time.
func (s *splitter) endCells(i int, cells, rowEnds, quoted uint64, doubled bool) {
	for cells != 0 {
		row := cells
		rows := cells & rowEnds
		if rows != 0 {
			row &= rows ^ (rows - 1)
		}
		if n := bits.OnesCount64(row); doubled || s.column+n > s.width {
			s.oddCells(i, row, doubled)
		} else {
			s.plainCells(i, row, quoted, n)
		}
		if rows != 0 {
			s.regularRow()
		}
		cells &^= row
	}
}

// plainCells ends n cells of one row that have no doubled quotes in them, nor too many.
func (s *splitter) plainCells(i int, ends, quoted uint64, n int) {
	at := len(s.spans)
	s.spans = slices.Grow(s.spans, n)[:at+n]
	cells, start, base := s.spans[at:], uint32(s.start), uint32(i)
	for k := range cells {
		t := bits.TrailingZeros64(ends) & 63
		q := uint32(quoted>>t) & 1
		end := base + uint32(t)
		cells[k] = table.Span{Start: start + q, N: end - start - 2*q + q*table.Quoted}
		start = end + 1
		ends &= ends - 1
	}
	s.start = int(start)
	s.column += n
}

// oddCells ends cells of one row of which some may have doubled quotes, or be too many.
func (s *splitter) oddCells(i int, ends uint64, doubled bool) {
	for ; ends != 0; ends &= ends - 1 {
		p := i + bits.TrailingZeros64(ends)
		s.add(s.regularSpan(s.start, p, doubled))
		s.start = p + 1
	}
}

// regularRow ends a row whose cells have been ended.
func (s *splitter) regularRow() {
	if end := s.start - 1; end > 0 && s.text[end-1] == '\r' && s.d.EOL != '\r' {
		last := s.last()
		start := int(last.Start)
		if last.N&table.Quoted != 0 {
			start--
		}
		if start < end {
			*last = s.regularSpan(start, end-1, true)
		}
	}
	if s.column != s.width {
		s.endRow()
		return
	}
	s.column = 0
	s.rows++
	s.line++
}

// last returns the last cell that was ended.
func (s *splitter) last() *table.Span {
	if n := len(s.extra); n > 0 {
		return &s.extra[n-1]
	}
	return &s.spans[len(s.spans)-1]
}

// regularSpan returns the span of the cell from start to end, its quotes included.
func (s *splitter) regularSpan(start, end int, doubled bool) table.Span {
	if start == end || s.text[start] != s.d.Quote {
		return table.Span{Start: uint32(start), N: uint32(end - start)}
	}
	flags := uint32(table.Quoted)
	if doubled && bytes.IndexByte(s.text[start+1:end-1], s.d.Quote) >= 0 {
		flags |= table.Escaped
	}
	return table.Span{Start: uint32(start + 1), N: uint32(end-start-2) | flags}
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
