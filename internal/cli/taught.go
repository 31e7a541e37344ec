package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/show"
	"junvo/internal/teach"
)

// endLesson prints what was found, and writes the rule to the plan when there is one answer.
func (a *app) endLesson(ctx context.Context, l *dialogue, t *teachFlags, page *show.Taught) error {
	f := show.Format(a.format)
	text := ""
	if f == show.JSON {
		doc, err := page.JSON()
		if err != nil {
			return err
		}
		text = string(doc)
	} else {
		text = page.Text(f, a.page())
	}
	if l.open {
		return printVerdict(a.out, text, true)
	}
	columns, err := l.planned(t, page)
	if err != nil {
		return err
	}
	if t.preview {
		shown, err := a.previewTaught(ctx, l, columns)
		if err != nil {
			return err
		}
		if f != show.JSON && f != show.CSV {
			text += "\n" + shown
		}
	}
	if t.into != "" {
		if err := l.write(t, columns); err != nil {
			return err
		}
		fmt.Fprintf(a.err, "The column %s was added to %s\n", show.Visible(t.into), show.Visible(t.plan))
	}
	return a.print(text)
}

// planned returns the columns of a plan for the rule, with its examples.
func (l *dialogue) planned(t *teachFlags, page *show.Taught) ([]plan.Column, error) {
	taken := map[string]bool{}
	for i := range l.as.Columns {
		taken[l.as.Columns[i].Name] = true
	}
	name := t.into
	if name == "" {
		name = plan.UniqueName(page.Name, taken)
	}
	rule := page.Rules[0]
	columns := rule.Columns(name, l.task.Sources, taken)
	for _, c := range columns {
		taken[c.Name] = true
	}
	gives := func(result string) string { return result }
	if !rule.Reads(l.task.Sources) && page.Type != nil {
		columns, gives = page.Type.Give(columns, taken), page.Type.Value
	}
	last := &columns[len(columns)-1]
	last.Comment = []string{
		"taught by examples: " + rule.Say(l.task.Sources),
		fmt.Sprintf("%d of %d cells had a result, %d none, %d failed", rule.Answers[teach.Answered], page.Cells,
			rule.Answers[teach.Left], rule.Answers[teach.Failed]),
	}
	for i := range l.task.Examples {
		e := &l.task.Examples[i]
		from := map[string]string{}
		for j, s := range l.task.Sources {
			if s.Read == nil {
				from[s.Column] = e.Texts[j]
			}
		}
		last.Examples = append(last.Examples, plan.Example{From: from, Gives: gives(e.Result)})
	}
	uses := map[string]bool{} // cells that the rule does not use are no part of its examples
	for _, i := range rule.Uses() {
		uses[l.task.Sources[i].Column] = true
	}
	for _, e := range last.Examples {
		for name := range e.From {
			if !uses[name] {
				delete(e.From, name)
			}
		}
	}
	return columns, nil
}

// text returns the text of the plan with more columns: the one that is there, or a drafted one.
func (l *dialogue) text(t *teachFlags, columns []plan.Column) ([]byte, error) {
	text := l.held
	if text == nil {
		var err error
		if text, err = l.as.Write(); err != nil {
			return nil, err
		}
	}
	text, err := plan.Insert(text, columns, besideOf(t.plan))
	var mistakes plan.Mistakes
	if errors.As(err, &mistakes) {
		return nil, mistakesIn(err)
	}
	return text, err
}

// write writes the plan.
func (l *dialogue) write(t *teachFlags, columns []plan.Column) error {
	text, err := l.text(t, columns)
	if err != nil {
		return usage("%s: %w", t.plan, err)
	}
	// Somebody may have worked on it meanwhile, above all where there were questions.
	switch now, err := readText(t.plan); {
	case err == nil && (l.held == nil || !bytes.Equal(now, l.held)), err != nil && l.held != nil:
		return usage("%s has changed since it was read, so that nothing was written to it; run this again", t.plan)
	}
	return writeWhole(t.plan, text)
}

// previewTaught shows what the rule makes of the column.
func (a *app) previewTaught(ctx context.Context, l *dialogue, columns []plan.Column) (string, error) {
	only := &plan.Plan{
		Source: l.as.Source, Turn: l.as.Turn, TurnInto: l.as.TurnInto, SetAside: l.as.SetAside, BlankWords: l.as.BlankWords, Columns: columns,
	}
	text, err := only.Write()
	if err != nil {
		return "", err
	}
	p, err := plan.Load(text)
	if err != nil {
		return "", err
	}
	bound, err := p.Bind(l.prof.Info.Names)
	if err != nil {
		return "", err
	}
	page := show.NewPreview(p, show.PreviewOptions{Cells: 8, Only: []int{len(columns) - 1}})
	rows, err := a.try(ctx, l.paths, bound, convert.TryOptions{Rows: previewRows}, "", page.Add)
	if err != nil {
		return "", err
	}
	return page.Text(show.Format(a.format), a.page(), rows, rows == previewRows), nil
}
