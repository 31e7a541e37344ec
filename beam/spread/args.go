package spread

import (
	"slices"
	"strings"
)

// The arguments are those of a command of junvo, which reads them itself; here some are looked for.

// take takes a flag with a value out of the arguments; it may have a short name.
func take(args []string, name string, short ...string) (value string, rest []string) {
	for i := 0; i < len(args); i++ {
		a := args[i]
		switch {
		case a == "--"+name || len(short) > 0 && a == "-"+short[0]:
			if i+1 < len(args) {
				i++
				value = args[i]
			}
		case strings.HasPrefix(a, "--"+name+"="):
			value = a[len(name)+3:]
		case len(short) > 0 && strings.HasPrefix(a, "-"+short[0]) && !strings.HasPrefix(a, "--"):
			value = strings.TrimPrefix(a[2:], "=")
		default:
			rest = append(rest, a)
		}
	}
	return value, rest
}

// with puts flags behind the name of the command, since what stands behind -- is no flag.
func with(args []string, flags ...string) []string {
	return slices.Insert(slices.Clone(args), 1, flags...)
}

// formatOf returns how to print.
func formatOf(args []string) string {
	if format, _ := take(args, "format"); format != "" {
		return format
	}
	return "table"
}
