package plan

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"github.com/goccy/go-yaml"

	"junvo/internal/character"
	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/value"
)

// Write returns the plan as a person reads it, with the comments of its columns. Load
// reads it back as an equal plan.
func (p *Plan) Write() ([]byte, error) {
	w := &writer{}
	w.line(0, "plan: %d", Version)
	for _, s := range p.Comment {
		w.line(0, "# %s", strings.Map(noBreak, s))
	}
	w.source(&p.Source)
	if len(p.BlankWords) > 0 {
		w.line(0, "blank-words: %s", w.list(p.BlankWords))
	}
	w.rows(p)
	if p.Others {
		w.line(0, "others: keep")
	}
	w.lists(p.Lists)
	w.line(0, "columns:")
	w.columns(p.Columns)
	w.record(p.Seen)
	return w.b.Bytes(), w.err
}

// columns writes columns, and below each what is offered for it, as comments.
func (w *writer) columns(columns []Column) {
	for i := range columns {
		c := &columns[i]
		if c.added {
			continue
		}
		if c.Split != nil && (i == 0 || columns[i-1].Split != c.Split) {
			w.split(c)
		}
		if w.base = 0; c.Split != nil {
			w.base = 2
		}
		w.column(c)
		if c.Offer == nil {
			continue
		}
		offered, err := Lines(c.Offer)
		if w.err == nil {
			w.err = err
		}
		for line := range strings.Lines(string(offered)) {
			w.b.WriteString("  # " + strings.TrimPrefix(line, "  "))
		}
	}
	w.base = 0
}

// writer writes YAML line by line, so that a plan looks like one written by hand;
// the library quotes the texts.
type writer struct {
	b    bytes.Buffer
	base int // levels that everything is indented by
	err  error
}

func (w *writer) line(indent int, format string, args ...any) {
	w.b.WriteString(strings.Repeat("  ", w.base+indent))
	fmt.Fprintf(&w.b, format, args...)
	w.b.WriteByte('\n')
}

// text quotes a text where YAML needs it. Texts that other programs read as something
// else, such as no or 1.0, are quoted too.
func (w *writer) text(s string) string {
	if plainText(s) {
		return s
	}
	out, err := yaml.MarshalWithOptions(s, yaml.JSON())
	if err != nil && w.err == nil {
		w.err = err
	}
	return strings.TrimSuffix(string(out), "\n")
}

// plainText reports whether a text needs no quotes anywhere: it begins with a letter
// and is made of letters, digits, spaces between them, and a few signs.
func plainText(s string) bool {
	switch strings.ToLower(s) {
	case "", "true", "false", "yes", "no", "on", "off", "null", "y", "n":
		return false
	}
	for i, r := range s {
		letter := r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z'
		inside := r >= '0' && r <= '9' || r == '_' || r == '-' || r == ' ' && i+1 < len(s)
		if !letter && (i == 0 || !inside) {
			return false
		}
	}
	return true
}

func (w *writer) list(texts []string) string {
	parts := make([]string, len(texts))
	for i, t := range texts {
		parts[i] = w.text(t)
	}
	return "[" + strings.Join(parts, ", ") + "]"
}

func (w *writer) source(s *Source) {
	var parts []string
	for _, e := range []struct{ key, text string }{
		{"encoding", s.Encoding},
		{"delimiter", s.Delimiter},
		{"quote", s.Quote},
		{"escape", s.Escape},
		{"comment", s.Comment},
	} {
		if e.text != "" {
			parts = append(parts, e.key+": "+w.text(e.text))
		}
	}
	if s.HeaderRow > 0 {
		parts = append(parts, fmt.Sprintf("header-row: %d", s.HeaderRow))
	}
	if s.NoHeader {
		parts = append(parts, "no-header: true")
	}
	if s.Widths != nil {
		parts = append(parts, "widths: ["+strings.Trim(strings.ReplaceAll(fmt.Sprint(s.Widths), " ", ", "), "[]")+"]")
	}
	if len(parts) > 0 {
		w.line(0, "source: {%s}", strings.Join(parts, ", "))
	}
}

