package delim

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync/atomic"
	"unicode/utf8"

	"golang.org/x/text/transform"

	"junvo/internal/table"
)

// blockSize is how many bytes of whole rows make a block. In wide tables it is more, so that a column has some cells in
// each block: what is kept of a column has to come from far when its turn comes.
const blockSize = 128 << 10

// sizeOfBlock returns the size of blocks of a table of that many columns.
func sizeOfBlock(columns int) int { return blockSize * min(max(1, columns/40), 8) }

// Source reads delimited text. It implements [table.Source].
type Source struct {
	info    table.Info
	dialect Dialect
	charset atomic.Pointer[charset]
	in      io.Reader
	carry   []byte // the start of a row whose end has not been read yet
	ended   bool
	// comments says that lines were told to be comments, and are marked.
	comments bool
	asBytes  bool  // cells are found in the bytes of the file as they are
	body     int64 // where the first row begins, in bytes of the file
}

// Open decides about the text that r yields and returns a source for it. size is
// its number of bytes, -1 where that is not known.
func Open(r io.Reader, name string, size int64, o Options) (*Source, error) {
	raw, whole, err := readSample(r)
	if err != nil {
		return nil, err
	}
	cs, why := detectCharset(raw)
	if o.Encoding != "" {
		bom := cs.bom
		if cs, err = charsetNamed(o.Encoding); err != nil {
			return nil, err
		}
		why = "as told"
		if cs.utf8() {
			cs.bom = bom
		}
	}
	if cs.enc == nil && controls(raw) {
		return nil, ErrBinary
	}
	widthsWhy := "as told"
	var gaps []int
	if o.Delimiter == "" && cs.enc == nil {
		var widths []int
		if widths, gaps = ruled(raw); o.Widths == nil && widths != nil {
			o.Widths, widthsWhy = widths, "a rule of dashes stands below the names"
		} else if n := len(widths) - 1; n != len(o.Widths)-1 || n > 0 && !slices.Equal(widths[:n], o.Widths[:n]) {
			gaps = nil // it is another rule
		}
	}
	above := 0
	if o.Widths != nil && gaps == nil && cs.enc == nil && o.HeaderRow >= 0 {
		if above = titlesAbove(raw[cs.bom:], o.Widths); o.HeaderRow > 0 {
			above = min(above, o.HeaderRow-1)
		}
	}
	isTabbed := cs.enc == nil && o.tabbed(raw)
	isSpaced := !isTabbed && cs.enc == nil && o.bySpaces(raw[cs.bom:], whole)
	relines := o.Widths != nil || isTabbed || isSpaced
	if relines || o.Comment != "" {
		r = io.MultiReader(bytes.NewReader(raw[cs.bom:]), r)
		if cs.enc != nil {
			r = transform.NewReader(r, cs.enc.NewDecoder())
			cs = &charset{name: cs.name}
		}
		cs.bom = 0
		if o.Comment != "" {
			r = newRelined(r, newCommenter(&o))
		}
		switch {
		case o.Widths != nil:
			r = newRelined(r, &cutter{o.Widths, cs.table != nil, gaps, o.Comment != "", above})
		case isTabbed:
			r = newRelined(r, tabbed{})
		case isSpaced:
			r = newRelined(r, bySpaces{})
		}
		if relines {
			o.Delimiter, o.Quote, o.Escape = string(rune(unitSeparator)), `"`, ""
		}
		raw = make([]byte, 2*max(len(raw), 1)) // another one: what reads from the first still does
		n, err := io.ReadFull(r, raw)
		if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
			return nil, err
		}
		raw, whole = raw[:n], err != nil
	}
	s := &Source{in: r, asBytes: o.Comment == "" && !relines}
	s.charset.Store(cs)
	text, err := s.sample(raw, whole)
	if err != nil {
		return nil, err
	}
	l, err := detect(text, whole, o)
	if err != nil {
		return nil, err
	}
	if len(l.names) == 0 {
		return nil, ErrEmpty
	}
	s.dialect = l.dialect
	s.info = table.Info{
		Name: name, Format: "delimited text", Bytes: size, Names: l.names, Above: l.above, Encoding: cs.name,
		Delimiter: delimiterName(l.dialect.Delimiter), HeaderRow: l.headerRow, Notes: l.notes, Contiguous: true,
		Decisions: append([]table.Decision{{What: "encoding", Value: cs.name, Why: why}}, l.decisions...),
		Files:     []table.File{{Name: name, FirstLine: l.bodyLine}},
	}
	switch {
	case isTabbed:
		l.dialect.Quote = 0
		s.delimitedBy("tab", "\t", "tabs stand between cells")
		s.info.Decisions = append(s.info.Decisions,
			table.Decision{What: "quote escape", Value: backslash, Why: `cells are \N, as databases write that there is no value`})
	case isSpaced:
		s.delimitedBy(spacesName, " ", "runs of spaces stand between cells, and all lines have as many")
	}
	if o.Widths != nil {
		s.info.Format, s.info.Delimiter, s.info.Widths = "fixed-width text", "", o.Widths
		l.dialect.Quote = 0
		for i := range s.info.Above {
			s.info.Above[i].Text = uncut(s.info.Above[i].Text)
		}
		s.info.Decisions = slices.DeleteFunc(s.info.Decisions, func(d table.Decision) bool {
			return d.What == "delimiter" ||
				d.What == "quote"
		})
		s.info.Decisions = append(s.info.Decisions, table.Decision{
			What: "widths", Value: widthsText(o.Widths),
			Why: widthsWhy,
		})
	}
	if s.comments = o.Comment != ""; s.comments {
		s.info.Comment = o.Comment
		s.info.Decisions = append(s.info.Decisions, table.Decision{
			What: "comments", Value: o.Comment,
			Why: "as told: lines that begin so",
		})
	}
	if l.dialect.Quote != 0 {
		s.info.Quote = string(l.dialect.Quote)
	}
	s.skipTo(text, l.body)
	return s, nil
}

