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
	here
	plan  *plan.Column
	index int   // in the plan
	from  int   // where its cells stand in the source
	raw   []int // where those stand in the source that its expression uses as they came
	asked rowOf // where it is, for its expression
	conv  *reading.Convention

	// What is asked of it beside the plan.
	holds  func(t value.Type, text []byte) string // of the output's format; nil where it holds all
	fix    func(cell []byte, at Place) *Answer    // a person's answer to a failure; nil for none
	files  []table.File
	hidden bool // failures show the cell's shape only

	// What other cells have to do with its own.
	splits  *splits   // where the column is a piece
	headed  *headings // the section headings of the block
	above   *above    // where blank cells are filled from above; else nil
	summand int       // its place among the columns that are added up; -1 for none
	stretch int       // of the block, where the rows are that are added up next
	repeats *repeated // what is known of repeated values; nil for none

	unchanged  outcome      // of a cell that stays as it is: right, or kept in a column that is undecided
	asIs       bool         // text without blank words: what is not blank is a value
	verbatim   bool         // and without steps: most cells need no reading
	code       bool         // a code may be one that a spreadsheet has shortened
	sameShorts uint64       // the kinds of short numbers that stay as they are, as bits
	filled     step.Filling // what blank cells are given
	fillStep   int          // the step that says so; -1 for none

	reader *reading.Reader
	judged judgement // of the last text that was read
	text   []byte    // of the cell after the steps
	recent table.Recent[became]
	cells  int // all cells so far
}

// here is where a column is, and what is known of the cell before it.
type here struct {
	b       *table.Block
	before  rowCount // rows before the block, where that matters
	res     *result
	out     *table.Values // the column's values in the result
	row     int           // in the block
	touched uint64        // the steps that have changed the cell, as bits
	changed []int64       // cells that each step has changed, in the block
}

// judgement is what a set and a form are in a column.
type judgement struct {
	set     reading.Set
	form    uint64
	reading reading.Reading
	fits    bool
	plain   bool // the cell stays as it is
}

// became is what became of a text that was converted a short while ago.
type became struct {
	changed uint16 // the steps that changed it, as bits
	length  uint8  // of text
	outcome outcome
	same    bool     // it stays as it is, and no step has changed it
	text    [20]byte // if it was changed
}

// maxRemembered is how many steps a column may have whose texts are remembered.
const maxRemembered = 16

// outcome is what became of a cell.
type outcome uint8

const (
	right outcome = iota
	converted
	blank
	emptied // the steps have left nothing of it
	kept
	fixed
	failed
	numOutcomes
)

func newColumn(c *plan.Column, blankWords []string, columns int) *column {
	t := c.Convention.Type
	unchanged := right
	if c.Undecided {
		unchanged = kept
	}
	filled, fillStep := c.Steps.Fill()
	asIs := (t == value.Text || t == value.Code) && len(blankWords) == 0 && len(c.Convention.BlankWords) == 0 &&
		!c.Made() && !c.Must.Any()
	return &column{
		here: here{changed: make([]int64, len(c.Steps))},
		plan: c, conv: &c.Convention, unchanged: unchanged, filled: filled, fillStep: fillStep,
		asIs: asIs, verbatim: asIs && len(c.Steps) == 0, code: t == value.Code,
		reader: reading.NewReader(blankWords),
		judged: judgement{set: ^reading.Set(0)}, // no cell has this
		recent: table.NewRecent[became](columns),
	}
}

// enter takes the column to a block, and to what is made of it.
func (c *column) enter(b *table.Block, res *result) {
	c.b, c.res, c.out = b, res, &res.cells[c.index]
}

// begin makes room for the column's cells of the block.
func (c *column) begin() {
	c.out.Reset(c.b)
	c.out.Spans = slices.Grow(c.out.Spans, c.b.Rows)
	c.out.Plain = c.conv.Type != value.Text && c.conv.Type != value.Code && c.plan.OnFailure != plan.FailKeep
	c.recent.Open()
	clear(c.changed)
}

// convert converts the column's cells of the rows [from, to) of the block.
func (c *column) convert(from, to int) {
	var counts [numOutcomes]int64
	others := c.repeats != nil || c.above != nil || c.plan.Made()
	many := !others && c.b.Kinds == nil && !c.b.Broken
	until := from // no row before this is left out
	for c.row = from; c.row < to; c.row++ {
		if many {
			if until <= c.row {
				until = c.res.rows.FirstOut(c.row, to)
			}
			if c.same(until, &counts); c.row == to {
				break
			}
		}
		if c.res.rows.Out != nil && !c.res.rows.Out[c.row] {
			c.out.AddBlank()
			continue
		}
		counts[c.cell(others)]++
	}
	c.res.accounts[c.index].count(&counts)
}

