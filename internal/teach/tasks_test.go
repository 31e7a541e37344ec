package teach_test

import (
	"context"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/convert"
	"junvo/internal/nets"
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
	return s.runWith(t, sources, 1)
}

func (s *shown) runWith(t testing.TB, sources []teach.Source, workers int) func(context.Context, table.Sink) error {
	return func(ctx context.Context, sink table.Sink) error {
		p, err := teach.Collecting(sources, &plan.Plan{})
		require.NoError(t, err)
		bound, err := p.Bind(s.columns)
		require.NoError(t, err)
		_, err = convert.Run(ctx, table.NewListed(s.columns, s.rows), bound, convert.Options{Workers: workers, Sink: sink})
		return err
	}
}

// lesson is how a task went.
type lesson struct {
	examples, questions int
	first               bool   // the likeliest rule was right before a question was answered
	begun, found        bool   // there was a rule then, and at the end
	right               bool   // for all cells
	wrong               string // a cell for which it is not
	rule                *teach.Rule
}

// learn shows the first rows of a task that have results, and answers questions until there are none.
func (s *shown) learn(t testing.TB, examples int) (l lesson) {
	sources := s.sources()
	texts, err := teach.Texts(context.Background(), sources, s.columns, &plan.Plan{}, s.rows)
	require.NoError(t, err)
	task := &teach.Task{Sources: sources}
	for i := range s.rows {
		if s.results[i] != "" && len(task.Examples) < examples {
			task.Examples = append(task.Examples, teach.Example{Texts: texts[i], Result: s.results[i]})
		}
	}
	l.examples = len(task.Examples)
	for {
		found, err := task.Over(context.Background(), s.run(t, sources))
		require.NoError(t, err)
		if l.found = len(found.Rules) > 0; !l.found {
			return l
		}
		l.rule = found.Rules[0].Rule
		if l.questions == 0 {
			l.begun, l.first = true, s.misses(l.rule, texts) == ""
		}
		if len(found.Questions) == 0 {
			break
		}
		if l.questions++; l.questions > 8 {
			l.found = false
			return l
		}
		at := found.Questions[0].Row - 1
		task.Examples = append(task.Examples, teach.Example{Texts: texts[at], Result: s.results[at]})
	}
	l.wrong = s.misses(l.rule, texts)
	l.right = l.wrong == ""
	return l
}

// misses says for which cell a rule is wrong, "" where it is right for all.
func (s *shown) misses(r *teach.Rule, texts [][]string) (say string) {
	for i := range s.rows {
		if out, _ := r.Apply(texts[i]); out != s.results[i] {
			say = fmt.Sprintf("%v gives %q, not %q", s.rows[i], out, s.results[i])
		}
	}
	return say
}

// figures is what is counted of the tasks of a kind.
type figures struct {
	tasks, one, two, more, prevented, easy, wrong int
}

// beyond are tasks that no rule can do, and for which one is found that fits all examples by chance.
var beyond = []string{"the larger of two numbers", "a plural only where there are several"}

func (f *figures) add(o figures) {
	f.tasks += o.tasks
	f.one += o.one
	f.two += o.two
	f.more += o.more
	f.prevented += o.prevented
	f.easy += o.easy
	f.wrong += o.wrong
}

// measure tries a task.
func (s *shown) measure(t *testing.T) figures {
	f := figures{tasks: 1}
	first, second := s.learn(t, 1), s.learn(t, 2)
	switch {
	case first.first:
		f.one++
	case second.first:
		f.two++
	default:
		f.more++
	}
	if second.begun && !second.first {
		f.prevented++
	}
	for _, l := range []lesson{first, second} {
		say := "none"
		if l.rule != nil {
			say = l.rule.Say(s.sources())
		}
		t.Logf("%s: %s: %d examples, %d questions: %s %s", s.kind, s.say, l.examples, l.questions, say, l.wrong)
		if l.found && !l.right {
			f.wrong++
			if slices.Contains(beyond, s.say) {
				continue
			}
			t.Errorf("%s: %s: went on without a question, and %s", s.kind, s.say, l.wrong)
		}
		if l.examples == 2 && l.right && l.questions <= 1 {
			f.easy++
		}
	}
	return f
}

