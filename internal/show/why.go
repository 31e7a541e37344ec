package show

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/unicode/runenames"

	"junvo/internal/character"
	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/value"
)

// Answer says why a cell reads as it does. Fields that do not apply are empty.
type Answer struct {
	File      string       `json:"file,omitempty"`
	Row       int64        `json:"row,omitempty"`
	Line      int64        `json:"line,omitempty"`
	Cell      string       `json:"cell,omitempty"` // its address in a sheet
	Column    string       `json:"column,omitempty"`
	Value     string       `json:"value"`
	Private   bool         `json:"private,omitempty"`   // texts are given as their shapes
	Stored    string       `json:"stored,omitempty"`    // where that is not text
	Aside     string       `json:"set_aside,omitempty"` // why the row is no data
	Blank     string       `json:"blank,omitempty"`     // the blank kind
	Marks     []Character  `json:"characters"`          // those that are not plain
	Damage    string       `json:"damage,omitempty"`
	Readings  []OneReading `json:"readings"`         // of what the steps make of the text
	Steps     []OneStep    `json:"steps,omitempty"`  // of the plan, or told
	Turned    string       `json:"turned,omitempty"` // the column of the file, where columns have become rows
	Decided   *Decided     `json:"column_decided,omitempty"`
	Reading   string       `json:"reading"`
	Result    *string      `json:"result"`               // the value in canonical text; null where the cell fails or is filled from above
	Kept      bool         `json:"kept,omitempty"`       // as text, since the plan leaves the column undecided
	FromAbove bool         `json:"from_above,omitempty"` // the plan gives it the value of the cell above
	FromRow   int64        `json:"from_row,omitempty"`   // which stands in this row
	MadeOf    string       `json:"made_of,omitempty"`    // how the plan makes the column of others
	LeftOut   string       `json:"left_out,omitempty"`   // the condition of the plan that leaves the row out
	Reason    string       `json:"reason,omitempty"`
	Say       string       `json:"say,omitempty"`
	Detail    string       `json:"detail,omitempty"`
	Hint      string       `json:"hint,omitempty"`
	SameText  *int64       `json:"same_text,omitempty"`
	Shape     string       `json:"shape"`
	SameShape *int64       `json:"same_shape,omitempty"`

	notADate string // why the text is no date, though it looks like one
}

// Character is a character of a cell that is not plain.
type Character struct {
	Code  string `json:"code"`
	Name  string `json:"name"`
	Place int    `json:"place"` // counted from 1
}

// OneReading is one way to read the cell.
type OneReading struct {
	Reading string `json:"reading"`
	Value   string `json:"value"`
	Needs   string `json:"needs,omitempty"`
}

// Decided is what the column decided, and on what evidence.
type Decided struct {
	Type       string             `json:"type"`
	Convention string             `json:"convention,omitempty"`
	Why        string             `json:"why"`
	Evidence   []reading.Evidence `json:"evidence"`
}

// OneStep is a step of a plan and what it has made of the text.
type OneStep struct {
	Step string `json:"step"`
	Text string `json:"text"`
	Fail string `json:"fail,omitempty"` // the reason where it fails
}

// Describe fills in what the cell's text alone says.
func (a *Answer) Describe(r *reading.Reader, kind value.Stored) {
	cell := []byte(a.Value)
	if kind != value.StoredText {
		a.Stored = kind.String()
	}
	x := r.ReadStored(cell, kind)
	a.Marks = characters(a.Value)
	a.Damage = x.Set.Damage()
	a.Shape = character.Shape(a.Value)
	a.canBe(cell, x)
}

// canBe fills in all that a text can be read as.
func (a *Answer) canBe(text []byte, x *reading.Reads) {
	a.Readings, a.notADate = []OneReading{}, ""
	if why, ok := reading.NoDate(text, x); ok {
		a.notADate = "; written like a date: " + why.String() + ". " + why.Entry().Say
	}
	for _, p := range x.Possible(text) {
		a.Readings = append(a.Readings, OneReading{p.Reading.String(), p.Value, p.Needs})
	}
}

// Hide leaves nothing of a private cell but its shape, its blank kind and what becomes of it.
func (a *Answer) Hide() {
	a.Private, a.Value, a.Detail, a.Damage, a.Marks, a.Readings = true, a.Shape, "", "", []Character{}, []OneReading{}
	if a.Result != nil {
		out := character.Shape(*a.Result)
		a.Result = &out
	}
	for i := range a.Steps {
		a.Steps[i].Text = character.Shape(a.Steps[i].Text)
	}
}

