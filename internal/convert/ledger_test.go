package convert

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/rowkind"
)

// A ledger in which any one sum is off by one does not pass.
func TestCheckFindsEverySum(t *testing.T) {
	balanced := func() *Ledger {
		l := &Ledger{RowsIn: 12, RowsOut: 10, Columns: []Account{
			{Name: "a", Cells: 10, Right: 1, Converted: 2, Blank: 3, Kept: 0, Failed: 4},
			{Name: "b", Cells: 10, Kept: 10},
		}}
		l.SetAside[rowkind.Blank] = 2
		return l
	}
	assert.NoError(t, balanced().Check())
	assert.EqualValues(t, 4, balanced().Failed())
	for name, spoil := range map[string]func(*Ledger){
		"rows in":   func(l *Ledger) { l.RowsIn++ },
		"rows out":  func(l *Ledger) { l.RowsOut-- },
		"set aside": func(l *Ledger) { l.SetAside[rowkind.Note]++ },
		"cells":     func(l *Ledger) { l.Columns[1].Cells-- },
		"right":     func(l *Ledger) { l.Columns[0].Right++ },
		"converted": func(l *Ledger) { l.Columns[0].Converted-- },
		"blank":     func(l *Ledger) { l.Columns[0].Blank++ },
		"kept":      func(l *Ledger) { l.Columns[1].Kept-- },
		"failed":    func(l *Ledger) { l.Columns[0].Failed++ },
		"lost row":  func(l *Ledger) { l.RowsOut--; l.SetAside[rowkind.Blank]++ },
	} {
		l := balanced()
		spoil(l)
		assert.ErrorContains(t, l.Check(), "does not balance", name)
	}
}
