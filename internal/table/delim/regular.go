package delim

import (
	"bytes"
	"encoding/binary"
	"math/bits"
	"slices"
	"strings"

	"junvo/internal/table"
)

// Most text is regular: quotes stand around whole cells, or doubled inside quotes,
// and nowhere else. In regular text whatever stands after an odd number of quotes
// is inside quotes, which can be told for 64 bytes at once with a few operations on
// their bits, and so can whether the text is regular. Where it is not, the exact way is
// taken.
//
// How it goes, for the 64 bytes a,"b,c",d and so on. Three words of 64 bits say which bytes are delimiters, quotes and
// line ends: findBytes, a few instructions for each 32 bytes where the processor compares that many at once. The parity
// of the quotes up to each byte (prefixParity) says which bytes stand inside quotes:
//
//	text      a , " b , c " , d
//	quotes    0 0 1 0 0 0 1 0 0
//	parity    0 0 1 1 1 1 0 0 0    a quote that opens is inside, one that closes is not
//	commas    0 1 0 0 1 0 0 1 0
//	cells end 0 1 0 0 0 0 0 1 0    commas without those inside
//
// The parity of the last byte is carried into the next 64. What follows a closing quote must be a delimiter, a line end
// or another quote, and what stands before an opening one a delimiter or a line end: bits that are shifted by one tell,
// again for all bytes at once, and where they do not fit the text is not regular. Then the bits that are left are
// walked one by one, and each ends a cell.

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

