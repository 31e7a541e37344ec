package show

import (
	"fmt"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/profile"
	"junvo/internal/reading"
	"junvo/internal/value"
)

// TypePage describes the types.
func TypePage() string {
	var b strings.Builder
	b.WriteString("The types that a column can have:\n")
	for _, t := range value.Types {
		fmt.Fprintf(&b, "\n  %s\n      %s\n      Written as %s: %s.\n", t.Name, t.Say, t.Written, t.Example)
	}
	return b.String()
}

// ReasonPage describes the reasons.
func ReasonPage() string {
	var b strings.Builder
	b.WriteString("Why a cell could not become its column's type, and what would mend it:\n")
	for _, r := range reading.Reasons[1:] {
		fmt.Fprintf(&b, "\n  %s\n      %s\n      %s\n", r.Name, r.Say, r.Hint)
	}
	b.WriteString("\nWhy a row is set aside:\n")
	for _, k := range reading.RowKinds[1:] {
		fmt.Fprintf(&b, "\n  %s\n      %s\n", k.Name, k.Say)
	}
	return b.String()
}

// FindingPage describes the findings.
func FindingPage() string {
	var b strings.Builder
	b.WriteString("What a profile can find, the more important first:\n")
	for _, f := range profile.Catalogue {
		fmt.Fprintf(&b, "\n  %s (%s)\n      %s\n      %s\n", f.Name, f.Of, f.Say, f.Do)
	}
	return b.String()
}

// WrittenList says which files were written.
func WrittenList(w Written, l *convert.Ledger) string {
	var b strings.Builder
	fmt.Fprintf(&b, "wrote: %s (%s)\n", Visible(w.Output), plural(l.RowsOut, "row"))
	if w.Failures != "" {
		fmt.Fprintf(&b, "       %s (%s)\n", Visible(w.Failures), plural(l.Failed(), "failure"))
	}
	if w.SetAside != "" {
		fmt.Fprintf(&b, "       %s (rows set aside and lines above the header)\n", Visible(w.SetAside))
	}
	return b.String()
}
