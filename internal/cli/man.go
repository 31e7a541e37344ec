package cli

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"junvo/internal/show"
)

// Manual pages are made of what the help of each command says, in the macros of man(7). The library that does so brings more
// code than all commands together.

func (a *app) man() *cobra.Command {
	return &cobra.Command{
		Use:   "man DIRECTORY",
		Short: "Write the manual pages of all commands and topics into a folder",
		Long: `Man writes a manual page for each command and topic, junvo.1, junvo-profile.1, junvo-steps.1
and so on, into a folder, which is made where it is not there. Pages of an earlier version are replaced;
other files of such a name are not.`,
		Example: `  junvo man ~/.local/share/man/man1`,
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) != 1 {
				return usage("into which folder? Name one, as in `junvo man man1`")
			}
			return nil
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			n, err := WriteManual(args[0], version(), time.Time{})
			if err != nil {
				return err
			}
			return a.print(fmt.Sprintf("wrote: %s (%d pages)\n", show.Visible(args[0]), n))
		},
	}
}

// pageMark begins a page, so that it is known for one of ours.
const pageMark = ".\\\" A manual page of junvo, made of its help.\n"

// WriteManual writes the pages of all commands into a folder, and returns how many they are. The zero time is left out.
func WriteManual(folder, version string, date time.Time) (int, error) {
	root := Commands()
	all := append([]*cobra.Command{root}, root.Commands()...)
	if err := os.MkdirAll(folder, 0o777); err != nil {
		return 0, outputError(err)
	}
	pages := map[string][]byte{}
	for _, cmd := range all {
		if cmd.IsAvailableCommand() || cmd == root {
			pages[strings.ReplaceAll(cmd.CommandPath(), " ", "-")] = manualPage(cmd, version, date)
		}
	}
	for _, t := range allTopics {
		pages[root.Name()+"-"+t.name] = topicPage(t.name, t.short, t.page(), version, date)
	}
	n := 0
	for _, name := range slices.Sorted(maps.Keys(pages)) {
		path := filepath.Join(folder, name+".1")
		switch free, err := replaceable(path, begins(pageMark)); {
		case err != nil:
			return n, err
		case !free:
			return n, usage("%s is there and is no manual page of an earlier run; move it away, or name another folder", path)
		}
		if err := writeWhole(path, pages[name]); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}

// pageBegins begins the page of a name.
func pageBegins(name, short, version string, date time.Time) string {
	day := ""
	if !date.IsZero() {
		day = date.Format(time.DateOnly)
	}
	return pageMark + fmt.Sprintf(".TH %s 1 \"%s\" \"junvo %s\" Junvo\n.SH NAME\n%s \\- %s\n", roff(strings.ToUpper(name)), day, roff(version),
		roff(name), roff(short))
}

// topicPage returns the page of a topic: what its help shows, as it is.
func topicPage(name, short, text, version string, date time.Time) []byte {
	return []byte(pageBegins("junvo-"+name, short, version, date) + ".SH DESCRIPTION\n" + asItIs(strings.Split(strings.TrimRight(text, "\n"), "\n")) +
		".SH SEE ALSO\n.BR junvo (1),\n" + roff("junvo help "+name) + "\n")
}

// manualPage returns the page of a command.
func manualPage(cmd *cobra.Command, version string, date time.Time) []byte {
	var b strings.Builder
	b.WriteString(pageBegins(strings.ReplaceAll(cmd.CommandPath(), " ", "-"), cmd.Short, version, date))
	fmt.Fprintf(&b, ".SH SYNOPSIS\n.B %s\n", roff(cmd.UseLine()))
	if cmd.HasAvailableSubCommands() {
		b.WriteString(".br\n.B " + roff(cmd.CommandPath()+" COMMAND") + "\n")
	}
	b.WriteString(".SH DESCRIPTION\n" + paragraphs(cmd.Long))
	if cmd.HasAvailableSubCommands() {
		b.WriteString(".SH COMMANDS\n")
		for _, sub := range cmd.Commands() {
			if sub.IsAvailableCommand() {
				fmt.Fprintf(&b, ".TP\n.B %s\n%s\n", roff(sub.Name()), roff(sub.Short))
			}
		}
	}
	headings, sets := flagGroupsOf(cmd)
	for i, set := range sets {
		options(&b, headings[i], set)
	}
	if cmd.Example != "" {
		b.WriteString(".SH EXAMPLES\n" + asItIs(strings.Split(cmd.Example, "\n")))
	}
	b.WriteString(".SH EXIT STATUS\n")
	for _, e := range exitCodes {
		fmt.Fprintf(&b, ".TP\n.B %d\n%s\n", e.code, roff(e.say))
	}
	b.WriteString(".SH SEE ALSO\n.BR junvo (1)")
	if cmd.HasParent() {
		b.WriteString(",\n" + roff("junvo help "+cmd.Name()))
	}
	b.WriteString("\n")
	return []byte(b.String())
}

// exitCodes are the exit codes, in words.
var exitCodes = []struct {
	code int
	say  string
}{
	{exitDone, "done, and nothing failed"},
	{exitFailures, "done, and there are failures, or a check found the file unfit"},
	{exitUsage, "the command line or the plan is wrong"},
	{exitSource, "the source can't be read"},
	{exitOutput, "the output can't be written"},
	{exitFault, "a fault of the program itself; nothing was written"},
	{exitInterrupted, "interrupted; nothing was written"},
}

// options writes flags and what they do.
func options(b *strings.Builder, heading string, flags *pflag.FlagSet) {
	if !flags.HasAvailableFlags() {
		return
	}
	b.WriteString(".SH " + strings.ToUpper(heading) + "\n")
	flags.VisitAll(func(f *pflag.Flag) {
		if f.Hidden {
			return
		}
		value, say := pflag.UnquoteUsage(f)
		long := "--" + f.Name
		if f.Shorthand != "" {
			long = "-" + f.Shorthand + ", " + long
		}
		fmt.Fprintf(b, ".TP\n\\fB%s\\fR", roff(long))
		if value != "" {
			fmt.Fprintf(b, " \\fI%s\\fR", roff(value))
		}
		if plain := strings.Trim(f.DefValue, "[]"); plain != "" && plain != "false" && plain != "0" && f.Name != "workers" &&
			!strings.Contains(say, "(default") {
			say += " (default: " + plain + ")"
		}
		b.WriteString("\n" + roff(say) + "\n")
	})
}

// paragraphs writes text: lines that are indented stay as they are, others are filled.
func paragraphs(text string) string {
	var b strings.Builder
	var kept []string
	end := func() {
		if len(kept) > 0 {
			b.WriteString(asItIs(kept))
			kept = nil
		}
	}
	for line := range strings.SplitSeq(text, "\n") {
		switch {
		case strings.HasPrefix(line, "  "):
			kept = append(kept, line)
			continue
		case line == "":
			end()
			b.WriteString(".PP\n")
			continue
		}
		end()
		b.WriteString(roff(line) + "\n")
	}
	end()
	return b.String()
}

// asItIs writes lines that are not filled.
func asItIs(lines []string) string {
	var b strings.Builder
	b.WriteString(".PP\n.nf\n.RS\n")
	for _, l := range lines {
		b.WriteString(roff(strings.TrimPrefix(l, "  ")) + "\n")
	}
	b.WriteString(".RE\n.fi\n")
	return b.String()
}

// roff escapes a line: a backslash and what begins a request are no more than characters, and a hyphen can be copied.
func roff(s string) string {
	s = strings.NewReplacer(`\`, `\e`, "-", `\-`, "\n", " ").Replace(s)
	if strings.HasPrefix(s, ".") || strings.HasPrefix(s, "'") {
		s = `\&` + s
	}
	return s
}