// oddBytes returns zero where all of the bytes of a block are ASCII and none is zero.
func oddBytes(block []byte) (odd uint64) {
	for k := 0; k < 64; k += 8 {
		w := binary.LittleEndian.Uint64(block[k:])
		odd |= w&highBits | matches(w, 0)
	}
	return odd
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

// Marks of a text are three numbers for each group of 64 bytes, as bits: the delimiters
// and line ends outside quotes, the line ends outside quotes, and the delimiters and
// line ends right after quoted cells. After them stand flags of the whole text.
const (
	marksPerGroup = 3

	hasDoubled = 1 << iota // somewhere a quote stands for itself
	hasBreaks              // somewhere a line end stands inside quotes
	endsInside             // the last quote is not closed
	hasOdd                 // some bytes are zero or beyond ASCII
)

// mark appends the marks of a text, or reports false where the text is not regular.
func (d *Dialect) mark(marks []uint64, text []byte) ([]uint64, bool) {
	if d.Quote == 0 || d.Escape != d.Quote {
		return marks, false
	}
	marks, odd := d.find(marks, text)
	var (
		doubled, breaks uint64
		inside          uint64      // all ones where the group begins inside quotes
		mayOpen         = uint64(1) // 1 where a quote may open a cell at the first byte
		closed          uint64      // 1 where the byte before closed a cell
	)
	for g := 0; g+marksPerGroup <= len(marks); g += marksPerGroup {
		m := marks[g : g+marksPerGroup : g+marksPerGroup]
		delimiters, ends, quotes := m[0], m[1], m[2]
		separators := delimiters | ends
		if quotes|inside|closed == 0 { // as most groups are
			m[0], mayOpen = separators, separators>>63
			continue
		}
		within := inside
		if quotes != 0 {
			within ^= prefixParity(quotes)
		}
		opening, closing := quotes&within, quotes&^within
		afterQuotes := closing<<1 | closed
		if opening&^((separators|closing)<<1|mayOpen) != 0 {
			return marks[:0], false
		}
		if behind := afterQuotes &^ (separators | opening); behind != 0 && !d.onlyReturns(text, g/marksPerGroup*64, behind) {
			return marks[:0], false
		}
		m[0], m[1], m[2] = separators&^within, ends&^within, separators&afterQuotes
		doubled |= opening & afterQuotes
		breaks |= ends & within
		inside = uint64(int64(within) >> 63)
		mayOpen = (separators | closing) >> 63
		closed = closing >> 63
	}
	flags := inside & endsInside
	if doubled != 0 {
		flags |= hasDoubled
	}
	if breaks != 0 {
		flags |= hasBreaks
	}
	if odd {
		flags |= hasOdd
	}
	return append(marks, flags), true
}

// find appends which bytes of the text are delimiters, line ends and quotes, for each
// group of 64 bytes, and reports whether some are zero or beyond ASCII.
func (d *Dialect) find(marks []uint64, text []byte) (_ []uint64, odd bool) {
	groups := len(text) / 64
	n := len(marks)
	marks = slices.Grow(marks, (groups+1)*marksPerGroup+1)
	delimiters, ends, quotes := lowBits*uint64(d.Delimiter), lowBits*uint64(d.EOL), lowBits*uint64(d.Quote)
	if groups > 0 {
		marks = marks[:n+groups*marksPerGroup]
		odd = find(&text[0], groups, &marks[n], delimiters, ends, quotes) != 0
	}
	if rest := len(text) - 64*groups; rest > 0 {
		var last [64]byte
		copy(last[copy(last[:], text[64*groups:]):], spaces)
		a, b, c := findBytes(last[:], delimiters, ends, quotes)
		in := uint64(1)<<rest - 1
		marks = append(marks, a&in, b&in, c&in)
		odd = odd || oddBytes(last[:]) != 0
	}
	return marks, odd
}

var spaces = strings.Repeat(" ", 64)

// plainText reports whether the marks of a text say that all of it is ASCII without zeros.
// Where there are no marks, that is not known.
func plainText(marks []uint64) bool { return len(marks) > 0 && marks[len(marks)-1]&hasOdd == 0 }

// onlyReturns reports whether what stands after closing quotes, at the bits of
// behind from base on, is nothing but the carriage returns of line ends.
func (d *Dialect) onlyReturns(text []byte, base int, behind uint64) bool {
	for ; behind != 0; behind &= behind - 1 {
		p := base + bits.TrailingZeros64(behind)
		if p < len(text) && (text[p] != '\r' || p+1 == len(text) || text[p+1] != d.EOL) {
			return false
		}
	}
	return true
}

// lastMarkedRow returns where the last row of a marked text ends, just after its
// line end, or 0 where none does.
func lastMarkedRow(marks []uint64) int {
	for g := len(marks)/marksPerGroup - 1; g >= 0; g-- {
		if rows := marks[g*marksPerGroup+1]; rows != 0 {
			return g*64 + 64 - bits.LeadingZeros64(rows)
		}
	}
	return 0
}

// stretch is how many bytes of regular text are split at once: some rows of most tables.
const stretch = 32 * 64

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
	marks = marks[:(len(text)+63)/64*marksPerGroup]
	if rest := uint(len(text) % 64); rest > 0 { // what stands there belongs to the next block
		last := marks[len(marks)-marksPerGroup:]
		last[0] &= 1<<rest - 1
		last[1] &= 1<<rest - 1
	}
	doubled := flags&hasDoubled != 0
	for i := 0; i < len(text); i += stretch {
		n := min(stretch/64*marksPerGroup, len(marks))
		if doubled || !s.even(i, marks[:n]) {
			s.uneven(i, marks[:n], doubled)
		}
		marks = marks[n:]
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

// even ends the cells of the stretch at i, or reports false and has done nothing where a
// row has too many or too few of them, or a cell may be too long. It ends all cells first,
// with no look at rows, and then sees whether the rows end where they should.
func (s *splitter) even(i int, marks []uint64) bool {
	rows := 0
	for g := 0; g < len(marks); g += marksPerGroup {
		rows += bits.OnesCount64(marks[g+1])
	}
	filled := len(s.spans) - s.column // the cells of whole rows
	if i+stretch-s.start > table.MaxCell {
		return false
	}
	spans, start := s.cellEnds(i, marks)
	column := len(spans) - filled - rows*s.width
	if column < 0 || column > s.width {
		return false
	}
	last := filled - 1
	for range rows {
		last += s.width
		end := spans[last].Start + spans[last].N&^table.Quoted + spans[last].N/table.Quoted
		if s.text[end] != s.d.EOL {
			return false
		}
		if end > 0 && s.text[end-1] == '\r' && s.d.EOL != '\r' {
			s.dropReturn(&spans[last], int(end))
		}
	}
	s.spans, s.start, s.column = spans, start, column
	s.rows += rows
	s.line += uint32(rows)
	return true
}

// cellEnds appends a span for each cell that cellEnds in the stretch at i, and returns where the
// next cell starts.
func (s *splitter) cellEnds(i int, marks []uint64) (spans []table.Span, start int) {
	at := len(s.spans)
	spans = slices.Grow(s.spans, stretch)[:at+stretch]
	n, next := cut(&spans[at], &marks[0], len(marks)/marksPerGroup, uint32(s.start), uint32(i))
	return spans[:at+n], int(next)
}

// cutGroups writes the cells that end at the marks of some groups of 64 bytes, the first of
// which begins at base, and returns how many they are and where the next one starts. The
// first starts at from.
func cutGroups(cells []table.Span, marks []uint64, from, base uint32) (n int, next uint32) {
	for ; len(marks) >= marksPerGroup; marks, base = marks[marksPerGroup:], base+64 {
		quoted := marks[2]
		for ends := marks[0]; ends != 0; ends &= ends - 1 {
			t := bits.TrailingZeros64(ends)
			q := uint32(quoted>>t) & 1
			cells[n] = table.Span{Start: from + q, N: base + uint32(t) - from - 2*q + q*table.Quoted}
			from = base + uint32(t) + 1
			n++
		}
	}
	return n, from
}

// dropReturn takes the carriage return before the line end at end off a row's last cell.
func (s *splitter) dropReturn(last *table.Span, end int) {
	start := int(last.Start)
	if last.N&table.Quoted != 0 {
		start--
	}
	if start < end {
		*last = s.regularSpan(start, end-1, true)
	}
}

// uneven ends the cells of the stretch at i, of which some may have doubled quotes, or
// their rows too many or too few of them.
func (s *splitter) uneven(i int, marks []uint64, doubled bool) {
	for ; len(marks) >= marksPerGroup; marks, i = marks[marksPerGroup:], i+64 {
		for ends := marks[0]; ends != 0; ends &= ends - 1 {
			t := bits.TrailingZeros64(ends)
			p := i + t
			s.add(s.regularSpan(s.start, p, doubled))
			s.start = p + 1
			if marks[1]>>t&1 == 0 {
				continue
			}
			if p > 0 && s.text[p-1] == '\r' && s.d.EOL != '\r' {
				s.dropReturn(s.last(), p)
			}
			s.endRow()
		}
	}
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
