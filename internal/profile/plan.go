package profile

import (
	"junvo/internal/plan"
	"junvo/internal/value"
)

// Plan drafts the plan that the profile suggests.
func (p *Profile) Plan(blankWords []string) *plan.Plan {
	d := &plan.Plan{BlankWords: blankWords, SetAside: p.SetAside}
	for _, c := range p.Columns {
		done := c.Conclusion
		d.Columns = append(d.Columns, plan.Column{
			Name: c.Name, From: c.Position - 1, Convention: done.Convention, Counts: c.Counts, Why: done.Why,
			Undecided: done.Convention.Type == value.Text && (done.Mixed || done.MarksUndecided+done.OrderUndecided > 0),
		})
	}
	return d
}
