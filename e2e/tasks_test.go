package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/show"
)

// What the page of tasks says comes out, in one line and by the plan, byte for byte.
func TestTasksComeOutInBothForms(t *testing.T) {
	t.Parallel()
	assert.GreaterOrEqual(t, len(show.Tasks), 20)
	for _, task := range show.Tasks {
		t.Run(task.Name, func(t *testing.T) {
			f := newFolder(t)
			f.file("a.csv", task.Table)
			f.file("p.yaml", "plan: 1\n"+task.Plan)
			one := f.run(append([]string{"convert", "a.csv", "-o", "-"}, task.Flags...)...)
			assert.LessOrEqual(t, one.code, 1, one.err)
			assert.Equal(t, task.Gives, one.out)
			plan := f.run("convert", "a.csv", "-o", "-", "--plan", "p.yaml")
			assert.Equal(t, one.code, plan.code, plan.err)
			assert.Equal(t, task.Gives, plan.out)
		})
	}
}
