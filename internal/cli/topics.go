package cli

import (
	"github.com/spf13/cobra"

	"junvo/internal/show"
)

// topics are the pages of reference, made from the catalogues.
func topics() []*cobra.Command {
	return []*cobra.Command{
		{Use: "types", Short: "The types that a column can have", Long: show.TypePage()},
		{Use: "reasons", Short: "Why cells fail, and what mends them", Long: show.ReasonPage()},
		{Use: "plan", Short: "The form of plans", Long: show.PlanPage()},
		{Use: "steps", Short: "What a plan may do to text", Long: show.StepPage()},
		{Use: "findings", Short: "What a profile can find", Long: show.FindingPage()},
	}
}
