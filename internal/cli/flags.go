package cli

import (
	"fmt"
	"io"
	"regexp"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// What is known of a flag besides its use is an annotation on it: the group under which help and manual pages list it, and
// whether its command can go over the parts of a table with it. All that lists flags is made from that.

const (
	flagGroupKey = "junvo group"
	wholeOnlyKey = "junvo whole only"
)

// flagGroups are the groups of flags, in the order in which they are listed.
var flagGroups = []string{groupJob, groupEdits, groupTypes, groupRows, groupLists, groupDatabases, groupSource, groupRarely, groupAll}

const (
	groupJob       = "Flags"
	groupEdits     = "Changes in one line"
	groupTypes     = "Types and marks"
	groupRows      = "Rows and columns shown"
	groupLists     = "Lists and reports"
	groupDatabases = "Databases"
	groupSource    = "How the source is read"
	groupRarely    = "Rarely needed"
	groupAll       = "All commands"
)

// into puts those flags of a command that are in no group yet into one. It is called after their declaration.
func into(cmd *cobra.Command, group string) {
	f := cmd.Flags()
	f.VisitAll(func(one *pflag.Flag) {
		if groupOf(one) == "" {
			annotate(f, one.Name, flagGroupKey, group)
		}
	})
}

// wholeOnly says of flags that their command needs the whole table for them: they can't go over its parts.
func wholeOnly(cmd *cobra.Command, names ...string) {
	for _, name := range names {
		annotate(cmd.Flags(), name, wholeOnlyKey, "true")
	}
}

func annotate(f *pflag.FlagSet, name, key, text string) {
	if err := f.SetAnnotation(name, key, []string{text}); err != nil {
		panic(err) // there is no flag of the name
	}
}

// groupOf returns the group of a flag, "" where it has none yet.
func groupOf(f *pflag.Flag) string { return strings.Join(f.Annotations[flagGroupKey], "") }

// flagGroupsOf returns the flags of a command by their groups: for each the heading and the flags, in the order in which they
// were declared. Flags that have no group are among those of the job; those of all commands come last.
func flagGroupsOf(cmd *cobra.Command) (headings []string, sets []*pflag.FlagSet) {
	by := map[string]*pflag.FlagSet{}
	add := func(group string) func(*pflag.Flag) {
		return func(f *pflag.Flag) {
			name := group
			if name == "" {
				if name = groupOf(f); name == "" {
					name = groupJob
				}
			}
			if by[name] == nil {
				by[name] = pflag.NewFlagSet("", pflag.ContinueOnError)
				by[name].SortFlags = false
			}
			by[name].AddFlag(f)
		}
	}
	cmd.NonInheritedFlags().VisitAll(add(""))
	cmd.InheritedFlags().VisitAll(add(groupAll))
	for _, name := range flagGroups {
		if by[name] != nil && by[name].HasAvailableFlags() {
			headings, sets = append(headings, name), append(sets, by[name])
		}
	}
	return headings, sets
}

// usageText prints how a command is used: after its description in its help.
func (a *app) usageText(cmd *cobra.Command) error {
	var b strings.Builder
	b.WriteString("Usage:\n")
	if cmd.Runnable() && !cmd.HasSubCommands() {
		b.WriteString("  " + cmd.UseLine() + "\n")
	}
	if cmd.HasAvailableSubCommands() {
		b.WriteString("  " + cmd.CommandPath() + " COMMAND\n")
	}
	if cmd.HasExample() {
		b.WriteString("\nExamples:\n" + cmd.Example + "\n")
	}
	list := func(heading string, is func(*cobra.Command) bool) {
		for _, sub := range cmd.Commands() {
			if !is(sub) {
				continue
			}
			b.WriteString(heading)
			heading = ""
			fmt.Fprintf(&b, "  %-*s %s\n", sub.NamePadding(), sub.Name(), sub.Short)
		}
	}
	list("\nCommands:\n", func(c *cobra.Command) bool { return c.IsAvailableCommand() && c.Annotations[moreKey] == "" })
	list("\nMore:\n", func(c *cobra.Command) bool { return c.IsAvailableCommand() && c.Annotations[moreKey] != "" })
	list("\nHelp on:\n", func(c *cobra.Command) bool { return c.IsAdditionalHelpTopicCommand() })
	headings, sets := flagGroupsOf(cmd)
	for i, set := range sets {
		b.WriteString("\n" + headings[i] + ":\n" + set.FlagUsagesWrapped(a.page().Width))
	}
	if cmd.HasAvailableSubCommands() {
		fmt.Fprintf(&b, "\n`%[1]s COMMAND --help` shows a command with its flags, `%[1]s help WORD` what there is on a word.\n", cmd.CommandPath())
	}
	_, err := io.WriteString(cmd.OutOrStderr(), b.String())
	return err
}

// moreKey marks commands that are seldom needed.
const moreKey = "junvo more"

// inBackquotes is the name of a flag's value in its use.
var inBackquotes = regexp.MustCompile("`[^`]+`")

// finish makes all flags of a command and of those below it as they are meant to be: what can't be repeated refuses a
// second value, and the names of values are in capitals. For completions the library reads flags more than once.
func finish(cmd *cobra.Command, completing bool) {
	one := func(f *pflag.Flag) {
		f.Usage = inBackquotes.ReplaceAllStringFunc(f.Usage, strings.ToUpper)
		switch v := f.Value.(type) {
		case *once, *repeated, *condition, editValue:
		case pflag.SliceValue:
			f.Value, f.DefValue = &repeated{f.Value, v}, ""
		default:
			if !completing {
				f.Value = &once{Value: f.Value}
			}
		}
	}
	cmd.Flags().VisitAll(one)
	cmd.PersistentFlags().VisitAll(one)
	for _, below := range cmd.Commands() {
		finish(below, completing)
	}
}

// valueName is what stands for the value of a flag whose use does not name it.
func valueName(v pflag.Value) string {
	switch t := v.Type(); t {
	case "int", "int64":
		return "N"
	case "string", "stringArray":
		return "TEXT"
	case "stringSlice":
		return "NAME,NAME"
	case "intSlice":
		return "N,N"
	default:
		return t
	}
}

// repeated is the value of a flag that takes several.
type repeated struct {
	pflag.Value
	pflag.SliceValue
}

func (r *repeated) Type() string { return valueName(r.Value) }

// eachArgument calls take with each flag among the arguments of a command, and with its value where that is an argument of
// its own; the flag is nil for what is none, such as sources. What stands behind -- is no flag.
func eachArgument(args []string, take func(f *pflag.Flag, texts []string)) {
	root := (&app{}).root()
	cmd, _, err := root.Find(args)
	if err != nil {
		cmd = root
	}
	for i := 0; i < len(args); i++ {
		arg := args[i]
		if arg == "--" {
			for _, source := range args[i+1:] {
				take(nil, []string{source})
			}
			return
		}
		if arg == "-" || !strings.HasPrefix(arg, "-") {
			take(nil, []string{arg})
			continue
		}
		name, long := strings.CutPrefix(arg, "--")
		name, _, valued := strings.Cut(name, "=")
		f := cmd.Flag(name)
		if !long {
			f, valued = cmd.Flags().ShorthandLookup(arg[1:2]), len(arg) > 2
		}
		if f == nil {
			f = &pflag.Flag{Name: name, NoOptDefVal: "unknown"} // the command says so
		}
		texts := args[i : i+1]
		if f.NoOptDefVal == "" && !valued && i+1 < len(args) {
			i++
			texts = args[i-1 : i+1]
		}
		take(f, texts)
	}
}

// Parted parts the arguments of a command into its name and its flags, with their values, and its sources.
func Parted(args []string) (flags, sources []string) {
	named := false // the command
	eachArgument(args, func(f *pflag.Flag, texts []string) {
		switch {
		case f != nil:
			flags = append(flags, texts...)
		case named:
			sources = append(sources, texts...)
		default:
			named, flags = true, append(flags, texts...)
		}
	})
	return flags, sources
}

// WholeOnly returns the first flag among the arguments of a command that can't go over the parts of a table, "" for none.
func WholeOnly(args []string) (name string) {
	eachArgument(args, func(f *pflag.Flag, _ []string) {
		if f != nil && f.Annotations[wholeOnlyKey] != nil && name == "" {
			name = f.Name
		}
	})
	return name
}

// KnownTo parts the flags among the arguments of a command into those that another command has, too, and the others.
func KnownTo(other string, args []string) (known, others []string) {
	cmd, _, err := (&app{}).root().Find([]string{other})
	eachArgument(args, func(f *pflag.Flag, texts []string) {
		switch {
		case f == nil: // the command, or a source
		case err == nil && cmd.Flag(f.Name) != nil:
			known = append(known, texts...)
		default:
			others = append(others, texts...)
		}
	})
	return known, others
}