// cell converts the cell of the row.
func (c *column) cell(others bool) outcome {
	c.touched = 0
	o, done := failed, false
	if others {
		o, done = c.fromOthers()
	}
	if !done {
		at := c.row*c.b.Width + c.from
		switch s := c.b.Spans[at]; {
		case c.b.Kinds != nil && c.b.Kinds[at] != value.StoredText && s.Len() > 0:
			o = c.read(s, c.b.Kinds[at])
		case s.Len() == 0:
			o = c.blank(nil)
		case c.verbatim && s.N&table.Escaped == 0 && c.passes(c.b.Text[s.Start:int(s.Start)+s.Len()]):
			o = c.unchanged
			c.out.AddSame(s)
		case s.Within(table.MaxKey) && !c.recent.Resting() && len(c.plan.Steps) <= maxRemembered:
			o = c.short(s)
		default:
			c.recent.Rested(1)
			o = c.read(s, value.StoredText)
		}
	}
	if c.touched != 0 {
		c.countSteps()
	}
	return o
}

// fromOthers converts a cell that is not read from its own text, and reports whether it is one.
func (c *column) fromOthers() (outcome, bool) {
	switch {
	case c.repeats != nil && c.repeats.rows.has(c.place(c.row)):
		return c.repeat(), true
	case c.plan.Made():
		return c.made(), true
	case c.above != nil && c.above.from[c.row] != c.row:
		return c.fillAbove(), true
	}
	return 0, false
}

// short converts a cell with a text that is short enough to be remembered.
func (c *column) short(s table.Span) outcome {
	key := c.b.Padded().Key(s)
	if e := c.recent.Find(key); e != nil {
		return c.again(&e.Known, s)
	}
	if c.recent.Miss(int64(c.cells)) {
		c.findSameShorts()
	}
	start := len(c.out.Text)
	o := c.read(s, value.StoredText)
	e, other := c.recent.Pair(key)
	if c.recent.Misses()%2 == 0 {
		e = other
	}
	if text := c.out.Text[start:]; o < fixed && len(text) <= len(e.Known.text) {
		e.Key = key
		e.Known = became{length: uint8(len(text)), outcome: o, changed: uint16(c.touched), same: (o == right || o == kept) &&
			c.touched == 0}
		copy(e.Known.text[:], text)
	}
	return o
}

// again does with a text what was done with it a short while ago.
func (c *column) again(e *became, s table.Span) outcome {
	switch e.outcome {
	case converted:
		start := len(c.out.Text)
		c.out.Text = append(c.out.Text, e.text[:e.length]...)
		c.out.AddMade(start)
	case blank:
		c.out.AddBlank()
	case emptied:
		c.noteEmptied()
		c.out.AddBlank()
	default:
		c.out.AddSame(s)
	}
	c.touched = uint64(e.changed)
	return e.outcome
}

// touch notes that a step has changed the cell. From the 64th on, the steps share a bit.
func (h *here) touch(step int) { h.touched |= 1 << min(step, 63) }

// countSteps counts the steps that have changed the cell.
func (h *here) countSteps() {
	for i := range h.changed {
		h.changed[i] += int64(h.touched >> min(i, 63) & 1)
	}
}

// judge reads a text that is stored as this kind, and says what it is in the column.
func (c *column) judge(text []byte, kind value.Stored) *reading.Reads {
	x := c.reader.ReadStored(text, kind)
	if j := &c.judged; x.Set != j.set || x.Form != j.form { // most cells are like the one before
		j.set, j.form = x.Set, x.Form
		j.reading, j.fits = c.conv.Judge(x.Set, x.Form)
		j.plain = c.staysPlain(j.fits, x.Set)
	}
	return x
}

// judgeMade is judge for a text that the plan or a person has made: a word for blanks is a word of the source, and
// stands for itself there, unless the plan names it at its top.
func (c *column) judgeMade(text []byte, kind value.Stored) *reading.Reads {
	x := c.judge(text, kind)
	if c.judged.reading == reading.AsBlank && x.Set.Blank() == value.NotBlank {
		c.judged = judgement{set: ^reading.Set(0)} // the next is judged anew
		c.judged.reading, c.judged.fits = c.conv.JudgeMade(x.Set, x.Form)
	}
	return x
}

// staysPlain reports whether cells of a set, which fit the column or not, are written as
// its values are, and nothing else is asked of them.
func (c *column) staysPlain(fits bool, s reading.Set) bool {
	return fits && c.holds == nil && !c.plan.Undecided && c.conv.Plain(s) && !c.plan.Must.Any()
}

