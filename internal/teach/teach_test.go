package teach_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/convert"
	"junvo/internal/nets"
	"junvo/internal/plan"
	"junvo/internal/table"
	"junvo/internal/teach"
)

// converted is a sink that keeps the last column.
type converted struct {
	table.Discard
	texts []string
}

func (c *converted) Write(_ []byte, rows *table.Rows) error {
	for row := range rows.Count {
		c.texts = append(c.texts, string(rows.Cells[len(rows.Cells)-1].At(row)))
	}
	return nil
}

// The plan of a rule does what the rule does, cell for cell: for all rules that were found for all tasks.
func TestPlansDoWhatRulesDo(t *testing.T) {
	for _, s := range some(loadTasks(t, "testdata/tasks.txt"), nets.Size(9, 1)) {
		sources := s.sources()
		rows := append(s.rows, make([]string, len(s.columns)), append([]string{"nothing like it"}, s.rows[0][1:]...))
		texts, err := teach.Texts(context.Background(), sources, s.columns, &plan.Plan{}, rows)
		require.NoError(t, err)
		for _, none := range []bool{false, true} {
			task := &teach.Task{Sources: sources, Examples: []teach.Example{{Texts: texts[0], Result: s.results[0]}}}
			if none { // without a result where nothing is found
				task.Examples = append(task.Examples, teach.Example{Texts: texts[len(texts)-1]})
			}
			rules := task.Search()
			for _, r := range rules[:min(len(rules), 10)] {
				for _, p := range r.Pieces { // in words, not as the plan has it
					for _, s := range p.Chain {
						if s.Args != nil {
							assert.NotContains(t, r.Say(sources), plan.StepText(s))
						}
					}
				}
				p := &plan.Plan{Columns: r.Columns("result", sources, nil)}
				text, err := p.Write()
				require.NoError(t, err)
				loaded, err := plan.Load(text)
				require.NoError(t, err, "%s", text)
				bound, err := loaded.Bind(s.columns)
				require.NoError(t, err)
				out := &converted{}
				_, err = convert.Run(context.Background(), table.NewListed(s.columns, rows), bound, convert.Options{Workers: 1, Sink: out})
				require.NoError(t, err)
				for i := range rows {
					want, _ := r.Apply(texts[i])
					if !assert.Equal(t, want, out.texts[i], "%s: %s\nof %q\n%s", s.say, r.Say(sources), rows[i], text) {
						return
					}
				}
			}
		}
	}
}

// learnt returns what is found for examples over rows of one column of text.
func learnt(t *testing.T, rows []string, results map[string]string) *teach.Found {
	t.Helper()
	one := &shown{columns: []string{"Text"}}
	for _, text := range rows {
		one.rows = append(one.rows, []string{text})
	}
	sources := one.sources()
	texts, err := teach.Texts(context.Background(), sources, one.columns, &plan.Plan{}, one.rows)
	require.NoError(t, err)
	task := &teach.Task{Sources: sources}
	for i, text := range rows {
		if result, ok := results[text]; ok {
			task.Examples = append(task.Examples, teach.Example{Texts: texts[i], Result: result})
		}
	}
	found, err := task.Over(context.Background(), one.run(t, sources))
	require.NoError(t, err)
	return found
}

// A rule that gives labels needs two texts for each label that have a word in common.
func TestLabels(t *testing.T) {
	rows := []string{"cod, iced", "iced plaice", "sole frozen hard", "frozen cod", "iced turbot", "herring frozen"}
	found := learnt(t, rows, map[string]string{rows[0]: "ICE", rows[1]: "ICE", rows[2]: "DEEP", rows[3]: "DEEP"})
	require.NotEmpty(t, found.Rules)
	out, of := found.Rules[0].Apply([]string{"iced turbot"})
	assert.Equal(t, teach.Answered, of)
	assert.Equal(t, "ICE", out)
	few := learnt(t, rows, map[string]string{rows[0]: "ICE", rows[2]: "DEEP"})
	assert.Empty(t, few.Rules, "one text for a label is a special case, and no evidence")
}

