package delim

import (
	"bytes"
	"errors"
	"fmt"
	"io"

	"junvo/internal/table"
)

// A large file is read in ranges, which are whole rows each, by several readers that know nothing of each other. Where
// rows begin depends on all that stands before, since a line end may stand in quotes. So it is guessed, and the guess
// is proved: each range is walked through from where its first row would begin if the range began outside quotes, and
// if it began inside, up to where the first row behind it begins. The first range begins where the first row does, which
// is known; whichever walk of the second begins where that of the first has ended is the right one, and so on. Where
// neither does, that one range is walked through again from there. So the ranges are right whatever stands in the file,
// and all but the few that were guessed wrong are found at the same time.

// Range is a part of a file: whole rows.
type Range struct {
	From, To int64          // bytes of the file; From is 0 for the first, which has the header, too
	Line     int64          // of the row that begins at From
	Row      int64          // how many rows stand before it
	Encoding table.Decision // what was found out behind the start of the file; empty where nothing was
}

// ErrNoRanges says that a file can't be read in ranges.
var ErrNoRanges = errors.New("it can't be read in ranges: cells are not found in its bytes as they are")

// AsBytes reports whether cells are found in the bytes of text in an encoding as they are.
func AsBytes(encoding string) bool {
	cs, err := charsetNamed(encoding)
	return err == nil && cs.enc == nil
}

// From returns a reader of the bytes of a file from an offset on.
type From func(offset int64) (io.ReadCloser, error)

// Body returns where the first row begins, in bytes of the file, or ErrNoRanges.
func (s *Source) Body() (int64, error) {
	if !s.asBytes || s.charset.Load().enc != nil {
		return 0, ErrNoRanges
	}
	return s.body, nil
}

// Narrow makes the source read a range only, before anything was read. It reads from what the source was opened with
// where that is the first range, else from at.
func (s *Source) Narrow(r Range, size int64, at From) (io.Closer, error) {
	if _, err := s.Body(); err != nil {
		return nil, err
	}
	if r.Encoding.Value != "" {
		cs, err := charsetNamed(r.Encoding.Value)
		if err != nil || cs.enc != nil {
			return nil, errors.Join(err, ErrNoRanges)
		}
		s.charset.Store(cs)
		s.info.Decided(0, r.Encoding)
	}
	s.info.More = r.To < size
	if r.From == 0 {
		held := int64(len(s.carry))
		rest := r.To - s.body - held
		if rest < 0 {
			s.carry = s.carry[:max(0, held+rest)]
		}
		s.in = io.LimitReader(s.in, max(0, rest))
		return io.NopCloser(nil), nil
	}
	in, err := at(r.From)
	if err != nil {
		return nil, err
	}
	s.carry, s.in = nil, io.LimitReader(in, r.To-r.From)
	s.info.Above, s.info.Notes, s.info.Continues = nil, nil, true
	s.info.Files[0].FirstLine = r.Line
	return in, nil
}

// Walk is what walking through a range has found.
type Walk struct {
	Begin, End int64 // where its first row begins, and the first behind it
	Lines      int64 // line ends between
	Rows       int64
	Beyond     bool // whether any byte of it is beyond ASCII
}

// LateEncoding reads on to where the encoding is decided that the start of the file leaves open. It is empty where
// that decides it. The source can't be read afterwards.
func (s *Source) LateEncoding() (table.Decision, error) {
	b := &table.Block{}
	for s.charset.Load().open {
		b.Reset()
		if err := s.Next(b); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return table.Decision{}, err
		}
		if b.Learned.Encoding != (table.Decision{}) {
			return b.Learned.Encoding, nil
		}
	}
	return table.Decision{}, nil
}

// Probe walks through the bytes [from, to) of a file of that many bytes: from where the first row begins if they begin
// outside quotes, and if they begin inside. Where the first rows are as wide as the table in one way and not in the
// other, it is the only one.
func (s *Source) Probe(at From, from, to, size int64) ([]Walk, error) {
	var begins []int64
	var best float64
	for _, before := range []byte{'x', s.dialect.Quote} {
		if before == 0 {
			break
		}
		begin, err := s.rowAfter(at, from, size, before)
		if err != nil {
			return nil, err
		}
		even, err := s.evenAt(at, begin)
		if err != nil {
			return nil, err
		}
		switch {
		case len(begins) == 0 || even > best:
			begins, best = []int64{begin}, even
		case even == best && begin != begins[0]:
			begins = append(begins, begin)
		}
	}
	var walks []Walk
	for _, begin := range begins {
		walk, err := s.Walk(at, begin, to, size)
		if err != nil {
			return nil, err
		}
		walks = append(walks, walk)
	}
	return walks, nil
}

// evenAt returns which share of the rows from an offset on has as many cells as the table, of some of them.
func (s *Source) evenAt(at From, offset int64) (float64, error) {
	in, err := at(offset)
	if err != nil {
		return 0, err
	}
	defer in.Close()
	text := make([]byte, 16<<10)
	n, err := io.ReadFull(in, text)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return 0, err
	}
	rows := s.dialect.sample(text[:n], sampleRows)
	even := 0
	for _, r := range rows {
		if len(r.cells) == len(s.info.Names) {
			even++
		}
	}
	return float64(even) / float64(max(1, len(rows))), nil
}

