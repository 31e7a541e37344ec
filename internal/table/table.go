// Package table has the two small interfaces between the formats of files and
// the rest: a [Source] yields blocks of whole rows, a [Sink] takes typed rows.
//
// A block is filled in two moves, so that the cheap one can be done in order by
// one goroutine and the dear one by many at once:
//
//	for {
//		err := src.Next(block)  // in order: the bytes of whole rows
//		src.Split(block)        // anywhere: rows and cells
//		block.Cell(row, column)
//	}
//
// Which rows make a block depends on the source alone, never on the number of workers.
package table

import (
	"bytes"
	"encoding/hex"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"junvo/internal/finding"
	"junvo/internal/value"
)

// A Source is a table that is read once, front to back.
type Source interface {
	// Info tells what is known before the first row: names, decisions, lines above the header.
	Info() *Info
	// Next fills b with the next block, or returns io.EOF after the last. It is
	// called by one goroutine at a time.
	Next(b *Block) error
	// Split finds the rows and cells of a block that Next has filled. Blocks may be
	// split at the same time.
	Split(b *Block)
}

// Info describes a source.
type Info struct {
	Name      string
	Format    string
	Bytes     int64 // of the file; -1 where that is not known
	Names     []string
	Made      int    // how many of them, the last ones, are made of the others: what a row is they do not say
	Files     []File // the files that the table comes from, in order
	Decisions []Decision
	Above     []Line // lines above the header, and right below it, that are no data
	Encoding  string
	Delimiter string
	Quote     string
	Widths    []int  // of the columns of text in columns of fixed width
	Comment   string // what lines begin with that are told to be comments
	HeaderRow int64  // the line of the header, 0 for none
	Typed     bool   // the source stores cells as numbers, dates and so on, not only as text
	Notes     []Note
	// Records says that the rows are records of a database and the like, among which there are
	// no headings, totals or notes.
	Records bool
	// Sheet says that lines are rows of a sheet, whose cells have addresses: see Address.
	Sheet bool
	// Continues says that the source goes on in the file of the one before it: it is a range of that file. More says that
	// another one follows. A saved profile has them of ranges only.
	Continues bool `cbor:",omitempty"`
	More      bool `cbor:",omitempty"`
	// Contiguous says that the cells of a row follow each other in a block's text with
	// what separates them, so that equal rows have equal bytes.
	Contiguous bool
}

// Own returns a copy whose texts are its own: those of a source may be parts of what was read to see what the source is.
func (i *Info) Own() *Info {
	own := *i
	own.Names = slices.Clone(i.Names)
	for n := range own.Names {
		own.Names[n] = strings.Clone(own.Names[n])
	}
	own.Above = slices.Clone(i.Above)
	for n := range own.Above {
		own.Above[n].Text = strings.Clone(own.Above[n].Text)
	}
	return &own
}

// Address returns the address of a cell of a sheet, such as B4 for the second column, from
// 1 here, of line 4.
func Address(column int, line int64) string { return string(AppendAddress(nil, column, line)) }

// AppendAddress appends what Address returns.
func AppendAddress(dst []byte, column int, line int64) []byte {
	var letters [16]byte // from the end on
	at := len(letters)
	for n := column; n > 0; n = (n - 1) / 26 {
		at--
		letters[at] = byte('A' + (n-1)%26)
	}
	return strconv.AppendInt(append(dst, letters[at:]...), line, 10)
}

// File is one of the files of a table.
type File struct {
	Name      string
	FirstLine int64 // the line of its first row
}

// Decision is something that was found out about the file itself, and why.
type Decision struct {
	What  string `json:"what"`
	Value string `json:"value"`
	Why   string `json:"why"`
}

// Line is a line that belongs to no row.
type Line struct {
	File   int
	Number int64
	Text   string
	Cells  []string // of the text, where it is a row
	Reason string   // above-header, second-heading or units
}

// Note is a finding about the file's structure that the source made itself.
type Note struct {
	Kind  finding.Kind
	Count int64
	Say   string
}

