package convert

import (
	"fmt"
	"slices"

	"junvo/internal/rowkind"
	"junvo/internal/value"
)

// Ledger is the balance of a conversion: what became of every row and every cell.
type Ledger struct {
	RowsIn   int64
	Above    int64 // lines above the header; they are not rows, and are set aside
	Turned   int64 // rows that were made of these, where columns were turned into rows; 0 for none
	RowsOut  int64
	SetAside [rowkind.NumKinds]int64
	Columns  []Account
	// FailedAside is how many cells failed in rows that were set aside for them.
	FailedAside int64
	Totals      Totals // of the source, that were set aside
	// Doubts is what whoever has looked at the source found that changes what its values mean. A conversion adds which
	// condition can't be worked out.
	Doubts []Doubt
}

// Undecided is the doubt about a column that the plan leaves undecided: its cells are kept as text.
const Undecided = "undecided"

// Doubt is a finding that changes what values mean, or which rows are data.
type Doubt struct {
	Column string `json:"column"` // "" for the file
	Name   string `json:"name"`
	Count  int64  `json:"count"`
	Say    string `json:"say"`
}

// Account is the balance of one column. Cells are those of the rows that went out.
type Account struct {
	Name       string
	Type       value.Type
	Helper     bool   // worked out and not written
	Made       bool   // of other columns
	Convention string // in words
	// DecimalMark and DateOrder are empty where the column has no use for them.
	DecimalMark string
	DateOrder   string

	Cells     int64
	Right     int64 // already in canonical form
	Converted int64
	Blank     int64
	Emptied   int64 // held something of which the steps have left nothing
	Kept      int64 // left as text because no type could be decided
	Fixed     int64 // failed, and given a value by a person's answer
	Failed    int64
	Steps     []StepCount
	Sums      Sums          // of numbers
	Reasons   []ReasonCount // why cells failed, the most frequent first; those of rows set aside are among them
}

// StepCount is how many cells a step of the plan has changed.
type StepCount struct {
	Name    string
	Changed int64
}

// AsideTotal returns how many rows were set aside.
func (l *Ledger) AsideTotal() (n int64) {
	for _, k := range l.SetAside {
		n += k
	}
	return n
}

// Failed returns how many cells failed, those of rows that were set aside for it included.
func (l *Ledger) Failed() (n int64) {
	n = l.FailedAside
	for _, c := range l.Columns {
		n += c.Failed
	}
	return n
}

// Troubles returns how many cells failed, and rows for which a condition can't be worked out.
func (l *Ledger) Troubles() int64 { return l.Failed() + l.SetAside[rowkind.Unclear] }

// Total returns the balance of all columns together.
func (l *Ledger) Total() (sum Account) {
	for i := range l.Columns {
		sum.addCells(&l.Columns[i])
	}
	return sum
}

// Check returns an error that names the first sum that does not come out: rows in
// are rows out and rows set aside; the cells of a column are those already right,
// converted, blank, emptied, kept, fixed and failed.
func (l *Ledger) Check() error {
	in := l.RowsIn
	if l.Turned > 0 {
		in = l.Turned
	}
	if in != l.RowsOut+l.AsideTotal() {
		return fmt.Errorf("the ledger does not balance: %d rows came in, %d went out and %d were set aside", in,
			l.RowsOut, l.AsideTotal())
	}
	for _, c := range l.Columns {
		if sum := c.Right + c.Converted + c.Blank + c.Emptied + c.Kept + c.Fixed + c.Failed; c.Cells != sum ||
			c.Cells != l.RowsOut {
			return fmt.Errorf("the ledger does not balance: column %q has %d cells in %d rows, and %d are accounted for",
				c.Name, c.Cells, l.RowsOut, sum)
		}
	}
	return nil
}

// Merge adds the ledger of another source that was converted by the same plan.
func (l *Ledger) Merge(o *Ledger) {
	l.RowsIn += o.RowsIn
	l.Above += o.Above
	for _, d := range o.Doubts {
		i := slices.IndexFunc(l.Doubts, func(have Doubt) bool { return have.Column == d.Column && have.Name == d.Name })
		if i < 0 {
			l.Doubts = append(l.Doubts, d)
		} else {
			l.Doubts[i].Count += d.Count
		}
	}
	l.Turned += o.Turned
	l.RowsOut += o.RowsOut
	l.FailedAside += o.FailedAside
	for k, n := range o.SetAside {
		l.SetAside[k] += n
	}
	l.Totals.merge(&o.Totals)
	for _, c := range o.Columns {
		// Columns that the plan does not name may be others in each source.
		i := slices.IndexFunc(l.Columns, func(a Account) bool { return a.Name == c.Name })
		if i < 0 {
			c.Steps, c.Reasons = slices.Clone(c.Steps), slices.Clone(c.Reasons)
			l.Columns = append(l.Columns, c)
			continue
		}
		l.Columns[i].add(&c)
		l.Columns[i].Sums.merge(c.Sums)
	}
}

// count adds what has become of some cells.
func (a *Account) count(cells *[numOutcomes]int64) {
	a.Right += cells[right]
	a.Converted += cells[converted]
	a.Blank += cells[blank]
	a.Emptied += cells[emptied]
	a.Kept += cells[kept]
	a.Fixed += cells[fixed]
	a.Failed += cells[failed]
}

// addCells adds how many cells there are of each sort.
func (a *Account) addCells(b *Account) {
	a.Cells += b.Cells
	a.Right += b.Right
	a.Converted += b.Converted
	a.Blank += b.Blank
	a.Emptied += b.Emptied
	a.Kept += b.Kept
	a.Fixed += b.Fixed
	a.Failed += b.Failed
}

// add adds what a block has contributed.
func (a *Account) add(b *Account) {
	a.addCells(b)
	for i, s := range b.Steps {
		a.Steps[i].Changed += s.Changed
	}
	a.addReasons(b.Reasons)
}