// delimitedBy says what stands between the cells of a text whose lines were made others.
func (s *Source) delimitedBy(name, sign, why string) {
	s.info.Delimiter = name
	s.info.Decisions = slices.DeleteFunc(s.info.Decisions, func(d table.Decision) bool {
		return d.What == "delimiter" || d.What == "quote"
	})
	s.info.Decisions = append(s.info.Decisions, table.Decision{What: "delimiter", Value: name, Why: why})
	for i := range s.info.Above {
		s.info.Above[i].Text = strings.ReplaceAll(s.info.Above[i].Text, string(rune(unitSeparator)), sign)
	}
}

// readSample reads the start of a file, by which is decided about it: so much that there are a few
// lines in it, however long they are.
func readSample(r io.Reader) (raw []byte, whole bool, err error) {
	for size := sampleSize; ; size *= 2 {
		raw = append(raw, make([]byte, size-len(raw))...)
		start := len(raw) - size/2
		if size == sampleSize {
			start = 0
		}
		n, err := io.ReadFull(r, raw[start:])
		raw = raw[:start+n]
		whole = errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)
		if err != nil && !whole {
			return nil, false, err
		}
		if whole || size >= maxSample || max(bytes.Count(raw, []byte{'\n'}),
			bytes.Count(raw, []byte{'\r'})) >= minSampleLines {
			return raw, whole, nil
		}
	}
}

const (
	minSampleLines = 4
	maxSample      = 64 << 20
)

// Errors of files that are no tables.
var (
	ErrBinary = errors.New("it is not text: it has many control characters")
	ErrEmpty  = errors.New("it is empty")
)

// OptionError is a wish about the file that makes no sense or does not fit it.
type OptionError struct{ Say string }

func (e *OptionError) Error() string { return e.Say }

func optionError(format string, args ...any) error {
	return &OptionError{fmt.Sprintf(format, args...)}
}

// controls reports whether bytes are unlike text in any one-byte encoding or UTF-8.
func controls(sample []byte) bool {
	n := 0
	for i, b := range sample {
		if b == 0x1b && i+1 < len(sample) && sample[i+1] == '[' {
			continue // the colours of a terminal
		}
		if b < ' ' && b != '\t' && b != '\n' && b != '\r' && b != '\f' && b != 0x1f && b != 0x01 && b != 0x1a {
			n++
		}
	}
	return n > 8 && n*50 > len(sample)
}

// sample returns the start of the text in UTF-8 and keeps it for reading.
func (s *Source) sample(raw []byte, whole bool) ([]byte, error) {
	cs := s.charset.Load()
	if cs.enc == nil {
		s.carry = raw[cs.bom:]
		if cs.table != nil {
			return cs.decode(nil, s.carry), nil
		}
		return s.carry, nil
	}
	s.in = transform.NewReader(io.MultiReader(bytes.NewReader(raw), s.in), cs.enc.NewDecoder())
	size := len(raw) / 2 // the decoded text may be shorter than the raw bytes
	if whole {
		size = 4 * len(raw)
	}
	text := make([]byte, size)
	n, err := io.ReadFull(s.in, text)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return nil, err
	}
	s.carry = text[:n]
	return s.carry, nil
}