// BlobText returns the text of a cell that holds bytes which are not text: all of them in hexadecimal digits, so that
// two cells are equal only if their bytes are; false if that is longer than [MaxCell].
func BlobText(bytes []byte) (string, bool) {
	if len(bytes) > MaxCell/2-2 {
		return "", false
	}
	return "x'" + hex.EncodeToString(bytes) + "'", true
}

// Span says where a cell stands in its block's text: Start, and N with the length
// and flags.
type Span struct {
	Start uint32
	N     uint32
}

// Flags of a span. A quoted span stands inside its quotes; an escaped one has
// quotes in it that stand for one each; a missing one is beyond its row's end.
const (
	Quoted  = 1 << 29
	Escaped = 1 << 30
	Missing = 1 << 31
	lenMask = Quoted - 1
)

// MaxCell is the longest cell in bytes.
const MaxCell = 64 << 20

// Len returns the length of the span in bytes.
func (s Span) Len() int { return int(s.N & lenMask) }

// Within reports whether the cell is as it stands in the text, neither empty nor escaped, and
// of at most that many bytes.
func (s Span) Within(bytes uint32) bool { return s.N&^Quoted-1 < bytes }

// Bare returns the span without its flags.
func (s Span) Bare() Span { return Span{s.Start, s.N & lenMask} }

// A Block is a run of whole rows.
type Block struct {
	Seq   int    // the number of the block, from 0
	File  int    // which of the source's files it comes from
	Raw   []byte // the bytes as they came
	Text  []byte // the text in UTF-8 into which the spans point; often the same as Raw
	Width int
	Rows  int
	Spans []Span         // Rows times Width
	Kinds []value.Stored // of each span; nil where all are text
	// Lines has the line of each row, counted from the block's first line. Nil
	// stands for one line a row.
	Lines     []uint32
	LineCount uint32
	Extra     []Extra // cells beyond the width, in row order
	Trouble   Trouble
	Last      bool // nothing follows
	Broken    bool // there are bytes in the text that are no UTF-8
	Learned   Learned
	Quote     byte
	Escape    byte     // what stands before a quote inside quotes
	Marks     []uint64 // for the source: what Next has found out for Split
	// From has for each row which row of the file's it is made of, from 0 in the block; nil where that is the row itself.
	// FileRows is how many there are then, and Odd which rows are no data, since that was seen of the file's own rows.
	// Where From is nil, Odd has the rows that the source itself knows to be none.
	From     []uint32
	FileRows int
	Odd      []OddRow
	// Result is for whoever works on the block; it stays when the block is used again.
	Result  any
	padded  Padded
	source  Source // of a chain that the block is of
	scratch []byte // for escaped cells
	buffer  []byte // for text that is not Raw
}

// OddRow is a row that is no data, and of which kind.
type OddRow struct {
	Row  int
	Kind uint8
}

// CommentRow is the kind of a row that is told to be a comment.
const CommentRow = 0xff

// RowOf returns the row of the file, counted from 0 in the block, that a row is made of.
func (b *Block) RowOf(row int) int64 {
	if b.From == nil {
		return int64(row)
	}
	return int64(b.From[row])
}

// RowsOfFile returns how many rows of the file the block has.
func (b *Block) RowsOfFile() int64 {
	if b.From == nil {
		return int64(b.Rows)
	}
	return int64(b.FileRows)
}

// Extra is the rest of a row that has more cells than the table has columns.
type Extra struct {
	Row   int
	Spans []Span
}

// Trouble counts structural damage in a block, with the first rows of each sort.
type Trouble struct {
	Short, Long, StrayQuotes, OpenQuotes, NULs, BadBytes, TooLong Tally
	// Names are rows below a gap that may be the names of another table; who looks at all rows finds them.
	Names Tally
	// Odd has the bytes that are not text in the encoding, and how often each occurs.
	Odd map[byte]int64
}