// read takes a cell through its steps, reads it and adds its value.
func (c *column) read(s table.Span, kind value.Stored) outcome {
	cell := c.b.At(s)
	if kind == value.StoredSeveral {
		return c.fail(cell, reason.SeveralValues, "")
	}
	if len(c.plan.Steps) == 0 {
		return c.value(c.judge(cell, kind), cell, cell, s)
	}
	var own *reading.Reads
	if !c.asIs || !c.passes(cell) || kind != value.StoredText {
		if own = c.judge(cell, kind); c.judged.reading == reading.AsBlank {
			return c.blank(cell)
		}
	}
	// No step keeps the text, so that it need not be copied.
	text, changed, why := c.steps(unsafe.String(unsafe.SliceData(cell), len(cell)))
	c.touched |= changed
	switch {
	case why != reason.None && c.ofOther():
		return c.withOther()
	case why != reason.None:
		return c.fail(cell, why, c.stepDetail(cell))
	case text == "" && c.noPiece():
		return c.blank(cell)
	case text == "":
		return c.empty(cell)
	case changed == 0 && own != nil:
		return c.value(own, cell, cell, s)
	case changed == 0 && s.N&table.Escaped == 0:
		c.out.AddSame(s)
		return c.unchanged
	}
	c.text = append(c.text[:0], text...)
	if changed != 0 {
		kind = value.StoredText
	}
	if changed != 0 && c.asIs && c.passes(c.text) {
		start := len(c.out.Text)
		c.out.Text = append(c.out.Text, c.text...)
		c.out.AddMade(start)
		return converted
	}
	if changed != 0 && !c.isPiece(text) {
		return c.value(c.judgeMade(c.text, kind), cell, c.text, s)
	}
	return c.value(c.judge(c.text, kind), cell, c.text, s)
}

// passes reports whether a text needs no reading in a column that takes any: it is not blank,
// has no bytes that are not text, and is no code that a spreadsheet has shortened.
func (c *column) passes(text []byte) bool {
	return printed(text) && !c.b.Broken && !(c.code && reading.MayBeShortened(text))
}

// printed reports whether a text begins with a character that is seen, so that it is not
// blank unless it is a word for that.
func printed(text []byte) bool { return text[0] > ' ' && text[0] < 0x7f }

// value adds the value of a text that has just been judged, which is the cell's own or what the steps
// have made of it.
func (c *column) value(x *reading.Reads, cell, text []byte, s table.Span) outcome {
	own := !c.plan.Made() && (len(c.plan.Steps) == 0 || bytes.Equal(cell, text))
	switch {
	case c.judged.plain && text[0] != '-' && own:
		c.out.AddSame(s)
		return right
	case c.judged.reading == reading.AsBlank && c.touched != 0 && x.Set.Blank() != value.NotBlank:
		return c.empty(cell)
	case c.judged.reading == reading.AsBlank:
		return c.blank(cell)
	case !c.judged.fits:
		why, detail := c.conv.Explain(text, x)
		return c.fail(cell, why, detail)
	}
	start := len(c.out.Text)
	c.out.Text = c.conv.Append(c.out.Text, text, x)
	if why, detail := c.refused(c.out.Text[start:]); why != reason.None {
		c.out.Text = c.out.Text[:start]
		return c.fail(cell, why, detail)
	}
	if c.plan.Made() || !bytes.Equal(c.out.Text[start:], cell) {
		c.out.AddMade(start)
		return converted
	}
	if s.N&table.Escaped != 0 {
		c.out.AddMade(start)
	} else {
		c.out.Text = c.out.Text[:start]
		c.out.AddSame(s)
	}
	return c.unchanged
}

// empty adds a blank cell where the steps have left nothing of a cell that held something.
func (c *column) empty(cell []byte) outcome {
	if c.plan.Emptied == plan.EmptiedFails {
		return c.fail(cell, reason.Emptied, "")
	}
	if o := c.blank(cell); o != blank {
		return o
	}
	c.noteEmptied()
	return emptied
}

func (c *column) noteEmptied() {
	if c.res.emptiedAt != nil {
		c.res.emptiedAt[cellAt{c.row, c.index}] = true
	}
}

// blank adds a blank cell, or what blank cells are given in its place.
func (c *column) blank(cell []byte) outcome {
	if c.filled.With != "" {
		start := len(c.out.Text)
		if c.appendValue(c.filled.With, value.StoredText) {
			c.out.AddMade(start)
			c.touch(c.fillStep)
			return converted
		}
	}
	if c.plan.Must.NotBlank {
		return c.fail(cell, reason.BlankNotAllowed, "")
	}
	c.out.AddBlank()
	return blank
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
func (c *column) appendValue(text string, kind value.Stored) bool {
	x := c.judgeMade([]byte(text), kind)
	if !c.judged.fits || c.judged.reading == reading.AsBlank {
		return false
	}
	start := len(c.out.Text)
	c.out.Text = c.conv.Append(c.out.Text, []byte(text), x)
	if why, _ := c.refused(c.out.Text[start:]); why != reason.None {
		c.out.Text = c.out.Text[:start]
		return false
	}
	return true
}
