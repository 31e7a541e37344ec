package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/show"
)

// What the page of tasks says comes out, in one line and by the plan, byte for byte.
func TestTasksComeOutInBothForms(t *testing.T) {
	t.Parallel()
	assert.GreaterOrEqual(t, len(show.Tasks), 40)
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
			// On a table that it was not made for no text is lost in silence, in either form.
			f.file("a.csv", task.Unfit.Table)
			for _, args := range [][]string{task.Flags, {"--plan", "p.yaml"}} {
				r := f.run(append([]string{"convert", "a.csv", "-o", "-"}, args...)...)
				assert.LessOrEqual(t, r.code, 1, r.err)
				assert.Contains(t, r.out+r.err, task.Unfit.Tells, "%v of %s", args, task.Unfit.Table)
			}
		})
	}
}