// skipTo makes reading start with the first row, which starts at text[body:].
func (s *Source) skipTo(text []byte, body int) {
	if s.charset.Load().table != nil {
		// One byte of the file for each character of the text.
		body = utf8.RuneCount(text[:body])
	}
	s.body = int64(s.charset.Load().bom + body)
	s.carry = s.carry[body:]
}

// Info implements [table.Source].
func (s *Source) Info() *table.Info { return &s.info }

// Next implements [table.Source]: it reads a block's worth of bytes and keeps what
// stands after the last whole row for the next block.
func (s *Source) Next(b *table.Block) error {
	if s.ended && len(s.carry) == 0 || len(s.info.Names) == 0 {
		return io.EOF
	}
	buf := b.Raw[:0]
	buf = append(buf, s.carry...)
	s.carry = s.carry[:0]
	for want := sizeOfBlock(len(s.info.Names)); ; want = max(want, 2*len(buf)) {
		var err error
		if buf, err = s.fill(buf, want); err != nil {
			return err
		}
		end := len(buf)
		b.Marks = b.Marks[:0]
		if !s.ended {
			end = s.dialect.lastRowEnd(buf, &b.Marks)
		}
		if s.charset.Load().open && !plainText(b.Marks) {
			if at := notASCII(buf); at >= 0 {
				b.Learned.Encoding = s.decideLate(buf, at)
			}
			if s.charset.Load().enc != nil {
				buf, s.ended = buf[:0], false // to be read once more, decoded
				continue
			}
		}
		if end == 0 && len(buf) > 0 && len(buf) < maxBlock {
			continue
		}
		if end == 0 && len(buf) > 0 {
			return fmt.Errorf("a row is longer than %d MB; is the delimiter, the quote or the line end right?", maxBlock>>20)
		}
		s.carry = append(s.carry, buf[end:]...)
		b.Raw = buf[:end]
		break
	}
	if len(b.Raw) == 0 {
		return io.EOF
	}
	b.Width = len(s.info.Names)
	b.Last = s.ended && len(s.carry) == 0 && !s.info.More
	return nil
}

// decideLate decides the encoding of a file whose first byte beyond ASCII is buf[at].
func (s *Source) decideLate(buf []byte, at int) table.Decision {
	cs, why := charsetOf(buf[max(0, at-100):])
	if cs.enc != nil {
		s.in = transform.NewReader(io.MultiReader(bytes.NewReader(bytes.Clone(buf)), s.in), cs.enc.NewDecoder())
	}
	s.charset.Store(cs)
	return table.Decision{What: "encoding", Value: cs.name, Why: why + "; its first part is all ASCII"}
}

// notASCII returns where the first byte beyond ASCII stands, or -1.
func notASCII(text []byte) int {
	i := 0
	for i+32 <= len(text) {
		t := text[i : i+32]
		if (binary.LittleEndian.Uint64(t)|binary.LittleEndian.Uint64(t[8:])|binary.LittleEndian.Uint64(t[16:])|binary.LittleEndian.Uint64(t[24:]))&highBits != 0 {
			break
		}
		i += 32
	}
	for i+8 <= len(text) && binary.LittleEndian.Uint64(text[i:])&highBits == 0 {
		i += 8
	}
	for ; i < len(text); i++ {
		if text[i] >= utf8.RuneSelf {
			return i
		}
	}
	return -1
}

// maxBlock is the longest row, in bytes, that is read.
const maxBlock = table.MaxCell + 1<<20

// fill reads until buf has the wanted length or the file ends.
func (s *Source) fill(buf []byte, want int) ([]byte, error) {
	if cap(buf) < want {
		buf = append(make([]byte, 0, want+want/8), buf...)
	}
	for len(buf) < want && !s.ended {
		n, err := s.in.Read(buf[len(buf):want])
		buf = buf[:len(buf)+n]
		switch {
		case errors.Is(err, io.EOF):
			s.ended = true
		case err != nil:
			return buf, err
		}
	}
	return buf, nil
}

// Split implements [table.Source].
func (s *Source) Split(b *table.Block) {
	if cs := s.charset.Load(); cs.table != nil {
		b.SetText(cs.decode(b.Buffer(), b.Raw))
		b.Marks = b.Marks[:0] // they are of the bytes
	} else {
		b.Text = b.Raw
	}
	b.Pad()
	s.dialect.Split(b)
	if s.comments {
		takeComments(b)
	}
}
