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
	unchanged outcome // of a cell that stays as it is: right, or kept in a column that is undecided
	verbatim  bool    // text without blank words: most cells need no reading
	reader    *reading.Reader
	// The last set and form that were judged, and the judgement.
	set     reading.Set
	form    uint32
	reading reading.Reading
	fits    bool
	plain   bool
	// Texts that were converted a short while ago.
	recent  []recentCell
	slots   uint64
	cells   int // all cells so far
	misses  int // new texts since the last check
	checked int // the number of cells at the last check
	rest    int // cells to go before recent is tried again
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

func newColumn(c *plan.Column, blankWords []string, slots uint64) *column {
	t := c.Convention.Type
	unchanged := right
	if c.Undecided {
		unchanged = kept
	}
	return &column{
		unchanged: unchanged, recent: make([]recentCell, slots), slots: slots,
		name: c.Name, from: c.From, conv: &c.Convention, undecided: c.Undecided,
		verbatim: (t == value.Text || t == value.Code) && len(blankWords) == 0 && len(c.Convention.BlankWords) == 0,
		reader:   reading.NewReader(blankWords),
		set:      ^reading.Set(0), // no cell has this
	}
}

// begin makes room for the column's cells of a block.
func (c *column) begin(b *table.Block, v *table.Values) {
	v.Reset(b)
	v.Plain = c.conv.Type != value.Text && c.conv.Type != value.Code
}

// convert converts the column's cells of the rows from and up to, without, to.
func (c *column) convert(b *table.Block, res *result, at, from, to int) {
	v := &res.rows.Cells[at]
	var counts [numOutcomes]int64
	for row := from; row < to; row++ {
		if res.rows.Out != nil && !res.rows.Out[row] {
			v.AddBlank()
			continue
		}
		s := b.Spans[row*b.Width+c.from]
		switch {
		case s.Len() == 0:
			counts[blank]++
			v.AddBlank()
		case c.verbatim && s.N&table.Escaped == 0 && b.Text[s.Start] > ' ' && b.Text[s.Start] < 0x7f:
			counts[c.unchanged]++
			v.AddSame(s)
		default:
			counts[c.cell(b, s, row, res, v)]++
		}
	}
	a := &res.accounts[at]
	a.Right += counts[right]
	a.Converted += counts[converted]
	a.Blank += counts[blank]
	a.Kept += counts[kept]
	a.Failed += counts[failed]
}

// cell converts one cell that has something in it.
func (c *column) cell(b *table.Block, s table.Span, row int, res *result, v *table.Values) outcome {
	if s.Len() > table.MaxKey || s.N&table.Escaped != 0 || c.rest > 0 {
		c.rest = max(0, c.rest-1)
		return c.read(b, s, row, res, v)
	}
	key := table.KeyAt(b.Padded(), s)
	e := &c.recent[key.Slot(c.slots)]
	if e.key == key {
		switch e.outcome {
		case converted:
			start := len(v.Text)
			v.Text = append(v.Text, e.out[:e.length]...)
			v.AddMade(start)
		case blank:
			v.AddBlank()
		default:
			v.AddSame(s)
		}
		return e.outcome
	}
	if c.misses++; c.misses == missesPerCheck {
		if c.cells-c.checked < 2*missesPerCheck { // mostly new texts: remembering costs more than reading
			c.rest = 1 << 17
		}
		c.misses, c.checked = 0, c.cells+c.rest
	}
	start := len(v.Text)
	o := c.read(b, s, row, res, v)
	if out := v.Text[start:]; o != failed && len(out) <= len(e.out) {
		*e = recentCell{key: key, length: uint8(len(out)), outcome: o}
		copy(e.out[:], out)
	}
	return o
}

// missesPerCheck is how many new texts a column sees until it asks whether
// remembering texts is worth it.
const missesPerCheck = 8192

// read reads a cell and adds its value; a cell that fails is left blank.
func (c *column) read(b *table.Block, s table.Span, row int, res *result, v *table.Values) outcome {
	cell := b.At(s)
	x := c.reader.Read(cell)
	if x.Set != c.set || x.Form != c.form { // most cells are like the one before
		c.set, c.form = x.Set, x.Form
		c.reading, c.fits = c.conv.Judge(x.Set, x.Form)
		c.plain = c.fits && !c.undecided && c.conv.Plain(x.Set)
	}
	switch {
	case c.plain && cell[0] != '-':
		v.AddSame(s)
		return right
	case c.reading == reading.AsBlank:
		v.AddBlank()
		return blank
	case !c.fits:
		v.AddBlank()
		reason, detail := c.conv.Explain(cell, x)
		res.failures = append(res.failures, Failure{
			Row: int64(row), Column: c.name, Value: string(cell), Wanted: c.conv.Type, Reason: reason, Detail: detail,
		})
		return failed
	}
	start := len(v.Text)
	v.Text = c.conv.Append(v.Text, cell, x)
	if !bytes.Equal(v.Text[start:], cell) {
		v.AddMade(start)
		return converted
	}
	if s.N&table.Escaped != 0 {
		v.AddMade(start)
	} else {
		v.Text = v.Text[:start]
		v.AddSame(s)
	}
	return c.unchanged
}

// sortFailures brings the failures of a block into the order of rows, then columns.
func sortFailures(f []Failure) {
	slices.SortStableFunc(f, func(a, b Failure) int { return int(a.Row - b.Row) })
}