// Look fills in what a conversion makes of the cell in its row.
func (a *Answer) Look(c *plan.Column, l *convert.Looked, cell *convert.LookedCell) {
	a.Decided = &Decided{
		Type: c.Convention.Type.String(), Convention: c.Terms.Say(), Why: planSays,
		Evidence: []reading.Evidence{},
	}
	if l.Aside != rowkind.Data {
		a.Aside, a.LeftOut = l.Aside.String(), l.Condition
	}
	a.FromAbove, a.FromRow = cell.FilledFrom > 0, cell.FilledFrom
	switch {
	case cell.Failure != nil:
		a.fails(cell.Failure.Reason, cell.Failure.Detail)
		a.Result = nil
	case l.Aside == rowkind.Data || l.Condition != "":
		a.becomes(c, cell.Out)
	}
}

// becomes fills in the value that comes out of a column.
func (a *Answer) becomes(c *plan.Column, out string) {
	a.Result, a.Kept = &out, c.Undecided && out != ""
}

// Make says how the plan makes a column of others of the output, and of what in the row.
func (a *Answer) Make(c *plan.Column) {
	switch {
	case c.Compute != nil:
		a.MadeOf = "compute: " + c.Compute.Text
	case c.Join != nil:
		a.MadeOf = "join: " + strings.Join(c.Join.Columns, ", ")
	case c.Heading:
		a.MadeOf = "the section heading above the row"
	}
	a.Reading = c.Convention.Type.String()
}

const planSays = "the plan says so"

// Trace fills in what a plan does with the cell.
func (a *Answer) Trace(r *reading.Reader, kind value.Stored, c *plan.Column, t *convert.Traced) {
	a.Describe(r, kind)
	for _, s := range t.Steps {
		one := OneStep{Step: plan.StepText(s.Step), Text: s.Text}
		if s.Why != reason.None {
			one.Fail = s.Why.String()
		}
		a.Steps = append(a.Steps, one)
		text := []byte(s.Text)
		a.canBe(text, r.Read(text))
	}
	a.Reading = t.Reading.String()
	a.Decided = &Decided{
		Type: c.Convention.Type.String(), Convention: c.Terms.Say(), Why: planSays,
		Evidence: []reading.Evidence{},
	}
	if filling, _ := c.Steps.Fill(); t.Blank && filling.Above {
		a.FromAbove = true
		return
	}
	if t.Failure != nil {
		a.fails(t.Failure.Reason, t.Failure.Detail)
		return
	}
	a.becomes(c, t.Out)
	if t.Blank && a.Blank == "" {
		a.Blank = value.Word.String()
	}
}

func (a *Answer) fails(reason reason.Reason, detail string) {
	e := reason.Entry()
	a.Reason, a.Say, a.Detail, a.Hint = e.Name, e.Say, detail, reason.Mend(a.Decided != nil && a.Decided.Why == planSays)
}

// Explain fills in what the cell's text alone and the convention say.
func (a *Answer) Explain(r *reading.Reader, kind value.Stored, conv *reading.Convention) {
	a.Describe(r, kind)
	cell := []byte(a.Value)
	x := r.ReadStored(cell, kind)
	got, fits := conv.Judge(x.Set, x.Form)
	a.Reading = got.String()
	switch {
	case kind == value.StoredSeveral:
		a.fails(reason.SeveralValues, "")
	case got == reading.AsBlank:
		if a.Blank == "" {
			a.Blank = blankKind(x.Set).String()
		}
		none := ""
		a.Result = &none
	case fits:
		out := string(conv.Append(nil, cell, x))
		a.Result = &out
	default:
		a.fails(conv.Explain(cell, x))
	}
}

func blankKind(s reading.Set) value.Blank {
	if b := s.Blank(); b != value.NotBlank {
		return b
	}
	return value.Word
}

// characters lists the characters of a text beyond printing ASCII.
func characters(text string) []Character {
	all := []Character{}
	place := 0
	for i := 0; i < len(text); {
		r, n := utf8.DecodeRuneInString(text[i:])
		place++
		switch {
		case r == utf8.RuneError && n == 1:
			all = append(all, Character{Hex(uint32(text[i]), 2), "byte that is no UTF-8", place})
		case r < ' ' || r > '~':
			all = append(all, Character{"U+" + Hex(uint32(r), 4), runenames.Name(r), place})
		}
		i += n
	}
	return all
}

// maxCharacters is how many characters are listed for a person.
const maxCharacters = 12

