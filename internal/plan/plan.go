// Package plan has the plan that says how a source becomes a typed table: how it is
// read, which rows are set aside, and for each column of the output the steps that its
// text takes, its type and convention, and what its values must be.
//
//	p, err := plan.Load(text)  // a file that a person has written or reviewed
//	p := draft.Plan(...)       // drafted from what the columns hold
//	text, err := p.Write()     // with the evidence as comments
//	bound, err := p.Bind(names) // ready to run over a source with columns of these names
//
// A plan names the columns of its source. Bind finds them in one.
package plan

import (
	"fmt"
	"slices"
	"strings"

	"junvo/internal/reading"
	"junvo/internal/rowkind"
	"junvo/internal/step"
	"junvo/internal/table"
)

// Version is the version of the form of plans that this program reads and writes.
const Version = 1

// Plan says how a source becomes a typed table.
type Plan struct {
	Source      Source
	BlankWords  []string // words that stand for blank in every column
	SetAside    [rowkind.NumKinds]bool
	Keep, Drop  *Expression // conditions on rows; nil for none
	Turn        []string    // columns of the source that become rows, before anything else is done; none for none
	TurnInto    [2]string   // the columns that have their names and their cells
	OrderBy     []OrderKey  // of the rows of the output; none for that of the source
	Lists       []List      // of texts and what stands in their place, which steps and expressions name
	HeadingInto string      // the column that section headings become; "" for none
	Others      bool        // columns of the source that no column is made of are written, as text
	Columns     []Column    // in the order of the output
	Seen        *Record     // nil where nothing is recorded
	Comment     []string    // what was found of the file, for whoever reads the plan; not read back
	Order       []int       // in which to make them: each after those that it is made of
	Earlier     []Earlier   // what expressions ask of the rows before
}

// OrderKey is a column that the rows are ordered by.
type OrderKey struct {
	Column     string
	At         int // where it stands in the output
	Descending bool
}

// Source says how a delimited source is read; zero values leave it to detection.
type Source struct {
	Encoding, Delimiter, Quote, Escape string
	HeaderRow                          int
	NoHeader                           bool
	Comment                            string // what lines begin with that are comments
	Widths                             []int  // of columns of fixed width; nil where cells are delimited
}

// Column is one column of the output.
type Column struct {
	Name       string
	Source     string // the name of the source's column
	Steps      step.Chain
	Split      *Split // where the column is a piece
	Join       *Join  // where the column is made of others; then it has no source
	Compute    *Expression
	Heading    bool // where the column is the section heading above a row; then it has no source
	Convention reading.Convention
	Terms      reading.Terms // the convention in words
	OnFailure  OnFailure
	Private    bool // its values appear in no report
	Must       Must
	Helper     bool    // worked out, and not written
	Emptied    Emptied // what becomes of a cell of which the steps leave nothing
	// Undecided says that the column stays text because its cells have no one type,
	// not because text is what they are.
	Undecided bool
	Untyped   bool     // the type is that of the expression; nothing says it
	Comment   []string // evidence, for whoever reads the plan; not read back
	Offer     []Column // what may be made of it, besides: written as comments, and not read back
	Examples  []Example

	hidden bool // private, or made of one that is
	stage  int  // how many answers from rows before it takes to make it
	added  bool // no column of the plan's own: a column of the source that a join uses, or one that is kept
}

// OnFailure is what becomes of a cell that fails.
type OnFailure uint8

// The ways to go on after a failure.
const (
	FailBlank OnFailure = iota // the cell is blank in the output
	FailKeep                   // the cell keeps its text
	FailStop                   // the conversion stops and writes nothing
	FailAside                  // the whole row is set aside
)

var failureNames = []string{"blank", "keep-text", "stop", "set-aside-row"}

func (f OnFailure) String() string { return failureNames[f] }

// Emptied is what becomes of a cell that held something and of which the steps leave nothing.
type Emptied uint8

