package records_test

import (
	"fmt"
	"io"
	"testing"

	"github.com/stretchr/testify/assert"

	"junvo/internal/table"
	"junvo/internal/table/records"
	"junvo/internal/value"
)

// given are records that are given.
type given struct {
	all []records.Record
	end error
}

func (g *given) Read() (*records.Record, error) {
	if len(g.all) == 0 {
		return nil, g.end
	}
	r := g.all[0]
	g.all = g.all[1:]
	return &r, nil
}

func (*given) Close() error { return nil }

func ExampleOpen() {
	all := []records.Record{
		{Names: []string{"no"}, Cells: []records.Cell{{Text: "0042"}}, Line: 3},
		{Names: []string{"kg", "no"}, Cells: []records.Cell{{Text: "7.5", Kind: value.StoredNumber}, {Text: "0043"}}, Line: 9},
	}
	src, err := records.Open(func() (records.Reader, error) { return &given{all, io.EOF}, nil }, table.Info{Name: "a.txt"})
	if err != nil {
		panic(err)
	}
	b := &table.Block{}
	if err := src.Next(b); err != nil {
		panic(err)
	}
	fmt.Println(src.Info().Names, b.RowCells(0), b.RowCells(1), "line", src.Info().Files[0].FirstLine+b.Line(1))
	// Output: [no kg] [0042] [0043 7.5] line 9
}

// A record that is wrong, no record, and names without end are errors.
func TestWhatIsWrong(t *testing.T) {
	open := func(g given) error {
		_, err := records.Open(func() (records.Reader, error) { c := g; return &c, nil }, table.Info{Name: "a"})
		return err
	}
	assert.ErrorIs(t, open(given{nil, io.EOF}), records.ErrNoRows)
	assert.ErrorIs(t, open(given{nil, io.ErrUnexpectedEOF}), io.ErrUnexpectedEOF)
	var many records.Record
	for i := range 10_001 {
		many.Add(fmt.Sprint(i), records.Cell{})
	}
	assert.ErrorContains(t, open(given{[]records.Record{many}, io.EOF}), "more than 10000 different keys")
	twice := records.Record{Names: []string{"a", "a"}, Cells: []records.Cell{{Text: "1"}, {Text: "2"}}}
	src, err := records.Open(func() (records.Reader, error) { return &given{[]records.Record{twice}, io.EOF}, nil }, table.Info{Name: "a"})
	assert.NoError(t, err)
	assert.Equal(t, "1 keys stand twice in one record; where their values differ, the cell fails", src.Info().Notes[0].Say)
}