// AnswerText returns the answer as a page.
func AnswerText(a *Answer, f Format, page Page) string {
	b := newFacts(f, page)
	if a.Column != "" {
		where := fmt.Sprintf("line %d", a.Line)
		if a.Cell != "" {
			where = "cell " + a.Cell
		}
		b.of = Visible(a.Column)
		b.heading(fmt.Sprintf("%s, row %d (%s), column %q", Visible(a.File), a.Row, where, Visible(a.Column)))
	}
	if a.MadeOf != "" {
		b.entry("made by", Visible(a.MadeOf))
		b.entry("of", "«"+Visible(a.Value)+"»")
	} else {
		b.entry("text", "«"+Visible(a.Value)+"», shape «"+Visible(a.Shape)+"»")
	}
	if a.Stored != "" {
		b.entry("stored as", a.Stored)
	}
	if a.Turned != "" {
		b.entry("turned", "columns have become rows: this cell is of column "+Visible(a.Turned)+" of the file")
	}
	if a.Aside != "" {
		say := "is set aside: " + a.Aside
		if a.LeftOut != "" {
			say += ", by " + Visible(a.LeftOut)
		}
		b.entry("row", say)
	}
	for i, c := range a.Marks {
		name := ""
		if i == 0 {
			name = "characters"
		}
		if i == maxCharacters {
			b.entry("", fmt.Sprintf("… and %d more beyond plain ASCII", len(a.Marks)-i))
			break
		}
		b.entry(name, fmt.Sprintf("%d: %s %s", c.Place, c.Code, c.Name))
	}
	if a.Damage != "" {
		b.entry("damage", a.Damage)
	}
	b.steps(a.Steps)
	if a.MadeOf == "" {
		b.readings(a)
	}
	if d := a.Decided; d != nil && (d.Why == planSays || !a.stopped()) {
		name := "the column is"
		say := withNote(d.Type, d.Convention) + ": " + d.Why
		switch {
		case d.Why == planSays:
			name, say = "the plan wants", withNote(d.Type, d.Convention)
		case a.Column == "":
			name = "by itself it is"
		}
		b.entry(name, say)
		for _, e := range d.Evidence {
			b.entry("", fmt.Sprintf("%s (%d for, %d against)", Visible(e.Say), e.For, e.Against))
		}
	}
	b.result(a)
	if a.SameText != nil {
		b.entry("alike", fmt.Sprintf("%s with the same text, %s of the same shape", Plural(*a.SameText, "other cell"),
			Plural(*a.SameShape, "other cell")))
	}
	return b.text()
}

// stopped reports whether a step has failed, so that there is nothing to read.
func (a *Answer) stopped() bool { return len(a.Steps) > 0 && a.Steps[len(a.Steps)-1].Fail != "" }

func withNote(s, note string) string {
	if note == "" {
		return s
	}
	return s + " (" + Visible(note) + ")"
}

func (p *facts) steps(all []OneStep) {
	for i, s := range all {
		name := ""
		if i == 0 {
			name = "steps"
		}
		if s.Fail != "" {
			p.entry(name, Visible(s.Step)+"  fails: "+s.Fail)
			continue
		}
		p.entry(name, Visible(s.Step)+"  makes  «"+Visible(s.Text)+"»")
	}
}

func (p *facts) readings(a *Answer) {
	switch {
	case a.Blank != "":
		p.entry("it is", "blank: "+a.Blank)
	case a.Private:
		p.entry("private", "texts are given as their shapes")
	case a.stopped() || len(a.Steps) > 0 && a.Result != nil && *a.Result == "":
	case len(a.Readings) == 0:
		p.entry("can be", "text only"+a.notADate)
	}
	if a.Blank != "" || a.Private || a.stopped() {
		return
	}
	for i, r := range a.Readings {
		name := ""
		if i == 0 {
			name = "can be"
		}
		say := r.Reading + " " + Visible(r.Value)
		if r.Needs != "" {
			say += ", with " + Visible(r.Needs)
		}
		p.entry(name, say)
	}
}

func (p *facts) result(a *Answer) {
	const becomes = "so it becomes"
	switch {
	case a.FromAbove && a.FromRow > 0 && a.Result != nil:
		p.entry(becomes, Visible(*a.Result)+", the value of the nearest cell above that is not blank, in row "+
			fmt.Sprint(a.FromRow))
	case a.FromAbove:
		p.entry(becomes, "the value of the nearest cell above that is not blank")
	case a.Result == nil && a.Reason == "":
		p.entry(becomes, "nothing: its row does not go out")
	case a.Result == nil:
		s := a.Reason + ": " + a.Say
		if a.Detail != "" {
			s += " Here: " + Visible(a.Detail) + "."
		}
		p.entry("so it fails", s)
		p.entry("what to do", a.Hint)
	case *a.Result == "":
		p.entry(becomes, "blank")
	case a.Kept:
		p.entry(becomes, Visible(*a.Result)+", kept as text: the plan leaves the column undecided")
	default:
		p.entry(becomes, Visible(*a.Result))
	}
}

// AnswerJSON returns the answer for programs.
func AnswerJSON(a *Answer) ([]byte, error) { return encode(a) }