func (w *writer) rows(p *Plan) {
	var kinds []string
	for _, e := range rowkind.Catalogue[1:rowkind.Failed] {
		if p.SetAside[e.Kind] && e.Kind != rowkind.Long {
			kinds = append(kinds, e.Plural)
		}
	}
	if len(kinds) == 0 && p.Turn == nil && p.Keep == nil && p.Drop == nil && p.OrderBy == nil && p.HeadingInto == "" {
		return
	}
	w.line(0, "rows:")
	if p.Turn != nil {
		w.line(1, "turn: %s", w.list(p.Turn))
		w.line(1, "into: %s", w.list(p.TurnInto[:]))
	}
	if len(kinds) > 0 {
		w.line(1, "set-aside: %s", w.list(kinds))
	}
	if p.HeadingInto != "" {
		w.line(1, "section-heading-into: %s", w.text(p.HeadingInto))
	}
	if p.Keep != nil {
		w.line(1, "keep: %s", w.text(p.Keep.Text))
	}
	if p.Drop != nil {
		w.line(1, "drop: %s", w.text(p.Drop.Text))
	}
	var keys []string
	for _, k := range p.OrderBy {
		if key := w.text(k.Column); k.Descending {
			keys = append(keys, "{"+key+": descending}")
		} else {
			keys = append(keys, key)
		}
	}
	if len(keys) > 0 {
		w.line(1, "order-by: [%s]", strings.Join(keys, ", "))
	}
}

// split writes what the pieces of a split have in common.
func (w *writer) split(c *Column) {
	w.base = 0
	w.line(1, "%s:", w.text(c.Split.Name))
	if c.Source != c.Split.Name {
		w.line(2, "from: %s", w.text(c.Source))
	}
	w.steps(c.Split.Steps)
	w.line(2, "split: %s", w.args(c.Split.Args))
	w.line(2, "into:")
}

func (w *writer) steps(chain step.Chain) {
	if len(chain) > 0 {
		w.line(2, "steps:")
	}
	for _, s := range chain {
		w.step(s)
	}
}

func (w *writer) column(c *Column) {
	w.line(1, "%s:", w.text(c.Name))
	for _, s := range c.Comment {
		w.line(2, "# %s", strings.Map(noBreak, s))
	}
	switch {
	case c.Heading:
	case c.Compute != nil:
		w.line(2, "compute: %s", w.text(c.Compute.Text))
	case c.Join != nil && c.Join.single:
		w.line(2, "from: %s", w.text(c.Join.Columns[0]))
	case c.Join != nil:
		w.line(2, "join: %s", w.list(c.Join.Columns))
		if c.Join.With != "" {
			w.line(2, "with: %s", w.text(c.Join.With))
		}
		if c.Join.Blanks != SkipBlanks {
			w.line(2, "blanks: %s", c.Join.Blanks)
		}
	case c.Split == nil && c.Source != c.Name:
		w.line(2, "from: %s", w.text(c.Source))
	}
	w.steps(c.OwnSteps())
	if !c.Untyped {
		w.line(2, "to: %s", c.Convention.Type)
	}
	w.terms(&c.Terms)
	if c.Private {
		w.line(2, "private: true")
	}
	if c.Undecided {
		w.line(2, "undecided: true")
	}
	if c.Helper {
		w.line(2, "helper: true")
	}
	if c.Emptied != EmptiedBlank {
		w.line(2, "emptied: %s", c.Emptied)
	}
	if c.OnFailure != FailBlank {
		w.line(2, "on-failure: %s", c.OnFailure)
	}
	w.must(&c.Must, c.Convention.Type)
	w.examples(c.Examples)
}

// noBreak keeps a comment on its line and free of what does not print.
func noBreak(r rune) rune {
	if r < ' ' || r == 0x7f || r == 0x85 || r == 0x2028 || r == 0x2029 || character.Invisible(r) {
		return '·'
	}
	return r
}

func (w *writer) step(s step.Named) {
	w.line(3, "- %s", w.stepText(s))
}