// AddOdd counts the bytes of a text that are no UTF-8.
func (t *Trouble) AddOdd(text []byte) {
	if t.Odd == nil {
		t.Odd = map[byte]int64{}
	}
	for len(text) > 0 {
		r, n := utf8.DecodeRune(text)
		if r == utf8.RuneError && n == 1 {
			t.Odd[text[0]]++
		}
		text = text[n:]
	}
}

// Tally counts rows and keeps the first few.
type Tally struct {
	Count int64
	Rows  []int
}

// maxTallyRows is how many rows of a sort of trouble a block remembers.
const maxTallyRows = 5

// Add counts a row.
func (t *Tally) Add(row int) {
	t.Count++
	if len(t.Rows) < maxTallyRows {
		t.Rows = append(t.Rows, row)
	}
}

// Remove takes a row out that was counted.
func (t *Tally) Remove(row int) {
	t.Count--
	t.Rows = slices.DeleteFunc(t.Rows, func(r int) bool { return r == row })
}

// Reset empties the block for the next use, keeping its memory.
func (b *Block) Reset() {
	Poison(b.Raw)
	Poison(b.Spans)
	Poison(b.Lines)
	Poison(b.Marks)
	Poison(b.scratch)
	Poison(b.buffer)
	*b = Block{
		Raw: b.Raw[:0], Spans: b.Spans[:0], Lines: b.Lines[:0], Marks: b.Marks[:0], Result: b.Result,
		scratch: b.scratch, buffer: b.buffer,
	}
}

// Buffer returns the block's buffer for text that is not Raw, emptied.
func (b *Block) Buffer() []byte { return b.buffer[:0] }

// SetText sets the text, which stands in a buffer that the block keeps.
func (b *Block) SetText(text []byte) { b.Text, b.buffer = text, text }

// Cell returns the text of a cell. It is valid until the next call.
func (b *Block) Cell(row, column int) []byte {
	return b.At(b.Spans[row*b.Width+column])
}

// Row returns the spans of a row.
func (b *Block) Row(row int) []Span { return b.Spans[row*b.Width : (row+1)*b.Width] }

// TurnedFrom returns the name of the column of the file that a row was made of, where columns have become rows; ""
// elsewhere. The last two columns of such a block are that name and the cell.
func (b *Block) TurnedFrom(row int) string {
	if b.From == nil || b.Width < 2 {
		return ""
	}
	return string(b.Cell(row, b.Width-2))
}

// At returns the text of a span. It is valid until the next call.
func (b *Block) At(s Span) []byte {
	if s.N&Escaped != 0 {
		return b.unescape(b.Text[s.Start : s.Start+s.N&lenMask])
	}
	return b.Text[s.Start : s.Start+s.N&lenMask]
}

func (b *Block) unescape(text []byte) []byte {
	b.scratch = b.scratch[:0]
	for {
		i := bytes.IndexByte(text, b.Escape)
		if i < 0 || i+1 >= len(text) {
			b.scratch = append(b.scratch, text...)
			return b.scratch
		}
		if text[i+1] == b.Quote || text[i+1] == b.Escape {
			b.scratch = append(b.scratch, text[:i]...)
			b.scratch = append(b.scratch, text[i+1])
		} else {
			b.scratch = append(b.scratch, text[:i+2]...)
		}
		text = text[i+2:]
	}
}

// Line returns the line of a row, counted from the block's first line.
func (b *Block) Line(row int) int64 {
	if len(b.Lines) == 0 {
		return int64(row)
	}
	return int64(b.Lines[row])
}

// RowCells returns the texts of a row, extra cells included, copied.
func (b *Block) RowCells(row int) []string {
	var cells []string
	for c := range b.Width {
		if b.Spans[row*b.Width+c].N&Missing == 0 {
			cells = append(cells, string(b.Cell(row, c)))
		}
	}
	for _, s := range b.ExtraOf(row) {
		cells = append(cells, string(b.At(s)))
	}
	return cells
}

// ExtraOf returns the cells of a row beyond the table's width.
func (b *Block) ExtraOf(row int) []Span {
	for _, e := range b.Extra {
		if e.Row == row {
			return e.Spans
		}
	}
	return nil
}
