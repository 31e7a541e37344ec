package cli

import (
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/show"
	"junvo/internal/step"
	"junvo/internal/table/input"
	"junvo/internal/totals"
	"junvo/internal/value"
)

// A shell is told what may stand for a value: columns of the source that stands before, types, steps, formats and other words.
// Only the beginning of the source is read for that, and what can't be read has no columns.

// flagValues are the values of flags that have a few.
var flagValues = map[string][]string{
	"format": words(show.Formats), "source-format": input.Formats, "color": {"auto", "always", "never"}, "decimal-mark": {".", ","},
	"date-order": {"dmy", "mdy", "ymd"}, "delimiter": {"tab", "spaces", ",", ";", "|"}, "quote": {"none"}, "escape": {"double", "backslash"},
	"ddl": show.Dialects, "sort": sortNames, "encoding": {"utf-8", "utf-16", "windows-1252", "iso-8859-1"},
}

// columnsOf are flags whose values are columns: how what is written of one begins what follows it.
var columnsOf = map[string]string{
	"column": "", "only": ",", "leave-out": ",", "order-by": ",", "private": "", "from": ",", "turn": ",", "by": "", "across": "", "rename": "=",
	stepFlag: ": ", splitFlag: `: {at: " "} => `, "as": "=",
}

func words[T ~string](list []T) (texts []string) {
	for _, w := range list {
		texts = append(texts, string(w))
	}
	return texts
}

// completions tells the shell of the values of a command's flags.
func (a *app) completions(cmd *cobra.Command) {
	set := func(name string, f func(args []string, typed string) ([]string, cobra.ShellCompDirective)) {
		if flag := cmd.Flags().Lookup(name); flag != nil {
			_ = cmd.RegisterFlagCompletionFunc(name, func(_ *cobra.Command, args []string, typed string) ([]string, cobra.ShellCompDirective) {
				values, directive := f(args, typed)
				return beginning(values, typed), directive
			}) // a flag has one
		}
	}
	for name, values := range flagValues {
		set(name, func([]string, string) ([]string, cobra.ShellCompDirective) {
			return values, cobra.ShellCompDirectiveNoFileComp
		})
	}
	for name, after := range columnsOf {
		if cmd.Flags().Lookup("sort") != nil && name == "only" { // there it says which kinds of columns are shown
			set(name, func([]string, string) ([]string, cobra.ShellCompDirective) {
				return onlyNames, cobra.ShellCompDirectiveNoFileComp
			})
			continue
		}
		set(name, func(args []string, typed string) ([]string, cobra.ShellCompDirective) {
			return a.complete(name, after, args, typed)
		})
	}
	for _, e := range totals.Catalogue {
		set(e.Name, func(args []string, typed string) ([]string, cobra.ShellCompDirective) {
			return a.complete(e.Name, "", args, typed)
		})
	}
	for _, below := range cmd.Commands() {
		a.completions(below)
	}
}

// complete completes a value that names columns.
func (a *app) complete(flag, after string, args []string, typed string) ([]string, cobra.ShellCompDirective) {
	columns := a.columnsFor(args)
	switch {
	case flag == "as" && strings.Contains(typed, "="):
		name, _, _ := cutLast(typed, "=")
		return behind(name+"=", value.TypeNames()), cobra.ShellCompDirectiveNoFileComp
	case flag == stepFlag && strings.Contains(typed, ":"):
		name, _, _ := strings.Cut(typed, ":")
		return behind(name+": ", step.Names()), cobra.ShellCompDirectiveNoFileComp | cobra.ShellCompDirectiveNoSpace
	case after == ",":
		before := ""
		if i := strings.LastIndexByte(typed, ','); i >= 0 {
			before = typed[:i+1]
		}
		if sign, ok := strings.CutPrefix(typed[len(before):], "-"); ok && flag == "order-by" {
			before = typed[:len(typed)-len(sign)]
		}
		taken := strings.Split(before, ",")
		columns = slices.DeleteFunc(columns, func(c string) bool { return slices.Contains(taken, c) })
		return behind(before, columns), cobra.ShellCompDirectiveNoFileComp | cobra.ShellCompDirectiveNoSpace
	case after != "":
		for i := range columns {
			columns[i] += after
		}
		return columns, cobra.ShellCompDirectiveNoFileComp | cobra.ShellCompDirectiveNoSpace
	}
	return columns, cobra.ShellCompDirectiveNoFileComp
}

// beginning returns the texts that begin with another, in capital letters or small ones.
func beginning(texts []string, with string) (all []string) {
	for _, t := range texts {
		if len(t) >= len(with) && strings.EqualFold(t[:len(with)], with) {
			all = append(all, t)
		}
	}
	return all
}

// behind puts a text before each of some others.
func behind(before string, texts []string) (all []string) {
	for _, t := range texts {
		all = append(all, before+t)
	}
	return all
}

// columnsFor returns the columns of the source that is named, if that is a file: what can be read once only, or asks a server, is
// left alone.
func (a *app) columnsFor(args []string) (columns []string) {
	if len(args) == 0 || args[0] == "-" || a.check() != nil {
		return nil
	}
	file, _ := input.Part(args[0])
	if info, err := os.Stat(file); err != nil || !info.Mode().IsRegular() || a.source.Query != "" {
		return nil
	}
	src, err := a.open(args[:1], nil)
	if err != nil {
		return nil
	}
	defer src.Close()
	return slices.Clone(src.Info().Names)
}