func (w *writer) stepText(s step.Named) string {
	if s.Args == nil {
		return s.Name
	}
	return s.Name + ": " + w.args(s.Args)
}

// StepText returns a step as a plan writes it.
func StepText(s step.Named) string { return (&writer{}).stepText(s) }

func (w *writer) args(a step.Args) string {
	switch a := a.(type) {
	case string:
		return w.text(a)
	case []step.Args:
		parts := make([]string, len(a))
		for i, v := range a {
			parts[i] = w.args(v)
		}
		return "[" + strings.Join(parts, ", ") + "]"
	case map[string]step.Args:
		var parts []string
		for _, k := range keysOf(a) {
			parts = append(parts, w.text(k)+": "+w.args(a[k]))
		}
		return "{" + strings.Join(parts, ", ") + "}"
	case nil:
		return `""`
	}
	return fmt.Sprint(a) // a number or a truth value
}

func (w *writer) terms(t *reading.Terms) {
	one := func(key, text string) {
		if text != "" {
			w.line(2, "%s: %s", key, w.text(text))
		}
	}
	one("decimal-mark", t.DecimalMark)
	if len(t.GroupMarks) > 0 {
		w.line(2, "group-marks: %s", w.list(t.GroupMarks))
	}
	if o, single := t.DateOrder[""]; single {
		one("date-order", o)
	} else if len(t.DateOrder) > 0 {
		var parts []string
		for _, sep := range keysOf(t.DateOrder) {
			parts = append(parts, strconv.Quote(sep)+": "+t.DateOrder[sep])
		}
		w.line(2, "date-order: {%s}", strings.Join(parts, ", "))
	}
	one("unit", t.Unit)
	if len(t.Factors) > 0 {
		var parts []string
		for _, unit := range keysOf(t.Factors) {
			parts = append(parts, w.text(unit)+": "+t.Factors[unit])
		}
		w.line(2, "factors: {%s}", strings.Join(parts, ", "))
	}
	one("currency", t.Currency)
	one("sign", t.Sign)
	one("months", t.Months)
	if len(t.TimeWords) > 0 {
		w.line(2, "time-words: %s", w.list(t.TimeWords))
	}
	if t.EachMark {
		w.line(2, "marks: each")
	}
	if t.Zeros {
		w.line(2, "zeros: drop")
	}
	if t.HalfDays {
		w.line(2, "half-days: true")
	}
	one("zone", t.Zone)
	if t.Offsets && t.Zone == "" {
		w.line(2, "offsets: true")
	}
	if t.DaysAsDigits {
		w.line(2, "days-as-digits: true")
	}
	if len(t.True) > 0 || len(t.False) > 0 {
		w.line(2, "words: {true: %s, false: %s}", w.list(t.True), w.list(t.False))
	}
	if len(t.BlankWords) > 0 {
		w.line(2, "blank-words: %s", w.list(t.BlankWords))
	}
}

func (w *writer) must(m *Must, t value.Type) {
	var parts []string
	if m.NotBlank {
		parts = append(parts, "not-blank: true")
	}
	if m.Unique {
		parts = append(parts, "unique: true")
	}
	if m.Between != [2]string{} {
		bound := func(s string) string {
			if s == "" || t.Numeric() {
				return s
			}
			return strconv.Quote(s)
		}
		low, high := bound(m.Between[0]), bound(m.Between[1])
		if low == "" {
			low = "null"
		}
		if high == "" {
			high = "null"
		}
		parts = append(parts, fmt.Sprintf("between: [%s, %s]", low, high))
	}
	if m.OneOf != nil {
		parts = append(parts, "one-of: "+w.list(m.OneOf))
	}
	if m.Matches != "" {
		parts = append(parts, "matches: "+w.text(m.Matches))
	}
	if m.Longest > 0 {
		parts = append(parts, fmt.Sprintf("longest: %d", m.Longest))
	}
	if len(parts) > 0 {
		w.line(2, "must: {%s}", strings.Join(parts, ", "))
	}
}
