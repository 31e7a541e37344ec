package convert

import (
	"bytes"
	"slices"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// column converts the cells of one column. It serves one goroutine.
type column struct {
	name      string
	from      int
	conv      *reading.Convention
	undecided bool
	verbatim  bool // text without blank words: most cells need no reading
	reader    *reading.Reader
	// The last set and form that were judged, and the judgement.
	set     reading.Set
	form    uint32
	reading reading.Reading
	fits    bool
	plain   bool
	// Texts that were converted a short while ago.
	recent []recentCell
	seen   int
	hits   int
	rest   int // cells to go before recent is tried again
}

// recentCell is a text that was converted a short while ago, and what became of it.
type recentCell struct {
	key     table.Key
	length  uint8 // of what it became
	outcome outcome
	out     [21]byte
}

// outcome is what became of a cell.
type outcome uint8

const (
	right outcome = iota
	converted
	blank
	kept
	failed
	numOutcomes
)

// maxRecent is how many texts are remembered, one for each slot of their keys.
const maxRecent = 1024

func newColumn(c *plan.Column, blankWords []string) *column {
	t := c.Convention.Type
	return &column{
		name: c.Name, from: c.From, conv: &c.Convention, undecided: c.Undecided,
		verbatim: (t == value.Text || t == value.Code) && len(blankWords) == 0 && len(c.Convention.BlankWords) == 0,
		reader:   reading.NewReader(blankWords),
		set:      ^reading.Set(0), // no cell has this
	}
}

// convert converts the column's cells of a block.
func (c *column) convert(b *table.Block, res *result, at int) {
	v := &res.rows.Cells[at]
	// The outcome of text that is no blank, which needs no reading.
	verbatim := right
	if c.undecided {
		verbatim = kept
	}
	v.Reset()
	v.Plain = c.conv.Type != value.Text && c.conv.Type != value.Code
	var counts [numOutcomes]int64
	for row := range b.Rows {
		if res.rows.Out != nil && !res.rows.Out[row] {
			v.Add()
			continue
		}
		s := b.Spans[row*b.Width+c.from]
		if s.Len() == 0 {
			counts[blank]++
			v.Add()
			continue
		}
		if c.verbatim && s.N&table.Escaped == 0 && b.Text[s.Start] > ' ' && b.Text[s.Start] < 0x7f {
			v.Text = append(v.Text, b.Text[s.Start:int(s.Start)+s.Len()]...)
			counts[verbatim]++
		} else {
			counts[c.cell(b, s, row, res, v)]++
		}
		v.Add()
	}
	a := &res.accounts[at]
	a.Right, a.Converted, a.Blank, a.Kept, a.Failed = counts[right], counts[converted], counts[blank], counts[kept], counts[failed]
}

// cell converts one cell that has something in it.
func (c *column) cell(b *table.Block, s table.Span, row int, res *result, v *table.Values) outcome {
	if s.Len() > table.MaxKey || s.N&table.Escaped != 0 || c.rest > 0 {
		c.rest = max(0, c.rest-1)
		return c.read(b.At(s), row, res, v)
	}
	if c.recent == nil {
		c.recent = make([]recentCell, maxRecent)
	}
	key := b.Key(s)
	e := &c.recent[key.Slot(maxRecent)]
	if c.seen++; c.seen == 8192 {
		if c.hits < 8192/8 { // mostly new texts: remembering costs more than reading
			c.rest = 1 << 17
		}
		c.seen, c.hits = 0, 0
	}
	if e.key == key {
		c.hits++
		v.Text = append(v.Text, e.out[:e.length]...)
		return e.outcome
	}
	start := len(v.Text)
	o := c.read(b.At(s), row, res, v)
	if out := v.Text[start:]; o != failed && len(out) <= len(e.out) {
		*e = recentCell{key: key, length: uint8(len(out)), outcome: o}
		copy(e.out[:], out)
	}
	return o
}

// read reads a cell and writes its value; a cell that fails is left blank.
func (c *column) read(cell []byte, row int, res *result, v *table.Values) outcome {
	x := c.reader.Read(cell)
	if x.Set != c.set || x.Form != c.form { // most cells are like the one before
		c.set, c.form = x.Set, x.Form
		c.reading, c.fits = c.conv.Judge(x.Set, x.Form)
		c.plain = c.fits && !c.undecided && c.conv.Plain(x.Set)
	}
	switch {
	case c.plain && cell[0] != '-':
		v.Text = append(v.Text, cell...)
		return right
	case c.reading == reading.AsBlank:
		return blank
	case !c.fits:
		reason, detail := c.conv.Explain(cell, x)
		res.failures = append(res.failures, Failure{
			Row: int64(row), Column: c.name, Value: string(cell), Wanted: c.conv.Type, Reason: reason, Detail: detail,
		})
		return failed
	}
	start := len(v.Text)
	v.Text = c.conv.Append(v.Text, cell, x)
	switch {
	case c.undecided:
		return kept
	case bytes.Equal(v.Text[start:], cell):
		return right
	}
	return converted
}

// sortFailures brings the failures of a block into the order of rows, then columns.
func sortFailures(f []Failure) {
	slices.SortStableFunc(f, func(a, b Failure) int { return int(a.Row - b.Row) })
}
