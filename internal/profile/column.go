package profile

import (
	"junvo/internal/reading"
	"junvo/internal/table"
	"junvo/internal/value"
)

// Column collects what the cells of one column show. It serves one goroutine.
type Column struct {
	Cells    int64
	Stored   [value.NumStored]int64 // cells by how the source stores them
	Tallies  []Tally
	Strays   map[strayKey]*strayCount
	distinct distinct
	lengths  lengths // of texts
	// words are the hashes and forms of texts that are blank if the column decides so.
	words map[uint64]uint64

	detail  *detail   // where the column is opened
	shapes  *outlines // where the plan is to remember them
	skipped bool      // its cells are not looked at
	reader  *reading.Reader
	learned *reading.Outlines // of its cells
	short   shortColumn
	crowded bool
	tallies int      // the bound
	private bool     // the values are forgotten
	last    int      // the tally of the cell before that is not empty
	empty   int      // the tally of empty cells and 1, where it wants no more samples; else 0
	era     uint32   // of the tallies: it is another one when they are counted together
	touched []*alike // that have counted what is not in the tallies yet
	recent  table.Recent[since]
}

// since is how many cells have come since a text was read, and are not in its tally yet: equal cells are
// read once.
type since uint64

// newColumn returns an empty column, one of that many, whose cells the reader reads,
// which the columns of one goroutine share.
func newColumn(reader *reading.Reader, columns int) *Column {
	return &Column{
		recent: table.NewRecent[since](columns), tallies: talliesFor(columns),
		distinct: distinct{columns: columns, exact: exactFor(columns)}, reader: reader, learned: reading.NewOutlines(columns),
		Strays: map[strayKey]*strayCount{}, words: map[uint64]uint64{}, era: 1,
	}
}

// shortColumn knows which kinds of short numbers have tallies that want no more samples.
type shortColumn struct {
	ready uint64 // a bit for each reading.ShortKind
	tally [reading.NumShorts]int32
}

// tile is how many rows are collected column by column before the next: as many
// as the processor's nearest memory holds.
const tile = 128
