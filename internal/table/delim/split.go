package delim

import (
	"bytes"
	"encoding/binary"
	"math/bits"
	"slices"
	"unicode/utf8"

	"junvo/internal/table"
)

// Split finds the rows and cells of b.Text, a run of whole rows: by the way of
// regular text where it is regular, else by the exact way, which looks at eight
// bytes at a time for delimiters and line ends, and at single bytes only where a
// quote opens a cell.
func (d *Dialect) Split(b *table.Block) {
	b.Quote, b.Escape = d.Quote, d.Escape
	s := splitter{d: d, b: b, text: b.Text, spans: b.Spans[:0], width: b.Width}
	if !s.regular() {
		s.exact()
		s.strayQuotes()
	}
	s.brokenText()
	b.Spans, b.Rows, b.LineCount = s.spans, s.rows, s.line
	if s.lines != nil {
		b.Lines = s.lines
	}
}

type splitter struct {
	d     *Dialect
	b     *table.Block
	text  []byte
	spans []table.Span
	width int

	start    int // of the cell
	column   int
	rows     int
	line     uint32 // of the row
	extraEnd uint32 // line breaks inside quotes of the row
	lines    []uint32
	extra    []table.Span
	quotes   int   // that belong to quoted cells
	stray    []int // rows with quotes inside quoted cells that stand for themselves
}

// exact splits text of any sort.
func (s *splitter) exact() {
	text := s.text
	i := s.openQuote(0)
	for i < len(text) {
		if i+9 <= len(text) {
			i = s.words(i)
			continue
		}
		if b := text[i]; b == s.d.Delimiter || b == s.d.EOL {
			i = s.endCell(i)
		} else {
			i++
		}
	}
	if s.start < len(text) || s.column > 0 {
		s.cell(s.start, len(text))
		s.endRow()
	}
}

// words goes through the text eight bytes at a time, from i on as far as there are
// nine, and ends the cells at the delimiters and line ends that it meets. It
// returns where to go on. Ordinary cells are ended right here.
func (s *splitter) words(i int) int {
	text, width := s.text, s.width
	delimiter, quote := s.d.Delimiter, s.d.Quote
	delimiters, ends := lowBits*uint64(delimiter), lowBits*uint64(s.d.EOL)
	spans, start, column := s.spans, s.start, s.column
	for i+9 <= len(text) {
		w := binary.LittleEndian.Uint64(text[i:])
		m := matches(w, delimiters) | matches(w, ends)
		next := i + 8
		for ; m != 0; m &= m - 1 {
			p := i + bits.TrailingZeros64(m)>>3
			after := text[p+1]
			if text[p] == delimiter && column < width && after != quote && after != ' ' {
				spans = append(spans, table.Span{Start: uint32(start), N: uint32(p - start)})
				column, start = column+1, p+1
				continue
			}
			s.spans, s.start, s.column = spans, start, column
			q := s.endCell(p)
			spans, start, column = s.spans, s.start, s.column
			if q != p+1 {
				next = q
				break
			}
		}
		i = next
	}
	s.spans, s.start, s.column = spans, start, column
	return i
}

// endCell ends the cell at the delimiter or line end at p, and returns where to
// go on: after it, or after the quoted cell that opens there.
func (s *splitter) endCell(p int) int {
	text := s.text
	if text[p] == s.d.Delimiter {
		s.cell(s.start, p)
	} else {
		end := p
		if end > s.start && text[end-1] == '\r' {
			end--
		}
		s.cell(s.start, end)
		s.endRow()
	}
	s.start = p + 1
	if p+1 < len(text) && (text[p+1] == s.d.Quote || text[p+1] == ' ') && s.d.Quote != 0 {
		return s.openQuote(p + 1)
	}
	return p + 1
}

// openQuote reads the quoted cells that start at i, one after the other, and
// returns where the scan goes on.
func (s *splitter) openQuote(i int) int {
	d, text := s.d, s.text
	for d.Quote != 0 {
		q := i
		for q < len(text) && text[q] == ' ' && d.Delimiter != ' ' {
			q++
		}
		if q >= len(text) || text[q] != d.Quote {
			return i
		}
		c, how := d.close(text, q, true)
		if how != closed {
			s.b.Trouble.OpenQuotes.Add(s.rows)
			return q + 1
		}
		if c.stray {
			s.stray = append(s.stray, s.rows)
		}
		flags := uint32(table.Quoted)
		if c.escaped || d.Escape != d.Quote && bytes.Contains(text[q+1:c.end], []byte{d.Escape, d.Escape}) {
			flags |= table.Escaped
		}
		s.quotes += 2
		if c.escaped || c.stray {
			s.quotes += bytes.Count(text[q+1:c.end], []byte{d.Quote})
		}
		s.add(table.Span{Start: uint32(q + 1), N: uint32(c.end-q-1) | flags})
		s.extraEnd += uint32(bytes.Count(text[q:c.end], []byte{d.EOL}))
		if c.next >= len(text) {
			s.endRow()
			s.start = len(text)
			return len(text)
		}
		if text[c.next] != d.Delimiter {
			if text[c.next] == '\r' && d.EOL != '\r' {
				c.next++
			}
			s.endRow()
		}
		i = c.next + 1
		s.start = i
		if i == len(text) && text[c.next] == d.Delimiter {
			return i
		}
	}
	return i
}