// Of the tasks, nine in ten are learnt of two examples and one question at most, and none goes wrong without a question; of
// the odd ones, only those that are beyond any rule. The figures in docs/teach.md are these.
func TestTasks(t *testing.T) {
	doc, err := os.ReadFile("../../docs/teach.md")
	require.NoError(t, err)
	for _, file := range []string{"tasks", "odd"} {
		tasks := some(loadTasks(t, "testdata/"+file+".txt"), nets.Size(12, 1))
		results := make([]figures, len(tasks))
		t.Run(file, func(t *testing.T) {
			for i, s := range tasks {
				t.Run(s.say, func(t *testing.T) {
					t.Parallel()
					results[i] = s.measure(t)
				})
			}
		})
		var kinds []string
		byKind := map[string]*figures{"all": {}}
		for i, s := range tasks {
			if byKind[s.kind] == nil {
				kinds = append(kinds, s.kind)
				byKind[s.kind] = &figures{}
			}
			byKind[s.kind].add(results[i])
			byKind["all"].add(results[i])
		}
		all := byKind["all"]
		table := ""
		for _, k := range append(kinds, "all") {
			f := byKind[k]
			table += fmt.Sprintf("| %s | %d | %d | %d | %d | %d | %d | %d |\n", k, f.tasks, f.one, f.two, f.more, f.prevented, f.easy, f.wrong)
		}
		t.Log("\n" + table)
		if nets.Size(0, 1) == 1 {
			assert.Contains(t, string(doc), table)
		}
		if file == "tasks" {
			assert.GreaterOrEqual(t, all.tasks, nets.Size(9, 100))
			assert.GreaterOrEqual(t, all.easy*10, all.tasks*nets.Size(7, 9))
			assert.Zero(t, all.wrong)
		}
	}
}

// What is easily taken for answered is asked about: nothing goes wrong without a question, or the first examples say so.
func TestTraps(t *testing.T) {
	for _, s := range loadTasks(t, "testdata/traps.txt") {
		t.Run(s.say, func(t *testing.T) {
			t.Parallel()
			for _, examples := range []int{1, 2, 4} {
				l := s.learn(t, examples)
				say := "none"
				if l.rule != nil {
					say = l.rule.Say(s.sources())
				}
				t.Logf("%d examples, %d questions, found %v: %s %s", l.examples, l.questions, l.found, say, l.wrong)
				if l.found && !l.right {
					t.Errorf("of %d examples it went on, and %s", examples, l.wrong)
				}
			}
		})
	}
}

// Workers share no state: a search over many blocks, with the race detector looking on, gives what one worker finds.
func TestWorkersShareNothing(t *testing.T) {
	s := &shown{columns: []string{"Text"}}
	for i := range 6000 {
		s.rows = append(s.rows, []string{fmt.Sprintf("Lot %d / CRATE %d", i%89, i)})
	}
	sources := s.sources()
	texts, err := teach.Texts(context.Background(), sources, s.columns, &plan.Plan{}, s.rows)
	require.NoError(t, err)
	require.Len(t, texts, 6000)
	found := func(workers int) (say string) {
		task := &teach.Task{Sources: sources, Examples: []teach.Example{{Texts: texts[4], Result: "lot 4"}}}
		f, err := task.Over(context.Background(), s.runWith(t, sources, workers))
		require.NoError(t, err)
		for _, r := range f.Rules {
			say += fmt.Sprintln(r.Say(sources), r.Answers)
		}
		for _, q := range f.Questions {
			say += fmt.Sprintln(q.Row, q.Cells, q.Shape, q.Answers())
		}
		return say
	}
	assert.Equal(t, found(1), found(5))
}

// some returns every nth task.
func some(tasks []*shown, nth int) (few []*shown) {
	for i := 0; i < len(tasks); i += nth {
		few = append(few, tasks[i])
	}
	return few
}