// A rule that one example leaves open although no other fits is asked about once more.
func TestConfirms(t *testing.T) {
	rows := []string{"12", "345", "7", "99"}
	found := learnt(t, rows, map[string]string{"12": "HAR-12"})
	require.NotEmpty(t, found.Questions)
	found = learnt(t, rows, map[string]string{"12": "HAR-12", "7": "HAR-7"})
	assert.Empty(t, found.Questions)
	assert.Equal(t, int64(4), found.Rules[0].Answers[teach.Answered])
}

// Every row in which rules disagree is counted: in a group, or, where there are too many groups, beside them.
func TestRowsInWhichRulesDisagree(t *testing.T) {
	rows := []string{"ab-cd", "xyz-w"}
	results := map[string]string{"ab-cd": "cd", "xyz-w": "w"}
	for a := range 8 {
		for b := range 8 {
			for c := range 8 {
				letters := func(n int) string { return strings.Repeat("q", n+1) }
				rows = append(rows, letters(a)+"-"+letters(b)+"-"+letters(c), letters(a)+"-"+letters(b)+"-"+letters(c)+"9")
			}
		}
	}
	found := learnt(t, rows, results)
	require.Greater(t, len(found.Rules), 1)
	open := 0
	for _, text := range rows {
		given := map[string]bool{}
		for _, r := range found.Rules {
			out, _ := r.Apply([]string{text})
			given[out] = true
		}
		if len(given) > 1 || given[""] {
			open++
		}
	}
	asked := found.More
	for _, q := range found.Questions {
		asked += q.Cells
	}
	assert.LessOrEqual(t, len(found.Questions), 300)
	assert.Positive(t, found.More)
	assert.EqualValues(t, open, asked)
	assert.EqualValues(t, len(rows), found.Cells)
	for _, r := range found.Rules {
		assert.Equal(t, found.Cells, r.Answers[teach.Answered]+r.Answers[teach.Left]+r.Answers[teach.Failed])
	}
}

// Contradictions are found, and the nearest rule where none fits.
func TestNearest(t *testing.T) {
	task := &teach.Task{Sources: []teach.Source{{Column: "Text"}}, Examples: []teach.Example{
		{Texts: []string{"lot 1"}, Result: "1"}, {Texts: []string{"lot 22"}, Result: "22"}, {Texts: []string{"lot 3"}, Result: "4"},
	}}
	_, _, contradict := task.Contradiction()
	assert.False(t, contradict)
	assert.Empty(t, task.Search())
	rule, missed := task.Nearest()
	require.NotNil(t, rule)
	assert.Equal(t, []int{2}, missed)
	task.Examples[2] = teach.Example{Texts: []string{"lot 1"}, Result: "7"}
	i, j, contradict := task.Contradiction()
	assert.True(t, contradict)
	assert.Equal(t, [2]int{0, 2}, [2]int{i, j})
}

// What a rule says tells what it does.
func TestSay(t *testing.T) {
	for _, c := range []struct {
		text, result string
		say          string
	}{
		{"lot 88 / crate 51", "8851", "only digits"},
		{"a/b", "b", `what stands after "/"`},
		{"Petersen, Anke", "Anke Petersen", `what stands after ", ", then " ", then what stands before ", "`},
		{"12", "000012", "the text, filled up to 6 characters with \"0\""},
		{"hafen", "HAFEN", "the text, in upper case"},
	} {
		task := &teach.Task{Sources: []teach.Source{{Column: "Text"}}, Examples: []teach.Example{{Texts: []string{c.text}, Result: c.result}}}
		var said []string
		for _, r := range task.Search() {
			said = append(said, r.Say(task.Sources))
		}
		assert.Contains(t, said, c.say)
	}
}