func (s *splitter) cell(start, end int) {
	s.add(table.Span{Start: uint32(start), N: uint32(end - start)})
}

func (s *splitter) add(c table.Span) {
	if c.Len() > table.MaxCell {
		s.b.Trouble.TooLong.Add(s.rows)
	}
	if s.column < s.width {
		s.spans = append(s.spans, c)
	} else {
		s.extra = append(s.extra, c)
	}
	s.column++
}

func (s *splitter) endRow() {
	if s.column < s.width {
		if s.column > 1 || s.width == 1 || s.spans[len(s.spans)-1].Len() > 0 {
			s.b.Trouble.Short.Add(s.rows)
		}
		for ; s.column < s.width; s.column++ {
			s.spans = append(s.spans, table.Span{N: table.Missing})
		}
	} else if s.column > s.width {
		s.endLongRow()
	}
	if s.lines != nil || s.extraEnd > 0 {
		s.noteLine()
	}
	s.column = 0
	s.rows++
	s.line += 1 + s.extraEnd
	s.extraEnd = 0
}

// endLongRow keeps the cells beyond the width. Where they are all empty the row
// just ends with delimiters, which is no damage.
func (s *splitter) endLongRow() {
	filled := false
	for _, c := range s.extra {
		filled = filled || len(bytes.TrimSpace(s.b.At(c))) > 0
	}
	s.b.Extra = append(s.b.Extra, table.Extra{Row: s.rows, Spans: append([]table.Span(nil), s.extra...)})
	s.extra = s.extra[:0]
	if filled {
		s.b.Trouble.Long.Add(s.rows)
	}
}

// strayQuotes counts the rows with quotes inside cells that stand for themselves.
func (s *splitter) strayQuotes() {
	if s.d.Quote == 0 || len(s.stray) == 0 && bytes.Count(s.text, []byte{s.d.Quote}) == s.quotes {
		return
	}
	for r := range s.rows {
		if _, inside := slices.BinarySearch(s.stray, r); inside || s.strayIn(s.spans[r*s.width:(r+1)*s.width]) {
			s.b.Trouble.StrayQuotes.Add(r)
		}
	}
}

// strayIn reports whether a cell that is not quoted has a quote after its first character.
func (s *splitter) strayIn(row []table.Span) bool {
	for _, c := range row {
		if c.N&table.Quoted == 0 && c.Len() > 1 && bytes.IndexByte(s.text[c.Start+1:int(c.Start)+c.Len()], s.d.Quote) >= 0 {
			return true
		}
	}
	return false
}

// brokenText counts the rows with bytes that are not text: NULs, and bytes that are
// no UTF-8. Both are rare, and looking for them in the whole block is quick.
func (s *splitter) brokenText() {
	if s.width == 0 || plainText(s.b.Marks) {
		return
	}
	nul, bad := bytes.IndexByte(s.text, 0) >= 0, !isUTF8(s.text)
	if s.b.Broken = bad; !nul && !bad {
		return
	}
	for r := range s.rows {
		row := s.rowText(r)
		if nul && bytes.IndexByte(row, 0) >= 0 {
			s.b.Trouble.NULs.Add(r)
		}
		if bad && !utf8.Valid(row) {
			s.b.Trouble.BadBytes.Add(r)
			s.b.Trouble.AddOdd(row)
		}
	}
}

// isUTF8 reports whether text is UTF-8. Most of it is ASCII, in which characters beyond that stand here and there.
func isUTF8(text []byte) bool {
	for {
		from := notASCII(text)
		if from < 0 {
			return true
		}
		text = text[from:]
		few := 4 // characters; where there are more, many are looked at together
		for ; few > 0 && len(text) > 0 && text[0] >= utf8.RuneSelf; few-- {
			_, n := utf8.DecodeRune(text)
			if n == 1 {
				return false
			}
			text = text[n:]
		}
		if few > 0 {
			continue
		}
		to := 0 // where there is nothing but ASCII for a while
		for to+8 <= len(text) && binary.LittleEndian.Uint64(text[to:])&highBits != 0 {
			to += 8
		}
		if to+8 > len(text) {
			to = len(text)
		}
		if !utf8.Valid(text[:to]) {
			return false
		}
		text = text[to:]
	}
}

// rowText returns the text from a row's first cell to the next row's.
func (s *splitter) rowText(r int) []byte {
	end := len(s.text)
	if r+1 < s.rows {
		end = int(s.spans[(r+1)*s.width].Start)
	}
	return s.text[s.spans[r*s.width].Start:end]
}

// noteLine keeps the lines of rows once a row has had more than one.
func (s *splitter) noteLine() {
	if s.lines == nil {
		s.lines = s.b.Lines[:0]
		for r := range s.rows {
			s.lines = append(s.lines, uint32(r))
		}
	}
	s.lines = append(s.lines, s.line)
}
