package convert

import (
	"bytes"
	"slices"
	"unsafe"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/reason"
	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/value"
)

// column converts the cells of one column. It serves one goroutine.
type column struct {
	splits    *splits // where the column is a piece
	plan      *plan.Column
	index     int // in the plan
	conv      *reading.Convention
	before    int64                                  // rows before the block, where that matters
	holds     func(t value.Type, text []byte) string // of the output's format; nil where it holds all
	repeats   *repeated                              // what is known of repeated values; nil for none
	fix       func(cell []byte, row int64) *Answer   // a person's answer to a failure; nil for none
	unchanged outcome                                // of a cell that stays as it is: right, or kept in a column that is undecided
	asIs      bool                                   // text without blank words: what is not blank is a value
	verbatim  bool                                   // and without steps: most cells need no reading
	code      bool                                   // a code may be one that a spreadsheet has shortened
	broken    bool                                   // the block has bytes that are no text
	filled    step.Filling                           // what blank cells are given
	fillStep  int                                    // the step that says so; -1 for none
	above     *above                                 // where blank cells are filled from above; else nil
	hidden    bool                                   // failures show the cell's shape only
	reader    *reading.Reader
	text      []byte // of the cell behind the steps
	// The last set and form that were judged, and the judgement.
	set     reading.Set
	form    uint32
	reading reading.Reading
	fits    bool
	plain   bool
	// Texts that were converted a short while ago.
	recent []recentCell
	outs   []recentText // what became of them, if they changed
	slots  uint64
	cells  int         // all cells so far
	worth  table.Worth // of remembering
	rest   int         // cells to go before recent is tried again
	// sameShorts are the kinds of short numbers that stay as they are, as bits.
	sameShorts uint64
	changed    []int64 // cells that each step has changed, in the block
}

// recentCell is a text that was converted a short while ago, and what became of it.
type recentCell struct {
	key     table.Key
	changed uint16 // the steps that changed it, as bits
	length  uint8  // of what it became
	outcome outcome
	same    bool // it stays as it is, and no step has changed it
}

type recentText [20]byte

// maxRemembered is how many steps a column may have whose texts are remembered.
const maxRemembered = 16

// outcome is what became of a cell.
type outcome uint8

const (
	right outcome = iota
	converted
	blank
	kept
	fixed
	failed
	numOutcomes
)

func newColumn(c *plan.Column, blankWords []string, slots uint64) *column {
	t := c.Convention.Type
	unchanged := right
	if c.Undecided {
		unchanged = kept
	}
	filled, fillStep := c.Steps.Fill()
	asIs := (t == value.Text || t == value.Code) && len(blankWords) == 0 && len(c.Convention.BlankWords) == 0 && !c.Made() && !c.Must.Any()
	return &column{
		plan: c, conv: &c.Convention, unchanged: unchanged, filled: filled, fillStep: fillStep,
		recent: make([]recentCell, slots), outs: make([]recentText, slots), slots: slots, changed: make([]int64, len(c.Steps)),
		asIs: asIs, verbatim: asIs && len(c.Steps) == 0, code: t == value.Code,
		reader: reading.NewReader(blankWords),
		set:    ^reading.Set(0), // no cell has this
	}
}

// begin makes room for the column's cells of a block.
func (c *column) begin(b *table.Block, v *table.Values) {
	v.Reset(b)
	v.Spans = slices.Grow(v.Spans, b.Rows)
	c.broken = b.Broken
	v.Plain = c.conv.Type != value.Text && c.conv.Type != value.Code && c.plan.OnFailure != plan.FailKeep
	clear(c.changed)
}

