package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"junvo/internal/show"
)

// help finds commands, topics, and whatever has a name in a catalogue.
func (a *app) help(root *cobra.Command) *cobra.Command {
	return &cobra.Command{
		Use:   "help [COMMAND | TOPIC | WORD...]",
		Short: "Help about a command, a topic, or any word: a step, function, key, type, reason, finding or task",
		Example: `  junvo help convert
  junvo help take
  junvo help not-a-number
  junvo help number after a word`,
		ValidArgsFunction: func(_ *cobra.Command, _ []string, typed string) ([]string, cobra.ShellCompDirective) {
			var names []string
			for _, cmd := range root.Commands() {
				names = append(names, cmd.Name())
			}
			return beginning(append(names, show.KnownWords()...), typed), cobra.ShellCompDirectiveNoFileComp
		},
		RunE: func(_ *cobra.Command, args []string) error {
			if cmd, left, err := root.Find(args); err == nil && len(left) == 0 {
				return cmd.Help()
			}
			word := strings.Join(args, " ")
			text, near := show.Lookup(word)
			if text += mentions(root, strings.ToLower(word)); text != "" {
				return a.print(text)
			}
			if near != "" {
				return usage("there is no help for %q. Did you mean %q?", word, near)
			}
			return usage("there is no help for %q; `junvo --help` lists the commands and topics, and `junvo help tasks` "+
				"what people do", word)
		},
	}
}

// mentions lists the commands that have a word in what they are for, and the flags that have it in what they do.
func mentions(root *cobra.Command, word string) string {
	var b strings.Builder
	seen := map[string]bool{} // flags that several commands have are told once
	for _, cmd := range root.Commands() {
		if show.HasWord(cmd.Short, word) {
			fmt.Fprintf(&b, "  junvo %s\n      %s\n", cmd.Name(), cmd.Short)
		}
		cmd.LocalFlags().VisitAll(func(f *pflag.Flag) {
			if name := f.Name + f.Usage; !seen[name] && show.HasWord(f.Name+" "+f.Usage, word) {
				seen[name] = true
				fmt.Fprintf(&b, "  junvo %s --%s\n      %s\n", cmd.Name(), f.Name, strings.ReplaceAll(f.Usage, "`", ""))
			}
		})
	}
	if b.Len() > 0 {
		return "commands and flags:\n\n" + b.String()
	}
	return ""
}

// topic is a page of reference, made from a catalogue when somebody asks for it.
type topic struct {
	name, short string
	page        func() string
}

var allTopics = []topic{
	{"types", "The types that a column can have", show.TypePage},
	{"reasons", "Why cells fail, and what mends them", show.ReasonPage},
	{"plan", "The form of plans", show.PlanPage},
	{"steps", "What a plan may do to text", show.StepPage},
	{"places", "What can be said where: in a plan, as flags, in an expression", show.PlacePage},
	{"functions", "The functions of expressions", show.FunctionPage},
	{"tasks", "What people do to tables: a line to try and a plan to keep", show.TaskPage},
	{"words", "The words that Junvo uses", show.WordPage},
	{"findings", "What a profile can find", show.FindingPage},
}

func (a *app) topics() (all []*cobra.Command) {
	for _, t := range allTopics {
		cmd := &cobra.Command{Use: t.name, Short: t.short}
		cmd.SetHelpFunc(func(*cobra.Command, []string) { _ = a.print(t.page()) }) // an error is kept by standard output
		all = append(all, cmd)
	}
	return all
}
