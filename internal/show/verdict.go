package show

import (
	"fmt"
	"strings"

	"junvo/internal/convert"
	"junvo/internal/draft"
	"junvo/internal/rowkind"
)

// Verdict says whether a source fits a plan.
type Verdict struct {
	Ledger *convert.Ledger // nil where a column is missing, so that the plan can't run
	Drift  []draft.Difference
	Failed int64
	Fits   bool
}

// Judge decides: a plan that can run, drift that does not matter, or none at all where strict says so, and no more
// failures than the share allows.
func (v *Verdict) Judge(allowed float64, strict bool) {
	var cells int64
	if v.Ledger != nil {
		for _, c := range v.Ledger.Columns {
			cells += c.Cells - c.Blank
		}
		v.Failed = v.Ledger.Failed()
	}
	v.Fits = v.Ledger != nil && v.Ledger.SetAside[rowkind.Unclear] == 0 && draft.Fits(v.Drift, v.Failed, cells, allowed, strict)
}

// VerdictText returns the verdict for a person.
func VerdictText(v *Verdict, f Format, page Page) string {
	var b strings.Builder
	if v.Ledger != nil {
		b.WriteString(ledgerTable(v.Ledger, f, page))
		if f == Table {
			b.WriteString("\n" + LedgerRows(v.Ledger) + LedgerTotals(v.Ledger, page) + ledgerDoubts(v.Ledger, page))
		}
	}
	if f != Table {
		return b.String()
	}
	for i, d := range v.Drift {
		if i == 0 && b.Len() > 0 {
			b.WriteByte('\n')
		}
		say := Visible(d.Say)
		if d.Column != "" {
			say = Visible(d.Column) + ": " + say
		}
		b.WriteString(page.entry(d.Kind.String(), say))
	}
	verdict := "the source fits the plan"
	if !v.Fits {
		verdict = "the source does not fit the plan"
	}
	fmt.Fprintf(&b, "\n%s: %s, drift in %s\n", verdict, Plural(v.Failed, "cell")+" failed",
		Plural(int64(len(v.Drift)), "point"))
	return strings.TrimLeft(b.String(), "\n")
}

// VerdictJSON returns the verdict for programs.
func VerdictJSON(v *Verdict) ([]byte, error) {
	doc := struct {
		Junvo  int                `json:"junvo"`
		Fits   bool               `json:"fits"`
		Failed int64              `json:"failed"`
		Drift  []draft.Difference `json:"drift"`
		Ledger *ledgerJSON        `json:"ledger"`
	}{1, v.Fits, v.Failed, list(v.Drift), nil}
	if v.Ledger != nil {
		l := ledgerDoc(v.Ledger, Written{})
		doc.Ledger = &l
	}
	return encode(doc)
}