// convert converts the column's cells of the rows from and up to, without, to.
func (c *column) convert(b *table.Block, res *result, at, from, to int) {
	v := &res.rows.Cells[at]
	var counts [numOutcomes]int64
	odd := c.repeats != nil || c.above != nil || c.plan.Made()
	many := !odd && b.Kinds == nil && !b.Broken
	until := from // no row before this is left out
	for row := from; row < to; row++ {
		if many {
			if until <= row {
				until = res.rows.FirstOut(row, to)
			}
			if row = c.same(b, v, row, until, &counts); row == to {
				break
			}
		}
		if res.rows.Out != nil && !res.rows.Out[row] {
			v.AddBlank()
			continue
		}
		if odd {
			if o, done := c.odd(b, row, res, v); done {
				counts[o]++
				continue
			}
		}
		at := row*b.Width + c.plan.From
		s := b.Spans[at]
		switch {
		case b.Kinds != nil && b.Kinds[at] != value.StoredText && s.Len() > 0:
			o, changed := c.read(b, s, b.Kinds[at], row, res, v)
			c.countSteps(changed)
			counts[o]++
		case s.Len() == 0:
			o, changed := c.blank(nil, row, res, v)
			c.countSteps(changed)
			counts[o]++
		case c.verbatim && s.N&table.Escaped == 0 && c.passes(b.Text[s.Start:int(s.Start)+s.Len()]):
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
	a.Fixed += counts[fixed]
	a.Failed += counts[failed]
}

// odd converts a cell that is not read from its own text, and reports whether it is one.
func (c *column) odd(b *table.Block, row int, res *result, v *table.Values) (outcome, bool) {
	switch {
	case c.repeats != nil && c.repeats.rows.has(c.before+int64(row)+1):
		return c.repeat(b, row, res, v), true
	case c.plan.Made():
		return c.made(b, row, res, v), true
	case c.above != nil && c.above.from[row] != row:
		return c.fillAbove(b, row, res, v), true
	}
	return 0, false
}

// cell converts one cell that has something in it.
func (c *column) cell(b *table.Block, s table.Span, row int, res *result, v *table.Values) outcome {
	if !s.Within(table.MaxKey) || c.rest > 0 || len(c.plan.Steps) > maxRemembered {
		c.rest = max(0, c.rest-1)
		o, changed := c.read(b, s, value.StoredText, row, res, v)
		c.countSteps(changed)
		return o
	}
	key := b.Padded().Key(s)
	slot := key.Slot(c.slots)
	e, made := &c.recent[slot], &c.outs[slot]
	if e.key == key {
		switch e.outcome {
		case converted:
			start := len(v.Text)
			v.Text = append(v.Text, made[:e.length]...)
			v.AddMade(start)
		case blank:
			v.AddBlank()
		default:
			v.AddSame(s)
		}
		c.countSteps(uint64(e.changed))
		return e.outcome
	}
	if rest := c.worth.Miss(int64(c.cells)); rest > 0 {
		c.rest = rest
		c.findSameShorts()
	}
	start := len(v.Text)
	o, changed := c.read(b, s, value.StoredText, row, res, v)
	c.countSteps(changed)
	if out := v.Text[start:]; o < fixed && len(out) <= len(made) {
		*e = recentCell{key: key, length: uint8(len(out)), outcome: o, changed: uint16(changed), same: (o == right || o == kept) && changed == 0}
		copy(made[:], out)
	}
	return o
}

// countSteps counts the steps that changed a cell.
func (c *column) countSteps(changed uint64) {
	if changed == 0 {
		return
	}
	for i := range c.changed {
		c.changed[i] += int64(changed >> min(i, 63) & 1)
	}
}

// judge reads a text that is stored as this kind, and says what it is in the column.
func (c *column) judge(text []byte, kind value.Stored) *reading.Reads {
	x := c.reader.ReadStored(text, kind)
	if x.Set != c.set || x.Form != c.form { // most cells are like the one before
		c.set, c.form = x.Set, x.Form
		c.reading, c.fits = c.conv.Judge(x.Set, x.Form)
		c.plain = c.staysPlain(c.fits, x.Set)
	}
	return x
}

// staysPlain reports whether cells of a set, which fit the column or not, are written as
// its values are, and nothing else is asked of them.
func (c *column) staysPlain(fits bool, s reading.Set) bool {
	return fits && c.holds == nil && !c.plan.Undecided && c.conv.Plain(s) && !c.plan.Must.Any()
}

// read reads a cell and adds its value; it also returns which steps changed it.
func (c *column) read(b *table.Block, s table.Span, kind value.Stored, row int, res *result, v *table.Values) (outcome, uint64) {
	cell := b.At(s)
	if len(c.plan.Steps) == 0 {
		return c.value(cell, cell, s, kind, row, res, v)
	}
	var own *reading.Reads
	if !c.asIs || !c.passes(cell) || kind != value.StoredText {
		if own = c.judge(cell, kind); c.reading == reading.AsBlank {
			return c.blank(cell, row, res, v)
		}
	}
	// No step keeps the text, so that it need not be copied.
	text, changed, why := c.steps(unsafe.String(unsafe.SliceData(cell), len(cell)), row)
	if why != reason.None {
		return c.fail(cell, why, "", row, res, v), changed
	}
	if text == "" {
		o, filled := c.blank(cell, row, res, v)
		return o, changed | filled
	}
	if changed == 0 {
		if own != nil {
			return c.judged(own, cell, cell, s, row, res, v)
		}
		if s.N&table.Escaped == 0 {
			v.AddSame(s)
			return c.unchanged, 0
		}
	}
	c.text = append(c.text[:0], text...)
	if changed != 0 {
		kind = value.StoredText
	}
	if changed != 0 && c.asIs && c.passes(c.text) {
		start := len(v.Text)
		v.Text = append(v.Text, c.text...)
		v.AddMade(start)
		return converted, changed
	}
	o, filled := c.value(cell, c.text, s, kind, row, res, v)
	return o, changed | filled
}

// passes reports whether a text needs no reading in a column that takes any: it is not blank,
// has no bytes that are no text, and is no code that a spreadsheet has shortened.
func (c *column) passes(text []byte) bool {
	return printed(text) && !c.broken && !(c.code && reading.MayBeShortened(text))
}

// printed reports whether a text begins with a character that is seen, so that it is not
// blank unless it is a word for that.
func printed(text []byte) bool { return text[0] > ' ' && text[0] < 0x7f }

// value adds the value of a text, which is the cell's own or what the steps have made of
// it; it also returns whether a step has changed it since.
func (c *column) value(cell, text []byte, s table.Span, kind value.Stored, row int, res *result, v *table.Values) (outcome, uint64) {
	return c.judged(c.judge(text, kind), cell, text, s, row, res, v)
}

// judged is value for a text that has just been judged.
func (c *column) judged(x *reading.Reads, cell, text []byte, s table.Span, row int, res *result, v *table.Values) (outcome, uint64) {
	own := !c.plan.Made() && (len(c.plan.Steps) == 0 || bytes.Equal(cell, text))
	switch {
	case c.plain && text[0] != '-' && own:
		v.AddSame(s)
		return right, 0
	case c.reading == reading.AsBlank:
		return c.blank(cell, row, res, v)
	case !c.fits:
		reason, detail := c.conv.Explain(text, x)
		return c.fail(cell, reason, detail, row, res, v), 0
	}
	start := len(v.Text)
	v.Text = c.conv.Append(v.Text, text, x)
	if why, detail := c.refused(v.Text[start:]); why != reason.None {
		v.Text = v.Text[:start]
		return c.fail(cell, why, detail, row, res, v), 0
	}
	if c.plan.Made() || !bytes.Equal(v.Text[start:], cell) {
		v.AddMade(start)
		return converted, 0
	}
	if s.N&table.Escaped != 0 {
		v.AddMade(start)
	} else {
		v.Text = v.Text[:start]
		v.AddSame(s)
	}
	return c.unchanged, 0
}

// blank adds a blank cell, or what blank cells are given in its place; it also returns
// whether it was given something.
func (c *column) blank(cell []byte, row int, res *result, v *table.Values) (outcome, uint64) {
	if c.filled.With != "" {
		start := len(v.Text)
		if c.appendValue(c.filled.With, value.StoredText, v) {
			v.AddMade(start)
			return converted, 1 << min(c.fillStep, 63)
		}
	}
	if c.plan.Must.NotBlank {
		return c.fail(cell, reason.BlankNotAllowed, "", row, res, v), 0
	}
	v.AddBlank()
	return blank, 0
}

// refused returns why a value in canonical text can't go out: the plan or the format of the
// output does not have it; and the detail to report.
func (c *column) refused(text []byte) (why reason.Reason, detail string) {
	if why = c.plan.Must.Check(c.conv.Type, text); why != reason.None {
		return why, string(text)
	}
	if c.holds != nil {
		if say := c.holds(c.conv.Type, text); say != "" {
			return reason.BeyondFormat, say
		}
	}
	return reason.None, ""
}

// appendValue appends the value of a text that does not stand in the cell, and reports
// whether it is one of the column.
func (c *column) appendValue(text string, kind value.Stored, v *table.Values) bool {
	x := c.judge([]byte(text), kind)
	if !c.fits || c.reading == reading.AsBlank {
		return false
	}
	start := len(v.Text)
	v.Text = c.conv.Append(v.Text, []byte(text), x)
	if why, _ := c.refused(v.Text[start:]); why != reason.None {
		v.Text = v.Text[:start]
		return false
	}
	return true
}
