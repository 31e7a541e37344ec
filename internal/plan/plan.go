// Package plan has the plan that says how a source becomes a typed table: which
// rows are set aside, and for each column of the output its type and convention.
//
//	p := profile.Plan() // drafted from what the columns hold
//	p.Columns[4].Convention.Type = value.Decimal
package plan

import (
	"junvo/internal/reading"
	"junvo/internal/table"
)

// Plan says how a source becomes a typed table.
type Plan struct {
	BlankWords []string // words that stand for blank in every column
	SetAside   [reading.NumRowKinds]bool
	Columns    []Column // in the order of the output
}

// Column is one column of the output.
type Column struct {
	Name       string
	From       int // the column of the source, from 0
	Convention reading.Convention
	Counts     []reading.Count // what the column was seen to hold
	Why        string          // why it has this type
	// Undecided says that the column stays text because its cells have no one type,
	// not because text is what they are.
	Undecided bool
}

// Fields returns the columns of the output.
func (p *Plan) Fields() []table.Field {
	fields := make([]table.Field, len(p.Columns))
	for i, c := range p.Columns {
		fields[i] = table.Field{Name: c.Name, Type: c.Convention.Type}
	}
	return fields
}
