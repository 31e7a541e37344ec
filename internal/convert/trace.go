package convert

import (
	"unicode/utf8"

	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/reason"
	"junvo/internal/step"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Traced is what a plan does with one cell.
type Traced struct {
	Blank   bool            // the cell was blank before the steps, which it does not take
	Steps   []StepText      // as far as they came
	Reading reading.Reading // of the text after the steps
	Out     string          // the value in canonical text, "" for none
	Failure *Failure        // nil unless the cell fails
}

// StepText is what a step has made of a text.
type StepText struct {
	Step step.Named
	Text string
	Why  reason.Reason // None unless the step fails
}

// Trace converts one cell of a column in the way that Run does, and tells every step.
func Trace(c *plan.Column, blankWords []string, cell string, kind value.Stored) Traced {
	b := &table.Block{
		Text: []byte(cell), Width: 1, Rows: 1, Spans: []table.Span{{N: uint32(len(cell))}}, Quote: '"',
		Escape: '"', Broken: !utf8.ValidString(cell),
	}
	if kind != value.StoredText {
		b.Kinds = []value.Stored{kind}
	}
	b.Pad()
	col := newColumn(c, blankWords, 1)
	res := &result{accounts: make([]Account, 1)}
	res.cells = make([]table.Values, 1)
	col.enter(b, res)
	col.begin()
	col.convert(0, 1)
	t := Traced{Out: string(res.cells[0].At(0))}
	if len(res.failures) > 0 {
		t.Failure = &res.failures[0]
	}
	col.judge([]byte(cell), kind)
	if t.Blank = cell == "" || col.judged.reading == reading.AsBlank; t.Blank {
		t.Reading = reading.AsBlank
		return t
	}
	text := cell
	for _, s := range c.Steps {
		next, why := s.Step.Apply(text)
		t.Steps = append(t.Steps, StepText{s, next, why})
		if why != reason.None {
			break
		}
		if text = next; step.Nothing(text) {
			break
		}
	}
	col.judge([]byte(text), kind)
	t.Reading = col.judged.reading
	return t
}