// The ways to go on with such a cell.
const (
	EmptiedBlank Emptied = iota // it is blank
	EmptiedFails                // it fails
)

var emptiedNames = []string{"blank", "fail"}

func (e Emptied) String() string { return emptiedNames[e] }

// Hides reports whether a private column of the plan is made of this one of the source.
func (p *Plan) Hides(source string) bool {
	for i := range p.Columns {
		if c := &p.Columns[i]; c.Private && !c.Made() && c.Source == source {
			return true
		}
	}
	return false
}

// Hiding returns all the names that Hides holds for, for who asks about every column.
func (p *Plan) Hiding() map[string]bool {
	sources := map[string]bool{}
	for i := range p.Columns {
		if c := &p.Columns[i]; c.Private && !c.Made() {
			sources[c.Source] = true
		}
	}
	return sources
}

// HidesOutput reports whether a column of the output is private, or made of one that is.
func (p *Plan) HidesOutput(name string) bool {
	for i := range p.Columns {
		if c := &p.Columns[i]; c.Name == name {
			return c.Hidden()
		}
	}
	return false
}

// Fields returns the columns of the output.
func (p *Plan) Fields() []table.Field {
	var fields []table.Field
	for _, c := range p.Outputs() {
		fields = append(fields, table.Field{Name: c.Name, Type: c.Convention.Type, Offsets: c.Convention.Offsets})
	}
	return fields
}

// Outputs returns the columns that are written.
func (p *Plan) Outputs() (columns []*Column) {
	for i := range p.Columns {
		if c := &p.Columns[i]; !c.Helper {
			columns = append(columns, c)
		}
	}
	return columns
}

// HelperPlace returns where a helper stands among the helpers of the plan.
func (p *Plan) HelperPlace(column int) (place int) {
	for i := range column {
		if p.Columns[i].Helper {
			place++
		}
	}
	return place
}

// Place returns where a column of the plan stands in the output, -1 for a helper.
func (p *Plan) Place(column int) (place int) {
	if p.Columns[column].Helper {
		return -1
	}
	for i := range column {
		if !p.Columns[i].Helper {
			place++
		}
	}
	return place
}

// CrossRow says what the plan asks of a row that depends on other rows, which stand in other parts where a table is
// converted in parts; "" where each row is converted by itself.
func (p *Plan) CrossRow() string {
	switch {
	case len(p.OrderBy) > 0:
		return "rows: order-by"
	case p.HeadingInto != "":
		return "rows: section-heading-into"
	case p.Turn != nil:
		return "rows: turn"
	case len(p.Earlier) > 0:
		return "previous(x) or sumSoFar(x) in an expression"
	case p.AnyUnique():
		return "must: unique"
	}
	for i := range p.Columns {
		if filling, _ := p.Columns[i].Steps.Fill(); filling.Above {
			return "fill: from above"
		}
	}
	return ""
}

// AnyUnique reports whether a column must be unique.
func (p *Plan) AnyUnique() bool {
	return slices.ContainsFunc(p.Columns, func(c Column) bool { return c.Must.Unique })
}

// UsableName makes a name of a column usable without quotes in other programs: lower
// case, with underscores in place of all but letters and digits.
func UsableName(name string) string {
	var b strings.Builder
	gap := false
	for _, r := range strings.ToLower(name) {
		if letterOrDigit(r) {
			if gap && b.Len() > 0 {
				b.WriteByte('_')
			}
			b.WriteRune(r)
			gap = false
		} else {
			gap = true
		}
	}
	out := b.String()
	if out == "" {
		return "column"
	}
	if out[0] >= '0' && out[0] <= '9' {
		out = "_" + out
	}
	return out
}

// UniqueName adds a number to a name that is taken.
func UniqueName(name string, taken map[string]bool) string {
	out := name
	for n := 2; taken[out]; n++ {
		out = fmt.Sprintf("%s_%d", name, n)
	}
	return out
}
