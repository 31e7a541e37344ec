package show

import (
	"fmt"
	"strconv"
	"strings"

	"junvo/internal/plan"
	"junvo/internal/profile"
	"junvo/internal/teach"
)

// Taught is what was found for examples, to be shown.
type Taught struct {
	*teach.Found
	Sources  []teach.Source
	Columns  []string // of the source
	Examples int
	Name     string // of the column that a plan gets
	Wording  string // how the command was written, up to the answer to a question
}

// mostAsked is how many questions are shown.
const mostAsked = 8

// ruleName is what a rule is called: A, B, … .
func ruleName(i int) string { return string(rune('A' + i)) }

func ruleNames(rules []int) (names []string) {
	for _, i := range rules {
		names = append(names, ruleName(i))
	}
	return names
}

// cells returns the cells of a row as people see them.
func (t *Taught) cells(texts []string) string {
	var parts []string
	for i, s := range t.Sources {
		if s.Read == nil {
			parts = append(parts, Visible(texts[i]))
		}
	}
	return strings.Join(parts, " | ")
}

// Text returns the page.
func (t *Taught) Text(f Format, page Page) string {
	p := newFacts(f, page)
	names := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		names[i] = Visible(c)
	}
	if f != CSV {
		p.heading(fmt.Sprintf("Rules for %s that fit %s", strings.Join(names, ", "),
			profile.Counted(int64(t.Examples), "example", "examples")))
	}
	rules := &grid{columns: []column{
		{name: "rule"},
		{name: "answers", right: true},
		{name: "leaves", right: true},
		{name: "fails", right: true},
		{name: "what it gives", min: 24, wrap: true},
		{name: "steps"},
	}}
	for i, r := range t.Rules {
		say, steps := Visible(r.Say(t.Sources)), Visible(strings.Join(r.Steps(t.Sources), " · "))
		if f == Table { // one below the other: both may be long
			say += "\n" + steps
		}
		rules.rows = append(rules.rows, []string{
			ruleName(i), strconv.FormatInt(r.Answers[teach.Answered], 10), strconv.FormatInt(r.Answers[teach.Left], 10),
			strconv.FormatInt(r.Answers[teach.Failed], 10), say, steps,
		})
	}
	if f == Table {
		rules.remove("steps")
		rules.columns[4].name = "what it gives, and its steps"
	}
	if f == CSV {
		return rules.render(f, page)
	}
	if f == Table {
		p.b.WriteByte('\n')
	}
	p.b.WriteString(rules.render(f, page))
	p.note(t.verdict())
	p.table("question", "What is right for these?", t.questions())
	if left := len(t.Questions) - mostAsked; left > 0 {
		p.note(fmt.Sprintf("and %s more like these", profile.Counted(int64(left), "group", "groups")))
	}
	if len(t.Questions) > 0 && t.Wording != "" {
		q := t.Questions[0]
		p.note(fmt.Sprintf("Show what is right for one of them: %s --row %s", Visible(t.Wording),
			CommandLine([]string{fmt.Sprintf("%d => RESULT", q.Row)})))
	}
	return p.text()
}

// verdict says how far the rules agree.
func (t *Taught) verdict() string {
	asked := t.More
	for _, q := range t.Questions {
		asked += q.Cells
	}
	several := len(t.Rules) > 1
	switch {
	case len(t.Questions) == 0:
		return fmt.Sprintf("One answer for all %s.", profile.Counted(t.Cells, "cell", "cells"))
	case t.Questions[0].Other: // those in which rules disagree stand before it
		return fmt.Sprintf("The rules agree, and for %s of %d it is open whether they are right: what they give looks unlike "+
			"the examples.", profile.Counted(asked, "cell", "cells"), t.Cells)
	case !several && len(t.Questions) == 1 && t.Questions[0].Confirms:
		return "No other rule fits, but so few examples may fit this one by chance: another would tell."
	case !several:
		return fmt.Sprintf("The rule has no answer for %s of %d.", profile.Counted(asked, "cell", "cells"), t.Cells)
	}
	return fmt.Sprintf("The rules agree on %d of %s and leave %d open.", t.Cells-asked,
		profile.Counted(t.Cells, "cell", "cells"), asked)
}

