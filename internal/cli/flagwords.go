package cli

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"junvo/internal/table"
)

// otherFlags are words that people use for flags, with those flags.
var otherFlags = map[string]string{
	"group-by": "by", "groupby": "by", "group": "by", "filter": "keep-if", "where": "keep-if", "select": "only", "columns": "only", "cols": "only",
	"fields": "only", "keep": "only", "drop": "leave-out", "exclude": "leave-out", "remove": "leave-out", "without": "leave-out", "skip": "leave-out",
	"sort": "order-by", "sort-by": "order-by", "order": "order-by", "orderby": "order-by", "out": "output", "output-file": "output", "to": "output",
	"sep": "delimiter", "separator": "delimiter", "delim": "delimiter", "charset": "encoding", "codepage": "encoding", "header": "header-row",
	"headers": "header-row", "skip-rows": "header-row", "type": "as", "types": "as", "cast": "as", "dtype": "as", "na": "blank-word", "null": "blank-word",
	"nulls": "blank-word", "na-values": "blank-word", "missing": "blank-word", "decimal": "decimal-mark", "decimal-separator": "decimal-mark",
	"decimal-comma": "decimal-mark", "date-format": "date-order", "dayfirst": "date-order", "dates": "date-order", "threads": "workers", "jobs": "workers",
	"parallel": "workers", "cores": "workers", "force": "replace", "overwrite": "replace", "melt": "turn", "unpivot": "turn", "pivot": "across",
	"average": "mean", "avg": "mean", "total": "sum", "limit": "rows", "head": "rows", "sample": "rows", "add": "compute", "expression": "compute",
	"formula": "compute", "let": "compute", "mutate": "compute", "set": "compute", "concat": "join", "merge": "join", "transform": "step", "clean": "step",
	"trim": "step", "apply": "step", "hide": "private", "redact": "private", "mask": "private", "corrections": "fixes", "answers": "fixes",
	"errors": "failures", "rejects": "failures", "log": "ledger", "html": "report", "verbose": "verbose", "json": "format", "csv": "format", "quiet": "format",
	"schema": "ddl", "sql": "query", "min": "smallest", "max": "largest", "unique": "distinct", "nunique": "distinct", "tolerance": "fail-over",
	"threshold": "fit", "width": "widths", "comment-char": "comment", "escape-char": "escape", "quote-char": "quote", "colour": "color", "input-format": "source-format",
}

// wrongFlag says what is wrong with the flags of a command, and what may be meant.
func wrongFlag(cmd *cobra.Command, err error) error {
	var unknown *pflag.NotExistError
	var lacks *pflag.ValueRequiredError
	var invalid *pflag.InvalidValueError
	switch {
	case errors.As(err, &invalid) && invalid.GetFlag().NoOptDefVal != "" && errors.Is(err, strconv.ErrSyntax):
		return usage("--%s takes no value, or true or false, not %q", invalid.GetFlag().Name, invalid.GetValue())
	case errors.As(err, &invalid) && invalid.GetFlag().Value.Type() == "N,N" && errors.Is(err, strconv.ErrSyntax):
		return usage("--%s must be whole numbers with commas between them, as in 6,20,10, not %q", invalid.GetFlag().Name, invalid.GetValue())
	case errors.As(err, &invalid) && errors.Is(err, strconv.ErrSyntax):
		return usage("--%s must be a whole number such as 17, not %q", invalid.GetFlag().Name, invalid.GetValue())
	case errors.As(err, &invalid):
		return usage("--%s %q: %w", invalid.GetFlag().Name, invalid.GetValue(), invalid.Unwrap())
	case errors.As(err, &lacks):
		f := lacks.GetFlag()
		name, _ := pflag.UnquoteUsage(f)
		return usage("--%s needs a value, as in --%[1]s %s", f.Name, name)
	case errors.As(err, &unknown) && unknown.GetSpecifiedShortnames() == "":
		return usage("unknown flag: --%s%s", unknown.GetSpecifiedName(), meantFlag(cmd, unknown.GetSpecifiedName()))
	}
	return usage("%w; `%s --help` lists the flags", err, cmd.CommandPath())
}

// meantFlag says which flag may be meant by one that a command does not have.
func meantFlag(cmd *cobra.Command, name string) string {
	if name == "sheet" || name == "table" || name == "tab" {
		return `. Name it after #, as in "book.xlsx#Sheet"`
	}
	var names []string
	cmd.Flags().VisitAll(func(f *pflag.Flag) { names = append(names, f.Name) })
	meant := otherFlags[strings.ToLower(strings.ReplaceAll(name, "_", "-"))]
	if meant == "" {
		meant = table.Typo(name, names)
	}
	if meant == "" {
		meant = table.Nearest(name, names)
	}
	if meant == "" {
		meant = name
	}
	if slices.Contains(names, meant) {
		return fmt.Sprintf(". Did you mean --%s?", meant)
	}
	var have []string
	for _, other := range cmd.Root().Commands() {
		if other.Flag(meant) != nil {
			have = append(have, "`"+other.CommandPath()+"`")
		}
	}
	if len(have) > 0 {
		return fmt.Sprintf("; --%s belongs to %s", meant, table.Some(have))
	}
	return fmt.Sprintf("; `%s --help` lists the flags", cmd.CommandPath())
}