// rowAfter returns where the first row begins at or behind a byte, if such a byte stood before the one before it.
func (s *Source) rowAfter(at From, from, size int64, before byte) (int64, error) {
	in, err := at(from - 1)
	if err != nil {
		return 0, err
	}
	defer in.Close()
	text := []byte{before}
	for want := 4 << 10; ; want *= 2 {
		n := len(text)
		text = append(text, make([]byte, want-n)...)
		read, err := io.ReadFull(in, text[n:])
		text = text[:n+read]
		last := errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)
		if err != nil && !last {
			return 0, err
		}
		if end, ok := s.dialect.firstRowEnd(text, last); ok {
			return from - 2 + int64(end), nil
		}
		if want > maxBlock { // a guess that leads nowhere
			return size, nil
		}
	}
}

// walkSize is how many bytes are walked through at a time.
const walkSize = 1 << 20

// Walk walks through the rows that begin in [begin, to), of which the first is known to begin at begin.
func (s *Source) Walk(at From, begin, to, size int64) (Walk, error) {
	w := Walk{Begin: begin, End: begin}
	if begin >= to {
		return w, nil
	}
	in, err := at(begin)
	if err != nil {
		return w, err
	}
	defer in.Close()
	b := &table.Block{Width: len(s.info.Names)}
	var text []byte
	for want, last := int(min(walkSize, to-begin+4<<10)), false; w.End < to; {
		n := len(text)
		text = append(text, make([]byte, max(0, want-n))...)
		read, err := io.ReadFull(in, text[n:])
		text = text[:n+read]
		if last = errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF); err != nil && !last {
			return w, err
		}
		end := s.wholeRows(text, to-w.End, last)
		if end == 0 && !last {
			if want *= 2; want > 2*maxBlock {
				return w, fmt.Errorf("a row is longer than %d MB", maxBlock>>20)
			}
			continue
		}
		w.add(s, b, text[:end])
		text = append(text[:0], text[end:]...)
		if want = walkSize; last && len(text) == 0 || end == 0 {
			break
		}
	}
	return w, nil
}

// wholeRows returns how many bytes the rows of a text take that begin in the first few bytes of it.
func (s *Source) wholeRows(text []byte, few int64, last bool) int {
	var marks []uint64
	part := text
	if int64(len(part)) > few {
		part = part[:few]
	}
	end := len(part)
	if !last || len(part) < len(text) {
		end = s.dialect.lastRowEnd(part, &marks)
	}
	if int64(end) < few && len(part) < len(text) { // a row begins before the end of them, and ends behind it
		more, ok := s.dialect.firstRowEnd(text[end:], last)
		if !ok {
			return end
		}
		end += more
	}
	return end
}

// add counts whole rows that stand behind those so far.
func (w *Walk) add(s *Source, b *table.Block, rows []byte) {
	b.Reset()
	b.Raw = append(b.Raw[:0], rows...)
	b.Width = len(s.info.Names)
	s.Split(b)
	w.End += int64(len(rows))
	w.Rows += int64(b.Rows)
	w.Lines += int64(b.LineCount)
	w.Beyond = w.Beyond || notASCII(rows) >= 0
}

// firstRowEnd returns where the first row of a text ends, just after its line end, or false where the text ends before
// that is known.
func (d *Dialect) firstRowEnd(text []byte, last bool) (int, bool) {
	for at := 0; ; {
		end := bytes.IndexByte(text[at:], d.EOL)
		line := text[at:]
		if end >= 0 {
			line = text[at : at+end]
		}
		q := -1
		if d.Quote != 0 {
			q = bytes.IndexByte(line, d.Quote)
		}
		switch {
		case q < 0 && end >= 0:
			return at + end + 1, true
		case q < 0:
			return len(text), last
		case !d.opens(text, at+q):
			at += q + 1
			continue
		}
		c, how := d.close(text, at+q, last)
		switch how {
		case closed:
			at = c.next
		case neverEnds:
			at += q + 1
		case needMore:
			return 0, false
		}
	}
}

// Ranges puts together the ranges of a file, and counts its rows: walks are those of the pieces that the file was cut
// into, in their order, without the first, which is head. A piece that was guessed wrong is walked through again.
func (s *Source) Ranges(head Walk, walks [][]Walk, again func(piece int, begin int64) (Walk, error)) (ranges []Range,
	rows int64, err error,
) {
	line := s.info.Files[0].FirstLine
	ranges = []Range{{To: head.End, Line: line}}
	at := head
	line, rows = line+head.Lines, head.Rows
	for i, guesses := range walks {
		var found *Walk
		for k := range guesses {
			if guesses[k].Begin == at.End {
				found = &guesses[k]
			}
		}
		if found == nil {
			w, err := again(i, at.End)
			if err != nil {
				return nil, 0, err
			}
			found = &w
		}
		if found.End > found.Begin {
			ranges = append(ranges, Range{From: found.Begin, To: found.End, Line: line, Row: rows})
		}
		line, rows, at = line+found.Lines, rows+found.Rows, *found
	}
	return ranges, rows, nil
}
