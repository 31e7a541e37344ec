package teach_test

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"junvo/internal/convert"
	"junvo/internal/plan"
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/teach"
)

// shown is one of the tasks: a column, or several, and what is to come out of each row.
type shown struct {
	kind, say string
	columns   []string
	rows      [][]string
	results   []string
}

func loadTasks(t testing.TB, path string) (tasks []*shown) {
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	for line := range strings.Lines(string(text)) {
		line = strings.TrimRight(line, "\n")
		if line == "" {
			continue
		}
		if names, ok := strings.CutPrefix(line, "#! "); ok {
			tasks[len(tasks)-1].columns = strings.Split(names, " | ")
			continue
		}
		cell, result, isRow := strings.Cut(line, " => ")
		if head, ok := strings.CutPrefix(line, "# "); ok && !isRow {
			kind, say, _ := strings.Cut(head, ": ")
			tasks = append(tasks, &shown{kind: kind, say: say, columns: []string{"Text"}})
			continue
		}
		if !isRow {
			cell, _ = strings.CutSuffix(line, " =>")
		}
		task := tasks[len(tasks)-1]
		cells := []string{cell}
		if len(task.columns) > 1 {
			cells = strings.Split(cell, " | ")
		}
		task.rows, task.results = append(task.rows, cells), append(task.results, result)
	}
	return tasks
}

// sources returns what rules may use of a task's columns.
func (s *shown) sources() (list []teach.Source) {
	for c, name := range s.columns {
		r := reading.NewReader(nil)
		var counts []reading.Count
		for _, row := range s.rows {
			x := r.Read([]byte(row[c]))
			counts = append(counts, reading.Count{Set: x.Set, Form: x.Form, Affix: x.Affix(), Cells: 1})
		}
		list = append(list, teach.SourcesOf(name, counts, reading.Conclude(counts, reading.Ask{}))...)
	}
	return list
}

// run hands the rows of a task to a sink.
func (s *shown) run(t testing.TB, sources []teach.Source) func(context.Context, table.Sink) error {
	return func(ctx context.Context, sink table.Sink) error {
		p, err := teach.Collecting(sources, &plan.Plan{})
		require.NoError(t, err)
		bound, err := p.Bind(s.columns)
		require.NoError(t, err)
		_, err = convert.Run(ctx, table.NewListed(s.columns, s.rows), bound, convert.Options{Workers: 2, Sink: sink})
		return err
	}
}

// lesson is how a task went.
type lesson struct {
	examples, questions int
	right, gaveUp       bool
	wrong               string
	took                time.Duration
	rule                *teach.Rule
}

// learn shows the first rows of a task that have results, and answers questions until there are none.
func (s *shown) learn(t testing.TB, first int) (l lesson) {
	sources := s.sources()
	texts, err := teach.Texts(context.Background(), sources, s.columns, &plan.Plan{}, s.rows)
	require.NoError(t, err)
	task := &teach.Task{Sources: sources}
	for i := range s.rows {
		if s.results[i] != "" && len(task.Examples) < first {
			task.Examples = append(task.Examples, teach.Example{Texts: texts[i], Result: s.results[i]})
		}
	}
	l.examples = len(task.Examples)
	for {
		start := time.Now()
		found, err := task.Over(context.Background(), s.run(t, sources))
		require.NoError(t, err)
		l.took = max(l.took, time.Since(start))
		if len(found.Rules) == 0 {
			l.gaveUp = true
			return l
		}
		l.rule = found.Rules[0].Rule
		if os.Getenv("TEACH_SHOW") != "" && strings.Contains(s.kind+": "+s.say, os.Getenv("TEACH_SHOW")) {
			for i, r := range found.Rules {
				fmt.Printf("  %d. %.1f %.3g %v %s\n", i, r.Cost, r.Weight, r.Answers, r.Say(sources))
			}
			for _, g := range found.Questions[:min(3, len(found.Questions))] {
				fmt.Printf("    ? %d %v %v\n", g.Row, g.Texts, g.Answers())
			}
		}
		if len(found.Questions) == 0 {
			break
		}
		if l.questions++; l.questions > 8 {
			l.gaveUp = true
			return l
		}
		at := found.Questions[0].Row - 1
		task.Examples = append(task.Examples, teach.Example{Texts: texts[at], Result: s.results[at]})
	}
	l.right = true
	for i := range s.rows {
		if out, _ := l.rule.Apply(texts[i]); out != s.results[i] {
			l.right, l.wrong = false, fmt.Sprintf("%v gives %q, not %q", s.rows[i], out, s.results[i])
		}
	}
	return l
}

func tasksFile() string {
	if f := os.Getenv("TEACH_TASKS"); f != "" {
		return f
	}
	return "testdata/tasks.txt"
}

// Of the tasks, most are learnt of two examples and one question at most, and none goes wrong without a question.
func TestTasks(t *testing.T) {
	tasks := loadTasks(t, tasksFile())
	_ = 0
	for _, first := range []int{1, 2} {
		easy := 0
		for _, s := range tasks {
			l := s.learn(t, first)
			say := fmt.Sprintf("%d examples, %d questions", l.examples, l.questions)
			switch {
			case l.gaveUp:
				say += ", none found"
			case !l.right:
				say += ", WRONG: " + l.wrong
				t.Errorf("%s: %s: %s", s.kind, s.say, l.wrong)
			}
			if l.right && l.questions+l.examples <= 3 {
				easy++
			}
			rule := ""
			if l.rule != nil {
				rule = l.rule.Say(s.sources())
			}
			t.Logf("%s: %s: %s (%v): %s", s.kind, s.say, say, l.took.Round(time.Millisecond), rule)
		}
		t.Logf("%d of %d with %d examples", easy, len(tasks), first)
	}
}
