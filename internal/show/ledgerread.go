package show

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"junvo/internal/convert"
	"junvo/internal/reason"
	"junvo/internal/rowkind"
	"junvo/internal/value"
)

// ErrNoLedger is a file that is no ledger of this program.
var ErrNoLedger = errors.New("it is no ledger that junvo convert --ledger has written")

// ReadLedger reads what LedgerJSON has written.
func ReadLedger(text []byte) (*convert.Ledger, Written, error) {
	var doc ledgerJSON
	d := json.NewDecoder(bytes.NewReader(text))
	d.DisallowUnknownFields()
	if err := d.Decode(&doc); err != nil || doc.Junvo != 1 || doc.Columns == nil {
		return nil, Written{}, ErrNoLedger
	}
	l := &convert.Ledger{
		RowsIn: doc.Rows.In, Above: doc.Rows.Above, Turned: doc.Rows.Turned, Doubts: doc.Doubts, RowsOut: doc.Rows.Out, FailedAside: doc.Rows.Failed,
		Totals: convert.Totals{Rows: doc.Totals.Rows, Agree: doc.Totals.Agree, Open: doc.Totals.Open},
	}
	for _, e := range rowkind.Catalogue[1:] {
		l.SetAside[e.Kind] = doc.Rows.Reasons[e.Name]
	}
	for _, d := range doc.Totals.Differ {
		l.Totals.Differ = append(l.Totals.Differ, convert.TotalDiffer{
			File: d.File, Row: d.Row, Line: d.Line, Column: d.Column, Says: d.Says, AddsUp: told(d.AddsUp), Failed: d.Failed,
		})
	}
	for _, c := range doc.Columns {
		a, err := c.account()
		if err != nil {
			return nil, Written{}, err
		}
		l.Columns = append(l.Columns, a)
	}
	if err := l.Check(); err != nil {
		return nil, Written{}, fmt.Errorf("%w, as it was written or since: %w", ErrNoLedger, err)
	}
	return l, Written{Output: doc.Output, Formulas: doc.Formula.Cells, Guarded: doc.Formula.Guarded}, nil
}

// account returns the account that the JSON is of.
func (c *accountJSON) account() (convert.Account, error) {
	t, ok := value.ParseType(c.Type)
	if !ok {
		return convert.Account{}, ErrNoLedger
	}
	a := convert.Account{
		Name: c.Name, Type: t, Helper: c.Helper, Convention: c.Convention, DecimalMark: told(c.DecimalMark),
		DateOrder: told(c.DateOrder), Cells: c.Cells, Right: c.Right, Converted: c.Converted, Blank: c.Blank,
		Emptied: c.Emptied, Kept: c.Kept, Fixed: c.Fixed, Failed: c.Failed,
	}
	for _, s := range c.Steps {
		a.Steps = append(a.Steps, convert.StepCount{Name: s.Step, Changed: s.Changed})
	}
	if c.Sum != nil {
		a.Sums = convert.Sums{Before: told(c.Sum.Before), After: told(c.Sum.After)}
	}
	for _, r := range c.Reasons {
		at := slices.IndexFunc(reason.Catalogue[:], func(e reason.Entry) bool { return e.Name == r.Reason })
		if at < 0 {
			return a, ErrNoLedger
		}
		count := convert.ReasonCount{Reason: reason.Reason(at), Count: r.Count, More: r.More}
		for _, t := range r.Texts {
			count.Texts = append(count.Texts, convert.TextCount{Text: t.Text, Count: t.Count})
		}
		a.Reasons = append(a.Reasons, count)
	}
	return a, nil
}

// told returns what optional was made of.
func told(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// SamePlan returns an error where two ledgers are not of the same plan: columns of one name that are not made in the same way.
func SamePlan(a, b *convert.Ledger) error {
	for _, c := range b.Columns {
		i := slices.IndexFunc(a.Columns, func(o convert.Account) bool { return o.Name == c.Name })
		if i < 0 {
			continue
		}
		o := a.Columns[i]
		same := o.Type == c.Type && o.Convention == c.Convention &&
			slices.EqualFunc(o.Steps, c.Steps, func(x, y convert.StepCount) bool { return x.Name == y.Name })
		if !same {
			return fmt.Errorf("its column %q was converted by another plan", c.Name)
		}
	}
	return nil
}
