package show

import (
	"fmt"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/expression"
	"junvo/internal/finding"
	"junvo/internal/plan"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/value"
)

// TypePage describes the types.
func TypePage() string {
	var b strings.Builder
	b.WriteString("The types that a column can have:\n")
	for _, t := range value.Types {
		b.WriteString("\n" + typeText(&t))
	}
	return b.String()
}

func typeText(t *value.TypeEntry) string {
	return fmt.Sprintf("  %s\n      %s\n      Written as %s: %s.\n", t.Name, t.Say, t.Written, t.Example)
}

// ReasonPage describes the reasons.
func ReasonPage() string {
	var b strings.Builder
	b.WriteString("Why a cell could not become its column's type, and what would mend it:\n")
	for _, r := range reason.Catalogue[1:] {
		b.WriteString("\n" + reasonText(&r))
	}
	b.WriteString("\nWhy a row is set aside:\n")
	for _, k := range rowkind.Catalogue[1:] {
		b.WriteString("\n" + entryText(k.Name, k.Say))
	}
	return b.String()
}

func reasonText(r *reason.Entry) string { return entryText(r.Name, r.Say) + "      " + r.Hint + "\n" }

// FindingPage describes the findings.
func FindingPage() string {
	var b strings.Builder
	b.WriteString("What a profile can find, the more important first:\n")
	for _, f := range finding.Catalogue[1:] {
		b.WriteString("\n" + findingText(&f))
	}
	return b.String()
}

func findingText(f *finding.Entry) string {
	return fmt.Sprintf("  %s (%s)\n      %s\n      %s\n", f.Name, f.Of, f.Say, f.Do)
}

// StepPage describes the steps of plans.
func StepPage() string {
	var b strings.Builder
	b.WriteString("What a plan may do to the text of a cell before it is read:\n")
	for _, s := range step.Catalogue {
		b.WriteString("\n" + stepPage(&s))
	}
	return b.String()
}

func stepPage(s *step.Entry) string {
	var b strings.Builder
	b.WriteString(entryText(s.Name, s.Say))
	for _, a := range s.Args {
		fmt.Fprintf(&b, "      - %s\n", a)
	}
	for _, e := range s.Examples {
		fmt.Fprintf(&b, "      %s   makes «%s» of «%s»\n", e.Plan, Visible(e.Out), Visible(e.In))
	}
	return b.String()
}

// FunctionPage describes the functions of expressions.
func FunctionPage() string {
	var b strings.Builder
	b.WriteString("Functions of expressions, beside + - * / % < <= > >= == != && || ! and ?: of the language. A " +
		"function of a value is a method of it, too: year(x) is x.year().\n")
	for _, f := range expression.Functions {
		b.WriteString("\n" + functionText(&f))
	}
	return b.String()
}

func functionText(f *expression.Function) string {
	return entryText(f.Name, f.Say) + fmt.Sprintf("      %s gives %s\n", f.Example, f.Gives)
}

func planKeyText(k *plan.KeyEntry) string {
	return entryText(k.Name, k.Say) + "      " + k.Example + "\n"
}

// PlanPage describes the form of plans.
func PlanPage() string {
	var b strings.Builder
	b.WriteString("A plan is a YAML file that says how a source becomes a typed table. `junvo draft` makes one.\n")
	for _, s := range plan.Keys {
		fmt.Fprintf(&b, "\n%s\n", s.Where)
		for _, k := range s.Keys {
			b.WriteString("\n" + planKeyText(&k))
		}
	}
	b.WriteString("\nWhat has drifted, as `junvo check` and `junvo profile --against` find it:\n")
	for _, d := range draft.Catalogue[1:] {
		b.WriteString("\n" + entryText(d.Name, d.Say))
	}
	return b.String()
}

// WrittenList says which files were written.
func WrittenList(w Written, l *convert.Ledger) string {
	var b strings.Builder
	output := Visible(w.Output)
	if output == "-" {
		output = "standard output"
	}
	fmt.Fprintf(&b, "wrote: %s (%s)\n", output, Plural(l.RowsOut, "row"))
	if w.Failures != "" {
		fmt.Fprintf(&b, "       %s (%s)\n", Visible(w.Failures), Plural(l.Failed(), "failure"))
	}
	if w.SetAside != "" {
		fmt.Fprintf(&b, "       %s (rows set aside and lines above the header)\n", Visible(w.SetAside))
	}
	for _, name := range w.Described {
		fmt.Fprintf(&b, "       %s (describes the output)\n", Visible(name))
	}
	if w.Plan != "" {
		fmt.Fprintf(&b, "       %s (the plan: what was decided, to review and to run again)\n", Visible(w.Plan))
	}
	if w.Report != "" {
		fmt.Fprintf(&b, "       %s (the report, a page for a browser)\n", Visible(w.Report))
	}
	switch {
	case w.Formulas > 0 && w.Guarded:
		fmt.Fprintf(&b, "formula-like: %s guarded by an apostrophe\n", Plural(w.Formulas, "cell"))
	case w.Formulas > 0:
		fmt.Fprintf(&b, "formula-like: a spreadsheet would run %s; --guard-formulas puts an apostrophe before each\n",
			Plural(w.Formulas, "cell"))
	}
	return b.String()
}