// questions is the table of what is asked: a column for each answer that there is, with the rules behind it.
func (t *Taught) questions() *grid {
	g := &grid{columns: []column{
		{name: "row", right: true},
		{name: "text", min: 16},
		{name: "cells", right: true},
		{name: "shape", min: 8, drop: 3},
		{name: "answers", min: 24, wrap: true},
	}}
	for _, q := range t.Questions[:min(len(t.Questions), mostAsked)] {
		var answers []string
		for _, a := range q.Answers() {
			answers = append(answers, sayAnswer(a))
		}
		g.rows = append(g.rows, []string{
			strconv.FormatInt(q.Row, 10), t.cells(q.Texts), strconv.FormatInt(q.Cells,
				10), Visible(q.Shape), strings.Join(answers, "; "),
		})
	}
	return g
}

func sayAnswer(a teach.Answer) string {
	result := Visible(a.Result)
	if a.Result == "" {
		result = "nothing"
	}
	return result + " (" + strings.Join(ruleNames(a.Rules), ", ") + ")"
}

// Ask returns a question for a person at a terminal, its answers by letters.
func (t *Taught) Ask(q *teach.Group) string {
	var b strings.Builder
	fmt.Fprintf(&b, "\nRow %d: %s", q.Row, t.cells(q.Texts))
	if q.Cells > 1 && !q.Confirms {
		fmt.Fprintf(&b, "   (and %s like it)", profile.Counted(q.Cells-1, "cell", "cells"))
	}
	b.WriteString("\n")
	for i, a := range q.Answers() {
		fmt.Fprintf(&b, "  %c  %s\n", 'a'+i, sayAnswer(a))
	}
	b.WriteString("Which is right? A letter; = and the result, if it is another; - for nothing; or Enter to stop: ")
	return b.String()
}

// The JSON of what was found. Its schema is docs/schemas/teach.schema.json.
type (
	taughtJSON struct {
		Junvo     int            `json:"junvo"`
		Columns   []string       `json:"columns"`
		Examples  int            `json:"examples"`
		Cells     int64          `json:"cells"`
		Rules     []ruleJSON     `json:"rules"`
		Questions []questionJSON `json:"questions"`
		More      int64          `json:"more"`
	}
	ruleJSON struct {
		Name    string   `json:"name"`
		Say     string   `json:"say"`
		Steps   []string `json:"steps"`
		Plan    string   `json:"plan"`
		Answers int64    `json:"answers"`
		Leaves  int64    `json:"leaves"`
		Fails   int64    `json:"fails"`
	}
	questionJSON struct {
		Row     int64        `json:"row"`
		Text    string       `json:"text"`
		Texts   []string     `json:"texts"`
		Shape   string       `json:"shape"`
		Cells   int64        `json:"cells"`
		Answers []answerJSON `json:"answers"`
	}
	answerJSON struct {
		Result string   `json:"result"`
		Cells  int64    `json:"cells"`
		Rules  []string `json:"rules"`
	}
)

// JSON returns what was found for other programs.
func (t *Taught) JSON() ([]byte, error) {
	doc := taughtJSON{
		Junvo: 1, Columns: t.Columns, Examples: t.Examples, Cells: t.Cells, Rules: []ruleJSON{}, Questions: []questionJSON{}, More: t.More,
	}
	for i, r := range t.Rules {
		lines, err := plan.Lines(r.Columns(t.Name, t.Sources, nil))
		if err != nil {
			return nil, err
		}
		steps := r.Steps(t.Sources)
		if steps == nil {
			steps = []string{}
		}
		doc.Rules = append(doc.Rules, ruleJSON{
			Name: ruleName(i), Say: r.Say(t.Sources), Steps: steps, Plan: string(lines),
			Answers: r.Answers[teach.Answered], Leaves: r.Answers[teach.Left], Fails: r.Answers[teach.Failed],
		})
	}
	for _, q := range t.Questions {
		one := questionJSON{Row: q.Row, Shape: q.Shape, Cells: q.Cells, Answers: []answerJSON{}}
		for i, s := range t.Sources {
			if s.Read == nil {
				one.Texts = append(one.Texts, q.Texts[i])
			}
		}
		one.Text = strings.Join(one.Texts, " | ")
		for _, a := range q.Answers() {
			one.Answers = append(one.Answers, answerJSON{a.Result, a.Cells, ruleNames(a.Rules)})
		}
		doc.Questions = append(doc.Questions, one)
	}
	return encode(doc)
}
